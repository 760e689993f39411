//! Multicam groups: what ran together, as angles on one frame grid.

mod angle;
mod arrange;
mod build;
mod coverage;
mod differ;
mod format;
mod lanes;
mod later;
mod overlay;
mod propose;
mod seam;
mod takes;
mod window;
mod zero;

pub use angle::{Angle, AngleId};
pub use arrange::{Arrange, ArrangeError};
pub use coverage::Covered;
pub use differ::Difference;
pub use format::{Conversion, GroupFormat, conversion};
pub use propose::{GroupBy, GroupDay, PlacedClip, group_of, propose_groups};
pub use seam::{Piece, Seam};
pub use takes::Slate;
pub use zero::day_zero;

use crate::{
    clip::ClipId,
    sound::Grid,
    sync::Stretch,
    time::{FrameRate, Tick, Timecode},
};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A part of a clip within a group, on the group's frames.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct AnglePart {
    /// The clip.
    pub clip: ClipId,
    /// First group frame it covers.
    #[ts(type = "number")]
    pub from_frame: i64,
    /// First group frame it no longer covers.
    #[ts(type = "number")]
    pub to_frame: i64,
    /// Where this part lies on the axis.
    pub stretch: Stretch,
    /// Picture start minus the clip's time zero, seconds.
    pub picture_delay_s: f64,
    /// The clip's own frame rate (the group's for sound).
    pub rate: FrameRate,
    /// A still: its one frame stands throughout.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[ts(optional, as = "Option<bool>")]
    pub still: bool,
}

/// A multicam group. Frame 0 is labelled `start`; frame `n` begins at axis time
/// `(start.frames + n)/rate − axis_zero`, and so much later as its seams before it have taken out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct Group {
    /// Its name.
    pub name: String,
    /// Label of frame 0.
    pub start: Timecode,
    /// Time of day of the axis's zero.
    pub axis_zero: Tick,
    /// Component of its clips: 0 for that of the axis, others are islands.
    #[serde(default)]
    pub component: u32,
    /// Length in frames.
    #[ts(type = "number")]
    pub frames: i64,
    /// Width of the format in pixels: that of the smallest picture.
    pub width: u32,
    /// Height of the format in pixels.
    pub height: u32,
    /// Picture angles, in the order of their number keys.
    pub angles: Vec<Angle>,
    /// The sound that runs under all of them, where there is any.
    pub sound: Option<Angle>,
    /// The frames that it is trimmed to, from and up to; all of them unless given. What it is made of stays whole, so that it can
    /// always be untrimmed, and frames keep their numbers.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(type = "[number, number] | null", optional)]
    pub window: Option<(i64, i64)>,
    /// Pieces of it, from and up to a frame, that are taken out of all angles: what follows follows at once. In order, apart from
    /// each other; they too keep their frames, so that they can be put back.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[ts(optional, as = "Option<Vec<(i32, i32)>>")]
    pub removed: Vec<(i64, i64)>,
    /// As it is shown: where pieces are taken out. No part lies over one of these.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[ts(optional, as = "Option<Vec<Seam>>")]
    pub seams: Vec<Seam>,
    /// Which tracks are heard, and where, where a person chose it for this group.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub grid: Option<Grid>,
}

impl Group {
    /// The frame rate of the group.
    pub fn rate(&self) -> FrameRate {
        self.start.rate
    }

    /// Axis time at which frame `frame` begins.
    pub fn frame_start(&self, frame: i64) -> Tick {
        Tick::of_frame(self.start.frames + frame + self.taken_out(frame), self.rate()) - self.axis_zero
    }

    /// Axis time at which frame `frame` ends: where the next begins, but at a seam.
    pub fn frame_end(&self, frame: i64) -> Tick {
        Tick::of_frame(self.start.frames + frame + 1 + self.taken_out(frame), self.rate()) - self.axis_zero
    }

    /// How long it has run when frame `frame` begins, as it is shown.
    pub fn passed(&self, frame: i64) -> Tick {
        let head = Tick::of_frame(self.start.frames, self.rate());
        Tick::of_frame(self.start.frames + frame, self.rate()) - head
    }

    /// The frame that runs at axis time `axis` (may lie outside the group); of a piece that is taken out, the first behind it.
    pub fn frame_at(&self, axis: Tick) -> i64 {
        self.without_seams((axis + self.axis_zero).frame(self.rate()) - self.start.frames)
    }

    /// Timecode label of a frame.
    pub fn label(&self, frame: i64) -> Timecode {
        self.start.plus(frame)
    }

    /// The angle of this number.
    pub fn angle(&self, id: AngleId) -> Option<&Angle> {
        self.angles.iter().find(|angle| angle.id == id)
    }

    /// The part of an angle that is on screen at `frame`.
    pub fn part_at(&self, angle: AngleId, frame: i64) -> Option<&AnglePart> {
        let angle = self.angle(angle)?;
        angle.parts.iter().find(|part| (part.from_frame..part.to_frame).contains(&frame))
    }

    /// Which of the clip's own frames is shown at a group frame: the one on screen in the middle of it.
    pub fn clip_frame(&self, part: &AnglePart, frame: i64) -> i64 {
        if part.still {
            return 0;
        }
        Tick::from_seconds(self.picture_s(part, frame)).frame(part.rate).max(0)
    }

    /// The same to a part of a frame: 7.25 is a quarter into the clip's eighth.
    pub fn clip_position(&self, part: &AnglePart, frame: i64) -> f64 {
        self.picture_s(part, frame) * part.rate.as_f64()
    }

    /// The moment of the clip's picture in the middle of a group frame, seconds.
    fn picture_s(&self, part: &AnglePart, frame: i64) -> f64 {
        let (start, end) = (self.frame_start(frame), self.frame_end(frame));
        let middle = Tick(start.0 + (end.0 - start.0) / 2);
        part.stretch.clip_s(middle.seconds()) - part.picture_delay_s
    }
}
