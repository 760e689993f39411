//! What listening to a file found.

use super::{ChannelState, Mix};
use serde::{Deserialize, Serialize};

/// What listening found.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Heard {
    /// State of each channel.
    pub channels: Vec<ChannelState>,
    /// Channels that take part in matching; empty where there is nothing to match.
    pub used: Vec<usize>,
    /// The sounds that were made of them to match: all together, then each; one where there is but one to hear.
    pub mixes: Vec<Mix>,
    /// Decoded samples a channel, at the file's own rate.
    pub samples: u64,
    /// What of it could not be decoded, in order; silence is there.
    #[serde(default)]
    pub lost: Vec<LostSound>,
}

/// Sound in the middle of a file that could not be decoded: a damaged block, or one that is not there.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub struct LostSound {
    /// Its first sample, at the file's own rate.
    pub from: u64,
    /// How many samples.
    pub count: u64,
}

/// So many losses are kept of a file; a file with more is no recording any more.
const MOST_LOST: usize = 1000;

impl LostSound {
    /// Adds `self` to what was lost before.
    pub fn add_to(self, lost: &mut Vec<Self>) {
        let full = lost.len() == MOST_LOST;
        match lost.last_mut() {
            Some(last) if full || last.from + last.count == self.from => {
                last.count = (self.from + self.count).saturating_sub(last.from);
            }
            _ => lost.push(self),
        }
    }
}

/// What was lost, in words: "1.20 s of its sound at 0:10.3 cannot be decoded"; `None` where nothing is. `rate` is samples a
/// second.
pub fn lost_sound(lost: &[LostSound], rate: f64) -> Option<String> {
    const NAMED: usize = 3;
    let first = lost.first()?;
    let all: u64 = lost.iter().map(|own| own.count).sum();
    let place = |own: &LostSound| {
        let at_s = own.from as f64 / rate;
        format!("{}:{:04.1}", (at_s / 60.0) as u64, at_s % 60.0)
    };
    let length = format!("{:.2} s of its sound", all as f64 / rate);
    if lost.len() == 1 {
        return Some(format!("{length} at {} cannot be decoded", place(first)));
    }
    let places: Vec<String> = lost.iter().take(NAMED).map(place).collect();
    let more = if lost.len() > NAMED { " …" } else { "" };
    Some(format!("{length} in {} places ({}{more}) cannot be decoded", lost.len(), places.join(", ")))
}
