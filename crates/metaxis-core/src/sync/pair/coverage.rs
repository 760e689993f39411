//! Which parts of a clip agreeing windows cover.

use super::{alignment::Alignment, passage::Passage};
use crate::{signal::PATTERN_RATE, sync::input::HeardSound};

/// A window reaches this far to either side, seconds.
const REACH_S: f64 = 1.0;
/// Windows farther apart than this leave something between them uncovered, whatever they say, seconds.
const SPACED_S: f64 = 10.0;

/// Every window that was looked at, in order, and whether it counts: one that agrees while neither of its neighbours does
/// is chance.
fn windows(alignment: &Alignment) -> Vec<(f64, bool)> {
    let agreeing = alignment.residuals.iter().map(|residual| (residual.0, true));
    let mut all: Vec<(f64, bool)> = agreeing.chain(alignment.missed.iter().map(|at| (*at, false))).collect();
    all.sort_by(|a, b| a.0.total_cmp(&b.0));
    let agrees = |i: Option<usize>| i.and_then(|i| all.get(i)).is_some_and(|window| window.1);
    (0..all.len())
        .map(|i| (all[i].0, all[i].1 && (agrees(i.checked_sub(1)) || agrees(Some(i + 1)))))
        .collect()
}

/// The moments of the windows that agree and are not chance.
pub(crate) fn covered_at(alignment: &Alignment) -> Vec<f64> {
    windows(alignment).into_iter().filter(|window| window.1).map(|window| window.0).collect()
}

/// Parts of `whole` of `least_s` and more without an agreeing window, the longest first.
pub(crate) fn uncovered(alignment: &Alignment, whole: Passage, least_s: f64) -> Vec<Passage> {
    // A window reaches to either side; what begins or ends between two is theirs.
    let mut bounds = vec![whole.from_s - REACH_S];
    bounds.extend(windows(alignment).iter().filter(|window| window.1).map(|window| window.0));
    bounds.push(whole.to_s + REACH_S);
    let mut parts: Vec<Passage> = bounds
        .windows(2)
        .map(|pair| Passage { from_s: pair[0] + REACH_S, to_s: pair[1] - REACH_S })
        .filter(|part| part.to_s - part.from_s >= least_s)
        .collect();
    parts.sort_by(|a, b| (b.to_s - b.from_s).total_cmp(&(a.to_s - a.from_s)));
    parts
}

/// The share of what was compared that agreeing windows stand for: each for half the way to the next one looked at, at
/// most half of [`SPACED_S`].
pub(crate) fn share(alignment: &Alignment) -> f64 {
    let (all, part) = (windows(alignment), alignment.part);
    let half_way = |i: usize, j: Option<usize>, end_s: f64| {
        let to = j.and_then(|j| all.get(j)).map_or(end_s, |next| 0.5 * (all[i].0 + next.0));
        (to - all[i].0).abs().min(0.5 * SPACED_S)
    };
    let covered: f64 = (0..all.len())
        .filter(|i| all[*i].1)
        .map(|i| half_way(i, i.checked_sub(1), part.from_s) + half_way(i, Some(i + 1), part.to_s))
        .sum();
    (covered / (part.to_s - part.from_s).max(1e-9)).clamp(0.0, 1.0)
}

/// Whether something rises and falls in a part of a sound as much as a third of what does in all of it.
pub(crate) fn has_sound(sound: &HeardSound, part: Passage) -> bool {
    let frame = |s: f64| (s.max(0.0) * f64::from(PATTERN_RATE)) as usize;
    let power = |frames: &[[i8; crate::signal::BANDS]]| {
        let sum: f64 = frames.iter().flatten().map(|value| f64::from(*value).powi(2)).sum();
        sum / frames.len().max(1) as f64
    };
    let frames = sound.pattern.frames();
    let (from, to) = (frame(part.from_s).min(frames.len()), frame(part.to_s).min(frames.len()));
    from < to && power(&frames[from..to]) > 0.1 * power(frames)
}
