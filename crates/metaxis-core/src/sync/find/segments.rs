//! The parts of a clip that lie on the reference in one run each, and how they are put together.

use super::tools::{Reach, Tools};
use crate::{
    signal::PATTERN_RATE,
    sync::{
        answer::{Stretch, runs, stretch_at},
        input::{HeardSound, Pair},
        pair::{Alignment, Passage, STEP_S, covered_at, extent},
    },
};

/// Where stretches are this far apart, something else lay between them (the music stood still), seconds.
const HOLE_S: f64 = 0.8;
/// Length of a window, seconds.
const SHORTEST_S: f64 = 1.92;

/// Passage of a clip that lies on the reference in one run, between its first and its last agreeing window.
pub(super) struct Segment {
    pub run: Vec<Stretch>,
    pub first_s: f64,
    pub last_s: f64,
}

/// What is left of a run beside a passage that lies elsewhere must hold so many agreeing windows, and this share of those
/// that were looked at: a few agree by chance.
const FEWEST: usize = 3;
const SHARE: f64 = 0.4;

/// The segments of an alignment that lie outside `passage`, in order.
pub(super) fn segments(alignment: &Alignment, passage: Option<Passage>) -> Vec<Segment> {
    let within = |times: &mut dyn Iterator<Item = f64>, from: f64, to: f64| -> Vec<f64> {
        let mut inside: Vec<f64> = times.filter(|at| (from..=to).contains(at)).collect();
        inside.sort_by(f64::total_cmp);
        inside
    };
    let sure = covered_at(alignment);
    let mut all = vec![];
    for run in runs(&alignment.stretches) {
        let (from, to) = (run[0].clip_start_s, run[run.len() - 1].clip_end_s);
        let cut = passage.filter(|part| part.from_s < to && part.to_s > from);
        let sides = match cut {
            Some(part) => vec![(from, to.min(part.from_s)), (from.max(part.to_s), to)],
            None => vec![(from, to)],
        };
        for (from, to) in sides {
            let times = within(&mut alignment.residuals.iter().map(|residual| residual.0), from, to);
            // A window that agrees alone, far out, does not say how far the run reaches.
            let reach = extent(&within(&mut sure.iter().copied(), from, to)).or_else(|| extent(&times));
            let Some((first_s, last_s)) = reach else { continue };
            let missed = within(&mut alignment.missed.iter().copied(), first_s, last_s).len();
            let share = times.len() as f64 / (times.len() + missed) as f64;
            if cut.is_none() || times.len() >= FEWEST && share >= SHARE {
                all.push(Segment { run: run.to_vec(), first_s, last_s });
            }
        }
    }
    all
}

/// The stretches of a clip whose segments (in order) are known: each begins where the one before ends. Neighbours that lie
/// in one line are one.
pub(super) fn assemble(pair: Pair, all: Vec<Segment>, inverted: bool, tools: &mut Tools) -> Vec<Stretch> {
    let mut all = in_one_line(all);
    // One clock: the rate of the longest run serves all that are measured worse.
    let best = all
        .iter()
        .filter(|segment| segment.run.len() == 1)
        .map(|segment| segment.run[0])
        .min_by(|a, b| a.rate_sigma_ppm.total_cmp(&b.rate_sigma_ppm));
    if let Some(best) = best {
        all.iter_mut().for_each(|segment| segment.take_rate(&best));
    }
    loop {
        let bounds = bounds(pair, &all, inverted, tools);
        // Where the waves leave a run next to nothing between two that lie in one line, it was chance.
        let chance = (1..all.len().saturating_sub(1))
            .find(|&i| bounds[i].1 - bounds[i].0 < SHORTEST_S && step_s(&all[i - 1], &all[i + 1]) < STEP_S);
        let Some(chance) = chance else {
            let cuts =
                all.iter().zip(&bounds).flat_map(|(segment, (from, to))| cut(&segment.run, *from, *to));
            return cuts.collect();
        };
        all.remove(chance);
        all = in_one_line(all);
    }
}

/// From where to where each segment reaches, in the clip's own time, seconds.
fn bounds(pair: Pair, all: &[Segment], inverted: bool, tools: &mut Tools) -> Vec<(f64, f64)> {
    let (there, own) = pair;
    let mut bounds = vec![];
    let mut from = 0.0;
    for (i, segment) in all.iter().enumerate() {
        let Some(next) = all.get(i + 1) else {
            bounds.push((from, own.duration_s()));
            break;
        };
        let (before, after) =
            (*stretch_at(&segment.run, segment.last_s), *stretch_at(&next.run, next.first_s));
        let mut between = boundary(there, own, &before, &after, segment.last_s, next.first_s);
        if tools.reach == Reach::Losses || between.1 - between.0 < HOLE_S {
            // Nothing lay between: the waves know the moment better than the patterns.
            let within = (segment.last_s - 1.0, next.first_s + 1.0);
            let split = tools.aligner.break_between(pair, [&before, &after], within, inverted);
            between = (split, split);
        }
        bounds.push((from, between.0));
        from = between.1;
    }
    bounds
}

impl Segment {
    /// Lets a straight run go at the rate of another, about its own middle.
    fn take_rate(&mut self, other: &Stretch) {
        let middle = 0.5 * (self.first_s + self.last_s);
        if let [only] = &mut self.run[..] {
            let at = only.axis_s(middle);
            (only.rate_ppm, only.rate_sigma_ppm) = (other.rate_ppm, other.rate_sigma_ppm);
            only.start_s = at - (middle - only.clip_start_s) / (1.0 + only.rate_ppm * 1e-6);
        }
    }
}

/// How far one segment's run lies from the next one's, half way between them, seconds.
fn step_s(one: &Segment, other: &Segment) -> f64 {
    let between = 0.5 * (one.last_s + other.first_s);
    (stretch_at(&one.run, between).axis_s(between) - stretch_at(&other.run, between).axis_s(between)).abs()
}

/// Joins neighbours of which the one goes on where the other was: the longer one's run serves both.
fn in_one_line(all: Vec<Segment>) -> Vec<Segment> {
    let mut kept: Vec<Segment> = vec![];
    for segment in all {
        // A run shorter than a window between two that lie in one line is chance.
        if let [.., before, short] = &kept[..]
            && short.last_s - short.first_s < SHORTEST_S
            && step_s(before, &segment) < STEP_S
        {
            kept.pop();
        }
        match kept.last_mut() {
            Some(last) if step_s(last, &segment) < STEP_S => {
                if segment.last_s - segment.first_s > last.last_s - last.first_s {
                    last.run = segment.run;
                }
                last.last_s = segment.last_s;
            }
            _ => kept.push(segment),
        }
    }
    kept
}

/// A run from one moment of the clip's own time to another: its ends go straight on.
fn cut(run: &[Stretch], from_s: f64, to_s: f64) -> Vec<Stretch> {
    let last = run.len() - 1;
    let mut parts = vec![];
    for (i, stretch) in run.iter().enumerate() {
        let begin = if i == 0 { from_s } else { stretch.clip_start_s.max(from_s) };
        let end = if i == last { to_s } else { stretch.clip_end_s.min(to_s) };
        if begin < end || last == 0 {
            parts.push(Stretch {
                clip_start_s: begin,
                clip_end_s: end,
                start_s: stretch.axis_s(begin),
                ..*stretch
            });
        }
    }
    parts
}

/// End of one stretch and beginning of the next, in the clip's own time: where the patterns cease to agree on the one
/// and begin to agree on the other. The same moment unless something else lay between.
fn boundary(
    there: &HeardSound,
    own: &HeardSound,
    before: &Stretch,
    after: &Stretch,
    last_s: f64,
    first_s: f64,
) -> (f64, f64) {
    let rate = f64::from(PATTERN_RATE);
    let frame = |s: f64| (s.max(0.0) * rate) as usize;
    let (from, to) = (frame(last_s), frame(first_s).max(frame(last_s) + 1).min(own.pattern.len()));
    let agreement = |stretch: &Stretch| -> Vec<f32> {
        let lag = ((stretch.start_s - stretch.clip_start_s) * rate).round() as i64;
        own.pattern.part(from, to).agreement(there.pattern, lag + from as i64)
    };
    let (one, other) = (agreement(before), agreement(after));
    let highest = |values: &mut dyn Iterator<Item = f32>| {
        let (mut sum, mut best) = (0.0, (0.0, 0));
        for (i, value) in values.enumerate() {
            sum += value;
            if sum > best.0 {
                best = (sum, i + 1);
            }
        }
        best.1
    };
    let at = |frames: usize| (from + frames) as f64 / rate;
    // Half of what agreement there is where it is sure.
    let level = |values: &[f32], part: std::ops::Range<usize>| {
        let count = part.len().max(1) as f32;
        0.5 * values.get(part).map_or(0.0, |v| v.iter().sum::<f32>()) / count
    };
    let second = PATTERN_RATE as usize;
    let floor_one = level(&one, 0..second.min(one.len())).max(0.02);
    let floor_other = level(&other, other.len().saturating_sub(second)..other.len()).max(0.02);
    let end = highest(&mut one.iter().map(|v| v - floor_one));
    let begin = other.len() - highest(&mut other.iter().rev().map(|v| v - floor_other));
    if end <= begin {
        (at(end), at(begin))
    } else {
        let split = at(highest(&mut one.iter().zip(&other).map(|(a, b)| a - b)));
        (split, split)
    }
}
