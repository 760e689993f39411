//! Claps that were found in a picture and in its own sound: how much later the microphone hears what the lens sees.

use super::{ShownDistance, slates::distance_m};
use crate::picture::Strike;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A clap heard in a clip and seen in its picture.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, TS)]
pub struct SeenClap {
    /// When it is seen, seconds of the clip's own time.
    pub seen_s: f64,
    /// When its own sound has it, likewise.
    pub heard_s: f64,
    /// Standard deviation of the moment it is seen, seconds.
    pub sigma_s: f64,
    /// How far the strike stands out in the picture, 0 to 1.
    pub score: f64,
}

impl SeenClap {
    fn late_s(&self) -> f64 {
        self.heard_s - self.seen_s
    }
}

/// A clap is seen from so long before it is heard (200 m) to so long after (a picture that is late), seconds.
const WITHIN_S: (f64, f64) = (0.6, 0.08);
/// The picture is looked at for so much longer before and after: what else moves in it has to be known, seconds.
const AROUND_S: f64 = 1.5;

/// The part of a picture to look at for a clap that its sound has at `heard_s`.
pub fn look_around(heard_s: f64) -> (f64, f64) {
    (heard_s - WITHIN_S.0 - AROUND_S, heard_s + WITHIN_S.1 + AROUND_S)
}
/// What stands out less may be anything that moves.
const STANDS_OUT: f64 = 0.6;
/// One clap alone shows a distance from here on: a mouth that closes just then is seen, too.
const ALONE: f64 = 0.9;
/// Cameras hold their picture against their own sound to within this, seconds.
const OWN_S: f64 = 0.008;
/// A distance is shown that is this many standard deviations from none.
const SIGMAS: f64 = 2.5;

/// Of the strikes in the part of a picture to look at, the one that is a clap which its sound has at `heard_s`.
pub fn seen_clap(strikes: &[Strike], heard_s: f64) -> Option<SeenClap> {
    let within = heard_s - WITHIN_S.0..=heard_s + WITHIN_S.1;
    let best = strikes.iter().find(|strike| strike.score >= STANDS_OUT && within.contains(&strike.at_s))?;
    Some(SeenClap { seen_s: best.at_s, heard_s, sigma_s: best.sigma_s, score: best.score })
}

/// The distance that most of a device's claps agree on, where it is more than nothing: several, or one beyond doubt.
pub fn seen_distance(device: usize, claps: &[SeenClap]) -> Option<ShownDistance> {
    let agree = |about: &SeenClap| -> Vec<SeenClap> {
        let near = |clap: &&SeenClap| {
            (clap.late_s() - about.late_s()).abs() <= OWN_S + SIGMAS * clap.sigma_s.max(about.sigma_s)
        };
        claps.iter().filter(near).copied().collect()
    };
    let agreeing = claps.iter().map(agree).max_by_key(Vec::len)?;
    if 2 * agreeing.len() <= claps.len() {
        return None;
    }
    if agreeing.len() == 1 && agreeing[0].score < ALONE {
        return None;
    }
    let count = agreeing.len() as f64;
    let late_s = agreeing.iter().map(SeenClap::late_s).sum::<f64>() / count;
    let sigma_s = agreeing.iter().map(|clap| clap.sigma_s).fold(0.0, f64::max) / count.sqrt();
    let metres = distance_m(late_s).filter(|_| late_s > SIGMAS * sigma_s.hypot(OWN_S))?;
    Some(ShownDistance { device, metres, slates: agreeing.len(), marked: false })
}
