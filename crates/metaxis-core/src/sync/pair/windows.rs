//! Windows of a clip looked for in a reference: which, and how they correlate.

use super::{contrast::NEAR, line::Probe, offset::LocalOffset, passage::Passage};
use crate::{
    signal::{LagPeak, PATTERN_RATE, PhaseMatcher, refine},
    sync::input::{HeardSound, OffsetAt, Pair, RATE},
};

/// Narrow windows look 64 ms either way of a line.
pub(super) const NARROW: (usize, usize) = (30_720, 1_024);

/// The correlation of one window.
pub(crate) struct Look {
    /// Middle of the window in the clip's own time, seconds.
    pub clip_s: f64,
    /// Offset (reference minus clip) of the middle lag, samples.
    pub offset: i64,
    /// One value a lag, in standard deviations.
    pub lags: Vec<f32>,
}

/// A peak on the line counts from this height on.
const ON_LINE: f32 = 3.0;
/// A peak elsewhere must be this high to speak for a break,
pub(super) const ELSEWHERE: f32 = 6.0;
/// and this much higher than that on the line.
const CLEARLY: f32 = 1.4;

impl Look {
    /// The highest lag near an expected offset, of the line's sign.
    pub fn on_line(&self, expected_s: f64, sign: f32) -> Option<LagPeak> {
        let expected = (expected_s * RATE).round() as i64 - self.offset;
        let middle = (self.lags.len() / 2) as i64 + expected;
        let reach = middle - NEAR as i64..=middle + NEAR as i64;
        let lags = reach.filter_map(|i| {
            let at = usize::try_from(i).ok()?;
            Some((at, self.lags.get(at)? * sign))
        });
        let (at, height) = lags.max_by(|a, b| a.1.total_cmp(&b.1))?;
        (height >= ON_LINE).then_some(LagPeak { at, height: height * sign })
    }

    /// What the window says where it agrees with an expected offset: nothing stands clearly higher elsewhere.
    pub fn agreeing(&self, expected_s: f64, sign: f32) -> Option<LocalOffset> {
        let peak = self.on_line(expected_s, sign)?;
        let other = self.top(ELSEWHERE);
        let clear = other.is_none_or(|other| other.height.abs() < CLEARLY * peak.height.abs());
        clear.then(|| self.local(peak))
    }

    /// The offset that a peak of the window says.
    pub fn local(&self, peak: LagPeak) -> LocalOffset {
        LocalOffset {
            clip_s: self.clip_s,
            offset_s: (self.offset as f64 + self.refined(peak)) / RATE,
            weight: f64::from(peak.height * peak.height),
        }
    }

    /// The highest peak of either sign, if it is at least `least` high.
    pub fn top(&self, least: f32) -> Option<LagPeak> {
        let (at, height) =
            self.lags.iter().copied().enumerate().max_by(|a, b| a.1.abs().total_cmp(&b.1.abs()))?;
        (height.abs() >= least).then_some(LagPeak { at, height })
    }

    /// Lag of a peak, counted from the middle one, in samples, refined below a sample.
    pub fn refined(&self, peak: LagPeak) -> f64 {
        peak.at as f64 + refine(&self.lags, peak.at, peak.height.signum()) - (self.lags.len() / 2) as f64
    }
}

/// Looks for windows of one length within one range.
pub(crate) struct Windows {
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

    /// The same of the window around `clip_s`, expected `offset_s` later there; kept.
    pub fn look_at(
        &mut self,
        reference: &HeardSound,
        clip: &HeardSound,
        clip_s: f64,
        offset_s: f64,
    ) -> Option<Look> {
        let from = (clip_s * RATE).round() as i64 - self.matcher.window() as i64 / 2;
        let offset = (offset_s * RATE).round() as i64;
        let lags = self.look(reference, clip, from, offset)?.to_vec();
        Some(Look { clip_s: (from as f64 + 0.5 * self.matcher.window() as f64) / RATE, offset, lags })
    }

    /// Looks at windows around each of `middles`, where `offset_s` expects them.
    pub fn looks(&mut self, pair: Pair, middles: &[f64], offset_s: OffsetAt) -> Vec<Look> {
        let look = |at: &f64| self.look_at(pair.0, pair.1, *at, offset_s(*at));
        middles.iter().filter_map(look).collect()
    }

    /// At most `most` windows spread over `part`, each with its peaks, all looked for at `start_s`.
    pub fn probes(
        &mut self,
        reference: &HeardSound,
        clip: &HeardSound,
        part: Passage,
        start_s: f64,
        most: usize,
    ) -> Vec<Probe> {
        let offset = (start_s * RATE).round() as i64;
        let mut probes = vec![];
        for at in places(reference, clip, part, &|_| start_s, self.length_s(), most) {
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
    part: Option<Passage>,
    start_s: f64,
) -> Option<Passage> {
    let part = part.unwrap_or(Passage { from_s: 0.0, to_s: clip.duration_s() });
    let common =
        Passage { from_s: part.from_s.max(-start_s), to_s: part.to_s.min(reference.duration_s() - start_s) };
    (common.to_s - common.from_s > 1.1).then_some(common)
}

/// The two minutes of `part` in which the patterns agree best at `start_s`.
pub(super) fn near_best(reference: &HeardSound, clip: &HeardSound, part: Passage, start_s: f64) -> Passage {
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
    Passage { from_s, to_s: from_s + LONGEST_S }
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

/// How well the patterns agree along a course: the offset is held for half a minute at a time.
fn agreement_along(reference: &HeardSound, clip: &HeardSound, offset_s: &dyn Fn(f64) -> f64) -> Vec<f32> {
    const HELD: usize = 30 * PATTERN_RATE as usize;
    let rate = f64::from(PATTERN_RATE);
    (0..clip.pattern.len())
        .step_by(HELD)
        .flat_map(|from| {
            let lag = (offset_s((from + HELD / 2) as f64 / rate) * rate).round() as i64;
            clip.pattern.part(from, from + HELD).agreement(reference.pattern, lag + from as i64)
        })
        .collect()
}

/// Starts of at most `most` windows of `length_s`, spread over `part`, at least half a window apart on average: in
/// each share of it the one in which the patterns agree best where `offset_s` expects it.
pub(super) fn places(
    reference: &HeardSound,
    clip: &HeardSound,
    part: Passage,
    offset_s: &dyn Fn(f64) -> f64,
    length_s: f64,
    most: usize,
) -> Vec<f64> {
    let room = part.to_s - part.from_s - length_s;
    if room <= 0.0 {
        return vec![0.5 * (part.from_s + part.to_s - length_s)];
    }
    let count = ((room / (0.5 * length_s)) as usize + 1).clamp(1, most);
    let share = room / count as f64;
    let sums = running(&agreement_along(reference, clip, offset_s));
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
