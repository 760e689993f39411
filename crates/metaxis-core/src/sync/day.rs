//! A whole day: clips in, placements out.

use super::{
    Placement, ShownDistance, Stretch,
    adjust::adjust,
    clocks::{DeviceClock, fit},
    component::Island,
    ends::check_ends,
    examine::{examine, examine_at_speed, examine_near, examine_waves},
    graph::{Layout, RIVAL, overlap_s},
    input::{Arrival, DayClip, DayPlan, Flow, Mode, Search},
    link::{Link, SAME_PLACE_S, stretch_at},
    outcome::{Outcome, near_placement, placements},
    rates::{DeviceRate, learn, learn_by_box, lend},
    slates::pairs,
    speeds::speeds,
    sweep::{Coarse, Progress, Sought, sweep},
    timed::timed,
    tools::Tools,
};
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use thiserror::Error;

/// Why a day could not be placed at all.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum DayError {
    /// Nothing to take as reference.
    #[error("no clip has any sound to take as the reference")]
    NoReference,
    /// Stopped by the caller.
    #[error("stopped")]
    Stopped,
}

/// Placements in the order of the clips, and the reference clip that starts the axis.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct DayResult {
    /// Index of the clip that starts at zero.
    pub reference: usize,
    /// One a clip.
    pub placements: Vec<Placement>,
    /// What was learnt of the devices' crystals.
    pub rates: Vec<DeviceRate>,
    /// What was learnt of the devices' labels.
    #[serde(default)]
    pub clocks: Vec<DeviceClock>,
    /// Distances that slates show and nobody has given.
    #[serde(default)]
    pub distances: Vec<ShownDistance>,
    /// The components, and where each lies on the day: the axis's first.
    #[serde(default)]
    pub islands: Vec<Island>,
}

/// Which sounds of the clips are compared.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Sounds {
    /// What all channels heard together: the first round, which counts as progress.
    First,
    /// The same again, with other clips.
    FirstAgain,
    /// Every channel by itself too.
    Every,
}

impl Sounds {
    /// How many of a clip's sounds.
    fn of(self, all: usize) -> usize {
        match self {
            Self::First | Self::FirstAgain => all.min(1),
            Self::Every => all,
        }
    }
}

/// Log odds from which on a link leaves nothing open.
const SETTLED: f64 = 60.0;
/// Log odds from which on a link by waves spares the search over all lags.
const BELIEVED: f64 = 12.0;
/// Confirmations are looked for where the odds are lower than this.
const SURE: f64 = 100.0;
/// Shortest overlap that can confirm, seconds.
const CONFIRMING_S: f64 = 6.0;
/// Log odds below which a clip may as well fit at another speed.
const FOUND: f64 = 8.0;
/// A clip this short is not tried at other speeds, seconds.
const SPEED_S: f64 = 6.0;
/// A coarse score that makes another speed worth a look.
const SPEED_SCORE: f32 = 7.0;

/// Places every clip on the axis of the reference.
///
/// # Errors
/// [`DayError::NoReference`] where that device has no sound; [`DayError::Stopped`] when `flow` breaks.
pub fn place_day(clips: &[DayClip], plan: DayPlan, flow: &Flow) -> Result<DayResult, DayError> {
    let anchors: Vec<usize> =
        (0..clips.len()).filter(|&i| clips[i].device == plan.reference && clips[i].is_heard()).collect();
    let longest = || {
        anchors
            .iter()
            .copied()
            .max_by(|&a, &b| clips[a].duration_s.total_cmp(&clips[b].duration_s).then(b.cmp(&a)))
    };
    let origin = plan.origin.filter(|i| anchors.contains(i)).or_else(longest).ok_or(DayError::NoReference)?;
    let tied = if plan.mode == Mode::Day { ties(clips, &anchors, origin) } else { vec![] };
    let heard = clips.iter().filter(|clip| clip.is_heard()).count();
    let day = Day { clips, plan, origin, tied, progress: Progress::new(flow, heard) };
    match plan.mode {
        Mode::Day => day.place(&anchors),
        Mode::Playback => day.place_on_track(&anchors),
    }
}

/// The places of a clip near a rough one: against `against`, which has the place `there`, with the clip's start within
/// `within_s` of `start_s` on the axis. Everything is spent on it. Unplaced where nothing fits.
pub fn place_near(
    clips: &[DayClip],
    clip: usize,
    against: usize,
    there: &Placement,
    start_s: f64,
    within_s: f64,
) -> Placement {
    let (given, map) = (clips[clip].distance_of_picture(), there.heard_at());
    if map.is_empty() {
        return Placement::unplaced("The clip to lay it against has no place itself.");
    }
    let expected_s = axis_to_clip(&map, start_s - given.travel_s());
    let links = examine_near(clips, clip, against, expected_s, within_s, &mut Tools::default());
    let mut placement = near_placement(&links, there, &map, clips[clip].duration_s, within_s);
    placement.step_back(given);
    placement
}

struct Day<'a> {
    clips: &'a [DayClip<'a>],
    plan: DayPlan,
    origin: usize,
    tied: Vec<(usize, f64)>,
    progress: Progress<'a>,
}

impl Day<'_> {
    fn place(&self, anchors: &[usize]) -> Result<DayResult, DayError> {
        let clips = self.clips;
        let others: Vec<usize> =
            (0..clips.len()).filter(|i| clips[*i].is_heard() && !anchors.contains(i)).collect();
        let mut links = self.links(&others, anchors, &|_, _| false, Sounds::First)?;
        // What all channels together did not settle, one of them may.
        let unsettled: Vec<usize> = others.iter().copied().filter(|&clip| is_open(&links, clip)).collect();
        add_better(&mut links, self.links(&unsettled, anchors, &|_, _| false, Sounds::Every)?);
        // What the reference did not settle is compared with everything else.
        let open: Vec<usize> = others.iter().copied().filter(|&clip| is_open(&links, clip)).collect();
        let is_open_clip = |clip: usize| open.contains(&clip);
        let skip = |own: usize, other: usize| {
            clips[own].device == clips[other].device || (is_open_clip(other) && other <= own)
        };
        links.extend(self.links(&open, &others, &skip, Sounds::FirstAgain)?);
        if self.plan.search == Search::Deep {
            let found = self.links_by_waves(&links, &open, anchors)?;
            // What the waves say is worth more than what patterns alone do.
            links.retain(|link| link.alignment.fine || !found.iter().any(|other| other.clip == link.clip));
            links.extend(found);
        }
        let lost = lost(&links, &open);
        links.extend(self.links_at_other_speeds(&lost, anchors)?);

        let tied = &self.tied;
        let mut layout = Layout::new(clips, self.origin, tied);
        layout.join_all(clips, &links, self.origin, anchors, true);
        let confirming = self.confirm(&layout, &links)?;
        links.extend(confirming);
        let bases = layout.bases(clips, anchors);
        let is_fixed = |i: usize| {
            i == self.origin
                || bases.iter().any(|(_, base)| *base == i)
                || tied.iter().any(|(clip, _)| *clip == i)
        };
        let fixed: Vec<bool> = (0..clips.len()).map(is_fixed).collect();
        let same_clock: Vec<bool> = clips.iter().map(|clip| clip.device == self.plan.reference).collect();
        adjust(&mut layout, &links, &fixed, &same_clock);
        let open_ends = check_ends(clips, &mut layout, &mut links, &fixed, &|| self.progress.stopped());
        if self.progress.stopped() {
            return Err(DayError::Stopped);
        }
        let mut outcome = Outcome { bases, open_ends, ..self.outcome(tied, anchors, &links, layout) };
        let clocks = self.clocks(&outcome);
        outcome.timed = timed(clips, &clocks, &|clip| outcome.travel_s(clip));
        outcome.set_weak_apart();
        outcome.choose_by_labels();
        outcome.keep_order();
        let rates = self.lend_rates(&mut outcome);
        outcome.slates = pairs(clips);
        outcome.place_by_slates();
        outcome.place_by_labels(&rates);
        outcome.lay_islands(&clocks);
        let distances = outcome.shown_distances();
        let placements = placements(&mut outcome);
        let islands = outcome.islands_laid(&clocks);
        Ok(DayResult { reference: self.origin, placements, rates, clocks, distances, islands })
    }

    /// Every clip against the tracks alone: each track is an axis of its own, and a take belongs to the one it fits best.
    fn place_on_track(&self, tracks: &[usize]) -> Result<DayResult, DayError> {
        let clips = self.clips;
        let others: Vec<usize> =
            (0..clips.len()).filter(|i| clips[*i].is_heard() && !tracks.contains(i)).collect();
        let mut links = self.links(&others, tracks, &|_, _| false, Sounds::First)?;
        let unsettled: Vec<usize> = others.iter().copied().filter(|&clip| is_open(&links, clip)).collect();
        add_better(&mut links, self.links(&unsettled, tracks, &|_, _| false, Sounds::Every)?);
        let lost = lost(&links, &others);
        links.extend(self.links_at_other_speeds(&lost, tracks)?);
        let best = |clip: usize| {
            let own = links.iter().filter(|link| link.clip == clip);
            own.max_by(|a, b| a.height().total_cmp(&b.height())).map(|link| link.against)
        };
        let track: Vec<Option<usize>> = (0..clips.len()).map(best).collect();
        links.retain(|link| track[link.clip] == Some(link.against));
        let mut layout = Layout::new(clips, self.origin, &[]);
        layout.join_all(clips, &links, self.origin, tracks, false);
        let bases = layout.bases(clips, tracks);
        let mut outcome = Outcome { bases, ..self.outcome(&[], tracks, &links, layout) };
        outcome.slates = pairs(clips);
        outcome.place_by_slates();
        outcome.place_by_siblings();
        outcome.put_the_rest_behind();
        let placements = placements(&mut outcome);
        let islands = outcome.islands_laid(&[]);
        Ok(DayResult {
            reference: self.origin,
            placements,
            rates: vec![],
            clocks: vec![],
            distances: vec![],
            islands,
        })
    }

    fn outcome<'o>(
        &'o self,
        tied: &'o [(usize, f64)],
        anchors: &'o [usize],
        links: &'o [Link],
        layout: Layout,
    ) -> Outcome<'o> {
        let count = self.clips.len();
        Outcome {
            clips: self.clips,
            origin: self.origin,
            tied,
            anchors,
            links,
            layout,
            bases: vec![],
            lies: vec![],
            timed: vec![vec![]; count],
            decided: vec![None; count],
            laid: vec![None; count],
            ran_alone: vec![None; count],
            siblings: vec![None; count],
            outweighed: vec![None; count],
            slates: vec![vec![]; count],
            slated: vec![false; count],
            open_ends: vec![None; count],
        }
    }

    /// What the clips that sound is sure of say of their devices' labels.
    fn clocks(&self, outcome: &Outcome) -> Vec<DeviceClock> {
        let rates = self.rates(outcome);
        let placed = |clip: usize| {
            let there = outcome.layout.component[clip] == self.origin;
            let sure = outcome.is_axis(clip)
                || !outcome.is_ambiguous(clip)
                    && outcome.support(clip).first().is_some_and(|link| link.alignment.log_odds > SETTLED);
            // Labels are of the picture, which is earlier than its sound where that is far.
            (there && sure).then(|| outcome.layout.maps[clip][0].start_s + outcome.travel_s(clip))
        };
        fit(self.clips, self.origin, &placed, &rates)
    }

    /// Whether a clip lies on an axis that is the reference's clock.
    fn runs_by_reference(&self, outcome: &Outcome, clip: usize) -> bool {
        let component = outcome.layout.component[clip];
        outcome.anchors.iter().any(|&anchor| outcome.layout.component[anchor] == component)
    }

    fn rates(&self, outcome: &Outcome) -> Vec<DeviceRate> {
        let placed: Vec<Option<&[Stretch]>> = (0..self.clips.len())
            .map(|clip| self.runs_by_reference(outcome, clip).then_some(&outcome.layout.maps[clip][..]))
            .collect();
        let mut rates = learn(self.clips, &placed);
        learn_by_box(self.clips, self.plan.reference, &mut rates);
        rates
    }

    /// Links of the clips `own` to the clips `there` by some of their sounds.
    fn links(
        &self,
        own: &[usize],
        there: &[usize],
        skip: &(dyn Fn(usize, usize) -> bool + Sync),
        which: Sounds,
    ) -> Result<Vec<Link>, DayError> {
        let clips = self.clips;
        let count = |clip: usize| which.of(clips[clip].sounds.len());
        let has_more = there.iter().any(|&clip| count(clip) > 1);
        // One sound against one sound was looked at before.
        let own: Vec<usize> = own
            .iter()
            .copied()
            .filter(|&clip| which != Sounds::Every || has_more || count(clip) > 1)
            .collect();
        let searched: Vec<(usize, usize)> =
            there.iter().flat_map(|&clip| (0..count(clip)).map(move |sound| (clip, sound))).collect();
        let sought: Vec<Sought> = own
            .iter()
            .flat_map(|&clip| {
                let sounds = clips[clip].sounds[..count(clip)].iter().enumerate();
                sounds.map(move |(sound, heard)| Sought { clip, sound, pattern: heard.pattern })
            })
            .collect();
        let most = self.plan.search.places();
        let found = sweep(clips, &sought, &searched, most, skip, &self.progress).ok_or(DayError::Stopped)?;
        let links: Vec<Link> = own
            .par_iter()
            .map_init(
                || Tools::for_mode(self.plan.mode),
                |tools, &clip| {
                    if self.progress.stopped() {
                        return vec![];
                    }
                    let mut places: Vec<Coarse> = sought
                        .iter()
                        .zip(&found)
                        .filter(|(sought, _)| sought.clip == clip)
                        .flat_map(|(_, places)| places.iter().copied())
                        .collect();
                    places.sort_by(|a, b| b.score.total_cmp(&a.score));
                    let links = examine(clips, clip, &places, self.plan.search, tools);
                    if which == Sounds::First {
                        self.progress.step(links.first().and_then(|link| self.arrival(link)));
                    }
                    links
                },
            )
            .flatten()
            .collect();
        if self.progress.stopped() { Err(DayError::Stopped) } else { Ok(links) }
    }

    /// Where a link would put its clip on the axis, if it says so by itself.
    fn arrival(&self, link: &Link) -> Option<Arrival> {
        let base_s = if link.against == self.origin {
            0.0
        } else {
            self.tied.iter().find(|(clip, _)| *clip == link.against)?.1
        };
        let sure = link.alignment.log_odds > SETTLED;
        Some(Arrival { clip: link.clip, start_s: base_s + link.there_s(0.0), sure })
    }

    /// What patterns showed nowhere beyond doubt is looked for in the reference by its waves.
    fn links_by_waves(
        &self,
        links: &[Link],
        open: &[usize],
        anchors: &[usize],
    ) -> Result<Vec<Link>, DayError> {
        let believed = |clip: usize| {
            let own = |link: &&Link| link.clip == clip || link.against == clip;
            links.iter().filter(own).any(|link| link.alignment.fine && link.alignment.log_odds > BELIEVED)
        };
        let pairs: Vec<(usize, usize)> = open
            .iter()
            .filter(|clip| !believed(**clip))
            .flat_map(|&clip| anchors.iter().map(move |&anchor| (clip, anchor)))
            .collect();
        let found: Vec<Link> = pairs
            .par_iter()
            .map_init(Tools::default, |tools, &(clip, anchor)| {
                examine_waves(self.clips, clip, anchor, &|| self.progress.stopped(), tools)
            })
            .flatten()
            .collect();
        if self.progress.stopped() { Err(DayError::Stopped) } else { Ok(found) }
    }

    /// Clips found nowhere may carry the label of another rate, or were performed to a track that ran fast.
    fn links_at_other_speeds(&self, lost: &[usize], anchors: &[usize]) -> Result<Vec<Link>, DayError> {
        let clips = self.clips;
        let first: Vec<(usize, usize)> = anchors.iter().map(|&clip| (clip, 0)).collect();
        let mut links = vec![];
        for speed in speeds() {
            let patterns: Vec<(usize, crate::signal::Pattern)> = lost
                .iter()
                .filter(|&&clip| clips[clip].duration_s >= SPEED_S)
                .map(|&clip| (clip, clips[clip].sounds[0].pattern.at_speed(speed)))
                .collect();
            let sought: Vec<Sought> =
                patterns.iter().map(|(clip, pattern)| Sought { clip: *clip, sound: 0, pattern }).collect();
            let found =
                sweep(clips, &sought, &first, 4, &|_, _| false, &self.progress).ok_or(DayError::Stopped)?;
            let fresh: Vec<Link> = patterns
                .par_iter()
                .zip(found)
                .map_init(Tools::default, |tools, ((clip, pattern), places)| {
                    let good: Vec<Coarse> = places.into_iter().filter(|p| p.score > SPEED_SCORE).collect();
                    examine_at_speed(clips, *clip, &good, pattern, speed, tools)
                })
                .flatten()
                .collect();
            links.extend(fresh);
        }
        Ok(links)
    }

    /// Doubtful positions are checked against other clips that should have heard the same.
    fn confirm(&self, layout: &Layout, links: &[Link]) -> Result<Vec<Link>, DayError> {
        let clips = self.clips;
        let doubtful: Vec<usize> = (0..clips.len())
            .filter(|&clip| {
                let best = links
                    .iter()
                    .filter(|link| (link.clip == clip || link.against == clip) && layout.agrees(link))
                    .map(|link| link.alignment.log_odds)
                    .fold(f64::MIN, f64::max);
                best > f64::MIN && best < SURE
            })
            .collect();
        let found: Vec<Link> = doubtful
            .par_iter()
            .map_init(Tools::default, |tools, &clip| {
                let known = |other: usize| {
                    links.iter().any(|l| {
                        (l.clip == clip && l.against == other) || (l.clip == other && l.against == clip)
                    })
                };
                let mut partners: Vec<(f64, usize)> = (0..clips.len())
                    .filter(|&other| {
                        other != clip
                            && clips[other].is_heard()
                            && clips[other].device != clips[clip].device
                            && layout.component[other] == layout.component[clip]
                            && !known(other)
                    })
                    .map(|other| (overlap_s(&layout.maps[clip], &layout.maps[other]), other))
                    .filter(|(overlap, _)| *overlap > CONFIRMING_S)
                    .collect();
                partners.sort_by(|a, b| b.0.total_cmp(&a.0));
                partners.truncate(3);
                let mut links = vec![];
                for (_, other) in partners {
                    let (own, there) = (&layout.maps[clip], &layout.maps[other]);
                    let at = 0.5
                        * (own[0].start_s.max(there[0].start_s)
                            + own[own.len() - 1].end_s().min(there[there.len() - 1].end_s()));
                    let (mine, theirs) = (axis_to_clip(own, at), axis_to_clip(there, at));
                    let slope = (stretch_at(there, theirs).rate_ppm - stretch_at(own, mine).rate_ppm) * 1e-6;
                    let offset_s = theirs - mine - slope * mine;
                    let alignment =
                        tools.aligner.check(&clips[other].sounds[0], &clips[clip].sounds[0], offset_s, slope);
                    links.extend(alignment.filter(|alignment| alignment.log_odds > 6.0).map(|alignment| {
                        Link { against: other, clip, sounds: (0, 0), alignment, coarse: 0.0, speed: 1.0 }
                    }));
                }
                links
            })
            .flatten()
            .collect();
        if self.progress.stopped() { Err(DayError::Stopped) } else { Ok(found) }
    }

    fn lend_rates(&self, outcome: &mut Outcome) -> Vec<DeviceRate> {
        let rates = self.rates(outcome);
        for clip in 0..self.clips.len() {
            let device = self.clips[clip].device;
            if device == self.plan.reference || !self.runs_by_reference(outcome, clip) {
                continue;
            }
            if let Some(rate) = rates.iter().find(|rate| rate.device == device)
                && let Some(middle_s) = outcome.measured_middle_s(clip)
            {
                lend(&mut outcome.layout.maps[clip], rate, middle_s);
            }
        }
        rates
    }
}

fn axis_to_clip(map: &[Stretch], axis_s: f64) -> f64 {
    let stretch = map.iter().find(|stretch| axis_s < stretch.end_s()).unwrap_or(&map[map.len() - 1]);
    stretch.clip_s(axis_s)
}

/// Adds links by other channels of the same clips. Of one place the surer stays: two channels of a clip are not two
/// witnesses.
fn add_better(links: &mut Vec<Link>, more: Vec<Link>) {
    for fresh in more {
        let at = fresh.middle_s();
        let same = links.iter_mut().find(|link| {
            (link.clip, link.against) == (fresh.clip, fresh.against)
                && (link.there_s(at) - fresh.there_s(at)).abs() < SAME_PLACE_S
        });
        match same {
            Some(known) if known.height() < fresh.height() => *known = fresh,
            Some(_) => {}
            None => links.push(fresh),
        }
    }
}

/// Those of some clips that nothing beyond doubt links to any.
fn lost(links: &[Link], clips: &[usize]) -> Vec<usize> {
    let found = |clip: usize| {
        let own = links.iter().filter(|link| link.clip == clip || link.against == clip);
        own.map(|link| link.alignment.log_odds).fold(f64::MIN, f64::max) > FOUND
    };
    clips.iter().copied().filter(|&clip| !found(clip)).collect()
}

/// Whether the links of a clip leave its position open.
fn is_open(links: &[Link], clip: usize) -> bool {
    let own = || links.iter().filter(move |link| link.clip == clip);
    let Some(best) = own().max_by(|a, b| a.height().total_cmp(&b.height())) else { return true };
    best.alignment.log_odds < SETTLED
        || own().any(|other| other.rivals(best) && other.height() > RIVAL * best.height())
}

/// The reference's clips that its own time references tie to the origin, with their starts. Where they would lie over
/// one another the references mean nothing.
fn ties(clips: &[DayClip], anchors: &[usize], origin: usize) -> Vec<(usize, f64)> {
    let Some(zero) = clips[origin].time_reference_s else { return vec![] };
    let tied: Vec<(usize, f64)> = anchors
        .iter()
        .filter(|&&clip| clip != origin)
        .filter_map(|&clip| Some((clip, clips[clip].time_reference_s? - zero)))
        .collect();
    let mut extents: Vec<(f64, f64)> =
        tied.iter().map(|&(clip, start)| (start, start + clips[clip].duration_s)).collect();
    extents.push((0.0, clips[origin].duration_s));
    extents.sort_by(|a, b| a.0.total_cmp(&b.0));
    let overlapping = extents.windows(2).any(|pair| pair[0].1 > pair[1].0 + 0.1);
    if overlapping { vec![] } else { tied }
}
