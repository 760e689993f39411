//! What happens in a scene: its sound in true time, and the moments that can be seen.

use super::WORLD_RATE;
use crate::scenario::{Programme, ScenePlan};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use std::{collections::HashMap, f32::consts::TAU};

/// A scene as it can be heard and seen.
pub struct World {
    /// True time of sample 0, seconds since midnight.
    pub start_s: f64,
    /// Sound of the action at [`WORLD_RATE`].
    pub sound: Vec<f32>,
    /// Times from the start at which a hammer lands or a bell sounds, and which bell.
    pub hits: Vec<(f64, usize)>,
    /// Times from the start at which the sticks close.
    pub claps: Vec<f64>,
    /// How far the mouth is open, 0 to 1, fifty times a second.
    pub mouth: Vec<f32>,
    /// What goes on.
    pub programme: Programme,
}

const RATE: f32 = WORLD_RATE as f32;

/// Builds the world of `plan`. `speech` holds the spoken files at [`WORLD_RATE`].
pub fn sources(plan: &ScenePlan, seed: u64, speech: &HashMap<String, Vec<f32>>) -> World {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    let mut world = World {
        start_s: plan.start_s,
        sound: vec![0.0; (plan.duration_s * f64::from(WORLD_RATE)) as usize],
        hits: vec![],
        claps: plan.slates.iter().map(|slate| slate.at_s).collect(),
        mouth: vec![0.0; (plan.duration_s * 50.0) as usize + 1],
        programme: plan.programme,
    };
    match plan.programme {
        Programme::Foundry => foundry(&mut world, plan.duration_s, &mut rng),
        Programme::Talk => footsteps(&mut world.sound, plan.duration_s, &mut rng),
        Programme::Handbells => handbells(&mut world, plan, &mut rng),
        Programme::PlaybackTrack => playback(&mut world.sound, plan.duration_s),
        Programme::Quiet => {}
    }
    air(&mut world.sound, 0.0012, &mut rng);
    for said in &plan.speech {
        if let Some(samples) = speech.get(&said.file) {
            say(&mut world, said.at_s, samples);
        }
    }
    for at in world.claps.clone() {
        clap(&mut world.sound, at, &mut rng);
    }
    world
}

fn add(sound: &mut [f32], at_s: f64, samples: impl Iterator<Item = f32>) {
    let from = (at_s * f64::from(WORLD_RATE)).round().max(0.0) as usize;
    for (out, sample) in sound.iter_mut().skip(from).zip(samples) {
        *out += sample;
    }
}

/// A metal strike: inharmonic partials that die at their own pace, and the knock itself.
fn strike(sound: &mut [f32], at_s: f64, hz: f32, level: f32, ring_s: f32, rng: &mut ChaCha8Rng) {
    const PARTIALS: [(f32, f32); 7] =
        [(0.5, 0.4), (1.0, 1.0), (1.19, 0.6), (1.5, 0.35), (2.0, 0.7), (2.74, 0.4), (3.76, 0.25)];
    let tones: Vec<(f32, f32, f32)> = PARTIALS
        .iter()
        .map(|&(ratio, gain)| {
            (hz * ratio * (1.0 + 0.002 * (rng.random::<f32>() - 0.5)), gain, ring_s / ratio)
        })
        .collect();
    let length = (ring_s * 4.0 * RATE) as usize;
    let mut ring = vec![0.0_f32; length];
    for (hz, gain, decay) in tones {
        let (mut re, mut im) = (0.0_f32, gain * level * 0.25);
        let (sin, cos) = (TAU * hz / RATE).sin_cos();
        let fade = (-1.0 / (decay * RATE)).exp();
        for out in &mut ring {
            *out += re;
            (re, im) = ((re * cos + im * sin) * fade, (im * cos - re * sin) * fade);
        }
    }
    add(sound, at_s, ring.into_iter());
    knock(sound, at_s, level * 0.8, 0.004, rng);
}

/// A burst of noise with a sharp head.
fn knock(sound: &mut [f32], at_s: f64, level: f32, decay_s: f32, rng: &mut ChaCha8Rng) {
    let length = (decay_s * 8.0 * RATE) as usize;
    let burst: Vec<f32> = (0..length)
        .map(|i| level * (-(i as f32) / (decay_s * RATE)).exp() * (rng.random::<f32>() * 2.0 - 1.0))
        .collect();
    add(sound, at_s, burst.into_iter());
}

fn clap(sound: &mut [f32], at_s: f64, rng: &mut ChaCha8Rng) {
    knock(sound, at_s, 0.9, 0.0025, rng);
    knock(sound, at_s + 0.0004, 0.5, 0.012, rng);
}

fn foundry(world: &mut World, duration_s: f64, rng: &mut ChaCha8Rng) {
    let mut at = 1.0 + rng.random::<f64>();
    while at < duration_s - 2.0 {
        // Bursts of hammering with rests; every blow a little different.
        for _ in 0..rng.random_range(2..7) {
            let heavy = rng.random::<f32>();
            strike(
                &mut world.sound,
                at,
                310.0 + 40.0 * rng.random::<f32>(),
                0.18 + 0.25 * heavy,
                0.35 + 0.4 * heavy,
                rng,
            );
            world.hits.push((at, 0));
            at += 0.42 + 0.5 * rng.random::<f64>();
            if at > duration_s - 2.0 {
                break;
            }
        }
        at += 0.8 + 2.2 * rng.random::<f64>();
    }
    footsteps(&mut world.sound, duration_s, rng);
    // The furnace: a roar that breathes.
    let (mut low, mut breath, mut target) = (0.0_f32, 0.5_f32, 0.5_f32);
    for (i, out) in world.sound.iter_mut().enumerate() {
        if i % 12_000 == 0 {
            target = rng.random::<f32>();
        }
        breath += (target - breath) * 4e-5;
        low += 0.06 * ((rng.random::<f32>() - 0.5) - low);
        *out += low * (0.05 + 0.09 * breath);
    }
}

fn footsteps(sound: &mut [f32], duration_s: f64, rng: &mut ChaCha8Rng) {
    let mut at = 0.5 + rng.random::<f64>();
    while at < duration_s {
        for _ in 0..rng.random_range(3..9) {
            knock(sound, at, 0.02 + 0.03 * rng.random::<f32>(), 0.012, rng);
            at += 0.48 + 0.14 * rng.random::<f64>();
        }
        at += 2.0 + 5.0 * rng.random::<f64>();
    }
}

/// The round, as (beat, bell): eight bars, of which the third and fourth come again note for note.
fn round() -> Vec<(f64, usize)> {
    const BARS: [[usize; 6]; 8] = [
        [0, 1, 2, 3, 4, 5],
        [1, 0, 3, 2, 5, 4],
        [1, 3, 0, 5, 2, 4],
        [3, 1, 5, 0, 4, 2],
        [1, 3, 0, 5, 2, 4],
        [3, 1, 5, 0, 4, 2],
        [5, 3, 4, 1, 2, 0],
        [0, 1, 2, 3, 4, 5],
    ];
    BARS.iter()
        .flatten()
        .enumerate()
        .map(|(i, &bell)| (i as f64 * 0.5 + (i / 12) as f64 * 0.25, bell))
        .collect()
}

const BELL_HZ: [f32; 6] = [1046.5, 987.8, 880.0, 784.0, 698.5, 659.3];

/// Six bells rung along with the playback track, which a loudspeaker gives the ringers: the track is the
/// same in every take to the sample, the ringing is not. Where the music was stopped, it starts again
/// some bars earlier.
fn handbells(world: &mut World, plan: &ScenePlan, rng: &mut ChaCha8Rng) {
    let mut track = vec![0.0; world.sound.len()];
    playback(&mut track, plan.duration_s);
    // (scene time, from, to) of the runs of the track.
    let runs = match plan.stopped_s {
        Some(stop) => vec![(0.0, 0.0, stop), (stop + STOP_PAUSE_S, stop - STOP_BACK_S, plan.duration_s)],
        None => vec![(0.0, 0.0, plan.duration_s)],
    };
    for (at_s, from_s, to_s) in runs {
        let samples = |s: f64| (s.max(0.0) * f64::from(WORLD_RATE)) as usize;
        let run = &track[samples(from_s).min(track.len())..samples(to_s).min(track.len())];
        add(&mut world.sound, at_s, run.iter().map(|sample| 0.25 * sample));
        for (beat, bell) in round() {
            let beat_s = PLAYBACK_LEAD_S + beat;
            let hit = at_s + beat_s - from_s + 0.012 * (rng.random::<f64>() - 0.5);
            if (from_s..to_s).contains(&beat_s) && hit < plan.duration_s - 0.5 {
                strike(&mut world.sound, hit, BELL_HZ[bell], 0.22 + 0.1 * rng.random::<f32>(), 0.5, rng);
                world.hits.push((hit, bell));
            }
        }
    }
    footsteps(&mut world.sound, plan.duration_s, rng);
}

/// How long a stopped playback rests, and how far it goes back.
const STOP_PAUSE_S: f64 = 3.0;
const STOP_BACK_S: f64 = 4.0;

/// Seconds from the start of a handbell scene to the first beat.
const PLAYBACK_LEAD_S: f64 = 4.0;

fn playback(track: &mut [f32], duration_s: f64) {
    let mut rng = ChaCha8Rng::seed_from_u64(616);
    for beat in 0..4 {
        knock(track, PLAYBACK_LEAD_S - 2.0 + f64::from(beat) * 0.5, 0.5, 0.006, &mut rng);
    }
    for (beat, bell) in round() {
        let at = PLAYBACK_LEAD_S + beat;
        if at < duration_s - 0.5 {
            strike(track, at, BELL_HZ[bell] * 0.5, 0.3, 0.4, &mut rng);
        }
    }
}

fn say(world: &mut World, at_s: f64, samples: &[f32]) {
    add(&mut world.sound, at_s, samples.iter().map(|s| s * 0.5));
    let step = WORLD_RATE as usize / 50;
    for (i, part) in samples.chunks(step).enumerate() {
        let level = (part.iter().map(|s| s * s).sum::<f32>() / part.len() as f32).sqrt();
        let index = (at_s * 50.0) as usize + i;
        if let Some(mouth) = world.mouth.get_mut(index) {
            *mouth = mouth.max((level * 7.0).min(1.0));
        }
    }
}

/// The air of the place: never digital silence.
fn air(sound: &mut [f32], level: f32, rng: &mut ChaCha8Rng) {
    let mut low = 0.0_f32;
    for out in sound {
        low += 0.2 * ((rng.random::<f32>() - 0.5) - low);
        *out += level * low;
    }
}
