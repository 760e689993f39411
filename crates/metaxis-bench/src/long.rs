//! Long recordings: music that repeats itself to the sample, and clocks that bend.

use crate::{
    Shoot,
    world::{crystal, dice, programme, recorder},
};
use metaxis_core::{
    signal::LISTEN_RATE,
    sync::{Effort, Mode},
};
use metaxis_shoot::field::{Bend, EarPlan, Gap, Room, Sound};
use rand::Rng;
use rand_chacha::ChaCha8Rng;

/// Where in a long programme the loops are.
#[derive(Clone, Copy)]
enum Loops {
    After,
    Before,
    Between,
    /// All the time, 10 dB below the speech.
    Under,
}

fn talk(seconds: f64, rng: &mut ChaCha8Rng) -> Vec<f32> {
    Sound::Speech { voices: rng.random(), words: rng.random() }.make(seconds, LISTEN_RATE)
}

/// Tunes of two to six minutes, each with a bar of its own; every third without a lead.
fn loops(seconds: f64, rng: &mut ChaCha8Rng) -> Vec<f32> {
    let mut sound = vec![];
    let count = (seconds * f64::from(LISTEN_RATE)) as usize;
    while sound.len() < count {
        let bar_ms = [1000, 2000, 4000][rng.random_range(0..3)];
        let lead = rng.random_range(0..3) > 0;
        let length = 120.0 + 240.0 * rng.random::<f64>();
        sound.extend(Sound::Loops { bar_ms, tune: rng.random(), lead }.make(length, LISTEN_RATE));
    }
    sound.truncate(count);
    sound
}

fn speech_and_loops(seconds: f64, how: Loops, rng: &mut ChaCha8Rng) -> Vec<f32> {
    let half = 0.5 * seconds;
    match how {
        Loops::After => [talk(half, rng), loops(half, rng)].concat(),
        Loops::Before => [loops(half, rng), talk(half, rng)].concat(),
        Loops::Between => [talk(0.5 * half, rng), loops(half, rng), talk(0.5 * half, rng)].concat(),
        Loops::Under => {
            let under = loops(seconds, rng);
            let level = |sound: &[f32]| {
                (sound.iter().map(|v| f64::from(v * v)).sum::<f64>() / sound.len() as f64).sqrt()
            };
            let over = talk(seconds, rng);
            let gain = (0.316 * level(&over) / level(&under)) as f32;
            over.iter().zip(&under).map(|(over, under)| over + gain * under).collect()
        }
    }
}

/// A recorder and two cameras that run all along; the second of every other shoot loses samples.
fn long_day(seed: u64, salt: u64, seconds: f64) -> Shoot {
    let mut rng = dice(seed, salt);
    let how = [Loops::After, Loops::Before, Loops::Between, Loops::Under][(seed % 4) as usize];
    let sound = speech_and_loops(seconds, how, &mut rng);
    let room = Room::new(0.3 + 0.5 * rng.random::<f64>(), rng.random());
    let mut shoot = Shoot::new(Mode::Day, Effort::Normal);
    shoot.record(0, 0, &sound, &room, &recorder(seconds - 2.0), true, rng.random());
    for device in 1..=2 {
        let from_s = 1.0 + 20.0 * rng.random::<f64>();
        let mut gaps = vec![];
        let mut at_s = 0.0;
        while device == 2 && seed % 2 == 1 && gaps.len() < 3 {
            at_s += 60.0 + 0.3 * seconds * rng.random::<f64>();
            gaps.push(Gap { at_s, lost_s: 0.005 * 400_f64.powf(rng.random::<f64>()) });
        }
        gaps.retain(|gap| gap.at_s < seconds - 60.0);
        let plan = EarPlan {
            from_s,
            length_s: seconds - from_s - 5.0,
            distance_m: 1.0 + 4.0 * rng.random::<f64>(),
            clock_ppm: crystal(&mut rng),
            signal_to_noise_db: 12.0,
            gaps,
            ..EarPlan::default()
        };
        shoot.record(device, 0, &sound, &room, &plan, true, rng.random());
    }
    shoot
}

/// 20 to 50 minutes.
pub(crate) fn looped(seed: u64) -> Shoot {
    let seconds = 1_200.0 + 1_800.0 * dice(seed, 20).random::<f64>();
    long_day(seed, 21, seconds)
}

/// Four hours.
pub(crate) fn looped_for_hours(seed: u64) -> Shoot {
    long_day(seed, 22, 4.0 * 3_600.0)
}

/// Takes to a track that is made of loops, stopped and started again.
pub(crate) fn looped_track(seed: u64) -> Shoot {
    let mut rng = dice(seed, 23);
    let bar_ms = [1000, 2000, 4000][(seed % 3) as usize];
    let track = Sound::Loops { bar_ms, tune: rng.random(), lead: true }.make(240.0, LISTEN_RATE);
    let room = Room::new(0.5, rng.random());
    let mut shoot = Shoot::new(Mode::Playback, Effort::Normal);
    let direct = EarPlan { length_s: 240.0, distance_m: 0.5, signal_to_noise_db: 60.0, ..EarPlan::default() };
    shoot.record(0, 0, &track, &Room::new(0.05, 1), &direct, true, rng.random());
    for take in 0..5 {
        let voices = talk(260.0, &mut rng);
        let heard: Vec<f32> = track.iter().zip(&voices).map(|(track, voice)| track + 0.5 * voice).collect();
        let mut plan = EarPlan {
            from_s: 100.0 * rng.random::<f64>(),
            length_s: 40.0 + 70.0 * rng.random::<f64>(),
            distance_m: 2.0 + 4.0 * rng.random::<f64>(),
            clock_ppm: crystal(&mut rng),
            signal_to_noise_db: 10.0,
            ..EarPlan::default()
        };
        if take >= 3 {
            let lost_s = 5.0 + 10.0 * rng.random::<f64>();
            let at_s = 15.0 + (plan.length_s - 30.0) * rng.random::<f64>();
            plan.gaps = vec![Gap { at_s, lost_s }];
        }
        shoot.record(1 + take % 2, 0, &heard, &room, &plan, true, rng.random());
    }
    shoot
}

/// Clocks that warm up, cool down or are carried from one temperature into another: two of them over 40 minutes, every
/// fourth time over up to four hours.
pub(crate) fn bends(seed: u64) -> Shoot {
    let mut rng = dice(seed, 24);
    let seconds = if seed.is_multiple_of(4) { 7_200.0 * (1.0 + rng.random::<f64>()) } else { 2_400.0 };
    let mut sound = vec![];
    while (sound.len() as f64) < seconds * f64::from(LISTEN_RATE) {
        sound.extend(programme(&mut rng).make(300.0, LISTEN_RATE));
    }
    let room = Room::new(0.3 + 0.5 * rng.random::<f64>(), rng.random());
    let mut shoot = Shoot::new(Mode::Day, Effort::Normal);
    // The recorder warms up too, every other time.
    let warming = |rng: &mut ChaCha8Rng| Bend::Warming {
        by_ppm: (2.0 + 8.0 * rng.random::<f64>()) * if rng.random() { 1.0 } else { -1.0 },
        constant_s: 300.0 + 900.0 * rng.random::<f64>(),
    };
    let bends = if seed % 2 == 1 { vec![warming(&mut rng)] } else { vec![] };
    let plan = EarPlan { bends, ..recorder(seconds - 2.0) };
    shoot.record(0, 0, &sound, &room, &plan, true, rng.random());
    for device in 1..=2 {
        let from_s = 1.0 + 20.0 * rng.random::<f64>();
        let length_s = seconds - from_s - 5.0;
        let bend = if device == 1 {
            warming(&mut rng)
        } else {
            Bend::Step {
                at_s: length_s * (0.1 + 0.7 * rng.random::<f64>()),
                by_ppm: (2.0 + 8.0 * rng.random::<f64>()) * if rng.random() { 1.0 } else { -1.0 },
                constant_s: 300.0 + 600.0 * rng.random::<f64>(),
            }
        };
        // Now and then it loses samples besides.
        let lost_s = 0.005 * 400_f64.powf(rng.random::<f64>());
        let gap = Gap { at_s: length_s * (0.1 + 0.8 * rng.random::<f64>()), lost_s };
        let plan = EarPlan {
            from_s,
            length_s,
            distance_m: 1.0 + 4.0 * rng.random::<f64>(),
            clock_ppm: crystal(&mut rng),
            signal_to_noise_db: 12.0,
            bends: vec![bend],
            gaps: if rng.random_range(0..3) == 0 { vec![gap] } else { vec![] },
            ..EarPlan::default()
        };
        shoot.record(device, 0, &sound, &room, &plan, true, rng.random());
    }
    shoot
}
