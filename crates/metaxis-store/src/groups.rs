//! Groups and their lines.

use crate::{
    Follower, GroupId, GroupSummary, GroupView, PassId, Store, StoreError, Way,
    log::{self, Document},
};
use metaxis_core::{
    clip::{ClipId, DeviceId},
    group::Group,
    line::{Line, LineEdit},
};
use rusqlite::{OptionalExtension, Transaction, params};
use serde::{Deserialize, Serialize};
use std::collections::HashSet;

impl Store {
    /// A group with its line.
    ///
    /// # Errors
    /// [`StoreError::Missing`].
    pub fn group(&self, id: GroupId) -> Result<GroupView, StoreError> {
        self.transaction(|t| load(t, id)?.view(t, id))
    }

    /// Applies an edit made on `version` of the line.
    ///
    /// # Errors
    /// [`StoreError::Stale`], [`StoreError::Line`], [`StoreError::Missing`]; then nothing is changed.
    pub fn edit_line(&self, id: GroupId, version: i64, edit: &LineEdit) -> Result<GroupView, StoreError> {
        self.transaction(|t| {
            log::edit::<Cut>(t, id, Some(version), edit)?;
            load(t, id)?.view(t, id)
        })
    }

    /// Undoes the last edit of the line.
    ///
    /// # Errors
    /// As [`Store::edit_line`], and [`StoreError::NothingTo`].
    pub fn undo_line(&self, id: GroupId, version: i64) -> Result<GroupView, StoreError> {
        self.turn_line(id, version, Way::Undo)
    }

    /// Redoes the last undone edit of the line.
    ///
    /// # Errors
    /// As [`Store::undo_line`].
    pub fn redo_line(&self, id: GroupId, version: i64) -> Result<GroupView, StoreError> {
        self.turn_line(id, version, Way::Redo)
    }

    fn turn_line(&self, id: GroupId, version: i64, way: Way) -> Result<GroupView, StoreError> {
        self.transaction(|t| {
            log::turn::<Cut>(t, id, Some(version), way)?;
            load(t, id)?.view(t, id)
        })
    }

    /// Renames a group.
    ///
    /// # Errors
    /// [`StoreError::Missing`].
    pub fn rename_group(&self, id: GroupId, name: &str) -> Result<GroupView, StoreError> {
        self.transaction(|t| {
            let edit = GroupEdit::Name { name: name.to_owned(), given: true };
            log::edit::<Given>(t, id, None, &edit)?;
            load(t, id)?.view(t, id)
        })
    }

    /// Puts angle `from` of a group in place `to`; number keys follow.
    ///
    /// # Errors
    /// [`StoreError::Missing`] where there is no such angle.
    pub fn move_angle(&self, id: GroupId, from: usize, to: usize) -> Result<GroupView, StoreError> {
        self.transaction(|t| {
            let mut angles = order(&load(t, id)?.group);
            if from >= angles.len() || to >= angles.len() {
                return Err(StoreError::Missing { what: "angle", id: from.max(to) as i64 });
            }
            let angle = angles.remove(from);
            angles.insert(to, angle);
            log::edit::<Given>(t, id, None, &GroupEdit::Order { angles, given: true })?;
            load(t, id)?.view(t, id)
        })
    }
}

/// A group as it is kept.
pub(crate) struct Stored {
    pub group: Group,
    pub line: Line,
    /// A person named it.
    pub named: bool,
    /// A person put its angles in order.
    pub ordered: bool,
}

/// The line of a group.
pub(crate) struct Cut {
    line: Line,
    angles: Vec<DeviceId>,
}

impl Document for Cut {
    const KIND: &'static str = "line";
    type Id = GroupId;
    type Edit = LineEdit;

    fn load(t: &Transaction, id: GroupId) -> Result<Self, StoreError> {
        let Stored { group, line, .. } = load(t, id)?;
        Ok(Self { line, angles: order(&group) })
    }

    fn apply(&mut self, _: &Transaction, edit: &LineEdit) -> Result<Option<LineEdit>, StoreError> {
        if let Some(missing) = edit.angles().into_iter().find(|angle| !self.angles.contains(angle)) {
            return Err(StoreError::Refused(format!("the group has no angle of device {}", missing.0)));
        }
        Ok(Some(self.line.apply(edit)?))
    }

    fn keep(&self, t: &Transaction, id: GroupId) -> Result<(), StoreError> {
        let sql = "UPDATE cut_group SET line = ?2 WHERE id = ?1";
        t.execute(sql, params![id, serde_json::to_string(&self.line)?])?;
        Ok(())
    }

    fn said(edit: &LineEdit) -> String {
        match edit {
            LineEdit::Take { .. } => "an angle taken",
            LineEdit::ChangeAngle { .. } => "another angle",
            LineEdit::Roll { .. } => "a cut rolled",
            LineEdit::Remove { .. } => "a cut taken out",
            LineEdit::ClearAfter { .. } => "cuts cleared",
            LineEdit::Restore { .. } => "the line put back",
        }
        .into()
    }
}

/// What a person gives a group: its name, and the order of its angles.
pub(crate) struct Given(Stored);

/// A change of it; `given` tells what a person gave from what was proposed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "do", rename_all = "snake_case")]
pub(crate) enum GroupEdit {
    /// Another name.
    Name { name: String, given: bool },
    /// Another order of its angles.
    Order { angles: Vec<DeviceId>, given: bool },
}

impl Document for Given {
    const KIND: &'static str = "group";
    type Id = GroupId;
    type Edit = GroupEdit;

    fn load(t: &Transaction, id: GroupId) -> Result<Self, StoreError> {
        Ok(Self(load(t, id)?))
    }

    fn apply(&mut self, _: &Transaction, edit: &GroupEdit) -> Result<Option<GroupEdit>, StoreError> {
        let Self(Stored { group, named, ordered, .. }) = self;
        let was = match edit {
            GroupEdit::Name { .. } => GroupEdit::Name { name: group.name.clone(), given: *named },
            GroupEdit::Order { .. } => GroupEdit::Order { angles: order(group), given: *ordered },
        };
        match edit {
            GroupEdit::Name { name, given } => (group.name, *named) = (name.clone(), *given),
            GroupEdit::Order { angles, given } => {
                let place = |device| angles.iter().position(|own| *own == device).unwrap_or(usize::MAX);
                group.angles.sort_by_key(|angle| place(angle.device));
                *ordered = *given;
            }
        }
        Ok((was != *edit).then_some(was))
    }

    fn keep(&self, t: &Transaction, id: GroupId) -> Result<(), StoreError> {
        let Self(Stored { group, named, ordered, .. }) = self;
        t.execute(
            "UPDATE cut_group SET document = ?2, named = ?3, ordered = ?4 WHERE id = ?1",
            params![id, serde_json::to_string(group)?, named, ordered],
        )?;
        Ok(())
    }

    fn said(edit: &GroupEdit) -> String {
        match edit {
            GroupEdit::Name { name, .. } => format!("group called {name}"),
            GroupEdit::Order { .. } => "order of angles".into(),
        }
    }
}

fn order(group: &Group) -> Vec<DeviceId> {
    group.angles.iter().map(|angle| angle.device).collect()
}

pub(crate) fn load(t: &Transaction, id: GroupId) -> Result<Stored, StoreError> {
    let row: Option<(String, String, bool, bool)> = t
        .query_row("SELECT document, line, named, ordered FROM cut_group WHERE id = ?1", [id], |row| {
            Ok((row.get(0)?, row.get(1)?, row.get(2)?, row.get(3)?))
        })
        .optional()?;
    let (group, line, named, ordered) = row.ok_or(StoreError::Missing { what: "group", id: id.0 })?;
    let (group, line) = (serde_json::from_str(&group)?, serde_json::from_str(&line)?);
    Ok(Stored { group, line, named, ordered })
}

impl Stored {
    fn view(self, t: &Transaction, id: GroupId) -> Result<GroupView, StoreError> {
        let labels = self.line.switches().iter().map(|switch| self.group.label(switch.at)).collect();
        let followed_by = follower(t, id, &self.group)?;
        let turns = log::turns::<Cut>(t, id)?;
        Ok(GroupView {
            id,
            labels,
            axis_start_s: self.group.frame_start(0).seconds(),
            group: self.group,
            line: self.line,
            version: turns.version,
            can_undo: turns.undo.is_some(),
            can_redo: turns.redo.is_some(),
            followed_by,
        })
    }
}

/// The group of the pass that is shown which has most clips of one of another pass.
fn follower(t: &Transaction, id: GroupId, group: &Group) -> Result<Option<Follower>, StoreError> {
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

pub(crate) fn ids(t: &Transaction, pass: PassId) -> Result<Vec<GroupId>, StoreError> {
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
                turns: log::turns::<Given>(t, id)?,
                group: stored.group,
            })
        })
        .collect()
}

/// The clips in a group's angles.
pub(crate) fn clips(group: &Group) -> HashSet<ClipId> {
    group.angles.iter().flat_map(|angle| angle.parts.iter().map(|part| part.clip)).collect()
}
