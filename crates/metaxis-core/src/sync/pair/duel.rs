//! Two places of one passage, window by window: where the sound repeats itself both agree, and only the true one agrees
//! also in what does not repeat.

use super::{passage::Passage, windows::Windows};
use crate::sync::input::{OffsetAt, Pair};

/// Windows compared, at most, and how far apart they are at least, seconds.
const WINDOWS: usize = 24;
const APART_S: f64 = 0.96;
/// Fewer decide nothing.
const FEWEST: usize = 6;
/// A place wins by this many standard errors of the mean difference.
const WINS: f64 = 4.0;
/// Heights are compared near the line within this many samples (a quarter of a millisecond).
const ON: usize = 4;

/// Who fits a passage better.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Winner {
    /// The first place.
    One,
    /// The second.
    Other,
    /// Neither, beyond chance.
    Neither,
}

/// Compares the heights of the waves' agreement at two places, over all of a passage.
pub(crate) fn duel(
    windows: &mut Windows,
    pair: Pair,
    passage: Passage,
    (one, other): (OffsetAt, OffsetAt),
    sign: f32,
) -> Winner {
    let length = passage.to_s - passage.from_s;
    let count = ((length / APART_S) as usize).clamp(1, WINDOWS);
    let moments: Vec<f64> =
        (0..count).map(|i| passage.from_s + length * (i as f64 + 0.5) / count as f64).collect();
    let mut heights = |offset: OffsetAt| -> Vec<(f64, f64)> {
        windows
            .looks(pair, &moments, offset)
            .iter()
            .map(|look| {
                let middle = look.lags.len() / 2;
                let near = look.lags[middle - ON..=middle + ON].iter();
                (look.clip_s, f64::from(near.map(|v| v * sign).fold(1.0, f32::max)))
            })
            .collect()
    };
    let (ours, theirs) = (heights(one), heights(other));
    let differences: Vec<f64> = ours
        .iter()
        .filter_map(|(at, own)| {
            let rival = theirs.iter().find(|(there, _)| (there - at).abs() < 1e-6)?.1;
            Some((own / rival).ln())
        })
        .collect();
    if differences.len() < FEWEST {
        return Winner::Neither;
    }
    let count = differences.len() as f64;
    let mean = differences.iter().sum::<f64>() / count;
    let variance = differences.iter().map(|d| (d - mean).powi(2)).sum::<f64>() / (count - 1.0);
    // A scatter of next to nothing is luck.
    let error = (variance / count).sqrt().max(0.005);
    match mean / error {
        by if by > WINS => Winner::One,
        by if by < -WINS => Winner::Other,
        _ => Winner::Neither,
    }
}
