//! A jump must beat the continuation: music repeats itself bar by bar, so that a likeness at another place shows nothing
//! while the waves agree at the place that the neighbours foretell.

use super::{
    contrast::{Contrast, HALF_OVERLAPPING},
    duel::{Winner, duel},
    offset::LocalOffset,
    passage::Passage,
    windows::Windows,
};
use crate::sync::input::{OffsetAt, Pair};

/// Windows are this far apart, seconds, and at most so many.
const APART_S: f64 = 0.96;
const MOST: f64 = 40.0;
/// The continuation holds from this height on, in standard deviations,
const HOLDS: f64 = 4.5;
/// if it is this share of the jump's.
const AS_HIGH: f64 = 0.6;
/// A jump is forced from this height on,
const FORCES: f64 = 6.0;
/// where the continuation is no higher than chance, or this share of it.
const CHANCE: f64 = 3.5;
const FAR_LOWER: f64 = 0.4;
/// A jump that wins window by window forces nothing below this height while the continuation is this share of it: tones
/// and rooms make such likenesses.
const WEAK: f64 = 12.0;
const HALF: f64 = 0.5;
/// Nor, however high, where it is no farther than an echo that a room makes louder than the direct sound, seconds (5 m).
const ECHO_S: f64 = 0.015;

/// What becomes of a jump.
#[derive(Debug, Clone, PartialEq)]
pub(crate) enum Ruling {
    /// The waves agree where the jump leads, and not where the neighbours foretell.
    Forced,
    /// The neighbours' place holds; the windows that agree with it, and whether the jump's place fits clearly worse or not at
    /// all better.
    Continues(Vec<LocalOffset>, Sure),
    /// Neither is clear.
    Open,
}

/// Whether nothing is left open.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Sure(pub bool);

/// Rules on a passage of a clip that is said to lie at the offsets `new`, while what lies beside it foretells `old`.
pub(crate) fn rule(
    windows: &mut Windows,
    pair: Pair,
    passage: Passage,
    (old, new): (OffsetAt, OffsetAt),
    sign: f32,
) -> Ruling {
    let length = passage.to_s - passage.from_s;
    let apart = APART_S.max(length / MOST);
    let count = (length / apart) as usize + 1;
    let margin = 0.5 * (length - (count - 1) as f64 * apart);
    let moments: Vec<f64> = (0..count).map(|i| passage.from_s + margin + apart * i as f64).collect();
    let mut height = |offset: OffsetAt| {
        let looks = windows.looks(pair, &moments, offset);
        let mut contrast = Contrast::new(windows.range());
        looks.iter().for_each(|look| contrast.add(&look.lags, sign));
        let agreeing = looks.iter().filter_map(|look| look.agreeing(offset(look.clip_s), sign)).collect();
        (contrast.heights(HALF_OVERLAPPING).0, agreeing)
    };
    let ((foretold, agreeing), (jumped, _)) = (height(old), height(new));
    let winner = duel(windows, pair, passage, (new, old), sign);
    let middle = 0.5 * (passage.from_s + passage.to_s);
    let echo = (old(middle) - new(middle)).abs() <= ECHO_S;
    let (holds, forces) = (foretold >= HOLDS, jumped >= FORCES);
    match winner {
        Winner::One if (jumped < WEAK || echo) && holds && foretold >= HALF * jumped => {
            Ruling::Continues(agreeing, Sure(echo))
        }
        Winner::One if forces => Ruling::Forced,
        Winner::Other if holds => Ruling::Continues(agreeing, Sure(true)),
        Winner::Neither if holds && foretold >= AS_HIGH * jumped => Ruling::Continues(agreeing, Sure(true)),
        Winner::Neither if forces && foretold < CHANCE.max(FAR_LOWER * jumped) => Ruling::Forced,
        _ => Ruling::Open,
    }
}
