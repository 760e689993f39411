//! A whole day: clips in, placements out, stage by stage.

use super::{
    find::{Finder, Link},
    input::{Aside, Axis, DayClip, DayPlan, Flow, Mode, Stopped, without},
    labels::label_places,
    settle::Settling,
    solve::{End, Layout, adjust, confirm, look_at_ends, mend_ends},
    tell::{DayResult, islands_laid, placements, tell_aside},
};
use serde::{Deserialize, Serialize};
use thiserror::Error;

/// Why a day could not be placed at all.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum DayError {
    /// Nothing to take as reference.
    #[error("no clip has any sound to take as the reference")]
    NoReference,
    /// Stopped by the caller.
    #[error("stopped")]
    Stopped,
}

impl From<Stopped> for DayError {
    fn from(_: Stopped) -> Self {
        Self::Stopped
    }
}

/// Places every clip on the axis of the reference. Of a day performed to tracks the same stages are gone through, but for
/// those that need one real time: there clips hang on their track alone, and lie over each other.
///
/// ```
/// use metaxis_core::{
///     signal::{BandReader, LISTEN_RATE, Pattern},
///     sync::{DayClip, DayPlan, Effort, GivenDistance, HeardSound, Mode, Verdict, place_day},
/// };
/// use std::ops::ControlFlow;
///
/// // Forty seconds of knocks, none like another; a recorder hears all of them, a camera those from 12.5 s on.
/// let mut state = 1_u32;
/// let mut chance = || {
///     state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
///     state as f32 / u32::MAX as f32 - 0.5
/// };
/// let (mut level, mut low, mut scene) = (0.0_f32, 0.0, vec![]);
/// for _ in 0..40 * LISTEN_RATE as usize {
///     if chance() > 0.4998 {
///         level = 0.5;
///     }
///     level *= 0.9995;
///     low += 0.5 * (level * chance() - low);
///     scene.push(low);
/// }
/// let camera: Vec<f32> = scene[200_000..400_000].iter().map(|value| 0.3 * value).collect();
///
/// let pattern = |sound: &[f32]| {
///     let mut bands = BandReader::new();
///     bands.push(sound);
///     Pattern::new(&bands.finish())
/// };
/// let patterns = [pattern(&scene), pattern(&camera)];
/// let clip = |device: usize, sound| DayClip {
///     device,
///     duration_s: 40.0,
///     has_picture: device == 1,
///     sounds: vec![HeardSound::of(&patterns[device], sound)],
///     time_reference_s: None,
///     labels: vec![],
///     against_box: None,
///     marks: vec![],
///     distance: GivenDistance::None,
/// };
/// let plan = DayPlan { reference: 0, origin: None, effort: Effort::Normal, mode: Mode::Day };
/// let day = place_day(&[clip(0, &scene), clip(1, &camera)], plan, &|_| ControlFlow::Continue(()))?;
///
/// assert_eq!(day.placements[1].verdict, Verdict::Solid);
/// assert!((day.placements[1].stretches[0].start_s - 12.5).abs() < 1e-4);
/// # Ok::<(), metaxis_core::sync::DayError>(())
/// ```
///
/// # Errors
/// [`DayError::NoReference`] where that device has no sound; [`DayError::Stopped`] when `flow` breaks.
pub fn place_day(clips: &[DayClip], plan: DayPlan, flow: &Flow) -> Result<DayResult, DayError> {
    weigh_day(clips, plan, &find_day(clips, plan, flow)?, &[])
}

/// What listening found between the clips of a day, before anything is made of it: nearly all of the work. Clips are named
/// by their place in the list that was given.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct Found {
    /// Who heard the same as whom.
    links: Vec<Link>,
    /// Doubtful places measured against others that should have heard the same.
    confirming: Vec<Link>,
    /// Ends of clips that nothing showed, against others that ran then.
    ends: Vec<End>,
}

/// Listens for every clip of a day in the others.
///
/// # Errors
/// As [`place_day`].
pub fn find_day(clips: &[DayClip], plan: DayPlan, flow: &Flow) -> Result<Found, DayError> {
    let axis = Axis::of(clips, &plan).ok_or(DayError::NoReference)?;
    let finder = Finder::new(clips, &axis, &plan, flow);
    let links = finder.all_links()?;
    if plan.mode == Mode::Playback {
        return Ok(Found { links, confirming: vec![], ends: vec![] });
    }
    let confirming = confirm(clips, &join(clips, &axis, plan.mode, &links), &links);
    finder.progress.unless_stopped(())?;
    let (layout, all, fixed) = solved(clips, &axis, &links, &confirming);
    let ends = look_at_ends(clips, &layout, &all, &fixed, &|| finder.progress.stopped());
    Ok(finder.progress.unless_stopped(Found { links, confirming, ends })?)
}

/// Places every clip by what was found, and by everything else that speaks for a place, but for what is set aside. Nothing
/// is listened to: of the clips' sounds only their number counts.
///
/// # Errors
/// [`DayError::NoReference`].
pub fn weigh_day(
    clips: &[DayClip],
    plan: DayPlan,
    found: &Found,
    aside: &[Aside],
) -> Result<DayResult, DayError> {
    if aside.is_empty() {
        return weigh(clips, plan, found.clone());
    }
    let all = weigh(clips, plan, found.clone())?;
    let mut result = weigh(&without(clips, aside), plan, found.without(aside))?;
    tell_aside(&mut result, &all, aside);
    Ok(result)
}

fn weigh(clips: &[DayClip], plan: DayPlan, found: Found) -> Result<DayResult, DayError> {
    let axis = Axis::of(clips, &plan).ok_or(DayError::NoReference)?;
    let (layout, links, open_ends) = match plan.mode {
        Mode::Day => {
            let (mut layout, mut links, fixed) = solved(clips, &axis, &found.links, &found.confirming);
            let open_ends = mend_ends(clips, &mut layout, &mut links, &fixed, found.ends);
            (layout, links, open_ends)
        }
        Mode::Playback => (join(clips, &axis, plan.mode, &found.links), found.links, vec![None; clips.len()]),
    };
    let mut day = Settling::new(clips, &axis, &links, layout, open_ends);
    let clocks = if plan.mode == Mode::Day { day.clocks() } else { vec![] };
    day.told = label_places(clips, &clocks, &|clip| day.travel_s(clip));
    let rates = day.settle(&clocks);
    let distances = if plan.mode == Mode::Day { day.shown_distances() } else { vec![] };
    let judged = day.weigh_all();
    let placements = placements(&day, &judged);
    let islands = islands_laid(&day, &clocks);
    Ok(DayResult { reference: axis.origin, placements, rates, clocks, distances, islands })
}

/// All clips that have something in common, laid out together.
fn join(clips: &[DayClip], axis: &Axis, mode: Mode, links: &[Link]) -> Layout {
    let mut layout = Layout::new(clips, axis.origin, &axis.tied);
    layout.join_all(clips, links, axis.origin, &axis.anchors, mode == Mode::Day);
    layout
}

/// Positions and rates from all links at once; all links, and which clips lie where they do by definition.
fn solved(
    clips: &[DayClip],
    axis: &Axis,
    links: &[Link],
    confirming: &[Link],
) -> (Layout, Vec<Link>, Vec<bool>) {
    let mut layout = join(clips, axis, Mode::Day, links);
    let links = [links, confirming].concat();
    let bases = layout.bases(clips, &axis.anchors);
    let is_fixed = |clip: usize| axis.holds(clip) || bases.iter().any(|(_, base)| *base == clip);
    let fixed: Vec<bool> = (0..clips.len()).map(is_fixed).collect();
    let reference = clips[axis.origin].device;
    let same_clock: Vec<bool> = clips.iter().map(|clip| clip.device == reference).collect();
    adjust(&mut layout, &links, &fixed, &same_clock);
    (layout, links, fixed)
}

impl Found {
    /// Without what two clips heard of each other, where that is set aside.
    fn without(&self, aside: &[Aside]) -> Self {
        let stays = |link: &Link| !aside.iter().any(|own| own.is_between(link.clip, link.against));
        let of = |links: &[Link]| links.iter().filter(|link| stays(link)).cloned().collect();
        Self {
            links: of(&self.links),
            confirming: of(&self.confirming),
            ends: self.ends.iter().filter(|(_, link)| stays(link)).cloned().collect(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sync::{
        answer::{EvidenceKind, Verdict},
        trial::{PLAN, Sound, labelled, link},
    };

    fn found(links: Vec<Link>) -> Found {
        Found { links, confirming: vec![], ends: vec![] }
    }

    fn start_s(day: &DayResult, clip: usize) -> Option<f64> {
        day.placements[clip].stretches.first().map(|first| first.start_s)
    }

    /// A camera that two recordings of the reference's scene put at 10 s and, wrongly, at 14 s; its timecode says 10.
    #[test]
    fn without_one_piece_of_evidence_a_clip_lies_where_the_others_put_it() {
        let sound = Sound::some();
        let other = |device: usize, at: f64| labelled(sound.clip(device, 100.0), at);
        let clips = [other(0, 1000.0), other(1, 1010.0), other(2, 1020.0), other(1, 1210.0)];
        let links = vec![link(1, 0, 10.0, 80.0), link(2, 0, 20.0, 80.0), link(1, 2, -10.0, 80.0)];
        let found = found(links);
        let weighed = |aside: &[Aside]| weigh_day(&clips, PLAN, &found, aside).expect("an axis");

        let all = weighed(&[]);
        assert!((start_s(&all, 1).expect("a place") - 10.0).abs() < 1e-6);
        assert!(all.placements[1].evidence.iter().all(|evidence| !evidence.aside));

        // Without what the reference heard it hangs on the other camera, and lies there still.
        let by_reference = Aside { clip: 1, kind: EvidenceKind::Waveform, against: Some(0) };
        let one = weighed(&[by_reference]);
        assert!((start_s(&one, 1).expect("a place") - 10.0).abs() < 1e-3);
        let told: Vec<_> = one.placements[1].evidence.iter().filter(|evidence| evidence.aside).collect();
        assert_eq!(told.len(), 1);
        assert_eq!((told[0].against, told[0].used), (Some(0), false));

        // Without any sound it lies by its timecode, and that is less.
        let by_camera = Aside { against: Some(2), ..by_reference };
        let none = weighed(&[by_reference, by_camera]);
        assert!((start_s(&none, 1).expect("a place") - 10.0).abs() < 0.05);
        assert_ne!(none.placements[1].verdict, all.placements[1].verdict);
        assert_eq!(none.placements[1].evidence.iter().filter(|evidence| evidence.aside).count(), 2);
        // What two clips heard of each other is set aside for both.
        assert!(
            none.placements[2].evidence.iter().any(|evidence| evidence.aside && evidence.against == Some(1))
        );
    }

    #[test]
    fn without_everything_a_clip_has_no_place_and_what_was_set_aside_is_told() {
        let sound = Sound::some();
        let clips = [sound.clip(0, 100.0), sound.clip(1, 60.0)];
        let found = found(vec![link(1, 0, 10.0, 60.0)]);
        let aside = [Aside { clip: 1, kind: EvidenceKind::Waveform, against: Some(0) }];
        let day = weigh_day(&clips, PLAN, &found, &aside).expect("an axis");
        assert_eq!(day.placements[1].verdict, Verdict::Unplaced);
        assert_eq!(day.placements[1].evidence.len(), 1);
        assert!((day.placements[1].evidence[0].start_s - 10.0).abs() < 1e-6);
    }
}
