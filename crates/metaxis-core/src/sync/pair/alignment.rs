//! Passages that were heard by another way, and what is said of them.

use super::passage::Passage;
use crate::sync::answer::Stretch;
use serde::{Deserialize, Serialize};

/// A clip laid against a reference.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Alignment {
    /// Where the clip lies on the reference's own time.
    pub stretches: Vec<Stretch>,
    /// What was compared, in the clip's own time.
    pub part: Passage,
    /// Windows measured.
    pub tried: usize,
    /// Windows that agree with the fit.
    pub agreeing: usize,
    /// How far the windows together stand above the lags beside the line, in standard deviations.
    pub height: f64,
    /// The same for the next best lag within 64 ms.
    pub runner_up: f64,
    /// Natural log of the odds against so much agreement by chance.
    pub log_odds: f64,
    /// Whether the waves themselves agree, not only the rise and fall of the sound.
    pub fine: bool,
    /// How far echoes hide the direct sound: 0 not at all; where it is high they may have been taken for it.
    pub murk: f64,
    /// Whether one of the two is inverted.
    pub inverted: bool,
    /// Standard deviation of the position in the middle of the longest stretch, seconds.
    pub sigma_s: f64,
    /// (clip time, error) of agreeing windows, seconds.
    pub residuals: Vec<(f64, f64)>,
    /// Clip times of the windows that did not agree, seconds.
    pub missed: Vec<f64>,
    /// A moment from which on nothing but what repeats says where the clip goes on, seconds.
    pub unforced: Option<f64>,
    /// Passages that were heard by another way than the rest.
    pub(crate) moves: Vec<Moved>,
}

/// Log odds of a height: from them is taken what the number of lags and slopes looked at makes of it.
pub(super) fn log_odds(height: f64) -> f64 {
    0.5 * height.max(0.0).powi(2) - 13.0
}

impl Alignment {
    /// As it is where the clip is counted from `own_s` later on and the other from `there_s` later on.
    pub(crate) fn shift(&mut self, own_s: f64, there_s: f64) {
        for stretch in &mut self.stretches {
            stretch.start_s += own_s / (1.0 + stretch.rate_ppm * 1e-6) - there_s;
        }
    }

    /// −1 where one of the two is inverted, else 1.
    pub(crate) fn sign(&self) -> f32 {
        if self.inverted { -1.0 } else { 1.0 }
    }

    /// Notes that from a moment on it is open where the clip goes on, seconds.
    pub(crate) fn leave_open(&mut self, from_s: f64) {
        self.unforced = Some(self.unforced.map_or(from_s, |at| at.min(from_s)));
    }

    /// Makes it count half: another place of the same passage fits clearly better, window by window, so that what it
    /// has in common with that repeats itself.
    pub(crate) fn beaten(&mut self) {
        self.height *= 0.5;
        self.log_odds = self.log_odds.min(log_odds(self.height));
    }
}

/// A passage in which a clip heard the sound by another way.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub(crate) struct Moved {
    /// Beginning, in the clip's own time, seconds.
    pub from_s: f64,
    /// End.
    pub to_s: f64,
    /// How much later it is heard there, seconds.
    pub later_s: f64,
}
