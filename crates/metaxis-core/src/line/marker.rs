//! Markers: moments of a line that a person wants to find again.

use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Colours of markers.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum MarkerColour {
    /// Yellow metal.
    #[default]
    Brass,
    /// Green.
    Moss,
    /// Purple.
    Plum,
    /// Grey blue.
    Slate,
}

impl MarkerColour {
    /// The colour that is nearest to it of those that OpenTimelineIO names.
    pub fn otio(self) -> &'static str {
        match self {
            Self::Brass => "YELLOW",
            Self::Moss => "GREEN",
            Self::Plum => "PURPLE",
            Self::Slate => "BLUE",
        }
    }
}

/// A marker at a frame of a line.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct Marker {
    /// The frame.
    #[ts(type = "number")]
    pub at: i64,
    /// Its colour.
    #[serde(default)]
    pub colour: MarkerColour,
    /// What is said of it.
    #[serde(default)]
    pub note: String,
}

/// The most letters of a note.
pub const MOST_LETTERS: usize = 500;
