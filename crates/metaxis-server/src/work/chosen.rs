//! What a person chose for clips and devices, on its way into a pass.

use crate::{App, engine::Listened, error::ApiError};
use metaxis_core::{
    clip::{ClipFacts, ClipId},
    sync::SlateMark,
    time::{FrameRate, Timecode, TimecodeError},
};
use metaxis_store::{DayView, Part};

/// Adds what a person chose for clips and devices: marks, distances, frames taken off; no sound where a clip is silent.
pub(super) fn add_choices(listened: &mut [Listened], day: &DayView) {
    for own in listened {
        let Some(clip) = day.clips.iter().find(|clip| clip.id == own.id) else { continue };
        if clip.part == Part::Silent {
            own.sounds.clear();
        }
        let mark = &clip.mark;
        let seconds = |us: Option<i64>| us.map(|us| us as f64 / 1e6);
        let take = [&clip.scene, &clip.take].map(|text| text.as_deref().unwrap_or_default()).join(" / ");
        let (picture_s, sound_s) = (seconds(mark.picture_us), seconds(mark.sound_us));
        own.mark =
            (picture_s.is_some() || sound_s.is_some()).then_some(SlateMark { picture_s, sound_s, take });
        own.slate_label_s = picture_s.zip(mark.label.as_deref()).and_then(|(at_s, text)| {
            let label = label_of(&clip.facts, text).ok()?;
            Some(label.since_midnight().seconds() - at_s)
        });
        if let Some(device) = day.devices.iter().find(|device| device.id == clip.device) {
            (own.distance_m, own.frames_off) = (device.distance_m, device.frames_off);
        }
    }
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
