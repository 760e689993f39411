//! Passes with their placements, and the whole day for the page.

use crate::{
    CutCounts, DayView, Part, PassFacts, PassId, PassView, PlacementView, ShownPass, Store, StoreError,
    Turns, carry, choices, clips,
    columns::{document, name},
    devices, group_edits, groups, health,
    ids::Only,
    log::{self, Document},
    looks,
};
use metaxis_core::{
    clip::{ClipFacts, ClipId, DeviceId},
    group::Group,
    review::{Reviewed, review},
    sync::Placement,
    time::{FrameRate, Tick},
};
use rusqlite::{OptionalExtension, Row, Transaction, params};
use serde::{Deserialize, Serialize};
use std::collections::HashMap;

/// Findings that are kept, the newest ones.
const FOUND_KEPT: i64 = 6;

impl Store {
    /// Keeps a finished pass with its groups and shows it. Lines made on an equal group of the pass shown
    /// before are carried over. Returns its running number.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`]; then nothing of it is kept.
    pub fn keep_pass(
        &self,
        pass: &PassFacts,
        placements: &[(ClipId, Placement)],
        proposed: &[Group],
    ) -> Result<u32, StoreError> {
        self.transaction(|t| {
            let number: u32 =
                t.query_row("SELECT COALESCE(MAX(number), 0) + 1 FROM pass", [], |row| row.get(0))?;
            let before = shown_pass(t)?;
            t.execute(
                "INSERT INTO pass (number, reference_device, origin_clip, axis_zero, took_s, name, notes, islands, found)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, (SELECT found FROM pass WHERE id =
                         (SELECT current_pass FROM production)))",
                params![
                    number,
                    pass.reference.0,
                    pass.origin.0,
                    pass.axis_zero.0,
                    pass.took_s,
                    pass.name,
                    serde_json::to_string(&pass.notes)?,
                    serde_json::to_string(&pass.islands)?
                ],
            )?;
            let pass = PassId(t.last_insert_rowid());
            for (clip, placement) in placements {
                t.execute(
                    "INSERT INTO placement (pass, clip, document) VALUES (?1, ?2, ?3)",
                    params![pass, clip.0, serde_json::to_string(placement)?],
                )?;
            }
            carry::keep_proposed(t, pass, (proposed, placements), before.map(|pass| pass.id))?;
            log::edit::<Shown>(t, Only, None, &Show { pass: Some(pass), number })?;
            Ok(number)
        })
    }

    /// Keeps what listening found as what a pass rests on, by its running number; passes made from it by hand rest on the
    /// same. That of older passes is forgotten.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn keep_found(&self, number: u32, document: &[u8]) -> Result<(), StoreError> {
        self.transaction(|t| {
            t.execute("INSERT INTO found (document) VALUES (?1)", [document])?;
            let id = t.last_insert_rowid();
            t.execute("UPDATE pass SET found = ?1 WHERE number = ?2", params![id, number])?;
            let old = id - FOUND_KEPT;
            t.execute("UPDATE pass SET found = NULL WHERE found <= ?1", [old])?;
            t.execute("DELETE FROM found WHERE id <= ?1", [old])?;
            Ok(())
        })
    }

    /// What listening found that the shown pass rests on, where it is still known.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn found(&self) -> Result<Option<Vec<u8>>, StoreError> {
        self.transaction(|t| {
            let sql = "SELECT document FROM found WHERE id = (SELECT found FROM pass WHERE id =
                       (SELECT current_pass FROM production))";
            Ok(t.query_row(sql, [], |row| row.get(0)).optional()?)
        })
    }

    /// Shows another pass.
    ///
    /// # Errors
    /// [`StoreError::Missing`].
    pub fn show_pass(&self, pass: PassId) -> Result<(), StoreError> {
        self.transaction(|t| {
            let number = number_of(t, pass)?;
            log::edit::<Shown>(t, Only, None, &Show { pass: Some(pass), number })?;
            Ok(())
        })
    }

    /// Names a pass.
    ///
    /// # Errors
    /// [`StoreError::Missing`].
    pub fn name_pass(&self, pass: PassId, name: &str) -> Result<(), StoreError> {
        self.transaction(|t| {
            log::edit::<Named>(t, pass, None, &name.to_owned())?;
            Ok(())
        })
    }

    /// A pass and where it put every clip.
    ///
    /// # Errors
    /// [`StoreError::Missing`].
    pub fn pass(&self, pass: PassId) -> Result<(PassView, Vec<PlacementView>), StoreError> {
        self.transaction(|t| {
            let found = t.query_row(&format!("{SELECT} WHERE id = ?1"), [pass], view).optional()?;
            let found = found.ok_or(StoreError::Missing { what: "pass", id: pass.0 })?;
            Ok((found, placements(t, pass)?))
        })
    }

    /// Where the pass that is shown has a clip; none where there is no pass, or it is not in it.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`], [`StoreError::Document`].
    pub fn placement(&self, clip: ClipId) -> Result<Option<Placement>, StoreError> {
        self.transaction(|t| {
            let sql = "SELECT document FROM placement
                       WHERE pass = (SELECT current_pass FROM production) AND clip = ?1";
            Ok(t.query_row(sql, [clip.0], |row| document(row, 0)).optional()?)
        })
    }

    /// The files of the day, and what is remarked of them where the pass that is shown put them.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn day(&self) -> Result<DayView, StoreError> {
        self.transaction(|t| {
            let mut day = DayView {
                production: devices::production(t)?,
                devices: devices::devices(t)?,
                clips: clips::clips(t)?,
                notes: clips::notes(t)?,
                health: vec![],
                spans: vec![],
                slate_log: None,
                log_missing: vec![],
                intake: log::turns::<choices::Touched>(t, Only)?,
            };
            let pass = shown_pass(t)?;
            let placements = pass.as_ref().map_or_else(|| Ok(vec![]), |pass| placements(t, pass.id))?;
            health::conclude(t, &mut day, pass.as_ref(), &placements)?;
            Ok(day)
        })
    }

    /// The pass that is shown, with its groups.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn shown(&self) -> Result<ShownPass, StoreError> {
        self.transaction(|t| {
            let pass = shown_pass(t)?;
            let placements = pass.as_ref().map_or_else(|| Ok(vec![]), |pass| placements(t, pass.id))?;
            // What takes no part needs no look.
            let taking = taking(t)?;
            let mut counts = CutCounts::default();
            let mut reviewed = vec![];
            for PlacementView { clip, placement } in &placements {
                let Some((device, picture)) = taking.get(clip) else { continue };
                counts.count(placement.verdict);
                reviewed.push(Reviewed { id: *clip, device: *device, picture: *picture, placement });
            }
            let review = pass.as_ref().map_or_else(Vec::new, |pass| review(&reviewed, pass.facts.reference));
            Ok(ShownPass {
                shown: log::turns::<Shown>(t, Only)?,
                passes: passes(t)?,
                named: pass
                    .as_ref()
                    .map_or_else(|| Ok(Turns::default()), |pass| log::turns::<Named>(t, pass.id))?,
                groups: pass.as_ref().map_or_else(|| Ok(vec![]), |pass| groups::summaries(t, pass.id))?,
                groups_turns: pass.as_ref().map_or_else(
                    || Ok(Turns::default()),
                    |pass| log::turns::<group_edits::GroupList>(t, pass.id),
                )?,
                looks: pass.as_ref().map_or_else(|| Ok(vec![]), |pass| looks::looks(t, pass.id))?,
                checked: pass.as_ref().map_or(Ok(None), |pass| looks::checked(t, pass.id))?,
                round: log::turns::<looks::Round>(t, Only)?,
                pass,
                placements,
                counts,
                review,
            })
        })
    }
}

/// Which pass is shown.
pub(crate) struct Shown(Option<PassId>);

/// Another pass is shown.
#[derive(Debug, Serialize, Deserialize)]
pub(crate) struct Show {
    pass: Option<PassId>,
    /// Its running number, for saying it.
    number: u32,
}

impl Document for Shown {
    const KIND: &'static str = "shown";
    type Id = Only;
    type Edit = Show;

    fn load(t: &Transaction, _: Only) -> Result<Self, StoreError> {
        Ok(Self(t.query_row("SELECT current_pass FROM production", [], |row| row.get(0))?))
    }

    fn apply(&mut self, t: &Transaction, edit: &Show) -> Result<Option<Show>, StoreError> {
        if self.0 == edit.pass {
            return Ok(None);
        }
        let number = self.0.map_or(Ok(0), |pass| number_of(t, pass))?;
        Ok(Some(Show { pass: std::mem::replace(&mut self.0, edit.pass), number }))
    }

    fn keep(&self, t: &Transaction, _: Only) -> Result<(), StoreError> {
        t.execute("UPDATE production SET current_pass = ?1", [self.0])?;
        Ok(())
    }

    fn said(edit: &Show) -> String {
        format!("pass {} shown", edit.number)
    }
}

/// The name of a pass.
pub(crate) struct Named(String);

impl Document for Named {
    const KIND: &'static str = "pass";
    type Id = PassId;
    type Edit = String;

    fn load(t: &Transaction, id: PassId) -> Result<Self, StoreError> {
        let name = t.query_row("SELECT name FROM pass WHERE id = ?1", [id], |row| row.get(0)).optional()?;
        name.map(Self).ok_or(StoreError::Missing { what: "pass", id: id.0 })
    }

    fn apply(&mut self, _: &Transaction, name: &String) -> Result<Option<String>, StoreError> {
        Ok((self.0 != *name).then(|| std::mem::replace(&mut self.0, name.clone())))
    }

    fn keep(&self, t: &Transaction, id: PassId) -> Result<(), StoreError> {
        t.execute("UPDATE pass SET name = ?2 WHERE id = ?1", params![id, self.0])?;
        Ok(())
    }

    fn said(name: &String) -> String {
        format!("pass called {name}")
    }
}

fn number_of(t: &Transaction, pass: PassId) -> Result<u32, StoreError> {
    let number = t.query_row("SELECT number FROM pass WHERE id = ?1", [pass], |row| row.get(0)).optional()?;
    number.ok_or(StoreError::Missing { what: "pass", id: pass.0 })
}

const SELECT: &str =
    "SELECT id, number, reference_device, origin_clip, axis_zero, took_s, name, notes, islands FROM pass";

fn view(row: &Row) -> rusqlite::Result<PassView> {
    let facts = PassFacts {
        reference: DeviceId(row.get(2)?),
        origin: ClipId(row.get(3)?),
        axis_zero: Tick(row.get(4)?),
        took_s: row.get(5)?,
        name: row.get(6)?,
        // Notes are for reading: where they cannot be, there are none.
        notes: serde_json::from_str(&row.get::<_, String>(7)?).unwrap_or_default(),
        islands: serde_json::from_str(&row.get::<_, String>(8)?).unwrap_or_default(),
    };
    Ok(PassView { id: row.get(0)?, number: row.get(1)?, facts })
}

fn shown_pass(t: &Transaction) -> Result<Option<PassView>, StoreError> {
    let sql = format!("{SELECT} WHERE id = (SELECT current_pass FROM production)");
    Ok(t.query_row(&sql, [], view).optional()?)
}

fn passes(t: &Transaction) -> Result<Vec<PassView>, StoreError> {
    let mut statement = t.prepare(&format!("{SELECT} ORDER BY number"))?;
    Ok(statement.query_map([], view)?.collect::<Result<_, _>>()?)
}

/// The clips that take part, each with its device and the rate of its pictures.
fn taking(t: &Transaction) -> Result<HashMap<ClipId, (DeviceId, Option<FrameRate>)>, StoreError> {
    let mut statement = t.prepare("SELECT id, device, facts FROM clip WHERE part NOT IN (?1, ?2)")?;
    let mut rows = statement.query([name(Part::NoSync), name(Part::Playback)])?;
    let mut clips = HashMap::new();
    while let Some(row) = rows.next()? {
        let facts: ClipFacts = document(row, 2)?;
        let rate = facts.picture.map(|picture| picture.rate);
        clips.insert(ClipId(row.get(0)?), (DeviceId(row.get(1)?), rate));
    }
    Ok(clips)
}

fn placements(t: &Transaction, pass: PassId) -> Result<Vec<PlacementView>, StoreError> {
    let mut statement = t.prepare("SELECT clip, document FROM placement WHERE pass = ?1 ORDER BY clip")?;
    let mut rows = statement.query([pass])?;
    let mut views = vec![];
    while let Some(row) = rows.next()? {
        let document: String = row.get(1)?;
        views.push(PlacementView { clip: ClipId(row.get(0)?), placement: serde_json::from_str(&document)? });
    }
    Ok(views)
}
