//! The reference's own clips on the axis.

use super::{DayClip, Evidence, EvidenceKind, Placement, Stretch, Verdict};

/// A reference clip on the axis.
pub(super) struct Anchor {
    pub(super) clip: usize,
    pub(super) start_s: f64,
    pub(super) component: u32,
    pub(super) tied: bool,
}

pub(super) fn anchor_axis(clips: &[DayClip], anchors: &[usize], origin: usize) -> Vec<Anchor> {
    let zero = clips[origin].time_reference_s;
    let mut islands = 0;
    anchors
        .iter()
        .map(|&clip| match (zero, clips[clip].time_reference_s) {
            _ if clip == origin => Anchor { clip, start_s: 0.0, component: 0, tied: false },
            (Some(zero), Some(own)) => Anchor { clip, start_s: own - zero, component: 0, tied: true },
            _ => {
                islands += 1;
                Anchor { clip, start_s: 0.0, component: islands, tied: false }
            }
        })
        .collect()
}

impl Anchor {
    pub(super) fn placement(&self, clips: &[DayClip], origin: usize) -> Placement {
        let stretch = Stretch {
            clip_start_s: 0.0,
            clip_end_s: clips[self.clip].duration_s,
            start_s: self.start_s,
            rate_ppm: 0.0,
            start_sigma_s: 0.0,
            rate_sigma_ppm: 0.0,
        };
        let (evidence, reason) = if self.tied {
            let evidence = Evidence {
                kind: EvidenceKind::FileTimecode,
                against: Some(origin),
                start_s: self.start_s,
                sigma_s: 1e-3,
                score: 1.0,
                used: true,
                disagrees_by_s: 0.0,
            };
            (vec![evidence], "Reference: placed by its own time reference.")
        } else if self.component == 0 {
            (vec![], "Reference: its clock is the axis.")
        } else {
            (vec![], "Reference without a time reference: an island of its own.")
        };
        Placement {
            verdict: Verdict::Solid,
            confidence: 0.999,
            component: self.component,
            stretches: vec![stretch],
            evidence,
            alternatives: vec![],
            residuals: vec![],
            reasons: vec![reason.into()],
        }
    }
}
