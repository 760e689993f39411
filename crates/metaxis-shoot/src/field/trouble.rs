//! What gets into a recording beside the sound, and what small devices make of it.

use super::{knock, noise, rng};
use rand::Rng;

/// Gusts on a microphone without a fur, `db` above a sound of the level `level`.
pub(super) fn wind(samples: &mut [f32], rate: u32, level: f32, db: f64, seed: u64) {
    let mut own = rng(seed, 43);
    let (mut gust, mut slow, mut rumble, mut hiss) = (0.0_f32, 0.0_f32, 0.0_f32, 0.0_f32);
    let loud = level * 10_f32.powf(db as f32 / 20.0);
    for value in samples {
        // Gusts of a second or two: the square of slow noise.
        slow += 1.5 / rate as f32 * (noise(&mut own) * 60.0 - slow);
        gust += 6.0 / rate as f32 * (slow.powi(2) - gust);
        let white = noise(&mut own);
        rumble += 0.02 * (white - rumble);
        hiss += 0.3 * (white - hiss);
        *value += loud * gust.min(3.0) * (14.0 * rumble + 0.12 * hiss);
    }
}

/// A hand on the device: knocks and rubbing, several times as loud as a sound of the level `level`.
pub(super) fn hands(samples: &mut [f32], rate: u32, level: f32, seed: u64) {
    let mut own = rng(seed, 44);
    let seconds = samples.len() as f64 / f64::from(rate);
    let mut at = 2.0 * own.random::<f64>();
    while at < seconds {
        let loud = level * (4.0 + 12.0 * own.random::<f32>());
        if own.random::<f32>() < 0.6 {
            knock(samples, rate, at, loud, 0.01 + 0.03 * own.random::<f32>(), 0.15, &mut own);
        } else {
            // Rubbing: many small ones.
            let until = at + 0.3 + 0.7 * own.random::<f64>();
            while at < until {
                knock(samples, rate, at, 0.4 * loud, 0.004, 0.5, &mut own);
                at += 0.004 + 0.02 * own.random::<f64>();
            }
        }
        at += 0.3 + 2.5 * own.random::<f64>();
    }
}

/// Length of a packet, seconds; how many are lost in a row at most.
const PACKET_S: f64 = 0.02;
const IN_A_ROW: u32 = 4;
/// A gate lets this share of a sound through while it is shut.
const SHUT: f32 = 0.04;

/// What a telephone makes of a sound: no lows, a gate that shuts in pauses, and packets of which the share `lost` never
/// arrives: the last one is heard again instead, ever softer.
pub(super) fn telephone(samples: &mut [f32], rate: u32, lost: f64, seed: u64) {
    let mut own = rng(seed, 45);
    let share = 1.0 - (-std::f32::consts::TAU * 300.0 / rate as f32).exp();
    let (mut low, mut lower) = (0.0_f32, 0.0_f32);
    let (mut level, mut usual, mut open) = (0.0_f32, 0.02_f32, 1.0_f32);
    for value in samples.iter_mut() {
        low += share * (*value - low);
        let high = *value - low;
        lower += share * (high - lower);
        *value = high - lower;
        let size = value.abs();
        level += (size - level) * if size > level { 5e-3 } else { 5e-4 };
        usual += (level - usual) * 1e-5;
        let wanted = if level > 0.5 * usual { 1.0 } else { SHUT };
        open += (wanted - open) * if wanted > open { 1e-2 } else { 1e-3 };
        *value *= open;
    }
    let packet = (PACKET_S * f64::from(rate)) as usize;
    let mut left = 0;
    for from in (packet..samples.len().saturating_sub(packet)).step_by(packet) {
        if left == 0 && own.random::<f64>() < 2.0 * lost / f64::from(IN_A_ROW + 1) {
            left = own.random_range(1..=IN_A_ROW);
        }
        if left > 0 {
            left -= 1;
            for i in from..from + packet {
                samples[i] = 0.7 * samples[i - packet];
            }
        }
    }
}
