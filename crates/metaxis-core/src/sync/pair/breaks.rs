//! The moment at which a device lost samples: where the waves cease to agree on one offset and begin to on another.

use super::windows::Windows;
use crate::sync::input::{HeardSound, OffsetAt, RATE};

/// Windows of half a second, looked at 32 ms either way to know how high chance is.
const WINDOW: (usize, usize) = (8_192, 512);
/// Windows a second, and at most in all.
const EVERY_S: f64 = 0.08;
const MOST: f64 = 400.0;
/// On an offset: within this many samples.
const ON: usize = 3;
/// One loud window does not outvote the others.
const CAP: f32 = 6.0;

/// Finds breaks; one a thread.
pub(super) struct BreakFinder {
    windows: Windows,
}

impl Default for BreakFinder {
    fn default() -> Self {
        Self { windows: Windows::new(WINDOW.0, WINDOW.1) }
    }
}

impl BreakFinder {
    /// The moment between `from_s` and `to_s` that splits best into what agrees on `before` and what agrees on
    /// `after`. `sign` is −1 where one of the two is inverted.
    pub fn between(
        &mut self,
        (reference, clip): (&HeardSound, &HeardSound),
        (before, after): (OffsetAt, OffsetAt),
        (from_s, to_s): (f64, f64),
        sign: f32,
    ) -> f64 {
        let step = EVERY_S.max((to_s - from_s) / MOST);
        let count = ((to_s - from_s) / step).ceil().max(1.0) as usize;
        // Running sum of how much better the earlier offset fits: highest at the break.
        let (mut sum, mut best) = (0.0, (0.0, from_s));
        for i in 0..count {
            let at = from_s + (i as f64 + 0.5) * step;
            sum += self.height(reference, clip, at, before(at), sign)
                - self.height(reference, clip, at, after(at), sign);
            if sum > best.0 {
                best = (sum, at + 0.5 * step);
            }
        }
        best.1
    }

    /// How much the window around `at` speaks for `offset_s`: the square of how high its correlation stands there, in
    /// standard deviations. (Twice the log of the odds, where nothing is known of how loud it is; a sum of the heights
    /// themselves walks off by chance in a long pause.)
    fn height(
        &mut self,
        reference: &HeardSound,
        clip: &HeardSound,
        at: f64,
        offset_s: f64,
        sign: f32,
    ) -> f32 {
        let from = (at * RATE) as i64 - WINDOW.0 as i64 / 2;
        let offset = (offset_s * RATE).round() as i64;
        let Some(lags) = self.windows.look(reference, clip, from, offset) else { return 0.0 };
        let middle = WINDOW.1;
        lags[middle - ON..=middle + ON].iter().map(|v| v * sign).fold(0.0, f32::max).min(CAP).powi(2)
    }
}
