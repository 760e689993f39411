//! Claps that were found in a picture and in its own sound: how much later the microphone hears what the lens sees.

use super::shown::{ShownDistance, TELLS_M, distance_m};
use crate::{picture::Strike, sync::input::SOUND_M_PER_S};
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

/// What most of a number of claps agree on.
struct Agreed {
    late_s: f64,
    sigma_s: f64,
    slates: usize,
}

impl Agreed {
    /// How far the microphone is beyond doubt, metres; 0 where that may be nothing.
    fn metres(&self) -> f64 {
        distance_m(self.late_s).filter(|_| self.late_s > SIGMAS * self.sigma_s.hypot(OWN_S)).unwrap_or(0.0)
    }

    /// Whether sound takes another time than `travel_s`, beyond doubt.
    fn parts_from(&self, travel_s: f64, given_m: f64) -> bool {
        // What is given was given by someone who knew, if only to a few metres.
        let tells_s = if given_m > 0.0 { TELLS_M / SOUND_M_PER_S } else { 0.0 };
        (self.late_s - travel_s).abs() > tells_s.max(SIGMAS * self.sigma_s.hypot(OWN_S))
    }
}

/// What more than half of some claps agree on: several, or one beyond doubt.
fn agreed(claps: &[SeenClap]) -> Option<Agreed> {
    let agree = |about: &SeenClap| -> Vec<SeenClap> {
        let near = |clap: &&SeenClap| {
            (clap.late_s() - about.late_s()).abs() <= OWN_S + SIGMAS * clap.sigma_s.max(about.sigma_s)
        };
        claps.iter().filter(near).copied().collect()
    };
    let agreeing = claps.iter().map(agree).max_by_key(Vec::len)?;
    if 2 * agreeing.len() <= claps.len() || agreeing.len() == 1 && agreeing[0].score < ALONE {
        return None;
    }
    let count = agreeing.len() as f64;
    Some(Agreed {
        late_s: agreeing.iter().map(SeenClap::late_s).sum::<f64>() / count,
        sigma_s: agreeing.iter().map(|clap| clap.sigma_s).fold(0.0, f64::max) / count.sqrt(),
        slates: agreeing.len(),
    })
}

/// The distances that claps show which were seen in the clips of a device (each with its clip) and to which `given_m` is
/// given: what most of them agree on, and the clips that stand elsewhere than that or than what is given.
pub fn seen_distances(device: usize, given_m: f64, claps: &[(usize, SeenClap)]) -> Vec<ShownDistance> {
    let shown = |clip, by: &Agreed| ShownDistance {
        device,
        clip,
        metres: by.metres(),
        given_m,
        slates: by.slates,
        marked: false,
    };
    let all: Vec<SeenClap> = claps.iter().map(|(_, clap)| *clap).collect();
    let whole = agreed(&all).filter(|by| given_m <= 0.0 && by.metres() > 0.0);
    let travel_s = whole.as_ref().map_or(given_m / SOUND_M_PER_S, |by| by.late_s);
    let mut clips: Vec<usize> = claps.iter().map(|(clip, _)| *clip).collect();
    clips.sort_unstable();
    clips.dedup();
    let elsewhere = |&clip: &usize| {
        let own: Vec<SeenClap> = claps.iter().filter(|one| one.0 == clip).map(|one| one.1).collect();
        let by = agreed(&own).filter(|by| by.parts_from(travel_s, given_m))?;
        // Nearer than nothing is a late picture, not a distance.
        (by.metres() > 0.0 || travel_s > 0.0).then(|| shown(Some(clip), &by))
    };
    whole.iter().map(|by| shown(None, by)).chain(clips.iter().filter_map(elsewhere)).collect()
}
