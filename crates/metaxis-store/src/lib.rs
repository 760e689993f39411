//! Keeps productions in one SQLite file. Nothing a person made is deleted: every edit is kept in one log with the way back
//! (`log`), passes and groups stay beside newer ones.

mod assemblies;
mod backup;
mod carry;
mod choices;
mod clips;
mod columns;
mod devices;
mod films;
mod group_edits;
mod groups;
mod health;
mod ids;
mod intake;
mod job;
mod jobs;
mod layers;
mod lines;
mod log;
mod looks;
mod luts;
mod model;
mod passes;
mod schema;
mod shaping;
mod sound;

pub use assemblies::{AssemblyPartView, AssemblySummary, AssemblyView, FoundAssembly, FoundPart};
pub use backup::{back_up, check_in_full};
pub use films::{FilmOf, FilmOrder, QueuedFilm};
pub use ids::{AssemblyId, GroupId, JobId, PassId};
pub use intake::{HealthView, IntakeChange, SlateMarkView, SlateSource, SpanView, StoredLog};
pub use job::{ClipJob, Job, JobKind, JobName, JobState, JobSummary, Near, PassPlan};
pub use lines::{KeptLineId, KeptLineView, Seat, Seats};
pub use log::Way;
pub use looks::{Checked, Finding, Look};
pub use model::{
    ClipDetail, ClipView, CutCounts, DayView, DeviceView, Follower, GroupSummary, GroupView, NewClip,
    NoteView, OverPart, Part, PassFacts, PassView, PlacementView, Production, ShownPass, StoredClip, Turns,
};
pub use shaping::{GroupChange, MadeGroup};
pub use sound::{Made, SoundFor, SoundOrder};

use ids::Only;
use rusqlite::{Connection, TransactionBehavior};
use std::{
    path::{Path, PathBuf},
    sync::Mutex,
};
use thiserror::Error;

/// What can go wrong with the store.
#[derive(Debug, Error)]
pub enum StoreError {
    /// SQLite's own message.
    #[error(
        "the production file cannot be used ({0}); check that its disk is not full and that it is writable"
    )]
    Sqlite(#[from] rusqlite::Error),
    /// The file cannot be brought up to date.
    #[error("the production file cannot be brought up to date ({0}); it is unchanged")]
    Migration(#[from] rusqlite_migration::Error),
    /// The file was made by a newer version.
    #[error(
        "the production file was made by a newer version (its layout is {theirs}, this version knows {ours}); start the newer one"
    )]
    Newer {
        /// Version of its layout.
        theirs: i64,
        /// The newest layout that is known.
        ours: i64,
    },
    /// The file is damaged.
    #[error("{path} is damaged ({what}): {remedy}")]
    Damaged {
        /// The file.
        path: PathBuf,
        /// What was found.
        what: String,
        /// What to do.
        remedy: String,
    },
    /// No copy can be made.
    #[error("{path} cannot be written ({source}): no copies of the production are made")]
    Backup {
        /// The folder of copies.
        path: PathBuf,
        /// Why.
        source: std::io::Error,
    },
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
    /// The angles cannot be arranged so.
    #[error(transparent)]
    Arrange(#[from] metaxis_core::group::ArrangeError),
    /// The change cannot be made as it is.
    #[error("{0}")]
    Refused(String),
    /// Nothing to undo or redo.
    #[error("there is nothing to {0}")]
    NothingTo(&'static str),
}

/// A document that a person edits, with its number where there are several of a kind.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Edited {
    /// What is chosen at intake.
    Intake,
    /// Which pass is shown.
    Shown,
    /// What was looked at, and which passes were declared checked.
    Round,
    /// What is chosen about sound.
    Sound,
    /// The name of a pass.
    Pass(PassId),
    /// The groups of a pass: names, orders of angles, how they are trimmed, split and merged.
    Groups(PassId),
    /// The line of a group.
    Line(GroupId),
}

/// The store of one server.
pub struct Store {
    connection: Mutex<Connection>,
    path: PathBuf,
}

impl Store {
    /// Opens or makes the file at `path`: looks for damage, keeps a copy of what was there, and brings its schema up to
    /// date.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`], [`StoreError::Damaged`], [`StoreError::Newer`], [`StoreError::Migration`].
    pub fn open(path: &Path) -> Result<Self, StoreError> {
        let is_new = !path.exists();
        let mut connection = Connection::open(path)?;
        if !is_new {
            backup::check(path, &connection)?;
        }
        let ours = schema::COUNT;
        let theirs: i64 = connection.query_row("PRAGMA user_version", [], |row| row.get(0))?;
        if theirs > ours {
            return Err(StoreError::Newer { theirs, ours });
        }
        if theirs > 0
            && let Err(e) = backup::back_up(path)
        {
            // A full disk is no reason not to look at what is there.
            tracing::warn!("{e}");
        }
        connection.pragma_update(None, "journal_mode", "WAL")?;
        connection.pragma_update(None, "synchronous", "FULL")?;
        connection.pragma_update(None, "foreign_keys", "ON")?;
        schema::migrations().to_latest(&mut connection)?;
        Ok(Self { connection: Mutex::new(connection), path: path.to_owned() })
    }

    /// Its file.
    pub fn path(&self) -> &Path {
        &self.path
    }

    /// Takes the last edit of a document back, or makes the last one again that was taken back; says which it was.
    ///
    /// # Errors
    /// [`StoreError::NothingTo`], [`StoreError::Missing`].
    pub fn turn(&self, document: Edited, way: Way) -> Result<String, StoreError> {
        self.transaction(|t| {
            Ok(match document {
                Edited::Intake => log::turn::<choices::Touched>(t, Only, None, way)?.1,
                Edited::Shown => log::turn::<passes::Shown>(t, Only, None, way)?.1,
                Edited::Round => log::turn::<looks::Round>(t, Only, None, way)?.1,
                Edited::Sound => log::turn::<sound::Chosen>(t, Only, None, way)?.1,
                Edited::Pass(id) => log::turn::<passes::Named>(t, id, None, way)?.1,
                Edited::Groups(id) => log::turn::<group_edits::GroupList>(t, id, None, way)?.1,
                Edited::Line(id) => log::turn::<groups::Cut>(t, id, None, way)?.1,
            })
        })
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
