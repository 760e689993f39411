//! What labels say of a clip's place, and what is believed of a clip that they alone place.

use super::{
    clocks::{ClockTrust, DeviceClock, counts_by},
    kinds::{KINDS, label_of},
};
use crate::sync::{
    answer::{Evidence, EvidenceKind},
    input::DayClip,
};

/// Where one of a clip's labels puts its start.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct LabelPlace {
    pub kind: EvidenceKind,
    /// Start on the axis by what the clip hears, where it lies by that, seconds: labels are of the picture, and what is
    /// far is heard later.
    pub start_s: f64,
    pub sigma_s: f64,
    /// Length of a frame of its count, seconds.
    pub unit_s: f64,
    /// Clips on which its device's offset was measured; 0 where it is only assumed.
    pub measured: usize,
    /// Probability that it is right to half a frame.
    pub within_half: f64,
    /// Devices whose measured timecode is level with the reference's: what it is taken to be jammed with.
    pub level: usize,
}

/// Timecodes this near to each other are level, frames.
pub(crate) const LEVEL_FRAMES: f64 = 1.5;
/// Clocks decide between positions at least this far apart, seconds.
const CLOCK_APART_S: f64 = 8.0;

impl LabelPlace {
    /// How far it can be told from another position, seconds.
    fn tolerance_s(&self) -> f64 {
        if self.is_timecode() { 1.5 * self.unit_s + 3.0 * self.sigma_s } else { CLOCK_APART_S / 2.0 }
    }

    pub fn is_timecode(&self) -> bool {
        self.kind != EvidenceKind::DeviceClock
    }

    /// Whether it may choose between positions: a clock read off one clip alone may be one of when files are closed.
    pub fn decides(&self) -> bool {
        self.measured >= if self.is_timecode() { 1 } else { 2 }
    }

    /// Whether it agrees with a start.
    pub fn agrees(&self, start_s: f64) -> bool {
        (self.start_s - start_s).abs() <= self.tolerance_s()
    }

    /// Whether a start cannot be right if it is.
    pub fn rules_out(&self, start_s: f64) -> bool {
        self.measured > 0 && !self.agrees(start_s)
    }

    pub fn evidence(&self, against: usize, start_s: f64) -> Evidence {
        let by = self.start_s - start_s;
        Evidence {
            kind: self.kind,
            against: Some(against),
            start_s: self.start_s,
            sigma_s: self.sigma_s,
            score: if self.measured > 0 { 1.0 } else { 0.5 },
            used: self.is_timecode() && by.abs() <= self.tolerance_s(),
            disagrees_by_s: by,
            aside: false,
        }
    }
}

/// What the labels of every clip say, the surest first; `travel_s` is how much later each belongs than it hears.
pub(crate) fn label_places(
    clips: &[DayClip],
    clocks: &[DeviceClock],
    travel_s: &dyn Fn(usize) -> f64,
) -> Vec<Vec<LabelPlace>> {
    let mut level: Vec<usize> = clocks
        .iter()
        .filter(|clock| {
            let measured = matches!(clock.trust, ClockTrust::Measured(_));
            measured
                && clock.kind.counts_frames()
                && clock.late_s.is_some_and(|late_s| late_s.abs() < LEVEL_FRAMES * clock.unit_s)
        })
        .map(|clock| clock.device)
        .collect();
    level.sort_unstable();
    level.dedup();
    clips
        .iter()
        .enumerate()
        .map(|(number, clip)| {
            let travel_s = travel_s(number);
            let mut all: Vec<LabelPlace> = KINDS
                .into_iter()
                .filter_map(|kind| {
                    let label = label_of(clip, kind)?;
                    let clock = counts_by(clocks, clip.device, &label).filter(|clock| clock.is_of_use())?;
                    let measured = match clock.trust {
                        ClockTrust::Measured(count) => count,
                        _ => 0,
                    };
                    Some(LabelPlace {
                        kind: clock.kind,
                        start_s: clock.axis_of(label.time_s) - travel_s,
                        sigma_s: clock.sigma_s,
                        unit_s: clock.unit_s,
                        measured,
                        within_half: clock.within_half,
                        level: level.iter().filter(|device| **device != clip.device).count(),
                    })
                })
                .collect();
            all.sort_by(|a, b| a.sigma_s.total_cmp(&b.sigma_s));
            all
        })
        .collect()
}
