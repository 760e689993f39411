//! Times of day.

/// Seconds from a day to the next.
pub(crate) const DAY_S: f64 = 86_400.0;

/// A difference of two times of day, within half a day.
pub(crate) fn wrapped(seconds: f64) -> f64 {
    seconds - DAY_S * (seconds / DAY_S).round()
}
