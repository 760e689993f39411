//! Claps in a sound: sudden, loud, over soon. Sticks, hands, a door: what a picture can be laid against.

use super::LISTEN_RATE;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A clap that was found.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct Clap {
    /// Its peak in the clip's own time, seconds.
    pub at_s: f64,
    /// How far it looks like a clap, 0 to 1.
    pub score: f64,
    /// Why, in words.
    pub why: String,
}

/// Length of a measured piece: 2 ms.
const PIECE: usize = LISTEN_RATE as usize / 500;
const PIECE_S: f64 = PIECE as f64 / LISTEN_RATE as f64;
/// What comes before is looked at for so many pieces (200 ms), what comes after from 60 ms on for as many.
const BEFORE: usize = 100;
const AFTER: (usize, usize) = (30, 100);
/// Two claps are at least this far apart, pieces (250 ms).
const APART: usize = 125;
/// A clap rises by this much at the least, and is one without doubt from the other on, decibels.
const RISE_DB: (f64, f64) = (14.0, 36.0);
/// It dies away by this much within 60 ms, decibels.
const FALL_DB: (f64, f64) = (4.0, 18.0);

/// A head slate comes within this much of the beginning, a tail slate within so much of the end, seconds.
const HEAD_S: f64 = 25.0;
const TAIL_S: f64 = 12.0;

/// Finds claps in a listening stream, fed piece by piece.
#[derive(Debug, Default)]
pub struct ClapFinder {
    /// Energy of the first differences of each piece, decibels: rumble has no say.
    pieces: Vec<f32>,
    /// Where in each piece the largest difference lies, samples.
    tops: Vec<u8>,
    rest: Vec<f32>,
    last: f32,
}

impl ClapFinder {
    /// Takes the next samples at [`LISTEN_RATE`].
    pub fn push(&mut self, samples: &[f32]) {
        self.rest.extend_from_slice(samples);
        let whole = self.rest.len() - self.rest.len() % PIECE;
        for piece in self.rest[..whole].chunks_exact(PIECE) {
            let (mut sum, mut top) = (0.0_f32, (0.0_f32, 0));
            for (i, &sample) in piece.iter().enumerate() {
                let step = sample - self.last;
                self.last = sample;
                sum += step * step;
                if sample.abs() > top.0 {
                    top = (sample.abs(), i);
                }
            }
            self.pieces.push(10.0 * (sum / PIECE as f32 + 1e-12).log10());
            self.tops.push(top.1 as u8);
        }
        self.rest.drain(..whole);
    }

    /// The best `most` claps, best first.
    pub fn finish(&self, most: usize) -> Vec<Clap> {
        let level = |from: usize, to: usize| -> f32 {
            let part = &self.pieces[from.min(self.pieces.len())..to.min(self.pieces.len())];
            part.iter().copied().fold(f32::MIN, f32::max)
        };
        let share = |value: f64, (low, high): (f64, f64)| ((value - low) / (high - low)).clamp(0.0, 1.0);
        let loudest = level(0, self.pieces.len());
        let mut found: Vec<(usize, Clap)> = vec![];
        for i in BEFORE..self.pieces.len().saturating_sub(AFTER.0) {
            let own = self.pieces[i];
            // The piece before may hold the beginning of the rise.
            let rise = f64::from(own - level(i - BEFORE, i - 1));
            if rise < RISE_DB.0 || level(i + 1, i + 5) > own {
                continue;
            }
            let fall = f64::from(own - level(i + AFTER.0, i + AFTER.1));
            let loud = share(f64::from(own - loudest), (-30.0, 0.0));
            let (before_s, after_s) = (i as f64 * PIECE_S, (self.pieces.len() - i) as f64 * PIECE_S);
            // Takes are slated at the head, or at the tail.
            let place = if before_s < HEAD_S {
                1.0
            } else if after_s < TAIL_S {
                0.6
            } else {
                0.0
            };
            let score = 0.35 * share(rise, RISE_DB) + 0.2 * share(fall, FALL_DB) + 0.15 * loud + 0.3 * place;
            let at_s = i as f64 * PIECE_S + f64::from(self.tops[i]) / f64::from(LISTEN_RATE);
            let after = if fall > FALL_DB.1 {
                "over at once"
            } else if fall > FALL_DB.0 {
                "dying away"
            } else {
                "ringing on"
            };
            let whereabouts = if before_s < HEAD_S {
                ", near the head"
            } else if after_s < TAIL_S {
                ", near the tail"
            } else {
                ""
            };
            let why = format!("rises {rise:.0} dB in 2 ms, {after}{whereabouts}");
            found.push((i, Clap { at_s, score, why }));
        }
        found.sort_by(|a, b| b.1.score.total_cmp(&a.1.score));
        let mut kept: Vec<(usize, Clap)> = vec![];
        for (i, clap) in found {
            if kept.len() < most && kept.iter().all(|(other, _)| other.abs_diff(i) >= APART) {
                kept.push((i, clap));
            }
        }
        kept.into_iter().map(|(_, clap)| clap).collect()
    }
}
