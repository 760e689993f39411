//! OpenTimelineIO documents (schemas Timeline.1, Stack.1, Track.1, Clip.2, Gap.1, LinearTimeWarp.1,
//! ExternalReference.1).

use super::{
    LaidSound, Source, Sources,
    heard::{Heard, cut_to},
    items::{dissolve, gap, marker, range, time, track, warp},
    over::{Over, over_parts},
    sound::sound_tracks,
};
use crate::{
    group::{Angle, AngleId, AnglePart, Group},
    line::{Line, Switch},
};
use serde_json::{Value, json};

/// The group: one picture track an angle, in step, and the sound below. Angles that are set aside are
/// disabled. Where it is known, `sound` is every recorder's; else the group's own is below.
pub fn group_document(group: &Group, sources: &Sources, sound: Option<&LaidSound>) -> Value {
    let mut tracks: Vec<Value> = group
        .angles
        .iter()
        .map(|angle| {
            let items = run(group, sources, angle, (0, group.frames), false);
            let mut own = track(&sources.angle_name(group, angle), "Video", items);
            own["enabled"] = (!angle.hidden).into();
            own
        })
        .collect();
    tracks.extend(sound_below(group, sources, sound));
    timeline(&group.name, group, tracks)
}

/// The line: one picture track of cuts, and the sound that runs under them.
pub fn line_document(group: &Group, line: &Line, sources: &Sources, sound: Option<&LaidSound>) -> Value {
    let mut items = vec![];
    for ((from, to, angle), switch) in line.stretches().zip(line.switches()) {
        if switch.dissolve > 0 {
            items.push(dissolve(switch.dissolve, group.rate()));
        }
        match group.angle(angle) {
            Some(angle) => items.extend(run(group, sources, angle, (from, to), false)),
            None => items.push(gap((to - from) as f64, group.rate().as_f64())),
        }
    }
    let mut picture = track("Line", "Video", items);
    let markers = line.markers().iter();
    let markers = markers.map(|own| marker(&own.note, own.colour.otio(), own.at, group.rate()));
    picture["markers"] = markers.collect();
    let mut tracks = vec![picture];
    tracks.extend(over_track(group, line, sources));
    tracks.extend(heard_tracks(group, line, sources, sound));
    let mut document = timeline(&format!("{} line", group.name), group, tracks);
    let heard = line.heard();
    if heard.switches().len() > 1 {
        document["metadata"]["metaxis"]["heard"] = heard_instead(group, &heard, sources).into();
    }
    document
}

/// What lies over the line: a picture track above it, with gaps in between.
fn over_track(group: &Group, line: &Line, sources: &Sources) -> Option<Value> {
    let mut items = vec![];
    let mut at = 0;
    for Over { angle, layer } in over_parts(group, line, sources) {
        if layer.at > at {
            items.push(gap((layer.at - at) as f64, group.rate().as_f64()));
        }
        let mut own = run(group, sources, &angle, (layer.at, layer.end()), false);
        for item in &mut own {
            item["metadata"]["metaxis"]["frames_between"] =
                if layer.blended { "blended" } else { "whole" }.into();
        }
        items.extend(own);
        at = layer.end();
    }
    (!items.is_empty()).then(|| track("Over the line", "Video", items))
}

/// The sound of a line: what comes out of the grid, cut out where an angle's own is heard, and above it that.
fn heard_tracks(group: &Group, line: &Line, sources: &Sources, sound: Option<&LaidSound>) -> Vec<Value> {
    let mut below = sound_below(group, sources, sound);
    let heard = line.heard();
    if heard.switches().len() < 2 && heard.switches()[0].angle == AngleId::BLACK {
        return below;
    }
    let rate = group.rate().as_f64();
    let when = |is_on: &dyn Fn(AngleId) -> bool| -> Vec<Heard> {
        let one = |((from, to, angle), switch): ((i64, i64, AngleId), &Switch)| Heard {
            from_s: from as f64 / rate,
            to_s: to as f64 / rate,
            is_on: is_on(angle),
            dissolve_s: switch.dissolve as f64 / rate,
        };
        heard.stretches().zip(heard.switches()).map(one).collect()
    };
    for own in &mut below {
        let items =
            own["children"].as_array().map(|all| cut_to(all, &when(&|angle| angle == AngleId::BLACK)));
        own["children"] = items.unwrap_or_default().into();
    }
    let mut items = vec![];
    for ((from, to, angle), switch) in heard.stretches().zip(heard.switches()) {
        if switch.dissolve > 0 {
            items.push(dissolve(switch.dissolve, group.rate()));
        }
        match group.angle(angle) {
            Some(angle) => items.extend(run(group, sources, angle, (from, to), true)),
            None => items.push(gap((to - from) as f64, rate)),
        }
    }
    below.insert(0, track("Heard with the line", "Audio", items));
    below
}

/// Which angle's own sound is heard from when to when instead of what comes out of the grid, and over how many frames it comes.
fn heard_instead(group: &Group, heard: &Line, sources: &Sources) -> Vec<Value> {
    let one = |((from, to, angle), switch): ((i64, i64, AngleId), &Switch)| {
        let angle = group.angle(angle).map(|own| sources.angle_name(group, own));
        json!({ "from": from, "to": to, "angle": angle, "dissolve": switch.dissolve })
    };
    heard.stretches().zip(heard.switches()).map(one).collect()
}

fn sound_below(group: &Group, sources: &Sources, sound: Option<&LaidSound>) -> Vec<Value> {
    if let Some(sound) = sound {
        let whole = group.frames as f64 * f64::from(sound.plan.rate.0) / group.rate().as_f64();
        return sound_tracks(sources, sound, whole);
    }
    let own = |angle: &Angle| {
        let items = run(group, sources, angle, (0, group.frames), true);
        track(&angle.device.map_or_else(String::new, |device| sources.device_name(device)), "Audio", items)
    };
    group.sound.iter().map(own).collect()
}

fn run(group: &Group, sources: &Sources, angle: &Angle, (from, to): (i64, i64), sound: bool) -> Vec<Value> {
    sources
        .pieces(group, angle, from, to)
        .into_iter()
        .map(|(part, begin, end)| match part.and_then(|part| Some((part, sources.clips.get(&part.clip)?))) {
            Some((part, source)) => {
                let correction = sources.correction(angle, part);
                let effects: Vec<Value> = sources.speed(angle, part).map(warp).into_iter().collect();
                let mut clip = clip(group, part, source, (begin, end), sound);
                clip["effects"] = effects.into();
                clip["metadata"]["metaxis"]["correction"] = json!(correction);
                clip
            }
            None => gap((end - begin) as f64, group.rate().as_f64()),
        })
        .collect()
}

fn clip(group: &Group, part: &AnglePart, source: &Source, (begin, end): (i64, i64), sound: bool) -> Value {
    let rate = part.rate;
    let origin = source.first_frame(rate);
    let first = group.clip_frame(part, begin);
    let own_frames = (end - begin) as f64 * rate.as_f64() / group.rate().as_f64();
    let last = if part.still { 1 } else { first + (own_frames - 1e-9).ceil() as i64 };
    let duration_s = match (&source.facts.picture, sound) {
        _ if part.still => 0.0,
        (Some(picture), false) => picture.duration_s,
        _ => source.facts.duration_s,
    };
    let available = (duration_s * rate.as_f64()).round() as i64;
    json!({
        "OTIO_SCHEMA": "Clip.2",
        "name": source.file_name,
        "enabled": true, "effects": [], "markers": [],
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
