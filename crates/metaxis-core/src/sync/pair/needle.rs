//! How far off a clip is at one moment, measured while it is being laid by hand.

use crate::{
    signal::PhaseMatcher,
    sync::input::{RATE, SampleSource},
};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// What is compared about the moment, seconds: long enough for a few words, short enough to say where.
const WINDOW_S: f64 = 4.0;
/// Farthest that is looked, seconds.
const MOST_S: f64 = 10.0;
/// Peaks nearer than this to the best are of the same match, seconds.
const APART_S: f64 = 0.002;
/// Least height over all lags, in their standard deviations, and least advantage over the next best.
const HEIGHT: f32 = 7.0;
const ADVANTAGE: f32 = 1.25;

/// What is left to the best match near a moment.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, TS)]
pub struct Needle {
    /// How much later the clip should lie, seconds.
    pub later_s: f64,
    /// Whether that match stands clear of all others in reach.
    pub clear: bool,
    /// Height of the match in standard deviations of all places that were looked at.
    pub height: f32,
    /// One of the two is inverted.
    pub inverted: bool,
}

/// Measures about the clip's own moment `own_s`, which now lies on the other's `there_s`, how much later the clip should
/// lie, up to `within_s` either way (no farther than ten seconds). `None` where either is silent there or did not run.
pub fn needle(
    own: &dyn SampleSource,
    own_s: f64,
    there: &dyn SampleSource,
    there_s: f64,
    within_s: f64,
) -> Option<Needle> {
    let samples = |seconds: f64| (seconds * RATE).round() as usize;
    // A clip shorter than the window is compared as a whole.
    let length_s = |source: &dyn SampleSource| source.len() as f64 / RATE;
    let window_s = WINDOW_S.min(length_s(own)).min(length_s(there));
    let (window, range) = (samples(window_s), samples(within_s.clamp(0.01, MOST_S)));
    let runs =
        (0.0..=length_s(own)).contains(&own_s) && (-within_s..=length_s(there) + within_s).contains(&there_s);
    if window < 64 || !runs {
        return None;
    }
    // Near its ends what the clip has lies to one side of the moment.
    let from_s = (own_s - window_s / 2.0).clamp(0.0, (length_s(own) - window_s).max(0.0));
    let from = (from_s * RATE).round();
    let there_from = from + (there_s - own_s) * RATE;
    let whole = there_from.round();
    let (mut clip, mut reference) = (vec![0.0; window], vec![0.0; window + 2 * range]);
    own.read(from as i64, &mut clip);
    there.read(whole as i64 - range as i64, &mut reference);
    let mut matcher = PhaseMatcher::new(window, range);
    matcher.correlate(&clip, &reference)?;
    let peaks = matcher.peaks(2, 0.0, samples(APART_S));
    let best = *peaks.first()?;
    let next = peaks.get(1).map_or(0.0, |peak| peak.height.abs());
    let height = best.height.abs();
    Some(Needle {
        later_s: (matcher.refined(best) + whole - there_from) / RATE,
        clear: height >= HEIGHT && height >= ADVANTAGE * next,
        height,
        inverted: best.height < 0.0,
    })
}
