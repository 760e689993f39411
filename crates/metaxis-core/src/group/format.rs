//! How a group counts, from which label on, and how large it is.

use super::{Angle, AnglePart, Group, seam::in_order};
use crate::{
    line::Line,
    time::{FrameRate, Tick, Timecode},
};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// The format of a group.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct GroupFormat {
    /// Label of its first frame, and how it counts.
    pub start: Timecode,
    /// Width in pixels.
    pub width: u32,
    /// Height in pixels.
    pub height: u32,
}

/// How pictures of one rate are shown in a group of another.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Conversion {
    /// Frame for frame.
    None,
    /// Each frame so many times.
    Repeated(u32),
    /// Every so-manieth frame.
    Skipped(u32),
    /// At its own speed: some frames are shown twice.
    SomeTwice,
    /// At its own speed: some frames are not shown.
    SomeLeftOut,
}

/// Sizes that a picture can have, pixels.
const SIZES: std::ops::RangeInclusive<u32> = 16..=16_384;

impl GroupFormat {
    /// Whether a group can have it.
    pub fn can_be(&self) -> bool {
        let Timecode { rate, drop, .. } = self.start;
        let is_size = |own: u32| SIZES.contains(&own) && own.is_multiple_of(2);
        rate.can_be_cut() && (!drop || rate.can_drop()) && is_size(self.width) && is_size(self.height)
    }
}

/// How pictures of `own` rate are shown in a group of rate `group`.
///
/// ```
/// use metaxis_core::{group::{Conversion, conversion}, time::FrameRate};
///
/// let rate = |num, den| FrameRate::new(num, den).unwrap_or(FrameRate::FPS_25);
/// assert_eq!(conversion(rate(25, 1), rate(50, 1)), Conversion::Repeated(2));
/// assert_eq!(conversion(rate(60_000, 1001), rate(30_000, 1001)), Conversion::Skipped(2));
/// assert_eq!(conversion(rate(24_000, 1001), rate(30_000, 1001)), Conversion::SomeTwice);
/// assert_eq!(conversion(rate(30, 1), rate(30_000, 1001)), Conversion::SomeLeftOut);
/// ```
pub fn conversion(own: FrameRate, group: FrameRate) -> Conversion {
    // Their quotient as a fraction: both are small.
    let (up, down) = (group.num() * own.den(), group.den() * own.num());
    match (up % down, down % up) {
        (0, 0) => Conversion::None,
        (0, _) => Conversion::Repeated((up / down) as u32),
        (_, 0) => Conversion::Skipped((down / up) as u32),
        _ if up > down => Conversion::SomeTwice,
        _ => Conversion::SomeLeftOut,
    }
}

impl Group {
    /// The format it has as it is shown.
    pub fn format(&self) -> GroupFormat {
        GroupFormat { start: self.start.plus(self.left()[0].0), width: self.width, height: self.height }
    }

    /// The same group in another format, its shown head labelled as that says; frames stay where they are where the rate does, else
    /// every part goes to the frames in whose middle it is on screen.
    pub fn in_format(&self, format: &GroupFormat) -> Self {
        let rate = format.start.rate;
        let head = self.frame_start(self.left()[0].0);
        // As if it counted from the head, at no time of day.
        let bare = Self {
            start: Timecode { frames: 0, ..format.start },
            axis_zero: Tick(0) - head,
            width: format.width,
            height: format.height,
            ..self.clone()
        };
        let half = Tick(Tick::of_frame(1, rate).0 / 2);
        let moved = |frame: i64| bare.frame_at(self.frame_start(frame) + half);
        let (first, end) = (moved(0), moved(self.frames));
        let at = |frame: i64| moved(frame) - first;
        // Where a clip begins or ends by itself, it does so to a frame of the new rate, and not where one of the old was.
        let count = (end - first).max(1);
        let edge = |frame: i64, axis_s: f64| {
            let is_own = frame == self.edge(axis_s).clamp(0, self.frames);
            if is_own { (bare.edge(axis_s) - first).clamp(0, count) } else { at(frame) }
        };
        let part = |part: &AnglePart| {
            let own = &part.stretch;
            let begins_s = own.start_s.max(own.axis_s(part.picture_delay_s));
            let (from_frame, to_frame) = (edge(part.from_frame, begins_s), edge(part.to_frame, own.end_s()));
            (from_frame < to_frame).then(|| AnglePart { from_frame, to_frame, ..part.clone() })
        };
        let angle = |own: &Angle| Angle { parts: own.parts.iter().filter_map(part).collect(), ..own.clone() };
        let start = format.start.plus(first);
        // Labels wrap at midnight; the axis does not.
        let label = Tick::of_frame(start.frames - first, rate);
        Self {
            start,
            axis_zero: label - head,
            frames: count,
            angles: self.angles.iter().map(angle).collect(),
            sound: self.sound.as_ref().map(angle),
            window: self.window.map(|(from, to)| (at(from), at(to).max(at(from) + 1))),
            removed: in_order(self.removed.iter().map(|(from, to)| (at(*from), at(*to))).collect()),
            ..bare
        }
    }

    /// A line of this group on the frames of `other`, which is the same in another format; `None` where nothing of it is left.
    pub fn line_in(&self, line: &Line, other: &Self) -> Option<Line> {
        let half = Tick(Tick::of_frame(1, other.rate()).0 / 2);
        line.retimed(other.frames, |frame| other.frame_at(self.frame_start(frame) + half))
    }
}
