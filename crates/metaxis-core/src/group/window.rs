//! A group as it is trimmed.

use super::{Angle, AnglePart, Group};

impl Group {
    /// The frames that are shown, from and up to.
    pub fn window(&self) -> (i64, i64) {
        let (from, to) = self.window.unwrap_or((0, self.frames));
        let from = from.clamp(0, self.frames - 1);
        (from, to.clamp(from + 1, self.frames))
    }

    /// The group as it is trimmed: its first frame is the first that is shown, and what lies outside is gone. Angles keep their
    /// places, also where nothing is left of one.
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
    ///     grid: None,
    /// };
    /// let shown = whole.shown();
    /// assert_eq!((shown.frames, shown.start.to_string()), (350, "00:00:12:00".to_owned()));
    /// assert_eq!(shown.frame_start(0), whole.frame_start(50));
    /// ```
    pub fn shown(&self) -> Self {
        let (from, to) = self.window();
        if (from, to) == (0, self.frames) {
            return Self { window: None, ..self.clone() };
        }
        let part = |part: &AnglePart| {
            let (begin, end) = (part.from_frame.max(from), part.to_frame.min(to));
            (begin < end).then(|| AnglePart {
                from_frame: begin - from,
                to_frame: end - from,
                ..part.clone()
            })
        };
        let angle =
            |angle: &Angle| Angle { parts: angle.parts.iter().filter_map(part).collect(), ..angle.clone() };
        let start = self.start.plus(from);
        // Labels wrap at midnight; the axis does not.
        let wrapped = self.start.frames + from - start.frames;
        Self {
            start,
            axis_zero: self.axis_zero - crate::time::Tick::of_frame(wrapped, self.rate()),
            frames: to - from,
            angles: self.angles.iter().map(angle).collect(),
            sound: self.sound.as_ref().map(angle),
            window: None,
            ..self.clone()
        }
    }
}
