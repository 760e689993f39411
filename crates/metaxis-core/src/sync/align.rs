//! One clip against one reference clip near a coarse position: a rough line, then many narrow windows along it.

use super::{
    HeardSound, Stretch,
    arrival::{Correlated, first_arrival, higher_elsewhere},
    breaks::BreakFinder,
    line::{Line, stack, vote},
    pieces::{LocalOffset, PieceFit, best_slope, fit_pieces},
    windows::{Windows, common, near_best, places},
};
use crate::signal::{LISTEN_RATE, LagPeak, PATTERN_RATE};

const RATE: f64 = LISTEN_RATE as f64;
/// Wide windows look half a second either way: a coarse position, an hour's drift.
const WIDE: (usize, usize) = (16_384, 8_192);
/// Narrow windows look 64 ms either way of a line.
const NARROW: (usize, usize) = (30_720, 1_024);
/// On the line: within this many samples (0.8 ms).
const NEAR: usize = 13;
/// A peak elsewhere must be this high to speak for a break.
const ELSEWHERE: f32 = 6.0;
/// A peak on the line counts from this height on.
const ON_LINE: f32 = 3.0;
/// Heights above this say no more: one clap must not speak for a minute.
const CAP: f32 = 8.0;
/// Below these log odds of the rough line the correlations are stacked.
const SURE_VOTE: f64 = 8.0;

/// Below these of the stack, only the lags nearest to the expected place are stacked.
const SURE_STACK: f64 = 6.0;

/// How many windows to spend.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Effort {
    /// A few, to rank candidates.
    Probe,
    /// All that help.
    Full,
    /// All that help, and more to find the line.
    Deep,
}

/// A part of a clip's own time, seconds.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Part {
    /// Beginning.
    pub from_s: f64,
    /// End.
    pub to_s: f64,
}

/// A clip laid against a reference.
#[derive(Debug, Clone, PartialEq)]
pub struct Alignment {
    /// Where the clip lies on the reference's own time.
    pub stretches: Vec<Stretch>,
    /// What was compared, in the clip's own time.
    pub part: Part,
    /// Windows measured.
    pub tried: usize,
    /// Windows that agree with the fit.
    pub agreeing: usize,
    /// How far the windows together stand above the lags beside the line, in standard deviations.
    pub height: f64,
    /// The same for the next best lag within 64 ms.
    pub beside: f64,
    /// Natural log of the odds against so much agreement by chance.
    pub log_odds: f64,
    /// Whether the waves themselves agree, not only the rise and fall of the sound.
    pub fine: bool,
    /// How far echoes hide the direct sound: 0 not at all, above 0.12 they may have been taken for it.
    pub murk: f64,
    /// Whether one of the two is inverted.
    pub inverted: bool,
    /// Standard deviation of the position in the middle of the longest stretch, seconds.
    pub sigma_s: f64,
    /// (clip time, error) of agreeing windows, seconds.
    pub residuals: Vec<(f64, f64)>,
}

/// Buffers for aligning; one a thread.
pub struct Aligner {
    wide: Windows,
    narrow: Windows,
    breaks: BreakFinder,
}

impl Default for Aligner {
    fn default() -> Self {
        Self {
            wide: Windows::new(WIDE.0, WIDE.1),
            narrow: Windows::new(NARROW.0, NARROW.1),
            breaks: BreakFinder::default(),
        }
    }
}

/// Heights on the line and beside it, summed over windows.
struct Contrast {
    /// Sum over windows of (height − mean beside) in each bin of lags; the middle bin is the line.
    bins: Vec<f64>,
    /// Sum of the variances beside the line.
    variance: f64,
}

/// Bins of lags either side of the line.
const BINS: usize = NARROW.1 / (2 * NEAR + 1) - 1;

impl Aligner {
    /// Aligns `part` of `clip` (all of it where `None`), whose start is expected at `start_s` of the reference's own
    /// time, give or take half a second. `None` where nothing agrees.
    pub fn align(
        &mut self,
        reference: &HeardSound,
        clip: &HeardSound,
        part: Option<Part>,
        start_s: f64,
        effort: Effort,
    ) -> Option<Alignment> {
        let part = common(reference, clip, part, start_s)?;
        let line = self.rough(reference, clip, part, start_s, effort)?;
        self.along(reference, clip, part, line, effort, true)
    }

    /// Measures again what `rough` found, with more windows.
    pub fn closely(
        &mut self,
        reference: &HeardSound,
        clip: &HeardSound,
        rough: &Alignment,
        effort: Effort,
    ) -> Option<Alignment> {
        let longest = rough
            .stretches
            .iter()
            .max_by(|a, b| (a.clip_end_s - a.clip_start_s).total_cmp(&(b.clip_end_s - b.clip_start_s)))?;
        let slope = 1.0 / (1.0 + longest.rate_ppm * 1e-6) - 1.0;
        let offset_s = longest.start_s - longest.clip_start_s - slope * longest.clip_start_s;
        let sign = if rough.inverted { -1.0 } else { 1.0 };
        let line = Line { offset_s, slope, sign, log_odds: rough.log_odds };
        self.along(reference, clip, rough.part, line, effort, true)
    }

    /// Aligns along a line that is known already: `offset_s` (reference minus clip time, at clip time zero) and its
    /// change a second, to 30 ms. Finds breaks, but no other position.
    pub fn check(
        &mut self,
        reference: &HeardSound,
        clip: &HeardSound,
        offset_s: f64,
        slope: f64,
    ) -> Option<Alignment> {
        let part = common(reference, clip, None, offset_s)?;
        let middle = 0.5 * (part.from_s + part.to_s);
        let expected = offset_s + slope * middle;
        let line = self.rough(reference, clip, part, expected, Effort::Probe)?;
        let near = (line.at(middle) - expected).abs() < 0.03;
        if near { self.along(reference, clip, part, line, Effort::Probe, true) } else { None }
    }

    fn rough(
        &mut self,
        reference: &HeardSound,
        clip: &HeardSound,
        part: Part,
        start_s: f64,
        effort: Effort,
    ) -> Option<Line> {
        let most = match effort {
            Effort::Probe => 28,
            Effort::Full => 32,
            Effort::Deep => 60,
        };
        let probes = self.wide.probes(reference, clip, part, start_s, most);
        let line = vote(&probes, WIDE.1 as f64 / RATE);
        if line.is_some_and(|line| line.log_odds > SURE_VOTE) {
            return line;
        }
        // Far apart windows drift too much to be stacked: the best two minutes are enough.
        let more = self.wide.probes(
            reference,
            clip,
            near_best(reference, clip, part, start_s),
            start_s,
            most.max(24),
        );
        let denser = vote(&more, WIDE.1 as f64 / RATE);
        let stacked = stack(&more, WIDE.1, start_s);
        let best =
            [line, denser, stacked].into_iter().flatten().max_by(|a, b| a.log_odds.total_cmp(&b.log_odds));
        if best.is_some_and(|line| line.log_odds > SURE_STACK) {
            return best;
        }
        // The patterns know the place to a tenth of a second: of so few lags a weaker sum is believed.
        let near = near_best(reference, clip, part, start_s);
        let narrow = self.narrow.probes(reference, clip, near, start_s, most.max(60));
        let close = stack(&narrow, NARROW.1, start_s);
        [best, close].into_iter().flatten().max_by(|a, b| a.log_odds.total_cmp(&b.log_odds))
    }

    /// Measures along `line` and fits.
    fn along(
        &mut self,
        reference: &HeardSound,
        clip: &HeardSound,
        part: Part,
        line: Line,
        effort: Effort,
        again: bool,
    ) -> Option<Alignment> {
        let most = if effort == Effort::Probe { 16 } else { 160 };
        let length = NARROW.0 as f64 / RATE;
        let middle = 0.5 * (part.from_s + part.to_s);
        let starts = places(reference, clip, part, line.at(middle), length, most);
        let mut found: Vec<LocalOffset> = vec![];
        let mut unsure = vec![];
        let mut contrast = Contrast { bins: vec![0.0; 2 * BINS + 1], variance: 0.0 };
        let mut tried = 0;
        let mut kept: Vec<Correlated> = vec![];
        for at in starts {
            let clip_s = at + 0.5 * length;
            let (from, expected) = ((at * RATE).round() as i64, line.at(clip_s) * RATE);
            let offset = expected.round() as i64;
            if self.narrow.look(reference, clip, from, offset).is_none() {
                continue;
            }
            tried += 1;
            contrast.add(self.narrow.lags(), line.sign);
            kept.push(Correlated { clip_s, offset, lags: self.narrow.lags().to_vec() });
            let local = |lag: f64, height: f32| LocalOffset {
                clip_s: (from as f64 + NARROW.0 as f64 / 2.0) / RATE,
                offset_s: (offset as f64 + lag) / RATE,
                weight: f64::from(height * height),
            };
            let on_line = on_line(self.narrow.lags(), line.sign);
            let elsewhere = self.narrow.top(ELSEWHERE);
            match (on_line, elsewhere) {
                (Some((at, height)), other)
                    if other.is_none_or(|other| other.height.abs() < 1.4 * height) =>
                {
                    let peak = LagPeak { at, height: height * line.sign };
                    found.push(local(self.narrow.refined(peak), height));
                }
                (_, Some(other)) => found.push(local(self.narrow.refined(other), other.height.abs())),
                _ => unsure.push(clip_s),
            }
        }
        if effort != Effort::Probe {
            self.look_wider(reference, clip, &line, &unsure, &mut found);
        }
        let slope = best_slope(&found, line.slope);
        let moved_s = (slope - line.slope).abs() * (part.to_s - part.from_s);
        if moved_s > 1e-3 && again {
            // The rough line was a bad guide to the far ends: once more along the better one.
            let at = found.iter().max_by(|a, b| a.weight.total_cmp(&b.weight))?;
            let better = Line { offset_s: at.offset_s - slope * at.clip_s, slope, ..line };
            return self.along(reference, clip, part, better, effort, false);
        }
        let mut fit = fit_pieces(&found, slope)?;
        if again && let Some(by) = higher_elsewhere(&kept, &fit, line.sign) {
            // The few windows of the rough line fell for an echo.
            let piece = fit.pieces.iter().max_by_key(|piece| piece.windows)?;
            let better = Line { offset_s: piece.offset_s + by / RATE, slope: fit.slope, ..line };
            return self.along(reference, clip, part, better, effort, false);
        }
        let arrival = first_arrival(&kept, &fit, line.sign);
        for piece in &mut fit.pieces {
            piece.offset_s += arrival.later / RATE;
        }
        let breaks = match effort {
            Effort::Probe => middles(&fit),
            _ => self.breaks(reference, clip, &fit, line.sign),
        };
        let (height, beside) = contrast.heights(tried);
        let by_echoes = ECHO_SIGMA_S * (arrival.murk / 0.1).powi(3);
        let mut stretches = stretches(&fit, &breaks, clip.duration_s());
        for stretch in &mut stretches {
            stretch.start_sigma_s = stretch.start_sigma_s.hypot(by_echoes);
        }
        // From the odds is taken what the number of lags and slopes looked at makes of it.
        Some(Alignment {
            stretches,
            part,
            tried,
            agreeing: fit.agreeing(),
            height,
            beside,
            log_odds: 0.5 * height.max(0.0).powi(2) - 13.0,
            fine: true,
            murk: arrival.murk,
            inverted: line.sign < 0.0,
            sigma_s: fit.pieces.iter().max_by_key(|piece| piece.windows)?.sigma_s.hypot(by_echoes),
            residuals: fit.residuals,
        })
    }

    /// Where several windows in a row find nothing near the line, half a second is searched: a longer loss.
    fn look_wider(
        &mut self,
        reference: &HeardSound,
        clip: &HeardSound,
        line: &Line,
        unsure: &[f64],
        found: &mut Vec<LocalOffset>,
    ) {
        for &clip_s in unsure {
            let from = ((clip_s - 0.5 * WIDE.0 as f64 / RATE) * RATE).round() as i64;
            let offset = (line.at(clip_s) * RATE).round() as i64;
            if self.wide.look(reference, clip, from, offset).is_none() {
                continue;
            }
            if let Some(peak) = self.wide.top(ELSEWHERE + 0.5) {
                found.push(LocalOffset {
                    clip_s,
                    offset_s: (offset as f64 + self.wide.refined(peak)) / RATE,
                    weight: f64::from(peak.height * peak.height),
                });
            }
        }
        found.sort_by(|a, b| a.clip_s.total_cmp(&b.clip_s));
    }

    /// Where between two pieces samples were lost.
    fn breaks(&mut self, reference: &HeardSound, clip: &HeardSound, fit: &PieceFit, sign: f32) -> Vec<f64> {
        fit.pieces
            .windows(2)
            .map(|pair| {
                let [before, after] =
                    [&pair[0], &pair[1]].map(|piece| move |clip_s: f64| piece.offset_s + fit.slope * clip_s);
                let within = (pair[0].last_s - 1.0, pair[1].first_s + 1.0);
                self.breaks.between((reference, clip), (&before, &after), within, sign)
            })
            .collect()
    }

    /// Where between the moments `within` a clip passes from one stretch into the other.
    pub(super) fn break_between(
        &mut self,
        (reference, clip): (&HeardSound, &HeardSound),
        stretches: [&Stretch; 2],
        within: (f64, f64),
        inverted: bool,
    ) -> f64 {
        let [before, after] = stretches.map(|stretch| move |clip_s: f64| stretch.axis_s(clip_s) - clip_s);
        let sign = if inverted { -1.0 } else { 1.0 };
        self.breaks.between((reference, clip), (&before, &after), within, sign)
    }
}

/// What echoes add to the standard deviation of a position where the murk is 0.1, seconds.
const ECHO_SIGMA_S: f64 = 0.2e-3;
/// Standard deviation of a position known by patterns alone, seconds, and of the rate, ppm.
const BY_PATTERN: (f64, f64) = (0.015, 50.0);
/// A far microphone's room makes its pattern late by about this, half of what the worst rooms do.
const ECHO_BIAS_S: f64 = 0.012;

/// Where a clip lies by its pattern alone: so much noise or echo that no window agrees, yet the sound rises and falls
/// as the reference's does. `score` is the coarse one.
pub(super) fn by_pattern(
    reference: &HeardSound,
    clip: &HeardSound,
    start_s: f64,
    score: f32,
) -> Option<Alignment> {
    let part = common(reference, clip, None, start_s)?;
    let lag = (start_s * f64::from(PATTERN_RATE)).round() as i64;
    let sum = |lag: i64| f64::from(clip.pattern.agreement(reference.pattern, lag).iter().sum::<f32>());
    let (before, top, after) = (sum(lag - 1), sum(lag), sum(lag + 1));
    let bend = before - 2.0 * top + after;
    let part_of_frame = if bend < 0.0 { (0.5 * (before - after) / bend).clamp(-0.7, 0.7) } else { 0.0 };
    let stretch = Stretch {
        clip_start_s: 0.0,
        clip_end_s: clip.duration_s(),
        start_s: (lag as f64 + part_of_frame) / f64::from(PATTERN_RATE) + ECHO_BIAS_S,
        rate_ppm: 0.0,
        start_sigma_s: BY_PATTERN.0,
        rate_sigma_ppm: BY_PATTERN.1,
    };
    Some(Alignment {
        stretches: vec![stretch],
        part,
        tried: 0,
        agreeing: 0,
        height: f64::from(score),
        beside: 0.0,
        // Two thousand lags a minute have a highest one; and of what is left half is not believed.
        log_odds: 0.25 * f64::from(score).powi(2) - 8.0,
        fine: false,
        murk: 0.0,
        inverted: false,
        sigma_s: BY_PATTERN.0,
        residuals: vec![],
    })
}

/// Index and height of the highest lag near the middle, of the line's sign.
fn on_line(lags: &[f32], sign: f32) -> Option<(usize, f32)> {
    let middle = lags.len() / 2;
    let (at, height) =
        (middle - NEAR..=middle + NEAR).map(|i| (i, lags[i] * sign)).max_by(|a, b| a.1.total_cmp(&b.1))?;
    (height >= ON_LINE).then_some((at, height))
}

impl Contrast {
    /// Adds a window: the highest lag of each bin, against the mean of the bins beside the line.
    fn add(&mut self, lags: &[f32], sign: f32) {
        let middle = lags.len() / 2;
        let width = 2 * NEAR + 1;
        let tops: Vec<f32> = (0..2 * BINS + 1)
            .map(|bin| {
                let from = middle + bin * width - BINS * width - NEAR;
                lags[from..from + width].iter().map(|v| v * sign).fold(0.0, f32::max).min(CAP)
            })
            .collect();
        // The bins next to the line hold its skirts and first echoes.
        let beside =
            || tops.iter().enumerate().filter(|(i, _)| i.abs_diff(BINS) > 2).map(|(_, v)| f64::from(*v));
        let count = beside().count() as f64;
        let mean = beside().sum::<f64>() / count;
        self.variance += (beside().map(|v| (v - mean).powi(2)).sum::<f64>() / count).max(0.04);
        for (sum, top) in self.bins.iter_mut().zip(&tops) {
            *sum += f64::from(*top) - mean;
        }
    }

    /// Height of the line and of the next best bin, in standard deviations.
    fn heights(&self, windows: usize) -> (f64, f64) {
        if windows == 0 {
            return (0.0, 0.0);
        }
        // Windows overlap by half: two share what makes one.
        let scale = (self.variance * 1.5).sqrt().max(1e-9);
        let beside = self
            .bins
            .iter()
            .enumerate()
            .filter(|(i, _)| i.abs_diff(BINS) > 2)
            .map(|(_, v)| *v)
            .fold(0.0, f64::max);
        (self.bins[BINS] / scale, beside / scale)
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
