//! Windows of a clip looked for in a reference: which, and how they correlate.

use super::{HeardSound, Part, line::Probe};
use crate::signal::{LISTEN_RATE, LagPeak, PATTERN_RATE, PhaseMatcher};

const RATE: f64 = LISTEN_RATE as f64;

/// Looks for windows of one length within one range.
pub(super) struct Windows {
    matcher: PhaseMatcher,
    clip: Vec<f32>,
    reference: Vec<f32>,
}

impl Windows {
    /// Windows of `length` samples, looked for `range` samples either way.
    pub fn new(length: usize, range: usize) -> Self {
        Self {
            matcher: PhaseMatcher::new(length, range),
            clip: vec![0.0; length],
            reference: vec![0.0; length + 2 * range],
        }
    }

    /// Length in seconds.
    pub fn length_s(&self) -> f64 {
        self.matcher.window() as f64 / RATE
    }

    /// Samples searched either way.
    pub fn range(&self) -> usize {
        self.matcher.range()
    }

    /// Correlates the window from sample `from` of `clip` on with `reference`, expected `offset` samples later there.
    /// `None` where either is silent.
    pub fn look(
        &mut self,
        reference: &HeardSound,
        clip: &HeardSound,
        from: i64,
        offset: i64,
    ) -> Option<&[f32]> {
        clip.samples.read(from, &mut self.clip);
        reference.samples.read(from + offset - self.matcher.range() as i64, &mut self.reference);
        self.matcher.correlate(&self.clip, &self.reference)
    }

    /// What the last look found: one value a lag.
    pub fn lags(&self) -> &[f32] {
        self.matcher.lags()
    }

    /// The highest peak of the last look, if it is at least `least` high.
    pub fn top(&self, least: f32) -> Option<LagPeak> {
        self.matcher.peaks(1, least, 1).first().copied()
    }

    /// Lag of a peak of the last look, below a sample.
    pub fn refined(&self, peak: LagPeak) -> f64 {
        self.matcher.refined(peak)
    }

    /// At most `most` windows spread over `part`, each with its peaks, all looked for at `start_s`.
    pub fn probes(
        &mut self,
        reference: &HeardSound,
        clip: &HeardSound,
        part: Part,
        start_s: f64,
        most: usize,
    ) -> Vec<Probe> {
        let offset = (start_s * RATE).round() as i64;
        let mut probes = vec![];
        for at in places(reference, clip, part, start_s, self.length_s(), most) {
            let from = (at * RATE).round() as i64;
            let Some(lags) = self.look(reference, clip, from, offset).map(<[f32]>::to_vec) else { continue };
            let range = self.range() as f64;
            let peaks = self.matcher.peaks(PEAKS, LOWEST, APART);
            probes.push(Probe {
                clip_s: from as f64 / RATE + 0.5 * self.length_s(),
                peaks: peaks
                    .into_iter()
                    .map(|peak| ((offset as f64 + peak.at as f64 - range) / RATE, peak.height))
                    .collect(),
                lags,
            });
        }
        probes
    }
}

/// Peaks kept of a window, their least height, and how many samples (1 ms) they are apart.
const PEAKS: usize = 6;
const LOWEST: f32 = 3.8;
const APART: usize = 16;

/// The clip's own time that both have, where the clip starts at `start_s` of the reference.
pub(super) fn common(
    reference: &HeardSound,
    clip: &HeardSound,
    part: Option<Part>,
    start_s: f64,
) -> Option<Part> {
    let part = part.unwrap_or(Part { from_s: 0.0, to_s: clip.duration_s() });
    let common =
        Part { from_s: part.from_s.max(-start_s), to_s: part.to_s.min(reference.duration_s() - start_s) };
    (common.to_s - common.from_s > 1.1).then_some(common)
}

/// The two minutes of `part` in which the patterns agree best at `start_s`.
pub(super) fn near_best(reference: &HeardSound, clip: &HeardSound, part: Part, start_s: f64) -> Part {
    const LONGEST_S: f64 = 120.0;
    if part.to_s - part.from_s <= LONGEST_S {
        return part;
    }
    let sums = running(&agreement(reference, clip, start_s));
    let frames = |s: f64| ((s * f64::from(PATTERN_RATE)) as usize).min(sums.len() - 1);
    let length = frames(LONGEST_S);
    let best = (frames(part.from_s)..frames(part.to_s).saturating_sub(length))
        .max_by(|&a, &b| (sums[a + length] - sums[a]).total_cmp(&(sums[b + length] - sums[b])));
    let from_s = best.map_or(part.from_s, |frame| frame as f64 / f64::from(PATTERN_RATE));
    Part { from_s, to_s: from_s + LONGEST_S }
}

fn agreement(reference: &HeardSound, clip: &HeardSound, start_s: f64) -> Vec<f32> {
    clip.pattern.agreement(reference.pattern, (start_s * f64::from(PATTERN_RATE)).round() as i64)
}

fn running(values: &[f32]) -> Vec<f32> {
    let mut sum = 0.0;
    std::iter::once(0.0)
        .chain(values.iter().map(|value| {
            sum += value;
            sum
        }))
        .collect()
}

/// Starts of at most `most` windows of `length_s`, spread over `part`, at least half a window apart on average: in
/// each share of it the one in which the patterns agree best.
pub(super) fn places(
    reference: &HeardSound,
    clip: &HeardSound,
    part: Part,
    start_s: f64,
    length_s: f64,
    most: usize,
) -> Vec<f64> {
    let room = part.to_s - part.from_s - length_s;
    if room <= 0.0 {
        return vec![0.5 * (part.from_s + part.to_s - length_s)];
    }
    let count = ((room / (0.5 * length_s)) as usize + 1).clamp(1, most);
    let share = room / count as f64;
    let sums = running(&agreement(reference, clip, start_s));
    let frame = |s: f64| ((s.max(0.0) * f64::from(PATTERN_RATE)) as usize).min(sums.len() - 1);
    let gained = |at: f64| sums[frame(at + length_s)] - sums[frame(at)];
    (0..count)
        .map(|i| {
            let from = part.from_s + share * i as f64;
            // Not in the last quarter of its share, so that windows do not fall together.
            (0..6)
                .map(|k| from + share * f64::from(k) / 8.0)
                .max_by(|&a, &b| gained(a).total_cmp(&gained(b)))
                .unwrap_or(from)
        })
        .collect()
}
