//! From coarse places of a clip to measured links.

use super::{
    at_speed::AtSpeed,
    channels::{in_clip_time, use_best_channels},
    link::{Link, RIVAL},
    lost::find_lost_parts,
    moves::settle_moves,
    repeats::settle_repeats,
    sweep::Coarse,
    tools::Tools,
};
use crate::{
    signal::{PATTERN_RATE, Pattern},
    sync::{
        input::{DayClip, Effort, HeardSound, OffsetAt},
        pair::{Density, Passage, WaveSearch, Winner, by_pattern, duel, search_waves},
    },
};

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
/// A clip longer than this needs more than the windows of a full measurement, seconds.
const LONG_S: f64 = 600.0;

/// Measures the places of `clip`, best first in `places`; the links come best first.
pub(crate) fn examine(
    clips: &[DayClip],
    clip: usize,
    places: &[Coarse],
    effort: Effort,
    tools: &mut Tools,
) -> Vec<Link> {
    let mut links: Vec<Link> = vec![];
    let probe = if effort == Effort::Deep { Density::Deep } else { Density::Probe };
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
            links.push(closer(clips, link, tools));
        }
    }
    if let [place, others @ ..] = places
        && !links.iter().any(|link| link.alignment.log_odds > DOUBTFUL)
        && place.score > BY_PATTERN
        && stands_alone(place, others)
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
    if let Some(best) = links.first_mut() {
        use_best_channels(clips, best, tools);
    }
    rank(clips, &mut links, tools);
    if let Some(best) = links.first_mut() {
        without_shear(clips, best, tools);
    }
    in_clip_time(clips, links)
}

/// A rate this far off, ppm, shears the windows: their ends lie a third of a millisecond and more apart, and the waves'
/// peak is as wide.
const SHEARED_PPM: f64 = 300.0;

/// Measures a link whose rate shears its windows (0.1 % pulled down, most of all) again, with the clip played at that rate.
fn without_shear(clips: &[DayClip], link: &mut Link, tools: &mut Tools) {
    let [only] = link.alignment.stretches[..] else { return };
    if !link.alignment.fine || only.rate_ppm.abs() < SHEARED_PPM {
        return;
    }
    let speed = 1.0 + only.rate_ppm * 1e-6;
    let (own, there) = sounds_of(clips, link);
    let (samples, pattern) = (AtSpeed::new(own.samples, speed), own.pattern.at_speed(speed));
    let sound = HeardSound { pattern: &pattern, samples: &samples, ..*own };
    let rough = link.clone().at_speed(1.0 / speed).alignment;
    if let Some(alignment) = tools.aligner.closely(there, &sound, &rough, Density::Full)
        && alignment.log_odds > link.alignment.log_odds
    {
        let labelled = link.speed;
        *link = Link { alignment, ..link.clone() }.at_speed(speed);
        link.speed = labelled;
    }
}

/// Puts the links of a clip in order, best first, each place once. What may be its place is measured all along, and the
/// parts of it that lie elsewhere are looked for.
fn rank(clips: &[DayClip], links: &mut Vec<Link>, tools: &mut Tools) {
    let by_height = |a: &Link, b: &Link| b.height().total_cmp(&a.height());
    links.sort_by(by_height);
    drop_copies(links);
    let least = RIVAL * links.first().map_or(0.0, Link::height);
    for (i, link) in links.iter_mut().enumerate() {
        if link.alignment.fine && (i == 0 || link.height() > least) {
            all_along(clips, link, tools);
        }
    }
    links.sort_by(by_height);
    drop_copies(links);
    if let [best, others @ ..] = &links[..]
        && others.iter().any(|other| best.rivals(other) && other.height() > RIVAL * best.height())
    {
        // Patterns show some of the bars of a loop: the waves show which of all is the one.
        let more = other_repeats(clips, best, tools);
        links.extend(more);
        links.sort_by(by_height);
        drop_copies(links);
        let_rivals_fight(clips, links, tools);
        links.sort_by(by_height);
    }
}

/// References longer than this are not searched by their waves for repeats, seconds.
const SEARCHED_S: f64 = 7_200.0;

/// Other positions of a link's clip at which the waves agree most.
fn other_repeats(clips: &[DayClip], link: &Link, tools: &mut Tools) -> Vec<Link> {
    let (own, there) = sounds_of(clips, link);
    if there.duration_s() > SEARCHED_S {
        return vec![];
    }
    let search = WaveSearch::anywhere(there, own).lightly();
    let places = search_waves(there, own, &search, &|| false);
    let mut links = vec![];
    for found in places.into_iter().take(WAVE_PLACES) {
        let alignment = tools.aligner.align(there, own, None, found.start_s, Density::Probe);
        links.extend(
            alignment.filter(|alignment| alignment.log_odds > KEEP).map(|alignment| {
                closer(clips, Link { alignment, coarse: found.height, ..link.clone() }, tools)
            }),
        );
    }
    links
}

/// Positions of one passage that fit alike are compared window by window: music made of loops fits at every bar, but its
/// lead only at one.
fn let_rivals_fight(clips: &[DayClip], links: &mut [Link], tools: &mut Tools) {
    let mut best = 0;
    for i in 1..links.len() {
        let (one, other) = (&links[best], &links[i]);
        if one.sounds != other.sounds || !one.rivals(other) || other.height() < RIVAL * one.height() {
            continue;
        }
        let (a, b) = (one.alignment.part, other.alignment.part);
        let shared = Passage { from_s: a.from_s.max(b.from_s), to_s: a.to_s.min(b.to_s) };
        let (own, there) = sounds_of(clips, one);
        let sign = if one.alignment.inverted { -1.0 } else { 1.0 };
        let offsets: (OffsetAt, OffsetAt) =
            (&|clip_s| one.there_s(clip_s) - clip_s, &|clip_s| other.there_s(clip_s) - clip_s);
        match duel(&mut tools.aligner.narrow, (there, own), shared, offsets, sign) {
            Winner::One => links[i].alignment.beaten(),
            Winner::Other => {
                links[best].alignment.beaten();
                best = i;
            }
            Winner::Neither => {}
        }
    }
}

/// Measures a link with windows all along a long clip, and looks for the parts that lie elsewhere.
fn all_along(clips: &[DayClip], link: &mut Link, tools: &mut Tools) {
    let (own, there) = sounds_of(clips, link);
    let part = link.alignment.part;
    if part.to_s - part.from_s > LONG_S
        && let Some(whole) = tools.aligner.closely(there, own, &link.alignment, Density::Whole)
        && whole.log_odds > link.alignment.log_odds.min(KEEP)
    {
        link.alignment = whole;
    }
    find_lost_parts((there, own), &mut link.alignment, tools);
    settle_repeats((there, own), &mut link.alignment, tools);
    settle_moves((there, own), &mut link.alignment, tools);
}

/// Everything that fits `clip` with its start within `within_s` of `expected_s` of the other clip's time, best first.
pub(crate) fn examine_near(
    clips: &[DayClip],
    clip: usize,
    against: usize,
    expected_s: f64,
    within_s: f64,
    tools: &mut Tools,
) -> Vec<Link> {
    // What all channels heard together first, as a whole day does; then each by itself.
    let together = examine_near_by(clips, clip, against, (expected_s, within_s), 1, tools);
    if !together.is_empty() {
        return together;
    }
    examine_near_by(clips, clip, against, (expected_s, within_s), usize::MAX, tools)
}

/// The same by the first `most` sounds of each clip.
fn examine_near_by(
    clips: &[DayClip],
    clip: usize,
    against: usize,
    (expected_s, within_s): (f64, f64),
    most: usize,
    tools: &mut Tools,
) -> Vec<Link> {
    let mut places = vec![];
    for (mine, own) in clips[clip].sounds.iter().enumerate().take(most) {
        for (theirs, there) in clips[against].sounds.iter().enumerate().take(most) {
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
    let mut links = examine(clips, clip, &places, Effort::Deep, tools);
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
            let search = WaveSearch::anywhere(there, own);
            for found in search_waves(there, own, &search, stopped).into_iter().take(WAVE_PLACES) {
                let place = Coarse {
                    against: (anchor, theirs),
                    sound: mine,
                    start_s: found.start_s,
                    score: found.height,
                };
                let alignment = tools.aligner.align(there, own, None, place.start_s, Density::Deep);
                let near = |link: &Link| (link.there_s(0.0) - place.start_s).abs() < SAME_WAVES_S;
                links.extend(
                    alignment
                        .filter(|alignment| alignment.log_odds > KEEP)
                        .map(|alignment| closer(clips, place.link(clip, alignment), tools))
                        .filter(near),
                );
            }
        }
    }
    rank(clips, &mut links, tools);
    in_clip_time(clips, links)
}

/// Measured closely, a place by waves stays where it was: half a minute's drift away, seconds.
const SAME_WAVES_S: f64 = 0.05;
/// A pattern that fits at another speed only where its score is above this: seven speeds are tried, so seven times as
/// many places.
const STRETCHED: f32 = 10.0;

/// Measures `clip` at another speed than its label's against the places found for that speed. Where no waves agree, its
/// pattern may still do: of a track that was stretched with its pitch kept, only that does.
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
        let sound = HeardSound { pattern, samples: &samples, ..*own };
        let there = &clips[place.against.0].sounds[place.against.1];
        let Some(rough) = tools.aligner.align(there, &sound, None, place.start_s, Density::Probe) else {
            continue;
        };
        if rough.log_odds > KEEP {
            let alignment = tools.aligner.closely(there, &sound, &rough, Density::Full).unwrap_or(rough);
            let link = place.link(clip, alignment);
            links.push(link.at_speed(speed));
            return links;
        }
    }
    if let [place, others @ ..] = places
        && place.score > STRETCHED
        && stands_alone(place, others)
    {
        let own = &clips[clip].sounds[place.sound];
        let samples = AtSpeed::new(own.samples, speed);
        let sound = HeardSound { pattern, samples: &samples, ..*own };
        let there = &clips[place.against.0].sounds[place.against.1];
        let alignment = by_pattern(there, &sound, place.start_s, place.score);
        links.extend(alignment.map(|alignment| place.link(clip, alignment).at_speed(speed)));
    }
    links
}

/// Whether no other place of the clip on the same sound is nearly as high.
fn stands_alone(place: &Coarse, others: &[Coarse]) -> bool {
    others.iter().all(|other| {
        other.score < ALONE * place.score
            || (other.start_s - place.start_s).abs() < 0.5
            || other.against.0 != place.against.0
    })
}

fn sounds<'a>(clips: &'a [DayClip], clip: usize, place: &Coarse) -> (&'a HeardSound<'a>, &'a HeardSound<'a>) {
    (&clips[clip].sounds[place.sound], &clips[place.against.0].sounds[place.against.1])
}

/// Measures a link over more windows.
fn closer(clips: &[DayClip], mut link: Link, tools: &mut Tools) -> Link {
    let (own, there) = sounds_of(clips, &link);
    if let Some(full) = tools.aligner.closely(there, own, &link.alignment, Density::Full)
        && full.log_odds > link.alignment.log_odds.min(KEEP)
    {
        link.alignment = full;
    }
    link
}

/// The sounds that a link compares: the clip's, and the other's.
fn sounds_of<'a>(clips: &'a [DayClip], link: &Link) -> (&'a HeardSound<'a>, &'a HeardSound<'a>) {
    (&clips[link.clip].sounds[link.sounds.0], &clips[link.against].sounds[link.sounds.1])
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
