//! What a channel with audio timecode carried, in a few numbers.

use super::LtcFrame;
use crate::time::{FrameRate, Timecode};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Audio timecode found on a channel.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, TS)]
pub struct LtcFound {
    /// Frames decoded.
    pub frames: u32,
    /// Share of the clip that they cover, 0 to 1.
    pub share: f64,
    /// Label of the first decoded frame.
    pub first: Timecode,
    /// Where it begins in the channel, seconds of the clip's own time.
    pub first_s: f64,
    /// Measured frames a second of the clip's own time.
    pub measured_fps: f64,
    /// Frames that were not one more than the frame before them.
    pub jumps: u32,
    /// Frames whose label was that of the frame before: timecode that stands still.
    pub standing: u32,
}

/// Gathers frames into an [`LtcFound`].
#[derive(Debug, Default)]
pub struct LtcSummary {
    first: Option<LtcFrame>,
    last: Option<LtcFrame>,
    lengths: f64,
    /// Samples and frames from one frame to the next, where they followed each other.
    steps: (f64, u32),
    frames: u32,
    top: u8,
    jumps: u32,
    standing: u32,
}

/// Frames below which it was no timecode: a third of a second.
const LEAST_FRAMES: u32 = 8;

impl LtcSummary {
    /// Takes the next frame of a channel.
    pub fn add(&mut self, frame: &LtcFrame) {
        if let Some(last) = self.last {
            let gap = ((frame.start - last.start).abs() / frame.length).round() as i64;
            if gap == 1 {
                self.steps = (self.steps.0 + (frame.start - last.start).abs(), self.steps.1 + 1);
            }
            let step = if frame.backwards { -gap } else { gap };
            let moved = self.count(frame) - self.count(&last);
            if moved == 0 && gap > 0 {
                self.standing += 1;
            } else if moved != step && !self.skipped_by_drop(frame, moved, step) {
                self.jumps += 1;
            }
        }
        self.first = self.first.or(Some(*frame));
        self.last = Some(*frame);
        self.frames += 1;
        self.lengths += frame.length;
        self.top = self.top.max(frame.label[3]);
    }

    /// Frames since midnight by the label, as if every second had as many frames as were seen.
    fn count(&self, frame: &LtcFrame) -> i64 {
        let [h, m, s, f] = frame.label.map(i64::from);
        ((h * 60 + m) * 60 + s) * (i64::from(self.nominal()) + 1) + f
    }

    fn nominal(&self) -> u8 {
        match self.top {
            0..=23 => 23,
            24 => 24,
            _ => 29,
        }
    }

    /// The first second is counted before its last frame was seen, and drop-frame leaves two labels out.
    fn skipped_by_drop(&self, frame: &LtcFrame, moved: i64, step: i64) -> bool {
        (frame.drop && (moved - step).abs() == 2 && frame.label[2] == 0)
            || (frame.label[3] == 0 && self.frames < 31)
    }

    /// What was found in `samples` samples at `rate` a second; None where it was no timecode.
    pub fn finish(&self, samples: u64, rate: u32) -> Option<LtcFound> {
        let first = self.first.filter(|_| self.frames >= LEAST_FRAMES)?;
        let length = if self.steps.1 > 0 { self.steps.0 / f64::from(self.steps.1) } else { first.length };
        let measured_fps = f64::from(rate) / length;
        let rate_of = |nominal: i64| {
            let pulled = FrameRate::new(nominal * 1000, 1001).ok()?;
            let whole = FrameRate::new(nominal, 1).ok()?;
            let off = |fps: FrameRate| (measured_fps / fps.as_f64() - 1.0).abs();
            Some(if nominal != 25 && off(pulled) < off(whole) { pulled } else { whole })
        };
        // A short piece may not have shown its last frame number: the speed says it.
        let by_speed = [24, 25, 30].into_iter().min_by(|a, b| {
            let off = |n: &i64| (measured_fps / *n as f64 - 1.0).abs();
            off(a).total_cmp(&off(b))
        })?;
        let label_rate = rate_of(by_speed.max(i64::from(self.top) + 1))?;
        Some(LtcFound {
            frames: self.frames,
            share: (self.lengths / samples.max(1) as f64).min(1.0),
            first: first.timecode(label_rate)?,
            first_s: first.start / f64::from(rate),
            measured_fps,
            jumps: self.jumps,
            standing: self.standing,
        })
    }
}
