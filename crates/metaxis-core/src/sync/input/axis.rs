//! The axis of a day: the reference's clock, from the start of one of its clips on.

use super::{
    clip::DayClip,
    plan::{DayPlan, Mode},
};

/// What the axis is made of.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Axis {
    /// The clip that starts it.
    pub origin: usize,
    /// The reference's clips that have sound; of a day performed to tracks, the tracks.
    pub anchors: Vec<usize>,
    /// Those that their own time references tie to the origin, with their starts in seconds.
    pub tied: Vec<(usize, f64)>,
}

impl Axis {
    /// The axis of a plan: from the clip it names or the reference's longest; `None` where the reference has no sound.
    pub fn of(clips: &[DayClip], plan: &DayPlan) -> Option<Self> {
        let anchors: Vec<usize> =
            (0..clips.len()).filter(|&i| clips[i].device == plan.reference && clips[i].is_heard()).collect();
        let longest = || {
            let length = |clip: usize| clips[clip].duration_s;
            anchors.iter().copied().max_by(|&a, &b| length(a).total_cmp(&length(b)).then(b.cmp(&a)))
        };
        let origin = plan.origin.filter(|i| anchors.contains(i)).or_else(longest)?;
        let tied = if plan.mode == Mode::Day { ties(clips, &anchors, origin) } else { vec![] };
        Some(Self { origin, anchors, tied })
    }

    /// Where a clip starts that is the axis by definition: the origin, or one tied to it.
    pub fn start_s(&self, clip: usize) -> Option<f64> {
        if clip == self.origin {
            return Some(0.0);
        }
        self.tied.iter().find(|(tied, _)| *tied == clip).map(|(_, start_s)| *start_s)
    }

    /// Whether a clip is the axis by definition.
    pub fn holds(&self, clip: usize) -> bool {
        self.start_s(clip).is_some()
    }
}

/// The reference's clips that its own time references tie to the origin, with their starts. Where they would lie over
/// one another the references mean nothing.
fn ties(clips: &[DayClip], anchors: &[usize], origin: usize) -> Vec<(usize, f64)> {
    let Some(zero) = clips[origin].time_reference_s else { return vec![] };
    let tied: Vec<(usize, f64)> = anchors
        .iter()
        .filter(|&&clip| clip != origin)
        .filter_map(|&clip| Some((clip, clips[clip].time_reference_s? - zero)))
        .collect();
    let mut extents: Vec<(f64, f64)> =
        tied.iter().map(|&(clip, start)| (start, start + clips[clip].duration_s)).collect();
    extents.push((0.0, clips[origin].duration_s));
    extents.sort_by(|a, b| a.0.total_cmp(&b.0));
    let overlapping = extents.windows(2).any(|pair| pair[0].1 > pair[1].0 + 0.1);
    if overlapping { vec![] } else { tied }
}
