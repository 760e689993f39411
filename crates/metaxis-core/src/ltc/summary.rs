//! What a channel with audio timecode carried, in a few numbers.

use super::{
    LtcFrame,
    runs::{Follows, Run, Runs},
};
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
    /// Label of the first frame of the count that most frames belong to.
    pub first: Timecode,
    /// Where it begins in the channel, seconds of the clip's own time.
    pub first_s: f64,
    /// Share of the decoded frames that belong to that count, 0 to 1: less where the labels jump.
    pub steady: f64,
    /// Measured frames a second of the clip's own time.
    pub measured_fps: f64,
    /// Times that the labels jumped to another count.
    pub jumps: u32,
    /// Frames whose label was that of the frame before: timecode that stands still.
    pub standing: u32,
    /// Running backwards.
    pub backwards: bool,
    /// Year of the century, month and day in its user bits.
    pub date: Option<[u8; 3]>,
}

/// A clock of a recorder against the box that made its timecode.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AgainstBox {
    /// How much faster the recorder's clock runs, parts per million.
    pub rate_ppm: f64,
    /// Standard deviation.
    pub sigma_ppm: f64,
}

/// An edge is known to about this, seconds.
const EDGE_S: f64 = 5e-6;
/// What runs faster or slower than this is played at another speed, and no clock, parts per million.
const CRYSTALS_PPM: f64 = 300.0;

impl LtcFound {
    /// How fast it ran against its labels: 1 at the speed it was made at, less than nothing backwards.
    pub fn speed(&self) -> f64 {
        let speed = self.measured_fps / self.first.rate.as_f64();
        if self.backwards { -speed } else { speed }
    }

    /// How fast the recorder's clock runs by what it counted while the box sent its frames; None where it is too short to
    /// tell, or no clock's doing.
    pub fn against_box(&self) -> Option<AgainstBox> {
        let rate_ppm = (1.0 / self.speed() - 1.0) * 1e6;
        let length_s = f64::from(self.frames) / self.measured_fps;
        let sigma_ppm = 1.5 * EDGE_S / length_s.max(1e-3) * 1e6;
        (rate_ppm.abs() < CRYSTALS_PPM && sigma_ppm < 5.0).then_some(AgainstBox { rate_ppm, sigma_ppm })
    }
}

/// The counts that labels make.
#[derive(Debug, Clone, Default)]
struct Counted {
    runs: Runs,
    jumps: u32,
    standing: u32,
}

impl Counted {
    fn add(&mut self, frame: &LtcFrame, nominal: i64) {
        match self.runs.add(frame, nominal) {
            Follows::On => {}
            Follows::Standing => self.standing += 1,
            Follows::Jump => self.jumps += 1,
        }
    }
}

/// Gathers frames into an [`LtcFound`].
#[derive(Debug, Default)]
pub struct LtcSummary {
    /// The first frames, kept until a whole second has shown how many there are in one.
    early: Vec<LtcFrame>,
    counted: Counted,
    last: Option<LtcFrame>,
    lengths: f64,
    /// Samples and frames from one frame to the next, where they followed each other.
    steps: (f64, u32),
    frames: u32,
    backwards: u32,
    top: u8,
    /// Dates in the user bits, the last one seen and how often.
    date: Option<((u8, u8, u8), u32)>,
}

/// Frames below which it was no timecode: a third of a second.
const LEAST_FRAMES: u32 = 8;
/// Frames by which every second has been whole.
const A_SECOND: usize = 64;

impl LtcSummary {
    /// Takes the next frame of a channel.
    pub fn add(&mut self, frame: &LtcFrame) {
        self.frames += 1;
        self.lengths += frame.length;
        self.backwards += u32::from(frame.backwards);
        self.top = self.top.max(frame.label[3]);
        if let Some(last) = self.last.replace(*frame) {
            let step = (frame.start - last.start).abs();
            if (step / frame.length).round() as i64 == 1 {
                self.steps = (self.steps.0 + step, self.steps.1 + 1);
            }
        }
        if let Some(date) = frame.date() {
            let seen = self.date.filter(|(other, _)| *other == date).map_or(0, |(_, seen)| seen);
            self.date = Some((date, seen + 1));
        }
        self.early.push(*frame);
        if self.early.len() >= A_SECOND {
            self.counted = self.counted();
            self.early.clear();
        }
    }

    /// The counts with the frames that wait for their second to be whole.
    fn counted(&self) -> Counted {
        let mut counted = self.counted.clone();
        self.early.iter().for_each(|frame| counted.add(frame, self.nominal()));
        counted
    }

    /// Frames a second by the labels seen.
    fn nominal(&self) -> i64 {
        match self.top {
            0..=23 => 24,
            24 => 25,
            _ => 30,
        }
    }

    /// What was found in `samples` samples at `rate` a second; None where it was no timecode.
    pub fn finish(&self, samples: u64, rate: u32) -> Option<LtcFound> {
        if self.frames < LEAST_FRAMES {
            return None;
        }
        let counted = self.counted();
        let Run { first, frames: steady } = counted.runs.longest()?;
        let length = if self.steps.1 > 0 { self.steps.0 / f64::from(self.steps.1) } else { first.length };
        let measured_fps = f64::from(rate) / length;
        Some(LtcFound {
            frames: self.frames,
            share: (self.lengths / samples.max(1) as f64).min(1.0),
            first: first.timecode(self.label_rate(measured_fps)?)?,
            first_s: first.start / f64::from(rate),
            steady: f64::from(steady) / f64::from(self.frames),
            measured_fps,
            jumps: counted.jumps,
            standing: counted.standing,
            backwards: 2 * self.backwards > self.frames,
            date: self.date.filter(|(_, seen)| 2 * seen > self.frames).map(|((y, m, d), _)| [y, m, d]),
        })
    }

    /// The rate that labels and speed agree on best: pulled down or not is told by the speed alone.
    fn label_rate(&self, measured_fps: f64) -> Option<FrameRate> {
        // A short piece may not have shown its last frame number: the speed says it.
        let by_speed = || {
            let off = |n: &i64| (measured_fps / *n as f64 - 1.0).abs();
            [24, 25, 30].into_iter().min_by(|a, b| off(a).total_cmp(&off(b)))
        };
        let nominal = if self.frames as usize >= A_SECOND {
            self.nominal()
        } else {
            by_speed()?.max(i64::from(self.top) + 1)
        };
        let pulled = FrameRate::new(nominal * 1000, 1001).ok()?;
        let whole = FrameRate::new(nominal, 1).ok()?;
        let off = |fps: FrameRate| (measured_fps / fps.as_f64() - 1.0).abs();
        Some(if nominal != 25 && off(pulled) < off(whole) { pulled } else { whole })
    }
}
