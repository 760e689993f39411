//! Reels of an edit decision list: eight letters or digits, each for one source.

use super::{super::Source, text::Legend};
use crate::clip::ClipId;
use std::collections::{HashMap, HashSet};

/// What one reel stands for: all that a device wrote on it, where its files say so, else one file.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
enum Origin {
    Reel(String),
    File(ClipId),
}

/// The reels of lists that belong together.
#[derive(Debug, Default)]
pub(super) struct Reels {
    names: HashMap<Origin, String>,
    taken: HashSet<String>,
    /// What those are called in whole that are called otherwise than their source.
    other: HashMap<String, String>,
}

/// As long as the form lets them be.
const MOST: usize = 8;
/// What stands for black and for what is no reel: no source is called so.
const RESERVED: [&str; 3] = ["BL", "AX", "NONE"];

impl Reels {
    /// The reel of a clip; the legend says what it stands for where it is called otherwise.
    pub fn of(&mut self, clip: ClipId, source: &Source, legend: &mut Legend) -> String {
        let name = self.named(clip, source);
        if let Some(full) = self.other.get(&name) {
            legend.say(format!("REEL {name}"), full);
        }
        name
    }

    fn named(&mut self, clip: ClipId, source: &Source) -> String {
        let origin = source.facts.reel.clone().map_or(Origin::File(clip), Origin::Reel);
        if let Some(known) = self.names.get(&origin) {
            return known.clone();
        }
        let full = source.reel();
        let letters: String =
            full.chars().filter(char::is_ascii_alphanumeric).collect::<String>().to_ascii_uppercase();
        let is_free = |own: &str| !own.is_empty() && !RESERVED.contains(&own) && !self.taken.contains(own);
        let short: String = letters.chars().take(MOST).collect();
        let name = if is_free(&short) {
            short
        } else {
            let stem = if letters.is_empty() { "R" } else { &letters };
            let numbered = |number: usize| {
                let number = number.to_string();
                let head: String = stem.chars().take(MOST.saturating_sub(number.len())).collect();
                head + &number
            };
            (1..).map(numbered).find(|own| is_free(own)).unwrap_or_default()
        };
        let is_whole = name == letters && full.chars().all(|own| own.is_ascii() && !own.is_control());
        if !is_whole {
            self.other.insert(name.clone(), full);
        }
        self.taken.insert(name.clone());
        self.names.insert(origin, name.clone());
        name
    }
}
