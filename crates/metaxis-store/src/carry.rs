//! What a person gave the groups of a pass goes on in those of the next: names, order of angles, cuts.

use crate::{
    GroupId, PassId, StoreError,
    groups::{Cut, Stored, clips, ids, load},
    log,
};
use metaxis_core::{
    clip::{ClipId, DeviceId},
    group::{AnglePart, Group},
    line::{Line, LineEdit},
    time::Tick,
};
use rusqlite::{Transaction, params};
use std::{
    cmp::Reverse,
    collections::{HashMap, HashSet},
};

/// Keeps the groups that were proposed for a pass, with what was given to those of the pass before.
pub(crate) fn keep_proposed(
    t: &Transaction,
    pass: PassId,
    proposed: &[Group],
    before: Option<PassId>,
) -> Result<(), StoreError> {
    let mut earlier: Vec<(GroupId, Stored)> = vec![];
    if let Some(before) = before {
        for id in ids(t, before)? {
            earlier.push((id, load(t, id)?));
        }
    }
    let partners = partners(&earlier, proposed);
    for (group, partner) in proposed.iter().zip(partners) {
        let mut group = group.clone();
        let cut = partner
            .map_or(Ok(false), |at| log::turns::<Cut>(t, earlier[at].0).map(|turns| turns.undo.is_some()))?;
        let partner = partner.map(|at| &earlier[at].1);
        let (named, ordered) = partner.map_or((false, false), |old| (old.named, old.ordered));
        if let Some(old) = partner {
            take_over(&mut group, old);
        }
        let group = &group;
        let Some(first) = group.angles.first() else { continue };
        let same = earlier.iter().find(|(_, old)| is_same(&old.group, group));
        let afresh = Line::new(group.frames, first.device);
        let carried = match (same, partner) {
            // What nobody cut begins as it would anew.
            (None, Some(old)) if cut => carry(old, group),
            _ => None,
        };
        let line = same
            .map_or_else(|| carried.clone().unwrap_or_else(|| afresh.clone()), |(_, old)| old.line.clone());
        t.execute(
            "INSERT INTO cut_group (pass, document, line, named, ordered) VALUES (?1, ?2, ?3, ?4, ?5)",
            params![pass, serde_json::to_string(group)?, serde_json::to_string(&line)?, named, ordered],
        )?;
        let id = GroupId(t.last_insert_rowid());
        if let Some(line) = carried {
            // One step of its own: the steps before were taken on other frames, and stay with the group they were taken on.
            let restore = |line: &Line| LineEdit::Restore { switches: line.switches().to_vec() };
            log::record::<Cut>(t, id, &restore(&line), &restore(&afresh))?;
        }
        if let Some((old, _)) = same {
            log::take_over::<Cut>(t, id, *old)?;
        }
    }
    Ok(())
}

/// For each proposed group the earlier one that it goes on with: the two share more clips with each other than with any
/// other group of the two passes.
fn partners(earlier: &[(GroupId, Stored)], proposed: &[Group]) -> Vec<Option<usize>> {
    let old: Vec<HashSet<ClipId>> = earlier.iter().map(|(_, stored)| clips(&stored.group)).collect();
    let new: Vec<HashSet<ClipId>> = proposed.iter().map(clips).collect();
    // The first of several that share as many.
    let most = |own: &HashSet<ClipId>, others: &[HashSet<ClipId>]| {
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
    if old.group.window.is_some() {
        let (from, to) = old.group.window();
        let there = |frame: i64| group.frame_at(old.group.frame_start(frame)).clamp(0, group.frames);
        let window = (there(from), there(to));
        group.window = (window.0 < window.1 && window != (0, group.frames)).then_some(window);
    }
    if old.named {
        old.group.name.clone_into(&mut group.name);
    }
    if old.ordered {
        let place = |device| old.group.angles.iter().position(|angle| angle.device == device);
        group.angles.sort_by_key(|angle| place(angle.device).unwrap_or(usize::MAX));
    }
}

/// The line of an earlier group, where the same pictures are now: by the clips that both have. `None` where they count
/// frames at other rates.
fn carry(old: &Stored, group: &Group) -> Option<Line> {
    if old.group.rate() != group.rate() {
        return None;
    }
    let parts = |group: &Group| -> Vec<(ClipId, i64)> {
        let parts = group.angles.iter().flat_map(|angle| &angle.parts);
        // Where its beginning lies, also outside the group: a group may have a part of a clip only.
        let begins = |part: &AnglePart| group.frame_at(Tick::from_seconds(part.stretch.axis_s(0.0)));
        parts.map(|part| (part.clip, begins(part))).collect()
    };
    let before: HashMap<ClipId, i64> = parts(&old.group).into_iter().rev().collect();
    let mut now = HashSet::new();
    let mut by: Vec<i64> = parts(group)
        .into_iter()
        .filter(|(clip, _)| now.insert(*clip))
        .filter_map(|(clip, from)| Some(from - before.get(&clip)?))
        .collect();
    // Most of them: a clip that was laid elsewhere takes no cut along.
    by.sort_unstable();
    let angles: Vec<DeviceId> = group.angles.iter().map(|angle| angle.device).collect();
    old.line.carried(*by.get(by.len() / 2)?, group.frames, &angles)
}

/// Whether a line made on one group fits the other: the same frames by their labels, or of the same clips, of which an
/// island may lie elsewhere on the day.
fn is_same(old: &Group, new: &Group) -> bool {
    old.frames == new.frames && (old.start == new.start || clips(old) == clips(new))
}
