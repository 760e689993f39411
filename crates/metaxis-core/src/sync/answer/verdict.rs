//! How far a place is to be trusted, and what that was reckoned from.

use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// How far a position is to be trusted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Verdict {
    /// Placed, beyond reasonable doubt.
    Solid,
    /// Placed; a person should look.
    Check,
    /// No position.
    Unplaced,
    /// A person decided.
    ByHand,
}

/// What a confidence was reckoned from.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Signs {
    /// Whether the waves agree, not only the rise and fall of the sound.
    pub waves: bool,
    /// How far the windows together stand above the lags beside them (or the pattern above its other lags), in
    /// standard deviations.
    pub height: f64,
    /// Height of the best neighbour within 64 ms over that.
    pub runner_up: f64,
    /// How far echoes hide the direct sound, see [`Alignment`](crate::sync::Alignment).
    pub murk: f64,
    /// Windows measured,
    pub tried: usize,
    /// and those that agree.
    pub agreeing: usize,
    /// Other clips that say the same.
    pub confirmed: usize,
    /// Height of the best other position that is free, over this one's.
    pub rival: f64,
    /// Whether a long part of a take agrees with no place on the track.
    pub astray: bool,
    /// Whether it holds a jump that nothing but what repeats speaks for.
    pub unforced: bool,
}
