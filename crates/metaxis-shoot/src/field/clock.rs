//! What a device's own time is in true time: its crystal, how that changes with warmth, and what it failed to write.

/// Samples a device failed to write.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Gap {
    /// Where, in the clip's own time.
    pub at_s: f64,
    /// How much true time is missing.
    pub lost_s: f64,
}

/// A smooth change of a crystal's rate along a recording.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Bend {
    /// Switched on with the recording: at first the clock runs `by_ppm` faster than it will.
    Warming {
        /// Difference of rate at the beginning.
        by_ppm: f64,
        /// Time constant of the exponential, seconds.
        constant_s: f64,
    },
    /// Carried from one temperature into another: from `at_s` on it goes over to `by_ppm` more.
    Step {
        /// When, in the clip's own time.
        at_s: f64,
        /// Difference of rate in the end.
        by_ppm: f64,
        /// Time constant of the exponential, seconds.
        constant_s: f64,
    },
}

impl Bend {
    /// Rate added at the clip's own time `clip_s`, ppm.
    fn rate_ppm(self, clip_s: f64) -> f64 {
        match self {
            Self::Warming { by_ppm, constant_s } => by_ppm * (-clip_s / constant_s).exp(),
            Self::Step { at_s, by_ppm, constant_s } => {
                by_ppm * (1.0 - (-(clip_s - at_s).max(0.0) / constant_s).exp())
            }
        }
    }

    /// How far the clock is ahead by it after `clip_s`, seconds: the integral of the rate.
    fn ahead_s(self, clip_s: f64) -> f64 {
        let by = match self {
            Self::Warming { by_ppm, constant_s } => {
                by_ppm * constant_s * (1.0 - (-clip_s / constant_s).exp())
            }
            Self::Step { at_s, by_ppm, constant_s } => {
                let since = (clip_s - at_s).max(0.0);
                by_ppm * (since - constant_s * (1.0 - (-since / constant_s).exp()))
            }
        };
        by * 1e-6
    }
}

/// The true time of every moment of a recording: what its sound was heard at by the direct way.
#[derive(Debug, Clone, PartialEq)]
pub struct TrueTime {
    /// Of its first sample, seconds.
    pub from_s: f64,
    /// How fast its clock runs, but for its bends.
    pub ppm: f64,
    /// How that changes.
    pub bends: Vec<Bend>,
    /// What it lost, in order.
    pub gaps: Vec<Gap>,
}

impl TrueTime {
    /// True time at the clip's own time `clip_s`, seconds; after a gap that lies there.
    pub fn at(&self, clip_s: f64) -> f64 {
        let lost: f64 = self.gaps.iter().filter(|gap| gap.at_s <= clip_s).map(|gap| gap.lost_s).sum();
        let ahead: f64 = self.bends.iter().map(|bend| bend.ahead_s(clip_s)).sum();
        self.from_s + clip_s / (1.0 + self.ppm * 1e-6) - ahead + lost
    }

    /// How fast the clock runs at a moment, ppm.
    pub fn rate_ppm(&self, clip_s: f64) -> f64 {
        self.ppm + self.bends.iter().map(|bend| bend.rate_ppm(clip_s)).sum::<f64>()
    }
}
