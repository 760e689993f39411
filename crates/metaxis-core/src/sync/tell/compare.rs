//! Two passes side by side.

use crate::{
    clip::ClipId,
    sync::answer::{Placement, Verdict},
};
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use ts_rs::TS;

/// What became of a clip from one pass to another.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, TS)]
pub struct Changed {
    /// The clip.
    pub clip: ClipId,
    /// Its verdict in the one pass and in the other; none where it was not in it.
    pub before: Option<Verdict>,
    /// See `before`.
    pub after: Option<Verdict>,
    /// How much later it starts, seconds of time of day; none where it has no place in one of them.
    pub moved_s: Option<f64>,
}

/// Moved by less is where it was, seconds.
const MOVED_S: f64 = 50e-6;

/// The clips that moved or changed their verdict, the farthest first. `axis_s` are the times of day of the axes' zeros.
pub fn compare(
    (before, before_zero_s): (&[(ClipId, Placement)], f64),
    (after, after_zero_s): (&[(ClipId, Placement)], f64),
) -> Vec<Changed> {
    let old: HashMap<ClipId, &Placement> =
        before.iter().map(|(clip, placement)| (*clip, placement)).collect();
    let new: HashMap<ClipId, &Placement> = after.iter().map(|(clip, placement)| (*clip, placement)).collect();
    let mut clips: Vec<ClipId> = old.keys().chain(new.keys()).copied().collect();
    clips.sort_unstable();
    clips.dedup();
    let start = |placement: Option<&&Placement>, zero_s: f64| Some(placement?.extent_s()?.0 + zero_s);
    let mut changes: Vec<Changed> = clips
        .into_iter()
        .map(|clip| {
            let (was, is) = (old.get(&clip), new.get(&clip));
            let moved_s = match (start(was, before_zero_s), start(is, after_zero_s)) {
                (Some(from), Some(to)) => Some(to - from),
                _ => None,
            };
            Changed { clip, before: was.map(|p| p.verdict), after: is.map(|p| p.verdict), moved_s }
        })
        .filter(|change| change.before != change.after || change.moved_s.is_some_and(|by| by.abs() > MOVED_S))
        .collect();
    let far = |change: &Changed| change.moved_s.map_or(f64::INFINITY, f64::abs);
    changes.sort_by(|a, b| far(b).total_cmp(&far(a)).then(a.clip.cmp(&b.clip)));
    changes
}
