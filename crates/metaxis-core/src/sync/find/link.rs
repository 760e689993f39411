//! What was measured between two clips, and where that would put one on the time of the other.

use crate::sync::{answer::stretch_at, pair::Alignment};
use serde::{Deserialize, Serialize};

/// A rival of this share of the height makes a link ambiguous.
pub(crate) const RIVAL: f64 = 0.65;

/// One position of a clip against another clip.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub(crate) struct Link {
    /// The clip whose time is used.
    pub against: usize,
    /// The clip that is placed.
    pub clip: usize,
    /// Which sound of the placed clip matched which of the other.
    pub sounds: (usize, usize),
    /// How it lies there.
    pub alignment: Alignment,
    /// Score of the coarse search, in its standard deviations; 0 where the place was known before.
    pub coarse: f32,
    /// The clip's sound runs this many times as fast as its label says (1 for all but wrong labels).
    pub speed: f64,
}

impl Link {
    /// Height in standard deviations: comparable between positions of one clip.
    pub fn height(&self) -> f64 {
        self.alignment.height
    }

    /// Moment in the middle of what was compared, in the clip's own time.
    pub fn middle_s(&self) -> f64 {
        0.5 * (self.alignment.part.from_s + self.alignment.part.to_s)
    }

    /// Time on the other clip at the clip's own time `clip_s`.
    pub fn there_s(&self, clip_s: f64) -> f64 {
        stretch_at(&self.alignment.stretches, clip_s).axis_s(clip_s)
    }

    /// Whether the other speaks of another position of the same part of the clip against the same clip.
    pub fn rivals(&self, other: &Link) -> bool {
        let (a, b) = (self.alignment.part, other.alignment.part);
        let shared = a.to_s.min(b.to_s) - a.from_s.max(b.from_s);
        let shorter = (a.to_s - a.from_s).min(b.to_s - b.from_s);
        let at = 0.5 * (a.from_s.max(b.from_s) + a.to_s.min(b.to_s));
        self.clip == other.clip
            && self.against == other.against
            && shared > 0.5 * shorter
            && (self.there_s(at) - other.there_s(at)).abs() > ECHO_S
    }

    /// In the clip's own time, for a clip whose sound was matched at `speed`.
    pub fn at_speed(mut self, speed: f64) -> Self {
        self.speed = speed;
        let alignment = &mut self.alignment;
        alignment.part.from_s *= speed;
        alignment.part.to_s *= speed;
        for stretch in &mut alignment.stretches {
            stretch.clip_start_s *= speed;
            stretch.clip_end_s *= speed;
            stretch.rate_ppm = (speed * (1.0 + stretch.rate_ppm * 1e-6) - 1.0) * 1e6;
        }
        for residual in &mut alignment.residuals {
            residual.0 *= speed;
        }
        for moved in &mut alignment.moves {
            moved.from_s *= speed;
            moved.to_s *= speed;
        }
        self
    }
}

/// Two positions nearer than this are one.
pub(crate) const SAME_PLACE_S: f64 = 0.02;
/// Positions nearer than this are echoes of one, which the murk judges, not repeats of the programme.
pub(crate) const ECHO_S: f64 = 0.07;
