//! Keeps productions in one SQLite file. Nothing a person made is deleted: edits are appended with their
//! inverse, passes and groups stay beside newer ones.

mod choices;
mod clips;
mod devices;
mod document;
mod groups;
mod health;
mod intake;
mod job;
mod jobs;
mod model;
mod passes;
mod schema;

pub use intake::{HealthView, IntakeChange, SlateMarkView, SlateSource, SpanView, StoredLog};
pub use job::{ClipJob, Job, JobId, JobKind, JobState, JobSummary, Near, PassPlan};
pub use model::{
    ClipDetail, ClipView, CutCounts, DayView, DeviceView, GroupSummary, GroupView, NewClip, NoteView, Part,
    PassFacts, PassId, PassView, PlacementView, Production, StoredClip,
};

use rusqlite::{Connection, TransactionBehavior};
use std::{path::Path, sync::Mutex};
use thiserror::Error;

/// What can go wrong with the store.
#[derive(Debug, Error)]
pub enum StoreError {
    /// SQLite's own message.
    #[error(
        "the production file cannot be used ({0}); check that its disk is not full and that it is writable"
    )]
    Sqlite(#[from] rusqlite::Error),
    /// The file is newer than this program, or damaged.
    #[error("the production file cannot be brought up to date ({0}); was it made by a newer version?")]
    Migration(#[from] rusqlite_migration::Error),
    /// A stored document cannot be read.
    #[error("a stored document cannot be read ({0})")]
    Document(#[from] serde_json::Error),
    /// No such object.
    #[error("there is no {what} {id}")]
    Missing {
        /// What was asked for.
        what: &'static str,
        /// Its number.
        id: i64,
    },
    /// The document has moved on.
    #[error(
        "this was changed meanwhile (you have version {given}, the newest is {newest}); look at the newest and try again"
    )]
    Stale {
        /// Version the edit was made on.
        given: i64,
        /// Newest version.
        newest: i64,
    },
    /// The line refuses the edit.
    #[error(transparent)]
    Line(#[from] metaxis_core::line::LineError),
    /// The change cannot be made as it is.
    #[error("{0}")]
    Refused(String),
    /// Nothing to undo or redo.
    #[error("there is nothing to {0}")]
    NothingTo(&'static str),
}

/// The store of one server.
pub struct Store {
    connection: Mutex<Connection>,
}

impl Store {
    /// Opens or makes the file at `path` and brings its schema up to date.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`], [`StoreError::Migration`].
    pub fn open(path: &Path) -> Result<Self, StoreError> {
        let mut connection = Connection::open(path)?;
        connection.pragma_update(None, "journal_mode", "WAL")?;
        connection.pragma_update(None, "synchronous", "FULL")?;
        connection.pragma_update(None, "foreign_keys", "ON")?;
        schema::migrations().to_latest(&mut connection)?;
        Ok(Self { connection: Mutex::new(connection) })
    }

    /// Runs `work` in one transaction: all of it is kept, or none.
    fn transaction<T>(
        &self,
        work: impl FnOnce(&rusqlite::Transaction) -> Result<T, StoreError>,
    ) -> Result<T, StoreError> {
        // A panic while holding the lock left no half transaction: SQLite rolled it back.
        let mut connection = self.connection.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        // At once for writing: one that begins with reading cannot wait for another writer later on.
        let transaction = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
        let result = work(&transaction)?;
        transaction.commit()?;
        Ok(result)
    }
}
