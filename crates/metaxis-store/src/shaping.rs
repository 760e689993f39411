//! The groups of a pass as a person shapes them: named, put in order, trimmed, split, merged, deleted.

use crate::{
    GroupId, PassId, Store, StoreError,
    group_edits::{GroupEdit, GroupList, GroupsEdit, OneChange},
    groups::{self, NewGroup, Stored, ids, in_order, load, order},
    log,
};
use metaxis_core::{
    group::{Angle, Arrange, ArrangeError, Group, GroupFormat},
    line::Line,
    names::first_free,
    sound::Grid,
};
use rusqlite::Transaction;
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
    /// Groups are called otherwise, in one step.
    RenameAll {
        /// Each with its name.
        names: Vec<(GroupId, String)>,
    },
    /// A group takes another place among all.
    Move {
        /// It.
        group: GroupId,
        /// Its place then, from 0.
        to: usize,
    },
    /// A group counts from another label on, drop-frame or not, or is of another size; its rate stays.
    Format {
        /// It.
        group: GroupId,
        /// Its format as it is shown.
        format: GroupFormat,
    },
    /// The angles of a group are arranged otherwise.
    Arrange {
        /// It.
        group: GroupId,
        /// How.
        how: Arrange,
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
    /// Pieces of what is shown go out of all angles at once, and what follows follows at once.
    TakeOut {
        /// The group.
        group: GroupId,
        /// From and up to which frame.
        #[ts(type = "Array<[number, number]>")]
        pieces: Vec<(i64, i64)>,
    },
    /// The piece that is taken out in front of a frame of what is shown is put back.
    PutBack {
        /// The group.
        group: GroupId,
        /// The frame.
        #[ts(type = "number")]
        at: i64,
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
    /// Whether a person put it together: a later pass leaves it as it is.
    pub cast: bool,
    /// Its place among the groups, where a person put them in order.
    pub place: Option<i64>,
}

impl Stored {
    /// Another group beside it, of the same line.
    fn once_more(&self, group: Group) -> MadeGroup {
        MadeGroup { group, line: Some(self.line.clone()), given: self.named, cast: true, place: self.place }
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

    /// Gives a group of the pass that is shown other angles, of all its frames. `what` is said of it.
    ///
    /// # Errors
    /// As [`Store::edit_groups`].
    pub fn arrange_group(
        &self,
        version: Option<i64>,
        group: GroupId,
        what: &str,
        angles: impl FnOnce(&Group) -> Result<Vec<Angle>, ArrangeError>,
    ) -> Result<(), StoreError> {
        self.transaction(|t| {
            let (pass, own) = shown_group(t, group)?;
            let changes = angles_changed(group, &own, &angles(&own)?);
            log::edit::<GroupList>(t, pass, version, &GroupsEdit { what: what.to_owned(), changes })?;
            Ok(())
        })
    }

    /// Gives a group of the pass that is shown another grid; the usual one where that is `None`. `what` is said of it.
    ///
    /// # Errors
    /// [`StoreError::Missing`], [`StoreError::Refused`] with what `grid` says; then nothing is changed.
    pub fn change_grid<E: std::error::Error>(
        &self,
        group: GroupId,
        what: &str,
        grid: impl FnOnce(Option<&Grid>) -> Result<Option<Grid>, E>,
    ) -> Result<(), StoreError> {
        self.transaction(|t| {
            let (pass, own) = shown_group(t, group)?;
            let grid = grid(own.grid.as_ref()).map_err(|e| StoreError::Refused(e.to_string()))?;
            let what = format!("{}: {what}", own.name);
            let changes = vec![change(group, GroupEdit::Grid { grid })];
            // Crosspoints are set one by one: whoever sets another one meanwhile loses nothing.
            log::edit::<GroupList>(t, pass, None, &GroupsEdit { what, changes })?;
            Ok(())
        })
    }

    /// A group with all that it is made of, and its line, for making another of it.
    ///
    /// # Errors
    /// [`StoreError::Missing`].
    pub fn whole_group(&self, id: GroupId) -> Result<MadeGroup, StoreError> {
        self.transaction(|t| {
            let own = load(t, id)?;
            Ok(own.once_more(own.group.clone()))
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
            let mut places = vec![];
            for id in gone {
                places.extend(load(t, *id)?.place);
            }
            // One that comes in the place of others has the first of theirs.
            let place = places.into_iter().min().filter(|_| made.len() == 1);
            let made = made
                .iter()
                .map(|own| insert(t, pass, &MadeGroup { place: own.place.or(place), ..own.clone() }))
                .collect::<Result<Vec<_>, _>>()?;
            let go = gone.iter().map(|group| change(*group, GroupEdit::Gone { gone: true }));
            let come = made.iter().map(|group| change(*group, GroupEdit::Gone { gone: false }));
            let edit = GroupsEdit { what: what.to_owned(), changes: go.chain(come).collect() };
            log::edit::<GroupList>(t, pass, version, &edit)?;
            Ok(made)
        })
    }
}

/// What makes the angles of a group these.
fn angles_changed(group: GroupId, own: &Group, now: &[Angle]) -> Vec<OneChange> {
    let gone = own.angles.iter().filter(|was| now.iter().all(|angle| angle.id != was.id));
    let gone = gone.map(|was| GroupEdit::Angle { angle: was.id, at: 0, now: None, given: true });
    let come = now.iter().enumerate().filter(|(_, angle)| own.angle(angle.id) != Some(angle));
    let come = come.map(|(at, angle)| GroupEdit::Angle {
        angle: angle.id,
        at,
        now: Some(angle.clone()),
        given: true,
    });
    let is_cast =
        own.angles.iter().any(|was| now.iter().all(|angle| angle.id != was.id || angle.parts != was.parts))
            || now.iter().any(|angle| own.angle(angle.id).is_none());
    let cast = is_cast.then_some(GroupEdit::Cast { cast: true });
    gone.chain(come).chain(cast).map(|edit| change(group, edit)).collect()
}

/// The pass that is shown.
fn shown(t: &Transaction) -> Result<PassId, StoreError> {
    let pass: Option<PassId> = t.query_row("SELECT current_pass FROM production", [], |row| row.get(0))?;
    pass.ok_or_else(|| StoreError::Refused("there are no groups yet: sync the day first".into()))
}

/// A group of it.
fn shown_group(t: &Transaction, group: GroupId) -> Result<(PassId, Group), StoreError> {
    let pass = shown(t)?;
    if !ids(t, pass)?.contains(&group) {
        return Err(StoreError::Missing { what: "group", id: group.0 });
    }
    Ok((pass, load(t, group)?.group))
}

fn change(group: GroupId, edit: GroupEdit) -> OneChange {
    OneChange { group, edit }
}

/// Keeps a new group that is not there yet: the edit that follows brings it.
fn insert(t: &Transaction, pass: PassId, made: &MadeGroup) -> Result<GroupId, StoreError> {
    let MadeGroup { group, line, given, cast, place } = made;
    let first = group
        .angles
        .first()
        .ok_or_else(|| StoreError::Refused(format!("“{}” would have no picture", group.name)))?;
    let line = line.clone().unwrap_or_else(|| Line::new(group.frames, first.id));
    let new = NewGroup {
        group,
        line: &line,
        named: *given,
        ordered: *given,
        gone: true,
        place: *place,
        cast: *cast,
    };
    groups::insert(t, pass, &new)
}

/// The name, or where a group that is there has it the name with the first number that is free.
fn free_name(t: &Transaction, pass: PassId, name: &str) -> Result<String, StoreError> {
    let mut taken = vec![];
    for id in ids(t, pass)? {
        taken.push(load(t, id)?.group.name);
    }
    Ok(first_free(name.to_owned(), |name| taken.iter().any(|own| own == name)))
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
        GroupChange::RenameAll { names } => {
            let mut changes = vec![];
            for (group, name) in names {
                known(*group)?;
                changes.push(change(*group, GroupEdit::Name { name: name.clone(), given: true }));
            }
            edit(format!("{} groups called otherwise", names.len()), changes)
        }
        GroupChange::Move { group, to } => {
            let mut all = in_order(t, pass)?;
            let from = all.iter().position(|(id, _)| id == group);
            let from = from.ok_or(StoreError::Missing { what: "group", id: group.0 })?;
            let moved = all.remove(from);
            all.insert((*to).min(all.len()), moved);
            let places = (0..).zip(&all).filter(|(place, (_, own))| own.place != Some(*place));
            let changes = places.map(|(place, (id, _))| change(*id, GroupEdit::Place { place: Some(place) }));
            edit("order of groups".into(), changes.collect())
        }
        GroupChange::Format { group, format } => {
            let own = known(*group)?.group;
            if !format.can_be() || format.start.rate != own.rate() {
                return Err(StoreError::Refused("a group cannot have that format".into()));
            }
            let Group { start, axis_zero, width, height, name, .. } = own.in_format(format);
            let now = GroupEdit::Format { start, axis_zero, width, height, given: true };
            let cast = change(*group, GroupEdit::Cast { cast: true });
            edit(format!("{name} in another format"), vec![change(*group, now), cast])
        }
        GroupChange::Arrange { group, how } => {
            let Stored { group: own, line, .. } = known(*group)?;
            let how = how.clone().of_whole(&own);
            if let Arrange::Remove { angle } = how {
                let times = line.switches().iter().filter(|switch| switch.angle == angle).count();
                if times > 0 {
                    let how_often = if times == 1 { "once".to_owned() } else { format!("{times} times") };
                    return Err(StoreError::Refused(format!(
                        "the line shows that angle {how_often}: show another there first, or set it aside"
                    )));
                }
            }
            let angles = own.arranged(&how)?;
            edit(how.said().into(), angles_changed(*group, &own, &angles))
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
            let trimmed = Group { window: *window, ..stored.group.clone() };
            let is_removed = |own: (i64, i64)| {
                stored.group.removed.iter().any(|(from, to)| *from <= own.0 && own.1 <= *to)
            };
            if is_removed(trimmed.window()) {
                return Err(StoreError::Refused(format!(
                    "all of that is taken out of “{name}”: put it back first"
                )));
            }
            let window = window.filter(|window| *window != (0, frames));
            let what = if window.is_some() { "trimmed" } else { "untrimmed" };
            edit(format!("{name} {what}"), vec![change(*group, GroupEdit::Window { window })])
        }
        GroupChange::TakeOut { group, pieces } => {
            let own = known(*group)?.group;
            let removed = own.with_removed(pieces).ok_or_else(|| {
                StoreError::Refused(format!("that is nothing of “{}”, or all of it", own.name))
            })?;
            let what = match pieces.len() {
                1 => format!("a piece taken out of {}", own.name),
                count => format!("{count} pieces taken out of {}", own.name),
            };
            edit(what, vec![change(*group, GroupEdit::Removed { removed })])
        }
        GroupChange::PutBack { group, at } => {
            let own = known(*group)?.group;
            let removed = own.with_put_back(*at).ok_or_else(|| {
                StoreError::Refused(format!("nothing is taken out of “{}” there", own.name))
            })?;
            let what = format!("a piece put back into {}", own.name);
            edit(what, vec![change(*group, GroupEdit::Removed { removed })])
        }
        GroupChange::Split { group, at } => {
            let stored = known(*group)?;
            let whole = &stored.group;
            let frames: i64 = whole.left().iter().map(|(from, to)| to - from).sum();
            if *at <= 0 || *at >= frames {
                return Err(StoreError::Refused("a group is split between its head and its tail".into()));
            }
            let (from, to) = whole.window();
            // What is out where it is split stays with the first, to be put back at its tail.
            let at = whole.whole_frame(*at);
            let name = stored.group.name.clone();
            let second =
                Group { name: free_name(t, pass, &name)?, window: Some((at, to)), ..stored.group.clone() };
            let made = insert(t, pass, &stored.once_more(second))?;
            edit(
                format!("{name} split"),
                vec![
                    change(*group, GroupEdit::Window { window: Some((from, at)) }),
                    change(*group, GroupEdit::Cast { cast: true }),
                    change(made, GroupEdit::Gone { gone: false }),
                ],
            )
        }
        GroupChange::Duplicate { group } => {
            let stored = known(*group)?;
            let name = stored.group.name.clone();
            let copy = Group { name: free_name(t, pass, &name)?, ..stored.group.clone() };
            let made = insert(t, pass, &stored.once_more(copy))?;
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
