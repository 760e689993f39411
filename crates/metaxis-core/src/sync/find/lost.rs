//! Parts of a clip in which nothing agreed: looked at closely where the neighbours foretell, and only then elsewhere.

use super::{
    segments::{assemble, segments},
    tools::{Reach, Tools},
};
use crate::{
    signal::PATTERN_RATE,
    sync::{
        answer::{Stretch, stretch_at},
        input::{HeardSound, OffsetAt, Pair},
        pair::{
            Alignment, Density, LocalOffset, Passage, Ruling, STEP_S, Sure, WaveSearch, Winner, duel, extent,
            rule, search_waves, uncovered,
        },
    },
};

/// A device may write this much twice; it loses far more, seconds.
const REPEATED_S: f64 = 0.3;
/// Most that is looked for as lost at once, seconds.
const LOST_S: f64 = 60.0;
/// A part of a clip this long in which nothing agrees may lie elsewhere, seconds.
const LOST_PART_S: f64 = 4.0;
/// It is first looked at where it was expected, every so many seconds,
const DENSE_S: f64 = 0.96;
/// so far from what agreed on either side.
const EDGE_S: f64 = 60.0;
/// Another place this nearly as high leaves open where a part lies.
const AS_HIGH: f64 = 0.8;
/// Places nearer than this are one, seconds.
pub(super) const SAME_S: f64 = 0.004;
/// Places with less than this share of the best one's coarse score are left unexamined.
const WEAKER: f32 = 0.5;
/// Log odds from which on a place of a part is believed.
const BELIEVED: f64 = 8.0;
/// Places by waves that are looked at where the sound repeats itself.
const MOST_REPEATS: usize = 6;
/// Parts that are looked for one after the other.
const MOST_PARTS: usize = 12;

impl Reach {
    /// Places of a lost part that are looked at: verses and bars repeat.
    fn places(self) -> usize {
        match self {
            Self::Losses => 4,
            Self::Anywhere => 16,
        }
    }

    /// Coarse score from which on one is.
    fn least_score(self) -> f32 {
        match self {
            Self::Losses => 5.5,
            Self::Anywhere => 4.0,
        }
    }

    /// What of a clip is to be somewhere on the reference.
    fn whole(self, own: &HeardSound, alignment: &Alignment) -> Passage {
        match self {
            Self::Losses => alignment.part,
            Self::Anywhere => Passage { from_s: 0.0, to_s: own.duration_s() },
        }
    }
}

/// Parts of [`LOST_PART_S`] and more that no window covers, the longest first.
fn lost_parts(own: &HeardSound, alignment: &Alignment, reach: Reach) -> Vec<Passage> {
    uncovered(alignment, reach.whole(own, alignment), LOST_PART_S)
}

/// Parts in which no window agreed are looked at densely where they are expected, then looked for elsewhere in the
/// reference, one after the other.
pub(super) fn find_lost_parts(pair: Pair, alignment: &mut Alignment, tools: &mut Tools) {
    let reach = tools.reach;
    look_closely(pair, alignment, reach, tools);
    let mut given_up: Vec<f64> = vec![];
    for _ in 0..MOST_PARTS {
        let next = lost_parts(pair.1, alignment, reach)
            .into_iter()
            .find(|part| !given_up.iter().any(|at| (part.from_s..part.to_s).contains(at)));
        let Some(part) = next else { return };
        match look_elsewhere(pair, alignment, part, reach, tools) {
            Elsewhere::There(found) => join(pair, alignment, found, tools),
            Elsewhere::Open(from_s) => {
                alignment.leave_open(from_s);
                given_up.push(0.5 * (part.from_s + part.to_s));
            }
            Elsewhere::Nowhere => given_up.push(0.5 * (part.from_s + part.to_s)),
        }
    }
}

/// What the stretches beside a moment foretell for it: by the last agreeing window before it, and by the first after it.
fn foretold(alignment: &Alignment, at_s: f64) -> Vec<Stretch> {
    let times = || alignment.residuals.iter().map(|residual| residual.0);
    let before = times().filter(|at| *at < at_s).reduce(f64::max);
    let after = times().filter(|at| *at > at_s).reduce(f64::min);
    let mut all: Vec<Stretch> =
        [before, after].into_iter().flatten().map(|at| *stretch_at(&alignment.stretches, at)).collect();
    if let [one, other] = all[..]
        && (one.axis_s(at_s) - other.axis_s(at_s)).abs() < STEP_S
    {
        all.truncate(1);
    }
    all
}

/// Looks densely at what nothing covers, where its neighbours foretell it.
fn look_closely(pair: Pair, alignment: &mut Alignment, reach: Reach, tools: &mut Tools) {
    let near_edge = |part: &Passage, at: f64| at < part.from_s + EDGE_S || at > part.to_s - EDGE_S;
    for part in lost_parts(pair.1, alignment, reach) {
        let count = ((part.to_s - part.from_s) / DENSE_S) as usize;
        let tried: Vec<f64> = alignment.missed.clone();
        let moments = (0..=count)
            .map(|i| part.from_s + DENSE_S * i as f64)
            .filter(|at| near_edge(&part, *at))
            .filter(|at| !tried.iter().any(|other| (other - at).abs() < 0.5 * DENSE_S));
        let beside = foretold(alignment, 0.5 * (part.from_s + part.to_s));
        for at in moments.collect::<Vec<f64>>() {
            match beside.iter().find_map(|stretch| agrees(pair, alignment, stretch, at, tools)) {
                Some(residual) => {
                    alignment.residuals.push(residual);
                    alignment.agreeing += 1;
                }
                None => alignment.missed.push(at),
            }
            alignment.tried += 1;
        }
        alignment.residuals.sort_by(|a, b| a.0.total_cmp(&b.0));
    }
}

/// The residual of the window at a moment, if it agrees with a stretch.
fn agrees(
    pair: Pair,
    alignment: &Alignment,
    stretch: &Stretch,
    at_s: f64,
    tools: &mut Tools,
) -> Option<(f64, f64)> {
    let sign = alignment.sign();
    let expected = |clip_s: f64| stretch.axis_s(clip_s) - clip_s;
    let look = tools.aligner.narrow.looks(pair, &[at_s], &expected).pop()?;
    let LocalOffset { clip_s, offset_s, .. } = look.agreeing(expected(look.clip_s), sign)?;
    Some((clip_s, offset_s - expected(clip_s)))
}

/// A part found elsewhere.
struct Found {
    alignment: Alignment,
    /// Whether nothing but the waves' agreement there explains it.
    forced: bool,
}

/// What the search for a part says.
enum Elsewhere {
    /// It lies there.
    There(Found),
    /// It may go on where its neighbours foretell, though another place fits better from a moment on, seconds.
    Open(f64),
    /// Nothing speaks for another place.
    Nowhere,
}

fn look_elsewhere(
    pair: Pair,
    alignment: &Alignment,
    part: Passage,
    reach: Reach,
    tools: &mut Tools,
) -> Elsewhere {
    let Some((found, rivals)) = best_elsewhere(pair, alignment, part, reach, tools) else {
        return Elsewhere::Nowhere;
    };
    // What repeats is no witness while the neighbours' place holds.
    let times: Vec<f64> = found.residuals.iter().map(|residual| residual.0).collect();
    let Some((from_s, to_s)) = extent(&times) else { return Elsewhere::Nowhere };
    let new = |clip_s: f64| stretch_at(&found.stretches, clip_s).axis_s(clip_s) - clip_s;
    let mut forced = !rivals;
    for stretch in foretold(alignment, 0.5 * (part.from_s + part.to_s)) {
        let old = |clip_s: f64| stretch.axis_s(clip_s) - clip_s;
        let sign = alignment.sign();
        match rule(&mut tools.aligner.narrow, pair, Passage { from_s, to_s }, (&old, &new), sign) {
            Ruling::Continues(_, Sure(true)) => return Elsewhere::Nowhere,
            Ruling::Continues(_, Sure(false)) => return Elsewhere::Open(from_s),
            Ruling::Open => forced = false,
            Ruling::Forced => {}
        }
    }
    Elsewhere::There(Found { alignment: found, forced })
}

/// The best other place of a part, measured closely, and whether others fit it nearly as well.
fn best_elsewhere(
    pair: Pair,
    alignment: &Alignment,
    part: Passage,
    reach: Reach,
    tools: &mut Tools,
) -> Option<(Alignment, bool)> {
    let (there, own) = pair;
    let middle = 0.5 * (part.from_s + part.to_s);
    let starts = match reach {
        Reach::Losses => after_losses(alignment, part),
        Reach::Anywhere => (0.0, there.duration_s()),
    };
    let known = |found: &Alignment| {
        let at = stretch_at(&found.stretches, middle).axis_s(middle);
        alignment.stretches.iter().any(|stretch| (stretch.axis_s(middle) - at).abs() < SAME_S)
    };
    let sign = alignment.sign();
    let mut all = places_of(pair, part, starts, sign, tools).0;
    all.retain(|found| !known(found));
    let (mut best, rivals) = best_of(pair, &all, part, sign, true, tools)?;
    // Of what cannot be told apart the smallest jump is the likeliest.
    let beside = foretold(alignment, middle);
    let jump = |found: &Alignment| {
        let at = stretch_at(&found.stretches, middle).axis_s(middle);
        beside.iter().map(|stretch| (stretch.axis_s(middle) - at).abs()).fold(f64::MAX, f64::min)
    };
    for other in &rivals {
        if jump(other) < jump(best) {
            best = other;
        }
    }
    let found = tools.aligner.closely(there, own, best, Density::Full)?;
    if found.log_odds <= 12.0 || found.agreeing < 3 || known(&found) {
        return None;
    }
    Some((found, !rivals.is_empty()))
}

/// Places of a part of a clip that begins between two moments of the reference, and whether it repeats itself: then the
/// waves show more than patterns do, which know some of the bars of a loop only.
pub(super) fn places_of(
    pair: Pair,
    part: Passage,
    starts: (f64, f64),
    sign: f32,
    tools: &mut Tools,
) -> (Vec<Alignment>, bool) {
    let (there, own) = pair;
    let reach = tools.reach;
    let rate = f64::from(PATTERN_RATE);
    let frame = |s: f64| (s * rate).max(0.0) as usize;
    let piece = own.pattern.part(frame(part.from_s), frame(part.to_s));
    let (from, to) = (frame(starts.0), frame(starts.1 + part.to_s - part.from_s));
    let try_at = |start_s: f64, tools: &mut Tools| {
        let found = tools.aligner.align(there, own, Some(part), start_s, Density::Probe)?;
        (found.log_odds > 0.0).then_some(found)
    };
    let around = there.pattern.part(from, to);
    let (searched, sought) = (tools.correlator.searched(&around), tools.correlator.sought(&piece));
    let overlap = ((part.to_s - part.from_s).min(LOST_PART_S) * 0.6 * rate) as usize;
    let places = tools.correlator.search(&searched, &sought, overlap, 8, reach.places());
    let highest = places.first().map_or(0.0, |place| place.score);
    let mut all: Vec<Alignment> = places
        .into_iter()
        .filter(|place| place.score > reach.least_score().max(WEAKER * highest))
        .filter_map(|place| {
            let there_s = (place.lag_frames + from as i64) as f64 / rate;
            // Start of the whole clip, were it to lie so.
            try_at(there_s - frame(part.from_s) as f64 / rate, tools)
        })
        .collect();
    // What is found nowhere beyond doubt does not repeat itself.
    let repeats = best_of(pair, &all, part, sign, false, tools)
        .is_some_and(|(best, rivals)| best.log_odds > BELIEVED && !rivals.is_empty());
    if repeats {
        let starts = (starts.0 - part.from_s, starts.1 - part.from_s);
        let search = WaveSearch { part, starts, ..WaveSearch::anywhere(there, own).lightly() };
        for place in search_waves(there, own, &search, &|| false).into_iter().take(MOST_REPEATS) {
            all.extend(try_at(place.start_s, tools));
        }
    }
    (all, repeats)
}

/// The best of several places of a part, and those nearly as high that it does not beat; where they are to `fight`, window
/// by window.
pub(super) fn best_of<'c>(
    pair: Pair,
    candidates: &'c [Alignment],
    part: Passage,
    sign: f32,
    fight: bool,
    tools: &mut Tools,
) -> Option<(&'c Alignment, Vec<&'c Alignment>)> {
    let offset =
        |found: &Alignment, clip_s: f64| stretch_at(&found.stretches, clip_s).axis_s(clip_s) - clip_s;
    let middle = 0.5 * (part.from_s + part.to_s);
    let mut order: Vec<&Alignment> = candidates.iter().collect();
    order.sort_by(|a, b| b.height.total_cmp(&a.height));
    let mut best = *order.first()?;
    let mut rivals = vec![];
    for other in &order[1..] {
        let share = other.height / best.height;
        if share < AS_HIGH || (offset(other, middle) - offset(best, middle)).abs() < SAME_S {
            continue;
        }
        let offsets: (OffsetAt, OffsetAt) = (&|at| offset(best, at), &|at| offset(other, at));
        match if fight { duel(&mut tools.aligner.narrow, pair, part, offsets, sign) } else { Winner::Neither }
        {
            Winner::One => {}
            Winner::Other => (best, rivals) = (other, vec![]),
            Winner::Neither => rivals.push(*other),
        }
    }
    Some((best, rivals))
}

/// Between which moments of the reference a part of a clip begins if its device only lost samples: a loss puts all
/// that follows it later, so a part before what is placed lies earlier than expected, and one after it later.
fn after_losses(alignment: &Alignment, part: Passage) -> (f64, f64) {
    let expected = |at: f64| {
        let stretch = stretch_at(&alignment.stretches, at);
        stretch.axis_s(at) - (at - part.from_s)
    };
    let middle = 0.5 * (part.from_s + part.to_s);
    let times = || alignment.residuals.iter().map(|residual| residual.0);
    let before = times().filter(|at| *at < middle).reduce(f64::max).map(expected);
    let after = times().filter(|at| *at > middle).reduce(f64::min).map(expected);
    let earliest = before.map_or_else(|| expected(middle) - LOST_S, |at| at - REPEATED_S);
    let latest = after.map_or_else(|| expected(middle) + LOST_S, |at| at + REPEATED_S);
    (earliest, latest)
}

/// Adds the stretches of `found`, keeping the order of the clip's time.
fn join(pair: Pair, alignment: &mut Alignment, found: Found, tools: &mut Tools) {
    let Found { alignment: found, forced } = found;
    let fresh = segments(&found, None);
    let (Some(from_s), Some(to_s)) = (fresh.first().map(|s| s.first_s), fresh.last().map(|s| s.last_s))
    else {
        return;
    };
    let mut all = segments(alignment, Some(Passage { from_s, to_s }));
    all.extend(fresh);
    all.sort_by(|a, b| a.first_s.total_cmp(&b.first_s));
    alignment.stretches = assemble(pair, all, alignment.inverted, tools);
    alignment.residuals.retain(|residual| !(from_s..=to_s).contains(&residual.0));
    alignment.missed.retain(|at| !(from_s..=to_s).contains(at));
    alignment.residuals.extend(found.residuals);
    alignment.residuals.sort_by(|a, b| a.0.total_cmp(&b.0));
    alignment.missed.extend(found.missed.into_iter().filter(|at| (from_s..=to_s).contains(at)));
    alignment.tried = alignment.residuals.len() + alignment.missed.len();
    alignment.agreeing = alignment.residuals.len();
    alignment.height = alignment.height.hypot(found.height);
    alignment.log_odds += found.log_odds;
    if !forced {
        alignment.leave_open(from_s);
    }
}
