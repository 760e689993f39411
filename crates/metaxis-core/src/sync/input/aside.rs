//! Evidence that a person set aside.

use super::clip::DayClip;
use crate::sync::answer::EvidenceKind;

/// A piece of evidence of a clip that is to have no say. Clips are named as in the list the engine is given.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Aside {
    /// The clip.
    pub clip: usize,
    /// What kind of evidence.
    pub kind: EvidenceKind,
    /// The clip it was measured against, of sound.
    pub against: Option<usize>,
}

impl Aside {
    /// Whether it is what two clips heard of each other.
    pub(crate) fn is_between(&self, a: usize, b: usize) -> bool {
        self.kind == EvidenceKind::Waveform
            && self.against.is_some_and(|other| (self.clip, other) == (a, b) || (self.clip, other) == (b, a))
    }
}

/// The clips without the labels and marks that are set aside.
pub(crate) fn without<'a>(clips: &[DayClip<'a>], aside: &[Aside]) -> Vec<DayClip<'a>> {
    let mut clips = clips.to_vec();
    for Aside { clip, kind, .. } in aside {
        let Some(own) = clips.get_mut(*clip) else { continue };
        own.labels.retain(|label| label.kind != *kind);
        match kind {
            EvidenceKind::FileTimecode => own.time_reference_s = None,
            EvidenceKind::Slate => own.marks.clear(),
            EvidenceKind::AudioTimecode => own.against_box = None,
            EvidenceKind::Waveform | EvidenceKind::DeviceClock | EvidenceKind::Hand => {}
        }
    }
    clips
}
