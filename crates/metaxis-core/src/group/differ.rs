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
    ///     removed: vec![],
    ///     seams: vec![],
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

    /// The one of `others` that is most like it, with its number: at least half of the clips of both are in both. None where
    /// there is none.
    ///
    /// ```
    /// # use metaxis_core::{clip::{ClipId, DeviceId}, group::{Angle, AnglePart, Group}, sync::Stretch, time::{FrameRate, Tick, Timecode}};
    /// # let group = |clips: std::ops::Range<i64>| {
    /// #     let part = |clip: i64| AnglePart {
    /// #         clip: ClipId(clip),
    /// #         from_frame: clip,
    /// #         to_frame: clip + 1,
    /// #         stretch: Stretch::whole(0.04, clip as f64 * 0.04),
    /// #         picture_delay_s: 0.0,
    /// #         rate: FrameRate::FPS_25,
    /// #         still: false,
    /// #     };
    /// #     Group {
    /// #         name: "1 / 1".into(),
    /// #         start: Timecode::new(0, FrameRate::FPS_25, false),
    /// #         axis_zero: Tick(0),
    /// #         component: 0,
    /// #         frames: 100,
    /// #         width: 16,
    /// #         height: 9,
    /// #         angles: vec![Angle::of(DeviceId(1), clips.map(part).collect())],
    /// #         sound: None,
    /// #         window: None,
    /// #         removed: vec![],
    /// #         seams: vec![],
    /// #         grid: None,
    /// #     }
    /// # };
    /// let (day, take, next) = (group(0..100), group(0..4), group(4..9));
    /// let there = [day, take, next];
    /// // A clip more than the take, and far fewer than the day.
    /// assert_eq!(group(0..5).nearest(there.iter()).map(|(number, _)| number), Some(1));
    /// assert!(group(2..6).nearest(there.iter()).is_none());
    /// ```
    pub fn nearest<'a>(&self, others: impl Iterator<Item = &'a Self>) -> Option<(usize, &'a Self)> {
        let own = self.clips();
        let alike = |(number, other): (usize, &'a Self)| {
            let its = other.clips();
            let (both, all) = (own.intersection(&its).count(), own.union(&its).count());
            (both > 0 && 2 * both >= all).then_some((both as f64 / all as f64, number, other))
        };
        let most =
            others.enumerate().filter_map(alike).max_by(|a, b| a.0.total_cmp(&b.0).then(b.1.cmp(&a.1)))?;
        Some((most.1, most.2))
    }
}
