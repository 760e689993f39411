//! The round of doubt: which clips a person looked at and found right, and which days were declared checked.

use crate::{
    PassId, Store, StoreError,
    columns::{name, word},
    ids::Only,
    log::{self, Document},
};
use metaxis_core::clip::ClipId;
use rusqlite::{OptionalExtension, Row, Transaction, params};
use serde::{Deserialize, Serialize};
use std::{
    collections::HashSet,
    time::{SystemTime, UNIX_EPOCH},
};
use strum::{EnumIter, EnumString, IntoStaticStr};
use ts_rs::TS;

/// What a person decided of a clip's place.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, EnumString, IntoStaticStr, EnumIter, TS,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Finding {
    /// It is right as it is.
    Right,
    /// It needs no place.
    Aside,
}

/// A clip that was looked at.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct Look {
    /// The clip.
    pub clip: ClipId,
    /// What was decided.
    pub finding: Finding,
    /// Where it lay then, microseconds on the axis; none where it had no place. Elsewhere, it needs another look.
    #[ts(type = "number | null")]
    pub start_us: Option<i64>,
    /// When, seconds since 1970.
    #[ts(type = "number")]
    pub at: i64,
}

/// A day declared checked.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct Checked {
    /// Who says so.
    pub who: String,
    /// When, seconds since 1970.
    #[ts(type = "number")]
    pub at: i64,
    /// Clips that were looked at then.
    pub looked: u32,
}

/// What becomes of some clips, or of a pass as a whole.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "do", rename_all = "snake_case")]
pub(crate) enum RoundEdit {
    /// These clips, each with what is known of it from now on.
    Clips { looks: Vec<(ClipId, Option<Look>)> },
    /// The pass is declared checked, or no longer.
    Checked { pass: PassId, checked: Option<Checked> },
}

/// The round of doubt of the production.
pub(crate) struct Round(Option<RoundEdit>);

impl Document for Round {
    const KIND: &'static str = "round";
    type Id = Only;
    type Edit = RoundEdit;

    /// Only the rows an edit touches are read, when it is made.
    fn load(_: &Transaction, _: Only) -> Result<Self, StoreError> {
        Ok(Self(None))
    }

    fn apply(&mut self, t: &Transaction, edit: &RoundEdit) -> Result<Option<RoundEdit>, StoreError> {
        let was = match edit {
            RoundEdit::Clips { looks } => {
                let known = looks.iter().map(|(clip, _)| Ok((*clip, look_at(t, *clip)?)));
                RoundEdit::Clips { looks: known.collect::<Result<_, StoreError>>()? }
            }
            RoundEdit::Checked { pass, .. } => {
                RoundEdit::Checked { pass: *pass, checked: checked(t, *pass)? }
            }
        };
        self.0 = Some(edit.clone());
        Ok((was != *edit).then_some(was))
    }

    fn keep(&self, t: &Transaction, _: Only) -> Result<(), StoreError> {
        match &self.0 {
            Some(RoundEdit::Clips { looks }) => {
                for (clip, look) in looks {
                    t.execute("DELETE FROM looked WHERE clip = ?1", [clip.0])?;
                    if let Some(look) = look {
                        t.execute(
                            "INSERT INTO looked (clip, finding, start_us, at) VALUES (?1, ?2, ?3, ?4)",
                            params![clip.0, name(look.finding), look.start_us, look.at],
                        )?;
                    }
                }
            }
            Some(RoundEdit::Checked { pass, checked }) => {
                t.execute("DELETE FROM checked WHERE pass = ?1", [pass])?;
                if let Some(Checked { who, at, looked }) = checked {
                    t.execute(
                        "INSERT INTO checked (pass, who, at, looked) VALUES (?1, ?2, ?3, ?4)",
                        params![pass, who, at, looked],
                    )?;
                }
            }
            None => {}
        }
        Ok(())
    }

    fn said(edit: &RoundEdit) -> String {
        match edit {
            RoundEdit::Checked { checked: Some(Checked { who, .. }), .. } => {
                format!("the day declared checked by {who}")
            }
            RoundEdit::Checked { checked: None, .. } => "the day no longer declared checked".into(),
            RoundEdit::Clips { looks } => {
                let what = match looks.first() {
                    Some((_, Some(Look { finding: Finding::Right, .. }))) => "found right",
                    Some((_, Some(Look { finding: Finding::Aside, .. }))) => "set aside",
                    _ => "to be looked at again",
                };
                match looks.len() {
                    1 => format!("a clip {what}"),
                    count => format!("{count} clips {what}"),
                }
            }
        }
    }
}

impl Store {
    /// Notes what a person found of clips where the pass that is shown has them; `None` asks for another look.
    ///
    /// # Errors
    /// [`StoreError::Missing`] where there is no such clip, [`StoreError::Refused`] where nothing is placed yet.
    pub fn look(&self, clips: &[ClipId], finding: Option<Finding>) -> Result<(), StoreError> {
        self.transaction(|t| {
            let pass = shown(t)?;
            let at = now();
            let mut looks: Vec<(ClipId, Option<Look>)> = vec![];
            // Each once, however often it was named.
            let mut named = HashSet::new();
            for &clip in clips.iter().filter(|clip| named.insert(**clip)) {
                let there = t.query_row("SELECT 1 FROM clip WHERE id = ?1", [clip.0], |_| Ok(()));
                there.optional()?.ok_or(StoreError::Missing { what: "clip", id: clip.0 })?;
                let start_us = start_of(t, pass, clip)?;
                looks.push((clip, finding.map(|finding| Look { clip, finding, start_us, at })));
            }
            log::edit::<Round>(t, Only, None, &RoundEdit::Clips { looks })?;
            Ok(())
        })
    }

    /// Declares the pass that is shown checked by somebody, or no longer.
    ///
    /// # Errors
    /// [`StoreError::Refused`] where nothing is placed yet.
    pub fn declare(&self, who: Option<&str>) -> Result<(), StoreError> {
        self.transaction(|t| {
            let pass = shown(t)?;
            let looked = looks(t, pass)?.len() as u32;
            let checked = who.map(|who| Checked { who: who.to_owned(), at: now(), looked });
            log::edit::<Round>(t, Only, None, &RoundEdit::Checked { pass, checked })?;
            Ok(())
        })
    }
}

fn now() -> i64 {
    SystemTime::now().duration_since(UNIX_EPOCH).map_or(0, |since| since.as_secs() as i64)
}

fn shown(t: &Transaction) -> Result<PassId, StoreError> {
    let pass: Option<PassId> = t.query_row("SELECT current_pass FROM production", [], |row| row.get(0))?;
    pass.ok_or_else(|| StoreError::Refused("nothing is placed yet; sync the day first".into()))
}

fn read(row: &Row) -> rusqlite::Result<Look> {
    Ok(Look { clip: ClipId(row.get(0)?), finding: word(row, 1)?, start_us: row.get(2)?, at: row.get(3)? })
}

fn look_at(t: &Transaction, clip: ClipId) -> Result<Option<Look>, StoreError> {
    let sql = "SELECT clip, finding, start_us, at FROM looked WHERE clip = ?1";
    Ok(t.query_row(sql, [clip.0], read).optional()?)
}

/// Where a placement begins, in SQL.
const START_S: &str = "json_extract(document, '$.stretches[0].start_s')";

fn micros(seconds: f64) -> i64 {
    (seconds * 1e6).round() as i64
}

/// Where a pass has a clip, microseconds.
fn start_of(t: &Transaction, pass: PassId, clip: ClipId) -> Result<Option<i64>, StoreError> {
    let sql = format!("SELECT {START_S} FROM placement WHERE pass = ?1 AND clip = ?2");
    let start_s: Option<Option<f64>> =
        t.query_row(&sql, params![pass, clip.0], |row| row.get(0)).optional()?;
    Ok(start_s.flatten().map(micros))
}

/// A place this near to where a clip lay when it was looked at is the same, microseconds: a thousandth of a second.
const SAME_US: i64 = 1000;

/// What was looked at and lies where it lay then.
pub(crate) fn looks(t: &Transaction, pass: PassId) -> Result<Vec<Look>, StoreError> {
    let sql = format!(
        "SELECT clip, finding, start_us, at,
                (SELECT {START_S} FROM placement WHERE pass = ?1 AND placement.clip = looked.clip)
         FROM looked ORDER BY clip"
    );
    let mut statement = t.prepare(&sql)?;
    let all = statement.query_map([pass], |row| Ok((read(row)?, row.get::<_, Option<f64>>(4)?)))?;
    let mut found = vec![];
    for one in all {
        let (look, now) = one?;
        if match (look.start_us, now.map(micros)) {
            (Some(then), Some(now)) => (then - now).abs() <= SAME_US,
            (then, now) => then == now,
        } {
            found.push(look);
        }
    }
    Ok(found)
}

/// Who declared a pass checked.
pub(crate) fn checked(t: &Transaction, pass: PassId) -> Result<Option<Checked>, StoreError> {
    let sql = "SELECT who, at, looked FROM checked WHERE pass = ?1";
    let read = |row: &Row| Ok(Checked { who: row.get(0)?, at: row.get(1)?, looked: row.get(2)? });
    Ok(t.query_row(sql, [pass], read).optional()?)
}
