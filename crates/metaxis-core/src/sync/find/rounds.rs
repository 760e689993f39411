//! The rounds in which the clips of a day are looked for: in the reference by what all channels heard, by each channel, in
//! each other, by their waves, and at other speeds.

use super::{
    examine::{examine, examine_at_speed, examine_waves},
    link::{Link, RIVAL, SAME_PLACE_S},
    speeds::speeds,
    sweep::{Coarse, Sought, sweep},
    tools::Tools,
};
use crate::sync::input::{Arrival, Axis, DayClip, DayPlan, Effort, Flow, Mode, Progress, Stopped};
use rayon::prelude::*;

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
pub(crate) const SETTLED: f64 = 60.0;
/// Log odds from which on a link by waves spares the search over all lags.
const BELIEVED: f64 = 12.0;
/// Log odds below which a clip may as well fit at another speed.
const FOUND: f64 = 8.0;
/// A clip this short is not tried at other speeds, seconds.
const SPEED_S: f64 = 6.0;
/// A coarse score that makes another speed worth a look.
const SPEED_SCORE: f32 = 7.0;

/// Looks for every clip of a day.
pub(crate) struct Finder<'a> {
    pub clips: &'a [DayClip<'a>],
    pub axis: &'a Axis,
    pub mode: Mode,
    pub effort: Effort,
    pub progress: Progress<'a>,
}

impl<'a> Finder<'a> {
    /// For the clips of a plan; `flow` is told of each that is done.
    pub fn new(clips: &'a [DayClip<'a>], axis: &'a Axis, plan: &DayPlan, flow: &'a Flow<'a>) -> Self {
        let heard = clips.iter().filter(|clip| clip.is_heard()).count();
        Self { clips, axis, mode: plan.mode, effort: plan.effort, progress: Progress::new(flow, heard) }
    }

    /// Everything that any two clips have in common.
    pub fn all_links(&self) -> Result<Vec<Link>, Stopped> {
        let anchors = &self.axis.anchors;
        let others: Vec<usize> = (0..self.clips.len())
            .filter(|clip| self.clips[*clip].is_heard() && !anchors.contains(clip))
            .collect();
        let mut links = self.links(&others, anchors, &|_, _| false, Sounds::First)?;
        // What all channels together did not settle, one of them may.
        let open = still_open(&links, &others);
        add_better(&mut links, self.links(&open, anchors, &|_, _| false, Sounds::Every)?);
        match self.mode {
            Mode::Day => self.among_the_rest(&others, links),
            Mode::Playback => self.on_one_track_each(&others, links),
        }
    }

    /// What the reference did not settle is compared with everything else.
    fn among_the_rest(&self, others: &[usize], mut links: Vec<Link>) -> Result<Vec<Link>, Stopped> {
        let (clips, anchors) = (self.clips, &self.axis.anchors);
        let open = still_open(&links, others);
        let skip = |own: usize, other: usize| {
            clips[own].device == clips[other].device || (open.contains(&other) && other <= own)
        };
        links.extend(self.links(&open, others, &skip, Sounds::FirstAgain)?);
        if self.effort == Effort::Deep {
            let found = self.links_by_waves(&links, &open, anchors)?;
            // What the waves say is worth more than what patterns alone do.
            links.retain(|link| link.alignment.fine || !found.iter().any(|other| other.clip == link.clip));
            links.extend(found);
        }
        links.extend(self.links_at_other_speeds(&lost(&links, &open), anchors)?);
        Ok(links)
    }

    /// A take belongs to the one track that it fits best.
    fn on_one_track_each(&self, others: &[usize], mut links: Vec<Link>) -> Result<Vec<Link>, Stopped> {
        links.extend(self.links_at_other_speeds(&lost(&links, others), &self.axis.anchors)?);
        let best = |clip: usize| {
            let own = links.iter().filter(|link| link.clip == clip);
            own.max_by(|a, b| a.height().total_cmp(&b.height())).map(|link| link.against)
        };
        let track: Vec<Option<usize>> = (0..self.clips.len()).map(best).collect();
        links.retain(|link| track[link.clip] == Some(link.against));
        Ok(links)
    }

    /// Links of the clips `own` to the clips `there` by some of their sounds.
    fn links(
        &self,
        own: &[usize],
        there: &[usize],
        skip: &(dyn Fn(usize, usize) -> bool + Sync),
        which: Sounds,
    ) -> Result<Vec<Link>, Stopped> {
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
        let most = self.effort.places();
        let found = sweep(clips, &sought, &searched, most, skip, &self.progress).ok_or(Stopped)?;
        let links: Vec<Link> = own
            .par_iter()
            .map_init(
                || Tools::for_mode(self.mode),
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
                    let links = examine(clips, clip, &places, self.effort, tools);
                    if which == Sounds::First {
                        self.progress.step(links.first().and_then(|link| self.arrival(link)));
                    }
                    links
                },
            )
            .flatten()
            .collect();
        self.progress.unless_stopped(links)
    }

    /// Where a link would put its clip on the axis, if it says so by itself.
    fn arrival(&self, link: &Link) -> Option<Arrival> {
        let base_s = self.axis.start_s(link.against)?;
        let sure = link.alignment.log_odds > SETTLED;
        Some(Arrival { clip: link.clip, start_s: base_s + link.there_s(0.0), sure })
    }

    /// What patterns showed nowhere beyond doubt is looked for in the reference by its waves.
    fn links_by_waves(
        &self,
        links: &[Link],
        open: &[usize],
        anchors: &[usize],
    ) -> Result<Vec<Link>, Stopped> {
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
        self.progress.unless_stopped(found)
    }

    /// Clips found nowhere may carry the label of another rate, or were performed to a track that ran fast.
    fn links_at_other_speeds(&self, lost: &[usize], anchors: &[usize]) -> Result<Vec<Link>, Stopped> {
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
            let found = sweep(clips, &sought, &first, 4, &|_, _| false, &self.progress).ok_or(Stopped)?;
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

/// Those of some clips whose links leave their position open.
fn still_open(links: &[Link], clips: &[usize]) -> Vec<usize> {
    clips.iter().copied().filter(|&clip| is_open(links, clip)).collect()
}

/// Whether the links of a clip leave its position open.
fn is_open(links: &[Link], clip: usize) -> bool {
    let own = || links.iter().filter(move |link| link.clip == clip);
    let Some(best) = own().max_by(|a, b| a.height().total_cmp(&b.height())) else { return true };
    best.alignment.log_odds < SETTLED
        || own().any(|other| other.rivals(best) && other.height() > RIVAL * best.height())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sync::trial::{PLAN, Sound};
    use rand::{Rng, SeedableRng};
    use rand_chacha::ChaCha8Rng;
    use std::ops::ControlFlow;

    /// Knocks, none like another.
    fn knocks(seconds: usize, seed: u64) -> Vec<f32> {
        let mut chance = ChaCha8Rng::seed_from_u64(seed);
        let (mut level, mut low) = (0.0_f32, 0.0);
        (0..seconds * 16_000)
            .map(|_| {
                if chance.random::<f32>() > 0.9998 {
                    level = 0.2 + 0.8 * chance.random::<f32>();
                }
                level *= 0.9995;
                low += 0.5 * (level * (chance.random::<f32>() - 0.5) - low);
                low
            })
            .collect()
    }

    #[test]
    fn a_link_says_where_one_clip_lies_in_another_and_strangers_have_none() {
        let scene = knocks(40, 1);
        let sounds = [scene.clone(), scene[200_000..400_000].to_vec(), knocks(12, 2)].map(Sound::of);
        let clips = [sounds[0].clip(0, 40.0), sounds[1].clip(1, 12.5), sounds[2].clip(2, 12.0)];
        let axis = Axis::of(&clips, &PLAN).expect("an axis");
        let flow = |_| ControlFlow::Continue(());
        let links = Finder::new(&clips, &axis, &PLAN, &flow).all_links().expect("links");
        let sure: Vec<&Link> = links.iter().filter(|link| link.alignment.log_odds > SETTLED).collect();
        let [only] = &sure[..] else { panic!("{links:?}") };
        assert_eq!((only.clip, only.against), (1, 0));
        assert!((only.there_s(0.0) - 12.5).abs() < 1e-4, "{}", only.there_s(0.0));
        assert!(links.iter().all(|link| link.clip != 2 || link.alignment.log_odds < SETTLED));
    }

    #[test]
    fn it_stops_when_it_is_told_to() {
        let sound = Sound::of(knocks(12, 3));
        let clips = [sound.clip(0, 12.0), sound.clip(1, 12.0), sound.clip(2, 12.0)];
        let axis = Axis::of(&clips, &PLAN).expect("an axis");
        let flow = |_| ControlFlow::Break(());
        assert!(Finder::new(&clips, &axis, &PLAN, &flow).all_links().is_err());
    }
}
