//! A picture clip with the sound that belongs to it, linked: nothing is written anew.

use super::{
    LaidSound, Source, Sources,
    items::{at_rate, range, time, track},
    sound::sound_tracks,
};
use crate::clip::{ClipId, PictureFacts};
use serde_json::{Value, json};

/// The picture that sound is linked to.
#[derive(Debug, Clone, Copy)]
pub struct OwnPicture<'a> {
    /// Its clip, which the sources know.
    pub clip: ClipId,
    /// Its device's name.
    pub device: &'a str,
    /// Whether its own sound is there too, switched off.
    pub with_own_sound: bool,
}

/// The picture from its first frame to its last at its own timecode, and below it every recorder's sound, piece by piece as its
/// clock is corrected. `metadata` is said of the whole. `None` where the clip has no picture.
pub fn synced_document(
    own: &OwnPicture,
    sources: &Sources,
    sound: &LaidSound,
    metadata: Value,
) -> Option<Value> {
    let source = sources.clips.get(&own.clip)?;
    let picture = source.facts.picture.as_ref()?;
    let first = source.first_frame(picture.rate);
    let frames = frames(picture);
    let pictures =
        item(source, own.clip, range(first, frames, picture.rate), range(first, frames, picture.rate));
    let mut tracks = vec![track(own.device, "Video", vec![pictures])];
    tracks.extend(sound_tracks(sources, sound, sound.plan.samples as f64));
    tracks.extend(own_sound(own, source, picture).filter(|_| own.with_own_sound));
    Some(json!({
        "OTIO_SCHEMA": "Timeline.1",
        "name": source.file_name,
        "metadata": { "metaxis": metadata },
        "global_start_time": time(first, picture.rate),
        "tracks": {
            "OTIO_SCHEMA": "Stack.1", "name": "tracks", "metadata": {}, "source_range": null,
            "effects": [], "markers": [], "enabled": true, "children": tracks,
        },
    }))
}

/// What its file counts, else what its length comes to.
fn frames(picture: &PictureFacts) -> i64 {
    picture.frames.unwrap_or_else(|| (picture.duration_s * picture.rate.as_f64()).round() as i64)
}

/// The picture's own sound over its range, switched off.
fn own_sound(own: &OwnPicture, source: &Source, picture: &PictureFacts) -> Option<Value> {
    let sound = source.facts.sound.as_ref()?;
    let rate = f64::from(sound.rate.0);
    let origin = source.first_sample() as f64;
    let length = frames(picture) as f64 / picture.rate.as_f64() * rate;
    let there = (sound.duration_s * rate).round();
    let of = |start: f64, length: f64| {
        json!({
            "OTIO_SCHEMA": "TimeRange.1", "start_time": at_rate(start, rate), "duration": at_rate(length, rate),
        })
    };
    let delay = (source.facts.picture_delay_s() * rate).round();
    let own_item = item(source, own.clip, of(origin + delay, length), of(origin, there));
    let mut below = track(own.device, "Audio", vec![own_item]);
    below["enabled"] = false.into();
    Some(below)
}

fn item(source: &Source, clip: ClipId, part: Value, available: Value) -> Value {
    json!({
        "OTIO_SCHEMA": "Clip.2",
        "name": source.file_name,
        "enabled": true, "effects": [], "markers": [],
        "metadata": { "metaxis": { "reel": source.reel(), "clip_id": clip.0 } },
        "source_range": part,
        "media_references": { "DEFAULT_MEDIA": {
            "OTIO_SCHEMA": "ExternalReference.1",
            "name": source.file_name,
            "metadata": {},
            "available_image_bounds": null,
            "available_range": available,
            "target_url": source.url,
        }},
        "active_media_reference_key": "DEFAULT_MEDIA",
    })
}
