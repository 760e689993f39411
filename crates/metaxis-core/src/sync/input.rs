//! What the engine is given: clips, what they are to each other, how much to spend; and whom to tell how far it is.

use super::{GivenDistance, HeardSound, labels::Label, slates::SlateMark};
use crate::ltc::AgainstBox;
use serde::{Deserialize, Serialize};
use std::{cmp::Reverse, ops::ControlFlow};
use ts_rs::TS;

/// A clip as the day's solver sees it. Clips and devices are named by the caller's own numbers; the clips of a device
/// come in the order of their names.
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
    pub(super) fn distance_of_picture(&self) -> GivenDistance {
        if self.has_picture { self.distance } else { GivenDistance::None }
    }
}

/// How far a running day is, and what it just found.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Step {
    /// Clips done.
    pub done: usize,
    /// Clips in all.
    pub all: usize,
    /// A first place found for a clip: it may move yet.
    pub news: Option<Arrival>,
}

/// A first place found for a clip.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Arrival {
    /// The clip.
    pub clip: usize,
    /// Start on the axis, seconds.
    pub start_s: f64,
    /// Whether little can change about it.
    pub sure: bool,
}

/// Is told every step; says whether to go on or to stop.
pub type Flow<'a> = dyn Fn(Step) -> ControlFlow<()> + Sync + 'a;

/// How much is spent on each clip.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Search {
    /// The best few places.
    #[default]
    Normal,
    /// Three times as many, and weak ones summed over many windows.
    Deep,
}

impl Search {
    /// Coarse places examined for a clip.
    pub(super) fn places(self) -> usize {
        match self {
            Search::Normal => 8,
            Search::Deep => 24,
        }
    }
}

/// Whether the day ran once or was performed to a track.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Mode {
    /// Every device ran through the same stretch of real time; one device cannot record two clips at once.
    #[default]
    Day,
    /// Every take was performed to the track that is the reference; takes lie above each other, and one clip can
    /// hold several stretches of the track.
    Playback,
}

/// How a day is to be placed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub struct DayPlan {
    /// The device whose clock is the axis.
    pub reference: usize,
    /// The clip that starts the axis; the device's longest unless given.
    pub origin: Option<usize>,
    /// How much to spend on each clip.
    pub search: Search,
    /// What the clips are to each other.
    pub mode: Mode,
}

/// The devices of some clips, each once, in order.
pub(super) fn devices(clips: &[DayClip]) -> Vec<usize> {
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
