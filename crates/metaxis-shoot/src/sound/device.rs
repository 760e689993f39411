//! A device hears the world with its own microphone, clock and faults.

use super::{Interpolator, SPEED_OF_SOUND, TimecodeBox, WORLD_RATE, World, room::in_room};
use crate::scenario::{AudioTimecode, ClipPlan, DevicePlan, SignalPlan};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use rand_chacha::rand_core::RngCore;
use std::f64::consts::TAU;

/// The sound of one clip: channels of samples at the device's rate.
pub struct Recording {
    /// One vector a channel.
    pub channels: Vec<Vec<f32>>,
}

/// True time of the clip's own time `clip_s`, seconds since midnight: the device's clock and its losses.
pub fn true_time(device: &DevicePlan, clip: &ClipPlan, start_s: f64, clip_s: f64) -> f64 {
    let lost: f64 = clip.lost.iter().filter(|loss| loss.at_s <= clip_s).map(|loss| loss.length_s).sum();
    start_s + clip_s / (1.0 + device.clock_ppm * 1e-6) + lost
}

/// Records `samples` samples of the world from true time `start_s` on.
#[allow(clippy::too_many_arguments)]
pub fn record(
    world: &World,
    device: &DevicePlan,
    clip: &ClipPlan,
    room_s: f64,
    start_s: f64,
    samples: usize,
    date: &str,
    seed: u64,
) -> Recording {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    let microphones = match device.channels.len() {
        5 => 3,
        1 => 1,
        n => n.min(2),
    };
    let interpolator =
        Interpolator::new((f64::from(device.sample_rate) / f64::from(WORLD_RATE)).min(1.0) * 0.96);
    let mut heard: Vec<Vec<f32>> = (0..microphones)
        .map(|_| {
            let mut own = ChaCha8Rng::seed_from_u64(rng.next_u64());
            microphone(world, device, clip, room_s, start_s, samples, &interpolator, &mut own)
        })
        .collect();
    // A recorder with five tracks: mix left and right of boom and two personal microphones, then these.
    if let [boom, one, two] = &heard[..] {
        let mix = |side: &[f32]| boom.iter().zip(side).map(|(a, b)| 0.6 * a + 0.4 * b).collect();
        heard = vec![mix(one), mix(two), boom.clone(), one.clone(), two.clone()];
    }
    if device.audio_timecode == AudioTimecode::Left {
        heard[0] = timecode(device, clip, start_s, samples, date, &mut rng);
    }
    Recording { channels: heard }
}

/// What the channel records that a timecode box is plugged into.
fn timecode(
    device: &DevicePlan,
    clip: &ClipPlan,
    start_s: f64,
    samples: usize,
    date: &str,
    rng: &mut ChaCha8Rng,
) -> Vec<f32> {
    let plan = &device.signal;
    let mut steady = TimecodeBox::planned(plan, date);
    let (from_s, by) = plan.jumps.unwrap_or((f64::INFINITY, 0));
    let mut jumped =
        TimecodeBox::planned(&SignalPlan { late_frames: plan.late_frames + by, ..plan.clone() }, date);
    let gain = |dbfs: f64| if dbfs < -120.0 { 0.0 } else { 10_f32.powf(dbfs as f32 / 20.0) };
    let [level, noise, hum] = [plan.level_dbfs, plan.noise_dbfs, plan.hum_dbfs].map(gain);
    let sign = if plan.inverted { -level } else { level };
    (0..samples)
        .map(|i| {
            let clip_s = i as f64 / f64::from(device.sample_rate);
            let at = true_time(device, clip, start_s, clip_s);
            let loose = plan.loose_s.is_some_and(|(from, to)| (from..to).contains(&clip_s));
            let signal = if loose {
                0.0
            } else if clip_s < from_s {
                sign * steady.level(at)
            } else {
                sign * jumped.level(at)
            };
            let mut value = signal;
            if noise > 0.0 {
                value += noise * (rng.random::<f32>() * 2.0 - 1.0);
            }
            if hum > 0.0 {
                value += hum * (TAU * 50.0 * at).sin() as f32;
            }
            value.clamp(-1.0, 1.0)
        })
        .collect()
}

#[allow(clippy::too_many_arguments)]
fn microphone(
    world: &World,
    device: &DevicePlan,
    clip: &ClipPlan,
    room_s: f64,
    start_s: f64,
    samples: usize,
    interpolator: &Interpolator,
    rng: &mut ChaCha8Rng,
) -> Vec<f32> {
    if clip.silent {
        return vec![0.0; samples];
    }
    let rate = f64::from(device.sample_rate);
    // Only what the clip hears, with a second to spare for the room.
    let world_rate = f64::from(WORLD_RATE);
    let first = ((start_s - world.start_s - 1.5) * world_rate).clamp(0.0, world.sound.len() as f64) as usize;
    let end = true_time(device, clip, start_s, samples as f64 / rate) - world.start_s + 0.5;
    let last = ((end * world_rate).max(0.0) as usize).clamp(first, world.sound.len());
    let dry = &world.sound[first..last];
    let wet = if clip.direct { dry.to_vec() } else { in_room(dry, room_s, clip.distance_m(device), rng) };
    let delay_s = if clip.direct { 0.0 } else { clip.distance_m(device) / SPEED_OF_SOUND };
    let gain = 10_f32.powf(device.gain_db as f32 / 20.0);
    let noise = 10_f32.powf(device.noise_dbfs as f32 / 20.0) * 3_f32.sqrt();
    let mut automatic = AutomaticGain::default();
    (0..samples)
        .map(|i| {
            let clip_s = i as f64 / rate;
            let at = true_time(device, clip, start_s, clip_s) - delay_s - world.start_s;
            let mut value = interpolator.at(&wet, at * world_rate - first as f64) * gain;
            value += noise * (rng.random::<f32>() * 2.0 - 1.0);
            if device.automatic_gain {
                value = automatic.apply(value);
            }
            value.clamp(-1.0, 1.0)
        })
        .collect()
}

/// Fast down, slow up, as in small cameras.
pub(crate) struct AutomaticGain {
    level: f32,
}

impl Default for AutomaticGain {
    fn default() -> Self {
        Self { level: 0.1 }
    }
}

impl AutomaticGain {
    pub fn apply(&mut self, value: f32) -> f32 {
        let size = value.abs();
        self.level += (size - self.level) * if size > self.level { 2e-3 } else { 1e-5 };
        value * (0.2 / self.level.max(0.01)).min(12.0)
    }
}
