//! Beats and bars of music, from its band levels.
//!
//! Onsets, tempo and the best row of beats as in D. P. W. Ellis, "Beat Tracking by Dynamic Programming", Journal of New Music
//! Research 36(1), 2007; bars by which of the beats are stressed.

use super::{BAND_RATE, BANDS, Bands, LISTEN_RATE};

/// Beats of a piece of music.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Beats {
    /// When each is, seconds from the beginning of the bands, rising.
    pub at_s: Vec<f64>,
    /// Which of the first beats begins a bar.
    pub bar_begins: usize,
    /// How many beats a bar has.
    pub in_a_bar: usize,
}

/// The tempo that is likeliest when nothing else is known, seconds a beat; and how far from it others may be, octaves.
const USUAL_S: f64 = 0.5;
const OCTAVES: f64 = 0.9;
/// Tempos that are looked for, seconds a beat.
const SHORTEST_S: f64 = 0.25;
const LONGEST_S: f64 = 1.2;
/// What a beat that is early or late costs, against what an onset is worth (in standard deviations of onsets).
const STEADY: f64 = 100.0;
/// An onset is no nearer to its beat than so many steps.
const NEAR: usize = 2;
/// What is so much softer than the loudest of a band is no onset, in half decibels as [`Bands`] has them.
const BELOW_LOUDEST: u8 = 60;
/// What rises by less is flutter, in the same.
const FLUTTER: i32 = 6;
/// A rise is counted over so many steps.
const OVER: usize = 2;
/// How much more the onsets repeat themselves at a beat than at most other times, where there is one.
const LEAST_TOLD: f64 = 0.15;
/// What a drum or a bass stresses a bar with is below this, hertz; bands begin above it.
const BASS_HZ: f32 = 110.0;

/// How strong the lowest notes are: samples at [`LISTEN_RATE`] in, the mean power of each of [`BAND_RATE`] steps a second out.
#[derive(Debug, Clone, Default)]
pub struct BassReader {
    low: [f32; 2],
    sum: f32,
    count: usize,
    powers: Vec<f32>,
}

impl BassReader {
    /// Takes the next samples.
    pub fn push(&mut self, samples: &[f32]) {
        let share = 1.0 - (-std::f32::consts::TAU * BASS_HZ / LISTEN_RATE as f32).exp();
        let step = (LISTEN_RATE / BAND_RATE) as usize;
        for own in samples {
            self.low[0] += share * (own - self.low[0]);
            self.low[1] += share * (self.low[0] - self.low[1]);
            self.sum += self.low[1] * self.low[1];
            self.count += 1;
            if self.count == step {
                self.powers.push(self.sum / step as f32);
                (self.sum, self.count) = (0.0, 0);
            }
        }
    }

    /// The powers of everything pushed.
    pub fn finish(self) -> Vec<f32> {
        self.powers
    }
}

impl Beats {
    /// The beats of a stretch of sound by its bands, and its bars by its `bass` (as [`BassReader`] reads it); `None` where no
    /// pulse is found, or less than four beats.
    pub fn find(bands: &Bands, bass: &[f32]) -> Option<Self> {
        let onsets = onsets(bands);
        let period = period(&onsets)?;
        let beats = row(&onsets, period);
        if beats.len() < 4 {
            return None;
        }
        let stress = struck(bass, &beats);
        let (in_a_bar, bar_begins) = bars(&stress);
        let at_s = beats.iter().map(|at| *at as f64 / f64::from(BAND_RATE)).collect();
        Some(Self { at_s, bar_begins, in_a_bar })
    }

    /// The moments at which every so many beats begin, from the first bar on; `bars` counts bars instead.
    pub fn every(&self, count: usize, bars: bool) -> impl Iterator<Item = f64> + '_ {
        let step = count.max(1) * if bars { self.in_a_bar } else { 1 };
        self.at_s.iter().skip(self.bar_begins).step_by(step).copied()
    }
}

/// How much louder the bands became at each moment, less what is usual about it, in standard deviations.
fn onsets(bands: &Bands) -> Vec<f64> {
    let frames: Vec<&[u8]> = bands.0.chunks_exact(BANDS).collect();
    // The loudest moments of a band, but for the very loudest.
    let loudest = |band: usize| {
        let mut own: Vec<u8> = frames.iter().map(|frame| frame[band]).collect();
        own.sort_unstable();
        own.get(own.len().saturating_sub(1) * 99 / 100).copied().unwrap_or(0)
    };
    let floors: Vec<(usize, u8)> =
        (0..BANDS).map(|band| (band, loudest(band).saturating_sub(BELOW_LOUDEST))).collect();
    let risen = |at: usize| -> f64 {
        let before = at.saturating_sub(OVER);
        let own = floors.iter().map(|(band, floor)| {
            let level = |frame: usize| i32::from(frames[frame][*band].max(*floor));
            f64::from((level(at) - level(before) - FLUTTER).max(0))
        });
        own.sum()
    };
    let mut risen: Vec<f64> = (0..frames.len()).map(risen).collect();
    // What is usual in half a second about it: a passage that swells has no more onsets than one that does not.
    let half = BAND_RATE as usize / 4;
    let mut sums = vec![0.0; risen.len() + 1];
    for (at, own) in risen.iter().enumerate() {
        sums[at + 1] = sums[at] + own;
    }
    let usual = |at: usize| {
        let (from, to) = (at.saturating_sub(half), (at + half + 1).min(sums.len() - 1));
        (sums[to] - sums[from]) / (to - from).max(1) as f64
    };
    risen = (0..risen.len()).map(|at| (risen[at] - usual(at)).max(0.0)).collect();
    let mean = risen.iter().sum::<f64>() / risen.len().max(1) as f64;
    let power = risen.iter().map(|own| (own - mean).powi(2)).sum::<f64>() / risen.len().max(1) as f64;
    let scale = 1.0 / power.sqrt().max(1e-9);
    risen.into_iter().map(|own| own * scale).collect()
}

/// How long a beat is, in steps: what the onsets repeat themselves at, the likelier the nearer to what is usual.
fn period(onsets: &[f64]) -> Option<f64> {
    let rate = f64::from(BAND_RATE);
    let (least, most) = ((SHORTEST_S * rate) as usize, (LONGEST_S * rate) as usize);
    if onsets.len() < 4 * most {
        return None;
    }
    let repeated = |lag: usize| -> f64 {
        let pairs = onsets.iter().zip(&onsets[lag..]);
        pairs.map(|(a, b)| a * b).sum::<f64>() / (onsets.len() - lag) as f64
    };
    let none = repeated(0).max(1e-9);
    let all: Vec<f64> = (0..=2 * most + 1).map(|lag| repeated(lag) / none).collect();
    let likely = |lag: usize| {
        let octaves = (lag as f64 / rate / USUAL_S).log2() / OCTAVES;
        // What repeats at a beat repeats at two of them.
        let double = all[2 * lag - 1].max(all[2 * lag]).max(all[2 * lag + 1]);
        (all[lag] + 0.5 * double) * (-0.5 * octaves * octaves).exp()
    };
    let best = (least..=most).max_by(|a, b| likely(*a).total_cmp(&likely(*b)))?;
    let mut usual: Vec<f64> = all[least..=most].to_vec();
    usual.sort_by(f64::total_cmp);
    if all[best] - usual[usual.len() / 2] < LEAST_TOLD {
        return None;
    }
    // Between steps: the top of a parabola through it and its neighbours.
    let (before, own, behind) = (all[best - 1], all[best], all[best + 1]);
    let bend = before - 2.0 * own + behind;
    let shift = if bend < 0.0 { 0.5 * (before - behind) / bend } else { 0.0 };
    Some(best as f64 + shift.clamp(-0.5, 0.5))
}

/// The row of beats that has the most onsets on it and is the steadiest.
fn row(onsets: &[f64], period: f64) -> Vec<usize> {
    let (near, far) = ((period * 0.5).round() as usize, (period * 2.0).round() as usize);
    let costs: Vec<f64> = (0..=far).map(|lag| STEADY * (lag as f64 / period).ln().powi(2)).collect();
    let mut best = onsets.to_vec();
    let mut before: Vec<Option<usize>> = vec![None; onsets.len()];
    for at in near..onsets.len() {
        let from = at.saturating_sub(far);
        let score = |own: usize| best[own] - costs[at - own];
        let last = (from..=at - near).max_by(|a, b| score(*a).total_cmp(&score(*b)));
        if let Some(last) = last
            && score(last) > 0.0
        {
            best[at] = onsets[at] + score(last);
            before[at] = Some(last);
        }
    }
    // The best of the last beat's length is where it ends.
    let tail = onsets.len().saturating_sub(period.round() as usize);
    let mut at = (tail..onsets.len()).max_by(|a, b| best[*a].total_cmp(&best[*b]));
    let mut beats = vec![];
    while let Some(own) = at {
        beats.push(own);
        at = before[own];
    }
    beats.reverse();
    beats
}

/// How much stronger the bass is at each beat than just before it.
fn struck(bass: &[f32], beats: &[usize]) -> Vec<f64> {
    let most = |from: usize, to: usize| {
        let own = bass.get(from.min(bass.len())..to.min(bass.len())).unwrap_or(&[]);
        own.iter().copied().fold(0.0_f32, f32::max)
    };
    let own = |at: &usize| {
        let before = most(at.saturating_sub(8), at.saturating_sub(NEAR));
        f64::from((most(*at, at + 8) - before).max(0.0)).sqrt()
    };
    beats.iter().map(own).collect()
}

/// How many beats a bar has, three or four, and which one is its first: where the stressed ones are.
fn bars(stress: &[f64]) -> (usize, usize) {
    let mean = stress.iter().sum::<f64>() / stress.len().max(1) as f64;
    let choices = [4_usize, 3].into_iter().flat_map(|count| (0..count).map(move |first| (count, first)));
    let told = |(count, first): (usize, usize)| {
        let own: Vec<f64> = stress.iter().skip(first).step_by(count).copied().collect();
        own.iter().sum::<f64>() / own.len().max(1) as f64 - mean
    };
    // Four unless three say more: bars of four are the usual ones.
    choices
        .max_by(|a, b| {
            let of = |own: &(usize, usize)| told(*own) * if own.0 == 4 { 1.25 } else { 1.0 };
            of(a).total_cmp(&of(b)).then(b.1.cmp(&a.1))
        })
        .unwrap_or((4, 0))
}
