//! How far several windows together stand above the lags beside a line.

/// On the line: within this many samples (0.8 ms).
pub(super) const NEAR: usize = 13;
/// Heights above this say no more: one clap must not speak for a minute.
const CAP: f32 = 8.0;
/// Bins next to the line hold its skirts and first echoes.
const SKIRTS: usize = 2;

/// Heights on the line and beside it, summed over windows.
pub(super) struct Contrast {
    /// Sum over windows of (height − mean beside) in each bin of lags; the middle bin is the line.
    bins: Vec<f64>,
    /// Sum of the variances beside the line.
    variance: f64,
    windows: usize,
}

impl Contrast {
    /// For windows searched `range` samples either way.
    pub fn new(range: usize) -> Self {
        Self { bins: vec![0.0; 2 * (range / (2 * NEAR + 1) - 1) + 1], variance: 0.0, windows: 0 }
    }

    /// Adds a window: the highest lag of each bin, against the mean of the bins beside the line.
    pub fn add(&mut self, lags: &[f32], sign: f32) {
        let (middle, width, line) = (lags.len() / 2, 2 * NEAR + 1, self.bins.len() / 2);
        let tops: Vec<f32> = (0..self.bins.len())
            .map(|bin| {
                let from = middle + bin * width - line * width - NEAR;
                lags[from..from + width].iter().map(|v| v * sign).fold(0.0, f32::max).min(CAP)
            })
            .collect();
        let beside =
            || tops.iter().enumerate().filter(|(i, _)| i.abs_diff(line) > SKIRTS).map(|(_, v)| f64::from(*v));
        let count = beside().count() as f64;
        let mean = beside().sum::<f64>() / count;
        self.variance += (beside().map(|v| (v - mean).powi(2)).sum::<f64>() / count).max(0.04);
        for (sum, top) in self.bins.iter_mut().zip(&tops) {
            *sum += f64::from(*top) - mean;
        }
        self.windows += 1;
    }

    /// Height of the line and of the next best bin, in standard deviations. Windows that overlap share what makes one:
    /// `shared` is how many of them make one that stands alone.
    pub fn heights(&self, shared: f64) -> (f64, f64) {
        if self.windows == 0 {
            return (0.0, 0.0);
        }
        let (scale, line) = ((self.variance * shared).sqrt().max(1e-9), self.bins.len() / 2);
        let beside = self
            .bins
            .iter()
            .enumerate()
            .filter(|(i, _)| i.abs_diff(line) > SKIRTS)
            .map(|(_, v)| *v)
            .fold(0.0, f64::max);
        (self.bins[line] / scale, beside / scale)
    }
}

/// What windows that overlap by half share.
pub(super) const HALF_OVERLAPPING: f64 = 1.5;
