//! What every document of OpenTimelineIO is made of.

use super::Source;
use crate::{clip::ClipId, time::FrameRate};
use serde_json::{Value, json};

/// What of a source is meant.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Kind {
    Picture,
    Sound,
}

impl Kind {
    fn otio(self) -> &'static str {
        match self {
            Self::Picture => "Video",
            Self::Sound => "Audio",
        }
    }
}

/// A part of a source's media: `part` of it, of all that is `available`, both counted as its file counts.
pub(super) fn media(source: &Source, clip: ClipId, kind: Kind, part: Value, available: Value) -> Value {
    let mut own = json!({
        "OTIO_SCHEMA": "Clip.2",
        "name": source.file_name,
        "enabled": true, "effects": [], "markers": marks(source, kind, &part),
        "metadata": { "metaxis": source.metadata(clip) },
        "media_references": { "DEFAULT_MEDIA": reference(source, available) },
        "active_media_reference_key": "DEFAULT_MEDIA",
    });
    own["source_range"] = part;
    own
}

/// Where a source's media lies.
pub(super) fn reference(source: &Source, available: Value) -> Value {
    json!({
        "OTIO_SCHEMA": "ExternalReference.1",
        "name": source.file_name,
        "metadata": {},
        "available_image_bounds": null,
        "available_range": available,
        "target_url": source.url,
    })
}

/// The slates that are in a part of a source, at their moments.
fn marks(source: &Source, kind: Kind, part: &Value) -> Vec<Value> {
    let number = |of: &Value, what: &str| of[what].as_f64().unwrap_or(0.0);
    let (start, duration) = (&part["start_time"], &part["duration"]);
    let rate = number(start, "rate").max(1e-9);
    let origin = match (kind, &source.facts.picture) {
        // Pictures are counted from their first frame on, moments from the first sample.
        (Kind::Picture, Some(own)) => {
            source.first_frame(own.rate) as f64 - source.facts.picture_delay_s() * rate
        }
        _ => source.first_sample() as f64,
    };
    let begins = number(start, "value");
    let ends = begins + number(duration, "value") * rate / number(duration, "rate").max(1e-9);
    let at = |(moment_s, text): &(f64, String)| {
        let at = (origin + moment_s * rate).floor();
        (begins..ends).contains(&at).then(|| {
            json!({
                "OTIO_SCHEMA": "Marker.2", "name": text, "color": "WHITE", "comment": text,
                // No marker of the line.
                "metadata": { "metaxis": { "of": "slate" } },
                "marked_range": {
                    "OTIO_SCHEMA": "TimeRange.1", "start_time": at_rate(at, rate), "duration": at_rate(0.0, rate),
                },
            })
        })
    };
    source.origin.marks.iter().filter_map(at).collect()
}

/// Nothing for so long.
pub(super) fn gap(length: f64, rate: f64) -> Value {
    json!({
        "OTIO_SCHEMA": "Gap.1", "name": "", "metadata": {}, "effects": [], "markers": [], "enabled": true,
        "source_range": {
            "OTIO_SCHEMA": "TimeRange.1", "start_time": at_rate(0.0, rate), "duration": at_rate(length, rate),
        },
    })
}

/// Played at another speed than its own; at none, it stands.
pub(super) fn warp(speed: f64) -> Value {
    let schema = if speed == 0.0 { "FreezeFrame" } else { "LinearTimeWarp" };
    json!({
        "OTIO_SCHEMA": format!("{schema}.1"), "name": "", "effect_name": schema, "metadata": {},
        "enabled": true, "time_scalar": speed,
    })
}

/// One item comes out of the one before it, over so many frames from where they meet.
pub(super) fn dissolve(frames: i64, rate: FrameRate) -> Value {
    transition(frames as f64, rate.as_f64())
}

/// The same, of what is counted otherwise.
pub(super) fn transition(length: f64, rate: f64) -> Value {
    json!({
        "OTIO_SCHEMA": "Transition.1", "name": "", "metadata": {}, "transition_type": "SMPTE_Dissolve",
        "in_offset": at_rate(0.0, rate), "out_offset": at_rate(length, rate),
    })
}

/// Something to be found again at a frame.
pub(super) fn marker(name: &str, colour: &str, at: i64, rate: FrameRate) -> Value {
    json!({
        "OTIO_SCHEMA": "Marker.2", "name": name, "color": colour, "comment": name,
        "metadata": {}, "marked_range": range(at, 0, rate),
    })
}

/// A track of items one behind the other.
pub(super) fn track(name: &str, kind: Kind, children: Vec<Value>) -> Value {
    json!({
        "OTIO_SCHEMA": "Track.1", "name": name, "kind": kind.otio(), "metadata": {}, "source_range": null,
        "effects": [], "markers": [], "enabled": true, "children": children,
    })
}

/// Tracks above each other, the lowest first.
pub(super) fn stack(name: &str, children: Vec<Value>) -> Value {
    json!({
        "OTIO_SCHEMA": "Stack.1", "name": name, "metadata": {}, "source_range": null,
        "effects": [], "markers": [], "enabled": true, "children": children,
    })
}

/// So many frames.
pub(super) fn time(frames: i64, rate: FrameRate) -> Value {
    at_rate(frames as f64, rate.as_f64())
}

/// So many of so many a second.
pub(super) fn at_rate(value: f64, rate: f64) -> Value {
    json!({ "OTIO_SCHEMA": "RationalTime.1", "value": value, "rate": rate })
}

/// So much of so many a second, from one on.
pub(super) fn range_at(start: f64, length: f64, rate: f64) -> Value {
    json!({ "OTIO_SCHEMA": "TimeRange.1", "start_time": at_rate(start, rate), "duration": at_rate(length, rate) })
}

/// So many frames from one on.
pub(super) fn range(start: i64, length: i64, rate: FrameRate) -> Value {
    json!({ "OTIO_SCHEMA": "TimeRange.1", "start_time": time(start, rate), "duration": time(length, rate) })
}
