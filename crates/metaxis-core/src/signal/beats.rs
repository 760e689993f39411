//! Beats and bars of music, from its band levels.
//!
//! Onsets, tempo and the best row of beats as in D. P. W. Ellis, "Beat Tracking by Dynamic Programming", Journal of New Music
//! Research 36(1), 2007; bars by which of the beats are stressed.

use super::{BAND_RATE, BANDS, Bands};

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
/// What is within so many steps is one onset.
const NEAR: usize = 2;
/// What is softer is the room, in half decibels of [`Bands`].
const FLOOR: u8 = 60;
/// A tempo that does no more than this for its repetition is none: of white noise it is about a tenth.
const LEAST_REPEATED: f64 = 0.12;
/// Bands that a bass or a drum stresses a bar with.
const LOW: usize = 3;

impl Beats {
    /// The beats of a stretch of sound; `None` where no pulse is found, or less than four beats.
    pub fn find(bands: &Bands) -> Option<Self> {
        let onsets = onsets(bands, 0..BANDS);
        let period = period(&onsets)?;
        let beats = row(&onsets, period);
        if beats.len() < 4 {
            return None;
        }
        let low = onsets_near(&self::onsets(bands, 0..LOW), &beats);
        let all = onsets_near(&onsets, &beats);
        let stress: Vec<f64> = low.iter().zip(&all).map(|(low, all)| low + 0.5 * all).collect();
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

/// How much louder some bands became at each moment, less what is usual about it, in standard deviations.
fn onsets(bands: &Bands, which: std::ops::Range<usize>) -> Vec<f64> {
    let frames: Vec<&[u8]> = bands.0.chunks_exact(BANDS).collect();
    let risen = |pair: &[&[u8]]| {
        let own = which.clone().map(|band| {
            let (before, now) = (pair[0][band].max(FLOOR), pair[1][band].max(FLOOR));
            f64::from(now.saturating_sub(before))
        });
        own.sum::<f64>()
    };
    let mut risen: Vec<f64> = [0.0].into_iter().chain(frames.windows(2).map(risen)).collect();
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
    if all[best] < LEAST_REPEATED {
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

fn onsets_near(onsets: &[f64], beats: &[usize]) -> Vec<f64> {
    let near = |at: usize| at.saturating_sub(NEAR)..(at + NEAR + 1).min(onsets.len());
    beats.iter().map(|at| onsets[near(*at)].iter().copied().fold(0.0, f64::max)).collect()
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
