//! Frame and sample rates.

use serde::{Deserialize, Serialize};
use std::{fmt, str::FromStr};
use thiserror::Error;
use ts_rs::TS;

/// A rate that cannot be used.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum RateError {
    /// Numerator or denominator is zero or negative.
    #[error("a frame rate must be above zero, not {0}/{1}")]
    NotPositive(i64, i64),
    /// The text is not `N`, `N.NNN` or `N/D`.
    #[error("“{0}” is not a frame rate; write it as 25, 23.976 or 24000/1001")]
    NotARate(String),
}

/// Frames per second as a reduced fraction, e.g. 24000/1001.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, TS)]
#[serde(try_from = "Fraction")]
pub struct FrameRate {
    #[ts(type = "number")]
    num: i64,
    #[ts(type = "number")]
    den: i64,
}

/// A fraction as it is written down, to be checked.
#[derive(Deserialize)]
pub(crate) struct Fraction {
    pub num: i64,
    pub den: i64,
}

impl TryFrom<Fraction> for FrameRate {
    type Error = RateError;

    fn try_from(own: Fraction) -> Result<Self, RateError> {
        Self::new(own.num, own.den)
    }
}

/// The largest whole number that both are multiples of.
pub(crate) fn gcd(a: i64, b: i64) -> i64 {
    if b == 0 { a } else { gcd(b, a % b) }
}

impl FrameRate {
    /// 25 frames per second.
    pub const FPS_25: FrameRate = FrameRate { num: 25, den: 1 };

    /// A rate of `num`/`den` frames per second.
    ///
    /// # Errors
    /// [`RateError::NotPositive`] unless both are above zero.
    pub fn new(num: i64, den: i64) -> Result<Self, RateError> {
        if num <= 0 || den <= 0 {
            return Err(RateError::NotPositive(num, den));
        }
        let divisor = gcd(num, den);
        Ok(Self { num: num / divisor, den: den / divisor })
    }

    /// Numerator of the reduced fraction.
    pub fn num(self) -> i64 {
        self.num
    }

    /// Denominator of the reduced fraction.
    pub fn den(self) -> i64 {
        self.den
    }

    /// Frames per second, for measuring and display; decisions use the fraction.
    pub fn as_f64(self) -> f64 {
        self.num as f64 / self.den as f64
    }

    /// Frames counted in one labelled second: 24 for 23.976, 30 for 29.97, 25 for 25; one for all that is slower.
    pub fn nominal(self) -> i64 {
        (self.num.saturating_add(self.den / 2) / self.den).max(1)
    }

    /// Whether a group can run at it: what is slower is a time-lapse, what is faster no film or video counts in.
    pub fn can_be_cut(self) -> bool {
        (1.0..=1_000.0).contains(&self.as_f64())
    }

    /// Whether drop-frame counting exists for this rate (multiples of 30000/1001).
    pub fn can_drop(self) -> bool {
        self.den == 1001 && self.num % 30_000 == 0
    }

    /// The nearest standard rate within 0.02 %, else the rate itself: containers round.
    pub fn snapped(self) -> Self {
        const KNOWN: [(i64, i64); 14] = [
            (24_000, 1001),
            (24, 1),
            (25, 1),
            (30_000, 1001),
            (30, 1),
            (48_000, 1001),
            (48, 1),
            (50, 1),
            (60_000, 1001),
            (60, 1),
            (100, 1),
            (120_000, 1001),
            (120, 1),
            (15, 1),
        ];
        KNOWN
            .iter()
            .map(|&(num, den)| Self { num, den })
            .find(|known| (known.as_f64() / self.as_f64() - 1.0).abs() < 2e-4)
            .unwrap_or(self)
    }
}

impl fmt::Display for FrameRate {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.den == 1 { write!(f, "{}", self.num) } else { write!(f, "{:.3}", self.as_f64()) }
    }
}

impl FromStr for FrameRate {
    type Err = RateError;

    fn from_str(text: &str) -> Result<Self, RateError> {
        let bad = || RateError::NotARate(text.to_owned());
        if let Some((num, den)) = text.split_once('/') {
            let num = num.trim().parse().map_err(|_| bad())?;
            let den = den.trim().parse().map_err(|_| bad())?;
            return Self::new(num, den);
        }
        let value: f64 = text.trim().parse().map_err(|_| bad())?;
        if !value.is_finite() || value <= 0.0 || value > 10_000.0 {
            return Err(bad());
        }
        Ok(Self::new((value * 1000.0).round() as i64, 1000).map_err(|_| bad())?.snapped())
    }
}

/// Audio samples per second, as the file labels it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, TS)]
pub struct SampleRate(pub u32);
