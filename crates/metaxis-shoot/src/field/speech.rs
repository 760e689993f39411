//! Speech from a source and filter: pulses or hiss through three moving resonances. Not words, but with the
//! rhythm, pitch, vowels, stops and hisses of words, and never the same twice.

use super::{knock, noise, rng};
use rand::Rng;
use rand_chacha::ChaCha8Rng;
use std::f32::consts::TAU;

/// First three formants of some vowels, hertz (Peterson and Barney 1952, rounded).
const VOWELS: [[f32; 3]; 9] = [
    [270.0, 2290.0, 3010.0],
    [390.0, 1990.0, 2550.0],
    [530.0, 1840.0, 2480.0],
    [660.0, 1720.0, 2410.0],
    [730.0, 1090.0, 2440.0],
    [570.0, 840.0, 2410.0],
    [440.0, 1020.0, 2240.0],
    [300.0, 870.0, 2240.0],
    [490.0, 1350.0, 1690.0],
];

/// Who speaks: pitch, length of the vocal tract, pace.
struct Voice {
    pitch_hz: f32,
    tract: f32,
    pace: f32,
}

impl Voice {
    fn new(rng: &mut ChaCha8Rng) -> Self {
        Self {
            pitch_hz: 85.0 + 150.0 * rng.random::<f32>(),
            tract: 0.88 + 0.3 * rng.random::<f32>(),
            pace: 0.8 + 0.5 * rng.random::<f32>(),
        }
    }
}

/// A two-pole resonance with unit gain at its peak, near enough.
#[derive(Default)]
struct Resonance {
    y1: f32,
    y2: f32,
}

impl Resonance {
    fn step(&mut self, x: f32, hz: f32, width_hz: f32, rate: f32) -> f32 {
        let r = (-std::f32::consts::PI * width_hz / rate).exp();
        let y = (1.0 - r) * x + 2.0 * r * (TAU * hz / rate).cos() * self.y1 - r * r * self.y2;
        self.y2 = self.y1;
        self.y1 = y;
        y
    }
}

/// One to three people, taking turns.
pub fn conversation(sound: &mut [f32], rate: u32, voices: u64, words: u64) {
    let mut who = rng(voices, 1);
    let count = who.random_range(1..=3);
    let people: Vec<Voice> = (0..count).map(|_| Voice::new(&mut who)).collect();
    let mut what = rng(words, 2);
    let seconds = sound.len() as f64 / f64::from(rate);
    let mut at = 0.3 * what.random::<f64>();
    while at < seconds {
        let person = &people[what.random_range(0..people.len())];
        let level = 0.5 + 0.5 * what.random::<f32>();
        at = phrase(sound, rate, at, person, level, &mut what);
        at += if what.random::<f32>() < 0.25 {
            0.6 + 1.6 * what.random::<f64>()
        } else {
            0.12 + 0.3 * what.random::<f64>()
        };
    }
}

/// A dozen conversations at once, and applause now and then.
pub fn crowd(sound: &mut [f32], rate: u32, seed: u64) {
    for person in 0..10 {
        conversation(
            sound,
            rate,
            seed.wrapping_add(person * 7919),
            seed.wrapping_mul(31).wrapping_add(person),
        );
    }
    let mut own = rng(seed, 3);
    let seconds = sound.len() as f64 / f64::from(rate);
    let mut at = 8.0 * own.random::<f64>();
    while at < seconds {
        let end = at + 2.0 + 3.0 * own.random::<f64>();
        while at < end {
            knock(sound, rate, at, 0.35 * own.random::<f32>(), 0.006, 0.8, &mut own);
            at += 0.05 * own.random::<f64>();
        }
        at += 6.0 + 20.0 * own.random::<f64>();
    }
}

/// A phrase of some syllables; returns its end.
fn phrase(sound: &mut [f32], rate: u32, from_s: f64, voice: &Voice, level: f32, rng: &mut ChaCha8Rng) -> f64 {
    let syllables = rng.random_range(3..14);
    let (mut formants, mut phase) = (<[Resonance; 3]>::default(), 0.0_f32);
    let mut at = from_s;
    let mut shape = VOWELS[rng.random_range(0..VOWELS.len())];
    let mut pitch = voice.pitch_hz * (1.1 + 0.2 * rng.random::<f32>());
    for _ in 0..syllables {
        match rng.random_range(0..5) {
            0 | 1 => at = hiss(sound, rate, at, level, rng),
            2 => {
                at += 0.03 + 0.04 * rng.random::<f64>();
                knock(sound, rate, at, level * 0.25, 0.004, 0.3 + 0.6 * rng.random::<f32>(), rng);
                at += 0.008;
            }
            _ => {}
        }
        let target = VOWELS[rng.random_range(0..VOWELS.len())].map(|hz| hz * voice.tract);
        let target_pitch = voice.pitch_hz * (0.85 + 0.4 * rng.random::<f32>());
        let length = ((0.07 + 0.13 * rng.random::<f32>()) / voice.pace * rate as f32) as usize;
        let begin = (at * f64::from(rate)) as usize;
        for i in 0..length {
            let Some(out) = sound.get_mut(begin + i) else { break };
            let share = 1.0 - (-4.0 * i as f32 / length as f32).exp();
            pitch += (target_pitch - pitch) * 3e-4;
            phase += pitch * (1.0 + 0.01 * noise(rng)) / rate as f32;
            // The folds close: one pulse a period, and breath.
            let mut source = 0.02 * noise(rng);
            if phase >= 1.0 {
                phase -= 1.0;
                source += (rate as f32 / pitch).sqrt() * 0.3;
            }
            let mut voiced = 0.0;
            for (k, resonance) in formants.iter_mut().enumerate() {
                let hz = shape[k] + (target[k] - shape[k]) * share;
                voiced +=
                    resonance.step(source, hz, 60.0 + 45.0 * k as f32, rate as f32) * [1.0, 0.7, 0.45][k];
            }
            let swell = (std::f32::consts::PI * (i as f32 + 1.0) / (length as f32 + 1.0)).sin().sqrt();
            *out += level * voiced * swell;
        }
        shape = target;
        at += length as f64 / f64::from(rate);
    }
    at
}

fn hiss(sound: &mut [f32], rate: u32, at_s: f64, level: f32, rng: &mut ChaCha8Rng) -> f64 {
    let length_s = 0.04 + 0.08 * rng.random::<f64>();
    let hz = (2500.0 + 4000.0 * rng.random::<f32>()).min(rate as f32 * 0.45);
    let length = (length_s * f64::from(rate)) as usize;
    let begin = (at_s * f64::from(rate)) as usize;
    let mut resonance = Resonance::default();
    for i in 0..length {
        let Some(out) = sound.get_mut(begin + i) else { break };
        let swell = (std::f32::consts::PI * i as f32 / length as f32).sin();
        *out += level * 0.8 * swell * resonance.step(noise(rng), hz, 1200.0, rate as f32);
    }
    at_s + length_s * 0.9
}
