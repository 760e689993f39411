//! What a channel carries, by how its level moves.

use super::{BlockStats, PEAK_BIN};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// What a channel carries. Only [`Carries::Sound`] is matched.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Carries {
    /// Something that comes and goes.
    #[default]
    Sound,
    /// Digital silence or next to it.
    Nothing,
    /// Mains hum, or a drone as low.
    Hum,
    /// A steady tone, as for lining up levels.
    Tone,
    /// Noise that neither rises nor falls: a microphone that is unplugged, or hears nothing but itself.
    Noise,
    /// Timecode.
    Timecode,
}

/// Levels are gathered over this long, seconds: five periods of mains hum.
const GATHERED_S: f64 = 0.1;
/// Half decibels from −120 dBFS to 0.
const BINS: usize = 241;
/// A channel whose level stays within this is steady, dB.
const STEADY_DB: f32 = 4.0;
/// The share of the time at either end that is left out: a plug, a knock.
const LEFT_OUT: f64 = 0.002;
/// The level that the quiet tenth of a channel stays below is its floor.
const FLOOR: f64 = 0.1;
/// What is shorter than so many of these is taken for sound.
const LEAST: u64 = 20;
/// Hum changes its sign less often than this a second.
const HUM_CHANGES: f64 = 700.0;
/// A sine's peak is 3 dB above its level, with a little noise a bit more; noise peaks at four times its level.
const TONE_CREST: f64 = 2.2;

/// How the level of a channel moves, streaming.
#[derive(Debug, Clone)]
pub(super) struct LevelHistogram {
    bins: [u32; BINS],
    sum: f64,
    count: usize,
    sign_changes: u64,
    samples: u64,
    /// Sum of the crests (peak over level) of the blocks that are gathered, and how many.
    crests: (f64, u64),
}

impl Default for LevelHistogram {
    fn default() -> Self {
        Self { bins: [0; BINS], sum: 0.0, count: 0, sign_changes: 0, samples: 0, crests: (0.0, 0) }
    }
}

impl LevelHistogram {
    /// Takes a block of `samples` samples at `rate` a second.
    pub fn push(&mut self, samples: usize, stats: &BlockStats, rate: u32) {
        self.sum += f64::from(stats.sum_squares);
        self.count += samples;
        self.sign_changes += u64::from(stats.sign_changes);
        self.samples += samples as u64;
        let level = (f64::from(stats.sum_squares) / samples.max(1) as f64).sqrt();
        if samples == PEAK_BIN && level > 0.0 {
            self.crests.0 += f64::from(stats.peak()) / level;
            self.crests.1 += 1;
        }
        if self.count as f64 >= GATHERED_S * f64::from(rate) {
            let power = self.sum / self.count as f64;
            let half_db = 20.0 * power.max(1e-12).log10() + 240.0;
            self.bins[(half_db.max(0.0) as usize).min(BINS - 1)] += 1;
            (self.sum, self.count) = (0.0, 0);
        }
    }

    /// The level that this share of the time stays below, dB below full scale.
    fn below(&self, share: f64) -> f32 {
        let all: u64 = self.bins.iter().map(|count| u64::from(*count)).sum();
        let due = (share * all as f64).ceil() as u64;
        let mut sum = 0;
        let bin = self.bins.iter().position(|count| {
            sum += u64::from(*count);
            sum >= due.max(1)
        });
        bin.unwrap_or(0) as f32 * 0.5 - 120.0
    }

    /// Level of its quiet tenth, dB below full scale.
    pub fn floor_dbfs(&self) -> f32 {
        self.below(FLOOR)
    }

    /// What it carries, where that is neither nothing nor timecode.
    pub fn carries(&self, rate: u32) -> Carries {
        let gathered: u64 = self.bins.iter().map(|count| u64::from(*count)).sum();
        if gathered < LEAST || self.below(1.0 - LEFT_OUT) - self.below(FLOOR) > STEADY_DB {
            return Carries::Sound;
        }
        let changes = self.sign_changes as f64 / self.samples.max(1) as f64 * f64::from(rate);
        if changes < HUM_CHANGES {
            Carries::Hum
        } else if self.crests.0 < TONE_CREST * self.crests.1 as f64 {
            Carries::Tone
        } else {
            Carries::Noise
        }
    }
}
