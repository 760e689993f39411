//! Runs of a clip that differ by the way the sound came: who walks is heard sooner and later, while the clock goes on.

use super::{
    segments::{Segment, assemble, segments},
    tools::Tools,
};
use crate::sync::{
    answer::stretch_at,
    input::Pair,
    pair::{Alignment, Moved, STEP_S},
};

/// Farther than this nobody goes within a clip, seconds of sound (15 m).
pub(crate) const FARTHEST_S: f64 = 0.045;
/// Samples are lost in a moment; a walk takes this long, seconds, while so many windows agree with neither side.
const SLOW_S: f64 = 2.4;
const BETWEEN: usize = 2;
/// A run this long may be the one that the clip lies by, seconds.
const STAYS_S: f64 = 3.0;
/// A slow step that is not taken back leaves open from here on whether samples were lost (half a frame), seconds.
const HALF_FRAME_S: f64 = 0.02;

/// Makes one run of those that differ by the way of the sound alone: the one that heard it soonest, which is nearest to
/// what a picture shows.
pub(super) fn settle_moves(pair: Pair, alignment: &mut Alignment, tools: &mut Tools) {
    let all = segments(alignment, None);
    let walked = walked(alignment, &all);
    if !walked.contains(&true) {
        return;
    }
    let mut chains: Vec<Vec<Segment>> = vec![];
    for (i, segment) in all.into_iter().enumerate() {
        match chains.last_mut().filter(|_| i > 0 && walked[i - 1]) {
            Some(chain) => chain.push(segment),
            None => chains.push(vec![segment]),
        }
    }
    let runs = chains.into_iter().map(|chain| one_run(chain, alignment)).collect();
    alignment.stretches = assemble(pair, runs, alignment.inverted, tools);
}

/// After which of the runs the way of the sound became another.
fn walked(alignment: &Alignment, all: &[Segment]) -> Vec<bool> {
    let near = |i: usize| step_s(&all[i], &all[i + 1]).abs() <= FARTHEST_S;
    let slow = |i: usize| {
        let (from, to) = (all[i].last_s, all[i + 1].first_s);
        let between = alignment.missed.iter().filter(|at| (from..to).contains(*at)).count();
        to - from >= SLOW_S && between >= BETWEEN
    };
    let steps = all.len().saturating_sub(1);
    let mut walked: Vec<bool> = (0..steps).map(|i| near(i) && slow(i)).collect();
    // Who comes back has walked: what is lost does not come back.
    for from in 0..all.len() {
        for to in from + 2..all.len() {
            if step_s(&all[from], &all[to]).abs() < STEP_S && (from..to).all(near) {
                walked[from..to].fill(true);
            }
        }
    }
    walked
}

/// How much earlier the second of two runs hears than the first, half way between them, seconds.
fn step_s(one: &Segment, other: &Segment) -> f64 {
    let between = 0.5 * (one.last_s + other.first_s);
    offset_s(other, between) - offset_s(one, between)
}

fn offset_s(segment: &Segment, clip_s: f64) -> f64 {
    stretch_at(&segment.run, clip_s).axis_s(clip_s) - clip_s
}

fn one_run(mut chain: Vec<Segment>, alignment: &mut Alignment) -> Segment {
    let (first_s, last_s) = (chain[0].first_s, chain[chain.len() - 1].last_s);
    let middle = 0.5 * (first_s + last_s);
    let stays = |i: &usize| chain[*i].last_s - chain[*i].first_s >= STAYS_S;
    let sooner = |a: &usize, b: &usize| offset_s(&chain[*a], middle).total_cmp(&offset_s(&chain[*b], middle));
    let soonest = |among: &dyn Fn(&usize) -> bool| (0..chain.len()).filter(|i| among(i)).max_by(sooner);
    let base = soonest(&stays).or_else(|| soonest(&|_| true)).unwrap_or(0);
    for segment in &chain {
        let later_s = offset_s(&chain[base], middle) - offset_s(segment, middle);
        if later_s.abs() >= STEP_S {
            alignment.moves.push(Moved { from_s: segment.first_s, to_s: segment.last_s, later_s });
        }
    }
    let (head, tail) = (&chain[0], &chain[chain.len() - 1]);
    if step_s(head, tail).abs() > HALF_FRAME_S {
        alignment.leave_open(head.last_s);
    }
    Segment { run: chain.swap_remove(base).run, first_s, last_s }
}
