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
            // Frames and stretches of what is shown, as those of all of it.
            let Stored { group, line, .. } = load(t, id)?;
            let from = group.window().0;
            let edit = edit.clone().within(from, line.stretch_at(from));
            log::edit::<Cut>(t, id, Some(version), &edit)?;
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
}

/// A group as it is kept.
pub(crate) struct Stored {
    pub group: Group,
    pub line: Line,
    /// A person named it.
    pub named: bool,
    /// A person put its angles in order.
    pub ordered: bool,
    /// It was deleted, or went into others.
    pub gone: bool,
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

pub(crate) fn order(group: &Group) -> Vec<DeviceId> {
    group.angles.iter().map(|angle| angle.device).collect()
}

pub(crate) fn load(t: &Transaction, id: GroupId) -> Result<Stored, StoreError> {
    let sql = "SELECT document, line, named, ordered, gone FROM cut_group WHERE id = ?1";
    let row: Option<(String, String, bool, bool, bool)> = t
        .query_row(sql, [id], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?, row.get(3)?, row.get(4)?)))
        .optional()?;
    let (group, line, named, ordered, gone) = row.ok_or(StoreError::Missing { what: "group", id: id.0 })?;
    let (group, line) = (serde_json::from_str(&group)?, serde_json::from_str(&line)?);
    Ok(Stored { group, line, named, ordered, gone })
}

impl Stored {
    /// The group as it is trimmed, and its line there.
    pub fn shown(&self) -> (Group, Line) {
        let group = self.group.shown();
        let line = self.line.carried(-self.group.window().0, group.frames, &order(&group));
        (group, line.unwrap_or_else(|| self.line.clone()))
    }

    fn view(self, t: &Transaction, id: GroupId) -> Result<GroupView, StoreError> {
        let followed_by = follower(t, id, &self)?;
        let turns = log::turns::<Cut>(t, id)?;
        let (group, line) = self.shown();
        Ok(GroupView {
            id,
            labels: line.switches().iter().map(|switch| group.label(switch.at)).collect(),
            axis_start_s: group.frame_start(0).seconds(),
            group,
            line,
            version: turns.version,
            can_undo: turns.undo.is_some(),
            can_redo: turns.redo.is_some(),
            followed_by,
        })
    }
}

/// The group that is shown which has most clips of one of another pass, or of one that is gone.
fn follower(t: &Transaction, id: GroupId, own: &Stored) -> Result<Option<Follower>, StoreError> {
    let shown: Option<PassId> = t
        .query_row(
            "SELECT current_pass FROM production
             WHERE current_pass IS NOT NULL AND (?2 OR current_pass != (SELECT pass FROM cut_group WHERE id = ?1))",
            params![id, own.gone],
            |row| row.get(0),
        )
        .optional()?;
    let Some(shown) = shown else { return Ok(None) };
    let own = clips(&own.group);
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
    let mut statement = t.prepare("SELECT id FROM cut_group WHERE pass = ?1 AND gone = 0 ORDER BY id")?;
    Ok(statement.query_map([pass], |row| row.get(0))?.collect::<Result<_, _>>()?)
}

pub(crate) fn summaries(t: &Transaction, pass: PassId) -> Result<Vec<GroupSummary>, StoreError> {
    ids(t, pass)?
        .into_iter()
        .map(|id| {
            let stored = load(t, id)?;
            let (group, line) = stored.shown();
            Ok(GroupSummary {
                id,
                covered_by_all: group.covered_by_all(),
                switches: line.switches().len() as u32,
                shaped: stored.named || stored.ordered || stored.group.window.is_some(),
                whole_frames: stored.group.frames,
                window: stored.group.window(),
                group,
            })
        })
        .collect::<Result<Vec<_>, StoreError>>()
        .map(|mut all| {
            let start = |own: &GroupSummary| own.group.frame_start(0);
            all.sort_by_key(|own| (start(own), own.id));
            all
        })
}

/// The clips in a group's angles.
pub(crate) fn clips(group: &Group) -> HashSet<ClipId> {
    group.angles.iter().flat_map(|angle| angle.parts.iter().map(|part| part.clip)).collect()
}
