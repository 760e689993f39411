//! What differs between two lines of a group.

use super::Line;
use crate::group::AngleId;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Frames in which two lines show different angles.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct LineDifference {
    /// First frame.
    #[ts(type = "number")]
    pub from: i64,
    /// First frame behind.
    #[ts(type = "number")]
    pub to: i64,
    /// What the one shows there,
    pub own: AngleId,
    /// and the other.
    pub other: AngleId,
}

impl Line {
    /// Where this line shows another angle than `other`, in order, piece by piece; as far as both reach.
    ///
    /// ```
    /// use metaxis_core::{group::AngleId, line::{Line, LineEdit}};
    ///
    /// let (wide, close) = (AngleId(1), AngleId(2));
    /// let (mut one, mut other) = (Line::new(100, wide), Line::new(100, wide));
    /// one.apply(&LineEdit::take(40, close))?;
    /// other.apply(&LineEdit::take(50, close))?;
    /// let differ: Vec<_> = one.differences(&other).iter().map(|own| (own.from, own.to, own.own)).collect();
    /// assert_eq!(differ, [(40, 50, close)]);
    /// # Ok::<(), metaxis_core::line::LineError>(())
    /// ```
    pub fn differences(&self, other: &Self) -> Vec<LineDifference> {
        let frames = self.frames.min(other.frames);
        let mut edges: Vec<i64> = self.switches.iter().chain(&other.switches).map(|own| own.at).collect();
        edges.push(frames);
        edges.sort_unstable();
        edges.dedup();
        let pieces = edges.windows(2).filter(|pair| pair[1] <= frames);
        let mut all: Vec<LineDifference> = vec![];
        for pair in pieces {
            let (from, to) = (pair[0], pair[1]);
            let (own, other) = (self.angle_at(from), other.angle_at(from));
            match all.last_mut() {
                _ if own == other => {}
                Some(last) if last.to == from && (last.own, last.other) == (own, other) => last.to = to,
                _ => all.push(LineDifference { from, to, own, other }),
            }
        }
        all
    }
}
