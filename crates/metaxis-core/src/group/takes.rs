//! Where takes begin and end: what recorders, slates and pauses say.

use super::PlacedClip;
use crate::clip::{ClipFacts, ClipId, DeviceId};

/// A slate in a clip.
#[derive(Debug, Clone, PartialEq)]
pub struct Slate {
    /// The clip that has it.
    pub clip: ClipId,
    /// When, in the clip's own time, seconds.
    pub at_s: f64,
    /// Its scene and take, where they are known.
    pub take: Option<String>,
}

/// A moment at which a take is known to run, seconds on the axis.
#[derive(Debug, Clone, PartialEq)]
struct Mark {
    at_s: f64,
    name: Option<String>,
}

/// A part of the axis, and what it is called.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Span {
    pub from_s: f64,
    pub to_s: f64,
    pub name: Option<String>,
    pub scene: Option<String>,
}

/// A file that begins this soon after the last of its device goes on with it, seconds.
const GOES_ON_S: f64 = 0.2;
/// Slates this near to each other are one, seen by several.
const ONE_SLATE_S: f64 = 3.0;
/// Where nobody stops, a take begins so long before its slate.
const LEAD_S: f64 = 5.0;

/// Scene and take as a group is called by them.
pub(super) fn take_name(facts: &ClipFacts) -> Option<String> {
    match (&facts.scene, &facts.take) {
        (Some(scene), Some(take)) => Some(format!("{scene} / {take}")),
        (Some(scene), None) => Some(scene.clone()),
        _ => None,
    }
}

/// The takes of what ran together, in order; one where nothing tells several apart.
pub(super) fn takes(run: &[&PlacedClip], slates: &[Slate]) -> Vec<Span> {
    let (from_s, to_s) = super::build::whole(run);
    let marks = marks(run, slates);
    let mut spans = vec![];
    let mut begins_s = from_s;
    for (number, mark) in marks.iter().enumerate() {
        let (ends_s, next_s) = match marks.get(number + 1) {
            Some(next) => between(run, mark.at_s, next.at_s),
            None => (to_s, to_s),
        };
        let scene = mark.name.as_ref().and_then(|name| name.split(" / ").next()).map(str::to_owned);
        spans.push(Span { from_s: begins_s, to_s: ends_s, name: mark.name.clone(), scene });
        begins_s = next_s;
    }
    if spans.is_empty() {
        spans.push(Span { from_s, to_s, name: None, scene: None });
    }
    spans
}

/// What tells takes apart: the files of the recorder that was stopped most often, and slates within them.
fn marks(run: &[&PlacedClip], slates: &[Slate]) -> Vec<Mark> {
    let mut claps = claps(run, slates);
    let files = recordings(run);
    let mut marks: Vec<Mark> = vec![];
    for (number, file) in files.iter().enumerate() {
        let next_s = files.get(number + 1).map_or(f64::INFINITY, |next| next.at_s);
        let first_s = if number == 0 { f64::NEG_INFINITY } else { file.at_s };
        let (own, rest): (Vec<Mark>, Vec<Mark>) =
            claps.into_iter().partition(|clap| (first_s..next_s).contains(&clap.at_s));
        claps = rest;
        let mut name = file.name.clone();
        marks.push(file.clone());
        for (at, clap) in own.into_iter().enumerate() {
            // The first slate of a recording is that of its take.
            if at == 0 && (name.is_none() || clap.name.is_none() || clap.name == name) {
                name = name.or(clap.name);
                if let Some(last) = marks.last_mut() {
                    last.name.clone_from(&name);
                }
            } else if clap.name.is_none() || clap.name != name {
                name.clone_from(&clap.name);
                marks.push(clap);
            }
        }
    }
    marks.extend(claps);
    marks
}

/// The beginnings of a recorder's files; one that goes on where the last ended is the same take.
fn recordings(run: &[&PlacedClip]) -> Vec<Mark> {
    let mut best: (bool, Vec<Mark>) = (false, vec![]);
    let is_sound = |clip: &&&PlacedClip| clip.facts.picture.is_none() && clip.facts.sound.is_some();
    let mut devices: Vec<DeviceId> = run.iter().filter(is_sound).map(|clip| clip.device).collect();
    devices.sort_unstable();
    devices.dedup();
    for device in devices {
        let mut own: Vec<(f64, f64, &PlacedClip)> = run
            .iter()
            .filter(is_sound)
            .filter(|clip| clip.device == device)
            .filter_map(|clip| clip.extent().map(|(from, to)| (from, to, *clip)))
            .collect();
        own.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut ends_s = f64::NEG_INFINITY;
        let mut marks: Vec<Mark> = vec![];
        for (from_s, to_s, clip) in own {
            let name = take_name(clip.facts);
            let last = marks.last();
            let goes_on = from_s < ends_s + GOES_ON_S;
            if !goes_on || last.is_some_and(|last| name.is_some() && last.name != name) {
                marks.push(Mark { at_s: from_s, name });
            }
            ends_s = ends_s.max(to_s);
        }
        let is_reference = run.iter().any(|clip| clip.device == device && clip.reference);
        if (is_reference, marks.len()) > (best.0, best.1.len()) {
            best = (is_reference, marks);
        }
    }
    best.1
}

/// The slates of what ran, in order of time, each once.
fn claps(run: &[&PlacedClip], slates: &[Slate]) -> Vec<Mark> {
    let on_axis = |slate: &Slate| {
        let clip = run.iter().find(|clip| clip.id == slate.clip)?;
        let all = &clip.placement.stretches;
        let stretch = all.iter().find(|own| slate.at_s < own.clip_end_s).or(all.last())?;
        let name = slate.take.clone().or_else(|| take_name(clip.facts));
        Some(Mark { at_s: stretch.axis_s(slate.at_s), name })
    };
    let mut all: Vec<Mark> = slates.iter().filter_map(on_axis).collect();
    all.sort_by(|a, b| a.at_s.total_cmp(&b.at_s));
    let mut claps: Vec<Mark> = vec![];
    for clap in all {
        match claps.last_mut() {
            Some(last) if clap.at_s - last.at_s < ONE_SLATE_S => {
                last.name = last.name.take().or(clap.name);
            }
            _ => claps.push(clap),
        }
    }
    claps
}

/// From when to when there is a pause between two moments: where the fewest devices ran, for the longest. Where nobody
/// stopped, the second take begins shortly before its moment.
fn between(run: &[&PlacedClip], one_s: f64, other_s: f64) -> (f64, f64) {
    let pauses = counted(run, one_s, other_s);
    let least = pauses.iter().map(|pause| pause.2).min().unwrap_or(0);
    let most = pauses.iter().map(|pause| pause.2).max().unwrap_or(0);
    if least == most {
        let at_s = (other_s - LEAD_S).max(0.5 * (one_s + other_s));
        return (at_s, at_s);
    }
    let quiet = pauses.iter().filter(|pause| pause.2 == least);
    let longest = quiet.max_by(|a, b| (a.1 - a.0).total_cmp(&(b.1 - b.0)));
    longest.map_or((other_s, other_s), |pause| (pause.0, pause.1))
}

/// The parts of the time between two moments in which the same number of devices ran, each with that number.
pub(super) fn counted(run: &[&PlacedClip], from_s: f64, to_s: f64) -> Vec<(f64, f64, usize)> {
    let extents: Vec<(DeviceId, f64, f64)> =
        run.iter().filter_map(|clip| clip.extent().map(|(from, to)| (clip.device, from, to))).collect();
    let mut edges: Vec<f64> = extents.iter().flat_map(|own| [own.1, own.2]).collect();
    edges.retain(|at_s| *at_s > from_s && *at_s < to_s);
    edges.extend([from_s, to_s]);
    edges.sort_by(f64::total_cmp);
    edges.dedup();
    let mut out: Vec<(f64, f64, usize)> = vec![];
    for pair in edges.windows(2) {
        let middle_s = 0.5 * (pair[0] + pair[1]);
        let running = extents.iter().filter(|own| (own.1..own.2).contains(&middle_s));
        let mut devices: Vec<DeviceId> = running.map(|own| own.0).collect();
        devices.sort_unstable();
        devices.dedup();
        match out.last_mut() {
            Some(last) if last.2 == devices.len() => last.1 = pair[1],
            _ => out.push((pair[0], pair[1], devices.len())),
        }
    }
    out
}
