//! Groups of the pass that is shown: proposed anew, and put together by hand.

use super::{
    chosen::add_choices,
    outcome::{bare, is_track},
};
use crate::{
    App,
    error::ApiError,
    heard_day::{Listened, slates},
};
use metaxis_core::{
    clip::{ClipFacts, ClipId, DeviceId},
    group::{Difference, Group, GroupBy, GroupDay, PlacedClip, Slate, day_zero, group_of, propose_groups},
    line::Line,
    names::first_free,
    sync::Placement,
    time::{Tick, Timecode},
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
    /// Who runs when, angle by angle.
    strip: Vec<Running>,
    /// The group that it is most like, where it is none of those that are there, and how it differs from that.
    like: Option<Like>,
}

/// When the clips of an angle run.
#[derive(Debug, Serialize, TS)]
pub struct Running {
    device: Option<DeviceId>,
    /// Frames, from and up to.
    #[ts(type = "[number, number][]")]
    parts: Vec<(i64, i64)>,
}

/// A group beside another.
#[derive(Debug, Serialize, TS)]
pub struct Like {
    group: GroupId,
    name: String,
    differs: Difference,
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
pub(super) struct Grouping {
    pub clips: Vec<Listened>,
    pub placements: Vec<Placement>,
    /// Clips that have no place, or take no part in syncing.
    pub rest: Vec<Listened>,
    slates: Vec<Slate>,
    reference: DeviceId,
    /// The clip that begins at the axis's zero, and its time of day as far as it is known, seconds.
    origin: ClipId,
    day_start_s: Option<f64>,
    order: Vec<DeviceId>,
    to_track: bool,
    pub there: Vec<GroupSummary>,
}

impl Grouping {
    pub fn of(app: &App) -> Result<Self, ApiError> {
        let (shown, day) = (app.store.shown()?, app.store.day()?);
        let pass = shown
            .pass
            .ok_or_else(|| ApiError::Refused("sync the day first: groups are made of its clips".into()))?;
        let mut placed: HashMap<ClipId, Placement> =
            shown.placements.into_iter().map(|own| (own.clip, own.placement)).collect();
        let (mut clips, mut placements, mut rest) = (vec![], vec![], vec![]);
        let stored = app.store.stored_clips()?;
        for clip in &stored {
            let placement = placed.remove(&clip.id).filter(|own| !own.stretches.is_empty());
            match placement.filter(|_| clip.part != Part::NoSync) {
                Some(placement) => {
                    clips.push(bare(clip));
                    placements.push(placement);
                }
                None => rest.push(bare(clip)),
            }
        }
        add_choices(&mut clips, &day);
        Ok(Self {
            slates: clips.iter().flat_map(slates).collect(),
            clips,
            placements,
            rest,
            reference: pass.facts.reference,
            origin: pass.facts.origin,
            day_start_s: pass.facts.islands.first().and_then(|axis| axis.day_start_s),
            order: day.devices.iter().map(|device| device.id).collect(),
            to_track: is_track(&stored, pass.facts.origin),
            there: shown.groups,
        })
    }

    /// A group that is there.
    pub fn summary(&self, id: GroupId) -> Result<&GroupSummary, ApiError> {
        let own = self.there.iter().find(|own| own.id == id);
        own.ok_or_else(|| ApiError::NotFound(format!("there is no group {id} in what is shown")))
    }

    /// A clip as it lies.
    pub fn placed(&self, number: usize) -> PlacedClip<'_> {
        let clip = &self.clips[number];
        PlacedClip {
            id: clip.id,
            device: clip.device,
            facts: &clip.facts,
            placement: &self.placements[number],
            reference: clip.device == self.reference,
        }
    }

    /// Time of day of the axis's zero, as groups are labelled.
    pub fn zero(&self) -> Tick {
        let clips: Vec<PlacedClip> = (0..self.clips.len()).map(|number| self.placed(number)).collect();
        let origin = clips.iter().position(|clip| clip.id == self.origin).unwrap_or(clips.len());
        day_zero(&clips, origin, self.day_start_s)
    }

    /// What the files of a group say: its sound first, then its pictures in their order.
    pub fn said(&self, group: &Group, of: impl Fn(&ClipFacts) -> Option<String>) -> Option<String> {
        let parts = group.sound.iter().chain(&group.angles).flat_map(|angle| &angle.parts);
        let mut facts = parts.filter_map(|part| self.clips.iter().find(|clip| clip.id == part.clip));
        facts.find_map(|clip| of(&clip.facts))
    }

    fn with<T>(&self, work: impl FnOnce(&GroupDay) -> T) -> T {
        let clips: Vec<PlacedClip> = (0..self.clips.len()).map(|number| self.placed(number)).collect();
        let axis_zero = self.zero();
        let (slates, order) = (&self.slates, &self.order);
        work(&GroupDay { clips: &clips, slates, axis_zero, order, to_track: self.to_track })
    }

    /// The group that is there and the same, however it is trimmed.
    fn same(&self, group: &Group) -> Option<GroupId> {
        let is_same = |own: &&GroupSummary| {
            (own.group.start.plus(-own.left[0].0), own.whole_frames) == (group.start, group.frames)
                && own.group.clips().is_subset(&group.clips())
        };
        self.there.iter().find(is_same).map(|own| own.id)
    }

    /// What is there and most like a group that is not.
    fn like(&self, group: &Group) -> Option<Like> {
        if self.same(group).is_some() {
            return None;
        }
        let (at, own) = group.nearest(self.there.iter().map(|own| &own.group))?;
        let differs = group.difference(own);
        Some(Like { group: self.there[at].id, name: own.name.clone(), differs })
    }

    /// Groups that are there and none of `kept`: those that nobody cut or shaped, and the others.
    fn others(&self, kept: &HashSet<GroupId>) -> (Vec<GroupId>, Vec<GroupId>) {
        let others = self.there.iter().filter(|own| !kept.contains(&own.id));
        let (going, staying): (Vec<_>, Vec<_>) = others.partition(|own| own.switches < 2 && !own.shaped);
        let ids = |all: Vec<&GroupSummary>| all.iter().map(|own| own.id).collect();
        (ids(going), ids(staying))
    }
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
        clips: group.clips().len(),
        sound: group.sound.as_ref().is_some_and(|sound| !sound.parts.is_empty()),
        there: grouping.same(group),
        strip: group
            .angles
            .iter()
            .map(|angle| Running {
                device: angle.device,
                parts: angle.parts.iter().map(|part| (part.from_frame, part.to_frame)).collect(),
            })
            .collect(),
        like: grouping.like(group),
    };
    let views: Vec<ProposedGroup> = groups.iter().map(view).collect();
    let kept: HashSet<GroupId> = views.iter().filter_map(|own| own.there).collect();
    let (going, staying) = grouping.others(&kept);
    let within: BTreeSet<ClipId> = groups.iter().flat_map(Group::clips).collect();
    let pictures = grouping.clips.iter().filter(|clip| clip.facts.picture.is_some());
    let alone = pictures.map(|clip| clip.id).filter(|id| !within.contains(id)).collect();
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
        group.name = first_free(group.name, |name| taken.contains(name));
        taken.insert(group.name.clone());
        made.push(MadeGroup { group, line: None, given: false, cast: false, place: None });
    }
    let what = match made.len() {
        1 => "a group as proposed".to_owned(),
        count => format!("{count} groups as proposed"),
    };
    Ok(app.store.replace_groups(Some(version), &what, &going, &made)?.len())
}

/// A group as it is trimmed, with what is taken out of it put back, its line there, and what that was.
struct Open {
    group: Group,
    line: Line,
    removed: Vec<(i64, i64)>,
}

impl Open {
    fn of(app: &App, id: GroupId) -> Result<Self, ApiError> {
        let MadeGroup { group: whole, line, .. } = app.store.whole_group(id)?;
        let (from, to) = whole.window();
        let within = |own: &(i64, i64)| (own.0.max(from) - from, own.1.min(to) - from);
        let removed = whole.removed.iter().map(within).filter(|own| own.0 < own.1).collect();
        let group = Group { removed: vec![], ..whole }.shown();
        let line = line.ok_or_else(|| ApiError::NotFound("the group has no line".into()))?;
        Ok(Self { line: line.of(&[(from, to)]), group, removed })
    }
}

/// Makes one group of several: from the first of them to the end of the last, with all of their clips and cuts. Its number.
///
/// # Errors
/// As [`accept_groups`]; where they lie in different places of the day that nothing binds together.
pub fn merge_groups(app: &App, version: i64, ids: &[GroupId]) -> Result<GroupId, ApiError> {
    let grouping = Grouping::of(app)?;
    let mut own: Vec<&GroupSummary> = ids.iter().map(|id| grouping.summary(*id)).collect::<Result<_, _>>()?;
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
    let clips: BTreeSet<ClipId> = own.iter().flat_map(|own| own.group.clips()).collect();
    let from = first.group.frame_start(0);
    let to = own.iter().map(|own| own.group.frame_end(own.group.frames - 1)).max().unwrap_or(from);
    let component = first.group.component;
    let name = first.group.name.clone();
    let takes_part = |clip: &PlacedClip| {
        clip.placement.component == component && (clips.contains(&clip.id) || clip.facts.picture.is_none())
    };
    let merged = grouping.with(|day| group_of(day, takes_part, (from, to), name));
    let mut merged = merged.ok_or_else(|| ApiError::Refused("nothing of them has a picture".into()))?;
    let bare = merged.clone();
    let place = |id| {
        let was = bare.counterpart(id, &first.group)?;
        first.group.angles.iter().position(|angle| angle.id == was.id)
    };
    merged.angles.sort_by_key(|angle| place(angle.id).unwrap_or(usize::MAX));
    merged.grid = own.iter().find_map(|one| one.group.grid.clone());
    // What a person gave an angle of any of them, the first of them first.
    for angle in &mut merged.angles {
        let mut before = own.iter().filter_map(|one| bare.counterpart(angle.id, &one.group));
        angle.name = before.clone().find_map(|was| was.name.clone());
        angle.through = before.clone().find_map(|was| was.through.clone());
        angle.hidden = before.next().is_some_and(|was| was.hidden);
    }
    // Frames are counted otherwise where rates differ: then it is cut anew, of what the day has.
    let same_rate = own.iter().all(|own| own.group.rate() == merged.rate());
    let open = own.iter().map(|own| Open::of(app, own.id)).collect::<Result<Vec<_>, _>>()?;
    for (_, one) in own.iter().zip(&open).filter(|(own, _)| own.cast && same_rate) {
        merged.angles = merged.overlaid(&one.group);
    }
    merged.removed = merged.with_all_removed(open.iter().map(|one| (&one.group, one.removed.as_slice())));
    if merged.seen().next().is_none() {
        merged.angles.iter_mut().for_each(|angle| angle.hidden = false);
    }
    let mut lines = vec![];
    for one in &open {
        let by = merged.frame_at(one.group.frame_start(0));
        let same = |angle| one.group.counterpart(angle, &merged).map(|own| own.id);
        let line = one.line.translated(same);
        lines.extend(line.map(|line| (line, by, (by, by + one.group.frames))));
    }
    let parts: Vec<(&Line, i64, (i64, i64))> =
        lines.iter().map(|(line, by, range)| (line, *by, *range)).collect();
    let line = Line::joined(merged.frames, &parts).filter(|_| same_rate);
    let what = format!("{} groups made one", own.len());
    let gone: Vec<GroupId> = own.iter().map(|own| own.id).collect();
    let made = MadeGroup { group: merged, line, given: true, cast: true, place: None };
    let ids = app.store.replace_groups(Some(version), &what, &gone, &[made])?;
    ids.first().copied().ok_or_else(|| ApiError::NotFound("the group is not there".into()))
}
