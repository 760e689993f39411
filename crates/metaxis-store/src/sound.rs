//! What the production chose about its sound, and the files of sound that were made.

use crate::{
    JobId, Store, StoreError, Turns,
    columns::document,
    ids::Only,
    log::{self, Document},
};
use metaxis_core::{
    clip::ClipId,
    sound::{MadeReport, SoundChange, SoundHabit},
};
use rusqlite::{OptionalExtension, Transaction, params};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// What files are made for.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum SoundFor {
    /// Each picture clip, over its range.
    #[default]
    Clips,
    /// Each group, over its extent.
    Groups,
}

/// Sound that is to be written.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, TS)]
#[serde(default)]
pub struct SoundOrder {
    /// What files are made for.
    pub made_for: SoundFor,
    /// Only these picture clips; all where `None`.
    pub clips: Option<Vec<ClipId>>,
    /// What was chosen when it was ordered.
    pub habit: SoundHabit,
    /// Files that are there under the same names are replaced.
    pub replace: bool,
}

/// A file that was made, or could not be.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Made {
    /// The order that it was made by.
    pub job: JobId,
    /// What became of it.
    pub report: MadeReport,
}

/// A change, with everything as it becomes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub(crate) struct HabitEdit {
    what: String,
    habit: SoundHabit,
}

/// What the production chose about its sound.
pub(crate) struct Chosen(SoundHabit);

impl Document for Chosen {
    const KIND: &'static str = "sound";
    type Id = Only;
    type Edit = HabitEdit;

    fn load(t: &Transaction, _: Only) -> Result<Self, StoreError> {
        let read = |row: &rusqlite::Row| document(row, 0);
        let kept: Option<SoundHabit> =
            t.query_row("SELECT document FROM sound_habit WHERE id = 1", [], read).optional()?;
        Ok(Self(kept.unwrap_or_default()))
    }

    fn apply(&mut self, _: &Transaction, edit: &HabitEdit) -> Result<Option<HabitEdit>, StoreError> {
        let was = std::mem::replace(&mut self.0, edit.habit.clone());
        Ok((was != self.0).then(|| HabitEdit { what: edit.what.clone(), habit: was }))
    }

    fn keep(&self, t: &Transaction, _: Only) -> Result<(), StoreError> {
        t.execute("DELETE FROM sound_habit", [])?;
        // Nothing chosen is written in one way.
        if self.0 != SoundHabit::default() {
            let text = serde_json::to_string(&self.0)?;
            t.execute("INSERT INTO sound_habit (id, document) VALUES (1, ?1)", [text])?;
        }
        Ok(())
    }

    fn said(edit: &HabitEdit) -> String {
        edit.what.clone()
    }
}

impl Store {
    /// What is chosen, and what of it can be undone and redone.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn sound_habit(&self) -> Result<(SoundHabit, Turns), StoreError> {
        self.transaction(|t| Ok((Chosen::load(t, Only)?.0, log::turns::<Chosen>(t, Only)?)))
    }

    /// Makes a change and keeps it for undo.
    ///
    /// # Errors
    /// [`StoreError::Stale`] where it was made on another version than the newest.
    pub fn edit_sound(&self, version: i64, change: &SoundChange) -> Result<(), StoreError> {
        self.transaction(|t| {
            let habit = Chosen::load(t, Only)?.0.changed(change);
            log::edit::<Chosen>(t, Only, Some(version), &HabitEdit { what: change.said(), habit })?;
            Ok(())
        })
    }

    /// Keeps what became of a file; what was known of one at the same place is forgotten.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn keep_made(&self, folder: &str, made: &Made) -> Result<(), StoreError> {
        self.transaction(|t| {
            t.execute(
                "INSERT OR REPLACE INTO sound_made (folder, path, document) VALUES (?1, ?2, ?3)",
                params![folder, made.report.path, serde_json::to_string(made)?],
            )?;
            Ok(())
        })
    }

    /// What became of the files of a folder, by their paths.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn made(&self, folder: &str) -> Result<Vec<Made>, StoreError> {
        self.transaction(|t| {
            let mut rows = t.prepare("SELECT document FROM sound_made WHERE folder = ?1 ORDER BY path")?;
            let all = rows.query_map([folder], |row| document(row, 0))?;
            Ok(all.collect::<Result<_, _>>()?)
        })
    }
}
