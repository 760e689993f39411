//! Waveform levels for drawing.

use super::{BlockStats, LISTEN_RATE};

/// Level pairs per second.
pub const LEVEL_RATE: u32 = 100;

/// Samples a pair.
const FRAME: usize = (LISTEN_RATE / LEVEL_RATE) as usize;

/// Streaming reader: samples at [`LISTEN_RATE`] in; lowest and highest sample of every hundredth of a
/// second out, as signed bytes (127 is full scale).
#[derive(Debug, Default)]
pub struct LevelReader {
    low: f32,
    high: f32,
    count: usize,
    levels: Vec<i8>,
}

impl LevelReader {
    /// Takes the next samples.
    pub fn push(&mut self, samples: &[f32]) {
        let mut rest = samples;
        while !rest.is_empty() {
            let (own, others) = rest.split_at((FRAME - self.count).min(rest.len()));
            let stats = BlockStats::of(own);
            (self.low, self.high) = (self.low.min(stats.low), self.high.max(stats.high));
            self.count += own.len();
            if self.count == FRAME {
                self.close();
            }
            rest = others;
        }
    }

    /// Low, high, low, high …
    pub fn finish(mut self) -> Vec<i8> {
        if self.count > 0 {
            self.close();
        }
        self.levels
    }

    fn close(&mut self) {
        let byte = |value: f32| (value * 127.0).round().clamp(-127.0, 127.0) as i8;
        self.levels.extend([byte(self.low), byte(self.high)]);
        (self.low, self.high, self.count) = (0.0, 0.0, 0);
    }
}

/// Peaks for drawing: the largest level in each of `bins` equal parts of `from_s`..`to_s`, 0 to 127.
/// `levels` is what [`LevelReader`] made; times outside it are silent.
pub fn level_strip(levels: &[i8], from_s: f64, to_s: f64, bins: usize) -> Vec<u8> {
    let frames = levels.len() / 2;
    let place = |bin: usize| {
        let at = from_s + (to_s - from_s) * bin as f64 / bins.max(1) as f64;
        (at * f64::from(LEVEL_RATE)).clamp(0.0, frames as f64) as usize
    };
    (0..bins)
        .map(|bin| {
            let (from, to) = (place(bin), place(bin + 1).max(place(bin) + 1).min(frames));
            let pairs = levels.get(from * 2..to * 2).unwrap_or_default();
            pairs.iter().map(|level| level.unsigned_abs()).max().unwrap_or(0).min(127)
        })
        .collect()
}
