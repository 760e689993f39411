//! What every document of OpenTimelineIO is made of.

use crate::time::FrameRate;
use serde_json::{Value, json};

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
pub(super) fn track(name: &str, kind: &str, children: Vec<Value>) -> Value {
    json!({
        "OTIO_SCHEMA": "Track.1", "name": name, "kind": kind, "metadata": {}, "source_range": null,
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

/// So many frames from one on.
pub(super) fn range(start: i64, length: i64, rate: FrameRate) -> Value {
    json!({ "OTIO_SCHEMA": "TimeRange.1", "start_time": time(start, rate), "duration": time(length, rate) })
}
