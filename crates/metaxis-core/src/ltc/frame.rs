//! The 80 bits of a frame (SMPTE ST 12-1, table 7).

use crate::time::{FrameRate, Timecode};

/// Bits a frame.
pub(super) const FRAME_BITS: usize = 80;
/// The sync word as it stands in the last 16 bits of a frame, first bit lowest.
const SYNC: u128 = 0xBFFC;
/// The same word when the tape runs backwards, in the first 16 bits that come.
const SYNC_BACKWARDS: u128 = 0x3FFD;

/// One frame of audio timecode and where it lies.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LtcFrame {
    /// Hours, minutes, seconds, frames as labelled.
    pub label: [u8; 4],
    /// Drop-frame flag.
    pub drop: bool,
    /// The eight user groups, first group lowest.
    pub user_bits: u32,
    /// Sample position, between samples, at which the frame's first bit begins (backwards: ends).
    pub start: f64,
    /// Samples a frame.
    pub length: f64,
    /// Running backwards.
    pub backwards: bool,
}

impl LtcFrame {
    /// Reads 80 bits, the oldest lowest; `line` gives the position of their first boundary and the samples a bit, and is
    /// asked only where there is a sync word. None where there is none, or no possible label.
    pub(super) fn read(register: u128, line: impl FnOnce() -> (f64, f64)) -> Option<Self> {
        let (forwards, backwards) =
            (register >> (FRAME_BITS - 16) == SYNC, register & 0xFFFF == SYNC_BACKWARDS);
        if !forwards && !backwards {
            return None;
        }
        let (first, bit) = line();
        let length = bit * FRAME_BITS as f64;
        if forwards {
            Self::of_bits(register, first, length, false)
        } else {
            let turned = register.reverse_bits() >> (128 - FRAME_BITS);
            Self::of_bits(turned, first + length, length, true)
        }
    }

    fn of_bits(bits: u128, start: f64, length: f64, backwards: bool) -> Option<Self> {
        let field = |from: u32, count: u32| ((bits >> from) & ((1 << count) - 1)) as u8;
        let pair = |units: u32, tens: u32, wide: u32| {
            let (low, high) = (field(units, 4), field(tens, wide));
            (low < 10).then_some(high * 10 + low)
        };
        let label = [pair(48, 56, 2)?, pair(32, 40, 3)?, pair(16, 24, 3)?, pair(0, 8, 2)?];
        if label[0] > 23 || label[1] > 59 || label[2] > 59 || label[3] > 29 {
            return None;
        }
        let user_bits = (0..8).fold(0, |all, group| all | u32::from(field(group * 8 + 4, 4)) << (group * 4));
        Some(Self { label, drop: field(10, 1) == 1, user_bits, start, length, backwards })
    }

    /// Year of the century, month and day, where the user bits hold a date after SMPTE ST 309 as digits: groups 1 and 2
    /// the day, 3 and 4 the month, 5 and 6 the year. None where they cannot be one.
    pub fn date(&self) -> Option<(u8, u8, u8)> {
        let digit = |group: u32| ((self.user_bits >> (group * 4)) & 15) as u8;
        let pair = |low: u32| {
            let (units, tens) = (digit(low), digit(low + 1));
            (units < 10 && tens < 10).then_some(tens * 10 + units)
        };
        let (day, month, year) = (pair(0)?, pair(2)?, pair(4)?);
        ((1..=31).contains(&day) && (1..=12).contains(&month)).then_some((year, month, day))
    }

    /// The label at a rate; None where the rate has no such label.
    pub fn timecode(&self, rate: FrameRate) -> Option<Timecode> {
        let [h, m, s, f] = self.label;
        let colon = if self.drop && rate.can_drop() { ';' } else { ':' };
        Timecode::parse(&format!("{h:02}:{m:02}:{s:02}{colon}{f:02}"), rate).ok()
    }
}
