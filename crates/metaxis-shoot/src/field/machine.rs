//! Workshops and empty rooms.

use super::{knock, noise, rng};
use rand::Rng;
use std::f32::consts::TAU;

/// A motor that labours, hammering, steps, things put down.
pub fn works(sound: &mut [f32], rate: u32, seed: u64) {
    let mut own = rng(seed, 21);
    let seconds = sound.len() as f64 / f64::from(rate);
    let (mut phase, mut speed, mut target, mut low) = (0.0_f32, 45.0_f32, 45.0_f32, 0.0_f32);
    for (i, out) in sound.iter_mut().enumerate() {
        if i % (rate as usize / 2) == 0 {
            target = 35.0 + 30.0 * own.random::<f32>();
        }
        speed += (target - speed) * 4.0 / rate as f32;
        phase = (phase + speed / rate as f32).fract();
        low += 0.1 * (noise(&mut own) - low);
        *out += 0.05 * (TAU * phase).sin() + 0.03 * (TAU * 6.0 * phase).sin() + 0.05 * low;
    }
    let mut at = own.random::<f64>();
    while at < seconds {
        let (level, decay, dark) = (
            0.1 + 0.7 * own.random::<f32>().powi(2),
            0.004 + 0.05 * own.random::<f32>(),
            0.1 + 0.8 * own.random::<f32>(),
        );
        for _ in 0..own.random_range(1..6) {
            knock(sound, rate, at, level * (0.7 + 0.3 * own.random::<f32>()), decay, dark, &mut own);
            at += 0.12 + 0.5 * own.random::<f64>();
        }
        at += 2.5 * own.random::<f64>();
    }
}

/// Mains hum with its harmonics, a fan, and nothing else.
pub fn hum(sound: &mut [f32], rate: u32, tone: u64, air: u64) {
    let (mut own, mut air) = (rng(tone, 22), rng(air, 23));
    let hz = if own.random() { 50.0_f64 } else { 60.0 };
    let gains: Vec<f32> = (1..=12).map(|k| own.random::<f32>() / k as f32).collect();
    let mut low = 0.0_f32;
    for (i, out) in sound.iter_mut().enumerate() {
        let turn = (hz * i as f64 / f64::from(rate)).fract();
        low += 0.15 * (noise(&mut air) - low);
        *out = 0.02 * low;
        for (k, gain) in gains.iter().enumerate() {
            *out += 0.3 * gain * (std::f64::consts::TAU * turn * (k + 1) as f64).sin() as f32;
        }
    }
}
