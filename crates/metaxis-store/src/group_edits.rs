//! What is done to the groups of a pass, as the log keeps it.

use crate::{
    GroupId, PassId, StoreError,
    groups::{Stored, load, order},
    log::Document,
};
use metaxis_core::{
    group::{Angle, AngleId},
    sound::Grid,
    time::{Tick, Timecode},
};
use rusqlite::{Transaction, params};
use serde::{Deserialize, Serialize};

/// Changes that are one step.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub(crate) struct GroupsEdit {
    pub what: String,
    pub changes: Vec<OneChange>,
}

/// A change of one group.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub(crate) struct OneChange {
    pub group: GroupId,
    #[serde(flatten)]
    pub edit: GroupEdit,
}

/// What changes; `given` tells what a person gave from what was proposed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "do", rename_all = "snake_case")]
pub(crate) enum GroupEdit {
    /// Another name.
    Name { name: String, given: bool },
    /// Another order of its angles.
    Order { angles: Vec<AngleId>, given: bool },
    /// Another angle of this number, at this place; none where `None`.
    Angle { angle: AngleId, at: usize, now: Option<Angle>, given: bool },
    /// Other labels, and another size.
    Format { start: Timecode, axis_zero: Tick, width: u32, height: u32, given: bool },
    /// Another place among the groups.
    Place { place: Option<i64> },
    /// Whether a person put it together.
    Cast { cast: bool },
    /// Another grid of its sound; the usual one where `None`.
    Grid { grid: Option<Grid> },
    /// Other frames that it is trimmed to.
    Window { window: Option<(i64, i64)> },
    /// Other pieces that are taken out of it.
    Removed { removed: Vec<(i64, i64)> },
    /// It is there no more, or there again.
    Gone { gone: bool },
}

impl GroupEdit {
    /// Makes it; returns the one that takes it back.
    fn apply(&self, stored: &mut Stored) -> Self {
        let Stored { group, named, ordered, gone, place, cast, .. } = stored;
        match self {
            Self::Name { name, given } => {
                let was = std::mem::replace(&mut group.name, name.clone());
                Self::Name { name: was, given: std::mem::replace(named, *given) }
            }
            Self::Order { angles, given } => {
                let was = Self::Order { angles: order(group), given: *ordered };
                let place = |id| angles.iter().position(|own| *own == id).unwrap_or(usize::MAX);
                group.angles.sort_by_key(|angle| place(angle.id));
                *ordered = *given;
                was
            }
            Self::Angle { angle, at, now, given } => {
                let there = group.angles.iter().position(|own| own.id == *angle);
                let was = there.map(|there| group.angles.remove(there));
                if let Some(now) = now {
                    group.angles.insert((*at).min(group.angles.len()), now.clone());
                }
                let given = std::mem::replace(ordered, *given);
                Self::Angle { angle: *angle, at: there.unwrap_or(*at), now: was, given }
            }
            Self::Format { start, axis_zero, width, height, given } => Self::Format {
                start: std::mem::replace(&mut group.start, *start),
                axis_zero: std::mem::replace(&mut group.axis_zero, *axis_zero),
                width: std::mem::replace(&mut group.width, *width),
                height: std::mem::replace(&mut group.height, *height),
                given: std::mem::replace(ordered, *given),
            },
            Self::Cast { cast: now } => Self::Cast { cast: std::mem::replace(cast, *now) },
            Self::Place { place: now } => Self::Place { place: std::mem::replace(place, *now) },
            Self::Grid { grid } => Self::Grid { grid: std::mem::replace(&mut group.grid, grid.clone()) },
            Self::Window { window } => Self::Window { window: std::mem::replace(&mut group.window, *window) },
            Self::Removed { removed } => {
                Self::Removed { removed: std::mem::replace(&mut group.removed, removed.clone()) }
            }
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
        for (id, Stored { group, named, ordered, gone, place, cast, .. }) in &self.0 {
            t.execute(
                "UPDATE cut_group SET document = ?2, named = ?3, ordered = ?4, gone = ?5, place = ?6, cast_by_hand = ?7 WHERE id = ?1",
                params![id, serde_json::to_string(group)?, named, ordered, gone, place, cast],
            )?;
        }
        Ok(())
    }

    fn said(edit: &GroupsEdit) -> String {
        edit.what.clone()
    }
}
