//! Lines of a group that are kept beside its own: versions with a name, gone back to, compared.

use crate::{
    GroupId, Store, StoreError,
    columns::document,
    groups::{Cut, load, order},
    log,
};
use metaxis_core::{
    clip::DeviceId,
    line::{Line, LineDifference, LineEdit, LineError, Shot},
};
use rusqlite::{OptionalExtension, Transaction, params};
use serde::{Deserialize, Serialize};
use std::time::{SystemTime, UNIX_EPOCH};
use ts_rs::TS;

/// Number of a kept line.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(transparent)]
pub struct KeptLineId(#[ts(type = "number")] pub i64);

/// A kept line as the page sees it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct KeptLineView {
    /// Number.
    pub id: KeptLineId,
    /// Its name.
    pub name: String,
    /// When it was kept, seconds since 1970.
    #[ts(type = "number")]
    pub at: i64,
    /// Its stretches, as far as the group is shown.
    pub stretches: usize,
    /// Where it shows something else than the group's line does now.
    pub differs: Vec<LineDifference>,
    /// What is heard along it, or lies over it, is other than now, or it has markers more.
    pub other_beside: bool,
    /// Why its shots are there, where it was proposed.
    pub reasons: Vec<Shot>,
}

/// A line that is to be kept.
#[derive(Debug, Clone, PartialEq)]
pub struct NewLine {
    /// Its name.
    pub name: String,
    /// It, of all frames of its group.
    pub line: Line,
    /// Why its shots are there, in frames of what is shown of the group.
    pub reasons: Vec<Shot>,
}

/// Who wears a microphone: which devices show them, the best first.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct Seat {
    /// The channel's name.
    pub channel: String,
    /// Those devices.
    pub devices: Vec<DeviceId>,
}

/// How first cuts are made in a production.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, TS)]
#[serde(default)]
pub struct Seats {
    /// The microphones.
    pub seats: Vec<Seat>,
    /// The devices that show all, the best first.
    pub wide: Vec<DeviceId>,
    /// No shot is shorter, seconds.
    pub least_s: f64,
    /// It cuts so long before the first word, seconds.
    pub lead_s: f64,
    /// Where nobody speaks for so long, all are shown, seconds.
    pub alone_s: f64,
}

/// The most lines that a group keeps.
const MOST: usize = 200;

impl Store {
    /// Keeps the line that a group has now, under a name.
    ///
    /// # Errors
    /// [`StoreError::Missing`], [`StoreError::Refused`] where there are too many.
    pub fn keep_line(&self, group: GroupId, name: &str) -> Result<KeptLineId, StoreError> {
        self.transaction(|t| {
            let line = load(t, group)?.line;
            keep(t, group, &NewLine { name: name.to_owned(), line, reasons: vec![] })
        })
    }

    /// Keeps a line that an edit makes of what is shown of a group, with reasons for its shots. What is not shown of it, and what the
    /// edit leaves alone, stays as the group's line has it.
    ///
    /// # Errors
    /// As [`Store::keep_line`].
    pub fn keep_made_line(
        &self,
        group: GroupId,
        name: &str,
        edit: LineEdit,
        reasons: &[Shot],
    ) -> Result<KeptLineId, StoreError> {
        self.transaction(|t| {
            let stored = load(t, group)?;
            let edit = stored.line.within(stored.group.left(), edit);
            let mut line = stored.line;
            match line.apply(&edit) {
                Ok(_) | Err(LineError::NoChange) => {}
                Err(e) => return Err(e.into()),
            }
            keep(t, group, &NewLine { name: name.to_owned(), line, reasons: reasons.to_vec() })
        })
    }

    /// The lines that a group keeps, newest first.
    ///
    /// # Errors
    /// [`StoreError::Missing`].
    pub fn kept_lines(&self, group: GroupId) -> Result<Vec<KeptLineView>, StoreError> {
        self.transaction(|t| {
            let stored = load(t, group)?;
            let left = stored.group.left();
            let (shown, now) = stored.shown();
            let angles = order(&shown);
            let mut rows = t.prepare(
                "SELECT id, name, line, reasons, made_at FROM kept_line WHERE cut_group = ?1 ORDER BY id DESC",
            )?;
            let all = rows.query_map([group], |row| {
                let line: Line = document(row, 2)?;
                let own = line.of(&left).carried(0, shown.frames, &angles).unwrap_or(line);
                Ok(KeptLineView {
                    id: KeptLineId(row.get(0)?),
                    name: row.get(1)?,
                    at: row.get(4)?,
                    stretches: own.switches().len(),
                    differs: own.differences(&now),
                    other_beside: own.heard() != now.heard()
                        || own.layers() != now.layers()
                        || now.markers_with(&own) != now.markers(),
                    reasons: document(row, 3)?,
                })
            })?;
            Ok(all.collect::<Result<_, _>>()?)
        })
    }

    /// Makes a kept line the group's, with what is heard and what lies over it: an edit, which can be taken back. Markers stay, and
    /// its own come to them.
    ///
    /// # Errors
    /// [`StoreError::Missing`], [`StoreError::Stale`].
    pub fn go_back_to(&self, group: GroupId, version: i64, id: KeptLineId) -> Result<(), StoreError> {
        self.transaction(|t| {
            let sql = "SELECT line FROM kept_line WHERE id = ?1 AND cut_group = ?2";
            let read = |row: &rusqlite::Row| document(row, 0);
            let line: Option<Line> = t.query_row(sql, params![id.0, group], read).optional()?;
            let line = line.ok_or(StoreError::Missing { what: "kept line", id: id.0 })?;
            let stored = load(t, group)?;
            let own = line.carried(0, stored.group.frames, &order(&stored.group)).unwrap_or(line);
            let edit = LineEdit::Restore {
                switches: own.switches().to_vec(),
                markers: Some(stored.line.markers_with(&own)),
                layers: Some(own.layers().to_vec()),
                sound: Some(own.heard().switches().to_vec()),
            };
            log::edit::<Cut>(t, group, Some(version), &edit)?;
            Ok(())
        })
    }

    /// How a first cut was made last.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn seats(&self) -> Result<Option<Seats>, StoreError> {
        let read = |row: &rusqlite::Row| document(row, 0);
        self.transaction(|t| {
            Ok(t.query_row("SELECT document FROM seats WHERE id = 1", [], read).optional()?)
        })
    }

    /// Keeps how a first cut is made, for the next.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn keep_seats(&self, seats: &Seats) -> Result<(), StoreError> {
        self.transaction(|t| {
            let sql = "INSERT OR REPLACE INTO seats (id, document) VALUES (1, ?1)";
            t.execute(sql, [serde_json::to_string(seats)?])?;
            Ok(())
        })
    }

    /// Gives a kept line another name.
    ///
    /// # Errors
    /// [`StoreError::Missing`].
    pub fn name_kept_line(&self, group: GroupId, id: KeptLineId, name: &str) -> Result<(), StoreError> {
        self.transaction(|t| {
            let sql = "UPDATE kept_line SET name = ?3 WHERE id = ?1 AND cut_group = ?2";
            if t.execute(sql, params![id.0, group, name])? == 0 {
                return Err(StoreError::Missing { what: "kept line", id: id.0 });
            }
            Ok(())
        })
    }
}

fn keep(t: &Transaction, group: GroupId, new: &NewLine) -> Result<KeptLineId, StoreError> {
    let count: i64 =
        t.query_row("SELECT COUNT(*) FROM kept_line WHERE cut_group = ?1", [group], |row| row.get(0))?;
    if count >= MOST as i64 {
        return Err(StoreError::Refused(format!("a group keeps {MOST} lines at most")));
    }
    let now = SystemTime::now().duration_since(UNIX_EPOCH).map_or(0, |own| own.as_secs() as i64);
    t.execute(
        "INSERT INTO kept_line (cut_group, name, line, reasons, made_at) VALUES (?1, ?2, ?3, ?4, ?5)",
        params![
            group,
            new.name,
            serde_json::to_string(&new.line)?,
            serde_json::to_string(&new.reasons)?,
            now
        ],
    )?;
    Ok(KeptLineId(t.last_insert_rowid()))
}

/// Gives a group of a newer pass the kept lines of the one that it goes on with, each where the same pictures are now.
pub(crate) fn take_over(
    t: &Transaction,
    to: GroupId,
    from: GroupId,
    carry: impl Fn(&Line) -> Option<Line>,
) -> Result<(), StoreError> {
    let mut rows = t.prepare("SELECT name, line, made_at FROM kept_line WHERE cut_group = ?1 ORDER BY id")?;
    let kept: Vec<(String, Line, i64)> = rows
        .query_map([from], |row| Ok((row.get(0)?, document(row, 1)?, row.get(2)?)))?
        .collect::<Result<_, _>>()?;
    for (name, line, at) in kept {
        let Some(line) = carry(&line) else { continue };
        // Reasons are by the frames of the pass before.
        t.execute(
            "INSERT INTO kept_line (cut_group, name, line, reasons, made_at) VALUES (?1, ?2, ?3, '[]', ?4)",
            params![to, name, serde_json::to_string(&line)?, at],
        )?;
    }
    Ok(())
}
