//! A picture clip with the sound that belongs to it, linked: nothing is written anew.

use super::{
    LaidSound, Source, Sources,
    items::{Kind, media, range, range_at, stack, time, track},
    sound::sound_tracks,
};
use crate::clip::ClipId;
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
    let frames = source.frames()?;
    let whole = range(first, frames, picture.rate);
    let pictures = media(source, own.clip, Kind::Picture, whole.clone(), whole);
    let mut tracks = vec![track(own.device, Kind::Picture, vec![pictures])];
    tracks.extend(sound_tracks(sources, sound, sound.plan.samples as f64));
    tracks.extend(own_sound(own, source).filter(|_| own.with_own_sound));
    Some(json!({
        "OTIO_SCHEMA": "Timeline.1",
        "name": source.file_name,
        "metadata": { "metaxis": metadata },
        "global_start_time": time(first, picture.rate),
        "tracks": stack("tracks", tracks),
    }))
}

/// The picture's own sound over its range, switched off.
fn own_sound(own: &OwnPicture, source: &Source) -> Option<Value> {
    let (sound, picture) = (source.facts.sound.as_ref()?, source.facts.picture.as_ref()?);
    let rate = f64::from(sound.rate.0);
    let origin = source.first_sample() as f64;
    let length = source.frames()? as f64 / picture.rate.as_f64() * rate;
    let delay = (source.facts.picture_delay_s() * rate).round();
    let available = range_at(origin, source.samples()?, rate);
    let own_item = media(source, own.clip, Kind::Sound, range_at(origin + delay, length, rate), available);
    let mut below = track(own.device, Kind::Sound, vec![own_item]);
    below["enabled"] = false.into();
    Some(below)
}
