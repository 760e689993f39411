//! Groups proposed from placements: what belongs together, and what it is called.

use super::{
    Group, Slate,
    build::{Parts, build, whole},
    takes::{Span, counted, take_name, takes},
};
use crate::{
    clip::{ClipFacts, ClipId, DeviceId},
    names::first_free,
    sync::Placement,
    time::Tick,
};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A placed clip as the proposer sees it.
pub struct PlacedClip<'a> {
    /// The clip.
    pub id: ClipId,
    /// Its device.
    pub device: DeviceId,
    /// What its file says.
    pub facts: &'a ClipFacts,
    /// Where it lies.
    pub placement: &'a Placement,
    /// Whether its device is the reference.
    pub reference: bool,
}

/// The placed clips of a day.
#[derive(Clone, Copy)]
pub struct GroupDay<'a> {
    /// The clips.
    pub clips: &'a [PlacedClip<'a>],
    /// The slates in them.
    pub slates: &'a [Slate],
    /// Time of day of the axis's zero.
    pub axis_zero: Tick,
    /// Devices in the order of their angles.
    pub order: &'a [DeviceId],
    /// Whether the axis is a track that everything was performed to: takes lie over each other then.
    pub to_track: bool,
}

/// By what groups are told apart.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize, TS)]
#[serde(tag = "by", rename_all = "snake_case")]
pub enum GroupBy {
    /// Takes: by the files of recorders, by slates, at the pauses between them.
    #[default]
    Takes,
    /// What ran together, until nothing ran.
    Runs,
    /// As `Runs`, and also where few devices ran.
    Pauses {
        /// A pause is where fewer ran than these,
        fewer_than: u32,
        /// for so long, seconds.
        least_s: f64,
    },
    /// Scenes: takes of one scene, one behind the other.
    Scenes,
    /// All that a device recorded, and what ran with it.
    Device {
        /// The device.
        device: DeviceId,
    },
    /// All of it.
    Day,
}

/// Proposes groups in time order. What has no picture makes no group.
///
/// ```
/// use metaxis_core::{
///     clip::{ClipFacts, ClipId, DeviceId, PictureFacts},
///     group::{GroupBy, PlacedClip, GroupDay, propose_groups},
///     sync::{Placement, Stretch},
///     time::{FrameRate, Tick},
/// };
///
/// // Two cameras at 25 frames a second; the second begins four seconds after the first.
/// let picture = PictureFacts {
///     rate: FrameRate::FPS_25,
///     constant_rate: true,
///     width: 1920,
///     height: 1080,
///     codec: "h264".into(),
///     start_s: 0.0,
///     duration_s: 30.0,
///     frames: Some(750),
///     still: false,
///     colour: metaxis_core::clip::ColourFacts::default(),
/// };
/// let facts = ClipFacts { duration_s: 30.0, picture: Some(picture), ..ClipFacts::default() };
/// let placed = [0.0, 4.0].map(|start_s| Placement {
///     stretches: vec![Stretch::whole(30.0, start_s)],
///     ..Placement::unplaced("")
/// });
/// let clip = |id: i64, placement| PlacedClip {
///     id: ClipId(id),
///     device: DeviceId(id),
///     facts: &facts,
///     placement,
///     reference: false,
/// };
/// let clips = [clip(1, &placed[0]), clip(2, &placed[1])];
/// let order = [DeviceId(2), DeviceId(1)];
/// let day = GroupDay { clips: &clips, slates: &[], axis_zero: Tick(0), order: &order, to_track: false };
/// let groups = propose_groups(&day, &GroupBy::Takes);
///
/// assert_eq!(groups.len(), 1);
/// assert_eq!((groups[0].frames, groups[0].covered_by_all()), (850, Some((100, 750))));
/// assert_eq!(groups[0].angles[0].device, Some(DeviceId(2)));
/// ```
pub fn propose_groups(day: &GroupDay, by: &GroupBy) -> Vec<Group> {
    let mut placed: Vec<(&PlacedClip, f64, f64)> =
        day.clips.iter().filter_map(|clip| clip.extent().map(|(from, to)| (clip, from, to))).collect();
    placed.sort_by(|a, b| a.0.placement.component.cmp(&b.0.placement.component).then(a.1.total_cmp(&b.1)));
    let mut runs: Vec<Vec<&PlacedClip>> = vec![];
    let mut ends_s = f64::NEG_INFINITY;
    for (clip, from_s, to_s) in placed {
        let goes_on =
            from_s < ends_s || matches!(by, GroupBy::Day | GroupBy::Device { .. } | GroupBy::Scenes);
        match runs.last_mut() {
            Some(run) if run[0].placement.component == clip.placement.component && goes_on => {
                ends_s = ends_s.max(to_s);
                run.push(clip);
            }
            _ => {
                ends_s = to_s;
                runs.push(vec![clip]);
            }
        }
    }
    let mut all: Vec<(f64, Vec<&PlacedClip>, Span)> = vec![];
    for run in &runs {
        for span in spans(run, day, by) {
            let inside = |clip: &&&PlacedClip| {
                clip.extent().is_some_and(|(from_s, to_s)| from_s < span.to_s && to_s > span.from_s)
            };
            let own: Vec<&PlacedClip> = run.iter().filter(inside).copied().collect();
            if !own.is_empty() {
                all.push((span.from_s, own, span));
            }
        }
    }
    all.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut groups: Vec<Group> = vec![];
    for (_, run, span) in all {
        // As far as anything ran within the span.
        let (from_s, to_s) = whole(&run);
        let extent = (from_s.max(span.from_s), to_s.min(span.to_s));
        let parts = Parts { run: &run, extent: Some(extent), day };
        let name = span.name.clone().unwrap_or_else(|| name(&run, groups.len() + 1));
        if let Some(mut group) = build(&parts, name) {
            group.name = first_free(group.name, |name| groups.iter().any(|own| own.name == name));
            groups.push(group);
        }
    }
    groups
}

/// A group of those clips of a day that `takes_part` names, from one moment of the axis to another; `None` where none of them has
/// a picture there.
pub fn group_of(
    day: &GroupDay,
    takes_part: impl Fn(&PlacedClip) -> bool,
    (from, to): (Tick, Tick),
    name: String,
) -> Option<Group> {
    let (from_s, to_s) = (from.seconds(), to.seconds());
    let inside = |clip: &&PlacedClip| clip.extent().is_some_and(|own| own.0 < to_s && own.1 > from_s);
    let run: Vec<&PlacedClip> = day.clips.iter().filter(|clip| takes_part(clip)).filter(inside).collect();
    build(&Parts { run: &run, extent: Some((from_s, to_s)), day }, name)
}

/// The parts of the axis that a run falls into.
fn spans(run: &[&PlacedClip], day: &GroupDay, by: &GroupBy) -> Vec<Span> {
    let (from_s, to_s) = whole(run);
    let one = |from_s: f64, to_s: f64| Span { from_s, to_s, name: None, scene: None };
    match by {
        GroupBy::Runs => vec![one(from_s, to_s)],
        GroupBy::Day => vec![Span { name: Some("Day".into()), ..one(from_s, to_s) }],
        GroupBy::Takes | GroupBy::Scenes if day.to_track => tracks(run),
        GroupBy::Takes => takes(run, day.slates),
        GroupBy::Scenes => scenes(takes(run, day.slates)),
        GroupBy::Device { device } => {
            let own: Vec<&PlacedClip> = run.iter().filter(|clip| clip.device == *device).copied().collect();
            if own.is_empty() {
                return vec![];
            }
            let (from_s, to_s) = whole(&own);
            vec![one(from_s, to_s)]
        }
        GroupBy::Pauses { fewer_than, least_s } => {
            let is_pause = |part: &&(f64, f64, usize)| {
                part.2 < (*fewer_than as usize).max(1) && part.1 - part.0 >= *least_s
            };
            let parts = few(counted(run, from_s, to_s), *fewer_than as usize);
            let mut spans = vec![];
            let mut begins_s = from_s;
            for pause in parts.iter().filter(is_pause) {
                if pause.0 > begins_s {
                    spans.push(one(begins_s, pause.0));
                }
                begins_s = pause.1;
            }
            if begins_s < to_s {
                spans.push(one(begins_s, to_s));
            }
            spans
        }
    }
}

/// Parts of the time in which fewer ran, as one where they follow each other.
fn few(parts: Vec<(f64, f64, usize)>, fewer_than: usize) -> Vec<(f64, f64, usize)> {
    let mut out: Vec<(f64, f64, usize)> = vec![];
    for part in parts {
        match out.last_mut() {
            Some(last) if last.2 < fewer_than && part.2 < fewer_than => {
                last.1 = part.1;
                last.2 = last.2.max(part.2);
            }
            _ => out.push(part),
        }
    }
    out
}

/// The tracks that were performed to, each as far as the next.
fn tracks(run: &[&PlacedClip]) -> Vec<Span> {
    let (from_s, to_s) = whole(run);
    let own = run
        .iter()
        .filter(|clip| clip.reference)
        .filter_map(|clip| Some((clip.extent()?.0, take_name(clip.facts))));
    let mut begins: Vec<(f64, Option<String>)> = own.collect();
    begins.sort_by(|a, b| a.0.total_cmp(&b.0));
    match begins.first_mut() {
        Some(first) => first.0 = from_s,
        None => begins.push((from_s, None)),
    }
    let ends = begins.iter().skip(1).map(|own| own.0).chain([to_s]).collect::<Vec<_>>();
    let span = |((from_s, name), to_s)| Span { from_s, to_s, name, scene: None };
    begins.into_iter().zip(ends).map(span).collect()
}

/// Takes of one scene that follow each other, as one.
fn scenes(takes: Vec<Span>) -> Vec<Span> {
    let mut out: Vec<Span> = vec![];
    for take in takes {
        match out.last_mut() {
            Some(last) if last.scene == take.scene => last.to_s = take.to_s,
            _ => out.push(Span { name: take.scene.clone(), ..take }),
        }
    }
    out
}

fn name(run: &[&PlacedClip], number: usize) -> String {
    let titled = run.iter().filter(|clip| clip.reference).find_map(|clip| take_name(clip.facts));
    titled.unwrap_or_else(|| format!("Group {number}"))
}
