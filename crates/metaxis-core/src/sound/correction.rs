//! How a clip's sound is corrected to the clock that leads, as a choice.

use super::{
    course::{Leg, Rates, runs_of},
    treat::own_step,
};
use crate::sync::{Stretch, runs};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// What is done about a sound whose clock runs otherwise than the one that leads.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Correction {
    /// It is worked out anew at the pace of that clock.
    Resample,
    /// Every sample is kept, and where it is too far off it slips by some of them, at a quiet moment.
    Recut,
    /// Every sample is kept and every run begins where it belongs.
    Leave,
}

/// What stands for samples that were lost.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Fill {
    /// Silence of their length: what follows is where it belongs.
    #[default]
    Silence,
    /// Nothing: what follows follows at once, and is early.
    Close,
}

/// What is proposed for a clip, and why.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct Proposal {
    /// What to do.
    pub correction: Correction,
    /// How much later than it should its worst run would end if it were left alone, seconds.
    pub late_s: f64,
    /// The reason, with its numbers.
    pub why: String,
}

/// An error below this share of a frame at the end is neither seen nor heard.
const SMALL: f64 = 0.1;

/// What is best for a sound that lies at `sound` on an axis whose clock leads, of pictures `frame_s` seconds long.
pub fn propose(sound: &[Stretch], frame_s: f64) -> Proposal {
    let late = |run: &[Stretch]| {
        run.iter().map(|own| (own.clip_end_s - own.clip_start_s) - (own.end_s() - own.start_s)).sum::<f64>()
    };
    let length = |run: &[Stretch]| run.iter().map(|own| own.clip_end_s - own.clip_start_s).sum::<f64>();
    worst(runs(sound).map(|run| (length(run), late(run))), frame_s)
}

/// What is best for a sound that follows a leading clip's clock along `legs`; a wrong label is corrected whatever is chosen.
pub fn propose_along(legs: &[Leg], rates: Rates, frame_s: f64) -> Proposal {
    let late = |run: &[Leg]| {
        let step = own_step(run, rates);
        run.iter().map(|leg| (leg.to - leg.from) as f64 * (leg.step / step - 1.0)).sum::<f64>() / rates.out
    };
    let length = |run: &[Leg]| run.iter().map(|leg| leg.to - leg.from).sum::<i64>() as f64 / rates.out;
    worst(runs_of(legs).map(|run| (length(run) + late(run), late(run))), frame_s)
}

/// By the run that would end latest, or earliest: lengths in the sound's own time, and how late they would end, seconds.
fn worst(runs: impl Iterator<Item = (f64, f64)>, frame_s: f64) -> Proposal {
    let (length_s, late_s) = runs.max_by(|a, b| a.1.abs().total_cmp(&b.1.abs())).unwrap_or_default();
    let ppm = if length_s > 0.0 { late_s / (length_s - late_s) * 1e6 } else { 0.0 };
    let frames = (late_s / frame_s).abs();
    let way = if late_s >= 0.0 { "late" } else { "early" };
    let at = if length_s >= 90.0 {
        format!("{:.0} min at {ppm:+.1} ppm", length_s / 60.0)
    } else {
        format!("{length_s:.0} s at {ppm:+.1} ppm")
    };
    let correction = if frames < SMALL { Correction::Leave } else { Correction::Resample };
    let what = match correction {
        Correction::Leave => "leave",
        _ => "resample",
    };
    Proposal { correction, late_s, why: format!("{at} ends {frames:.1} frames {way}: {what}") }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sound::course;

    fn clip(duration_s: f64, rate_ppm: f64) -> Stretch {
        Stretch { rate_ppm, ..Stretch::whole(duration_s, 0.0) }
    }

    #[test]
    fn what_would_be_seen_is_resampled_and_the_rest_left() {
        let hour = propose(&[clip(3780.0, 38.8)], 0.04);
        assert_eq!(hour.correction, Correction::Resample);
        assert_eq!(hour.why, "63 min at +38.8 ppm ends 3.7 frames late: resample");
        let short = propose(&[clip(20.0, -38.8)], 0.04);
        assert_eq!(short.correction, Correction::Leave);
        assert_eq!(short.why, "20 s at -38.8 ppm ends 0.0 frames early: leave");
        assert_eq!(propose(&[], 0.04).correction, Correction::Leave);
    }

    #[test]
    fn the_limit_is_a_tenth_of_a_frame() {
        // 100 ppm of 40 s are 4 ms, a tenth of a frame at 25 a second.
        let at = |seconds: f64| propose(&[clip(seconds, 100.0)], 0.04).correction;
        assert_eq!((at(39.9), at(40.2)), (Correction::Leave, Correction::Resample));
    }

    #[test]
    fn a_clip_with_a_break_begins_anew_behind_it() {
        let run = |from_s: f64, start_s: f64| Stretch {
            clip_start_s: from_s,
            clip_end_s: from_s + 30.0,
            start_s,
            ..clip(30.0, 100.0)
        };
        // Two runs of 30 s: none of them is a tenth of a frame late, though both together are.
        assert_eq!(propose(&[run(0.0, 0.0), run(30.0, 30.5)], 0.04).correction, Correction::Leave);
    }

    #[test]
    fn along_a_clip_it_is_that_clips_clock_that_counts() {
        let rates = Rates { out: 48_000.0, own: 48_000.0 };
        let along = |sound_ppm: f64, camera_ppm: f64| {
            let sound = [clip(3800.0, sound_ppm)];
            let legs = course(&sound, &[clip(3600.0, camera_ppm)], 0.0, 3600 * 48_000, rates);
            propose_along(&legs, rates, 0.04)
        };
        assert_eq!(along(40.0, 40.0).correction, Correction::Leave);
        assert_eq!(along(0.0, -38.8).why, "60 min at +38.8 ppm ends 3.5 frames late: resample");
        // What is labelled wrongly is no drift.
        assert_eq!(along(1_000.0, 0.0).correction, Correction::Leave);
    }
}
