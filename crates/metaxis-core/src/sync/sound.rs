//! What the engine hears of a clip.

use crate::signal::{LISTEN_RATE, WhitenedBands};

/// Random access to a clip's listening stream ([`LISTEN_RATE`] samples a second, mono). Lets long sounds
/// stay on disk: only windows are read.
pub trait SampleSource: Sync {
    /// Number of samples.
    fn len(&self) -> u64;

    /// True where there is not one sample.
    fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// Fills `out` with the samples from `from` on; zeros outside the clip (also before it).
    fn read(&self, from: i64, out: &mut [f32]);
}

impl SampleSource for Vec<f32> {
    fn len(&self) -> u64 {
        Vec::len(self) as u64
    }

    fn read(&self, from: i64, out: &mut [f32]) {
        for (i, value) in out.iter_mut().enumerate() {
            let at = from + i as i64;
            *value = usize::try_from(at).ok().and_then(|at| self.get(at)).copied().unwrap_or(0.0);
        }
    }
}

/// A clip's sound, ready to be matched.
pub struct HeardSound<'a> {
    /// Band features.
    pub bands: &'a WhitenedBands,
    /// The samples.
    pub samples: &'a dyn SampleSource,
}

impl HeardSound<'_> {
    /// Length in seconds.
    pub fn duration_s(&self) -> f64 {
        self.samples.len() as f64 / f64::from(LISTEN_RATE)
    }
}
