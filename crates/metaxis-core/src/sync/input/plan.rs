//! How a day is to be placed.

use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// How much is spent on each clip.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Effort {
    /// The best few places.
    #[default]
    Normal,
    /// Three times as many, and weak ones summed over many windows.
    Deep,
}

impl Effort {
    /// Coarse places examined for a clip.
    pub(crate) fn places(self) -> usize {
        match self {
            Effort::Normal => 8,
            Effort::Deep => 24,
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
    pub effort: Effort,
    /// What the clips are to each other.
    pub mode: Mode,
}
