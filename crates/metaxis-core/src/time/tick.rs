//! Exact time: a tick is 1/705 600 000 s, in which a frame of every SMPTE rate and a sample of every usual
//! sample rate is a whole number.

use super::FrameRate;
use serde::{Deserialize, Serialize};
use std::ops::{Add, Neg, Sub};
use ts_rs::TS;

/// Ticks in one second.
pub const TICKS_PER_SECOND: i64 = 705_600_000;

/// Seconds as a measured (floating) value.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Serialize, Deserialize, TS)]
pub struct Seconds(pub f64);

/// An exact instant or length on a time axis.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, TS)]
pub struct Tick(#[ts(type = "number")] pub i64);

impl Tick {
    /// The start of frame `frame` at `rate`, counted from zero. Exact for the standard rates, else rounded
    /// down to the tick.
    pub fn of_frame(frame: i64, rate: FrameRate) -> Self {
        let ticks = i128::from(frame) * i128::from(rate.den()) * i128::from(TICKS_PER_SECOND);
        Self(ticks.div_euclid(i128::from(rate.num())) as i64)
    }

    /// The position of sample `sample` at `rate` samples a second.
    pub fn of_sample(sample: i64, rate: u32) -> Self {
        let ticks = i128::from(sample) * i128::from(TICKS_PER_SECOND);
        Self(ticks.div_euclid(i128::from(rate.max(1))) as i64)
    }

    /// The sample nearest to this instant, at `rate` samples a second.
    pub fn sample(self, rate: u32) -> i64 {
        let half = i128::from(TICKS_PER_SECOND / 2);
        (i128::from(self.0) * i128::from(rate) + half).div_euclid(i128::from(TICKS_PER_SECOND)) as i64
    }

    /// The frame that contains this instant (its start is not after it).
    pub fn frame(self, rate: FrameRate) -> i64 {
        let frames = i128::from(self.0) * i128::from(rate.num());
        let unit = i128::from(rate.den()) * i128::from(TICKS_PER_SECOND);
        frames.div_euclid(unit) as i64
    }

    /// A measured time, to the nearest tick. Values beyond ± 400 years saturate.
    pub fn from_seconds(seconds: f64) -> Self {
        Self((seconds * TICKS_PER_SECOND as f64).round() as i64)
    }

    /// For measuring and display.
    pub fn seconds(self) -> f64 {
        self.0 as f64 / TICKS_PER_SECOND as f64
    }
}

impl Add for Tick {
    type Output = Tick;
    fn add(self, other: Tick) -> Tick {
        Tick(self.0.saturating_add(other.0))
    }
}

impl Sub for Tick {
    type Output = Tick;
    fn sub(self, other: Tick) -> Tick {
        Tick(self.0.saturating_sub(other.0))
    }
}

impl Neg for Tick {
    type Output = Tick;
    fn neg(self) -> Tick {
        Tick(self.0.saturating_neg())
    }
}

/// A length of time in words, to the second: `1 h 41 s`, `-12 s`.
pub fn span_in_words(seconds: f64) -> String {
    let sign = if seconds < 0.0 { "-" } else { "" };
    let whole = seconds.abs().round() as i64;
    let parts = [(whole / 3600, "h"), (whole / 60 % 60, "min"), (whole % 60, "s")];
    let said: Vec<String> =
        parts.iter().filter(|(count, _)| *count > 0).map(|(count, unit)| format!("{count} {unit}")).collect();
    if said.is_empty() { "0 s".into() } else { format!("{sign}{}", said.join(" ")) }
}
