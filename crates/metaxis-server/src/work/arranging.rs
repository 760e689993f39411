//! Clips taken into groups, moved within them, and groups named by a pattern.

use super::grouping::Grouping;
use crate::{App, error::ApiError};
use metaxis_core::{
    clip::{ClipFacts, ClipId, PictureFacts},
    group::{Angle, AngleId, ArrangeError, Group, PlacedClip},
    names::{by_pattern, first_free, readable},
    sync::{Placement, Stretch},
};
use metaxis_store::{GroupChange, GroupId};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A clip of the day beside a group.
#[derive(Debug, Serialize, TS)]
pub struct Beside {
    clip: ClipId,
    /// The frame of the group as it is shown at which its picture begins; `None` where it does not run with the group.
    #[ts(type = "number | null")]
    at: Option<i64>,
}

/// A clip that is to be in a group.
#[derive(Debug, Deserialize, TS)]
pub struct TakeClip {
    #[ts(type = "number")]
    version: i64,
    clip: ClipId,
    /// The angle it goes into; one of its device with room, or one of its own, unless given.
    angle: Option<AngleId>,
    /// The frame of the group as it is shown at which its picture is to begin; where it lies in the day unless given.
    #[ts(type = "number | null")]
    at: Option<i64>,
    /// The clip that goes for it.
    #[serde(default)]
    instead: Option<ClipId>,
}

/// A clip that is to lie elsewhere in a group, and in no other.
#[derive(Debug, Deserialize, TS)]
pub struct NudgeClip {
    #[ts(type = "number")]
    version: i64,
    clip: ClipId,
    /// So much later, seconds.
    by_s: f64,
}

/// A clip that lies elsewhere than the day has it.
#[derive(Debug, Serialize, TS)]
pub struct MovedClip {
    clip: ClipId,
    /// So many frames of the group later.
    frames: f64,
}

/// Clips of a group that are to lie as the day has them.
#[derive(Debug, Deserialize, TS)]
pub struct RelayClips {
    #[ts(type = "number")]
    version: i64,
    clips: Vec<ClipId>,
}

/// Groups that are to be named by a pattern.
#[derive(Debug, Deserialize, TS)]
pub struct NameGroups {
    /// The version it is made on, where the names are to be given; else they are only shown.
    #[ts(type = "number | null")]
    pub version: Option<i64>,
    /// Text with `{production}`, `{day}`, `{scene}`, `{take}`, `{name}` and `{number}` in it.
    pattern: String,
    /// Those; all of them where empty.
    groups: Vec<GroupId>,
    /// The number of the first.
    first: u32,
}

/// A name that a group gets.
#[derive(Debug, Serialize, TS)]
pub struct GroupNamed {
    group: GroupId,
    name: String,
}

/// No shift within a group is longer, seconds.
const FURTHEST_S: f64 = 3600.0;

impl Grouping {
    fn group(&self, id: GroupId) -> Result<&Group, ApiError> {
        Ok(&self.summary(id)?.group)
    }

    fn clip(&self, id: ClipId) -> Option<PlacedClip<'_>> {
        self.clips.iter().position(|clip| clip.id == id).map(|at| self.placed(at))
    }
}

/// What a picture says when it is to be seen for so long: a still stands from its first moment to the last.
fn seen_for(facts: &ClipFacts, seconds: f64) -> ClipFacts {
    let still =
        |picture: &PictureFacts| PictureFacts { start_s: 0.0, duration_s: seconds, ..picture.clone() };
    match &facts.picture {
        Some(picture) if picture.still => {
            ClipFacts { duration_s: seconds, picture: Some(still(picture)), ..facts.clone() }
        }
        _ => facts.clone(),
    }
}

/// The picture clips that are not in a group: those that run with it first, in the order in which they begin.
///
/// # Errors
/// Where there is no such group, and errors of the store.
pub fn beside_group(app: &App, id: GroupId) -> Result<Vec<Beside>, ApiError> {
    let grouping = Grouping::of(app)?;
    let group = grouping.group(id)?;
    let is_in =
        |clip: ClipId| group.angles.iter().any(|angle| angle.parts.iter().any(|part| part.clip == clip));
    let mut beside: Vec<Beside> = vec![];
    for (number, clip) in grouping.clips.iter().enumerate() {
        if clip.facts.picture.is_none() || is_in(clip.id) {
            continue;
        }
        let placed = grouping.placed(number);
        let runs_with = placed.placement.component == group.component;
        let parts = if runs_with { group.parts_of(&placed) } else { vec![] };
        beside.push(Beside { clip: clip.id, at: parts.first().map(|part| part.from_frame) });
    }
    let rest = grouping.rest.iter().filter(|clip| clip.facts.picture.is_some() && !is_in(clip.id));
    beside.extend(rest.map(|clip| Beside { clip: clip.id, at: None }));
    beside.sort_by_key(|own| (own.at.unwrap_or(i64::MAX), own.clip));
    Ok(beside)
}

/// The angles of a group with a clip where `placement` has it.
fn with_clip(
    group: &Group,
    clip: &PlacedClip,
    placement: &Placement,
    to: Option<AngleId>,
) -> Result<Vec<Angle>, ArrangeError> {
    let moved = PlacedClip { placement, ..*clip };
    group.with_clip(clip.device, &group.parts_of(&moved), to)
}

/// Takes a clip into a group.
///
/// # Errors
/// Where it cannot be in it, and errors of the store; then nothing is changed.
pub fn take_in(app: &App, id: GroupId, wanted: &TakeClip) -> Result<(), ApiError> {
    let grouping = Grouping::of(app)?;
    let shown = grouping.group(id)?;
    let nowhere = Placement::unplaced("");
    let unplaced = grouping.rest.iter().find(|clip| clip.id == wanted.clip).map(|clip| PlacedClip {
        id: clip.id,
        device: clip.device,
        facts: &clip.facts,
        placement: &nowhere,
        reference: false,
    });
    let clip = grouping.clip(wanted.clip).or(unplaced);
    let clip = clip.ok_or_else(|| ApiError::NotFound(format!("there is no clip {}", wanted.clip.0)))?;
    if clip.facts.picture.is_none() {
        return Err(ApiError::Refused("the clip has no picture".into()));
    }
    // A still stands to the end of what is shown; blanked, it ends before.
    let to_end_s = |frame: i64| (shown.frame_start(shown.frames) - shown.frame_start(frame)).seconds();
    let facts = seen_for(clip.facts, wanted.at.map_or(0.0, |frame| to_end_s(frame.clamp(0, shown.frames))));
    let clip = PlacedClip { facts: &facts, ..clip };
    let placement = match wanted.at {
        Some(frame) => {
            let begins_s = clip.facts.picture_delay_s();
            let at_s = shown.frame_start(frame.clamp(0, shown.frames)).seconds();
            let own = Stretch::whole(clip.facts.duration_s.max(begins_s), at_s - begins_s);
            Placement { stretches: vec![own], component: shown.component, ..clip.placement.clone() }
        }
        None if clip.placement.stretches.is_empty() => {
            return Err(ApiError::Refused(
                "the clip has no place in the day: say at which frame of the group it begins".into(),
            ));
        }
        None if clip.placement.component != shown.component => {
            return Err(refused(ArrangeError::Elsewhere));
        }
        None => clip.placement.clone(),
    };
    let work = |group: &Group| {
        let Some(instead) = wanted.instead else {
            return with_clip(group, &clip, &placement, wanted.angle);
        };
        let left =
            group.angles.iter().map(|own| own.without(instead).unwrap_or_else(|| own.clone())).collect();
        let was =
            group.angles.iter().find(|own| own.without(instead).is_some()).ok_or(ArrangeError::NoClip)?;
        // Into the place of the one that goes, where that is its device's.
        let to = wanted.angle.or((was.device == Some(clip.device)).then_some(was.id));
        with_clip(&Group { angles: left, ..group.clone() }, &clip, &placement, to)
    };
    let what = if wanted.instead.is_some() { "a clip in another's place" } else { "a clip taken in" };
    Ok(app.store.arrange_group(Some(wanted.version), id, what, work)?)
}

/// Moves a clip within a group.
///
/// # Errors
/// As [`take_in`].
pub fn nudge(app: &App, id: GroupId, wanted: &NudgeClip) -> Result<(), ApiError> {
    let grouping = Grouping::of(app)?;
    let clip = grouping.clip(wanted.clip).ok_or_else(|| refused(ArrangeError::NoClip))?;
    if !(wanted.by_s.abs() <= FURTHEST_S && wanted.by_s != 0.0) {
        return Err(ApiError::Refused("a clip is moved by up to an hour within its group".into()));
    }
    let work = |group: &Group| {
        // From where it lies now: it may have been moved before.
        let off_s = group.off_s(clip.id, clip.placement).ok_or(ArrangeError::NoClip)?;
        Ok(group.with_off(&clip, off_s + wanted.by_s))
    };
    let what = format!("a clip moved by {:+.3} s in its group", wanted.by_s);
    Ok(app.store.arrange_group(Some(wanted.version), id, &what, work)?)
}

/// The clips of a group that lie elsewhere than the day has them.
///
/// # Errors
/// Where there is no such group, and errors of the store.
pub fn moved_clips(app: &App, id: GroupId) -> Result<Vec<MovedClip>, ApiError> {
    let grouping = Grouping::of(app)?;
    let group = grouping.group(id)?;
    let moved = group.moved(|clip| grouping.clip(clip).map(|own| own.placement));
    let one = |(clip, by_s): (ClipId, f64)| MovedClip { clip, frames: by_s * group.rate().as_f64() };
    Ok(moved.into_iter().map(one).collect())
}

/// Lays clips of a group as the day has them.
///
/// # Errors
/// As [`take_in`].
pub fn relay(app: &App, id: GroupId, wanted: &RelayClips) -> Result<(), ApiError> {
    let grouping = Grouping::of(app)?;
    let work = |group: &Group| {
        let mut laid = group.clone();
        for clip in wanted.clips.iter().filter_map(|clip| grouping.clip(*clip)) {
            laid.angles = laid.with_off(&clip, 0.0);
        }
        Ok(laid.angles)
    };
    let what = "clips laid as the day has them";
    Ok(app.store.arrange_group(Some(wanted.version), id, what, work)?)
}

fn refused(e: ArrangeError) -> ApiError {
    ApiError::Refused(e.to_string())
}

/// Names groups by a pattern, or only says how they would be called.
///
/// # Errors
/// Where a name could not be read, and errors of the store; then nothing is changed.
pub fn name_groups(app: &App, wanted: &NameGroups) -> Result<Vec<GroupNamed>, ApiError> {
    let grouping = Grouping::of(app)?;
    let production = app.store.day()?.production.name;
    let is_wanted = |id: GroupId| wanted.groups.is_empty() || wanted.groups.contains(&id);
    for id in &wanted.groups {
        grouping.summary(*id)?;
    }
    let mut taken: Vec<String> =
        grouping.there.iter().filter(|own| !is_wanted(own.id)).map(|own| own.group.name.clone()).collect();
    let mut named = vec![];
    for (number, own) in (wanted.first..).zip(grouping.there.iter().filter(|own| is_wanted(own.id))) {
        let said = |of: fn(&ClipFacts) -> Option<String>| grouping.said(&own.group, of).unwrap_or_default();
        let name = by_pattern(&wanted.pattern, |word| match word {
            "production" => production.clone(),
            "day" => said(|facts| facts.created.as_ref().and_then(|at| at.get(..10)).map(str::to_owned)),
            "scene" => said(|facts| facts.scene.clone()),
            "take" => said(|facts| facts.take.clone()),
            "name" => own.group.name.clone(),
            "number" => format!("{number:02}"),
            _ => String::new(),
        });
        let name = readable(&name).ok_or_else(|| {
            ApiError::Refused(format!(
                "“{}” would be called “{name}”: a name has 1 to 80 letters",
                own.group.name
            ))
        })?;
        let name = first_free(name, |name| taken.iter().any(|own| own == name));
        taken.push(name.clone());
        named.push(GroupNamed { group: own.id, name });
    }
    if let Some(version) = wanted.version {
        let names = named.iter().map(|own| (own.group, own.name.clone())).collect();
        app.store.edit_groups(Some(version), &GroupChange::RenameAll { names })?;
    }
    Ok(named)
}
