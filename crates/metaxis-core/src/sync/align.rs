//! One clip against one reference clip near a coarse position: many windows, one fit.

use super::{
    HeardSound, Stretch,
    pieces::{LocalOffset, PieceFit, fit_pieces},
};
use crate::signal::{LISTEN_RATE, PhaseMatcher};

const RATE: f64 = LISTEN_RATE as f64;
/// Window: long enough for a far, echoing voice; short enough that 100 ppm does not smear it.
const WINDOW_S: f64 = 2.0;
/// Searched either way: covers an hour's drift and usual losses.
const RANGE_S: f64 = 0.75;
/// A window whose peak is lower than this many sigmas of its lags says nothing.
const MIN_STRENGTH: f32 = 6.0;

/// How many windows to spend.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Effort {
    /// A few, to rank candidates.
    Probe,
    /// All that help.
    Full,
}

/// A clip laid against a reference.
#[derive(Debug, Clone, PartialEq)]
pub struct Alignment {
    /// Where the clip lies on the reference's own time.
    pub stretches: Vec<Stretch>,
    /// Windows measured.
    pub tried: usize,
    /// Windows that agree with the fit.
    pub agreeing: usize,
    /// Σ strength of agreeing windows over windows tried: comparable between positions of one pair.
    pub strength: f64,
    /// Natural log of the odds against so many windows agreeing by chance.
    pub log_odds: f64,
    /// (clip time, error) of agreeing windows, seconds.
    pub residuals: Vec<(f64, f64)>,
}

/// Buffers for aligning; one a thread.
pub struct Aligner {
    matcher: PhaseMatcher,
    clip: Vec<f32>,
    reference: Vec<f32>,
}

impl Default for Aligner {
    fn default() -> Self {
        let (window, range) = ((WINDOW_S * RATE) as usize, (RANGE_S * RATE) as usize);
        Self {
            matcher: PhaseMatcher::new(window, range),
            clip: vec![0.0; window],
            reference: vec![0.0; window + 2 * range],
        }
    }
}

impl Aligner {
    /// Aligns `clip`, whose start is expected at `start_s` of the reference's own time, give or take
    /// `RANGE_S`. `None` where nothing agrees.
    pub fn align(
        &mut self,
        reference: &HeardSound,
        clip: &HeardSound,
        start_s: f64,
        effort: Effort,
    ) -> Option<Alignment> {
        let most = match effort {
            Effort::Probe => 24,
            Effort::Full => 160,
        };
        let (windows, tried) = self.measure(reference, clip, start_s, most);
        let fit = fit_pieces(&windows)?;
        let breaks = if effort == Effort::Full { self.breaks(reference, clip, &fit) } else { middles(&fit) };
        Some(Alignment {
            stretches: stretches(&fit, &breaks, clip.duration_s()),
            tried,
            agreeing: fit.agreeing(),
            strength: fit.weight / tried.max(1) as f64,
            log_odds: log_odds(tried, fit.agreeing(), fit.pieces.len()),
            residuals: fit.residuals,
        })
    }

    fn measure(
        &mut self,
        reference: &HeardSound,
        clip: &HeardSound,
        start_s: f64,
        most: usize,
    ) -> (Vec<LocalOffset>, usize) {
        let window = self.matcher.window() as i64;
        let expected = (start_s * RATE).round() as i64;
        let first = (-expected).max(0);
        let last = (clip.samples.len() as i64).min(reference.samples.len() as i64 - expected) - window;
        if last < first {
            return (vec![], 0);
        }
        // At least half a window apart: more would only say the same again.
        let count = ((last - first) / (window / 2) + 1).clamp(1, most as i64);
        let mut found = vec![];
        for i in 0..count {
            let at = if count == 1 { first } else { first + (last - first) * i / (count - 1) };
            clip.samples.read(at, &mut self.clip);
            reference.samples.read(at + expected - self.matcher.range() as i64, &mut self.reference);
            let Some(local) = self.matcher.find(&self.clip, &self.reference) else { continue };
            if local.strength >= MIN_STRENGTH {
                found.push(LocalOffset {
                    clip_s: (at as f64 + window as f64 / 2.0) / RATE,
                    offset_s: (expected as f64 + local.offset) / RATE,
                    weight: f64::from(local.strength),
                });
            }
        }
        (found, count as usize)
    }

    /// Where between two pieces samples were lost: bisection by which of the two offsets fits better in
    /// windows of a quarter second.
    fn breaks(&mut self, reference: &HeardSound, clip: &HeardSound, fit: &PieceFit) -> Vec<f64> {
        let length = (0.25 * RATE) as usize;
        let (mut ours, mut theirs) = (vec![0.0; length], vec![0.0; length]);
        let mut likeness = |at: f64, offset: f64| {
            clip.samples.read((at * RATE) as i64, &mut ours);
            reference.samples.read(((at + offset) * RATE).round() as i64, &mut theirs);
            let (mut xy, mut xx, mut yy) = (0.0_f64, 1e-12_f64, 1e-12_f64);
            // Differences: rumble, which is alike at any offset, has no say.
            for (a, b) in ours.windows(2).zip(theirs.windows(2)) {
                let (x, y) = (a[1] - a[0], b[1] - b[0]);
                xy += f64::from(x * y);
                xx += f64::from(x * x);
                yy += f64::from(y * y);
            }
            xy.abs() / (xx * yy).sqrt()
        };
        fit.pieces
            .windows(2)
            .map(|pair| {
                let (mut low, mut high) = (pair[0].last_s - 0.5 * WINDOW_S, pair[1].first_s + 0.5 * WINDOW_S);
                while high - low > 0.05 {
                    let middle = 0.5 * (low + high);
                    let drift = fit.slope * middle;
                    let before = likeness(middle - 0.125, pair[0].offset_s + drift);
                    let after = likeness(middle - 0.125, pair[1].offset_s + drift);
                    if before > after { low = middle } else { high = middle }
                }
                0.5 * (low + high)
            })
            .collect()
    }
}

fn middles(fit: &PieceFit) -> Vec<f64> {
    fit.pieces.windows(2).map(|pair| 0.5 * (pair[0].last_s + pair[1].first_s)).collect()
}

fn stretches(fit: &PieceFit, breaks: &[f64], duration_s: f64) -> Vec<Stretch> {
    // offset(u) = level + slope·u and axis = start + u/(1+r), so 1/(1+r) = 1 + slope.
    let rate_ppm = (1.0 / (1.0 + fit.slope) - 1.0) * 1e6;
    fit.pieces
        .iter()
        .enumerate()
        .map(|(i, piece)| {
            let clip_start_s = if i == 0 { 0.0 } else { breaks[i - 1] };
            let middle = 0.5 * (piece.first_s + piece.last_s);
            Stretch {
                clip_start_s,
                clip_end_s: breaks.get(i).copied().unwrap_or(duration_s),
                start_s: clip_start_s + piece.offset_s + fit.slope * clip_start_s,
                rate_ppm,
                start_sigma_s: piece.sigma_s.hypot(fit.slope_sigma * (middle - clip_start_s)),
                rate_sigma_ppm: fit.slope_sigma * 1e6,
            }
        })
        .collect()
}

/// Log odds against `agreeing` of `tried` windows falling on one line by chance: two of them define it;
/// each other lands within the tolerance with the tolerance's share of the searched range; any choice of
/// windows would have done.
fn log_odds(tried: usize, agreeing: usize, pieces: usize) -> f64 {
    let free = agreeing.saturating_sub(1 + pieces) as f64;
    let choose: f64 = (0..agreeing.min(tried)).map(|i| ((tried - i) as f64 / (i + 1) as f64).ln()).sum();
    free * (2.0 * RANGE_S / 1.6e-3).ln() - choose
}
