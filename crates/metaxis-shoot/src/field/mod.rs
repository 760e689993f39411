//! Sound for measuring the sync engine: endless speech, music, machinery and crowds, heard in real rooms by
//! microphones that each have their own noise, clock and faults. No files: samples and their truth.

mod clock;
mod ear;
mod loops;
mod machine;
mod music;
mod place;
mod room;
mod speech;
mod trouble;

pub use clock::{Bend, Gap, TrueTime};
pub use ear::{EarPlan, Heard, hear};
pub use place::Course;
pub use room::{Pickup, Room};

use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;

/// What is to be heard. The seeds say which words, tune or works: another seed never repeats.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Sound {
    /// One to three people talk in turns.
    Speech {
        /// Who speaks.
        voices: u64,
        /// What is said.
        words: u64,
    },
    /// A band plays.
    Music {
        /// Which tune.
        tune: u64,
        /// Which performance of it: the timing and touch of every note.
        performance: u64,
    },
    /// One bar, to the sample, over and over, under a lead that never repeats.
    Loops {
        /// Length of the bar, milliseconds.
        bar_ms: u32,
        /// Which tune, and what leads.
        tune: u64,
        /// Whether there is a lead.
        lead: bool,
    },
    /// Motors, hammers, steps.
    Machinery(u64),
    /// Many people at once, far off, with applause.
    Crowd(u64),
    /// A steady hum and the noise of an empty room: nothing to hold on to.
    Hum {
        /// Its pitch and harmonics.
        tone: u64,
        /// The air that moves in the room: no two moments of it are alike.
        air: u64,
    },
}

impl Sound {
    /// `seconds` of it at `rate` samples a second, peaking near 0.5.
    pub fn make(self, seconds: f64, rate: u32) -> Vec<f32> {
        let mut sound = vec![0.0_f32; (seconds * f64::from(rate)) as usize];
        match self {
            Sound::Speech { voices, words } => speech::conversation(&mut sound, rate, voices, words),
            Sound::Music { tune, performance } => music::play(&mut sound, rate, tune, performance),
            Sound::Loops { bar_ms, tune, lead } => {
                let lead = if lead { 1.0 } else { 0.0 };
                loops::play(&mut sound, rate, f64::from(bar_ms) * 1e-3, tune, lead);
            }
            Sound::Machinery(seed) => machine::works(&mut sound, rate, seed),
            Sound::Crowd(seed) => speech::crowd(&mut sound, rate, seed),
            Sound::Hum { tone, air } => machine::hum(&mut sound, rate, tone, air),
        }
        let peak = sound.iter().fold(1e-6_f32, |peak, v| peak.max(v.abs()));
        for value in &mut sound {
            *value *= 0.5 / peak;
        }
        sound
    }
}

fn rng(seed: u64, salt: u64) -> ChaCha8Rng {
    ChaCha8Rng::seed_from_u64(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) ^ salt)
}

/// White noise of variance one third.
fn noise(rng: &mut ChaCha8Rng) -> f32 {
    rng.random::<f32>() * 2.0 - 1.0
}

/// Adds a burst of noise with a sharp head, coloured by a one-pole low pass.
fn knock(sound: &mut [f32], rate: u32, at_s: f64, level: f32, decay_s: f32, dark: f32, rng: &mut ChaCha8Rng) {
    let from = (at_s * f64::from(rate)) as usize;
    let rate = rate as f32;
    let mut low = 0.0;
    for (i, out) in sound.iter_mut().skip(from).take((decay_s * 7.0 * rate) as usize).enumerate() {
        low += dark * (noise(rng) - low);
        *out += level * low * (-(i as f32) / (decay_s * rate)).exp();
    }
}
