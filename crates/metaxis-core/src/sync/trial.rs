//! Days in small, for the tests of single stages.

use super::{
    answer::{EvidenceKind, Stretch},
    find::Link,
    input::{DayClip, DayPlan, Effort, GivenDistance, HeardSound, Label, Mode},
    pair::{Alignment, Passage},
};
use crate::signal::{BandReader, Bands, Pattern};

/// A sound with its pattern.
pub(crate) struct Sound {
    pub samples: Vec<f32>,
    pub pattern: Pattern,
}

impl Sound {
    pub fn of(samples: Vec<f32>) -> Self {
        let mut bands = BandReader::new();
        bands.push(&samples);
        Self { pattern: Pattern::new(&bands.finish()), samples }
    }

    /// Something to be heard, for stages that do not listen.
    pub fn some() -> Self {
        Self { samples: vec![0.0; 16], pattern: Pattern::new(&Bands::default()) }
    }

    /// A clip of a device that heard it.
    pub fn clip(&self, device: usize, duration_s: f64) -> DayClip<'_> {
        DayClip {
            device,
            duration_s,
            has_picture: device > 0,
            sounds: vec![HeardSound::of(&self.pattern, &self.samples)],
            time_reference_s: None,
            labels: vec![],
            against_box: None,
            marks: vec![],
            distance: GivenDistance::None,
        }
    }
}

/// A clip with timecode in its file that begins at a time of day, in seconds.
pub(crate) fn labelled(clip: DayClip<'_>, time_s: f64) -> DayClip<'_> {
    let label = Label { kind: EvidenceKind::FileTimecode, time_s, sigma_s: 0.01, unit_s: 0.04 };
    DayClip { labels: vec![label], ..clip }
}

/// The plan of a day whose reference is device 0.
pub(crate) const PLAN: DayPlan =
    DayPlan { reference: 0, origin: None, effort: Effort::Normal, mode: Mode::Day };

/// A link by which `clip` begins at `start_s` of `against`, measured over all its `duration_s` to a tenth of a
/// millisecond.
pub(crate) fn link(clip: usize, against: usize, start_s: f64, duration_s: f64) -> Link {
    let stretch = Stretch { start_sigma_s: 1e-4, rate_sigma_ppm: 1.0, ..Stretch::whole(duration_s, start_s) };
    let alignment = Alignment {
        stretches: vec![stretch],
        part: Passage { from_s: 0.0, to_s: duration_s },
        tried: 40,
        agreeing: 40,
        height: 40.0,
        runner_up: 4.0,
        log_odds: 787.0,
        fine: true,
        murk: 0.0,
        inverted: false,
        sigma_s: 1e-4,
        residuals: vec![],
        missed: vec![],
        unforced: None,
        moves: vec![],
    };
    Link { against, clip, sounds: (0, 0), alignment, coarse: 20.0, speed: 1.0 }
}
