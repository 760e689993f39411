//! Clips and remarks at files.

use crate::{ClipView, NewClip, NoteView, Part, Store, StoreError, StoredClip};
use metaxis_core::clip::{ClipFacts, ClipId, DeviceId};
use metaxis_media::Heard;
use rusqlite::{OptionalExtension, Row, Transaction, params};
use std::{ffi::OsString, os::unix::ffi::OsStringExt};

impl Store {
    /// Keeps a clip. A path that is known keeps its number, device and part; what its file says is renewed.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn keep_clip(&self, clip: &NewClip) -> Result<ClipId, StoreError> {
        let facts = serde_json::to_string(&clip.facts)?;
        self.transaction(|t| {
            t.execute(
                "INSERT INTO clip (device, root, relative, path, bytes, fingerprint, facts, part)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8)
                 ON CONFLICT (path) DO UPDATE SET
                    bytes = excluded.bytes, facts = excluded.facts,
                    heard = CASE WHEN fingerprint = excluded.fingerprint THEN heard END,
                    proxy = CASE WHEN fingerprint = excluded.fingerprint THEN proxy ELSE 0 END,
                    fingerprint = excluded.fingerprint",
                params![
                    clip.device.0,
                    clip.root,
                    clip.relative,
                    clip.path,
                    clip.bytes as i64,
                    clip.fingerprint,
                    facts,
                    clip.part.as_str()
                ],
            )?;
            t.execute("DELETE FROM note WHERE path = ?1", [&clip.relative])?;
            let id = t.query_row("SELECT id FROM clip WHERE path = ?1", [&clip.path], |row| row.get(0))?;
            Ok(ClipId(id))
        })
    }

    /// Keeps a remark at a file; a later one of the same kind replaces it.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn keep_note(&self, note: &NoteView) -> Result<(), StoreError> {
        self.transaction(|t| {
            t.execute(
                "INSERT INTO note (path, code, message) VALUES (?1, ?2, ?3)
                 ON CONFLICT (path, code) DO UPDATE SET message = excluded.message",
                params![note.path, note.code, note.message],
            )?;
            Ok(())
        })
    }

    /// One clip.
    ///
    /// # Errors
    /// [`StoreError::Missing`].
    pub fn clip(&self, id: ClipId) -> Result<StoredClip, StoreError> {
        self.transaction(|t| {
            t.query_row(&format!("{SELECT} WHERE id = ?1"), [id.0], stored)
                .optional()?
                .ok_or(StoreError::Missing { what: "clip", id: id.0 })?
        })
    }

    /// All clips, by number.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn stored_clips(&self) -> Result<Vec<StoredClip>, StoreError> {
        self.transaction(|t| {
            let mut statement = t.prepare(&format!("{SELECT} ORDER BY id"))?;
            let rows = statement.query_map([], stored)?;
            rows.map(|row| row?).collect()
        })
    }

    /// Keeps what was heard of a clip.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn keep_heard(&self, id: ClipId, heard: &Heard) -> Result<(), StoreError> {
        let heard = serde_json::to_string(heard)?;
        self.transaction(|t| {
            t.execute("UPDATE clip SET heard = ?2 WHERE id = ?1", params![id.0, heard])?;
            Ok(())
        })
    }

    /// Notes that a clip's light copies are ready.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn keep_proxy(&self, id: ClipId) -> Result<(), StoreError> {
        self.transaction(|t| {
            t.execute("UPDATE clip SET proxy = 1 WHERE id = ?1", [id.0])?;
            Ok(())
        })
    }

    /// Sets the part clips take.
    ///
    /// # Errors
    /// [`StoreError::Missing`]; then nothing is changed.
    pub fn set_part(&self, clips: &[ClipId], part: Part) -> Result<(), StoreError> {
        self.transaction(|t| {
            for clip in clips {
                if t.execute("UPDATE clip SET part = ?2 WHERE id = ?1", params![clip.0, part.as_str()])? == 0
                {
                    return Err(StoreError::Missing { what: "clip", id: clip.0 });
                }
            }
            Ok(())
        })
    }
}

const SELECT: &str = "SELECT id, device, path, fingerprint, facts, part, heard FROM clip";

fn stored(row: &Row) -> rusqlite::Result<Result<StoredClip, StoreError>> {
    let (facts, heard): (String, Option<String>) = (row.get(4)?, row.get(6)?);
    let path = OsString::from_vec(row.get(2)?).into();
    let part: String = row.get(5)?;
    let (id, device, fingerprint) = (ClipId(row.get(0)?), DeviceId(row.get(1)?), row.get(3)?);
    let read = || {
        Ok(StoredClip {
            id,
            device,
            path,
            fingerprint,
            facts: serde_json::from_str(&facts)?,
            part: Part::parse(&part),
            heard: heard.map(|text| serde_json::from_str(&text)).transpose()?,
        })
    };
    Ok(read())
}

pub(crate) fn clips(t: &Transaction) -> Result<Vec<ClipView>, StoreError> {
    let mut statement = t.prepare(
        "SELECT clip.id, device, relative, bytes, facts, part, heard, proxy
         FROM clip JOIN device ON device.id = clip.device ORDER BY device.position, relative",
    )?;
    let mut rows = statement.query([])?;
    let mut views = vec![];
    while let Some(row) = rows.next()? {
        let (relative, facts, part): (String, String, String) = (row.get(2)?, row.get(4)?, row.get(5)?);
        let heard: Option<String> = row.get(6)?;
        let heard: Option<Heard> = heard.map(|text| serde_json::from_str(&text)).transpose()?;
        let facts: ClipFacts = serde_json::from_str(&facts)?;
        views.push(ClipView {
            id: ClipId(row.get(0)?),
            device: DeviceId(row.get(1)?),
            file_name: relative.rsplit('/').next().unwrap_or_default().to_owned(),
            relative,
            bytes: row.get::<_, i64>(3)? as u64,
            own_clock_s: facts.own_clock_s(),
            facts,
            part: Part::parse(&part),
            channels: heard.map(|heard| heard.channels),
            proxy: row.get(7)?,
        });
    }
    Ok(views)
}

pub(crate) fn notes(t: &Transaction) -> Result<Vec<NoteView>, StoreError> {
    let mut statement = t.prepare("SELECT path, code, message FROM note ORDER BY path")?;
    let rows = statement
        .query_map([], |row| Ok(NoteView { path: row.get(0)?, code: row.get(1)?, message: row.get(2)? }))?;
    Ok(rows.collect::<Result<_, _>>()?)
}
