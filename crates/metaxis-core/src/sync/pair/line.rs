//! The first rough line through windows that each have several peaks: by votes, or by stacking where no window is
//! sure of itself.

use crate::sync::input::RATE;

/// Largest clock error considered physical for one recording at its right label (0.1 % pull-down included).
pub(super) const MAX_SLOPE: f64 = 1100e-6;
/// Slopes that are tried where windows are added up: what crystals do.
pub(super) const CRYSTAL_SLOPE: f64 = 150e-6;
/// Two windows agree when they are this near one line, seconds.
pub(crate) const TOLERANCE_S: f64 = 0.8e-3;

/// offset (reference minus clip time) = `offset_s` + `slope` · clip time.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct RoughLine {
    pub offset_s: f64,
    pub slope: f64,
    /// −1 where one of the two is inverted.
    pub sign: f32,
    /// Natural log of the odds against chance.
    pub log_odds: f64,
}

impl RoughLine {
    pub fn at(&self, clip_s: f64) -> f64 {
        self.offset_s + self.slope * clip_s
    }
}

/// A window and its highest peaks: (offset in seconds, height).
pub(crate) struct Probe {
    /// Middle of the window in the clip's own time.
    pub clip_s: f64,
    pub peaks: Vec<(f64, f32)>,
    /// The whole correlation, for stacking.
    pub lags: Vec<f32>,
}

/// The line that most windows vote for. `range_s` is what was searched either way.
///
/// Odds: with probability π a window's peak lies on the line, else anywhere in the range; π is what was observed.
/// From that is taken what the number of lines that could have been drawn makes of it.
pub(super) fn vote(probes: &[Probe], range_s: f64) -> Option<RoughLine> {
    let cells = range_s / TOLERANCE_S;
    let span = probes.last()?.clip_s - probes.first()?.clip_s;
    let lines = cells * (1.0 + 2.0 * MAX_SLOPE * span / TOLERANCE_S);
    let mut best: Option<RoughLine> = None;
    for (i, a) in probes.iter().enumerate() {
        for b in &probes[i + 1..] {
            for &(from, height) in a.peaks.iter().take(3) {
                for &(to, other) in b.peaks.iter().take(3) {
                    let slope = (to - from) / (b.clip_s - a.clip_s);
                    if slope.abs() > MAX_SLOPE || (height < 0.0) != (other < 0.0) {
                        continue;
                    }
                    let line = RoughLine {
                        offset_s: from - slope * a.clip_s,
                        slope,
                        sign: height.signum(),
                        log_odds: 0.0,
                    };
                    let log_odds = support(probes, &line, cells) - lines.ln();
                    if best.is_none_or(|best| log_odds > best.log_odds) {
                        best = Some(RoughLine { log_odds, ..line });
                    }
                }
            }
        }
    }
    best
}

fn support(probes: &[Probe], line: &RoughLine, cells: f64) -> f64 {
    let (mut agreeing, mut gained) = (0.0, 0.0);
    for probe in probes {
        let expected = line.at(probe.clip_s);
        let rank = probe.peaks.iter().position(|(offset, height)| {
            (offset - expected).abs() <= TOLERANCE_S && height * line.sign > 0.0
        });
        if let Some(rank) = rank {
            // The second-best peak is one of two that could have fallen here.
            gained += (cells / (rank + 1) as f64).ln();
            agreeing += 1.0;
        }
    }
    let (all, share) = (probes.len() as f64, agreeing / (probes.len() as f64 + 1.0));
    gained + agreeing * f64::ln(share.max(1e-9)) + (all - agreeing) * (1.0 - share).ln()
}

/// The line along which the correlations of all windows add up highest. `range` is that of the lags, in samples;
/// `expected_s` the offset at their middle.
pub(super) fn stack(probes: &[Probe], range: usize, expected_s: f64) -> Option<RoughLine> {
    let count = probes.len();
    let middle = probes.iter().map(|probe| probe.clip_s).sum::<f64>() / count.max(1) as f64;
    let reach = probes.iter().map(|probe| (probe.clip_s - middle).abs()).fold(0.0, f64::max);
    // A step of slope moves the farthest window by two samples.
    let step = (2.0 / RATE / reach.max(0.25)).min(CRYSTAL_SLOPE);
    let steps = (CRYSTAL_SLOPE / step).ceil() as i32;
    let mut sum = vec![0.0_f32; 2 * range + 1];
    let mut best: Option<(f32, usize, f64)> = None;
    for turn in -steps..=steps {
        let slope = f64::from(turn) * step;
        let size = sum.len();
        sum.fill(0.0);
        for probe in probes.iter().filter(|probe| probe.lags.len() == size) {
            let shift = (slope * (probe.clip_s - middle) * RATE).round() as i64;
            let (from, to) = (shift.max(0) as usize, (-shift).max(0) as usize);
            if from >= sum.len() || to >= sum.len() {
                continue;
            }
            for (out, value) in sum[to..].iter_mut().zip(&probe.lags[from..]) {
                *out += value;
            }
        }
        let power = (sum.iter().map(|v| v * v).sum::<f32>() / sum.len() as f32).sqrt().max(f32::MIN_POSITIVE);
        for (at, value) in sum.iter().enumerate() {
            if best.is_none_or(|(top, ..)| value.abs() / power > top.abs()) {
                best = Some((value / power, at, slope));
            }
        }
    }
    let (height, at, slope) = best?;
    let tried = f64::from(2 * steps + 1) * 2.0 * range as f64;
    Some(RoughLine {
        offset_s: expected_s + (at as f64 - range as f64) / RATE - slope * middle,
        slope,
        sign: height.signum(),
        log_odds: 0.5 * f64::from(height).powi(2) - tried.ln(),
    })
}
