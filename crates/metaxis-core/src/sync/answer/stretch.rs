//! A clip's own time on the axis: stretches, their runs and joints.

use serde::{Deserialize, Serialize};
use ts_rs::TS;

pub(crate) fn axis_to_clip(map: &[Stretch], axis_s: f64) -> f64 {
    let stretch = map.iter().find(|stretch| axis_s < stretch.end_s()).unwrap_or(&map[map.len() - 1]);
    stretch.clip_s(axis_s)
}

/// The stretch that holds `clip_s`, or the nearest. `stretches` is not empty.
pub(crate) fn stretch_at(stretches: &[Stretch], clip_s: f64) -> &Stretch {
    stretches.iter().find(|stretch| clip_s < stretch.clip_end_s).unwrap_or(&stretches[stretches.len() - 1])
}

/// A part of a clip that lies on the axis in one piece.
///
/// `axis = start_s + (clip − clip_start_s) / (1 + rate_ppm·1e-6)`.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, TS)]
pub struct Stretch {
    /// Beginning in the clip's own time, seconds.
    pub clip_start_s: f64,
    /// End in the clip's own time, seconds.
    pub clip_end_s: f64,
    /// Beginning on the axis, seconds.
    pub start_s: f64,
    /// How much faster the clip's clock runs than the reference's.
    pub rate_ppm: f64,
    /// Standard deviation of `start_s`.
    pub start_sigma_s: f64,
    /// Standard deviation of `rate_ppm`.
    pub rate_sigma_ppm: f64,
}

impl Stretch {
    /// All of a clip in one piece from a moment of the axis on, by a clock that runs as the axis does.
    pub fn whole(duration_s: f64, start_s: f64) -> Self {
        Self {
            clip_start_s: 0.0,
            clip_end_s: duration_s,
            start_s,
            rate_ppm: 0.0,
            start_sigma_s: 0.0,
            rate_sigma_ppm: 0.0,
        }
    }

    /// Axis time of the clip's own time `clip_s`.
    pub fn axis_s(&self, clip_s: f64) -> f64 {
        self.start_s + (clip_s - self.clip_start_s) / (1.0 + self.rate_ppm * 1e-6)
    }

    /// The clip's own time at axis time `axis_s`.
    pub fn clip_s(&self, axis_s: f64) -> f64 {
        self.clip_start_s + (axis_s - self.start_s) * (1.0 + self.rate_ppm * 1e-6)
    }

    /// How fast the clip plays on the axis, 1 at its own speed; `None` where it differs by no more than clocks do.
    pub fn retimed(&self) -> Option<f64> {
        (self.rate_ppm.abs() > RETIMED_PPM).then_some(1.0 + self.rate_ppm * 1e-6)
    }

    /// End on the axis, seconds.
    pub fn end_s(&self) -> f64 {
        self.axis_s(self.clip_end_s)
    }
}

/// No device's clock is this far off: beyond, it is another speed (0.1 % pulled down is 1000).
const RETIMED_PPM: f64 = 600.0;
/// A jump on the axis from one stretch to the next that is larger than this is a break; what is smaller is the joint of a
/// clock that bends.
pub(super) const JOINED_S: f64 = 1e-4;

/// Whether `next` goes on where `last` ends, on the clip and on the axis.
pub fn joined(last: &Stretch, next: &Stretch) -> bool {
    (next.clip_start_s - last.clip_end_s).abs() < JOINED_S && (next.start_s - last.end_s()).abs() < JOINED_S
}

/// The runs of `stretches` without a break: each is one stretch, or several where the clock bends.
pub fn runs(stretches: &[Stretch]) -> impl Iterator<Item = &[Stretch]> {
    stretches.chunk_by(joined)
}

/// Length of a run in the clip's own time, seconds.
pub(crate) fn length_s(run: &[Stretch]) -> f64 {
    match run {
        [] => 0.0,
        [first, .., last] => last.clip_end_s - first.clip_start_s,
        [only] => only.clip_end_s - only.clip_start_s,
    }
}
