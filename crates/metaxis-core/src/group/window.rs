//! A group as it is trimmed, and without what is taken out of it.

use super::{Angle, Group, Seam};

impl Group {
    /// The frames that are shown, from and up to.
    pub fn window(&self) -> (i64, i64) {
        let (from, to) = self.window.unwrap_or((0, self.frames));
        let from = from.clamp(0, self.frames - 1);
        (from, to.clamp(from + 1, self.frames))
    }

    /// The group as it is trimmed: its first frame is the first that is shown, and what lies outside or is taken out is gone. Angles
    /// keep their places, also where nothing is left of one.
    ///
    /// ```
    /// use metaxis_core::{group::Group, time::{FrameRate, Tick, Timecode}};
    ///
    /// let whole = Group {
    ///     name: "4 / 2".into(),
    ///     start: Timecode::new(250, FrameRate::FPS_25, false),
    ///     axis_zero: Tick(0),
    ///     component: 0,
    ///     frames: 500,
    ///     width: 1920,
    ///     height: 1080,
    ///     angles: vec![],
    ///     sound: None,
    ///     window: Some((50, 400)),
    ///     removed: vec![],
    ///     seams: vec![],
    ///     grid: None,
    /// };
    /// let shown = whole.shown();
    /// assert_eq!((shown.frames, shown.start.to_string()), (350, "00:00:12:00".to_owned()));
    /// assert_eq!(shown.frame_start(0), whole.frame_start(50));
    /// ```
    pub fn shown(&self) -> Self {
        let left = self.left();
        let (from, _) = left[0];
        if left == [(0, self.frames)] {
            return Self { window: None, removed: vec![], ..self.clone() };
        }
        let angle = |angle: &Angle| Angle {
            parts: angle.parts.iter().flat_map(|part| Self::pieces_of(part, &left)).collect(),
            ..angle.clone()
        };
        let mut at = 0;
        let seams = left.windows(2).map(|pair| {
            at += pair[0].1 - pair[0].0;
            Seam { at, frames: pair[1].0 - pair[0].1 }
        });
        let start = self.start.plus(from);
        // Labels wrap at midnight; the axis does not.
        let wrapped = self.start.frames + from - start.frames;
        Self {
            start,
            axis_zero: self.axis_zero - crate::time::Tick::of_frame(wrapped, self.rate()),
            seams: seams.collect(),
            frames: left.iter().map(|(from, to)| to - from).sum(),
            angles: self.angles.iter().map(angle).collect(),
            sound: self.sound.as_ref().map(angle),
            window: None,
            removed: vec![],
            ..self.clone()
        }
    }
}
