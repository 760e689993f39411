//! Markers: moments of a line that a person wants to find again.

use super::Line;
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

    /// The colour that is nearest to one that OpenTimelineIO names.
    pub fn of_otio(name: &str) -> Self {
        match name {
            "GREEN" => Self::Moss,
            "PINK" | "MAGENTA" | "PURPLE" => Self::Plum,
            "CYAN" | "BLUE" | "BLACK" | "WHITE" => Self::Slate,
            _ => Self::Brass,
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

impl Line {
    /// Its markers with those of another line of the same frames: where both have one, it says what both say.
    pub fn markers_with(&self, other: &Self) -> Vec<Marker> {
        let mut all = self.markers.clone();
        for own in &other.markers {
            match all.iter_mut().find(|there| there.at == own.at) {
                Some(there) => there.note = both(&there.note, &own.note),
                None => all.push(own.clone()),
            }
        }
        all.sort_by_key(|own| own.at);
        all
    }
}

/// What two notes say, once.
pub(crate) fn both(one: &str, other: &str) -> String {
    if one.contains(other) {
        one.to_owned()
    } else if other.contains(one) {
        other.to_owned()
    } else {
        format!("{one} / {other}").chars().take(MOST_LETTERS).collect()
    }
}

/// The most letters of a note.
pub const MOST_LETTERS: usize = 500;
