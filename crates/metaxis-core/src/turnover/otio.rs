//! OpenTimelineIO documents (schemas Timeline.1, Stack.1, Track.1, Clip.2, Gap.1, LinearTimeWarp.1,
//! ExternalReference.1).

use super::{Source, Sources, pieces};
use crate::{
    group::{Angle, AnglePart, Group},
    line::Line,
    time::FrameRate,
};
use serde_json::{Value, json};

/// The group: one picture track an angle, in step, and the sound below. The first angle is enabled, the
/// others are its alternatives.
pub fn group_document(group: &Group, sources: &Sources) -> Value {
    let mut tracks: Vec<Value> = group
        .angles
        .iter()
        .map(|angle| {
            let items = run(group, sources, &angle.parts, 0, group.frames, false);
            track(&sources.device_name(angle.device), "Video", items)
        })
        .collect();
    tracks.extend(sound_track(group, sources));
    timeline(&group.name, group, tracks)
}

/// The line: one picture track of cuts, and the sound that runs under them.
pub fn line_document(group: &Group, line: &Line, sources: &Sources) -> Value {
    let mut items = vec![];
    for (from, to, device) in line.stretches() {
        let parts =
            group.angles.iter().find(|angle| angle.device == device).map_or(&[][..], |angle| &angle.parts);
        items.extend(run(group, sources, parts, from, to, false));
    }
    let mut tracks = vec![track("Line", "Video", items)];
    tracks.extend(sound_track(group, sources));
    timeline(&format!("{} line", group.name), group, tracks)
}

fn sound_track(group: &Group, sources: &Sources) -> Option<Value> {
    let Angle { device, parts } = group.sound.as_ref()?;
    Some(track(&sources.device_name(*device), "Audio", run(group, sources, parts, 0, group.frames, true)))
}

fn run(group: &Group, sources: &Sources, parts: &[AnglePart], from: i64, to: i64, sound: bool) -> Vec<Value> {
    pieces(parts, from, to)
        .into_iter()
        .map(|(part, begin, end)| match part.and_then(|part| Some((part, sources.clips.get(&part.clip)?))) {
            Some((part, source)) => clip(group, part, source, begin, end, sound),
            None => json!({
                "OTIO_SCHEMA": "Gap.1", "name": "", "metadata": {}, "effects": [], "markers": [], "enabled": true,
                "source_range": range(0, end - begin, group.rate()),
            }),
        })
        .collect()
}

fn clip(group: &Group, part: &AnglePart, source: &Source, begin: i64, end: i64, sound: bool) -> Value {
    let rate = part.rate;
    let origin = source.first_frame(rate);
    let first = group.clip_frame(part, begin);
    let own_frames = (end - begin) as f64 * rate.as_f64() / group.rate().as_f64();
    let last = first + (own_frames - 1e-9).ceil() as i64;
    let duration_s = match (&source.facts.picture, sound) {
        (Some(picture), false) => picture.duration_s,
        _ => source.facts.duration_s,
    };
    let available = (duration_s * rate.as_f64()).round() as i64;
    json!({
        "OTIO_SCHEMA": "Clip.2",
        "name": source.file_name,
        "enabled": true, "effects": effects(part), "markers": [],
        "metadata": { "metaxis": {
            "reel": source.reel(),
            "clip_id": part.clip.0,
            "rate_ppm": part.stretch.rate_ppm,
            "axis_start_s": part.stretch.start_s,
        }},
        // Counted in the group's frames, lengths of any number of cuts add up to no error.
        "source_range": {
            "OTIO_SCHEMA": "TimeRange.1",
            "start_time": time(origin + first, rate),
            "duration": time(end - begin, group.rate()),
        },
        "media_references": { "DEFAULT_MEDIA": {
            "OTIO_SCHEMA": "ExternalReference.1",
            "name": source.file_name,
            "metadata": {},
            "available_image_bounds": null,
            "available_range": range(origin, available.max(last), rate),
            "target_url": source.url,
        }},
        "active_media_reference_key": "DEFAULT_MEDIA",
    })
}

/// What a clip that was recorded at another speed than its axis needs, to play in step.
fn effects(part: &AnglePart) -> Vec<Value> {
    let retimed = part.stretch.retimed().map(|speed| {
        json!({
            "OTIO_SCHEMA": "LinearTimeWarp.1", "name": "", "effect_name": "LinearTimeWarp", "metadata": {},
            "enabled": true, "time_scalar": speed,
        })
    });
    retimed.into_iter().collect()
}

fn track(name: &str, kind: &str, children: Vec<Value>) -> Value {
    json!({
        "OTIO_SCHEMA": "Track.1", "name": name, "kind": kind, "metadata": {}, "source_range": null,
        "effects": [], "markers": [], "enabled": true, "children": children,
    })
}

fn timeline(name: &str, group: &Group, tracks: Vec<Value>) -> Value {
    json!({
        "OTIO_SCHEMA": "Timeline.1",
        "name": name,
        "metadata": { "metaxis": { "width": group.width, "height": group.height, "start": group.start.to_string() } },
        "global_start_time": time(group.start.frames, group.rate()),
        "tracks": {
            "OTIO_SCHEMA": "Stack.1", "name": "tracks", "metadata": {}, "source_range": null,
            "effects": [], "markers": [], "enabled": true, "children": tracks,
        },
    })
}

fn time(frames: i64, rate: FrameRate) -> Value {
    json!({ "OTIO_SCHEMA": "RationalTime.1", "value": frames as f64, "rate": rate.as_f64() })
}

fn range(start: i64, length: i64, rate: FrameRate) -> Value {
    json!({ "OTIO_SCHEMA": "TimeRange.1", "start_time": time(start, rate), "duration": time(length, rate) })
}
