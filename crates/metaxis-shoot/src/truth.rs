//! The truth about a shoot, written beside its media.

use serde::{Deserialize, Serialize};

/// The truth of all clips of a shoot.
#[derive(Debug, Clone, Default, Serialize, Deserialize)]
pub struct Truth {
    /// Path of the clip whose first sample is the axis's zero.
    pub reference: String,
    /// One a file.
    pub clips: Vec<TruthClip>,
}

/// The truth of one file.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct TruthClip {
    /// Path below the output folder.
    pub path: String,
    /// Device folder.
    pub device: String,
    /// Scene it recorded.
    pub scene: String,
    /// True time of day of its first sample, seconds since midnight.
    pub true_start_s: f64,
    /// Whether its sound can be found in the reference.
    pub heard_in_reference: bool,
    /// How much faster its clock runs than the reference's.
    pub rate_ppm: f64,
    /// Where its sound lies on the axis of the reference's clock (travel of sound included).
    pub segments: Vec<TruthSegment>,
    /// How much later its sound is than its picture because of its distance, against the reference.
    pub late_s: f64,
    /// Presentation time of each frame in the clip's own time where the rate varies, else empty.
    pub frame_times_s: Vec<f64>,
    /// Frames of the picture.
    pub frames: u64,
}

/// A part of a clip between losses.
#[derive(Debug, Clone, Copy, Serialize, Deserialize)]
pub struct TruthSegment {
    /// Beginning in the clip's own time.
    pub clip_start_s: f64,
    /// End in the clip's own time.
    pub clip_end_s: f64,
    /// Beginning on the axis.
    pub start_s: f64,
}

impl Truth {
    /// The clip at `path`.
    pub fn clip(&self, path: &str) -> Option<&TruthClip> {
        self.clips.iter().find(|clip| clip.path == path)
    }
}
