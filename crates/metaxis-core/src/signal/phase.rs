//! Fine search: generalised cross-correlation with phase transform in one window.
//!
//! Knapp & Carter, "The generalized correlation method for estimation of time delay", IEEE Trans. ASSP 24
//! (1976). The weight is |X·Y*|^-0.8 instead of -1: full whitening gives bins of pure noise a full vote.

use super::LISTEN_RATE;
use super::sinc;
use realfft::{ComplexToReal, RealFftPlanner, RealToComplex, num_complex::Complex};
use std::sync::Arc;

/// A peak of the correlation in one window.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LagPeak {
    /// Index of the lag: lag plus [`PhaseMatcher::range`], in samples.
    pub at: usize,
    /// Height in standard deviations of the searched lags; below zero where one of the two is inverted.
    pub height: f32,
}

/// Plans and buffers for windows of one length and search range.
pub struct PhaseMatcher {
    window: usize,
    range: usize,
    forward: Arc<dyn RealToComplex<f32>>,
    inverse: Arc<dyn ComplexToReal<f32>>,
    clip: Vec<f32>,
    reference: Vec<f32>,
    a: Vec<Complex<f32>>,
    b: Vec<Complex<f32>>,
    lags: Vec<f32>,
    taper: Vec<f32>,
}

impl PhaseMatcher {
    /// For clip windows of `window` samples, searched `range` samples either way.
    pub fn new(window: usize, range: usize) -> Self {
        let size = (window + 2 * range).next_power_of_two();
        let mut planner = RealFftPlanner::<f32>::new();
        let forward = planner.plan_fft_forward(size);
        let inverse = planner.plan_fft_inverse(size);
        let edge = window / 16;
        let taper = (0..window)
            .map(|i| {
                let from_end = i.min(window - 1 - i);
                if from_end >= edge {
                    1.0
                } else {
                    (std::f32::consts::FRAC_PI_2 * from_end as f32 / edge as f32).sin()
                }
            })
            .collect();
        Self {
            window,
            range,
            clip: forward.make_input_vec(),
            reference: forward.make_input_vec(),
            a: forward.make_output_vec(),
            b: forward.make_output_vec(),
            lags: inverse.make_output_vec(),
            forward,
            inverse,
            taper,
        }
    }

    /// Samples of the clip a window needs.
    pub fn window(&self) -> usize {
        self.window
    }

    /// Samples searched either way.
    pub fn range(&self) -> usize {
        self.range
    }

    /// Correlates `clip` (`window` samples) with `reference` (`window + 2·range` samples, of which the expected
    /// place is in the middle). The result is one value a lag, from `-range` to `range`, in standard deviations of
    /// all of them. `None` where either is silent.
    pub fn correlate(&mut self, clip: &[f32], reference: &[f32]) -> Option<&[f32]> {
        if clip.len() != self.window || reference.len() != self.window + 2 * self.range {
            return None;
        }
        self.clip.fill(0.0);
        self.reference.fill(0.0);
        for ((out, sample), taper) in self.clip.iter_mut().zip(clip).zip(&self.taper) {
            *out = sample * taper;
        }
        self.reference[..reference.len()].copy_from_slice(reference);
        self.forward.process(&mut self.clip, &mut self.a).ok()?;
        self.forward.process(&mut self.reference, &mut self.b).ok()?;
        self.weigh()?;
        self.inverse.process(&mut self.b, &mut self.lags).ok()?;
        let lags = &mut self.lags[..=2 * self.range];
        let power = sum(lags, |v| v * v) / lags.len() as f32;
        let scale = power.sqrt().max(f32::MIN_POSITIVE).recip();
        for value in lags {
            *value *= scale;
        }
        Some(self.lags())
    }

    /// What [`Self::correlate`] found last.
    pub fn lags(&self) -> &[f32] {
        &self.lags[..=2 * self.range]
    }

    /// The highest peaks of the last correlation, either sign, highest first, at least `apart` samples from a higher
    /// one and at least `least` high.
    pub fn peaks(&self, most: usize, least: f32, apart: usize) -> Vec<LagPeak> {
        let lags = self.lags();
        let size = |i: usize| lags.get(i).map_or(0.0, |v| v.abs());
        let mut tops: Vec<LagPeak> = (0..lags.len())
            .filter(|&i| size(i) >= least && (i == 0 || size(i) >= size(i - 1)) && size(i) > size(i + 1))
            .map(|at| LagPeak { at, height: lags[at] })
            .collect();
        tops.sort_unstable_by(|a, b| b.height.abs().total_cmp(&a.height.abs()));
        let mut found: Vec<LagPeak> = vec![];
        for top in tops {
            if found.len() == most {
                break;
            }
            if found.iter().all(|other| other.at.abs_diff(top.at) >= apart) {
                found.push(top);
            }
        }
        found
    }

    /// Lag of a peak of the last correlation in samples, refined below a sample.
    pub fn refined(&self, peak: LagPeak) -> f64 {
        peak.at as f64 + refine(self.lags(), peak.at, peak.height.signum()) - self.range as f64
    }

    /// Cross spectrum over `b`, whitened, limited to the band both devices can be trusted in.
    fn weigh(&mut self) -> Option<()> {
        let size = self.lags.len();
        let bin = |hz: f64| (hz * size as f64 / f64::from(LISTEN_RATE)) as usize;
        let (low, high) = (bin(100.0), bin(7200.0));
        for (b, a) in self.b[low..high].iter_mut().zip(&self.a[low..high]) {
            *b *= a.conj();
        }
        let power = sum(&self.b[low..high], Complex::norm_sqr);
        let floor = power / (high - low) as f32 * FLOOR;
        if floor <= 1e-24 {
            return None;
        }
        self.b[..low].fill(Complex::default());
        self.b[high..].fill(Complex::default());
        for value in &mut self.b[low..high] {
            *value *= two_fifths_root_inverse(value.norm_sqr() + floor);
        }
        Some(())
    }
}

/// Sum of `size` over `values` in eight strands, which run at once and lose less than one would.
fn sum<T>(values: &[T], size: impl Fn(&T) -> f32) -> f32 {
    let mut strands = [0.0_f32; 8];
    let (eights, rest) = values.as_chunks::<8>();
    for eight in eights {
        for (strand, value) in strands.iter_mut().zip(eight) {
            *strand += size(value);
        }
    }
    strands.into_iter().sum::<f32>() + rest.iter().map(size).sum::<f32>()
}

/// Added to the squared magnitudes of the cross spectrum, as a share of their mean: bins of digital silence must not
/// be blown up.
const FLOOR: f32 = 1e-7;

/// `x` to the power −2/5, to 5 parts in ten thousand; `x` is positive and not subnormal. A first guess by the
/// exponent, then Newton's method on 1 − x²y⁵: unlike `powf` it runs several values at once.
fn two_fifths_root_inverse(x: f32) -> f32 {
    // The exponent is 0.4 times as large and negative; 127 · 1.4 keeps the bias, less what makes the error even.
    const BIAS: f32 = 1.4 * 127.0 * 8_388_608.0 - 280_000.0;
    let mut y = f32::from_bits((BIAS - 0.4 * x.to_bits() as f32) as u32);
    for _ in 0..2 {
        let root = x * y * y;
        y *= 1.2 - 0.2 * root * root * y;
    }
    y
}

/// Sub-sample place of a peak: the sampled correlation is band-limited, so it is interpolated by a
/// windowed sinc at sixteenths of a sample and the top found by a parabola through three of these.
pub(crate) fn refine(lags: &[f32], at: usize, sign: f32) -> f64 {
    const STEP: f64 = 1.0 / 16.0;
    const REACH: i64 = 12;
    let value = |x: f64| -> f64 {
        let base = x.floor() as i64;
        (base - REACH + 1..=base + REACH)
            .filter_map(|i| {
                let sample = f64::from(*lags.get(usize::try_from(at as i64 + i).ok()?)?);
                Some(sample * sinc::weight(x - i as f64, REACH as f64))
            })
            .sum::<f64>()
            * f64::from(sign)
    };
    let (mut best, mut top) = (0.0, f64::NEG_INFINITY);
    for step in -16..=16 {
        let x = f64::from(step) * STEP;
        let y = value(x);
        if y > top {
            (best, top) = (x, y);
        }
    }
    let (left, right) = (value(best - STEP), value(best + STEP));
    let bend = left - 2.0 * top + right;
    if bend < 0.0 { best + STEP * 0.5 * (left - right) / bend } else { best }
}
