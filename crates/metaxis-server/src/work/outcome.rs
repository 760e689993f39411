//! What a pass is made of, and how it is kept: the same for whole passes and for those made from one.

use crate::{
    App,
    error::ApiError,
    heard_day::{self, Listened},
};
use metaxis_core::{
    clip::{ClipId, DeviceId},
    sync::{ClockNote, DayResult, Mode, Placement},
};
use metaxis_store::{DayView, Part, PassFacts, StoredClip};

/// The clips that take part in a pass, and those that do not.
pub(super) fn taking_part(app: &App, mode: Mode) -> Result<(Vec<StoredClip>, Vec<StoredClip>), ApiError> {
    let takes_part = |part: Part| match part {
        Part::Sync | Part::Wild | Part::Silent => true,
        Part::Playback => mode == Mode::Playback,
        Part::NoSync => false,
    };
    Ok(app.store.stored_clips()?.into_iter().partition(|clip| takes_part(clip.part)))
}

/// Nothing of what is to be placed has any sound.
pub(super) fn no_reference() -> ApiError {
    ApiError::Refused(
        "no clip that takes part has any sound to sync to; take in a folder with sound first".into(),
    )
}

/// What is to become a pass.
pub(super) struct Outcome {
    pub name: String,
    pub reference: DeviceId,
    pub took_s: f64,
    pub notes: Vec<ClockNote>,
    /// In the store's numbers.
    pub result: DayResult,
}

/// Whether the clip that begins at the axis's zero is a track that everything was performed to.
pub(super) fn is_track(clips: &[StoredClip], origin: ClipId) -> bool {
    clips.iter().any(|clip| clip.id == origin && clip.part == Part::Playback)
}

/// Keeps a pass with its groups; `resting` are the clips that take no part. Its running number.
pub(super) fn keep_outcome(
    app: &App,
    outcome: Outcome,
    listened: &[Listened],
    resting: &[StoredClip],
    day: &DayView,
) -> Result<u32, ApiError> {
    let Outcome { name, reference, took_s, notes, result } = outcome;
    let order: Vec<DeviceId> = day.devices.iter().map(|device| device.id).collect();
    let origin = listened[result.reference].id;
    let (axis_zero, groups) = heard_day::groups(
        listened,
        &result.placements,
        result.reference,
        reference,
        &result.islands,
        &order,
        is_track(&app.store.stored_clips()?, origin),
    );
    let told = listened.iter().map(|clip| clip.id).zip(result.placements);
    let mut placements: Vec<_> = told.filter(|(_, placement)| !is_not_yet(placement)).collect();
    placements.extend(resting.iter().map(|clip| (clip.id, Placement::unplaced(why_resting(clip.part)))));
    let kept = PassFacts { name, reference, origin, axis_zero, took_s, notes, islands: result.islands };
    Ok(app.store.keep_pass(&kept, &placements, &groups)?)
}

/// Clips in the store's numbers: the engine names them by their place in its list.
pub(super) fn in_store_numbers(result: &mut DayResult, listened: &[Listened]) {
    let number = |i: usize| usize::try_from(listened[i].id.0).unwrap_or_default();
    for evidence in result.placements.iter_mut().flat_map(|placement| &mut placement.evidence) {
        evidence.against = evidence.against.map(number);
    }
    for island in &mut result.islands {
        island.reference = number(island.reference);
    }
}

/// What stands for the place of a clip that no pass was asked for: nothing is said of it.
pub(super) fn not_yet() -> Placement {
    Placement::unplaced(NOT_YET)
}

fn is_not_yet(placement: &Placement) -> bool {
    placement.stretches.is_empty() && placement.reasons == [NOT_YET]
}

const NOT_YET: &str = "not synced yet";

pub(super) fn bare(clip: &StoredClip) -> Listened {
    Listened::new(clip.id, clip.device, clip.facts.clone())
}

fn why_resting(part: Part) -> &'static str {
    match part {
        Part::Playback => "It is a playback track, not a recording of the day.",
        Part::NoSync | Part::Sync | Part::Wild | Part::Silent => "It is set not to take part.",
    }
}
