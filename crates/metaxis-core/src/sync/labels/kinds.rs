//! The kinds of labels, and a clip's label of each.

use crate::sync::{
    answer::EvidenceKind,
    input::{DayClip, Label},
};

/// Kinds of labels, each a clock of its own, the most exact first.
pub(crate) const KINDS: [EvidenceKind; 4] =
    [EvidenceKind::AudioTimecode, EvidenceKind::Slate, EvidenceKind::FileTimecode, EvidenceKind::DeviceClock];

/// A clip's timecode: that of its file, else that on its sound.
pub(crate) fn own_timecode(clip: &DayClip) -> Option<Label> {
    label_of(clip, EvidenceKind::FileTimecode).or_else(|| label_of(clip, EvidenceKind::AudioTimecode))
}

/// A clip's label of a kind.
pub(crate) fn label_of(clip: &DayClip, kind: EvidenceKind) -> Option<Label> {
    clip.labels.iter().find(|label| label.kind == kind).copied()
}
