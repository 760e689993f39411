//! Check points: moments that are sharp to see and hear in two clips at once.

use crate::sync::input::{OffsetAt, RATE, SampleSource};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Step of the levels that are compared, seconds.
const STEP_S: f64 = 0.005;
/// What came before a moment, seconds: against it a beginning stands out.
const BEFORE_S: f64 = 0.06;
/// What is kept free at both ends of what the two share, seconds: something is to be heard before and after.
const EDGE_S: f64 = 0.5;
/// Sound read at once, seconds.
const PIECE_S: f64 = 20.0;
/// Weakest beginning that is worth a look, decibels above what came before.
const LEAST_DB: f32 = 6.0;
/// Longest part of a clip that is looked through for a moment, seconds.
const PART_S: f64 = 180.0;

/// Where along what two clips share.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Along {
    /// Near the start.
    Start,
    /// In the middle.
    Middle,
    /// Near the end.
    End,
}

/// A moment to look at and listen to.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, TS)]
pub struct CheckPoint {
    /// Where along what the two share.
    pub along: Along,
    /// The moment in the clip's own time, seconds.
    pub clip_s: f64,
    /// The same moment in the other's own time.
    pub there_s: f64,
    /// How far it stands out of what came before, in the one in which it does so less, decibels.
    pub sharp_db: f32,
}

/// Moments near the start, in the middle and near the end of `from_s` to `to_s` of the clip's own time, at which something
/// begins in both: a clap, a consonant, a hammer. `offset` is the other's time minus the clip's. Where nothing stands out,
/// there is none.
pub fn check_points(
    clip: &dyn SampleSource,
    there: &dyn SampleSource,
    from_s: f64,
    to_s: f64,
    offset: OffsetAt,
) -> Vec<CheckPoint> {
    let (from_s, to_s) = (from_s + EDGE_S, to_s - EDGE_S);
    let length_s = to_s - from_s;
    if length_s <= 0.0 {
        return vec![];
    }
    let part_s = (length_s / 4.0).min(PART_S);
    let middle_s = 0.5 * (from_s + to_s);
    [(Along::Start, from_s), (Along::Middle, middle_s - part_s / 2.0), (Along::End, to_s - part_s)]
        .into_iter()
        .filter_map(|(along, begin_s)| {
            let (clip_s, sharp_db) = sharpest(clip, there, begin_s, begin_s + part_s, offset)?;
            Some(CheckPoint { along, clip_s, there_s: clip_s + offset(clip_s), sharp_db })
        })
        .collect()
}

/// The moment between two of the clip's own time at which the weaker of the two beginnings is strongest.
fn sharpest(
    clip: &dyn SampleSource,
    there: &dyn SampleSource,
    from_s: f64,
    to_s: f64,
    offset: OffsetAt,
) -> Option<(f64, f32)> {
    let mut best: Option<(f64, f32)> = None;
    let mut begin_s = from_s;
    while begin_s < to_s {
        let end_s = (begin_s + PIECE_S).min(to_s);
        let own = rises(clip, begin_s, end_s);
        let theirs = rises(there, begin_s + offset(begin_s), end_s + offset(begin_s));
        for (i, (a, b)) in own.iter().zip(&theirs).enumerate() {
            // Sound reaches two microphones a step apart and still is one beginning.
            let near = theirs.get(i + 1).copied().unwrap_or(0.0).max(*b);
            let sharp = a.min(near);
            if sharp > best.map_or(LEAST_DB, |(_, most)| most) {
                best = Some((begin_s + (i as f64 + 0.5) * STEP_S, sharp));
            }
        }
        begin_s = end_s;
    }
    best
}

/// How far each step's level stands above what came before it, decibels; what is loud counts for more than what is not.
fn rises(source: &dyn SampleSource, from_s: f64, to_s: f64) -> Vec<f32> {
    let step = (STEP_S * RATE) as usize;
    let before = (BEFORE_S / STEP_S) as usize;
    let count = ((to_s - from_s) / STEP_S) as usize;
    let mut samples = vec![0.0; (count + before) * step];
    source.read(((from_s - BEFORE_S) * RATE).round() as i64, &mut samples);
    let levels: Vec<f32> =
        samples.chunks(step).map(|own| own.iter().map(|v| v * v).sum::<f32>() / step as f32).collect();
    let loudest = levels.iter().copied().fold(1e-9, f32::max);
    let floor = loudest * 1e-4;
    levels
        .windows(before + 1)
        .map(|own| {
            let earlier = own[..before].iter().sum::<f32>() / before as f32;
            10.0 * ((own[before] + floor) / (earlier + floor)).log10()
        })
        .collect()
}
