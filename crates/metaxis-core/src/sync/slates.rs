//! Slates: the moment in a picture at which the sticks close, against the moment in a sound at which they are heard.

use super::{DayClip, Evidence, EvidenceKind};

/// What a person marked in a clip, in its own time, seconds.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct SlateMark {
    /// The moment the sticks close in the picture; it may lie between two frames.
    pub picture_s: Option<f64>,
    /// The peak of the clap in the sound.
    pub sound_s: Option<f64>,
    /// What scene and take its slate belongs to: only clips of one take are laid against each other.
    pub take: String,
}

/// A picture whose mark lies against the mark of a sound.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct SlatePair {
    /// The clip with the sound.
    pub sound: usize,
    /// The moment in the picture and in the sound, each in its clip's own time, seconds.
    pub picture_s: f64,
    pub sound_s: f64,
    /// Standard deviation, seconds.
    pub sigma_s: f64,
}

/// A frame of an unknown rate, for how well an eye can mark, seconds.
const FRAME_S: f64 = 0.04;
/// Marks that part by more than this belong to different claps, seconds.
pub(super) const OTHER_CLAP_S: f64 = 1.0;
/// Speed of sound at 20 °C, metres a second (331.3 + 0.606·°C).
pub const SOUND_M_PER_S: f64 = 343.4;

/// For every picture mark the sound mark of its take, on another device.
pub(super) fn pairs(clips: &[DayClip]) -> Vec<Option<SlatePair>> {
    let picture = |clip: usize| {
        let mark = clips[clip].mark.as_ref()?;
        let picture_s = mark.picture_s?;
        let partner = (0..clips.len()).find(|&other| {
            clips[other].device != clips[clip].device
                && clips[other].mark.as_ref().is_some_and(|theirs| {
                    theirs.sound_s.is_some() && theirs.picture_s.is_none() && theirs.take == mark.take
                })
        })?;
        let sound_s = clips[partner].mark.as_ref()?.sound_s?;
        // An eye tells half a frame.
        Some(SlatePair { sound: partner, picture_s, sound_s, sigma_s: FRAME_S / 4.0 })
    };
    (0..clips.len()).map(picture).collect()
}

impl SlatePair {
    /// Where the pair puts the start of the picture's clip, when the sound's clip starts at `sound_start_s`.
    pub fn start_s(&self, sound_start_s: f64) -> f64 {
        sound_start_s + self.sound_s - self.picture_s
    }

    pub fn evidence(&self, at_s: f64, taken_s: f64) -> Evidence {
        let by = at_s - taken_s;
        Evidence {
            kind: EvidenceKind::Slate,
            against: Some(self.sound),
            start_s: at_s,
            sigma_s: self.sigma_s,
            score: 1.0,
            used: by.abs() < 1.5 * FRAME_S,
            disagrees_by_s: by,
        }
    }
}

/// How far a microphone is, by how much later its own sound of the clap comes than the picture shows it, metres. None
/// where sound would come first, or from farther than a shout carries.
pub(super) fn distance_m(late_s: f64) -> Option<f64> {
    let metres = late_s * SOUND_M_PER_S;
    (3.0..200.0).contains(&metres).then_some(metres)
}
