//! Groups and their lines. A line's edits are kept with their inverses; undo and redo survive a restart.

use crate::{Follower, GroupSummary, GroupView, PassId, Store, StoreError};
use metaxis_core::{
    clip::{ClipId, DeviceId},
    group::Group,
    line::{Line, LineEdit},
};
use rusqlite::{OptionalExtension, Transaction, params};
use std::{
    cmp::Reverse,
    collections::{HashMap, HashSet},
};

impl Store {
    /// A group with its line.
    ///
    /// # Errors
    /// [`StoreError::Missing`].
    pub fn group(&self, id: i64) -> Result<GroupView, StoreError> {
        self.transaction(|t| load(t, id)?.view(t, id))
    }

    /// Applies an edit made on `version` of the line.
    ///
    /// # Errors
    /// [`StoreError::Stale`], [`StoreError::Line`], [`StoreError::Missing`]; then nothing is changed.
    pub fn edit_line(&self, id: i64, version: i64, edit: &LineEdit) -> Result<GroupView, StoreError> {
        self.change(id, version, |t, stored| {
            let has = |angle| stored.group.angles.iter().any(|own| own.device == angle);
            if let Some(missing) = edit.angles().into_iter().find(|angle| !has(*angle)) {
                return Err(StoreError::Refused(format!("the group has no angle of device {}", missing.0)));
            }
            let inverse = stored.line.apply(edit)?;
            // A new edit buries what was undone: it stays on record but can no longer be redone.
            t.execute("UPDATE line_edit SET buried = 1 WHERE cut_group = ?1 AND undone = 1", [id])?;
            t.execute(
                "INSERT INTO line_edit (cut_group, edit, inverse) VALUES (?1, ?2, ?3)",
                params![id, serde_json::to_string(edit)?, serde_json::to_string(&inverse)?],
            )?;
            Ok(())
        })
    }

    /// Undoes the last edit.
    ///
    /// # Errors
    /// As [`Store::edit_line`], and [`StoreError::NothingTo`].
    pub fn undo_line(&self, id: i64, version: i64) -> Result<GroupView, StoreError> {
        self.change(id, version, |t, stored| {
            let (edit, _, inverse) = find(t, id, UNDO)?.ok_or(StoreError::NothingTo("undo"))?;
            stored.line.apply(&inverse)?;
            t.execute("UPDATE line_edit SET undone = 1 WHERE id = ?1", [edit])?;
            Ok(())
        })
    }

    /// Redoes the last undone edit.
    ///
    /// # Errors
    /// As [`Store::undo_line`].
    pub fn redo_line(&self, id: i64, version: i64) -> Result<GroupView, StoreError> {
        self.change(id, version, |t, stored| {
            let (edit, again, _) = find(t, id, REDO)?.ok_or(StoreError::NothingTo("redo"))?;
            stored.line.apply(&again)?;
            t.execute("UPDATE line_edit SET undone = 0 WHERE id = ?1", [edit])?;
            Ok(())
        })
    }

    /// Renames a group.
    ///
    /// # Errors
    /// [`StoreError::Missing`].
    pub fn rename_group(&self, id: i64, name: &str) -> Result<GroupView, StoreError> {
        self.transaction(|t| {
            let mut stored = load(t, id)?;
            name.clone_into(&mut stored.group.name);
            stored.named = true;
            put(t, id, &stored)?;
            stored.view(t, id)
        })
    }

    /// Puts angle `from` of a group in place `to`; number keys follow.
    ///
    /// # Errors
    /// [`StoreError::Missing`] where there is no such angle.
    pub fn move_angle(&self, id: i64, from: usize, to: usize) -> Result<GroupView, StoreError> {
        self.transaction(|t| {
            let mut stored = load(t, id)?;
            let count = stored.group.angles.len();
            if from >= count || to >= count {
                return Err(StoreError::Missing { what: "angle", id: from.max(to) as i64 });
            }
            let angle = stored.group.angles.remove(from);
            stored.group.angles.insert(to, angle);
            stored.ordered = true;
            put(t, id, &stored)?;
            stored.view(t, id)
        })
    }

    fn change(
        &self,
        id: i64,
        version: i64,
        work: impl FnOnce(&Transaction, &mut Stored) -> Result<(), StoreError>,
    ) -> Result<GroupView, StoreError> {
        self.transaction(|t| {
            let mut stored = load(t, id)?;
            if stored.version != version {
                return Err(StoreError::Stale { given: version, newest: stored.version });
            }
            work(t, &mut stored)?;
            stored.version += 1;
            put(t, id, &stored)?;
            stored.view(t, id)
        })
    }
}

struct Stored {
    group: Group,
    line: Line,
    version: i64,
    /// A person named it.
    named: bool,
    /// A person put its angles in order.
    ordered: bool,
}

const UNDO: &str = "undone = 0 ORDER BY id DESC";
const REDO: &str = "undone = 1 AND buried = 0 ORDER BY id";

fn find(t: &Transaction, group: i64, which: &str) -> Result<Option<(i64, LineEdit, LineEdit)>, StoreError> {
    let sql = format!("SELECT id, edit, inverse FROM line_edit WHERE cut_group = ?1 AND {which} LIMIT 1");
    let row: Option<(i64, String, String)> =
        t.query_row(&sql, [group], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?))).optional()?;
    row.map(|(id, edit, inverse)| Ok((id, serde_json::from_str(&edit)?, serde_json::from_str(&inverse)?)))
        .transpose()
}

fn load(t: &Transaction, id: i64) -> Result<Stored, StoreError> {
    let row: Option<(String, String, i64, bool, bool)> = t
        .query_row(
            "SELECT document, line, version, named, ordered FROM cut_group WHERE id = ?1",
            [id],
            |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?, row.get(3)?, row.get(4)?)),
        )
        .optional()?;
    let (group, line, version, named, ordered) = row.ok_or(StoreError::Missing { what: "group", id })?;
    let (group, line) = (serde_json::from_str(&group)?, serde_json::from_str(&line)?);
    Ok(Stored { group, line, version, named, ordered })
}

fn put(t: &Transaction, id: i64, stored: &Stored) -> Result<(), StoreError> {
    t.execute(
        "UPDATE cut_group SET document = ?2, line = ?3, version = ?4, named = ?5, ordered = ?6 WHERE id = ?1",
        params![
            id,
            serde_json::to_string(&stored.group)?,
            serde_json::to_string(&stored.line)?,
            stored.version,
            stored.named,
            stored.ordered
        ],
    )?;
    Ok(())
}

impl Stored {
    fn view(self, t: &Transaction, id: i64) -> Result<GroupView, StoreError> {
        let labels = self.line.switches().iter().map(|switch| self.group.label(switch.at)).collect();
        let followed_by = follower(t, id, &self.group)?;
        Ok(GroupView {
            id,
            labels,
            axis_start_s: self.group.frame_start(0).seconds(),
            group: self.group,
            line: self.line,
            version: self.version,
            can_undo: find(t, id, UNDO)?.is_some(),
            can_redo: find(t, id, REDO)?.is_some(),
            followed_by,
        })
    }
}

pub(crate) fn keep_proposed(
    t: &Transaction,
    pass: PassId,
    proposed: &[Group],
    before: Option<PassId>,
) -> Result<(), StoreError> {
    let mut earlier: Vec<(i64, Stored)> = vec![];
    if let Some(before) = before {
        for id in ids(t, before)? {
            earlier.push((id, load(t, id)?));
        }
    }
    let partners = partners(&earlier, proposed);
    for (group, partner) in proposed.iter().zip(partners) {
        let mut group = group.clone();
        let cut = partner.map_or(Ok(false), |at| find(t, earlier[at].0, UNDO).map(|edit| edit.is_some()))?;
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
        let id = t.last_insert_rowid();
        if let Some(line) = carried {
            // One step of its own: the steps before were taken on other frames, and stay with the group they were taken on.
            let restore = |line: &Line| {
                serde_json::to_string(&LineEdit::Restore { switches: line.switches().to_vec() })
            };
            t.execute(
                "INSERT INTO line_edit (cut_group, edit, inverse) VALUES (?1, ?2, ?3)",
                params![id, restore(&line)?, restore(&afresh)?],
            )?;
        }
        if let Some((old, _)) = same {
            t.execute(
                "INSERT INTO line_edit (cut_group, edit, inverse, undone, buried)
                 SELECT ?1, edit, inverse, undone, buried FROM line_edit WHERE cut_group = ?2 ORDER BY id",
                params![id, old],
            )?;
        }
    }
    Ok(())
}

fn clips(group: &Group) -> HashSet<ClipId> {
    group.angles.iter().flat_map(|angle| angle.parts.iter().map(|part| part.clip)).collect()
}

/// For each proposed group the earlier one that it goes on with: the two share more clips with each other than with any
/// other group of the two passes.
fn partners(earlier: &[(i64, Stored)], proposed: &[Group]) -> Vec<Option<usize>> {
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
        parts.map(|part| (part.clip, part.from_frame)).collect()
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

/// The group of the pass that is shown which has most clips of one of another pass.
fn follower(t: &Transaction, id: i64, group: &Group) -> Result<Option<Follower>, StoreError> {
    let shown: Option<PassId> = t
        .query_row(
            "SELECT current_pass FROM production
             WHERE current_pass IS NOT NULL AND current_pass != (SELECT pass FROM cut_group WHERE id = ?1)",
            [id],
            |row| row.get(0),
        )
        .optional()?;
    let Some(shown) = shown else { return Ok(None) };
    let own = clips(group);
    let mut best = (0, None);
    for id in ids(t, shown)? {
        let other = load(t, id)?.group;
        let shared = own.intersection(&clips(&other)).count();
        if shared > best.0 {
            best = (shared, Some(Follower { id, name: other.name }));
        }
    }
    Ok(best.1)
}

/// Whether a line made on one group fits the other: the same frames by their labels, or of the same clips, of which an
/// island may lie elsewhere on the day.
fn is_same(old: &Group, new: &Group) -> bool {
    old.frames == new.frames && (old.start == new.start || clips(old) == clips(new))
}

fn ids(t: &Transaction, pass: PassId) -> Result<Vec<i64>, StoreError> {
    let mut statement = t.prepare("SELECT id FROM cut_group WHERE pass = ?1 ORDER BY id")?;
    Ok(statement.query_map([pass], |row| row.get(0))?.collect::<Result<_, _>>()?)
}

pub(crate) fn summaries(t: &Transaction, pass: PassId) -> Result<Vec<GroupSummary>, StoreError> {
    ids(t, pass)?
        .into_iter()
        .map(|id| {
            let stored = load(t, id)?;
            Ok(GroupSummary {
                id,
                covered_by_all: stored.group.covered_by_all(),
                switches: stored.line.switches().len() as u32,
                group: stored.group,
            })
        })
        .collect()
}
