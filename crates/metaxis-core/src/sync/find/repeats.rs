//! Where the reference repeats itself, every run of a clip must be the best of all the places at which its passage recurs.

use super::{
    lost::{SAME_S, best_of, places_of},
    segments::{assemble, segments},
    tools::{Reach, Tools},
};
use crate::sync::{
    answer::stretch_at,
    input::{OffsetAt, Pair},
    pair::{Alignment, Density, Passage, Winner, duel},
};

/// Of runs shorter than this the waves cannot name all the places at which they recur, seconds: they need three windows
/// of two.
const SHORT_S: f64 = 7.0;
/// Log odds from which on a short passage recurs elsewhere.
const RECURS: f64 = 4.0;
/// How far a run of a clip that only lost samples is looked for, seconds.
const AROUND_S: f64 = 30.0;

/// Moves the runs of `alignment` whose passage fits clearly better at another place to it, and notes what is left open.
pub(super) fn settle_repeats(pair: Pair, alignment: &mut Alignment, tools: &mut Tools) {
    let mut all = segments(alignment, None);
    let anywhere = tools.reach == Reach::Anywhere;
    if all.len() < 2 && !anywhere {
        return;
    }
    let lengths: Vec<f64> = all.iter().map(|segment| segment.last_s - segment.first_s).collect();
    let longest = (0..all.len()).max_by(|&a, &b| lengths[a].total_cmp(&lengths[b]));
    let sign = alignment.sign();
    let mut moved = false;
    for (i, segment) in all.iter_mut().enumerate() {
        // A clip that lost samples hangs on its longest run.
        let held = !anywhere && Some(i) == longest;
        let part = Passage { from_s: segment.first_s - 1.0, to_s: segment.last_s + 1.0 };
        if held {
            continue;
        }
        let short = part.to_s - part.from_s < SHORT_S;
        let middle = 0.5 * (part.from_s + part.to_s);
        let own_s = stretch_at(&segment.run, middle).axis_s(middle) - middle;
        let begins_s = part.from_s + own_s;
        let starts =
            if anywhere { (0.0, pair.0.duration_s()) } else { (begins_s - AROUND_S, begins_s + AROUND_S) };
        let (mut places, repeats) = places_of(pair, part, starts, sign, tools);
        let Some(own) = tools.aligner.align(pair.0, pair.1, Some(part), own_s, Density::Probe) else {
            continue;
        };
        places.push(own.clone());
        let Some((best, rivals)) = best_of(pair, &places, part, sign, true, tools) else { continue };
        let offset = |found: &Alignment, at: f64| stretch_at(&found.stretches, at).axis_s(at) - at;
        let elsewhere =
            |found: &&Alignment| found.log_odds > RECURS && (offset(found, middle) - own_s).abs() > SAME_S;
        let recurs = short && places.iter().any(|found| elsewhere(&found));
        if recurs || repeats && !rivals.is_empty() {
            alignment.leave_open(part.from_s);
        }
        let offsets: (OffsetAt, OffsetAt) = (&|at| offset(best, at), &|at| offset(&own, at));
        let same = (offset(best, middle) - own_s).abs() < SAME_S;
        if same || duel(&mut tools.aligner.narrow, pair, part, offsets, sign) != Winner::One {
            continue;
        }
        let Some(found) = tools.aligner.closely(pair.0, pair.1, best, Density::Full) else { continue };
        alignment.residuals.retain(|residual| !(part.from_s..=part.to_s).contains(&residual.0));
        alignment.missed.retain(|at| !(part.from_s..=part.to_s).contains(at));
        alignment.residuals.extend(&found.residuals);
        alignment.missed.extend(&found.missed);
        segment.run = found.stretches;
        moved = true;
    }
    if moved {
        alignment.residuals.sort_by(|a, b| a.0.total_cmp(&b.0));
        alignment.tried = alignment.residuals.len() + alignment.missed.len();
        alignment.agreeing = alignment.residuals.len();
        alignment.stretches = assemble(pair, all, alignment.inverted, tools);
    }
}
