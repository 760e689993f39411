//! Scenes, devices that hear them, and a day placed: what the tests of the engine share.
#![allow(dead_code)]

use metaxis_core::{
    ltc::AgainstBox,
    signal::{BandReader, LISTEN_RATE, Pattern},
    sync::{
        DayClip, DayPlan, DayResult, Effort, GivenDistance, HeardSound, Label, Mode, SampleSource, SlateMark,
        pick_reference, place_day,
    },
};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use std::ops::ControlFlow;

const RATE: f64 = LISTEN_RATE as f64;

/// Knocks of coloured noise at irregular moments: something sharp to hear, never the same twice.
pub fn scene(seconds: f64, seed: u64) -> Vec<f32> {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    let mut sound: Vec<f32> =
        (0..(seconds * RATE) as usize).map(|_| 0.002 * (rng.random::<f32>() - 0.5)).collect();
    let mut at = 0.2;
    while at < seconds - 0.5 {
        let (level, decay, colour) = (
            0.1 + 0.5 * rng.random::<f32>(),
            0.01 + 0.1 * rng.random::<f32>(),
            0.1 + 0.8 * rng.random::<f32>(),
        );
        let mut low = 0.0;
        for i in 0..(decay as f64 * 6.0 * RATE) as usize {
            low += colour * ((rng.random::<f32>() - 0.5) - low);
            if let Some(out) = sound.get_mut((at * RATE) as usize + i) {
                *out += level * low * (-(i as f32) / (decay * LISTEN_RATE as f32)).exp();
            }
        }
        at += 0.1 + 0.5 * rng.random::<f64>();
    }
    sound
}

/// `sound` played `speed` times as fast with its pitch kept: frames of 60 ms laid over each other where they fit best
/// (waveform similarity overlap-add; Verhelst and Roelands 1993).
pub fn stretched(sound: &[f32], speed: f64) -> Vec<f32> {
    let (frame, reach) = ((0.06 * RATE) as usize, (0.008 * RATE) as usize);
    let hop = frame / 2;
    let count = (sound.len() as f64 / speed) as usize / hop - 2;
    let mut out = vec![0.0_f32; (count + 1) * hop + frame];
    let mut goes_on = 0;
    for i in 0..count {
        let due = (i as f64 * hop as f64 * speed) as usize;
        let fits = |at: usize| -> f32 {
            let pair = sound.get(at..at + hop).zip(sound.get(goes_on..goes_on + hop));
            pair.map_or(f32::MIN, |(a, b)| a.iter().zip(b).map(|(a, b)| a * b).sum())
        };
        let near = (due.saturating_sub(reach)..due + reach).step_by(4);
        let at = near.max_by(|a, b| fits(*a).total_cmp(&fits(*b))).unwrap_or(due);
        for (k, value) in sound[at.min(sound.len())..].iter().take(frame).enumerate() {
            let window = 0.5 - 0.5 * (std::f32::consts::TAU * k as f32 / frame as f32).cos();
            out[i * hop + k] += window * value;
        }
        goes_on = at + hop;
    }
    out
}

/// The scene as a device hears it: from `start_s` on, its clock `ppm` fast, with its own noise and gain.
/// Linear interpolation is enough here: the scene is dull at the top.
pub fn heard(
    scene: &[f32],
    start_s: f64,
    seconds: f64,
    ppm: f64,
    gain: f32,
    noise: f32,
    seed: u64,
) -> Vec<f32> {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    (0..(seconds * RATE) as usize)
        .map(|i| {
            let at = (start_s + i as f64 / RATE / (1.0 + ppm * 1e-6)) * RATE;
            let base = at.floor() as usize;
            let blend = (at - base as f64) as f32;
            let value = |j: usize| scene.get(j).copied().unwrap_or(0.0);
            gain * (value(base) * (1.0 - blend) + value(base + 1) * blend)
                + noise * (rng.random::<f32>() - 0.5)
        })
        .collect()
}

/// A recording with what its file says.
pub struct Clip {
    pub device: usize,
    pub samples: Vec<f32>,
    pub pattern: Pattern,
    pub picture: bool,
    pub reference_s: Option<f64>,
    pub labels: Vec<Label>,
    pub against_box: Option<AgainstBox>,
    pub marks: Vec<SlateMark>,
    pub distance: GivenDistance,
    /// Its sound takes no part.
    pub silent: bool,
}

pub fn clip(device: usize, samples: Vec<f32>) -> Clip {
    let mut reader = BandReader::new();
    reader.push(&samples);
    Clip {
        device,
        pattern: Pattern::new(&reader.finish()),
        samples,
        picture: device > 0,
        reference_s: None,
        labels: vec![],
        against_box: None,
        marks: vec![],
        distance: GivenDistance::None,
        silent: false,
    }
}

pub fn day(clips: &[Clip]) -> Vec<DayClip<'_>> {
    clips
        .iter()
        .map(|clip| DayClip {
            device: clip.device,
            duration_s: SampleSource::len(&clip.samples) as f64 / RATE,
            has_picture: clip.picture,
            sounds: if clip.silent { vec![] } else { vec![HeardSound::of(&clip.pattern, &clip.samples)] },
            time_reference_s: clip.reference_s,
            labels: clip.labels.clone(),
            against_box: clip.against_box,
            marks: clip.marks.clone(),
            distance: clip.distance,
        })
        .collect()
}

pub fn place(clips: &[Clip]) -> DayResult {
    let clips = day(clips);
    let reference = pick_reference(&clips).expect("a reference");
    let plan = DayPlan { reference, origin: None, effort: Effort::Normal, mode: Mode::Day };
    place_day(&clips, plan, &|_| ControlFlow::Continue(())).expect("a result")
}

/// Where a clip begins on the axis, seconds.
pub fn start(result: &DayResult, clip: usize) -> f64 {
    result.placements[clip]
        .stretches
        .first()
        .unwrap_or_else(|| panic!("{:?}", result.placements[clip]))
        .start_s
}

/// One of a clip's reasons holds `part`.
pub fn says(result: &DayResult, clip: usize, part: &str) {
    let reasons = &result.placements[clip].reasons;
    assert!(reasons.iter().any(|reason| reason.contains(part)), "“{part}” is not among {reasons:?}");
}
