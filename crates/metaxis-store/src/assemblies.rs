//! Assemblies: lines of several groups one behind another.

use crate::{
    AssemblyId, GroupId, PassId, Store, StoreError, Turns, Way,
    columns::document,
    groups::{follower, load},
    layers,
    log::{self, Document},
};
use metaxis_core::{
    assembly::{Assembly, AssemblyEdit, AssemblyPart, one_rate},
    group::{AnglePart, Group},
    line::{Layer, Line},
    time::{FrameRate, Timecode},
    turnover::AssembledPart,
};
use rusqlite::{OptionalExtension, Row, Transaction, params};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// An assembly in a list.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct AssemblySummary {
    /// Number.
    pub id: AssemblyId,
    /// Its name.
    pub name: String,
    /// How many parts it has.
    pub parts: usize,
    /// It is put aside: not deleted, and can be taken up again.
    pub aside: bool,
}

/// A part of an assembly as it is found now.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct AssemblyPartView {
    /// The group that is shown now; of a line whose group is not there any more, the one that followed it.
    pub group: Option<GroupId>,
    /// What it is called: its group, or its clip's file.
    pub name: String,
    /// From and up to which frame of the group's.
    #[ts(type = "[number, number]")]
    pub range: (i64, i64),
    /// Labels of the first frame and of the one behind its last, where it is a line.
    pub labels: Option<(Timecode, Timecode)>,
    /// Where it begins in the assembly, frames.
    #[ts(type = "number")]
    pub at: i64,
    /// Of a clip, its part on the frames from nought on.
    pub over: Option<AnglePart>,
    /// Why it is not what was put there.
    pub remark: Option<String>,
}

/// An assembly.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct AssemblyView {
    /// Number.
    pub id: AssemblyId,
    /// It.
    pub assembly: Assembly,
    /// Its parts as they are found now, in their order.
    pub parts: Vec<AssemblyPartView>,
    /// The label of its first frame, where it has a line; its rate is the lines'.
    pub start: Option<Timecode>,
    /// Length in frames.
    #[ts(type = "number")]
    pub frames: i64,
    /// Why it cannot be one programme.
    pub why_not: Option<String>,
    /// Version, and what can be undone and redone.
    pub turns: Turns,
}

/// A part with all that it stands for.
#[derive(Debug, Clone)]
pub enum FoundPart {
    /// A line.
    Line {
        /// Its group as it is shown.
        group: Box<Group>,
        /// It.
        line: Line,
        /// From and up to which frame.
        range: (i64, i64),
    },
    /// Nothing, for so many frames.
    Gap(i64),
    /// A clip's pictures.
    Clip(Layer),
}

/// An assembly as it is written.
#[derive(Debug, Clone)]
pub struct FoundAssembly {
    /// Its name.
    pub name: String,
    /// The label of its first frame.
    pub start: Timecode,
    /// Its parts.
    pub parts: Vec<FoundPart>,
}

/// The name and the parts of an assembly.
pub(crate) struct Own(Assembly);

impl Document for Own {
    const KIND: &'static str = "assembly";
    type Id = AssemblyId;
    type Edit = AssemblyEdit;

    fn load(t: &Transaction, id: AssemblyId) -> Result<Self, StoreError> {
        let read = |row: &Row| document(row, 0);
        let found = t.query_row("SELECT document FROM assembly WHERE id = ?1", [id], read).optional()?;
        Ok(Self(found.ok_or(StoreError::Missing { what: "assembly", id: id.0 })?))
    }

    fn apply(&mut self, _: &Transaction, edit: &AssemblyEdit) -> Result<Option<AssemblyEdit>, StoreError> {
        self.0.apply(edit).map(Some).map_err(|e| StoreError::Refused(e.to_string()))
    }

    fn keep(&self, t: &Transaction, id: AssemblyId) -> Result<(), StoreError> {
        let sql = "UPDATE assembly SET document = ?2 WHERE id = ?1";
        t.execute(sql, params![id, serde_json::to_string(&self.0)?])?;
        Ok(())
    }

    fn said(edit: &AssemblyEdit) -> String {
        match edit {
            AssemblyEdit::Name { .. } => "a name",
            AssemblyEdit::Put { .. } => "parts put in",
            AssemblyEdit::Move { .. } => "a part moved",
            AssemblyEdit::Change { .. } => "a part changed",
            AssemblyEdit::Take { .. } => "a part taken out",
            AssemblyEdit::Restore { .. } => "the assembly put back",
        }
        .into()
    }
}

impl Store {
    /// All assemblies, by number.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn assemblies(&self) -> Result<Vec<AssemblySummary>, StoreError> {
        self.transaction(|t| {
            let mut rows = t.prepare("SELECT id, document, aside FROM assembly ORDER BY id")?;
            let all = rows.query_map([], |row| {
                let own: Assembly = document(row, 1)?;
                Ok(AssemblySummary {
                    id: row.get(0)?,
                    name: own.name,
                    parts: own.parts.len(),
                    aside: row.get(2)?,
                })
            })?;
            Ok(all.collect::<Result<_, _>>()?)
        })
    }

    /// Makes one of the lines of these groups, in their order.
    ///
    /// # Errors
    /// [`StoreError::Refused`], [`StoreError::Missing`].
    pub fn make_assembly(&self, name: &str, groups: &[GroupId]) -> Result<AssemblyId, StoreError> {
        self.transaction(|t| {
            let mut own = Assembly::new(name).map_err(|e| StoreError::Refused(e.to_string()))?;
            for group in groups {
                load(t, *group)?;
                own.parts.push(AssemblyPart::Line { group: group.0, range: None });
            }
            t.execute("INSERT INTO assembly (document) VALUES (?1)", [serde_json::to_string(&own)?])?;
            Ok(AssemblyId(t.last_insert_rowid()))
        })
    }

    /// Puts an assembly aside, or takes it up again.
    ///
    /// # Errors
    /// [`StoreError::Missing`].
    pub fn put_assembly_aside(&self, id: AssemblyId, aside: bool) -> Result<(), StoreError> {
        self.transaction(|t| {
            let changed = t.execute("UPDATE assembly SET aside = ?2 WHERE id = ?1", params![id, aside])?;
            if changed == 0 { Err(StoreError::Missing { what: "assembly", id: id.0 }) } else { Ok(()) }
        })
    }

    /// An assembly, its parts as they are now.
    ///
    /// # Errors
    /// [`StoreError::Missing`].
    pub fn assembly(&self, id: AssemblyId) -> Result<AssemblyView, StoreError> {
        self.transaction(|t| view(t, id))
    }

    /// Applies an edit made on a version of it.
    ///
    /// # Errors
    /// [`StoreError::Stale`], [`StoreError::Refused`], [`StoreError::Missing`]; then nothing is changed.
    pub fn edit_assembly(
        &self,
        id: AssemblyId,
        version: i64,
        edit: &AssemblyEdit,
    ) -> Result<AssemblyView, StoreError> {
        self.transaction(|t| {
            let mut edit = edit.clone();
            let rate = view(t, id)?.start.map_or(FrameRate::FPS_25, |start| start.rate);
            let parts = match &mut edit {
                AssemblyEdit::Put { parts, .. } => parts.as_mut_slice(),
                AssemblyEdit::Change { part, .. } => std::slice::from_mut(part),
                _ => &mut [],
            };
            for part in parts {
                match part {
                    AssemblyPart::Line { group, .. } => drop(load(t, GroupId(*group))?),
                    AssemblyPart::Clip { layer } => *layer = layers::whole(t, layer, rate)?,
                    AssemblyPart::Gap { .. } => {}
                }
            }
            log::edit::<Own>(t, id, Some(version), &edit)?;
            view(t, id)
        })
    }

    /// Takes its last edit back, or makes the last one that was taken back again.
    ///
    /// # Errors
    /// As [`Store::edit_assembly`], and [`StoreError::NothingTo`].
    pub fn turn_assembly(&self, id: AssemblyId, version: i64, way: Way) -> Result<AssemblyView, StoreError> {
        self.transaction(|t| {
            log::turn::<Own>(t, id, Some(version), way)?;
            view(t, id)
        })
    }

    /// An assembly with all that it stands for.
    ///
    /// # Errors
    /// [`StoreError::Missing`]; [`StoreError::Refused`] where its lines cannot follow each other, or one is not there.
    pub fn found_assembly(&self, id: AssemblyId) -> Result<FoundAssembly, StoreError> {
        self.transaction(|t| {
            let view = view(t, id)?;
            if let Some(why) = view.why_not {
                return Err(StoreError::Refused(why));
            }
            let refused = |why: &str| StoreError::Refused(format!("“{}” {why}", view.assembly.name));
            let start = view.start.ok_or_else(|| refused("has no line yet: put one in first"))?;
            let mut parts = vec![];
            for (part, found) in view.assembly.parts.iter().zip(&view.parts) {
                parts.push(match (part, found.group) {
                    (AssemblyPart::Line { .. }, Some(id)) => {
                        let (group, line) = load(t, id)?.shown();
                        FoundPart::Line { group: Box::new(group), line, range: found.range }
                    }
                    (AssemblyPart::Line { .. }, None) => {
                        return Err(refused(
                            "has a line whose group is not there any more: take it out first",
                        ));
                    }
                    (AssemblyPart::Gap { frames }, _) => FoundPart::Gap(*frames),
                    (AssemblyPart::Clip { layer }, _) => FoundPart::Clip(layer.clone()),
                });
            }
            Ok(FoundAssembly { name: view.assembly.name, start, parts })
        })
    }
}

fn view(t: &Transaction, id: AssemblyId) -> Result<AssemblyView, StoreError> {
    let Own(assembly) = Own::load(t, id)?;
    let shown: Option<PassId> =
        t.query_row("SELECT current_pass FROM production", [], |row| row.get(0)).optional()?.flatten();
    let mut parts = vec![];
    let mut rates: Vec<(String, FrameRate)> = vec![];
    let mut frames = 0;
    for part in &assembly.parts {
        let own = match part {
            AssemblyPart::Line { group, range } => {
                let (part, rate) = line_of(t, shown, GroupId(*group), *range)?;
                rates.extend(rate.map(|rate| (part.name.clone(), rate)));
                part
            }
            AssemblyPart::Gap { frames } => nothing("gap".into(), *frames),
            AssemblyPart::Clip { layer } => {
                let path = crate::clips::one(t, layer.clip)?.path;
                let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
                nothing(name, layer.frames)
            }
        };
        let length = own.range.1 - own.range.0;
        parts.push(AssemblyPartView { at: frames, ..own });
        frames += length;
    }
    let rate = one_rate(rates.iter().map(|(name, rate)| (name.as_str(), *rate)));
    let counted = rates.first().map_or(FrameRate::FPS_25, |(_, rate)| *rate);
    for (part, own) in assembly.parts.iter().zip(&mut parts) {
        if let AssemblyPart::Clip { layer } = part {
            let facts = crate::clips::one(t, layer.clip)?.facts;
            let bare = AssembledPart::gap(layer.frames, counted).group;
            let layer = Layer { at: 0, ..layer.clone() };
            own.over = facts.picture.as_ref().map(|own| layer.part(&bare, own, facts.picture_delay_s()));
        }
    }
    let drop = parts.iter().find_map(|own| own.labels).is_some_and(|(first, _)| first.drop);
    Ok(AssemblyView {
        id,
        assembly,
        parts,
        // An hour, as programmes begin.
        start: rate.as_ref().ok().copied().flatten().map(|rate| Timecode::hour(1, rate, drop)),
        frames,
        why_not: rate.err().map(|e| e.to_string()),
        turns: log::turns::<Own>(t, id)?,
    })
}

fn nothing(name: String, frames: i64) -> AssemblyPartView {
    AssemblyPartView { group: None, name, range: (0, frames), labels: None, at: 0, over: None, remark: None }
}

/// A line as it is found now: of its group, or of the one that followed that.
fn line_of(
    t: &Transaction,
    shown: Option<PassId>,
    id: GroupId,
    range: Option<(i64, i64)>,
) -> Result<(AssemblyPartView, Option<FrameRate>), StoreError> {
    let stored = load(t, id)?;
    let pass: PassId = t.query_row("SELECT pass FROM cut_group WHERE id = ?1", [id], |row| row.get(0))?;
    let name = stored.group.name.clone();
    let is_shown = shown == Some(pass) && !stored.gone;
    let followed = if is_shown { None } else { follower(t, id, &stored)? };
    let (id, stored, remark) = match (is_shown, followed) {
        (true, _) => (id, stored, None),
        (false, Some(next)) => {
            let said = format!("{name} is not there any more: {} followed it", next.name);
            (next.id, load(t, next.id)?, Some(said))
        }
        (false, None) => {
            let remark = Some(format!("{name} is not there any more: take it out, or put another in"));
            return Ok((AssemblyPartView { remark, ..nothing(name, 0) }, None));
        }
    };
    let (group, _) = stored.shown();
    let (from, to) = range.unwrap_or((0, group.frames));
    let (from, to) = (from.clamp(0, group.frames), to.clamp(0, group.frames));
    let labels = Some((group.label(from), group.label(to)));
    let own = AssemblyPartView {
        group: Some(id),
        name: group.name.clone(),
        range: (from, to),
        labels,
        at: 0,
        over: None,
        remark,
    };
    Ok((own, Some(group.rate())))
}
