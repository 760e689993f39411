//! What the engine is given: clips, what they are to each other, how much to spend; and whom to tell how far it is.

use super::{distance::GivenDistance, label::Label, mark::SlateMark, sound::HeardSound};
use crate::ltc::AgainstBox;
use std::cmp::Reverse;

/// A clip as the day's solver sees it. Clips and devices are named by the caller's own numbers; the clips of a device
/// come in the order of their names.
#[derive(Clone)]
pub struct DayClip<'a> {
    /// Device that recorded it.
    pub device: usize,
    /// Length in seconds.
    pub duration_s: f64,
    /// Whether it has a picture.
    pub has_picture: bool,
    /// Its sounds (channels or mixes of them); empty where there is nothing to listen to.
    pub sounds: Vec<HeardSound<'a>>,
    /// Time of day from the file's BWF time reference, seconds.
    pub time_reference_s: Option<f64>,
    /// When it began by its own labels.
    pub labels: Vec<Label>,
    /// How fast its clock runs by the timecode on its sound.
    pub against_box: Option<AgainstBox>,
    /// What a person marked of its slates.
    pub marks: Vec<SlateMark>,
    /// Distance of its microphone from what it shows; without a picture it has no say.
    pub distance: GivenDistance,
}

impl DayClip<'_> {
    /// Whether there is anything to listen to.
    pub fn is_heard(&self) -> bool {
        !self.sounds.is_empty()
    }

    /// The distance by which its picture is early where it lies by its own sound.
    pub(crate) fn distance_of_picture(&self) -> GivenDistance {
        if self.has_picture { self.distance } else { GivenDistance::None }
    }
}

/// The devices of some clips, each once, in order.
pub(crate) fn devices(clips: &[DayClip]) -> Vec<usize> {
    let mut devices: Vec<usize> = clips.iter().map(|clip| clip.device).collect();
    devices.sort_unstable();
    devices.dedup();
    devices
}

/// The reference device where nobody chose one: the separate recorder with most sound, else the device
/// with most sound.
pub fn pick_reference(clips: &[DayClip]) -> Option<usize> {
    devices(clips)
        .into_iter()
        .filter_map(|device| {
            let own = || clips.iter().filter(move |clip| clip.device == device);
            let heard: f64 = own().filter_map(|clip| clip.sounds.first()).map(HeardSound::duration_s).sum();
            let recorder = own().all(|clip| !clip.has_picture);
            (heard > 0.0).then_some((recorder, heard, Reverse(device)))
        })
        .max_by(|a, b| a.0.cmp(&b.0).then(a.1.total_cmp(&b.1)).then(a.2.cmp(&b.2)))
        .map(|(_, _, Reverse(device))| device)
}
