//! Which of a room's arrivals is the direct sound.
//!
//! Correlations of many windows, laid over each other along the fit, show the room: the direct sound and its echoes.
//! A far microphone's echoes come after its direct sound, and far from the source several of them together can
//! correlate better than the direct sound alone. Echoes of the clip lie at earlier offsets (reference minus clip
//! time), those of the reference at later ones; the side on which the correlation dies away slowly tells whose room
//! it is, and where the silence of the other side ends is the direct sound.

use super::{pieces::PieceFit, windows::Look};
use crate::signal::LISTEN_RATE;
use crate::signal::scaled_median;

/// The direct sound is at least this share of the highest arrival,
const WEAKEST: f32 = 0.3;
/// and this many deviations above what comes before it.
const CLEAR: f32 = 8.0;
/// Arrivals farther apart than this (12 ms) are not one place.
const FAR_OFF: usize = LISTEN_RATE as usize * 12 / 1000;
/// How much a second such arrival adds to the murk: one of 80 % makes the place doubtful.
const SECOND: f32 = 0.17;
/// A peak that has one of this share of it on the other side of the fit is no echo but a tone.
const TONAL: f32 = 0.7;
/// A line is left for another that is this much higher.
const CLEARLY: f32 = 1.08;
/// An arrival of this share is strong.
const STRONG: f32 = 0.45;
/// It lies within this many samples (1.5 ms) of where silence ends.
const ONSET_WIDTH: usize = 24;
/// An arrival nearer than this to the fit, samples (0.3 ms), is the one the fit lies on.
const SAME_ARRIVAL: usize = 5;
/// Echoes later than this are not mistaken for direct sound, samples.
const REACH: usize = LISTEN_RATE as usize * 40 / 1000;
/// Skewness below this does not say whose room it is.
const LOPSIDED: f64 = 0.35;
/// It takes more to believe that the reference, mostly near, echoes more than the clip.
const REFERENCE_ECHOES: f64 = 0.8;
/// Skewness from which on one side is the echoes' and the other not.
const ONE_SIDED: f64 = 0.25;
/// Fewer windows show no room.
const FEWEST: usize = 2;

/// Where the direct sound lies against a fit, and how far to trust that.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub(crate) struct FirstArrival {
    /// How much later than the fit's offset it lies, samples.
    pub later: f64,
    /// What the lags without echoes scatter (or a share of the second arrival) over the height of the highest: near 0
    /// one arrival stands alone; where it is high echoes are as strong as the direct sound and may have been taken for it.
    pub murk: f64,
}

/// Finds the direct sound; the fit's own offset where nothing is clearer.
pub(super) fn first_arrival(windows: &[Look], fit: &PieceFit, sign: f32) -> FirstArrival {
    let Some(size) = windows.first().map(|window| window.lags.len()) else { return FirstArrival::default() };
    if windows.len() < FEWEST {
        return FirstArrival::default();
    }
    let response = overlaid(windows, fit, sign, size);
    let middle = size / 2;
    let near = middle.saturating_sub(REACH)..(middle + REACH).min(size - 1);
    // The quieter end shows what is no echo.
    let (early, late) = (spread_of(&response[..near.start]), spread_of(&response[near.end..]));
    let skew = skewness(&response[near.clone()], 3.0 * early.min(late));
    // The fit lies on some arrival within its tolerance.
    let at_fit =
        (middle - 8..=middle + 8).max_by(|&a, &b| response[a].total_cmp(&response[b])).unwrap_or(middle);
    let highest = near.clone().map(|i| response[i]).fold(0.0, f32::max);
    let top = near.clone().max_by(|&a, &b| response[a].total_cmp(&response[b])).unwrap_or(middle);
    // Another arrival half a frame away and nearly as high may be the direct sound (on the side of the echoes it is
    // an echo).
    let may_be_direct = |i: usize| {
        i.abs_diff(top) > FAR_OFF && !(skew < -ONE_SIDED && i < top || skew > ONE_SIDED && i > top)
    };
    let second = (0..size).filter(|&i| may_be_direct(i)).map(|i| response[i]).fold(0.0, f32::max);
    let murk = f64::from(early.min(late).max(SECOND * second) / highest.max(f32::MIN_POSITIVE));
    // Seen so that echoes follow.
    let seen: Vec<f32> = match skew {
        skew if skew < -LOPSIDED => response.iter().rev().copied().collect(),
        skew if skew > REFERENCE_ECHOES => response.clone(),
        _ => return FirstArrival { later: 0.0, murk },
    };
    let there = |i: usize| if skew < 0.0 { size - 1 - i } else { i };
    let spread = if skew < 0.0 { late } else { early };
    let from = onset(&seen, middle);
    let after_silence = (from..from + ONSET_WIDTH)
        .filter(|&i| seen[i] >= (WEAKEST * highest).max(CLEAR * spread))
        .max_by(|&a, &b| seen[a].total_cmp(&seen[b]));
    // Where silence ends too slowly: the first arrival that is strong.
    let strong = |i: &usize| {
        let i = *i;
        let floor = (STRONG * highest).max(CLEAR * spread);
        seen[i] >= floor && seen[i] >= seen[i - 1] && seen[i] > seen[i + 1]
    };
    let first = || (middle.saturating_sub(REACH).max(1)..(middle + REACH).min(size - 1)).find(strong);
    let arrival = after_silence.or_else(first).map(there);
    // Tones repeat to both sides alike; a room does not.
    let is_tone = |first: usize| {
        let mirrored = (2 * at_fit).checked_sub(first).filter(|at| (8..size - 8).contains(at));
        mirrored.is_some_and(|at| {
            let there = response[at - 6..=at + 6].iter().copied().fold(0.0, f32::max);
            there > TONAL * response[first]
        })
    };
    let later = match arrival {
        Some(first) if first.abs_diff(at_fit) > SAME_ARRIVAL && !is_tone(first) => {
            refined(&response, first) - refined(&response, at_fit)
        }
        _ => 0.0,
    };
    FirstArrival { later, murk }
}

/// How far from a line the windows add up highest, in samples, where that is clearly not on the line.
pub(super) fn higher_elsewhere(windows: &[Look], fit: &PieceFit, sign: f32) -> Option<f64> {
    let size = windows.first()?.lags.len();
    if windows.len() < FEWEST {
        return None;
    }
    let response = overlaid(windows, fit, sign, size);
    let middle = size / 2;
    let on_line = (middle - 8..=middle + 8).map(|i| response[i]).fold(0.0, f32::max);
    let top = (1..size - 1).max_by(|&a, &b| response[a].total_cmp(&response[b]))?;
    let clearly = response[top] > CLEARLY * on_line && top.abs_diff(middle) > ONSET_WIDTH;
    clearly.then_some(top as f64 - middle as f64)
}

/// Where silence gives way to sound: the moment with the largest ratio of the energy in the 15 ms after it to that in
/// the 15 ms before it.
fn onset(seen: &[f32], middle: usize) -> usize {
    const SIDE: usize = LISTEN_RATE as usize * 15 / 1000;
    let mut sums = vec![0.0_f64; seen.len() + 1];
    for (i, value) in seen.iter().enumerate() {
        sums[i + 1] = sums[i] + f64::from(value * value);
    }
    let low = middle.saturating_sub(REACH).max(SIDE);
    let high = (middle + REACH / 4).min(seen.len() - SIDE - ONSET_WIDTH - 1);
    let ratio = |i: usize| (sums[i + SIDE] - sums[i]) / (sums[i] - sums[i - SIDE]).max(1e-12);
    let best = (low..high).max_by(|&a, &b| ratio(a).total_cmp(&ratio(b))).unwrap_or(middle);
    best.saturating_sub(2)
}

fn overlaid(windows: &[Look], fit: &PieceFit, sign: f32, size: usize) -> Vec<f32> {
    let mut sum = vec![0.0_f32; size];
    for window in windows {
        let piece = fit
            .pieces
            .iter()
            .find(|piece| (piece.first_s - 0.5..=piece.last_s + 0.5).contains(&window.clip_s));
        let Some(piece) = piece else { continue };
        let expected = fit.offset_s(piece, window.clip_s) * f64::from(LISTEN_RATE);
        let shift = expected.round() as i64 - window.offset;
        for (i, out) in sum.iter_mut().enumerate() {
            if let Some(value) = usize::try_from(i as i64 + shift).ok().and_then(|at| window.lags.get(at)) {
                *out += value * sign;
            }
        }
    }
    sum
}

fn spread_of(values: &[f32]) -> f32 {
    let mut sizes: Vec<f32> = values.iter().map(|v| v.abs()).collect();
    scaled_median(&mut sizes).unwrap_or(0.0)
}

/// Skewness of the energy above `floor` over the lags.
fn skewness(response: &[f32], floor: f32) -> f64 {
    let energy: Vec<f64> = response.iter().map(|v| if *v > floor { f64::from(v * v) } else { 0.0 }).collect();
    let total: f64 = energy.iter().sum::<f64>().max(1e-12);
    let moment = |power: i32, about: f64| {
        energy.iter().enumerate().map(|(i, e)| e * (i as f64 - about).powi(power)).sum::<f64>() / total
    };
    let mean = moment(1, 0.0);
    moment(3, mean) / moment(2, mean).max(1.0).powf(1.5)
}

/// Place of a peak below a sample, by a parabola.
fn refined(response: &[f32], at: usize) -> f64 {
    let (left, top, right) =
        (f64::from(response[at - 1]), f64::from(response[at]), f64::from(response[at + 1]));
    let bend = left - 2.0 * top + right;
    at as f64 + if bend < 0.0 { 0.5 * (left - right) / bend } else { 0.0 }
}
