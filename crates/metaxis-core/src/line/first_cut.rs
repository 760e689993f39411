//! A first cut from who speaks: the levels of the microphones that people wear, and the angles that show them.

use super::{LEVELS_PER_SECOND, pauses::told_by};
use crate::group::{AngleId, Group};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A microphone of a person.
#[derive(Debug, Clone, PartialEq)]
pub struct Microphone {
    /// Its levels along the group, dBFS, [`LEVELS_PER_SECOND`] a second.
    pub levels: Vec<f32>,
    /// The angles that show who wears it, the best first.
    pub angles: Vec<AngleId>,
}

/// How a first cut is made.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
#[serde(default)]
pub struct FirstCutHabit {
    /// No shot is shorter, seconds.
    pub least_s: f64,
    /// It cuts so long before the first word, seconds.
    pub lead_s: f64,
    /// Where nobody speaks for so long, all are shown, seconds.
    pub alone_s: f64,
    /// The angles that show all, the best first.
    pub wide: Vec<AngleId>,
}

impl Default for FirstCutHabit {
    fn default() -> Self {
        Self { least_s: 1.0, lead_s: 0.12, alone_s: 4.0, wide: vec![] }
    }
}

/// Why a shot is there.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(tag = "why", rename_all = "snake_case")]
pub enum Why {
    /// Somebody speaks.
    Speaks {
        /// Number of the microphone.
        microphone: usize,
    },
    /// Several speak at once.
    Several,
    /// Nobody speaks for long.
    Nobody,
    /// The angle before ended.
    Ended,
    /// A beat of the music, or its bar.
    OnBeat {
        /// Number of the cut.
        cut: usize,
    },
}

/// A shot of a first cut.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct Shot {
    /// Its first frame.
    #[ts(type = "number")]
    pub at: i64,
    /// What it shows.
    pub angle: AngleId,
    /// Why.
    #[serde(flatten)]
    pub why: Why,
}

/// Who speaks at a moment.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Voice {
    Nobody,
    One(usize),
    Several,
}

/// A voice is as loud as its mean power over so many levels.
const SMOOTH: usize = 15;
/// Two that are this near to how loud each is by itself speak both; what is further down is one heard in the other's microphone, dB.
const BOTH_DB: f32 = 5.0;
/// What is shorter is a breath, or a word thrown in, seconds.
const BREATH_S: f64 = 0.35;
/// A pause within what one says is shorter, seconds.
const PAUSE_S: f64 = 0.9;
/// Who speaks for so long is shown, seconds.
const TURN_S: f64 = 0.8;

/// Makes a first cut of what is shown of a group.
pub fn first_cut(group: &Group, microphones: &[Microphone], habit: &FirstCutHabit) -> Vec<Shot> {
    let rate = group.rate().as_f64();
    let frame = |step: usize, early_s: f64| {
        let at_s = step as f64 / LEVELS_PER_SECOND as f64 - early_s;
        ((at_s * rate).round() as i64).clamp(0, group.frames - 1)
    };
    let mut wanted: Vec<(i64, Why)> = vec![];
    let steps = |seconds: f64| (seconds * LEVELS_PER_SECOND as f64) as usize;
    for (voice, from, to) in turns(microphones) {
        match voice {
            Voice::One(microphone) if to - from >= steps(TURN_S) => {
                wanted.push((frame(from, habit.lead_s), Why::Speaks { microphone }));
            }
            Voice::Several if to - from >= steps(TURN_S) => {
                wanted.push((frame(from, habit.lead_s), Why::Several))
            }
            // A moment is left to what was said.
            Voice::Nobody if to - from >= steps(habit.alone_s) => {
                wanted.push((frame(from + steps(1.0), 0.0), Why::Nobody));
            }
            _ => {}
        }
    }
    if wanted.first().is_none_or(|(at, _)| *at > 0) {
        wanted.insert(0, (0, Why::Nobody));
    }
    let least = (habit.least_s * rate).round() as i64;
    long_enough(&mut wanted, least, group.frames);
    shots(group, &wanted, microphones, habit)
}

/// Leaves out what would be shown for too short a time: what was on before stays.
fn long_enough(wanted: &mut Vec<(i64, Why)>, least: i64, frames: i64) {
    let mut at = 1;
    while at < wanted.len() {
        let end = wanted.get(at + 1).map_or(frames, |next| next.0);
        if wanted[at].1 == wanted[at - 1].1 || end - wanted[at].0 < least {
            wanted.remove(at);
        } else {
            at += 1;
        }
    }
    // The first one, too, where something follows.
    if wanted.len() > 1 && wanted[1].0 < least {
        wanted.remove(0);
        wanted[0].0 = 0;
    }
}

/// Which angle shows what is wanted, shot by shot: none that does not run.
fn shots(
    group: &Group,
    wanted: &[(i64, Why)],
    microphones: &[Microphone],
    habit: &FirstCutHabit,
) -> Vec<Shot> {
    let mut shots: Vec<Shot> = vec![];
    let mut put = |at: i64, angle: AngleId, why: Why| {
        if shots.last().is_none_or(|last| last.angle != angle) {
            shots.push(Shot { at, angle, why });
        }
    };
    for (number, &(from, why)) in wanted.iter().enumerate() {
        let to = wanted.get(number + 1).map_or(group.frames, |next| next.0);
        let of_voice: &[AngleId] = match why {
            Why::Speaks { microphone } => &microphones[microphone].angles,
            _ => &[],
        };
        let mut at = from;
        while at < to {
            // Who is wanted, else all, else whoever runs; of several the first that runs to the end, else the longest.
            let seen = group.seen().map(|angle| angle.id).collect::<Vec<_>>();
            let choices = [of_voice, &habit.wide, &seen];
            let best = choices.iter().find_map(|own| {
                let runs = own.iter().filter_map(|id| Some((*id, until(group, *id, at)?.min(to))));
                runs.rev().max_by_key(|(_, end)| *end)
            });
            let Some((angle, end)) = best else {
                // Nobody runs: what was on stays until somebody does.
                at += 1;
                continue;
            };
            put(at, angle, if at == from { why } else { Why::Ended });
            at = end;
        }
    }
    if shots.is_empty() {
        shots.extend(group.seen().next().map(|angle| Shot { at: 0, angle: angle.id, why: Why::Nobody }));
    }
    if let Some(first) = shots.first_mut() {
        first.at = 0;
    }
    shots
}

/// Up to which frame an angle runs that runs at `frame`, files that follow each other taken together.
pub(super) fn until(group: &Group, angle: AngleId, frame: i64) -> Option<i64> {
    let parts = &group.angle(angle)?.parts;
    let first = parts.iter().position(|part| (part.from_frame..part.to_frame).contains(&frame))?;
    let mut end = parts[first].to_frame;
    for part in &parts[first + 1..] {
        if part.from_frame != end {
            break;
        }
        end = part.to_frame;
    }
    Some(end)
}

/// Who speaks from which level up to which, in order and without a hole; breaths and pauses within what one says are none.
fn turns(microphones: &[Microphone]) -> Vec<(Voice, usize, usize)> {
    let heard: Vec<Vec<f32>> = microphones.iter().map(|own| smoothed(&own.levels)).collect();
    let steps = heard.iter().map(Vec::len).max().unwrap_or(0);
    // How loud each is when its own wearer speaks, and what tells that from the room.
    let known: Vec<(f32, f32)> = heard.iter().map(|own| (loud(own), told_by(own))).collect();
    let voice = |step: usize| {
        let mut speaking: Vec<(usize, f32)> = heard
            .iter()
            .zip(&known)
            .enumerate()
            .filter_map(|(number, (own, (loud, threshold)))| {
                let level = own.get(step).copied()?;
                (level >= *threshold).then_some((number, level - loud))
            })
            .collect();
        speaking.sort_by(|a, b| b.1.total_cmp(&a.1));
        match speaking.as_slice() {
            [] => Voice::Nobody,
            [(_, first), (_, second), ..] if *second > -12.0 && first - second < BOTH_DB => Voice::Several,
            [(number, _), ..] => Voice::One(*number),
        }
    };
    let mut runs: Vec<(Voice, usize, usize)> = vec![];
    for step in 0..steps {
        push(&mut runs, (voice(step), step, step + 1));
    }
    let steps = |seconds: f64| (seconds * LEVELS_PER_SECOND as f64) as usize;
    // Two voices for a moment are a change from one to the other.
    runs = without(runs, |(voice, from, to)| voice != Voice::Nobody && to - from < steps(BREATH_S));
    let mut joined: Vec<(Voice, usize, usize)> = vec![];
    for (number, run) in runs.iter().enumerate() {
        let is_pause = run.0 == Voice::Nobody
            && run.2 - run.1 < steps(PAUSE_S)
            && number > 0
            && runs.get(number + 1).is_some_and(|next| next.0 == runs[number - 1].0);
        push(&mut joined, (if is_pause { runs[number - 1].0 } else { run.0 }, run.1, run.2));
    }
    joined
}

/// The runs without some of them, whose time goes to nobody where nobody is beside, else to the one before.
fn without(
    runs: Vec<(Voice, usize, usize)>,
    is_short: impl Fn((Voice, usize, usize)) -> bool,
) -> Vec<(Voice, usize, usize)> {
    let mut left: Vec<(Voice, usize, usize)> = vec![];
    for (number, run) in runs.iter().enumerate() {
        let beside = |own: Option<&(Voice, usize, usize)>| own.is_some_and(|own| own.0 == Voice::Nobody);
        let voice = match left.last() {
            _ if !is_short(*run) => run.0,
            Some(last) if !beside(runs.get(number + 1)) || last.0 == Voice::Nobody => last.0,
            _ => Voice::Nobody,
        };
        push(&mut left, (voice, run.1, run.2));
    }
    left
}

fn push(runs: &mut Vec<(Voice, usize, usize)>, run: (Voice, usize, usize)) {
    match runs.last_mut() {
        Some(last) if last.0 == run.0 => last.2 = run.2,
        _ => runs.push(run),
    }
}

/// Levels by their mean power about each.
fn smoothed(levels: &[f32]) -> Vec<f32> {
    let power: Vec<f64> = levels.iter().map(|own| 10.0_f64.powf(f64::from(*own) / 10.0)).collect();
    let mut sums = vec![0.0; power.len() + 1];
    for (at, own) in power.iter().enumerate() {
        sums[at + 1] = sums[at] + own;
    }
    let half = SMOOTH / 2;
    let mean = |at: usize| {
        let (from, to) = (at.saturating_sub(half), (at + half + 1).min(power.len()));
        (sums[to] - sums[from]) / (to - from) as f64
    };
    (0..power.len()).map(|at| 10.0 * mean(at).max(1e-12).log10() as f32).collect()
}

/// How loud a microphone is when its own wearer speaks: what one level in thirty exceeds.
fn loud(levels: &[f32]) -> f32 {
    let mut sorted = levels.to_vec();
    sorted.sort_by(f32::total_cmp);
    sorted.get(sorted.len().saturating_sub(1) * 29 / 30).copied().unwrap_or(0.0)
}
