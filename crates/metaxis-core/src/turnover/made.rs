//! Sound that was made of a group, handed on: documents that point at its files instead of those of the recorders.

use super::{
    Source, Sources,
    bundle::escaped,
    items::{Kind, range_at, track},
    list,
    otio::{group_document, line_document},
};
use crate::{
    clip::{ClipFacts, ClipId},
    group::{Angle, AngleId, AnglePart, Group},
    line::Line,
    sync::Stretch,
    time::SampleRate,
};
use serde_json::{Value, json};

/// A WAV with what is heard over a group, which lies beside the documents.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct MadeSound {
    /// Its file's name.
    pub name: String,
    /// What its tracks are called, one a channel.
    pub tracks: Vec<String>,
    /// Samples a second.
    pub rate: SampleRate,
    /// Bits of each.
    pub bits: u32,
    /// How many samples it has, with its handles.
    pub samples: i64,
    /// How many of them are before the group begins, and as many behind its end.
    pub handles: i64,
    /// Samples since midnight at its first.
    pub time_reference: u64,
}

/// The group with the sound that was made of it: its pictures, those of its line where it has one, and a track for each channel of
/// each file, without the handles, which are there to be drawn out.
pub fn made_document(group: &Group, line: Option<&Line>, sources: &Sources, made: &[MadeSound]) -> Value {
    let mut document = match line {
        Some(line) => line_document(group, line, sources, None),
        None => group_document(group, sources, None),
    };
    document["name"] = format!("{} sound", group.name).into();
    if let Some(tracks) = document["tracks"]["children"].as_array_mut() {
        tracks.retain(|own| own["kind"] == "Video");
        tracks.extend(made.iter().flat_map(tracks_of));
    }
    document
}

fn tracks_of(own: &MadeSound) -> Vec<Value> {
    let rate = f64::from(own.rate.0);
    let (first, of) = (own.time_reference as f64, own.tracks.len());
    let one = |(number, name): (usize, &String)| {
        let mut clip = json!({
            "OTIO_SCHEMA": "Clip.2",
            "name": own.name,
            "enabled": true, "effects": [], "markers": [],
            "metadata": { "metaxis": { "time_reference": own.time_reference, "handles": own.handles } },
            "media_references": { "DEFAULT_MEDIA": {
                "OTIO_SCHEMA": "ExternalReference.1", "name": own.name, "metadata": {}, "available_image_bounds": null,
                "available_range": range_at(first, own.samples as f64, rate),
                "target_url": escaped(&own.name),
            } },
            "active_media_reference_key": "DEFAULT_MEDIA",
        });
        let length = (own.samples - 2 * own.handles) as f64;
        clip["source_range"] = range_at(first + own.handles as f64, length, rate);
        let mut made = track(name, Kind::Sound, vec![clip]);
        made["metadata"]["metaxis"] = json!({ "channel": number + 1, "of": of });
        made
    };
    own.tracks.iter().enumerate().map(one).collect()
}

/// The same as edit decision lists: an event a track, from the group's first frame to its last, four to a list, as many as have names
/// there.
pub fn made_lists(group: &Group, made: &[MadeSound]) -> Vec<String> {
    // What was taken out of the group was taken out of its sound: along that there are no seams.
    let group = &Group { seams: vec![], removed: vec![], window: None, ..group.clone() };
    let known = |(number, own): (usize, &MadeSound)| {
        let facts = ClipFacts {
            // The label at which the group begins, whatever samples a frame are.
            timecode: Some(group.start),
            ..ClipFacts::default()
        };
        (ClipId(number as i64), Source { file_name: own.name.clone(), facts, ..Source::default() })
    };
    let sources = Sources { clips: made.iter().enumerate().map(known).collect(), ..Sources::default() };
    let tracks: Vec<(Angle, AnglePart, String)> =
        made.iter().enumerate().flat_map(|(number, own)| laid(group, number, own)).collect();
    list::tracks_lists(group, &tracks, &sources)
}

/// Each track of a file as it lies under all of the group.
fn laid(group: &Group, number: usize, own: &MadeSound) -> Vec<(Angle, AnglePart, String)> {
    let part = AnglePart {
        clip: ClipId(number as i64),
        from_frame: 0,
        to_frame: group.frames,
        stretch: Stretch::whole(group.passed(group.frames).seconds(), group.frame_start(0).seconds()),
        picture_delay_s: 0.0,
        rate: group.rate(),
        still: false,
    };
    let angle = Angle {
        id: AngleId(number as i64 + 1),
        device: None,
        name: None,
        hidden: false,
        through: None,
        parts: vec![part.clone()],
    };
    own.tracks.iter().map(|name| (angle.clone(), part.clone(), name.clone())).collect()
}
