//! Labels at work: they decide between positions that sound fits equally, place what sound does not, and speak for or
//! against what sound says.

use super::{ground::Ground, settling::Settling};
use crate::sync::{
    answer::Verdict,
    labels::LabelPlace,
    solve::{DeviceRate, overlap_s},
};

impl Settling<'_> {
    /// The surest label of a clip that may place it.
    fn best_label(&self, clip: usize) -> Option<LabelPlace> {
        self.told[clip].first().copied()
    }

    /// Sound that found nothing beyond doubt has no vote where timecode says something else: such clips are set apart, for
    /// their labels to place.
    pub fn set_weak_apart(&mut self) {
        let judged = self.judge_all();
        for (clip, own) in judged.iter().enumerate() {
            let start_s = self.layout.maps[clip][0].start_s;
            let mut timecodes = self.told[clip].iter().filter(|label| label.is_timecode()).peekable();
            let told = timecodes.peek().is_some() && !timecodes.any(|label| label.agrees(start_s));
            let weak = own.verdict == Verdict::Unplaced && !self.support(clip).is_empty();
            if weak && told && !self.is_axis(clip) && !self.is_islands_axis(clip) {
                self.layout.set_apart(clip, self.clips[clip].duration_s, self.links);
            }
        }
    }

    /// Of several positions that sound fits nearly alike, the only one that a measured label does not rule out.
    pub fn choose_by_labels(&mut self) {
        for clip in 0..self.clips.len() {
            let Some(label) = self.best_label(clip).filter(LabelPlace::decides) else { continue };
            if self.is_axis(clip) || !self.is_ambiguous(clip) {
                continue;
            }
            let fitting: Vec<_> =
                self.choices(clip).into_iter().filter(|map| label.agrees(map[0].start_s)).collect();
            if let [only] = &fitting[..] {
                self.layout.maps[clip] = only.clone();
                self.grounds[clip] = Ground::Sound { chosen_by: Some(label.kind), island_by: None };
            }
        }
    }

    /// Lays single clips that sound has not placed by their own labels; each runs as its device does.
    pub fn place_by_labels(&mut self, rates: &[DeviceRate]) {
        let origin = self.layout.component[self.axis.origin];
        for clip in 0..self.clips.len() {
            let island = self.layout.component[clip];
            let alone = self.layout.members(island).len() == 1 && !self.axis.anchors.contains(&clip);
            let Some(label) = self.best_label(clip).filter(|_| alone && island != origin) else { continue };
            if let Some(rate) = rates.iter().find(|rate| rate.device == self.clips[clip].device) {
                for stretch in &mut self.layout.maps[clip] {
                    (stretch.rate_ppm, stretch.rate_sigma_ppm) = (rate.rate_ppm, rate.sigma_ppm);
                }
            }
            if !label.is_timecode() {
                // Where there is sound to find and none was found, a clock's guess is worse than none.
                if !self.clips[clip].is_heard() {
                    self.grounds[clip] = Ground::Label { place: label, own: true, instead_of: None };
                    self.lie_alone(clip, &label);
                }
                continue;
            }
            let start_s = label.start_s;
            let free = self.layout.in_the_way_at(self.clips, clip, start_s, origin).is_none();
            if free && self.told[clip].iter().all(|other| !other.is_timecode() || other.agrees(start_s)) {
                let by_s = start_s - self.layout.maps[clip][0].start_s;
                self.layout.merge(island, origin, by_s);
                for stretch in &mut self.layout.maps[clip] {
                    stretch.start_sigma_s = stretch.start_sigma_s.hypot(label.sigma_s);
                }
                self.grounds[clip] = Ground::Label { place: label, own: true, instead_of: None };
            }
        }
        self.leave_what_ran_alone();
    }

    /// A clip with sound that a label alone puts where nothing else ran belongs to no take: where it would lie stays
    /// an alternative.
    fn leave_what_ran_alone(&mut self) {
        let by_label_only = |clip: &usize| {
            let by_label = matches!(self.grounds[*clip], Ground::Label { .. });
            by_label && self.support(*clip).is_empty() && self.clips[*clip].is_heard()
        };
        let only: Vec<usize> = (0..self.clips.len()).filter(by_label_only).collect();
        let origin = self.layout.component[self.axis.origin];
        let alone: Vec<usize> = only
            .iter()
            .copied()
            .filter(|&clip| {
                (0..self.clips.len()).all(|other| {
                    only.contains(&other)
                        || self.layout.component[other] != origin
                        || overlap_s(&self.layout.maps[clip], &self.layout.maps[other]) <= 0.0
                })
            })
            .collect();
        for clip in alone {
            self.layout.component[clip] = clip;
            if let Ground::Label { place, .. } = self.grounds[clip] {
                self.grounds[clip] = Ground::RanAlone(place);
            }
        }
    }
}
