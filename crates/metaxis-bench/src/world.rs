//! What the shoots have in common: dice, what is to be heard, crystals.

use metaxis_core::signal::LISTEN_RATE;
use metaxis_shoot::field::{EarPlan, Sound};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;

pub(crate) fn dice(seed: u64, salt: u64) -> ChaCha8Rng {
    ChaCha8Rng::seed_from_u64(seed.wrapping_mul(1009).wrapping_add(salt))
}

pub(crate) fn programme(rng: &mut ChaCha8Rng) -> Sound {
    let seed = rng.random();
    match rng.random_range(0..8) {
        0..=3 => Sound::Speech { voices: seed, words: rng.random() },
        4 | 5 => Sound::Music { tune: seed, performance: rng.random() },
        6 => Sound::Machinery(seed),
        _ => Sound::Crowd(seed),
    }
}

/// A world of several programmes one after the other, each of some 100 s.
pub(crate) fn world(seconds: f64, rng: &mut ChaCha8Rng) -> Vec<f32> {
    let mut sound = vec![];
    while (sound.len() as f64) < seconds * f64::from(LISTEN_RATE) {
        let length = 60.0 + 80.0 * rng.random::<f64>();
        sound.extend(programme(rng).make(length, LISTEN_RATE));
    }
    sound.truncate((seconds * f64::from(LISTEN_RATE)) as usize);
    sound
}

pub(crate) fn crystal(rng: &mut ChaCha8Rng) -> f64 {
    120.0 * (rng.random::<f64>() - 0.5)
}

pub(crate) fn recorder(length_s: f64) -> EarPlan {
    EarPlan { from_s: 0.5, length_s, distance_m: 1.0, signal_to_noise_db: 30.0, ..EarPlan::default() }
}
