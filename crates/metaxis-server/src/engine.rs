//! Between files that were listened to and the engine in the core: shared by the page and the command.

use metaxis_core::{
    clip::{ClipFacts, ClipId, DeviceId},
    group::{Group, GroupClip, propose_groups},
    signal::WhitenedBands,
    sync::{DayClip, DayResult, HeardSound},
    time::Tick,
};
use metaxis_media::{Cache, Fingerprint, Heard, MediaError, Stop, StoredSamples, listen};
use std::path::Path;

/// A clip's sound as the engine needs it.
pub struct Sound {
    samples: StoredSamples,
    bands: WhitenedBands,
}

/// A clip that was listened to.
pub struct Listened {
    /// Number of the clip.
    pub id: ClipId,
    /// Number of the device.
    pub device: DeviceId,
    /// What its file says.
    pub facts: ClipFacts,
    /// Its sound, where it has any to match.
    pub sound: Option<Sound>,
}

/// Listens to a file unless the cache knows it; `progress` is told the samples a channel decoded so far. `None`
/// where it has no sound stream.
///
/// # Errors
/// [`MediaError`] naming the file.
pub fn hear(
    path: &Path,
    fingerprint: &Fingerprint,
    facts: &ClipFacts,
    cache: &Cache,
    stop: &Stop,
    progress: &dyn Fn(u64),
) -> Result<Option<Heard>, MediaError> {
    let Some(sound) = &facts.sound else { return Ok(None) };
    listen(path, sound, &cache.clip(fingerprint), stop, progress).map(Some)
}

/// The sound to match, from the cache; `None` where no channel carries any.
///
/// # Errors
/// [`MediaError::Cache`].
pub fn sound(
    heard: Option<&Heard>,
    fingerprint: &Fingerprint,
    cache: &Cache,
) -> Result<Option<Sound>, MediaError> {
    if heard.is_none_or(|heard| heard.used.is_empty()) {
        return Ok(None);
    }
    let (samples, bands) = StoredSamples::open(&cache.clip(fingerprint))?;
    Ok(Some(Sound { samples, bands: WhitenedBands::new(&bands) }))
}

/// The clips as the day's solver sees them.
pub fn day_clips(clips: &[Listened]) -> Vec<DayClip<'_>> {
    clips
        .iter()
        .map(|clip| DayClip {
            device: clip.device.0 as usize,
            duration_s: clip.facts.duration_s,
            has_picture: clip.facts.picture.is_some(),
            sound: clip
                .sound
                .as_ref()
                .map(|sound| HeardSound { bands: &sound.bands, samples: &sound.samples }),
            time_reference_s: clip.facts.time_reference_s(),
        })
        .collect()
}

/// Time of day at the axis's zero, and the groups proposed from a result.
pub fn groups(
    clips: &[Listened],
    result: &DayResult,
    reference: DeviceId,
    order: &[DeviceId],
) -> (Tick, Vec<Group>) {
    let placed: Vec<GroupClip> = clips
        .iter()
        .zip(&result.placements)
        .map(|(clip, placement)| GroupClip {
            id: clip.id,
            device: clip.device,
            facts: &clip.facts,
            placement,
            reference: clip.device == reference,
        })
        .collect();
    let facts = &clips[result.reference].facts;
    let zero = match (facts.time_reference, &facts.sound) {
        (Some(samples), Some(sound)) => Tick::of_sample(i64::try_from(samples).unwrap_or(0), sound.rate.0),
        _ => Tick(0),
    };
    (zero, propose_groups(&placed, zero, order))
}
