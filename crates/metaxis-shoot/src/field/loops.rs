//! Music made of loops: one bar, to the sample, over and over, as much of it as there is, and a lead over it that never
//! repeats. A bar later everything but the lead is the same again.

use super::{knock, music, rng};
use rand::Rng;

/// Plays over the whole of `sound`: a loop of `bar_s` seconds (a whole number of samples), and a lead of `lead` times its
/// level (0: nothing but the loop).
pub fn play(sound: &mut [f32], rate: u32, bar_s: f64, tune: u64, lead: f32) {
    let mut own = rng(tune, 51);
    let bar = (bar_s * f64::from(rate)).round() as usize;
    // Notes that ring over the end of the bar ring on at its beginning.
    let mut once = vec![0.0_f32; 3 * bar];
    let root = 40 + own.random_range(0..12);
    let sixteenths = (bar_s / 0.125).round() as usize;
    for step in 0..sixteenths {
        let at = step as f64 * bar_s / sixteenths as f64;
        let of_beat = step % 4;
        if of_beat == 0 {
            knock(&mut once, rate, at, if step % 8 == 0 { 0.9 } else { 0.5 }, 0.05, 0.04, &mut own);
        } else if own.random::<f32>() < 0.5 {
            knock(&mut once, rate, at, 0.15, 0.012, 0.9, &mut own);
        }
        if own.random::<f32>() < 0.6 {
            let degree = own.random_range(0..10);
            music::note(&mut once, rate, at, music::hz(root, degree), 0.25, 0.3, &mut own);
        }
    }
    let folded: Vec<f32> = (0..bar).map(|i| once[i] + once[bar + i] + once[2 * bar + i]).collect();
    for (i, out) in sound.iter_mut().enumerate() {
        *out += folded[i % bar];
    }
    if lead > 0.0 {
        let seconds = sound.len() as f64 / f64::from(rate);
        let (mut at, mut degree) = (0.3 * own.random::<f64>(), 7_i32);
        while at < seconds {
            degree = (degree + own.random_range(-3..=3)).clamp(3, 14);
            music::note(sound, rate, at, music::hz(root + 12, degree), 0.3 * lead, 0.4, &mut own);
            at += [0.25, 0.5, 0.5, 1.0][own.random_range(0..4)] * (0.97 + 0.06 * own.random::<f64>());
        }
    }
}
