//! A band: bass, chords, melody and drums. The tune is one thing, its performance another: a second
//! performance has the same notes, none at the same moment.

use super::{knock, rng};
use rand::Rng;
use rand_chacha::ChaCha8Rng;
use std::f32::consts::TAU;

const SCALE: [i32; 7] = [0, 2, 4, 5, 7, 9, 11];

/// Plays `tune` as in `performance` over the whole of `sound`.
pub fn play(sound: &mut [f32], rate: u32, tune: u64, performance: u64) {
    let (mut tune, mut hand) = (rng(tune, 11), rng(performance, 12));
    let seconds = sound.len() as f64 / f64::from(rate);
    let beat_s = 60.0 / (70.0 + 80.0 * tune.random::<f64>());
    let root = 40 + tune.random_range(0..12);
    let drums = tune.random::<f32>() < 0.7;
    let mut degree = 0_i32;
    let mut high = 7_i32;
    let (mut at, mut tempo) = (0.2, 1.0_f64);
    while at < seconds {
        // A bar: a chord, its bass, a melody over it.
        degree = [0, 3, 4, 5, 1, degree][tune.random_range(0..6)];
        let mut beat = 0.0;
        for voice in [0, 2, 4] {
            note(sound, rate, at + late(&mut hand), hz(root + 12, degree + voice), 0.10, 1.2, &mut hand);
        }
        note(sound, rate, at + late(&mut hand), hz(root - 12, degree), 0.3, 0.9, &mut hand);
        while beat < 4.0 {
            let length = [0.5, 0.5, 1.0, 1.0, 1.5][tune.random_range(0..5)];
            high = (high + tune.random_range(-3..=3)).clamp(2, 14);
            if tune.random::<f32>() < 0.85 {
                let from = at + beat * beat_s * tempo + late(&mut hand);
                note(sound, rate, from, hz(root + 12, high), 0.3, 0.45, &mut hand);
            }
            beat += length;
        }
        if drums {
            for eighth in 0..8 {
                let from = at + f64::from(eighth) * 0.5 * beat_s * tempo + late(&mut hand);
                match eighth {
                    0 | 5 => knock(sound, rate, from, 0.9, 0.05, 0.03, &mut hand),
                    2 | 6 => knock(sound, rate, from, 0.4, 0.035, 0.6, &mut hand),
                    _ => knock(sound, rate, from, 0.12, 0.012, 0.95, &mut hand),
                }
            }
        }
        at += 4.0 * beat_s * tempo;
        tempo = (tempo + 0.02 * (hand.random::<f64>() - 0.5)).clamp(0.95, 1.05);
    }
}

fn late(hand: &mut ChaCha8Rng) -> f64 {
    0.02 * hand.random::<f64>()
}

pub(super) fn hz(root: i32, degree: i32) -> f32 {
    let key = root + 12 * degree.div_euclid(7) + SCALE[degree.rem_euclid(7) as usize];
    440.0 * 2_f32.powf((key - 69) as f32 / 12.0)
}

/// A plucked string: partials that die the faster the higher they are.
pub(super) fn note(
    sound: &mut [f32],
    rate: u32,
    at_s: f64,
    hz: f32,
    level: f32,
    ring_s: f32,
    hand: &mut ChaCha8Rng,
) {
    let from = (at_s.max(0.0) * f64::from(rate)) as usize;
    let rate = rate as f32;
    let (level, bright) = (level * (0.6 + 0.4 * hand.random::<f32>()), 0.5 + 0.3 * hand.random::<f32>());
    let hz = hz * (1.0 + 0.002 * (hand.random::<f32>() - 0.5));
    let length = (ring_s * 4.0 * rate) as usize;
    for partial in 1..=8 {
        let own = hz * partial as f32 * (1.0 + 2e-4 * (partial * partial) as f32);
        if own > 0.45 * rate {
            break;
        }
        let fade = (-(partial as f32).sqrt() / (ring_s * rate)).exp();
        let (sin, cos) = (TAU * own / rate).sin_cos();
        let phase = TAU * hand.random::<f32>();
        let gain = level * bright.powi(partial - 1);
        let (mut re, mut im) = (gain * phase.cos(), gain * phase.sin());
        for out in sound.iter_mut().skip(from).take((length as f32 / (partial as f32).sqrt()) as usize) {
            *out += im;
            (re, im) = ((re * cos - im * sin) * fade, (im * cos + re * sin) * fade);
        }
    }
}
