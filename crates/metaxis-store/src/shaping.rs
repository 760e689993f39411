//! The groups of a pass as a person shapes them: named, put in order, trimmed, split, merged, deleted.

use crate::{
    GroupId, PassId, Store, StoreError,
    groups::{Stored, ids, load, order},
    log::{self, Document},
};
use metaxis_core::{clip::DeviceId, group::Group, line::Line};
use rusqlite::{Transaction, params};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A change of the groups of the pass that is shown.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
#[serde(tag = "do", rename_all = "snake_case")]
pub enum GroupChange {
    /// A group is called otherwise.
    Rename {
        /// It.
        group: GroupId,
        /// Its name.
        name: String,
    },
    /// An angle takes another place; number keys follow.
    MoveAngle {
        /// Its group.
        group: GroupId,
        /// Its place,
        from: usize,
        /// and the one it takes.
        to: usize,
    },
    /// A group is trimmed to a part of all that it is made of; untrimmed where `None`.
    Trim {
        /// It.
        group: GroupId,
        /// Frames of all of it, from and up to.
        #[ts(type = "[number, number] | null")]
        window: Option<(i64, i64)>,
    },
    /// A group becomes two at one of its frames, through all angles at once.
    Split {
        /// It.
        group: GroupId,
        /// First frame of the second.
        #[ts(type = "number")]
        at: i64,
    },
    /// The same group once more.
    Duplicate {
        /// It.
        group: GroupId,
    },
    /// Groups are not wanted.
    Delete {
        /// Those.
        groups: Vec<GroupId>,
    },
}

/// A group that is made anew.
#[derive(Debug, Clone, PartialEq)]
pub struct MadeGroup {
    /// It.
    pub group: Group,
    /// Its line; one that shows its first angle unless given.
    pub line: Option<Line>,
    /// Whether a person gave it its name, and the order of its angles.
    pub given: bool,
}

/// Changes that are one step.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub(crate) struct GroupsEdit {
    what: String,
    changes: Vec<OneChange>,
}

/// A change of one group.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
struct OneChange {
    group: GroupId,
    #[serde(flatten)]
    edit: GroupEdit,
}

/// What changes; `given` tells what a person gave from what was proposed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "do", rename_all = "snake_case")]
enum GroupEdit {
    /// Another name.
    Name { name: String, given: bool },
    /// Another order of its angles.
    Order { angles: Vec<DeviceId>, given: bool },
    /// Other frames that it is trimmed to.
    Window { window: Option<(i64, i64)> },
    /// It is there no more, or there again.
    Gone { gone: bool },
}

impl GroupEdit {
    /// Makes it; returns the one that takes it back.
    fn apply(&self, stored: &mut Stored) -> Self {
        let Stored { group, named, ordered, gone, .. } = stored;
        match self {
            Self::Name { name, given } => {
                let was = std::mem::replace(&mut group.name, name.clone());
                Self::Name { name: was, given: std::mem::replace(named, *given) }
            }
            Self::Order { angles, given } => {
                let was = Self::Order { angles: order(group), given: *ordered };
                let place = |device| angles.iter().position(|own| *own == device).unwrap_or(usize::MAX);
                group.angles.sort_by_key(|angle| place(angle.device));
                *ordered = *given;
                was
            }
            Self::Window { window } => Self::Window { window: std::mem::replace(&mut group.window, *window) },
            Self::Gone { gone: now } => Self::Gone { gone: std::mem::replace(gone, *now) },
        }
    }
}

/// The groups of a pass, as far as they are changed.
pub(crate) struct GroupList(Vec<(GroupId, Stored)>);

impl Document for GroupList {
    const KIND: &'static str = "groups";
    type Id = PassId;
    type Edit = GroupsEdit;

    fn load(_: &Transaction, _: PassId) -> Result<Self, StoreError> {
        Ok(Self(vec![]))
    }

    fn apply(&mut self, t: &Transaction, edit: &GroupsEdit) -> Result<Option<GroupsEdit>, StoreError> {
        let mut back = vec![];
        for OneChange { group, edit } in &edit.changes {
            if self.0.iter().all(|(id, _)| id != group) {
                self.0.push((*group, load(t, *group)?));
            }
            if let Some((_, stored)) = self.0.iter_mut().find(|(id, _)| id == group) {
                back.push(OneChange { group: *group, edit: edit.apply(stored) });
            }
        }
        let same = back == edit.changes;
        back.reverse();
        Ok((!same).then(|| GroupsEdit { what: edit.what.clone(), changes: back }))
    }

    fn keep(&self, t: &Transaction, _: PassId) -> Result<(), StoreError> {
        for (id, Stored { group, named, ordered, gone, .. }) in &self.0 {
            t.execute(
                "UPDATE cut_group SET document = ?2, named = ?3, ordered = ?4, gone = ?5 WHERE id = ?1",
                params![id, serde_json::to_string(group)?, named, ordered, gone],
            )?;
        }
        Ok(())
    }

    fn said(edit: &GroupsEdit) -> String {
        edit.what.clone()
    }
}

impl Store {
    /// Changes groups of the pass that is shown.
    ///
    /// # Errors
    /// [`StoreError::Stale`] where it was made on another version than the newest, [`StoreError::Missing`],
    /// [`StoreError::Refused`] with what is wrong; then nothing is changed.
    pub fn edit_groups(&self, version: Option<i64>, change: &GroupChange) -> Result<(), StoreError> {
        self.transaction(|t| {
            let pass = shown(t)?;
            let edit = planned(t, pass, change)?;
            log::edit::<GroupList>(t, pass, version, &edit)?;
            Ok(())
        })
    }

    /// Puts groups in the place of others, in one step: `gone` go, `made` come. Their numbers.
    ///
    /// # Errors
    /// As [`Store::edit_groups`].
    pub fn replace_groups(
        &self,
        version: Option<i64>,
        what: &str,
        gone: &[GroupId],
        made: &[MadeGroup],
    ) -> Result<Vec<GroupId>, StoreError> {
        self.transaction(|t| {
            let pass = shown(t)?;
            let there = ids(t, pass)?;
            if let Some(missing) = gone.iter().find(|id| !there.contains(id)) {
                return Err(StoreError::Missing { what: "group", id: missing.0 });
            }
            let made = made.iter().map(|own| insert(t, pass, own)).collect::<Result<Vec<_>, _>>()?;
            let go = gone.iter().map(|group| change(*group, GroupEdit::Gone { gone: true }));
            let come = made.iter().map(|group| change(*group, GroupEdit::Gone { gone: false }));
            let edit = GroupsEdit { what: what.to_owned(), changes: go.chain(come).collect() };
            log::edit::<GroupList>(t, pass, version, &edit)?;
            Ok(made)
        })
    }
}

/// The pass that is shown.
fn shown(t: &Transaction) -> Result<PassId, StoreError> {
    let pass: Option<PassId> = t.query_row("SELECT current_pass FROM production", [], |row| row.get(0))?;
    pass.ok_or_else(|| StoreError::Refused("there are no groups yet: sync the day first".into()))
}

fn change(group: GroupId, edit: GroupEdit) -> OneChange {
    OneChange { group, edit }
}

/// Keeps a new group that is not there yet: the edit that follows brings it.
fn insert(t: &Transaction, pass: PassId, made: &MadeGroup) -> Result<GroupId, StoreError> {
    let MadeGroup { group, line, given } = made;
    let first = group
        .angles
        .first()
        .ok_or_else(|| StoreError::Refused(format!("“{}” would have no picture", group.name)))?;
    let line = line.clone().unwrap_or_else(|| Line::new(group.frames, first.device));
    t.execute(
        "INSERT INTO cut_group (pass, document, line, named, ordered, gone) VALUES (?1, ?2, ?3, ?4, ?4, 1)",
        params![pass, serde_json::to_string(group)?, serde_json::to_string(&line)?, given],
    )?;
    Ok(GroupId(t.last_insert_rowid()))
}

/// The name, or where a group that is there has it the name with the first number that is free.
fn free_name(t: &Transaction, pass: PassId, name: &str) -> Result<String, StoreError> {
    let mut taken = vec![];
    for id in ids(t, pass)? {
        taken.push(load(t, id)?.group.name);
    }
    let mut names = std::iter::once(name.to_owned()).chain((2..).map(|number| format!("{name} ({number})")));
    Ok(names.find(|name| !taken.contains(name)).unwrap_or_default())
}

/// The edit that makes a change.
fn planned(t: &Transaction, pass: PassId, wanted: &GroupChange) -> Result<GroupsEdit, StoreError> {
    let there = ids(t, pass)?;
    let known = |id: GroupId| {
        if there.contains(&id) { load(t, id) } else { Err(StoreError::Missing { what: "group", id: id.0 }) }
    };
    let edit = |what: String, changes: Vec<OneChange>| Ok(GroupsEdit { what, changes });
    match wanted {
        GroupChange::Rename { group, name } => {
            known(*group)?;
            let named = GroupEdit::Name { name: name.clone(), given: true };
            edit(format!("group called {name}"), vec![change(*group, named)])
        }
        GroupChange::MoveAngle { group, from, to } => {
            let mut angles = order(&known(*group)?.group);
            if *from >= angles.len() || *to >= angles.len() {
                return Err(StoreError::Missing { what: "angle", id: (*from).max(*to) as i64 });
            }
            let angle = angles.remove(*from);
            angles.insert(*to, angle);
            edit("order of angles".into(), vec![change(*group, GroupEdit::Order { angles, given: true })])
        }
        GroupChange::Trim { group, window } => {
            let stored = known(*group)?;
            let (name, frames) = (&stored.group.name, stored.group.frames);
            if let Some((from, to)) = window
                && !(0 <= *from && from < to && *to <= frames)
            {
                return Err(StoreError::Refused(format!(
                    "that would leave nothing of “{name}”, which has {frames} frames"
                )));
            }
            let window = window.filter(|window| *window != (0, frames));
            let what = if window.is_some() { "trimmed" } else { "untrimmed" };
            edit(format!("{name} {what}"), vec![change(*group, GroupEdit::Window { window })])
        }
        GroupChange::Split { group, at } => {
            let stored = known(*group)?;
            let (from, to) = stored.group.window();
            let at = at.saturating_add(from);
            if at <= from || at >= to {
                return Err(StoreError::Refused("a group is split between its head and its tail".into()));
            }
            let name = stored.group.name.clone();
            let second =
                Group { name: free_name(t, pass, &name)?, window: Some((at, to)), ..stored.group.clone() };
            let made =
                insert(t, pass, &MadeGroup { group: second, line: Some(stored.line), given: stored.named })?;
            edit(
                format!("{name} split"),
                vec![
                    change(*group, GroupEdit::Window { window: Some((from, at)) }),
                    change(made, GroupEdit::Gone { gone: false }),
                ],
            )
        }
        GroupChange::Duplicate { group } => {
            let stored = known(*group)?;
            let name = stored.group.name.clone();
            let copy = Group { name: free_name(t, pass, &name)?, ..stored.group };
            let made =
                insert(t, pass, &MadeGroup { group: copy, line: Some(stored.line), given: stored.named })?;
            edit(format!("{name} once more"), vec![change(made, GroupEdit::Gone { gone: false })])
        }
        GroupChange::Delete { groups } => {
            let mut names = vec![];
            for group in groups {
                names.push(known(*group)?.group.name);
            }
            let what = match names.as_slice() {
                [] => return Err(StoreError::Refused("no group is chosen".into())),
                [name] => format!("{name} deleted"),
                all => format!("{} groups deleted", all.len()),
            };
            edit(what, groups.iter().map(|group| change(*group, GroupEdit::Gone { gone: true })).collect())
        }
    }
}
