//! Between files that were listened to and the engine in the core: shared by the page and the command.

use metaxis_core::{
    clip::{ClipFacts, ClipId, DeviceId},
    group::{Group, GroupClip, propose_groups},
    signal::{ChannelState, Pattern},
    sync::{DayClip, HeardSound, Placement, labels},
    time::Tick,
};
use metaxis_media::{Cache, Fingerprint, Heard, MediaError, Stop, StoredSamples, listen};
use std::path::Path;

/// One of a clip's sounds as the engine needs it.
pub struct Sound {
    samples: StoredSamples,
    pattern: Pattern,
}

/// A clip that was listened to.
pub struct Listened {
    /// Number of the clip.
    pub id: ClipId,
    /// Number of the device.
    pub device: DeviceId,
    /// What its file says.
    pub facts: ClipFacts,
    /// What its channels carry.
    pub channels: Vec<ChannelState>,
    /// Its sounds, where it has any to match.
    pub sounds: Vec<Sound>,
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

/// The sounds to match, from the cache; none where no channel carries any.
///
/// # Errors
/// [`MediaError::Cache`].
pub fn sounds(
    heard: Option<&Heard>,
    fingerprint: &Fingerprint,
    cache: &Cache,
) -> Result<Vec<Sound>, MediaError> {
    let Some(heard) = heard.filter(|heard| !heard.used.is_empty()) else { return Ok(vec![]) };
    let clip = cache.clip(fingerprint);
    let open = |sound| {
        let (samples, bands) = StoredSamples::open(&clip, sound)?;
        Ok(Sound { samples, pattern: Pattern::new(&bands) })
    };
    (0..heard.sounds).map(open).collect()
}

/// The clips as the day's solver sees them.
pub fn day_clips(clips: &[Listened]) -> Vec<DayClip<'_>> {
    clips
        .iter()
        .map(|clip| DayClip {
            device: clip.device.0 as usize,
            duration_s: clip.facts.duration_s,
            has_picture: clip.facts.picture.is_some(),
            sounds: clip
                .sounds
                .iter()
                .map(|sound| HeardSound { pattern: &sound.pattern, samples: &sound.samples })
                .collect(),
            time_reference_s: clip.facts.time_reference_s(),
            labels: labels(&clip.facts, &clip.channels),
        })
        .collect()
}

/// Time of day at the axis's zero, and the groups proposed from a result.
pub fn groups(
    clips: &[Listened],
    placements: &[Placement],
    origin: usize,
    reference: DeviceId,
    order: &[DeviceId],
) -> (Tick, Vec<Group>) {
    let placed: Vec<GroupClip> = clips
        .iter()
        .zip(placements)
        .map(|(clip, placement)| GroupClip {
            id: clip.id,
            device: clip.device,
            facts: &clip.facts,
            placement,
            reference: clip.device == reference,
        })
        .collect();
    let facts = &clips[origin].facts;
    let zero = match (facts.time_reference, &facts.sound) {
        (Some(samples), Some(sound)) => Tick::of_sample(i64::try_from(samples).unwrap_or(0), sound.rate.0),
        _ => Tick(0),
    };
    (zero, propose_groups(&placed, zero, order))
}
