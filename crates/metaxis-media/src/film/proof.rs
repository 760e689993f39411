//! What a frame is known by, and whether a written one is the same.

use super::pixels::Pixels;
use serde::{Deserialize, Serialize};

/// Size of a print.
const ACROSS: usize = 32;
const DOWN: usize = 18;

/// So much may the mean brightness of parts of a frame change by being coded, of 255.
const MOST: f64 = 6.0;

/// A frame, by the mean brightness of its parts.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub(super) struct Print {
    /// Its number.
    pub frame: i64,
    means: Vec<u8>,
}

impl Print {
    /// Of a frame.
    pub fn of(frame: i64, pixels: Pixels, bytes: &[u8]) -> Self {
        let [luma, ..] = pixels.planes();
        let value = |x: usize, y: usize| {
            let at = (y * luma.width + x) * pixels.depth();
            if pixels.deep {
                u64::from(u16::from_le_bytes([bytes[at], bytes[at + 1]])) / 4
            } else {
                u64::from(bytes[at])
            }
        };
        let range = |part: usize, of: usize, all: usize| {
            let from = part * all / of;
            from..((part + 1) * all / of).max(from + 1).min(all)
        };
        let mean = |part: usize| {
            let (across, down) =
                (range(part % ACROSS, ACROSS, luma.width), range(part / ACROSS, DOWN, luma.height));
            let count = (across.len() * down.len()).max(1) as u64;
            let sum: u64 = down.flat_map(|y| across.clone().map(move |x| value(x, y))).sum();
            (sum / count) as u8
        };
        Self { frame, means: (0..ACROSS * DOWN).map(mean).collect() }
    }

    /// Whether another frame is this one, to the last bit.
    pub fn is(&self, other: &Self) -> bool {
        self.means == other.means
    }

    /// Whether another frame is this one, coded.
    pub fn is_like(&self, other: &Self) -> bool {
        let off = |(own, other): (&u8, &u8)| f64::from(own.abs_diff(*other));
        let all: f64 = self.means.iter().zip(&other.means).map(off).sum();
        self.means.len() == other.means.len() && all / self.means.len() as f64 <= MOST
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_frame_is_known_again_and_another_is_not() {
        let pixels = Pixels { width: 320, height: 180, deep: false, every_row: false };
        let frame = |shift: usize| {
            let mut bytes = vec![128; pixels.bytes()];
            for (at, own) in bytes[..320 * 180].iter_mut().enumerate() {
                *own = if ((at % 320 + shift) / 40).is_multiple_of(2) { 200 } else { 40 };
            }
            bytes
        };
        let own = Print::of(0, pixels, &frame(0));
        let coded: Vec<u8> = frame(0).iter().map(|own| own.saturating_add(3)).collect();
        assert!(own.is_like(&Print::of(7, pixels, &coded)));
        assert!(!own.is_like(&Print::of(0, pixels, &frame(20))));
    }
}
