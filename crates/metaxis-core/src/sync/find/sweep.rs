//! The coarse search of many clips in many others: spectra are made once for each, within a limit of memory.

use super::link::Link;
use crate::{
    signal::{Correlator, PATTERN_RATE, Pattern, Spectra},
    sync::{
        input::{DayClip, Progress},
        pair::Alignment,
    },
};
use rayon::prelude::*;

/// A place worth a closer look.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Coarse {
    /// The clip it lies in, and which of its sounds.
    pub against: (usize, usize),
    /// Which sound of the clip that is placed.
    pub sound: usize,
    /// Start on the other clip's own time, seconds.
    pub start_s: f64,
    /// Height in standard deviations.
    pub score: f32,
}

impl Coarse {
    /// What was measured for `clip` at this place.
    pub fn link(&self, clip: usize, alignment: Alignment) -> Link {
        Link {
            against: self.against.0,
            clip,
            sounds: (self.sound, self.against.1),
            alignment,
            coarse: self.score,
            speed: 1.0,
        }
    }
}

/// A pattern that is looked for.
pub(super) struct Sought<'a> {
    pub clip: usize,
    pub sound: usize,
    pub pattern: &'a Pattern,
}

/// Spectra kept at once, bytes.
const HELD: usize = 192 << 20;
/// Shortest overlap looked at, seconds.
const MIN_OVERLAP_S: f64 = 2.5;
/// Two places of a pair are at least this far apart, seconds.
const APART_S: f64 = 0.3;

/// The best `most` places of each of `sought` in the sounds `searched` (clip and number), best first; pairs for which
/// `skip(sought clip, searched clip)` holds are left out. `None` where `flow` breaks.
pub(super) fn sweep(
    clips: &[DayClip],
    sought: &[Sought],
    searched: &[(usize, usize)],
    most: usize,
    skip: &(dyn Fn(usize, usize) -> bool + Sync),
    progress: &Progress,
) -> Option<Vec<Vec<Coarse>>> {
    let mut found: Vec<Vec<Coarse>> = sought.iter().map(|_| vec![]).collect();
    let typical = sought.iter().map(|own| own.pattern.len()).sum::<usize>() / sought.len().max(1);
    let tools = || Correlator::for_frames(typical);
    let groups = groups(clips, searched, &tools());
    for group in &groups {
        let spectra: Vec<Spectra> = group
            .par_iter()
            .map_init(tools, |correlator, &(clip, sound)| {
                correlator.searched(clips[clip].sounds[sound].pattern)
            })
            .collect();
        let fresh: Vec<Vec<Coarse>> = sought
            .par_iter()
            .map_init(tools, |correlator, own| {
                let mut all = vec![];
                if progress.stopped() {
                    return all;
                }
                let mine = correlator.sought(own.pattern);
                for (&against, there) in group.iter().zip(&spectra) {
                    if skip(own.clip, against.0) {
                        continue;
                    }
                    let matches =
                        correlator.search(there, &mine, frames(MIN_OVERLAP_S), frames(APART_S), most);
                    all.extend(matches.into_iter().map(|m| Coarse {
                        against,
                        sound: own.sound,
                        start_s: m.lag_frames as f64 / f64::from(PATTERN_RATE),
                        score: m.score,
                    }));
                }
                all
            })
            .collect();
        for (all, fresh) in found.iter_mut().zip(fresh) {
            all.extend(fresh);
            all.sort_by(|a, b| b.score.total_cmp(&a.score));
            all.truncate(most.max(3) * 2);
        }
    }
    (!progress.stopped()).then_some(found)
}

fn groups(clips: &[DayClip], sounds: &[(usize, usize)], tools: &Correlator) -> Vec<Vec<(usize, usize)>> {
    let mut groups: Vec<Vec<(usize, usize)>> = vec![];
    let mut bytes = usize::MAX;
    for &(clip, sound) in sounds {
        let own = tools.bytes_of(clips[clip].sounds[sound].pattern.len());
        if bytes.saturating_add(own) > HELD {
            groups.push(vec![]);
            bytes = 0;
        }
        bytes += own;
        if let Some(group) = groups.last_mut() {
            group.push((clip, sound));
        }
    }
    groups
}

fn frames(seconds: f64) -> usize {
    (seconds * f64::from(PATTERN_RATE)) as usize
}
