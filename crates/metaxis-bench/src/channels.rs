//! Recorders of eight channels with everything that is found on them, and cameras of two.

use crate::{
    Shoot, Take,
    world::{crystal, dice, programme},
};
use metaxis_core::{
    signal::LISTEN_RATE,
    sync::{Effort, Mode},
};
use metaxis_shoot::{
    SPEED_OF_SOUND,
    field::{EarPlan, Pickup, Room, Sound, TrueTime, hear},
};
use rand::{Rng, seq::SliceRandom};
use rand_chacha::ChaCha8Rng;
use std::f32::consts::TAU;

const WORLD_S: f64 = 200.0;
const LENGTH_S: f64 = 198.0;
const CHANNELS: usize = 8;
/// The slowest wireless link.
const LATE_S: f64 = 0.02;
/// Distance of a close microphone.
const CLOSE_M: f64 = 0.3;

/// What is on a channel that heard nothing of the scene.
fn of_no_use(which: usize, samples: usize, rng: &mut ChaCha8Rng) -> Vec<f32> {
    let rate = LISTEN_RATE as f32;
    let mut noise = |level: f32| level * (rng.random::<f32>() - 0.5);
    let wave = |i: usize, hz: f32| (TAU * hz * i as f32 / rate).sin();
    (0..samples)
        .map(|i| match which {
            0 => 0.0,
            1 => 0.1 * (wave(i, 50.0) + 0.4 * wave(i, 150.0) + 0.2 * wave(i, 250.0)) + noise(0.002),
            2 => 0.1 * wave(i, 1_000.0),
            _ => noise(0.1),
        })
        .collect()
}

/// Several voices in one room: each with a microphone of its own, late by its link and with the others bleeding in,
/// and one or two that hear all of them.
struct Stage {
    voices: Vec<Vec<f32>>,
    sum: Vec<f32>,
    room: Room,
}

impl Stage {
    fn new(voices: usize, rng: &mut ChaCha8Rng) -> Self {
        let rest = |rng: &mut ChaCha8Rng| Sound::Speech { voices: rng.random(), words: rng.random() };
        let first = programme(rng);
        let voices: Vec<Vec<f32>> =
            (0..voices).map(|i| if i == 0 { first } else { rest(rng) }.make(WORLD_S, LISTEN_RATE)).collect();
        let count = voices.iter().map(Vec::len).min().unwrap_or(0);
        let sum = (0..count).map(|i| voices.iter().map(|voice| voice[i]).sum()).collect();
        Self { voices, sum, room: Room::new(0.3 + 0.4 * rng.random::<f64>(), rng.random()) }
    }

    /// A microphone on one of the voices.
    fn close(
        &self,
        voice: usize,
        late_s: f64,
        clock_ppm: f64,
        length_s: f64,
        from_s: f64,
        rng: &mut ChaCha8Rng,
    ) -> Vec<f32> {
        let plan = |distance_m: f64, noise_db: f64| EarPlan {
            from_s: from_s - late_s,
            length_s,
            distance_m,
            clock_ppm,
            signal_to_noise_db: noise_db,
            pickup: Pickup::Omni,
            ..EarPlan::default()
        };
        let mut all =
            hear(&self.voices[voice], LISTEN_RATE, &self.room, &plan(CLOSE_M, 25.0), rng.random()).samples;
        for other in (0..self.voices.len()).filter(|other| *other != voice) {
            let bleed = 10_f32.powf((-15.0 - 15.0 * rng.random::<f32>()) / 20.0);
            let heard = hear(&self.voices[other], LISTEN_RATE, &self.room, &plan(2.0, 60.0), rng.random());
            for (own, bled) in all.iter_mut().zip(heard.samples) {
                *own += bleed * bled;
            }
        }
        all
    }
}

pub(crate) fn any_channel(seed: u64) -> Shoot {
    let mut rng = dice(seed, 16);
    let voices = 1 + rng.random_range(0..3);
    let stage = Stage::new(voices, &mut rng);
    let mut shoot = Shoot::new(Mode::Day, Effort::Normal);
    let samples = (LENGTH_S * f64::from(LISTEN_RATE)) as usize;
    let boom = EarPlan { from_s: 0.5, length_s: LENGTH_S, signal_to_noise_db: 25.0, ..EarPlan::default() };
    let boom = hear(&stage.sum, LISTEN_RATE, &stage.room, &boom, rng.random());
    let mut channels: Vec<Vec<f32>> = vec![];
    // A clip lies where its earliest channel hears: how late each hears.
    let mut delays_s = vec![];
    // In one of three there is the boom alone, in one the close microphones alone, in one all of them.
    let kind = seed % 3;
    if kind != 1 {
        channels.push(boom.samples);
        delays_s.push(1.0 / SPEED_OF_SOUND);
    }
    if kind != 0 {
        for voice in 0..voices {
            let late_s = if kind == 1 { 0.0 } else { LATE_S * rng.random::<f64>() };
            delays_s.push(CLOSE_M / SPEED_OF_SOUND + late_s);
            channels.push(stage.close(voice, late_s, 0.0, LENGTH_S, 0.5, &mut rng));
        }
    }
    if rng.random() {
        // Somebody else in another room.
        let other = programme(&mut rng).make(WORLD_S, LISTEN_RATE);
        let plan = EarPlan { length_s: LENGTH_S, signal_to_noise_db: 20.0, ..EarPlan::default() };
        channels.push(hear(&other, LISTEN_RATE, &stage.room, &plan, rng.random()).samples);
    }
    for which in 0..CHANNELS - channels.len() {
        channels.push(of_no_use(which % 4, samples, &mut rng));
    }
    channels.shuffle(&mut rng);
    shoot.takes.push(take(0, channels, boom.truth, 0.5, &delays_s));
    for device in 1..=4 {
        let (clock_ppm, distance_m) = (crystal(&mut rng), 1.5 + 5.0 * rng.random::<f64>());
        let length_s = 15.0 + 45.0 * rng.random::<f64>();
        let from_s = 2.0 + (WORLD_S - length_s - 6.0) * rng.random::<f64>();
        let signal_to_noise_db = -6.0 + 20.0 * rng.random::<f64>();
        let plan =
            EarPlan { from_s, length_s, distance_m, clock_ppm, signal_to_noise_db, ..EarPlan::default() };
        let own = hear(&stage.sum, LISTEN_RATE, &stage.room, &plan, rng.random());
        let count = own.samples.len();
        let mut channels = vec![own.samples];
        let mut delays_s = vec![distance_m / SPEED_OF_SOUND];
        match device {
            1 => {}
            2 => channels.insert(0, of_no_use(rng.random_range(0..4), count, &mut rng)),
            3 => {
                let late_s = LATE_S * rng.random::<f64>();
                let voice = rng.random_range(0..voices);
                delays_s.push(CLOSE_M / SPEED_OF_SOUND + late_s);
                channels.insert(0, stage.close(voice, late_s, clock_ppm, length_s, from_s, &mut rng));
            }
            _ => {
                // A wireless microphone that somebody wears who is elsewhere.
                let other = programme(&mut rng).make(length_s + 2.0, LISTEN_RATE);
                let plan = EarPlan { length_s, signal_to_noise_db: 25.0, ..EarPlan::default() };
                channels.insert(0, hear(&other, LISTEN_RATE, &stage.room, &plan, rng.random()).samples);
            }
        }
        shoot.takes.push(take(device, channels, own.truth, from_s, &delays_s));
    }
    shoot
}

fn take(device: usize, mut channels: Vec<Vec<f32>>, truth: TrueTime, from_s: f64, delays_s: &[f64]) -> Take {
    let earliest_s = delays_s.iter().copied().fold(f64::MAX, f64::min);
    let truth = TrueTime { from_s: from_s - earliest_s, ..truth };
    let samples = if channels.len() == 1 { channels.remove(0) } else { channels[0].clone() };
    Take {
        device,
        world: 0,
        samples,
        channels,
        truth,
        due: true,
        time_reference_s: None,
        labels: vec![],
        silent: false,
    }
}
