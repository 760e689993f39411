//! A sound as it would be at another speed.

use crate::signal::sinc;
use crate::sync::input::SampleSource;

/// A sound that was recorded at another sample rate than its label says: as it would be at the right one.
pub(super) struct AtSpeed<'a> {
    inner: &'a dyn SampleSource,
    speed: f64,
}

impl<'a> AtSpeed<'a> {
    /// `inner` played `speed` times as fast.
    pub(crate) fn new(inner: &'a dyn SampleSource, speed: f64) -> Self {
        Self { inner, speed }
    }
}

/// Taps either side of the interpolation.
const REACH: i64 = 8;

impl SampleSource for AtSpeed<'_> {
    fn len(&self) -> u64 {
        (self.inner.len() as f64 / self.speed) as u64
    }

    fn read(&self, from: i64, out: &mut [f32]) {
        let first = (from as f64 * self.speed).floor() as i64 - REACH;
        let mut source = vec![0.0; (out.len() as f64 * self.speed) as usize + 2 * REACH as usize + 2];
        self.inner.read(first, &mut source);
        for (i, value) in out.iter_mut().enumerate() {
            let at = (from + i as i64) as f64 * self.speed - first as f64;
            let (base, part) = (at.floor() as i64, at.fract());
            *value = (1 - REACH..=REACH)
                .filter_map(|k| {
                    let weight = sinc::weight(k as f64 - part, REACH as f64);
                    Some(*source.get(usize::try_from(base + k).ok()?)? * weight as f32)
                })
                .sum();
        }
    }
}
