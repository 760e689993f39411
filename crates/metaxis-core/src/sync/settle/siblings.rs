//! Takes to a track: a clip that was not heard lies beside one that was, by what ties the two in real time.

use super::{
    ground::{Ground, Sibling},
    settling::Settling,
};
use crate::{
    sync::{
        answer::{EvidenceKind, Stretch, stretch_at},
        labels::{KINDS, LEVEL_FRAMES, label_of},
        solve::compose,
    },
    time::wrapped,
};

/// Timecodes of devices that ran together part by less than this, seconds: further off, they are of other takes.
const OFF_S: f64 = 5.0;

impl Settling<'_> {
    /// Places what the tracks were not heard in by timecode against clips that ran at the same time.
    pub fn place_by_siblings(&mut self) {
        let heard: Vec<usize> = (0..self.clips.len())
            .filter(|&clip| !self.support(clip).is_empty() && !self.axis.anchors.contains(&clip))
            .collect();
        for clip in 0..self.clips.len() {
            let alone = self.layout.members(self.layout.component[clip]).len() == 1;
            if !alone || self.axis.anchors.contains(&clip) || self.grounds[clip].is_slate() {
                continue;
            }
            let Some((sibling, late_s)) = self.sibling(clip, &heard) else { continue };
            let own = [Stretch {
                clip_start_s: 0.0,
                clip_end_s: self.clips[clip].duration_s,
                start_s: late_s,
                rate_ppm: 0.0,
                start_sigma_s: sibling.sigma_s,
                rate_sigma_ppm: 0.0,
            }];
            self.layout.maps[clip] =
                compose(&self.layout.maps[sibling.with], &own, self.clips[clip].duration_s);
            self.layout.component[clip] = self.layout.component[sibling.with];
            self.grounds[clip] = Ground::Sibling(sibling);
        }
    }

    /// The clip among `heard` that ran longest with `clip`, and how much later than that it began.
    fn sibling(&self, clip: usize, heard: &[usize]) -> Option<(Sibling, f64)> {
        KINDS.into_iter().filter(|kind| kind.counts_frames()).find_map(|kind| {
            let ran = |other: usize| {
                let (late_s, sigma_s) = self.later_s(clip, other, kind)?;
                let (own, there) = (self.clips[clip].duration_s, self.clips[other].duration_s);
                let shared_s = (late_s + own).min(there) - late_s.max(0.0);
                (shared_s > 0.0).then_some((shared_s, other, late_s, sigma_s))
            };
            let device = self.clips[clip].device;
            let others = heard.iter().copied().filter(|&other| self.clips[other].device != device);
            let unit_s = label_of(&self.clips[clip], kind)?.unit_s;
            let (_, with, late_s, sigma_s) = others.filter_map(ran).max_by(|a, b| a.0.total_cmp(&b.0))?;
            let (offset_s, confirmed) =
                self.measured_offset(device, self.clips[with].device, kind, unit_s, heard);
            Some((Sibling { with, kind, confirmed, sigma_s }, late_s + offset_s))
        })
    }

    /// How much later a clip began than another by their labels of a kind, and its standard deviation.
    fn later_s(&self, clip: usize, other: usize, kind: EvidenceKind) -> Option<(f64, f64)> {
        let label = |clip: usize| label_of(&self.clips[clip], kind);
        let (own, there) = (label(clip)?, label(other)?);
        Some((wrapped(own.time_s - there.time_s), own.sigma_s.hypot(there.sigma_s)))
    }

    /// By how much the labels of two devices are off against each other, by the clips of both that were heard and ran
    /// together: the middle of them, and how many are level with that.
    fn measured_offset(
        &self,
        device: usize,
        other: usize,
        kind: EvidenceKind,
        unit_s: f64,
        heard: &[usize],
    ) -> (f64, usize) {
        let of = |device: usize| heard.iter().copied().filter(move |&clip| self.clips[clip].device == device);
        let mut offsets: Vec<f64> = of(device)
            .flat_map(|a| of(other).map(move |b| (a, b)))
            .filter_map(|(a, b)| {
                let (late_s, _) = self.later_s(a, b, kind)?;
                let there = stretch_at(&self.layout.maps[b], late_s);
                if self.layout.component[a] != self.layout.component[b] || late_s.abs() > there.clip_end_s {
                    return None;
                }
                let by_s = self.layout.maps[a][0].start_s - there.axis_s(late_s);
                (by_s.abs() < OFF_S).then_some(by_s)
            })
            .collect();
        offsets.sort_by(f64::total_cmp);
        let middle_s = offsets.get(offsets.len() / 2).copied().unwrap_or(0.0);
        let level = offsets.iter().filter(|own| (*own - middle_s).abs() < LEVEL_FRAMES * unit_s).count();
        (middle_s, level)
    }
}
