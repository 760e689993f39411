//! The line with every angle of a shot to choose from: alternatives of one clip, by the angles' names.

use super::{
    Sources,
    items::{gap, range, range_at, reference, warp},
    otio::{line_of, timeline},
    pieces,
};
use crate::{
    group::{Angle, AnglePart, Group},
    line::Line,
    names::first_free,
};
use serde_json::{Map, Value, json};

/// The line as OpenTimelineIO, each shot a clip whose media references are all angles that run through it, the one that was taken
/// the active one.
///
/// All references of a clip are counted alike, by the labels of the group: so another angle can be made the active one and shows
/// the same moment. The label that the file itself has on its first frame stands in the reference's metadata.
pub fn choices_document(group: &Group, line: &Line, sources: &Sources) -> Value {
    let items = |angle: &Angle, (from, to): (i64, i64)| -> Vec<Value> {
        let shots = sources.pieces(group, angle, from, to).into_iter();
        let one = |(part, begin, end): (Option<&AnglePart>, i64, i64)| match part {
            Some(part) => shot(group, sources, (angle, part), (begin, end)),
            None => gap((end - begin) as f64, group.rate().as_f64()),
        };
        shots.map(one).collect()
    };
    let picture = line_of(group, line, items);
    timeline(&format!("{} choices", group.name), group, vec![picture])
}

fn shot(
    group: &Group,
    sources: &Sources,
    (taken, part): (&Angle, &AnglePart),
    (begin, end): (i64, i64),
) -> Value {
    let speed = sources.speed(taken, part);
    let through = |angle: &Angle| {
        let [(Some(own), from, to)] = pieces(&angle.parts, begin, end)[..] else { return None };
        ((from, to) == (begin, end)).then(|| own.clone())
    };
    let mut references = Map::new();
    let mut otherwise = vec![];
    let mut active = None;
    for angle in group.angles.iter().filter(|angle| !angle.hidden || angle.id == taken.id) {
        let own = if angle.id == taken.id { Some(part.clone()) } else { through(angle) };
        let Some(own) = own else { continue };
        let name = first_free(sources.angle_name(group, angle), |name| references.contains_key(name));
        // What plays at another speed would need it with it.
        if sources.speed(angle, &own) != speed {
            otherwise.push(name);
            continue;
        }
        let Some(made) = counted(group, sources, &own, begin) else { continue };
        if angle.id == taken.id {
            active = Some(name.clone());
        }
        references.insert(name, made);
    }
    if active.is_none() {
        return gap((end - begin) as f64, group.rate().as_f64());
    }
    let effects: Vec<Value> = speed.map(warp).into_iter().collect();
    json!({
        "OTIO_SCHEMA": "Clip.2",
        "name": sources.clips.get(&part.clip).map(|own| &own.file_name),
        "enabled": true, "effects": effects, "markers": [],
        "metadata": { "metaxis": { "angles_at_another_speed": otherwise } },
        "source_range": range(group.start.frames + begin, end - begin, group.rate()),
        "media_references": references,
        "active_media_reference_key": active,
    })
}

/// A clip's media as the group counts it: the frame on screen at `begin` is where the group has it.
fn counted(group: &Group, sources: &Sources, part: &AnglePart, begin: i64) -> Option<Value> {
    let source = sources.clips.get(&part.clip)?;
    let to_group = group.rate().as_f64() / part.rate.as_f64();
    let before = group.clip_frame(part, begin) as f64 * to_group;
    let frames = source.frames()? as f64 * to_group;
    let first = (group.start.frames + begin) as f64 - before;
    let mut own = reference(source, range_at(first, frames, group.rate().as_f64()));
    own["metadata"] = json!({ "metaxis": source.metadata(part.clip) });
    Some(own)
}
