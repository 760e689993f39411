//! OpenTimelineIO documents (schemas Timeline.1, Stack.1, Track.1, Clip.2, Gap.1, LinearTimeWarp.1,
//! ExternalReference.1).

use super::{
    LaidSound, Source, Sources,
    heard::{Heard, cut_to},
    items::{Kind, dissolve, gap, marker, media, range, range_at, stack, time, track, warp},
    over::{Over, over_parts},
    sound::sound_tracks,
};
use crate::{
    group::{Angle, AngleId, AnglePart, Group},
    line::{Ear, Earful, Line, Switch},
    time::Timecode,
};
use serde_json::{Value, json};

/// The group: one picture track an angle, in step, and the sound below. Angles that are set aside are
/// disabled. Where it is known, `sound` is every recorder's; else the group's own is below.
pub fn group_document(group: &Group, sources: &Sources, sound: Option<&LaidSound>) -> Value {
    let mut tracks: Vec<Value> = group
        .angles
        .iter()
        .map(|angle| {
            let items = run(group, sources, angle, (0, group.frames), Kind::Picture);
            let mut own = track(&sources.angle_name(group, angle), Kind::Picture, items);
            own["enabled"] = (!angle.hidden).into();
            own
        })
        .collect();
    tracks.extend(sound_below(group, sources, sound));
    tracks.extend(camera_sounds(group, sources, sound));
    timeline(&group.name, group, tracks)
}

/// The line: one picture track of cuts, and the sound that runs under them.
pub fn line_document(group: &Group, line: &Line, sources: &Sources, sound: Option<&LaidSound>) -> Value {
    let picture = line_of(group, line, |angle, range| run(group, sources, angle, range, Kind::Picture));
    programme(&format!("{} line", group.name), group, line, sources, sound, picture)
}

/// The line, each shot of it the group itself: a stack of the angles that are not set aside, of which the one that was taken is on.
/// Another is taken by switching that on instead.
pub fn nested_document(group: &Group, line: &Line, sources: &Sources, sound: Option<&LaidSound>) -> Value {
    let shot = |taken: &Angle, range: (i64, i64)| {
        let is_there = |own: &&Angle| !own.hidden || own.id == taken.id;
        let one = |angle: &Angle| {
            let items = run(group, sources, angle, range, Kind::Picture);
            let mut own = track(&sources.angle_name(group, angle), Kind::Picture, items);
            own["enabled"] = (angle.id == taken.id).into();
            own
        };
        let angles = group.angles.iter().filter(is_there).map(one);
        vec![stack(&sources.angle_name(group, taken), angles.collect())]
    };
    let picture = line_of(group, line, shot);
    programme(&format!("{} nested", group.name), group, line, sources, sound, picture)
}

/// A line as a timeline: its picture, what lies over that, and what is heard.
fn programme(
    name: &str,
    group: &Group,
    line: &Line,
    sources: &Sources,
    sound: Option<&LaidSound>,
    picture: Value,
) -> Value {
    let mut tracks = vec![picture];
    tracks.extend(over_track(group, line, sources));
    tracks.extend(heard_tracks(group, line, sources, sound));
    tracks.extend(sound_of_pictures(group, line, sources));
    let mut document = timeline(name, group, tracks);
    let heard = line.heard();
    if heard.switches().len() > 1 {
        document["metadata"]["metaxis"]["heard"] = heard_instead(group, &heard, sources).into();
    }
    document
}

/// The pictures of a line with its markers; `shots` are those of an angle in a range of frames.
pub(super) fn line_of(group: &Group, line: &Line, shots: impl Fn(&Angle, (i64, i64)) -> Vec<Value>) -> Value {
    let mut items = vec![];
    for ((from, to, angle), switch) in line.stretches().zip(line.switches()) {
        if switch.dissolve > 0 {
            items.push(dissolve(switch.dissolve, group.rate()));
        }
        match group.angle(angle) {
            Some(angle) => items.extend(shots(angle, (from, to))),
            None => items.push(gap((to - from) as f64, group.rate().as_f64())),
        }
    }
    let mut picture = track("Line", Kind::Picture, items);
    let markers = line.markers().iter();
    let markers = markers.map(|own| marker(&own.note, own.colour.otio(), own.at, group.rate()));
    picture["markers"] = markers.collect();
    picture
}

/// What lies over the line: a picture track above it, with gaps in between.
fn over_track(group: &Group, line: &Line, sources: &Sources) -> Option<Value> {
    let mut items = vec![];
    let mut at = 0;
    for Over { angle, layer, .. } in over_parts(group, line, sources) {
        if layer.at > at {
            items.push(gap((layer.at - at) as f64, group.rate().as_f64()));
        }
        let mut own = run(group, sources, &angle, (layer.at, layer.end()), Kind::Picture);
        for item in &mut own {
            item["metadata"]["metaxis"]["frames_between"] =
                if layer.blended { "blended" } else { "whole" }.into();
        }
        items.extend(own);
        at = layer.end();
    }
    (!items.is_empty()).then(|| track("Over the line", Kind::Picture, items))
}

/// The sound of a line: what comes out of the grid, cut out where an angle's own is heard, and above it that.
fn heard_tracks(group: &Group, line: &Line, sources: &Sources, sound: Option<&LaidSound>) -> Vec<Value> {
    let mut below = sound_below(group, sources, sound);
    let ears = line.ears();
    if let [Earful { ear: Ear::Grid, .. }] = ears[..] {
        return below;
    }
    let rate = group.rate().as_f64();
    let of_grid = |own: &Earful| Heard {
        from_s: own.from as f64 / rate,
        to_s: own.to as f64 / rate,
        is_on: own.ear == Ear::Grid,
        dissolve_s: own.dissolve as f64 / rate,
    };
    let of_grid: Vec<Heard> = ears.iter().map(of_grid).collect();
    for own in &mut below {
        let items = own["children"].as_array().map(|all| cut_to(all, &of_grid));
        own["children"] = items.unwrap_or_default().into();
    }
    let over = over_parts(group, line, sources);
    let mut items = vec![];
    for own in &ears {
        if own.dissolve > 0 {
            items.push(dissolve(own.dissolve, group.rate()));
        }
        let angle = match own.ear {
            Ear::Grid => None,
            Ear::Angle(angle) => group.angle(angle),
            Ear::Layer(number) => over.iter().find(|over| over.number == number).map(|over| &over.angle),
        };
        match angle {
            Some(angle) => items.extend(run(group, sources, angle, (own.from, own.to), Kind::Sound)),
            None => items.push(gap((own.to - own.from) as f64, rate)),
        }
    }
    below.insert(0, track("Heard with the line", Kind::Sound, items));
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
        let items = run(group, sources, angle, (0, group.frames), Kind::Sound);
        track(
            &angle.device.map_or_else(String::new, |device| sources.device_name(device)),
            Kind::Sound,
            items,
        )
    };
    group.sound.iter().map(own).collect()
}

/// The cameras' own sound, as far as nothing of it is in the group's: switched off, to be had where it is wanted.
fn camera_sounds(group: &Group, sources: &Sources, sound: Option<&LaidSound>) -> Vec<Value> {
    let is_there = |angle: &&Angle| {
        let laid = sound
            .is_some_and(|sound| sound.plan.laid.tracks.iter().any(|own| Some(own.device) == angle.device));
        !laid && angle.parts.iter().any(|part| sources.has_sound(part))
    };
    let own = |angle: &Angle| {
        let items = run(group, sources, angle, (0, group.frames), Kind::Sound);
        off(track(&sources.angle_name(group, angle), Kind::Sound, items))
    };
    group.angles.iter().filter(is_there).map(own).collect()
}

/// The own sound of what the line shows, switched off.
fn sound_of_pictures(group: &Group, line: &Line, sources: &Sources) -> Option<Value> {
    let items = line.stretches().flat_map(|(from, to, angle)| match group.angle(angle) {
        Some(angle) => run(group, sources, angle, (from, to), Kind::Sound),
        None => vec![gap((to - from) as f64, group.rate().as_f64())],
    });
    let items: Vec<Value> = items.collect();
    let is_there = items.iter().any(|own| own["OTIO_SCHEMA"] != "Gap.1");
    is_there.then(|| off(track("Sound of the pictures", Kind::Sound, items)))
}

fn off(mut track: Value) -> Value {
    track["enabled"] = false.into();
    track
}

fn run(group: &Group, sources: &Sources, angle: &Angle, (from, to): (i64, i64), kind: Kind) -> Vec<Value> {
    let one = |(part, begin, end): (Option<&AnglePart>, i64, i64)| {
        let known = part.and_then(|part| Some((part, sources.clips.get(&part.clip)?)));
        let clip = known.and_then(|(part, source)| match kind {
            Kind::Picture => Some((part, picture(group, part, source, (begin, end)), None)),
            Kind::Sound => {
                let speed = sources.speed(angle, part).unwrap_or(1.0);
                let (own, behind) = heard(group, part, source, (begin, end), speed)?;
                Some((part, own, behind))
            }
        });
        let Some((part, mut clip, behind)) = clip else {
            return vec![gap((end - begin) as f64, group.rate().as_f64())];
        };
        let effects: Vec<Value> = sources.speed(angle, part).map(warp).into_iter().collect();
        clip["effects"] = effects.into();
        let said = &mut clip["metadata"]["metaxis"];
        said["correction"] = json!(sources.correction(angle, part));
        said["rate_ppm"] = json!(part.stretch.rate_ppm);
        said["axis_start_s"] = json!(part.stretch.start_s);
        std::iter::once(clip).chain(behind).collect()
    };
    sources.pieces(group, angle, from, to).into_iter().flat_map(one).collect()
}

fn picture(group: &Group, part: &AnglePart, source: &Source, (begin, end): (i64, i64)) -> Value {
    let rate = part.rate;
    let origin = source.first_frame(rate);
    // Counted in the group's frames, lengths of any number of cuts add up to no error.
    let own = json!({
        "OTIO_SCHEMA": "TimeRange.1",
        "start_time": time(origin + group.clip_frame(part, begin), rate),
        "duration": time(end - begin, group.rate()),
    });
    media(source, part.clip, Kind::Picture, own, range(origin, source.frames().unwrap_or(0), rate))
}

/// A clip's own sound under its picture, to the sample, and a gap where it ends before; nothing where it has none.
fn heard(
    group: &Group,
    part: &AnglePart,
    source: &Source,
    (begin, end): (i64, i64),
    speed: f64,
) -> Option<(Value, Option<Value>)> {
    let rate = f64::from(source.facts.sound.as_ref()?.rate.0);
    let (origin, samples) = (source.first_sample() as f64, source.samples()?);
    let first = (part.stretch.clip_s(group.frame_start(begin).seconds()) * rate).round().max(0.0);
    let whole = (group.passed(end) - group.passed(begin)).seconds() * rate;
    let length = whole.min(((samples - first) / speed.max(1e-9)).floor());
    if length <= 0.0 {
        return None;
    }
    let own = range_at(origin + first, length, rate);
    let own = media(source, part.clip, Kind::Sound, own, range_at(origin, samples, rate));
    Some((own, (whole > length).then(|| gap(whole - length, rate))))
}

pub(super) fn timeline(name: &str, group: &Group, tracks: Vec<Value>) -> Value {
    json!({
        "OTIO_SCHEMA": "Timeline.1",
        "name": name,
        "metadata": { "metaxis": {
            "width": group.width, "height": group.height,
            "start": group.start.to_string(), "drop_frame": group.start.drop,
            // Where the axis begins, on whose seconds all that is said of clips counts.
            "axis_zero": Timecode::new(group.axis_zero.frame(group.rate()), group.rate(), group.start.drop).to_string(),
            "axis_zero_s": group.axis_zero.seconds(),
            "axis_start_s": group.frame_start(0).seconds(),
        } },
        "global_start_time": time(group.start.frames, group.rate()),
        "tracks": stack("tracks", tracks),
    })
}
