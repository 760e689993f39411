//! What tells one group from another of the same day.

use super::Group;
use crate::clip::ClipId;
use serde::Serialize;
use std::collections::BTreeSet;
use ts_rs::TS;

/// How a group differs from another.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, TS)]
pub struct Difference {
    /// So many of its frames later it begins; earlier where negative.
    #[ts(type = "number")]
    pub begins: i64,
    /// So many of its frames later it ends.
    #[ts(type = "number")]
    pub ends: i64,
    /// Clips that only it has.
    pub more: usize,
    /// Clips that only the other has.
    pub fewer: usize,
}

impl Group {
    /// The clips whose pictures are in it.
    pub fn clips(&self) -> BTreeSet<ClipId> {
        self.angles.iter().flat_map(|angle| &angle.parts).map(|part| part.clip).collect()
    }

    /// How it differs from `other`, of the same axis.
    ///
    /// ```
    /// use metaxis_core::{group::Group, time::{FrameRate, Tick, Timecode}};
    ///
    /// let take = |from: i64, frames: i64| Group {
    ///     name: "1 / 1".into(),
    ///     start: Timecode::new(from, FrameRate::FPS_25, false),
    ///     axis_zero: Tick(0),
    ///     component: 0,
    ///     frames,
    ///     width: 1920,
    ///     height: 1080,
    ///     angles: vec![],
    ///     sound: None,
    ///     window: None,
    ///     grid: None,
    /// };
    /// let differs = take(1000, 500).difference(&take(990, 600));
    /// assert_eq!((differs.begins, differs.ends, differs.more), (10, -90, 0));
    /// ```
    pub fn difference(&self, other: &Self) -> Difference {
        let (own, its) = (self.clips(), other.clips());
        // Frames of the other end somewhere within these: to the nearest.
        let off = |own: i64, its: i64| {
            let by_s = (self.frame_start(own) - other.frame_start(its)).seconds();
            (by_s * self.rate().as_f64()).round() as i64
        };
        Difference {
            begins: off(0, 0),
            ends: off(self.frames, other.frames),
            more: own.difference(&its).count(),
            fewer: its.difference(&own).count(),
        }
    }

    /// The one of `others` that shares the most clips with it; none where they share none.
    pub fn nearest<'a>(&self, others: impl Iterator<Item = &'a Self>) -> Option<(usize, &'a Self)> {
        let own = self.clips();
        let shared =
            others.enumerate().map(|(at, other)| (own.intersection(&other.clips()).count(), at, other));
        let most =
            shared.filter(|(count, ..)| *count > 0).max_by_key(|(count, at, _)| (*count, usize::MAX - at))?;
        Some((most.1, most.2))
    }
}
