//! What a device recorded over itself, as several angles.

use super::{AnglePart, Group};

/// Files of one device that lie over each other by no more than this are laid a little inexactly, seconds.
const INEXACT_S: f64 = 0.2;

/// The angles of one device, of the parts of each of its clips. Clips in a row are one angle; what lies over others is the next.
/// Where everything was performed `to_track`, every take is an angle, the one that is longest in step first.
pub(super) fn lanes(clips: Vec<Vec<AnglePart>>, group: &Group, to_track: bool) -> Vec<Vec<AnglePart>> {
    let mut takes: Vec<Vec<AnglePart>> = clips.into_iter().flat_map(takes).collect();
    if to_track {
        let length =
            |take: &Vec<AnglePart>| take.iter().map(|part| part.to_frame - part.from_frame).sum::<i64>();
        takes.sort_by_key(|take| (-length(take), begin(take)));
        return takes;
    }
    takes.sort_by_key(|take| begin(take));
    let inexact = (INEXACT_S * group.rate().as_f64()).ceil() as i64;
    let mut lanes: Vec<Vec<AnglePart>> = vec![];
    for take in takes {
        match lanes.iter_mut().find(|lane| end(lane) <= begin(&take) + inexact) {
            Some(lane) => lane.extend(take),
            None => lanes.push(take),
        }
    }
    lanes.into_iter().map(one_lane).filter(|lane| !lane.is_empty()).collect()
}

/// A clip's takes: one, unless it holds the same part of a track several times.
fn takes(parts: Vec<AnglePart>) -> Vec<Vec<AnglePart>> {
    let mut takes: Vec<Vec<AnglePart>> = vec![];
    for part in parts {
        match takes.last_mut() {
            Some(take) if end(take) <= part.from_frame + 1 => take.push(part),
            _ => takes.push(vec![part]),
        }
    }
    takes.into_iter().map(one_lane).collect()
}

fn begin(parts: &[AnglePart]) -> i64 {
    parts.first().map_or(0, |part| part.from_frame)
}

fn end(parts: &[AnglePart]) -> i64 {
    parts.last().map_or(0, |part| part.to_frame)
}

/// Parts in time order; where they lie over each other, the earlier runs to its end.
pub(super) fn one_lane(parts: impl IntoIterator<Item = AnglePart>) -> Vec<AnglePart> {
    let mut parts: Vec<AnglePart> = parts.into_iter().collect();
    parts.sort_by_key(|part| part.from_frame);
    let mut end = 0;
    for part in &mut parts {
        part.from_frame = part.from_frame.max(end).min(part.to_frame);
        end = end.max(part.to_frame);
    }
    parts.retain(|part| part.from_frame < part.to_frame);
    parts
}
