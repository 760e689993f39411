//! Groups of the pass that is shown: proposed anew, and put together by hand.

use super::{chosen::add_choices, outcome::bare};
use crate::{
    App,
    error::ApiError,
    heard_day::{Listened, slates},
};
use metaxis_core::{
    clip::{ClipId, DeviceId},
    group::{Group, GroupBy, GroupDay, PlacedClip, Slate, day_zero, group_of, propose_groups},
    line::Line,
    sync::Placement,
    time::Timecode,
};
use metaxis_store::{GroupId, GroupSummary, MadeGroup, Part};
use serde::Serialize;
use std::collections::{BTreeSet, HashMap, HashSet};
use ts_rs::TS;

/// A group that is proposed.
#[derive(Debug, Serialize, TS)]
pub struct ProposedGroup {
    name: String,
    start: Timecode,
    #[ts(type = "number")]
    frames: i64,
    /// Picture angles, and clips in them.
    angles: usize,
    clips: usize,
    /// Whether a recorder ran with it.
    sound: bool,
    /// The group that is the same already.
    there: Option<GroupId>,
}

/// What is proposed, beside what is there.
#[derive(Debug, Serialize, TS)]
pub struct Proposed {
    groups: Vec<ProposedGroup>,
    /// Placed picture clips that are in none of them.
    alone: Vec<ClipId>,
    /// Groups that are there and would go: nobody cut or named them.
    going: Vec<GroupId>,
    /// Groups that are there, are none of these, and would stay.
    staying: Vec<GroupId>,
}

/// The clips of the pass that is shown, for making groups of them.
struct Grouping {
    clips: Vec<Listened>,
    placements: Vec<Placement>,
    slates: Vec<Slate>,
    reference: DeviceId,
    /// The clip that begins at the axis's zero, and its time of day as far as it is known, seconds.
    origin: ClipId,
    day_start_s: Option<f64>,
    order: Vec<DeviceId>,
    there: Vec<GroupSummary>,
}

impl Grouping {
    fn of(app: &App) -> Result<Self, ApiError> {
        let (shown, day) = (app.store.shown()?, app.store.day()?);
        let pass = shown
            .pass
            .ok_or_else(|| ApiError::Refused("sync the day first: groups are made of its clips".into()))?;
        let mut placed: HashMap<ClipId, Placement> =
            shown.placements.into_iter().map(|own| (own.clip, own.placement)).collect();
        let (mut clips, mut placements) = (vec![], vec![]);
        for clip in app.store.stored_clips()?.iter().filter(|clip| clip.part != Part::NoSync) {
            let Some(placement) = placed.remove(&clip.id).filter(|own| !own.stretches.is_empty()) else {
                continue;
            };
            clips.push(bare(clip));
            placements.push(placement);
        }
        add_choices(&mut clips, &day);
        Ok(Self {
            slates: clips.iter().flat_map(slates).collect(),
            clips,
            placements,
            reference: pass.facts.reference,
            origin: pass.facts.origin,
            day_start_s: pass.facts.islands.first().and_then(|axis| axis.day_start_s),
            order: day.devices.iter().map(|device| device.id).collect(),
            there: shown.groups,
        })
    }

    fn with<T>(&self, work: impl FnOnce(&GroupDay) -> T) -> T {
        let clip = |(clip, placement)| {
            let clip: &Listened = clip;
            let is_reference = clip.device == self.reference;
            PlacedClip {
                id: clip.id,
                device: clip.device,
                facts: &clip.facts,
                placement,
                reference: is_reference,
            }
        };
        let clips: Vec<PlacedClip> = self.clips.iter().zip(&self.placements).map(clip).collect();
        let origin = clips.iter().position(|clip| clip.id == self.origin).unwrap_or(clips.len());
        let axis_zero = day_zero(&clips, origin, self.day_start_s);
        work(&GroupDay { clips: &clips, slates: &self.slates, axis_zero, order: &self.order })
    }

    /// The group that is there and the same, however it is trimmed.
    fn same(&self, group: &Group) -> Option<GroupId> {
        let is_same = |own: &&GroupSummary| {
            (own.group.start.plus(-own.window.0), own.whole_frames) == (group.start, group.frames)
                && clips_of(&own.group).is_subset(&clips_of(group))
        };
        self.there.iter().find(is_same).map(|own| own.id)
    }

    /// Groups that are there and none of `kept`: those that nobody cut or shaped, and the others.
    fn others(&self, kept: &HashSet<GroupId>) -> (Vec<GroupId>, Vec<GroupId>) {
        let others = self.there.iter().filter(|own| !kept.contains(&own.id));
        let (going, staying): (Vec<_>, Vec<_>) = others.partition(|own| own.switches < 2 && !own.shaped);
        let ids = |all: Vec<&GroupSummary>| all.iter().map(|own| own.id).collect();
        (ids(going), ids(staying))
    }
}

fn clips_of(group: &Group) -> BTreeSet<i64> {
    group.angles.iter().flat_map(|angle| &angle.parts).map(|part| part.clip.0).collect()
}

/// What would be made of the pass that is shown; nothing is changed.
///
/// # Errors
/// Errors of the store, [`ApiError::Refused`] where no pass is shown.
pub fn proposed_groups(app: &App, by: &GroupBy) -> Result<Proposed, ApiError> {
    let grouping = Grouping::of(app)?;
    let groups = grouping.with(|day| propose_groups(day, by));
    let view = |group: &Group| ProposedGroup {
        name: group.name.clone(),
        start: group.start,
        frames: group.frames,
        angles: group.angles.len(),
        clips: clips_of(group).len(),
        sound: group.sound.as_ref().is_some_and(|sound| !sound.parts.is_empty()),
        there: grouping.same(group),
    };
    let views: Vec<ProposedGroup> = groups.iter().map(view).collect();
    let kept: HashSet<GroupId> = views.iter().filter_map(|own| own.there).collect();
    let (going, staying) = grouping.others(&kept);
    let within: BTreeSet<i64> = groups.iter().flat_map(clips_of).collect();
    let pictures = grouping.clips.iter().filter(|clip| clip.facts.picture.is_some());
    let alone = pictures.map(|clip| clip.id).filter(|id| !within.contains(&id.0)).collect();
    Ok(Proposed { groups: views, alone, going, staying })
}

/// Makes what is proposed; of it only those of these places in the list where they are given. What is the same already stays, and
/// so does what somebody cut, named or shaped; the rest goes where all is taken.
///
/// # Errors
/// As [`proposed_groups`], and those of [`metaxis_store::Store::replace_groups`].
pub fn accept_groups(
    app: &App,
    version: i64,
    by: &GroupBy,
    only: Option<&[usize]>,
) -> Result<usize, ApiError> {
    let grouping = Grouping::of(app)?;
    let groups = grouping.with(|day| propose_groups(day, by));
    let kept: HashSet<GroupId> = groups.iter().filter_map(|group| grouping.same(group)).collect();
    let going = if only.is_some() { vec![] } else { grouping.others(&kept).0 };
    let mut taken: HashSet<String> = grouping
        .there
        .iter()
        .filter(|own| !going.contains(&own.id))
        .map(|own| own.group.name.clone())
        .collect();
    let mut made = vec![];
    for (number, mut group) in groups.into_iter().enumerate() {
        let is_wanted = only.is_none_or(|only| only.contains(&number));
        if !is_wanted || grouping.same(&group).is_some() {
            continue;
        }
        let mut names = std::iter::once(group.name.clone())
            .chain((2..).map(|number| format!("{} ({number})", group.name)));
        group.name = names.find(|name| !taken.contains(name)).unwrap_or_default();
        taken.insert(group.name.clone());
        made.push(MadeGroup { group, line: None, given: false });
    }
    let what = match made.len() {
        1 => "a group as proposed".to_owned(),
        count => format!("{count} groups as proposed"),
    };
    Ok(app.store.replace_groups(Some(version), &what, &going, &made)?.len())
}

/// Makes one group of several: from the first of them to the end of the last, with all of their clips and cuts. Its number.
///
/// # Errors
/// As [`accept_groups`]; where they lie in different places of the day that nothing binds together.
pub fn merge_groups(app: &App, version: i64, ids: &[GroupId]) -> Result<GroupId, ApiError> {
    let grouping = Grouping::of(app)?;
    let find = |id: &GroupId| {
        let found = grouping.there.iter().find(|own| own.id == *id);
        found.ok_or_else(|| ApiError::NotFound(format!("there is no group {id} in what is shown")))
    };
    let mut own: Vec<&GroupSummary> = ids.iter().map(find).collect::<Result<_, _>>()?;
    own.sort_by_key(|own| own.group.frame_start(0));
    own.dedup_by_key(|own| own.id);
    let [first, .., _] = own.as_slice() else {
        return Err(ApiError::Refused("choose two groups or more to make one of them".into()));
    };
    if own.iter().any(|other| other.group.component != first.group.component) {
        return Err(ApiError::Refused(
            "they lie apart: nothing says how long after the one the other ran, so they cannot be one".into(),
        ));
    }
    let clips: BTreeSet<i64> = own.iter().flat_map(|own| clips_of(&own.group)).collect();
    let from = first.group.frame_start(0);
    let to = own.iter().map(|own| own.group.frame_start(own.group.frames)).max().unwrap_or(from);
    let component = first.group.component;
    let name = first.group.name.clone();
    let takes_part = |clip: &PlacedClip| {
        clip.placement.component == component && (clips.contains(&clip.id.0) || clip.facts.picture.is_none())
    };
    let merged = grouping.with(|day| group_of(day, takes_part, (from, to), name));
    let mut merged = merged.ok_or_else(|| ApiError::Refused("nothing of them has a picture".into()))?;
    let place = |device| first.group.angles.iter().position(|angle| angle.device == device);
    merged.angles.sort_by_key(|angle| place(angle.device).unwrap_or(usize::MAX));
    let mut lines = vec![];
    for one in &own {
        let by = merged.frame_at(one.group.frame_start(0));
        lines.push((app.store.group(one.id)?.line, by, (by, by + one.group.frames)));
    }
    let parts: Vec<(&Line, i64, (i64, i64))> =
        lines.iter().map(|(line, by, range)| (line, *by, *range)).collect();
    // Frames are counted otherwise where rates differ: then it is cut anew.
    let same_rate = own.iter().all(|own| own.group.rate() == merged.rate());
    let line = Line::joined(merged.frames, &parts).filter(|_| same_rate);
    let what = format!("{} groups made one", own.len());
    let gone: Vec<GroupId> = own.iter().map(|own| own.id).collect();
    let made = MadeGroup { group: merged, line, given: true };
    let ids = app.store.replace_groups(Some(version), &what, &gone, &[made])?;
    ids.first().copied().ok_or_else(|| ApiError::NotFound("the group is not there".into()))
}
