//! An alignment by the rise and fall of the sound alone.

use super::{alignment::Alignment, windows::common};
use crate::{
    signal::PATTERN_RATE,
    sync::{answer::Stretch, input::HeardSound},
};

/// Standard deviation of a position known by patterns alone, seconds, and of the rate, ppm.
const BY_PATTERN: (f64, f64) = (0.015, 50.0);
/// A far microphone's room makes its pattern late by about this, half of what the worst rooms do.
const ECHO_BIAS_S: f64 = 0.012;

/// Where a clip lies by its pattern alone: so much noise or echo that no window agrees, yet the sound rises and falls
/// as the reference's does. `score` is the coarse one.
pub(crate) fn by_pattern(
    reference: &HeardSound,
    clip: &HeardSound,
    start_s: f64,
    score: f32,
) -> Option<Alignment> {
    let part = common(reference, clip, None, start_s)?;
    let lag = (start_s * f64::from(PATTERN_RATE)).round() as i64;
    let sum = |lag: i64| f64::from(clip.pattern.agreement(reference.pattern, lag).iter().sum::<f32>());
    let (before, top, after) = (sum(lag - 1), sum(lag), sum(lag + 1));
    let bend = before - 2.0 * top + after;
    let part_of_frame = if bend < 0.0 { (0.5 * (before - after) / bend).clamp(-0.7, 0.7) } else { 0.0 };
    let stretch = Stretch {
        clip_start_s: 0.0,
        clip_end_s: clip.duration_s(),
        start_s: (lag as f64 + part_of_frame) / f64::from(PATTERN_RATE) + ECHO_BIAS_S,
        rate_ppm: 0.0,
        start_sigma_s: BY_PATTERN.0,
        rate_sigma_ppm: BY_PATTERN.1,
    };
    Some(Alignment {
        stretches: vec![stretch],
        part,
        tried: 0,
        agreeing: 0,
        height: f64::from(score),
        runner_up: 0.0,
        // Two thousand lags a minute have a highest one; and of what is left half is not believed.
        log_odds: 0.25 * f64::from(score).powi(2) - 8.0,
        fine: false,
        murk: 0.0,
        inverted: false,
        sigma_s: BY_PATTERN.0,
        residuals: vec![],
        missed: vec![],
        unforced: None,
        moves: vec![],
    })
}
