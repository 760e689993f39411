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

/// The clip whose clock a plan's axis is; `None` where the reference has no sound.
pub fn axis_origin(clips: &[DayClip], plan: &DayPlan) -> Option<usize> {
    Axis::of(clips, plan).map(|axis| axis.origin)
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        signal::Pattern,
        sync::input::{Effort, GivenDistance, HeardSound},
    };

    fn clips<'a>(
        pattern: &'a Pattern,
        samples: &'a Vec<f32>,
        all: &[(usize, f64, bool, Option<f64>)],
    ) -> Vec<DayClip<'a>> {
        let clip =
            |&(device, duration_s, heard, time_reference_s): &(usize, f64, bool, Option<f64>)| DayClip {
                device,
                duration_s,
                has_picture: false,
                sounds: if heard { vec![HeardSound::of(pattern, samples)] } else { vec![] },
                time_reference_s,
                labels: vec![],
                against_box: None,
                marks: vec![],
                distance: GivenDistance::None,
            };
        all.iter().map(clip).collect()
    }

    fn plan(origin: Option<usize>, mode: Mode) -> DayPlan {
        DayPlan { reference: 7, origin, effort: Effort::Normal, mode }
    }

    #[test]
    fn it_begins_with_the_references_longest_clip_that_is_heard() {
        let (pattern, samples) = (Pattern::new(&crate::signal::Bands::default()), vec![0.0; 16]);
        let all =
            [(1, 90.0, true, None), (7, 20.0, true, None), (7, 60.0, true, None), (7, 80.0, false, None)];
        let clips = clips(&pattern, &samples, &all);
        let axis = Axis::of(&clips, &plan(None, Mode::Day)).expect("an axis");
        assert_eq!((axis.origin, &axis.anchors[..]), (2, &[1, 2][..]));
        assert_eq!(Axis::of(&clips, &plan(Some(1), Mode::Day)).map(|axis| axis.origin), Some(1));
        // What is none of the reference's begins nothing.
        assert_eq!(Axis::of(&clips, &plan(Some(0), Mode::Day)).map(|axis| axis.origin), Some(2));
        assert_eq!(Axis::of(&clips[..1], &plan(None, Mode::Day)), None);
    }

    #[test]
    fn time_references_tie_where_they_mean_something() {
        let (pattern, samples) = (Pattern::new(&crate::signal::Bands::default()), vec![0.0; 16]);
        let day = |second: f64| {
            clips(&pattern, &samples, &[(7, 60.0, true, Some(1000.0)), (7, 30.0, true, Some(second))])
        };
        let apart = Axis::of(&day(1100.0), &plan(None, Mode::Day)).expect("an axis");
        assert_eq!((apart.start_s(0), apart.start_s(1), apart.holds(1)), (Some(0.0), Some(100.0), true));
        // Over one another they are not when the clips were shot.
        let over = Axis::of(&day(1010.0), &plan(None, Mode::Day)).expect("an axis");
        assert!(over.tied.is_empty() && !over.holds(1));
        // Tracks are not of one real time.
        assert!(Axis::of(&day(1100.0), &plan(None, Mode::Playback)).expect("an axis").tied.is_empty());
    }
}
