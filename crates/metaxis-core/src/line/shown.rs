//! When pictures of a device are shown.

use super::Line;
use crate::{
    clip::DeviceId,
    group::{AngleId, Group},
};

impl Line {
    /// From which up to which frame of `group` an angle of a device is shown, in order.
    ///
    /// ```
    /// use metaxis_core::{
    ///     clip::DeviceId,
    ///     group::{Angle, AngleId, Group},
    ///     line::{Line, LineEdit},
    ///     time::{FrameRate, Tick, Timecode},
    /// };
    ///
    /// let angle = |device: i64| Angle::of(DeviceId(device), vec![]);
    /// let group = Group {
    ///     name: "1 / 1".into(),
    ///     start: Timecode::new(0, FrameRate::FPS_25, false),
    ///     axis_zero: Tick(0),
    ///     component: 0,
    ///     frames: 500,
    ///     width: 1920,
    ///     height: 1080,
    ///     angles: vec![angle(1), angle(2)],
    ///     sound: None,
    ///     window: None,
    ///     removed: vec![],
    ///     seams: vec![],
    ///     grid: None,
    /// };
    /// let mut line = Line::new(500, AngleId(1));
    /// for (at, angle) in [(100, AngleId(2)), (300, AngleId(1))] {
    ///     line.apply(&LineEdit::take(at, angle))?;
    /// }
    /// assert_eq!(line.shown(&group, DeviceId(1)), [(0, 100), (300, 500)]);
    /// assert_eq!(line.shown(&group, DeviceId(2)), [(100, 300)]);
    /// # Ok::<(), metaxis_core::line::LineError>(())
    /// ```
    pub fn shown(&self, group: &Group, device: DeviceId) -> Vec<(i64, i64)> {
        let is_its = |angle: AngleId| group.angle(angle).is_some_and(|own| own.device == Some(device));
        let mut all: Vec<(i64, i64)> = vec![];
        for (from, to, angle) in self.stretches() {
            match all.last_mut() {
                _ if !is_its(angle) => {}
                Some((_, end)) if *end == from => *end = to,
                _ => all.push((from, to)),
            }
        }
        all
    }
}
