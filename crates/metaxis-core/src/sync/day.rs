//! A whole day: clips in, placements out, stage by stage.

use super::{
    find::{Finder, Link},
    input::{Axis, DayClip, DayPlan, Flow, Mode, Stopped},
    labels::label_places,
    settle::Settling,
    solve::{Layout, OpenEnd, adjust, check_ends, confirm},
    tell::{DayResult, islands_laid, placements},
};
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
    let axis = Axis::of(clips, &plan).ok_or(DayError::NoReference)?;
    let finder = Finder::new(clips, &axis, &plan, flow);
    let mut links = finder.all_links()?;
    let mut layout = join(clips, &axis, plan.mode, &links);
    let open_ends = match plan.mode {
        Mode::Day => {
            links.extend(confirm(clips, &layout, &links));
            finder.progress.unless_stopped(())?;
            adjust_all(clips, &axis, &finder, &mut layout, &mut links)?
        }
        Mode::Playback => vec![None; clips.len()],
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

/// Positions and rates from all links at once, and the ends of clips that nothing shows compared with what else ran then.
fn adjust_all(
    clips: &[DayClip],
    axis: &Axis,
    finder: &Finder,
    layout: &mut Layout,
    links: &mut Vec<Link>,
) -> Result<Vec<Option<OpenEnd>>, Stopped> {
    let bases = layout.bases(clips, &axis.anchors);
    let is_fixed = |clip: usize| axis.holds(clip) || bases.iter().any(|(_, base)| *base == clip);
    let fixed: Vec<bool> = (0..clips.len()).map(is_fixed).collect();
    let reference = clips[axis.origin].device;
    let same_clock: Vec<bool> = clips.iter().map(|clip| clip.device == reference).collect();
    adjust(layout, links, &fixed, &same_clock);
    let open_ends = check_ends(clips, layout, links, &fixed, &|| finder.progress.stopped());
    finder.progress.unless_stopped(open_ends)
}
