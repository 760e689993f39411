//! Timecode labels after SMPTE ST 12-1, with drop-frame counted by the book.

use super::{FrameRate, Tick};
use serde::{Deserialize, Serialize};
use std::{cmp::Ordering, fmt};
use thiserror::Error;
use ts_rs::TS;

/// Why a label is refused.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum TimecodeError {
    /// Not of the form HH:MM:SS:FF (or ; before the frames).
    #[error("“{0}” is not a timecode; write it as 09:14:02:00")]
    Form(String),
    /// A part is beyond its range.
    #[error("“{label}” has {part} {value}, but the most at this rate is {most}")]
    Range {
        /// The label as given.
        label: String,
        /// Which part: hours, minutes, seconds or frames.
        part: &'static str,
        /// The value given.
        value: i64,
        /// The largest allowed.
        most: i64,
    },
    /// A label that drop-frame counting leaves out.
    #[error("“{0}” does not exist in drop-frame counting: its first frames are skipped in this minute")]
    Dropped(String),
    /// Drop-frame asked for a rate that has none.
    #[error("drop-frame exists only at multiples of 29.97, not at {0}")]
    NoDrop(String),
}

/// A timecode label: a frame count since midnight at a rate, and how it is counted.
///
/// ```
/// use metaxis_core::time::{FrameRate, Timecode};
///
/// // Drop-frame leaves out two labels a minute, but not in every tenth (SMPTE ST 12-1).
/// let rate = FrameRate::new(30_000, 1001).expect("a rate");
/// let label = Timecode::parse("01:00:59;29", rate)?;
/// let next = Timecode::new(label.frames + 1, label.rate, label.drop);
/// assert_eq!(next.to_string(), "01:01:00;02");
/// assert!(Timecode::parse("01:01:00;00", rate).is_err(), "no frame has this label");
/// # Ok::<(), metaxis_core::time::TimecodeError>(())
/// ```
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, TS)]
pub struct Timecode {
    /// Frames since midnight.
    #[ts(type = "number")]
    pub frames: i64,
    /// Rate of the count.
    pub rate: FrameRate,
    /// Drop-frame counting.
    pub drop: bool,
}

impl Timecode {
    /// The label of `frames` after midnight; wraps after 24 hours of labels.
    pub fn new(frames: i64, rate: FrameRate, drop: bool) -> Self {
        let drop = drop && rate.can_drop();
        let mut label = Self { frames, rate, drop };
        label.frames = frames.rem_euclid(label.day());
        label
    }

    /// The label of a whole hour.
    ///
    /// ```
    /// use metaxis_core::time::{FrameRate, Timecode};
    ///
    /// let rate = FrameRate::new(30_000, 1001).expect("a rate");
    /// assert_eq!(Timecode::hour(1, rate, true).to_string(), "01:00:00;00");
    /// assert_eq!(Timecode::hour(10, FrameRate::FPS_25, false).to_string(), "10:00:00:00");
    /// ```
    pub fn hour(hour: i64, rate: FrameRate, drop: bool) -> Self {
        let midnight = Self::new(0, rate, drop);
        midnight.plus(hour * midnight.day() / 24)
    }

    fn dropped_per_minute(self) -> i64 {
        if self.drop { self.rate.nominal() / 15 } else { 0 }
    }

    /// Labels in 24 hours.
    pub(crate) fn day(self) -> i64 {
        24 * 60 * 60 * self.rate.nominal() - self.dropped_per_minute() * 9 * 6 * 24
    }

    /// Reads `HH:MM:SS:FF`; a `;` or `.` before the frames means drop-frame.
    ///
    /// # Errors
    /// A [`TimecodeError`] that says what is wrong with the label.
    pub fn parse(text: &str, rate: FrameRate) -> Result<Self, TimecodeError> {
        let form = || TimecodeError::Form(text.to_owned());
        let drop = text.contains(';') || text.contains('.');
        if drop && !rate.can_drop() {
            return Err(TimecodeError::NoDrop(rate.to_string()));
        }
        let parts = text
            .trim()
            .split([':', ';', '.'])
            .map(|part| match part.len() {
                1..=3 if part.bytes().all(|b| b.is_ascii_digit()) => part.parse::<i64>().map_err(|_| form()),
                _ => Err(form()),
            })
            .collect::<Result<Vec<_>, _>>()?;
        let [hours, minutes, seconds, frames] = parts[..] else {
            return Err(form());
        };
        let nominal = rate.nominal();
        for (part, value, most) in [
            ("hours", hours, 23),
            ("minutes", minutes, 59),
            ("seconds", seconds, 59),
            ("frames", frames, nominal - 1),
        ] {
            if value > most {
                return Err(TimecodeError::Range { label: text.to_owned(), part, value, most });
            }
        }
        let mut label = Self { frames: 0, rate, drop };
        let skipped = label.dropped_per_minute();
        if seconds == 0 && minutes % 10 != 0 && frames < skipped {
            return Err(TimecodeError::Dropped(text.to_owned()));
        }
        let total_minutes = hours * 60 + minutes;
        label.frames = (total_minutes * 60 + seconds) * nominal + frames
            - skipped * (total_minutes - total_minutes / 10);
        Ok(label)
    }

    /// Exact time since midnight: the frame count times the exact length of a frame.
    pub fn since_midnight(self) -> Tick {
        Tick::of_frame(self.frames, self.rate)
    }

    /// The label, counted at another rate, of the frame that runs at the moment at which this one begins. Both counts are
    /// jammed at midnight.
    pub fn at_rate(self, rate: FrameRate, drop: bool) -> Self {
        Self::new(self.since_midnight().frame(rate), rate, drop)
    }

    /// Which of two labels, of whatever rates, begins first on a day.
    pub fn compare(self, other: Self) -> Ordering {
        // Of frames and fractions, so that nothing is rounded.
        let (a, b) = (self.rate, other.rate);
        let time = |frames: i64, own: FrameRate, theirs: FrameRate| {
            i128::from(frames) * i128::from(own.den()) * i128::from(theirs.num())
        };
        time(self.frames, a, b).cmp(&time(other.frames, b, a))
    }

    /// Frames from `other` to this label of the same count, the short way about midnight.
    pub fn since(self, other: Self) -> i64 {
        let day = self.day();
        let frames = (self.frames - other.frames).rem_euclid(day);
        if 2 * frames > day { frames - day } else { frames }
    }

    /// The label `frames` later, over midnight where need be.
    pub fn plus(self, frames: i64) -> Self {
        Self::new(self.frames + frames, self.rate, self.drop)
    }
}

impl Timecode {
    /// Its hours, minutes, seconds and frames, as they are written.
    pub fn fields(self) -> [i64; 4] {
        let nominal = self.rate.nominal();
        let skipped = self.dropped_per_minute();
        let mut count = self.frames;
        if self.drop {
            let per_minute = 60 * nominal - skipped;
            let per_ten = 10 * 60 * nominal - 9 * skipped;
            let (tens, rest) = (count / per_ten, count % per_ten);
            count += 9 * skipped * tens;
            if rest >= 60 * nominal {
                count += skipped * (1 + (rest - 60 * nominal) / per_minute);
            }
        }
        let (seconds, frames) = (count / nominal, count % nominal);
        [seconds / 3600, seconds / 60 % 60, seconds % 60, frames]
    }

    /// The label as it is written where frames are counted at another rate: its own hours, minutes and seconds, and the digits of
    /// the frame scaled where a second has others. Not the moment that has this label there: that is [`Timecode::at_rate`].
    ///
    /// ```
    /// use metaxis_core::time::{FrameRate, Timecode};
    ///
    /// let (film, fast) = (FrameRate::new(24_000, 1001)?, FrameRate::new(50, 1)?);
    /// let written = |text: &str, own: FrameRate| Timecode::parse(text, own).map(|own| own.written_at(FrameRate::FPS_25));
    /// assert_eq!(written("10:00:00:12", film)?.to_string(), "10:00:00:12");
    /// assert_eq!(written("10:00:00:23", film)?.to_string(), "10:00:00:23");
    /// assert_eq!(written("10:00:00:49", fast)?.to_string(), "10:00:00:24");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn written_at(self, rate: FrameRate) -> Self {
        let (own, other) = (self.rate.nominal(), rate.nominal());
        if own == other {
            return self;
        }
        let [hours, minutes, seconds, frames] = self.fields();
        let count = ((hours * 60 + minutes) * 60 + seconds) * other + frames * other / own;
        Self::new(count, rate, false)
    }
}

impl fmt::Display for Timecode {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let [hours, minutes, seconds, frames] = self.fields();
        let mark = if self.drop { ';' } else { ':' };
        let width = if self.rate.nominal() > 100 { 3 } else { 2 };
        write!(f, "{hours:02}:{minutes:02}:{seconds:02}{mark}{frames:0width$}")
    }
}
