//! Where a clip is expected along another: a straight line, and how the two clocks bend away from it.

use super::line::RoughLine;

/// How an offset (reference minus clip time) departs from a straight line, seconds: straight between knots of the
/// clip's own time, and straight on beyond the first and the last. Without knots there is no bend.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Bend {
    knots: Vec<(f64, f64)>,
}

impl Bend {
    /// Through `knots` (clip time, seconds), in order of time.
    pub fn new(knots: Vec<(f64, f64)>) -> Self {
        Self { knots }
    }

    /// True where it is none.
    pub fn is_straight(&self) -> bool {
        self.knots.len() < 3
    }

    /// Departure from the line at a moment, seconds.
    pub fn at(&self, clip_s: f64) -> f64 {
        let Some(after) = self.segment(clip_s) else { return 0.0 };
        let ((from, low), (to, high)) = (self.knots[after - 1], self.knots[after]);
        low + (high - low) * (clip_s - from) / (to - from)
    }

    /// Change of the departure a second, at a moment.
    pub fn slope_at(&self, clip_s: f64) -> f64 {
        let Some(after) = self.segment(clip_s) else { return 0.0 };
        let ((from, low), (to, high)) = (self.knots[after - 1], self.knots[after]);
        (high - low) / (to - from)
    }

    /// Moments between `from_s` and `to_s` at which the rate changes.
    pub fn joints(&self, from_s: f64, to_s: f64) -> impl Iterator<Item = f64> {
        let inner = if self.is_straight() { &[][..] } else { &self.knots[1..self.knots.len() - 1] };
        inner.iter().map(|knot| knot.0).filter(move |at| *at > from_s && *at < to_s)
    }

    /// The knot that ends the segment in which a moment lies.
    fn segment(&self, clip_s: f64) -> Option<usize> {
        let last = self.knots.len().checked_sub(1).filter(|last| *last > 0)?;
        Some(self.knots.partition_point(|knot| knot.0 <= clip_s).clamp(1, last))
    }
}

/// A line with its bend.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Course {
    pub line: RoughLine,
    pub bend: Bend,
}

impl Course {
    pub fn straight(line: RoughLine) -> Self {
        Self { line, bend: Bend::default() }
    }

    /// Offset (reference minus clip time) expected at a moment of the clip's own time, seconds.
    pub fn at(&self, clip_s: f64) -> f64 {
        self.line.at(clip_s) + self.bend.at(clip_s)
    }
}
