//! Coarse search: band features of two clips against each other over all lags, by FFT.

use super::WhitenedBands;
use realfft::{RealFftPlanner, num_complex::Complex};

/// A lag at which two clips might belong together.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct CoarseMatch {
    /// Start of the clip on the reference's own time, in band frames (may be negative).
    pub lag_frames: i64,
    /// Height above the lags of this pair, in robust standard deviations.
    pub score: f32,
}

/// Plans and buffers for coarse searches.
pub struct Correlator {
    planner: RealFftPlanner<f32>,
}

impl Default for Correlator {
    fn default() -> Self {
        Self { planner: RealFftPlanner::new() }
    }
}

impl Correlator {
    /// The best lags of `clip` against `reference`, best first, at most `most`, each at least
    /// `apart` frames from a better one, over at least `min_overlap` frames.
    ///
    /// The sum of products at a lag is divided by the square root of the overlap: under "nothing in
    /// common" whitened features then have one spread at every lag, so long overlaps of noise do not
    /// beat short overlaps of signal. Scores are in units of that spread, taken from this pair's own
    /// lags by the median absolute deviation.
    pub fn search(
        &mut self,
        reference: &WhitenedBands,
        clip: &WhitenedBands,
        min_overlap: usize,
        apart: usize,
        most: usize,
    ) -> Vec<CoarseMatch> {
        let (n, m) = (reference.frames(), clip.frames());
        let min_overlap = min_overlap.min(n).min(m);
        if min_overlap == 0 {
            return vec![];
        }
        let Some(sums) = self.products(reference, clip) else { return vec![] };
        let size = sums.len();
        let first = min_overlap as i64 - m as i64;
        let last = n as i64 - min_overlap as i64;
        let mut scores: Vec<f32> = (first..=last)
            .map(|lag| {
                let overlap = (n as i64).min(lag + m as i64) - lag.max(0);
                let index = lag.rem_euclid(size as i64) as usize;
                sums[index] / (overlap as f32).sqrt()
            })
            .collect();
        let spread = robust_spread(&scores);
        if spread <= 0.0 {
            return vec![];
        }
        let mut found = vec![];
        while found.len() < most {
            let Some((at, &best)) = scores.iter().enumerate().max_by(|a, b| a.1.total_cmp(b.1)) else {
                break;
            };
            if best <= 0.0 {
                break;
            }
            found.push(CoarseMatch { lag_frames: first + at as i64, score: best / spread });
            let end = (at + apart).min(scores.len() - 1);
            scores[at.saturating_sub(apart)..=end].fill(f32::NEG_INFINITY);
        }
        found
    }

    /// Σ over bands of the cross-correlation; index is the lag modulo the length.
    fn products(&mut self, reference: &WhitenedBands, clip: &WhitenedBands) -> Option<Vec<f32>> {
        let size = (reference.frames() + clip.frames()).next_power_of_two();
        let forward = self.planner.plan_fft_forward(size);
        let inverse = self.planner.plan_fft_inverse(size);
        let mut sum = vec![Complex::new(0.0_f32, 0.0); size / 2 + 1];
        let mut input = forward.make_input_vec();
        let (mut a, mut b) = (forward.make_output_vec(), forward.make_output_vec());
        for (row_a, row_b) in reference.rows.iter().zip(&clip.rows) {
            for (row, out) in [(row_a, &mut a), (row_b, &mut b)] {
                input.fill(0.0);
                input[..row.len()].copy_from_slice(row);
                forward.process(&mut input, out).ok()?;
            }
            for ((total, x), y) in sum.iter_mut().zip(&a).zip(&b) {
                *total += x * y.conj();
            }
        }
        sum[0].im = 0.0;
        sum[size / 2].im = 0.0;
        let mut out = inverse.make_output_vec();
        inverse.process(&mut sum, &mut out).ok()?;
        Some(out)
    }
}

fn robust_spread(values: &[f32]) -> f32 {
    let mut sizes: Vec<f32> = values.iter().map(|v| v.abs()).collect();
    let middle = sizes.len() / 2;
    let (_, median, _) = sizes.select_nth_unstable_by(middle, f32::total_cmp);
    *median * 1.4826
}
