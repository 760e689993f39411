//! What a person gave the groups of a pass goes on in those of the next: names, order of angles, cuts.

use crate::{
    GroupId, PassId, StoreError,
    columns::document,
    groups::{Cut, NewGroup, Stored, ids, insert, load},
    lines, log,
};
use metaxis_core::{
    clip::ClipId,
    group::{Angle, AngleId, AnglePart, Group},
    line::{Line, LineEdit},
    sync::Placement,
    time::Tick,
};
use rusqlite::Transaction;
use std::{
    cmp::Reverse,
    collections::{BTreeSet, HashMap, HashSet},
};

/// Keeps the groups that were proposed for a pass, with what was given to those of the pass before.
pub(crate) fn keep_proposed(
    t: &Transaction,
    pass: PassId,
    (proposed, placements): (&[Group], &[(ClipId, Placement)]),
    before: Option<PassId>,
) -> Result<(), StoreError> {
    let mut earlier: Vec<(GroupId, Stored)> = vec![];
    if let Some(before) = before {
        for id in ids(t, before)? {
            earlier.push((id, load(t, id)?));
        }
    }
    let kept = keep_cast(t, pass, &earlier, placements, before)?;
    let partners = partners(&earlier, proposed);
    for (group, partner) in proposed.iter().zip(partners) {
        // What a person put together stands in its place.
        if partner.is_some_and(|at| earlier[at].1.cast) || group.clips().is_subset(&kept) {
            continue;
        }
        let mut group = group.clone();
        let cut = partner
            .map_or(Ok(false), |at| log::turns::<Cut>(t, earlier[at].0).map(|turns| turns.undo.is_some()))?;
        let gone_on = partner.map(|at| &earlier[at]);
        let partner = partner.map(|at| &earlier[at].1);
        let (named, ordered) = partner.map_or((false, false), |old| (old.named, old.ordered));
        let place = partner.and_then(|old| old.place);
        if let Some(old) = partner {
            take_over(&mut group, old);
        }
        let group = &group;
        let Some(first) = group.angles.first() else { continue };
        let same = earlier.iter().find(|(_, old)| is_same(&old.group, group));
        let afresh = Line::new(group.frames, first.id);
        let carried = match (same, partner) {
            // What nobody cut begins as it would anew.
            (None, Some(old)) if cut => carry(&old.group, &old.line, group),
            _ => None,
        };
        let line = same
            .map_or_else(|| carried.clone().unwrap_or_else(|| afresh.clone()), |(_, old)| old.line.clone());
        let new = NewGroup { group, line: &line, named, ordered, gone: false, place, cast: false };
        let id = insert(t, pass, &new)?;
        if let Some(line) = carried {
            // One step of its own: the steps before were taken on other frames, and stay with the group they were taken on.
            let restore = |line: &Line| LineEdit::Restore {
                switches: line.switches().to_vec(),
                markers: Some(line.markers().to_vec()),
                layers: Some(line.layers().to_vec()),
                sound: Some(line.heard().switches().to_vec()),
            };
            log::record::<Cut>(t, id, &restore(&line), &restore(&afresh))?;
        }
        match same {
            Some((old, _)) => {
                log::take_over::<Cut>(t, id, *old)?;
                lines::take_over(t, id, *old, |line| Some(line.clone()))?;
            }
            None => {
                if let Some((from, old)) = gone_on {
                    lines::take_over(t, id, *from, |line| carry(&old.group, line, group))?;
                }
            }
        }
    }
    Ok(())
}

/// Keeps the groups that a person put together as they are, where most of their clips are now. The clips in them.
fn keep_cast(
    t: &Transaction,
    pass: PassId,
    earlier: &[(GroupId, Stored)],
    placements: &[(ClipId, Placement)],
    before: Option<PassId>,
) -> Result<BTreeSet<ClipId>, StoreError> {
    let mut kept = BTreeSet::new();
    let now: HashMap<ClipId, &Placement> = placements.iter().map(|(clip, own)| (*clip, own)).collect();
    let mut was: HashMap<ClipId, Placement> = HashMap::new();
    if earlier.iter().any(|(_, own)| own.cast) {
        let mut statement = t.prepare("SELECT clip, document FROM placement WHERE pass = ?1")?;
        let rows = statement.query_map([before], |row| Ok((ClipId(row.get(0)?), document(row, 1)?)))?;
        was = rows.collect::<Result<_, _>>()?;
    }
    for (id, old) in earlier.iter().filter(|(_, own)| own.cast) {
        let own = old.group.clips();
        let group = match moved(&own, &was, &now) {
            Some((later, component)) => old.group.on_axis(later, component),
            None => old.group.clone(),
        };
        let new = NewGroup {
            group: &group,
            line: &old.line,
            named: old.named,
            ordered: old.ordered,
            gone: false,
            place: old.place,
            cast: true,
        };
        let newer = insert(t, pass, &new)?;
        log::take_over::<Cut>(t, newer, *id)?;
        lines::take_over(t, newer, *id, |line| Some(line.clone()))?;
        kept.extend(own);
    }
    Ok(kept)
}

/// How much later most of these clips lie on the axis now, and in which component of it; `None` where none of them is placed.
fn moved(
    own: &BTreeSet<ClipId>,
    was: &HashMap<ClipId, Placement>,
    now: &HashMap<ClipId, &Placement>,
) -> Option<(Tick, u32)> {
    let later = |clip: &ClipId| {
        let (was, now) = (was.get(clip)?.stretches.first()?, now.get(clip)?);
        let at_s = now.stretches.first()?.axis_s(was.clip_start_s);
        Some((now.component, at_s - was.axis_s(was.clip_start_s)))
    };
    let all: Vec<(u32, f64)> = own.iter().filter_map(later).collect();
    let count = |component: u32| all.iter().filter(|(own, _)| *own == component).count();
    let component = all.iter().map(|(own, _)| *own).max_by_key(|own| (count(*own), Reverse(*own)))?;
    let mut later: Vec<f64> =
        all.iter().filter(|(own, _)| *own == component).map(|(_, by_s)| *by_s).collect();
    later.sort_by(f64::total_cmp);
    Some((Tick::from_seconds(later[later.len() / 2]), component))
}

/// For each proposed group the earlier one that it goes on with: the two share more clips with each other than with any
/// other group of the two passes.
fn partners(earlier: &[(GroupId, Stored)], proposed: &[Group]) -> Vec<Option<usize>> {
    let old: Vec<BTreeSet<ClipId>> = earlier.iter().map(|(_, stored)| stored.group.clips()).collect();
    let new: Vec<BTreeSet<ClipId>> = proposed.iter().map(Group::clips).collect();
    // The first of several that share as many.
    let most = |own: &BTreeSet<ClipId>, others: &[BTreeSet<ClipId>]| {
        let shared = others.iter().map(|other| own.intersection(other).count()).enumerate();
        shared
            .filter(|(_, count)| *count > 0)
            .max_by_key(|&(at, count)| (count, Reverse(at)))
            .map(|(at, _)| at)
    };
    let back: Vec<Option<usize>> = old.iter().map(|own| most(own, &new)).collect();
    new.iter().enumerate().map(|(at, own)| most(own, &old).filter(|&there| back[there] == Some(at))).collect()
}

/// What a person gave the group that this one goes on with.
fn take_over(group: &mut Group, old: &Stored) {
    group.grid.clone_from(&old.group.grid);
    let there = |(from, to): (i64, i64)| {
        let at = |frame: i64| group.frame_at(old.group.frame_start(frame)).clamp(0, group.frames);
        let own = (at(from), at(to));
        (own.0 < own.1 && own != (0, group.frames)).then_some(own)
    };
    let window = old.group.window.and_then(|_| there(old.group.window()));
    let removed = old.group.removed.iter().filter_map(|piece| there(*piece)).collect();
    (group.window, group.removed) = (window, removed);
    if old.named {
        old.group.name.clone_into(&mut group.name);
    }
    if old.ordered {
        let bare = group.clone();
        for angle in &mut group.angles {
            let Some(was) = bare.counterpart(angle.id, &old.group) else { continue };
            angle.name.clone_from(&was.name);
            angle.hidden = was.hidden;
            angle.through.clone_from(&was.through);
        }
        if group.angles.iter().all(|angle| angle.hidden) {
            group.angles.iter_mut().for_each(|angle| angle.hidden = false);
        }
        let place = |angle: &Angle| {
            let was = bare.counterpart(angle.id, &old.group)?;
            old.group.angles.iter().position(|own| own.id == was.id)
        };
        group.angles.sort_by_key(|angle| place(angle).unwrap_or(usize::MAX));
        // What waits for its first clip goes on waiting.
        for waiting in old.group.angles.iter().filter(|angle| angle.device.is_none()) {
            let id = group.free_angle(waiting.id);
            group.angles.push(Angle { id, ..waiting.clone() });
        }
    }
}

/// The line of an earlier group, where the same pictures are now: by the clips that both have. `None` where they count
/// frames at other rates.
fn carry(old: &Group, line: &Line, group: &Group) -> Option<Line> {
    if old.rate() != group.rate() {
        return None;
    }
    let parts = |group: &Group| -> Vec<(ClipId, i64)> {
        let parts = group.angles.iter().flat_map(|angle| &angle.parts);
        // Where its beginning lies, also outside the group: a group may have a part of a clip only.
        let begins = |part: &AnglePart| group.frame_at(Tick::from_seconds(part.stretch.axis_s(0.0)));
        parts.map(|part| (part.clip, begins(part))).collect()
    };
    let before: HashMap<ClipId, i64> = parts(old).into_iter().rev().collect();
    let mut now = HashSet::new();
    let mut by: Vec<i64> = parts(group)
        .into_iter()
        .filter(|(clip, _)| now.insert(*clip))
        .filter_map(|(clip, from)| Some(from - before.get(&clip)?))
        .collect();
    // Most of them: a clip that was laid elsewhere takes no cut along.
    by.sort_unstable();
    let angles: Vec<AngleId> = group.angles.iter().map(|angle| angle.id).collect();
    let line = line.translated(|angle| old.counterpart(angle, group).map(|own| own.id))?;
    line.carried(*by.get(by.len() / 2)?, group.frames, &angles)
}

/// Whether a line made on one group fits the other: the same frames by their labels, or of the same clips, of which an
/// island may lie elsewhere on the day.
fn is_same(old: &Group, new: &Group) -> bool {
    old.frames == new.frames && (old.start == new.start || old.clips() == new.clips())
}
