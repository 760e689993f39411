//! Quiet passages: where nobody speaks for long, judged on one sound.

use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Levels a second that are judged.
pub const LEVELS_PER_SECOND: usize = 100;

/// What counts as a quiet passage.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, TS)]
#[serde(default)]
pub struct QuietHabit {
    /// What is softer is quiet, dBFS; found by itself unless given.
    pub threshold_db: Option<f32>,
    /// The shortest passage that is taken out, seconds.
    pub least_s: f64,
    /// What is left of the quiet behind a word, seconds.
    pub after_s: f64,
    /// What is left of it before the next, seconds.
    pub before_s: f64,
}

impl Default for QuietHabit {
    fn default() -> Self {
        Self { threshold_db: None, least_s: 0.6, after_s: 0.2, before_s: 0.2 }
    }
}

/// Quiet passages of a sound.
#[derive(Debug, Clone, PartialEq)]
pub struct QuietFound {
    /// What they were told by, dBFS.
    pub threshold_db: f32,
    /// From which level up to which, in order, without the handles.
    pub passages: Vec<(usize, usize)>,
}

/// Quiet that is shorter lies within a word, or between two of a sentence, seconds.
const WITHIN_WORDS_S: f64 = 0.25;
/// A sound that is shorter is no word: a click, seconds.
const CLICK_S: f64 = 0.03;
/// A word begins and dies away so much softer than it is told by, dB,
const SOFT_DB: f32 = 8.0;
/// but louder than what is nearly always there by this, dB: that goes up and down by itself.
const ABOVE_ROOM_DB: f32 = 4.0;
/// Nothing is softer, dBFS.
const FLOOR_DB: f32 = -90.0;

/// Words are louder than what is between them by this at least, dB.
const APART_DB: f32 = 9.0;
/// A room is softer, dBFS.
const ROOM_DB: f32 = -50.0;

/// What divides words from what is heard between them, dBFS: a third of the way from what is nearly always there to what is seldom
/// exceeded, well above the one and below the other.
pub(super) fn told_by(levels: &[f32]) -> f32 {
    room_and_speech(levels).map_or(FLOOR_DB, dividing)
}

fn dividing((noise, speech): (f32, f32)) -> f32 {
    // Always the same: a room in which nobody speaks, or something that never pauses.
    if speech - noise < APART_DB {
        return if speech < ROOM_DB { speech + 3.0 } else { noise - 3.0 };
    }
    (noise + ((speech - noise) * 0.35).max(6.0)).min(speech - 3.0)
}

/// What is nearly always there, and what is seldom exceeded, dBFS; `None` of silence.
fn room_and_speech(levels: &[f32]) -> Option<(f32, f32)> {
    let mut sorted: Vec<f32> = levels.iter().copied().filter(|own| *own > FLOOR_DB).collect();
    sorted.sort_by(f32::total_cmp);
    let at = |share: f64| sorted.get((sorted.len().saturating_sub(1) as f64 * share) as usize).copied();
    at(0.1).zip(at(0.95))
}

/// The quiet passages of a sound whose levels, dBFS, are given [`LEVELS_PER_SECOND`] times a second; never within a word.
///
/// ```
/// use metaxis_core::line::{QuietHabit, quiet_passages};
///
/// // A second of speech, two of room, and a second of speech.
/// let levels: Vec<f32> = (0..400).map(|at| if (100..300).contains(&at) { -58.0 } else { -24.0 }).collect();
/// let found = quiet_passages(&levels, &QuietHabit::default());
/// assert_eq!(found.passages, [(120, 280)]);
/// ```
pub fn quiet_passages(levels: &[f32], habit: &QuietHabit) -> QuietFound {
    let known = room_and_speech(levels);
    let threshold_db = habit.threshold_db.unwrap_or_else(|| known.map_or(FLOOR_DB, dividing));
    let soft_db = (threshold_db - SOFT_DB).max(known.map_or(FLOOR_DB, |(room, _)| room + ABOVE_ROOM_DB));
    let steps = |seconds: f64| (seconds.max(0.0) * LEVELS_PER_SECOND as f64).round() as usize;
    let words = words(levels, threshold_db, soft_db.min(threshold_db));
    let mut passages = vec![];
    let ends = words.iter().map(|own| own.1 + steps(habit.after_s));
    let begins = words.iter().map(|own| own.0.saturating_sub(steps(habit.before_s)));
    // At the head and the tail there is no word to leave anything of.
    for (from, to) in [0].into_iter().chain(ends).zip(begins.chain([levels.len()])) {
        let to = to.min(levels.len());
        if from < to && to - from >= steps(habit.least_s).max(1) {
            passages.push((from, to));
        }
    }
    QuietFound { threshold_db, passages }
}

/// From where to where words are heard: what is loud, with what is soft about it, and what is quiet for a moment only.
fn words(levels: &[f32], threshold_db: f32, soft_db: f32) -> Vec<(usize, usize)> {
    let steps = |seconds: f64| (seconds * LEVELS_PER_SECOND as f64).round() as usize;
    let mut loud: Vec<(usize, usize)> = vec![];
    for (at, _) in levels.iter().enumerate().filter(|(_, own)| **own >= threshold_db) {
        match loud.last_mut() {
            Some((_, end)) if at <= *end + steps(CLICK_S) => *end = at + 1,
            _ => loud.push((at, at + 1)),
        }
    }
    loud.retain(|(from, to)| to - from >= steps(CLICK_S));
    let is_soft = |at: usize| levels[at] >= soft_db;
    let mut words: Vec<(usize, usize)> = vec![];
    for (mut from, mut to) in loud {
        while from > 0 && is_soft(from - 1) {
            from -= 1;
        }
        while to < levels.len() && is_soft(to) {
            to += 1;
        }
        match words.last_mut() {
            Some((_, end)) if from <= *end + steps(WITHIN_WORDS_S) => *end = to.max(*end),
            _ => words.push((from, to)),
        }
    }
    words
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Talk: words with a soft onset and pauses within, between them what the room does. Its levels, and where words are.
    fn talk(words: &[(f64, f64, f64)], noise_db: f32, seed: u64) -> (Vec<f32>, Vec<(usize, usize)>) {
        let mut state = seed | 1;
        let mut random = move || {
            state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            (state >> 40) as f32 / 16_777_216.0 - 0.5
        };
        let (mut levels, mut truth) = (vec![], vec![]);
        for &(pause_s, length_s, loud_db) in words {
            let steps = |seconds: f64| (seconds * 100.0) as usize;
            levels.extend((0..steps(pause_s)).map(|_| noise_db + 4.0 * random()));
            let (from, length) = (levels.len(), steps(length_s));
            for at in 0..length {
                // It begins softly, and has a stop in its middle.
                let own = match at {
                    _ if at < 5 => loud_db as f32 - 12.0,
                    _ if at > 12 && (at / 6) % 4 == 2 => noise_db,
                    _ => loud_db as f32,
                };
                levels.push(own + 3.0 * random());
            }
            truth.push((from, levels.len()));
        }
        levels.extend((0..150).map(|_| noise_db + 4.0 * random()));
        (levels, truth)
    }

    proptest! {
        #[test]
        fn no_word_is_touched_and_long_pauses_are_found(
            words in prop::collection::vec((0.1..4.0_f64, 0.25..1.2_f64, -30.0..-16.0_f64), 6..40),
            noise in -62.0..-52.0_f32,
            seed in any::<u64>(),
        ) {
            let (levels, truth) = talk(&words, noise, seed);
            let habit = QuietHabit::default();
            let found = quiet_passages(&levels, &habit);
            for (from, to) in &found.passages {
                for (begin, end) in &truth {
                    prop_assert!(to <= begin || from >= end, "{:?} within a word {:?}", (from, to), (begin, end));
                }
                prop_assert!(to - from >= 60);
            }
            // A pause that leaves a second once its handles are off.
            for pair in truth.windows(2).filter(|pair| pair[1].0 - pair[0].1 >= 140) {
                let (from, to) = (pair[0].1, pair[1].0);
                let taken = found.passages.iter().find(|own| from <= own.0 && own.1 <= to);
                let (begin, end) = taken.copied().unwrap_or_default();
                prop_assert!(end - begin + 45 >= to - from, "{:?} of {:?}", taken, (from, to));
            }
            // Handles are kept, and a threshold that is given is taken.
            let wide = quiet_passages(&levels, &QuietHabit { after_s: 0.5, before_s: 0.5, ..habit });
            prop_assert!(wide.passages.len() <= found.passages.len());
            let given = QuietHabit { threshold_db: Some(-100.0), ..habit };
            prop_assert_eq!(quiet_passages(&levels, &given).passages, vec![]);
        }
    }

    #[test]
    fn silence_is_quiet_and_nothing_is_none() {
        assert_eq!(quiet_passages(&[], &QuietHabit::default()).passages, []);
        let silent = quiet_passages(&[-100.0; 300], &QuietHabit::default());
        assert_eq!(silent.passages, [(0, 300)]);
    }
}
