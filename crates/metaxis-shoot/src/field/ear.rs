//! A microphone and what is wrong with it.

use super::{
    Bend, Course, Gap, Pickup, Room, TrueTime, noise,
    place::Places,
    rng,
    trouble::{hands, telephone, wind},
};
use crate::sound::{AutomaticGain, Interpolator, SPEED_OF_SOUND};
use rand::Rng;

/// One recording of a sound.
#[derive(Debug, Clone, PartialEq)]
pub struct EarPlan {
    /// True time of its first sample from the sound's beginning (may be negative), seconds.
    pub from_s: f64,
    /// Length in its own time, seconds.
    pub length_s: f64,
    /// Distance of the microphone, metres; of a source that walks, the one that its true time is reckoned from.
    pub distance_m: f64,
    /// What it hears from the sides.
    pub pickup: Pickup,
    /// How fast its clock runs.
    pub clock_ppm: f64,
    /// Level of the sound over the device's own diffuse noise, dB.
    pub signal_to_noise_db: f64,
    /// Recording gain; what exceeds full scale is clipped.
    pub gain_db: f64,
    /// Automatic gain control.
    pub automatic_gain: bool,
    /// Wired with inverted phase.
    pub inverted: bool,
    /// Upper end of what it transmits, hertz.
    pub up_to_hz: f64,
    /// The source wanders towards it and away by this much, metres.
    pub wander_m: f64,
    /// How the source moves.
    pub course: Course,
    /// How loud the wind is over the sound, dB.
    pub wind_db: Option<f64>,
    /// It is held in a hand that moves.
    pub hand: bool,
    /// It is a telephone, and this share of its packets never arrives.
    pub telephone: Option<f64>,
    /// How its rate changes along the recording.
    pub bends: Vec<Bend>,
    /// Losses.
    pub gaps: Vec<Gap>,
}

impl Default for EarPlan {
    fn default() -> Self {
        Self {
            from_s: 0.0,
            length_s: 60.0,
            distance_m: 1.0,
            pickup: Pickup::default(),
            clock_ppm: 0.0,
            signal_to_noise_db: 40.0,
            gain_db: 0.0,
            automatic_gain: false,
            inverted: false,
            up_to_hz: 20_000.0,
            wander_m: 0.0,
            course: Course::Stands,
            wind_db: None,
            hand: false,
            telephone: None,
            bends: vec![],
            gaps: vec![],
        }
    }
}

/// A recording and its truth.
#[derive(Debug, Clone)]
pub struct Heard {
    /// Samples.
    pub samples: Vec<f32>,
    /// When what it holds was to be heard.
    pub truth: TrueTime,
}

/// Root mean square of the mixture of white and dark noise before it is scaled.
const DIFFUSE_RMS: f32 = 0.70;

/// Records `sound` (at `rate`, as is the result) in `room`.
pub fn hear(sound: &[f32], rate: u32, room: &Room, plan: &EarPlan, seed: u64) -> Heard {
    let mut own = rng(seed, 41);
    let rate_hz = f64::from(rate);
    let delay_s = plan.distance_m / SPEED_OF_SOUND;
    let truth = TrueTime {
        from_s: plan.from_s - delay_s,
        ppm: plan.clock_ppm,
        bends: plan.bends.clone(),
        gaps: plan.gaps.clone(),
    };
    let heard_at = |clip_s: f64| truth.at(clip_s);
    let first = ((heard_at(0.0) - 2.0) * rate_hz).clamp(0.0, sound.len() as f64) as usize;
    let last = ((heard_at(plan.length_s) + 1.0) * rate_hz).clamp(first as f64, sound.len() as f64) as usize;
    let places = Places::new(&sound[first..last], rate, room, plan, seed);
    let cutoff = (2.0 * plan.up_to_hz / rate_hz).min(0.96);
    let interpolator = Interpolator::new(cutoff);
    let count = (plan.length_s * rate_hz) as usize;
    let sway = std::f64::consts::TAU / (7.0 + 9.0 * own.random::<f64>());
    let mut samples: Vec<f32> = (0..count)
        .map(|i| {
            let clip_s = i as f64 / rate_hz;
            let moved_s = plan.wander_m / SPEED_OF_SOUND * (sway * clip_s).sin();
            places.heard(clip_s, &|wet, later_s| {
                interpolator.at(wet, (heard_at(clip_s) - moved_s - later_s) * rate_hz - first as f64)
            })
        })
        .collect();
    let heard: Vec<f32> = samples.iter().copied().filter(|v| *v != 0.0).collect();
    let level = (heard.iter().map(|v| v * v).sum::<f32>() / heard.len().max(1) as f32).sqrt().max(1e-5);
    if let Some(db) = plan.wind_db {
        wind(&mut samples, rate, level, db, seed);
    }
    if plan.hand {
        hands(&mut samples, rate, level, seed);
    }
    let noise_level = level * 10_f32.powf(-plan.signal_to_noise_db as f32 / 20.0);
    let gain = 10_f32.powf(plan.gain_db as f32 / 20.0) * if plan.inverted { -1.0 } else { 1.0 };
    let mut automatic = AutomaticGain::default();
    let (mut low, mut slow) = (0.0_f32, 0.0_f32);
    for value in &mut samples {
        // Half white, half dark: air handling, traffic, the preamplifier.
        let white = noise(&mut own);
        low += 0.08 * (white - low);
        slow += 0.01 * (noise(&mut own) - slow);
        let diffuse = (0.75 * white + 3.0 * low + 6.0 * slow) / DIFFUSE_RMS;
        *value = (*value + noise_level * diffuse) * gain;
        if plan.automatic_gain {
            *value = automatic.apply(*value);
        }
        *value = value.clamp(-1.0, 1.0);
    }
    if let Some(lost) = plan.telephone {
        telephone(&mut samples, rate, lost, seed);
    }
    Heard { samples, truth }
}
