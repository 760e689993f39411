//! How a clip's sound is corrected to the clock that leads, as a choice.

use crate::sync::{Stretch, runs};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// What is done about a sound whose clock runs otherwise than the one that leads.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Correction {
    /// It is worked out anew at the pace of that clock.
    Resample,
    /// Every sample is kept and every run begins where it belongs.
    Leave,
}

/// What is proposed for a clip, and why.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct Proposal {
    /// What to do.
    pub correction: Correction,
    /// How much later than it should its longest run would end if it were left alone, seconds.
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
    let worst = runs(sound).max_by(|a, b| late(a).abs().total_cmp(&late(b).abs())).unwrap_or_default();
    let (late_s, length_s) = (late(worst), length(worst));
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
        Correction::Resample => "resample",
    };
    Proposal { correction, late_s, why: format!("{at} ends {frames:.1} frames {way}: {what}") }
}

#[cfg(test)]
mod tests {
    use super::*;

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
}
