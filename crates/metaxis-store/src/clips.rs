//! Clips and remarks at files.

use crate::{
    ClipView, NewClip, NoteView, Part, SlateSource, Store, StoreError, StoredClip,
    columns::{document, name, word},
};
use metaxis_core::{
    clip::{ClipFacts, ClipId, DeviceId, FrameTiming},
    signal::Heard,
};
use rusqlite::{OptionalExtension, Row, Transaction, params};
use std::{ffi::OsString, os::unix::ffi::OsStringExt, path::PathBuf};

impl Store {
    /// Keeps a clip. A path that is known keeps its number, device and part; what its file says is renewed.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn keep_clip(&self, clip: &NewClip) -> Result<ClipId, StoreError> {
        let facts = serde_json::to_string(&clip.facts)?;
        self.transaction(|t| {
            t.execute(
                "INSERT INTO clip (device, root, relative, path, bytes, fingerprint, facts, part, day)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9)
                 ON CONFLICT (path) DO UPDATE SET
                    bytes = excluded.bytes, facts = excluded.facts,
                    heard = CASE WHEN fingerprint = excluded.fingerprint THEN heard END,
                    proxy = CASE WHEN fingerprint = excluded.fingerprint THEN proxy ELSE 0 END,
                    timing = CASE WHEN fingerprint = excluded.fingerprint THEN timing END,
                    fingerprint = excluded.fingerprint",
                params![
                    clip.device.0,
                    clip.root,
                    clip.relative,
                    clip.path,
                    clip.bytes as i64,
                    clip.fingerprint,
                    facts,
                    name(clip.part),
                    clip.day
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
                params![note.path, name(note.code), note.message],
            )?;
            Ok(())
        })
    }

    /// One clip.
    ///
    /// # Errors
    /// [`StoreError::Missing`].
    pub fn clip(&self, id: ClipId) -> Result<StoredClip, StoreError> {
        self.transaction(|t| one(t, id))
    }

    /// Nothing, where all of the clips are there.
    ///
    /// # Errors
    /// [`StoreError::Missing`] naming the first that is not.
    pub fn know(&self, clips: &[ClipId]) -> Result<(), StoreError> {
        self.all_there("clip", clips.iter().map(|clip| clip.0))
    }

    /// Nothing, where all of these devices are in the production.
    ///
    /// # Errors
    /// [`StoreError::Missing`] for the first that is not.
    pub fn know_devices(&self, devices: &[DeviceId]) -> Result<(), StoreError> {
        self.all_there("device", devices.iter().map(|device| device.0))
    }

    fn all_there(&self, what: &'static str, ids: impl Iterator<Item = i64>) -> Result<(), StoreError> {
        self.transaction(|t| {
            let mut statement = t.prepare(&format!("SELECT 1 FROM {what} WHERE id = ?1"))?;
            for id in ids {
                if !statement.exists([id])? {
                    return Err(StoreError::Missing { what, id });
                }
            }
            Ok(())
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

    /// Where every clip's file is.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn paths(&self) -> Result<Vec<(ClipId, PathBuf)>, StoreError> {
        self.transaction(|t| {
            let mut statement = t.prepare("SELECT id, path FROM clip")?;
            let read = |row: &Row| Ok((ClipId(row.get(0)?), OsString::from_vec(row.get(1)?).into()));
            Ok(statement.query_map([], read)?.collect::<Result<_, _>>()?)
        })
    }

    /// The clips whose content has this fingerprint.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn clips_of_content(&self, fingerprint: &str) -> Result<Vec<StoredClip>, StoreError> {
        self.transaction(|t| {
            let mut statement = t.prepare(&format!("{SELECT} WHERE fingerprint = ?1 ORDER BY id"))?;
            let rows = statement.query_map([fingerprint], stored)?;
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

    /// Notes how a clip's frames lie.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn keep_timing(&self, id: ClipId, timing: &FrameTiming) -> Result<(), StoreError> {
        let timing = serde_json::to_string(timing)?;
        self.transaction(|t| {
            t.execute("UPDATE clip SET timing = ?2 WHERE id = ?1", params![id.0, timing])?;
            Ok(())
        })
    }

    /// Notes that the light copies of these contents are gone; of all of them where none is named.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn forget_proxies(&self, fingerprints: Option<&[String]>) -> Result<(), StoreError> {
        self.transaction(|t| {
            let Some(fingerprints) = fingerprints else {
                t.execute("UPDATE clip SET proxy = 0, heard = NULL, timing = NULL", [])?;
                return Ok(());
            };
            for fingerprint in fingerprints {
                t.execute("UPDATE clip SET proxy = 0 WHERE fingerprint = ?1", [fingerprint])?;
            }
            Ok(())
        })
    }

    /// A clip's file lies elsewhere now; everything else of it stays.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn relink(&self, id: ClipId, root: &str, relative: &str, path: &[u8]) -> Result<(), StoreError> {
        self.transaction(|t| {
            t.execute(
                "UPDATE clip SET root = ?2, relative = ?3, path = ?4 WHERE id = ?1",
                params![id.0, root, relative, path],
            )?;
            Ok(())
        })
    }
}

const SELECT: &str =
    "SELECT id, device, path, fingerprint, facts, part, heard, root, relative, bytes FROM clip";

fn stored(row: &Row) -> rusqlite::Result<Result<StoredClip, StoreError>> {
    let (facts, heard): (String, Option<String>) = (row.get(4)?, row.get(6)?);
    let path = OsString::from_vec(row.get(2)?).into();
    let part = word(row, 5)?;
    let (id, device, fingerprint) = (ClipId(row.get(0)?), DeviceId(row.get(1)?), row.get(3)?);
    let (root, relative, bytes) = (row.get(7)?, row.get(8)?, row.get::<_, i64>(9)? as u64);
    let read = || {
        Ok(StoredClip {
            id,
            device,
            path,
            fingerprint,
            facts: serde_json::from_str(&facts)?,
            part,
            heard: read_heard(heard),
            root,
            relative,
            bytes,
        })
    };
    Ok(read())
}

/// What was heard, where it can still be read: a newer program may hear more, and listens again.
fn read_heard(text: Option<String>) -> Option<Heard> {
    serde_json::from_str(&text?).ok()
}

pub(crate) fn clips(t: &Transaction) -> Result<Vec<ClipView>, StoreError> {
    let mut statement = t.prepare(
        "SELECT clip.id, device, relative, bytes, facts, part, heard, proxy, day, scene, take, notes, circled, span,
                timing, marks, clip.distance_cm
         FROM clip JOIN device ON device.id = clip.device ORDER BY device.position, relative",
    )?;
    let mut rows = statement.query([])?;
    let mut views = vec![];
    while let Some(row) = rows.next()? {
        let (relative, facts, part): (String, String, Part) = (row.get(2)?, row.get(4)?, word(row, 5)?);
        let heard = read_heard(row.get(6)?);
        let mut facts: ClipFacts = serde_json::from_str(&facts)?;
        // The detail has them; a list of a thousand clips does not need them.
        facts.tags.clear();
        let own: [Option<String>; 3] = [row.get(9)?, row.get(10)?, row.get(11)?];
        let circled: Option<bool> = row.get(12)?;
        let source = if own[0].is_some() || own[1].is_some() {
            Some(SlateSource::Hand)
        } else {
            (facts.scene.is_some() || facts.take.is_some()).then_some(SlateSource::File)
        };
        let [scene, take, notes] = own;
        let timing: Option<String> = row.get(14)?;
        let timing: Option<FrameTiming> = timing.and_then(|text| serde_json::from_str(&text).ok());
        let rate = facts.picture.as_ref().map(|picture| picture.rate);
        views.push(ClipView {
            id: ClipId(row.get(0)?),
            device: DeviceId(row.get(1)?),
            file_name: relative.rsplit('/').next().unwrap_or_default().to_owned(),
            relative,
            bytes: row.get::<_, i64>(3)? as u64,
            own_clock_s: facts.own_clock_s(),
            day: row.get(8)?,
            scene: scene.or_else(|| facts.scene.clone()),
            take: take.or_else(|| facts.take.clone()),
            notes: notes.or_else(|| facts.notes.clone()),
            circled: circled.unwrap_or(facts.circled),
            slate_source: source,
            span: row.get::<_, Option<i64>>(13)?.map(ClipId),
            missing: false,
            facts,
            part,
            samples: heard.as_ref().map(|heard| heard.samples),
            lost: heard.as_ref().map_or(vec![], |heard| heard.lost.clone()),
            channels: heard.map(|heard| heard.channels),
            frames_vary: timing.zip(rate).is_some_and(|(timing, rate)| timing.varies(rate)),
            timing,
            marks: document(row, 15)?,
            distance_m: row.get::<_, Option<i64>>(16)?.map(|cm| cm as f64 / 100.0),
            proxy: row.get(7)?,
        });
    }
    Ok(views)
}

pub(crate) fn notes(t: &Transaction) -> Result<Vec<NoteView>, StoreError> {
    let mut statement = t.prepare("SELECT path, code, message FROM note ORDER BY path")?;
    let rows = statement
        .query_map([], |row| Ok(NoteView { path: row.get(0)?, code: word(row, 1)?, message: row.get(2)? }))?;
    Ok(rows.collect::<Result<_, _>>()?)
}

/// One clip.
///
/// # Errors
/// [`StoreError::Missing`].
pub(crate) fn one(t: &Transaction, id: ClipId) -> Result<StoredClip, StoreError> {
    t.query_row(&format!("{SELECT} WHERE id = ?1"), [id.0], stored)
        .optional()?
        .ok_or(StoreError::Missing { what: "clip", id: id.0 })?
}
