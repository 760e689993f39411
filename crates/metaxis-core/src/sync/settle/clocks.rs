//! What the clips that sound is sure of say of their devices' clocks.

use super::{islands::UNCOMPARED_S, settling::Settling};
use crate::sync::{
    answer::{EvidenceKind, Stretch},
    find::{Link, SETTLED},
    input::Label,
    labels::{ClockTrust, DeviceClock, fit, own_timecode},
    solve::{DeviceRate, learn, learn_by_box, lend},
};

impl Settling<'_> {
    /// The clocks that the devices' labels were counted by.
    pub fn clocks(&self) -> Vec<DeviceClock> {
        let rates = self.rates();
        let placed = |clip: usize| {
            let there = self.layout.component[clip] == self.axis.origin;
            let beyond_doubt = |link: &&Link| link.alignment.log_odds > SETTLED;
            let sure = self.is_axis(clip)
                || !self.is_ambiguous(clip) && self.support(clip).first().is_some_and(beyond_doubt);
            // Labels are of the picture, which is earlier than its sound where that is far.
            (there && sure).then(|| self.layout.maps[clip][0].start_s + self.travel_s(clip))
        };
        fit(self.clips, self.axis.origin, &placed, &rates)
    }

    /// What long clips say of their devices' crystals, lent to those that do not know better.
    pub fn lend_rates(&mut self) -> Vec<DeviceRate> {
        let rates = self.rates();
        let reference = self.clips[self.axis.origin].device;
        for clip in 0..self.clips.len() {
            let device = self.clips[clip].device;
            if device == reference || !self.runs_by_reference(clip) {
                continue;
            }
            if let Some(rate) = rates.iter().find(|rate| rate.device == device)
                && let Some(middle_s) = self.measured_middle_s(clip)
            {
                lend(&mut self.layout.maps[clip], rate, middle_s);
            }
        }
        rates
    }

    fn rates(&self) -> Vec<DeviceRate> {
        let map = |clip: usize| -> Option<&[Stretch]> {
            self.runs_by_reference(clip).then_some(&self.layout.maps[clip])
        };
        let placed: Vec<Option<&[Stretch]>> = (0..self.clips.len()).map(map).collect();
        let mut rates = learn(self.clips, &placed);
        learn_by_box(self.clips, self.clips[self.axis.origin].device, &mut rates);
        rates
    }

    /// Whether a clip lies on an axis that is the reference's clock.
    fn runs_by_reference(&self, clip: usize) -> bool {
        let component = self.layout.component[clip];
        self.axis.anchors.iter().any(|&anchor| self.layout.component[anchor] == component)
    }

    /// Seconds of the day at the axis's zero, and the label that says so: the origin's own timecode, else the clocks of
    /// most devices that ran with it, else any timecode.
    pub fn day_of_axis(&self, clocks: &[DeviceClock]) -> Option<(f64, Label)> {
        if let Some(label) = own_timecode(&self.clips[self.axis.origin]) {
            return Some((label.time_s, label));
        }
        let of_kind = |wanted: &dyn Fn(EvidenceKind) -> bool| {
            let mut zeros: Vec<(f64, Label, usize)> = clocks
                .iter()
                .filter(|clock| wanted(clock.kind) && matches!(clock.trust, ClockTrust::Measured(_)))
                .map(|clock| {
                    let time_s = clock.zero_s - clock.axis_s / (1.0 + clock.slope);
                    let (kind, sigma_s, unit_s) = (clock.kind, clock.sigma_s, clock.unit_s);
                    (time_s, Label { kind, time_s, sigma_s, unit_s }, clock.device)
                })
                .collect();
            zeros.sort_by(|a, b| a.0.total_cmp(&b.0));
            // The middle of the largest number that agree: a clock may be set to another zone.
            let near = |about: f64| zeros.iter().filter(move |own| (own.0 - about).abs() < UNCOMPARED_S);
            // Of equally many the reference's: it is the one that was listened to all day.
            let most = zeros.iter().map(|own| near(own.0).collect::<Vec<_>>()).max_by_key(|all| {
                (all.len(), all.iter().any(|own| own.2 == self.clips[self.axis.origin].device))
            })?;
            most.get(most.len() / 2).map(|own| (own.0, own.1))
        };
        of_kind(&|kind| kind == EvidenceKind::DeviceClock).or_else(|| of_kind(&EvidenceKind::counts_frames))
    }
}
