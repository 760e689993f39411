//! From coarse places of a clip to measured links.

use super::{
    Aligner, Alignment, DayClip, Effort, HeardSound, Part, Search, Stretch, align::by_pattern, link::Link,
    pieces::extent, sound::AtSpeed, sweep::Coarse, waves::search_waves,
};
use crate::signal::{Correlator, PATTERN_RATE, Pattern};

/// Log odds below which a link is not kept.
const KEEP: f64 = 0.0;
/// Log odds from which on a link is certain enough for weaker places to be left unexamined.
const CERTAIN: f64 = 60.0;
/// Places with less than this share of the best one's coarse score are then left.
const WEAKER: f32 = 0.6;
/// Log odds below which no link is believed and the pattern alone may speak,
const DOUBTFUL: f64 = 8.0;
/// if its score is above this,
const BY_PATTERN: f32 = 8.5;
/// and no other place of the clip has this share of it.
const ALONE: f32 = 0.75;
/// A device may write this much twice; it loses far more, seconds.
const REPEATED_S: f64 = 0.3;
/// Most that is looked for as lost at once, seconds.
const LOST_S: f64 = 60.0;
/// Where stretches are this far apart, something else lay between them (the music stood still), seconds.
const HOLE_S: f64 = 0.8;
/// A part of a clip this long in which nothing agrees may lie elsewhere, seconds.
const LOST_PART_S: f64 = 4.0;

/// Tools of one thread.
#[derive(Default)]
pub(super) struct Tools {
    pub correlator: Correlator,
    pub aligner: Aligner,
}

/// Measures the places of `clip`, best first in `places`; the links come best first.
pub(super) fn examine(
    clips: &[DayClip],
    clip: usize,
    places: &[Coarse],
    effort: Search,
    tools: &mut Tools,
) -> Vec<Link> {
    let mut links: Vec<Link> = vec![];
    let probe = if effort == Search::Deep { Effort::Deep } else { Effort::Probe };
    for place in places.iter().take(effort.places()) {
        let certain =
            links.iter().any(|link| link.alignment.log_odds > CERTAIN && place.score < WEAKER * link.coarse);
        if certain {
            break;
        }
        let known =
            |link: &Link| link.against == place.against.0 && (link.there_s(0.0) - place.start_s).abs() < 0.25;
        if links.iter().any(known) {
            continue;
        }
        let (own, there) = sounds(clips, clip, place);
        let Some(alignment) = tools.aligner.align(there, own, None, place.start_s, probe) else { continue };
        if alignment.log_odds > KEEP {
            let link = place.link(clip, alignment);
            links.push(closer(clips, link, place, tools));
        }
    }
    if let [place, others @ ..] = places
        && !links.iter().any(|link| link.alignment.log_odds > DOUBTFUL)
        && place.score > BY_PATTERN
        && others.iter().all(|other| {
            other.score < ALONE * place.score
                || (other.start_s - place.start_s).abs() < 0.5
                || other.against.0 != place.against.0
        })
        && !links
            .iter()
            .any(|link| link.against == place.against.0 && (link.there_s(0.0) - place.start_s).abs() < 0.1)
    {
        let (own, there) = sounds(clips, clip, place);
        links.extend(
            by_pattern(there, own, place.start_s, place.score).map(|alignment| place.link(clip, alignment)),
        );
    }
    links.sort_by(|a, b| b.height().total_cmp(&a.height()));
    drop_copies(&mut links);
    links
}

/// Everything that fits `clip` with its start within `within_s` of `expected_s` of the other clip's time, best first.
pub(super) fn examine_near(
    clips: &[DayClip],
    clip: usize,
    against: usize,
    expected_s: f64,
    within_s: f64,
    tools: &mut Tools,
) -> Vec<Link> {
    let mut places = vec![];
    for (mine, own) in clips[clip].sounds.iter().enumerate() {
        for (theirs, there) in clips[against].sounds.iter().enumerate() {
            let (searched, sought) =
                (tools.correlator.searched(there.pattern), tools.correlator.sought(own.pattern));
            let coarse = tools.correlator.search(&searched, &sought, PATTERN_RATE as usize, 4, 2000);
            let start_s = |lag: i64| lag as f64 / f64::from(PATTERN_RATE);
            let near = coarse
                .into_iter()
                .map(|m| Coarse {
                    against: (against, theirs),
                    sound: mine,
                    start_s: start_s(m.lag_frames),
                    score: m.score,
                })
                .filter(|place| (place.start_s - expected_s).abs() <= within_s + 0.05);
            places.extend(near.take(12));
            // The rough place itself: the person may know better than the patterns.
            places.push(Coarse { against: (against, theirs), sound: mine, start_s: expected_s, score: 0.0 });
        }
    }
    places.sort_by(|a, b| b.score.total_cmp(&a.score));
    let mut links = examine(clips, clip, &places, Search::Deep, tools);
    links.retain(|link| (link.there_s(0.0) - expected_s).abs() <= within_s + 0.02);
    links
}

/// Places that the waves alone show are looked at.
const WAVE_PLACES: usize = 3;

/// Measures the places of `clip` against `anchor` that a search of the waves over all lags shows.
pub(super) fn examine_waves(
    clips: &[DayClip],
    clip: usize,
    anchor: usize,
    stopped: &dyn Fn() -> bool,
    tools: &mut Tools,
) -> Vec<Link> {
    let mut links = vec![];
    for (mine, own) in clips[clip].sounds.iter().enumerate() {
        for (theirs, there) in clips[anchor].sounds.iter().enumerate() {
            for found in search_waves(there, own, stopped).into_iter().take(WAVE_PLACES) {
                let place = Coarse {
                    against: (anchor, theirs),
                    sound: mine,
                    start_s: found.start_s,
                    score: found.height,
                };
                let alignment = tools.aligner.align(there, own, None, place.start_s, Effort::Deep);
                let near = |link: &Link| (link.there_s(0.0) - place.start_s).abs() < SAME_WAVES_S;
                links.extend(
                    alignment
                        .filter(|alignment| alignment.log_odds > KEEP)
                        .map(|alignment| closer(clips, place.link(clip, alignment), &place, tools))
                        .filter(near),
                );
            }
        }
    }
    links.sort_by(|a: &Link, b| b.height().total_cmp(&a.height()));
    drop_copies(&mut links);
    links
}

/// Measured closely, a place by waves stays where it was: half a minute's drift away, seconds.
const SAME_WAVES_S: f64 = 0.05;

/// Measures `clip` at another speed than its label's against the places found for that speed.
pub(super) fn examine_at_speed(
    clips: &[DayClip],
    clip: usize,
    places: &[Coarse],
    pattern: &Pattern,
    speed: f64,
    tools: &mut Tools,
) -> Vec<Link> {
    let mut links: Vec<Link> = vec![];
    for place in places.iter().take(4) {
        let own = &clips[clip].sounds[place.sound];
        let samples = AtSpeed::new(own.samples, speed);
        let sound = HeardSound { pattern, samples: &samples };
        let there = &clips[place.against.0].sounds[place.against.1];
        let Some(rough) = tools.aligner.align(there, &sound, None, place.start_s, Effort::Probe) else {
            continue;
        };
        if rough.log_odds > KEEP {
            let alignment = tools.aligner.closely(there, &sound, &rough, Effort::Full).unwrap_or(rough);
            let link = place.link(clip, alignment);
            links.push(link.at_speed(speed));
            break;
        }
    }
    links
}

fn sounds<'a>(clips: &'a [DayClip], clip: usize, place: &Coarse) -> (&'a HeardSound<'a>, &'a HeardSound<'a>) {
    (&clips[clip].sounds[place.sound], &clips[place.against.0].sounds[place.against.1])
}

/// Measures a link over all windows, and looks for the parts of the clip that lie elsewhere.
fn closer(clips: &[DayClip], mut link: Link, place: &Coarse, tools: &mut Tools) -> Link {
    let (own, there) = sounds(clips, link.clip, place);
    if let Some(full) = tools.aligner.closely(there, own, &link.alignment, Effort::Full)
        && full.log_odds > link.alignment.log_odds.min(KEEP)
    {
        link.alignment = full;
    }
    find_lost_parts(there, own, &mut link.alignment, Reach::Losses, tools);
    link
}

/// Two channels may give the same position: the stronger stays.
fn drop_copies(links: &mut Vec<Link>) {
    let mut kept: Vec<Link> = vec![];
    for link in links.drain(..) {
        let copy = kept.iter().any(|other| {
            other.against == link.against
                && (other.there_s(link.middle_s()) - link.there_s(link.middle_s())).abs() < 0.02
        });
        if !copy {
            kept.push(link);
        }
    }
    *links = kept;
}

/// How far the lost parts of a clip may lie from where they are expected.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Reach {
    /// Samples were lost: a little later.
    Losses,
    /// The music was stopped and started again: anywhere.
    Anywhere,
}

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
}

/// Parts in which no window agreed are looked for elsewhere in the reference, one after the other.
pub(super) fn find_lost_parts(
    there: &HeardSound,
    own: &HeardSound,
    alignment: &mut Alignment,
    reach: Reach,
    tools: &mut Tools,
) {
    let mut given_up: Vec<f64> = vec![];
    for _ in 0..12 {
        let next = uncovered(own.duration_s(), alignment, reach)
            .into_iter()
            .find(|part| !given_up.iter().any(|at| (part.from_s..part.to_s).contains(at)));
        let Some(part) = next else { return };
        match look_elsewhere(there, own, alignment, part, reach, tools) {
            Some(found) => join(there, own, alignment, found, reach, tools),
            None => given_up.push(0.5 * (part.from_s + part.to_s)),
        }
    }
}

/// An agreeing window with no other this near is chance, seconds.
const ALONE_S: f64 = 2.2;

/// Stretches of [`LOST_PART_S`] and more without an agreeing window, the longest first.
pub(super) fn uncovered(duration_s: f64, alignment: &Alignment, reach: Reach) -> Vec<Part> {
    let whole = match reach {
        Reach::Losses => alignment.part,
        Reach::Anywhere => Part { from_s: 0.0, to_s: duration_s },
    };
    let mut all: Vec<f64> = alignment.residuals.iter().map(|r| r.0).collect();
    all.sort_by(f64::total_cmp);
    let near = |i: usize, j: usize| all.get(j).is_some_and(|other| (other - all[i]).abs() < ALONE_S);
    let times = (0..all.len()).filter(|&i| near(i, i + 1) || i > 0 && near(i, i - 1)).map(|i| all[i]);
    // A window reaches a second to either side.
    let mut bounds = vec![whole.from_s - 1.0];
    bounds.extend(times);
    bounds.push(whole.to_s + 1.0);
    let mut parts: Vec<Part> = bounds
        .windows(2)
        .map(|pair| Part { from_s: pair[0] + 1.0, to_s: pair[1] - 1.0 })
        .filter(|part| part.to_s - part.from_s >= LOST_PART_S)
        .collect();
    parts.sort_by(|a, b| (b.to_s - b.from_s).total_cmp(&(a.to_s - a.from_s)));
    parts
}

fn look_elsewhere(
    there: &HeardSound,
    own: &HeardSound,
    alignment: &Alignment,
    part: Part,
    reach: Reach,
    tools: &mut Tools,
) -> Option<Alignment> {
    let rate = f64::from(PATTERN_RATE);
    let frame = |s: f64| (s * rate).max(0.0) as usize;
    let piece = own.pattern.part(frame(part.from_s), frame(part.to_s));
    let (from, to) = match reach {
        Reach::Losses => {
            let (earliest, latest) = after_losses(alignment, part);
            (frame(earliest), frame(latest + part.to_s - part.from_s))
        }
        Reach::Anywhere => (0, there.pattern.len()),
    };
    let around = there.pattern.part(from, to);
    let (searched, sought) = (tools.correlator.searched(&around), tools.correlator.sought(&piece));
    let overlap = ((part.to_s - part.from_s).min(LOST_PART_S) * 0.6 * rate) as usize;
    let places = tools.correlator.search(&searched, &sought, overlap, 8, reach.places());
    places.into_iter().filter(|place| place.score > reach.least_score()).find_map(|place| {
        let there_s = (place.lag_frames + from as i64) as f64 / rate;
        // Start of the whole clip, were it to lie so.
        let start_s = there_s - frame(part.from_s) as f64 / rate;
        let found = tools.aligner.align(there, own, Some(part), start_s, Effort::Full)?;
        let known = alignment.stretches.iter().any(|stretch| {
            let at = 0.5 * (part.from_s + part.to_s);
            (stretch.axis_s(at) - found.stretches[0].axis_s(at)).abs() < 0.004
        });
        (found.log_odds > 12.0 && found.agreeing >= 3 && !known).then_some(found)
    })
}

/// Between which moments of the reference a part of a clip begins if its device only lost samples: a loss puts all
/// that follows it later, so a part before what is placed lies earlier than expected, and one after it later.
fn after_losses(alignment: &Alignment, part: Part) -> (f64, f64) {
    let expected = |at: f64| {
        let stretch = super::link::stretch_at(&alignment.stretches, at);
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
fn join(
    there: &HeardSound,
    own: &HeardSound,
    alignment: &mut Alignment,
    found: Alignment,
    reach: Reach,
    tools: &mut Tools,
) {
    let support = |stretches: &[Stretch], residuals: &[(f64, f64)]| -> Vec<(Stretch, f64, f64)> {
        stretches
            .iter()
            .filter_map(|stretch| {
                let mut inside: Vec<f64> = residuals
                    .iter()
                    .map(|r| r.0)
                    .filter(|t| (stretch.clip_start_s..=stretch.clip_end_s).contains(t))
                    .collect();
                inside.sort_by(f64::total_cmp);
                extent(&inside).map(|(first, last)| (*stretch, first, last))
            })
            .collect()
    };
    let mut all = support(&alignment.stretches, &alignment.residuals);
    all.extend(support(&found.stretches, &found.residuals));
    all.sort_by(|a, b| a.1.total_cmp(&b.1));
    // One clock: the rate of the longest run serves all that are measured worse.
    let best = all.iter().map(|(s, ..)| *s).min_by(|a, b| a.rate_sigma_ppm.total_cmp(&b.rate_sigma_ppm));
    let mut stretches: Vec<Stretch> = vec![];
    let mut end_of_last = 0.0;
    for (i, (stretch, first, last)) in all.iter().enumerate() {
        let mut own_stretch = *stretch;
        let middle = 0.5 * (first + last);
        let at = stretch.axis_s(middle);
        if let Some(best) = best {
            own_stretch.rate_ppm = best.rate_ppm;
            own_stretch.rate_sigma_ppm = best.rate_sigma_ppm;
        }
        let from = if i == 0 { 0.0 } else { end_of_last };
        let to = match all.get(i + 1) {
            Some((next, next_first, _)) => {
                let between = boundary(there, own, stretch, next, *last, *next_first);
                if reach == Reach::Losses || between.1 - between.0 < HOLE_S {
                    // Nothing lay between: the waves know the moment better than the patterns.
                    let within = (last - 1.0, next_first + 1.0);
                    let sounds = (there, own);
                    let split =
                        tools.aligner.break_between(sounds, [stretch, next], within, alignment.inverted);
                    (split, split)
                } else {
                    between
                }
            }
            None => (own.duration_s(), own.duration_s()),
        };
        own_stretch.clip_start_s = from;
        own_stretch.clip_end_s = to.0;
        own_stretch.start_s = at - (middle - from) / (1.0 + own_stretch.rate_ppm * 1e-6);
        end_of_last = to.1;
        stretches.push(own_stretch);
    }
    alignment.stretches = stretches;
    alignment.residuals.extend(found.residuals);
    alignment.residuals.sort_by(|a, b| a.0.total_cmp(&b.0));
    alignment.tried += found.tried;
    alignment.agreeing += found.agreeing;
    alignment.height = alignment.height.hypot(found.height);
    alignment.log_odds += found.log_odds;
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
