//! What a person chose for clips and devices, on its way into a pass.

use crate::{App, error::ApiError, heard_day::Listened};
use metaxis_core::{
    clip::{ClipFacts, ClipId},
    sync::{GivenDistance, SlateMark},
    time::{FrameRate, Timecode, TimecodeError},
};
use metaxis_store::{DayView, Part, SlateMarkView};

/// Adds what a person chose for clips and devices: marks, distances, frames taken off; no sound where a clip is silent.
pub(super) fn add_choices(listened: &mut [Listened], day: &DayView) {
    for own in listened {
        let Some(clip) = day.clips.iter().find(|clip| clip.id == own.id) else { continue };
        if clip.part == Part::Silent {
            own.sounds.clear();
        }
        (own.facts.scene, own.facts.take) = (clip.scene.clone(), clip.take.clone());
        let own_take = [&clip.scene, &clip.take].map(|text| text.as_deref().unwrap_or_default()).join(" / ");
        own.marks = clip.marks.iter().map(|mark| slate_mark(mark, &own_take)).collect();
        own.slate_label_s = clip.marks.iter().find_map(|mark| {
            let at_s = mark.picture_us.map(seconds)?;
            let label = label_of(&clip.facts, mark.label.as_deref()?).ok()?;
            Some(label.since_midnight().seconds() - at_s)
        });
        if let Some(device) = day.devices.iter().find(|device| device.id == clip.device) {
            own.distance = GivenDistance::of(clip.distance_m, device.distance_m);
            own.taken_off = device.taken_off;
        }
    }
}

fn seconds(us: i64) -> f64 {
    us as f64 / 1e6
}

/// A mark as the engine takes it: of the clip's own scene and take, unless it says of which.
fn slate_mark(mark: &SlateMarkView, own_take: &str) -> SlateMark {
    let take = mark.take.as_deref().map_or_else(|| own_take.to_owned(), spaced);
    SlateMark { picture_s: mark.picture_us.map(seconds), sound_s: mark.sound_us.map(seconds), take }
}

/// "2/3" as scene and take are written everywhere else.
fn spaced(take: &str) -> String {
    take.split('/').map(str::trim).collect::<Vec<_>>().join(" / ")
}

/// A label as it stands on a timecode slate, at the clip's own rate.
fn label_of(facts: &ClipFacts, text: &str) -> Result<Timecode, TimecodeError> {
    let rate = facts.timecode.map(|label| label.rate).or(facts.picture.as_ref().map(|picture| picture.rate));
    Timecode::parse(text, rate.unwrap_or(FrameRate::FPS_25))
}

/// Reads a label typed for a clip.
///
/// # Errors
/// [`ApiError::Refused`] with what is wrong with it.
pub fn read_label(app: &App, clip: ClipId, text: &str) -> Result<Timecode, ApiError> {
    label_of(&app.store.clip(clip)?.facts, text).map_err(|e| ApiError::Refused(e.to_string()))
}
