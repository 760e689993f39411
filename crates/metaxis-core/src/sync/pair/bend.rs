//! The clock of a long clip as a smooth curve: one line with as few knots as the windows bear, and the steps of its
//! breaks, by least squares.
//!
//! Knots are added one by one where they explain most (forward selection); each must explain clearly more than the
//! scatter between neighbouring windows does by chance.

use super::{course::Bend, offset::LocalOffset};
use crate::signal::scaled_median;
use nalgebra::{DMatrix, DVector};

/// Knots are at least this far apart, seconds,
const APART_S: f64 = 60.0;
/// and so many at most are tried.
const TRIED: f64 = 120.0;
/// A knot must lower the sum of squares by this many variances, and twice the logarithm of the number of windows.
const WORTH: f64 = 16.0;
/// Scatter is never taken for less than this, seconds: what rooms and interpolation leave.
const LEAST_SCATTER_S: f64 = 4e-6;
/// A crystal's rate moves by no more than this along a clip.
const MOST_BENT: f64 = 30e-6;
/// Fewer windows than this show no bend.
const FEWEST: usize = 24;

/// A fitted curve.
pub(crate) struct Curve {
    /// Change of offset a second, on average from end to end.
    pub slope: f64,
    /// Its standard deviation.
    pub slope_sigma: f64,
    /// Offset of each piece at clip time zero, were the clock straight.
    pub levels: Vec<f64>,
    /// Departure from that.
    pub bend: Bend,
}

/// Fits `windows`, each belonging to the piece that `piece_of` names (of `pieces`); `None` where a straight clock
/// explains them as well.
pub(super) fn fit_bend(windows: &[(LocalOffset, usize)], pieces: usize) -> Option<Curve> {
    if windows.len() < FEWEST.max(4 * pieces) {
        return None;
    }
    let (first, last) = (windows[0].0.clip_s, windows[windows.len() - 1].0.clip_s);
    let span = last - first;
    let apart = APART_S.max(span / TRIED);
    if span < 3.0 * apart {
        return None;
    }
    let fit = Fit::new(windows, pieces, first, span);
    let scatter = fit.scatter();
    let worth = WORTH + 2.0 * (windows.len() as f64).ln();
    let candidates: Vec<f64> = (1..(span / apart) as usize).map(|i| first + apart * i as f64).collect();
    let mut knots: Vec<f64> = vec![];
    let mut solved = fit.solve(&knots)?;
    loop {
        let free =
            candidates.iter().copied().filter(|at| knots.iter().all(|knot| (knot - at).abs() > 0.99 * apart));
        let gain = |at: f64| fit.gain(&solved, at) / (scatter * scatter);
        let Some((at, gained)) = free.map(|at| (at, gain(at))).max_by(|a, b| a.1.total_cmp(&b.1)) else {
            break;
        };
        if gained < worth {
            break;
        }
        knots.push(at);
        knots.sort_by(f64::total_cmp);
        solved = fit.solve(&knots)?;
    }
    if knots.is_empty() {
        return None;
    }
    fit.curve(&solved, &knots, scatter)
}

struct Fit<'a> {
    windows: &'a [(LocalOffset, usize)],
    pieces: usize,
    first_s: f64,
    span_s: f64,
    /// Weights with mean one.
    weights: Vec<f64>,
    /// What offsets are counted from.
    base_s: f64,
}

/// Coefficients: a level a piece, a slope, a change of slope a knot.
struct Solved {
    values: DVector<f64>,
    inverse: DMatrix<f64>,
    /// What each window says of them, and what is left of its offset.
    rows: Vec<DVector<f64>>,
    residuals: Vec<f64>,
}

impl<'a> Fit<'a> {
    fn new(windows: &'a [(LocalOffset, usize)], pieces: usize, first_s: f64, span_s: f64) -> Self {
        let mean = windows.iter().map(|(w, _)| w.weight).sum::<f64>() / windows.len() as f64;
        let weights = windows.iter().map(|(w, _)| w.weight / mean).collect();
        Self { windows, pieces, first_s, span_s, weights, base_s: windows[0].0.offset_s }
    }

    /// Robust standard deviation of what neighbouring windows differ by.
    fn scatter(&self) -> f64 {
        let slope = |i: usize| {
            let (a, b) = (self.windows[i].0, self.windows[i + 1].0);
            (b.offset_s - a.offset_s) / (b.clip_s - a.clip_s).max(1e-3)
        };
        let same = |i: &usize| self.windows[*i].1 == self.windows[*i + 1].1;
        let mut slopes: Vec<f64> = (0..self.windows.len() - 1).filter(same).map(slope).collect();
        slopes.sort_by(f64::total_cmp);
        let middle = slopes.get(slopes.len() / 2).copied().unwrap_or(0.0);
        let differs = |i: usize| {
            let (a, b) = (self.windows[i].0, self.windows[i + 1].0);
            (b.offset_s - a.offset_s - middle * (b.clip_s - a.clip_s)).abs()
        };
        let mut sizes: Vec<f64> = (0..self.windows.len() - 1).filter(same).map(differs).collect();
        let scatter = scaled_median(&mut sizes).unwrap_or(0.0);
        (scatter * std::f64::consts::FRAC_1_SQRT_2).max(LEAST_SCATTER_S)
    }

    fn columns(&self, knots: &[f64]) -> usize {
        self.pieces + 1 + knots.len()
    }

    fn row(&self, i: usize, knots: &[f64]) -> DVector<f64> {
        let (window, piece) = &self.windows[i];
        let mut row = DVector::zeros(self.columns(knots));
        row[*piece] = 1.0;
        row[self.pieces] = (window.clip_s - self.first_s) / self.span_s;
        for (k, knot) in knots.iter().enumerate() {
            row[self.pieces + 1 + k] = self.hinge(window.clip_s, *knot);
        }
        row
    }

    fn hinge(&self, clip_s: f64, knot: f64) -> f64 {
        (clip_s - knot).max(0.0) / self.span_s
    }

    fn solve(&self, knots: &[f64]) -> Option<Solved> {
        let size = self.columns(knots);
        let (mut normal, mut right) = (DMatrix::zeros(size, size), DVector::zeros(size));
        let rows: Vec<DVector<f64>> = (0..self.windows.len()).map(|i| self.row(i, knots)).collect();
        for (i, row) in rows.iter().enumerate() {
            let value = self.windows[i].0.offset_s - self.base_s;
            normal.syger(self.weights[i], row, row, 1.0);
            right.axpy(self.weights[i] * value, row, 1.0);
        }
        // Only the lower triangle is made.
        normal.fill_upper_triangle_with_lower_triangle();
        let inverse = normal.cholesky()?.inverse();
        let values = &inverse * right;
        let left =
            |(i, row): (usize, &DVector<f64>)| self.windows[i].0.offset_s - self.base_s - row.dot(&values);
        let residuals = rows.iter().enumerate().map(left).collect();
        Some(Solved { values, inverse, rows, residuals })
    }

    /// By how much a knot at `at` would lower the weighted sum of squares.
    fn gain(&self, solved: &Solved, at: f64) -> f64 {
        let mut shared = DVector::zeros(solved.values.len());
        let (mut own, mut agrees) = (0.0, 0.0);
        for i in 0..self.windows.len() {
            let hinge = self.hinge(self.windows[i].0.clip_s, at);
            if hinge > 0.0 {
                shared.axpy(self.weights[i] * hinge, &solved.rows[i], 1.0);
                own += self.weights[i] * hinge * hinge;
                agrees += self.weights[i] * hinge * solved.residuals[i];
            }
        }
        // What is left of the new column beside the old ones.
        let left = own - shared.dot(&(&solved.inverse * &shared));
        if left > 1e-9 * own { agrees * agrees / left } else { 0.0 }
    }

    fn curve(&self, solved: &Solved, knots: &[f64], scatter: f64) -> Option<Curve> {
        let last_s = self.first_s + self.span_s;
        let slopes = &solved.values.as_slice()[self.pieces..];
        // Rates between the knots.
        let mut rate = 0.0;
        let rates: Vec<f64> = slopes
            .iter()
            .map(|change| {
                rate += change / self.span_s;
                rate
            })
            .collect();
        let (low, high) =
            rates.iter().fold((f64::MAX, f64::MIN), |(low, high), rate| (low.min(*rate), high.max(*rate)));
        if high - low > MOST_BENT {
            return None;
        }
        let moments: Vec<f64> =
            [self.first_s].into_iter().chain(knots.iter().copied()).chain([last_s]).collect();
        let mut height = 0.0;
        let mut heights = vec![0.0];
        for (pair, rate) in moments.windows(2).zip(&rates) {
            height += rate * (pair[1] - pair[0]);
            heights.push(height);
        }
        let slope = height / self.span_s;
        let bend =
            moments.iter().zip(&heights).map(|(at, height)| (*at, height - slope * (at - self.first_s)));
        let levels = (0..self.pieces).map(|piece| solved.values[piece] + self.base_s - slope * self.first_s);
        // The slope from end to end is the first and what the knots add over what follows them.
        let mut weights = DVector::zeros(solved.values.len());
        weights[self.pieces] = 1.0;
        for (k, knot) in knots.iter().enumerate() {
            weights[self.pieces + 1 + k] = (last_s - knot) / self.span_s;
        }
        let slope_sigma = weights.dot(&(&solved.inverse * &weights)).max(0.0).sqrt() * scatter / self.span_s;
        Some(Curve { slope, slope_sigma, levels: levels.collect(), bend: Bend::new(bend.collect()) })
    }
}
