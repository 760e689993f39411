//! What the engine hears of a clip.

use crate::signal::{LISTEN_RATE, Pattern};

/// Samples in a second.
pub(crate) const RATE: f64 = LISTEN_RATE as f64;

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

/// One of a clip's sounds (a channel or a mix of some), ready to be matched.
#[derive(Clone, Copy)]
pub struct HeardSound<'a> {
    /// How its bands rise and fall.
    pub pattern: &'a Pattern,
    /// The samples.
    pub samples: &'a dyn SampleSource,
    /// How much later it hears than the clip's earliest channel, seconds.
    pub late_s: f64,
    /// The channel it is, from 0; `None` for several together.
    pub channel: Option<usize>,
}

impl<'a> HeardSound<'a> {
    /// The only sound of a clip.
    pub fn of(pattern: &'a Pattern, samples: &'a dyn SampleSource) -> Self {
        Self { pattern, samples, late_s: 0.0, channel: None }
    }
}

impl HeardSound<'_> {
    /// Length in seconds.
    pub fn duration_s(&self) -> f64 {
        self.samples.len() as f64 / f64::from(LISTEN_RATE)
    }
}

/// The reference and the clip that is laid against it.
pub(crate) type Pair<'a> = (&'a HeardSound<'a>, &'a HeardSound<'a>);

/// Offset (reference minus clip time, seconds) at a moment of the clip's own time.
pub(crate) type OffsetAt<'a> = &'a dyn Fn(f64) -> f64;
