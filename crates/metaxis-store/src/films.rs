//! Films that are to be made, one after the other.

use crate::{
    AssemblyId, GroupId, JobId, JobKind, JobName, JobState, Store, StoreError,
    columns::{document, name, word},
};
use metaxis_core::{clip::ClipId, film::FilmForm, group::AngleId};
use rusqlite::params;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// What a film is of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(tag = "of", rename_all = "snake_case")]
pub enum FilmOf {
    /// The line of a group.
    Line {
        /// The group.
        group: GroupId,
    },
    /// All angles of a group that are switched to, side by side.
    Wall {
        /// The group.
        group: GroupId,
    },
    /// One angle of a group, from its first frame to its last.
    Angle {
        /// The group.
        group: GroupId,
        /// The angle.
        angle: AngleId,
    },
    /// Lines one behind another.
    Assembly {
        /// The assembly.
        assembly: AssemblyId,
    },
    /// A clip with the sound that lies under it.
    Clip {
        /// The clip.
        clip: ClipId,
    },
}

/// A film that is to be made. It is made of what is there when its turn comes.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct FilmOrder {
    /// Of what.
    #[serde(flatten)]
    pub of: FilmOf,
    /// Its path below the folder, without what says what holds it.
    pub stem: String,
    /// How it is coded.
    pub form: FilmForm,
    /// The folder that it goes to; the production's own where empty.
    pub folder: String,
    /// Whether a file that is there under its name is replaced.
    pub replace: bool,
}

/// A film in the queue.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct QueuedFilm {
    /// Its number.
    pub id: JobId,
    /// What it is.
    pub order: FilmOrder,
    /// How far it is.
    pub state: JobState,
    /// Frames that are made.
    #[ts(type = "number")]
    pub done: i64,
    /// And in all.
    #[ts(type = "number")]
    pub total: i64,
    /// What became of it.
    pub message: Option<String>,
}

impl Store {
    /// The films of the queue: what is made, what waits in its order, and what became of the others, the last first.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn films(&self) -> Result<Vec<QueuedFilm>, StoreError> {
        self.transaction(|t| {
            let mut statement = t.prepare(
                "SELECT id, json_extract(body, '$.order'), state, done, total, message FROM job WHERE kind = 'film'
                 ORDER BY state != 'running', state != 'queued', CASE WHEN state = 'queued' THEN rank END, CASE WHEN state = 'queued' THEN id ELSE -id END",
            )?;
            let rows = statement.query_map([], |row| {
                Ok(QueuedFilm {
                    id: row.get(0)?,
                    order: document(row, 1)?,
                    state: word(row, 2)?,
                    done: row.get(3)?,
                    total: row.get(4)?,
                    message: row.get(5)?,
                })
            })?;
            Ok(rows.collect::<Result<_, _>>()?)
        })
    }

    /// Queues films, each of so many frames, in their order, unless the same ones wait already.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn queue_films(&self, orders: Vec<(FilmOrder, u32)>) -> Result<(), StoreError> {
        let jobs: Vec<(JobKind, u32)> =
            orders.into_iter().map(|(order, frames)| (JobKind::Film { order }, frames)).collect();
        self.queue_all(&jobs)
    }

    /// A film that waits is the next that is made.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`]; [`StoreError::Refused`] where it does not wait.
    pub fn film_next(&self, id: JobId) -> Result<(), StoreError> {
        self.of_film(
            id,
            "UPDATE job SET rank = MAX(10, -1 + (SELECT MIN(rank) FROM job WHERE kind = 'film' AND state = 'queued'))
             WHERE id = ?1 AND kind = 'film' AND state = 'queued'",
        )
    }

    /// A film that waits is stopped until somebody wants it again.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn stop_film(&self, id: JobId) -> Result<(), StoreError> {
        self.transaction(|t| {
            let sql = "UPDATE job SET state = 'stopped' WHERE id = ?1 AND kind = 'film' AND state = 'queued'";
            t.execute(sql, [id])?;
            Ok(())
        })
    }

    /// A film that was stopped, failed or is done waits again.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`]; [`StoreError::Refused`] where it waits already.
    pub fn film_again(&self, id: JobId) -> Result<(), StoreError> {
        self.of_film(
            id,
            "UPDATE job SET state = 'queued', message = NULL, starts = 0
             WHERE id = ?1 AND kind = 'film' AND state IN ('stopped', 'failed', 'done')",
        )
    }

    /// Takes a film out of the queue that is not being made; the file that came of it stays.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`]; [`StoreError::Refused`] where it is being made, or not there.
    pub fn forget_film(&self, id: JobId) -> Result<(), StoreError> {
        self.of_film(id, "DELETE FROM job WHERE id = ?1 AND kind = 'film' AND state != 'running'")
    }

    /// Takes all films out of the queue that are done.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn forget_films_done(&self) -> Result<(), StoreError> {
        self.transaction(|t| {
            let sql = "DELETE FROM job WHERE kind = ?1 AND state = ?2";
            t.execute(sql, params![name(JobName::Film), name(JobState::Done)])?;
            Ok(())
        })
    }

    fn of_film(&self, id: JobId, sql: &str) -> Result<(), StoreError> {
        self.transaction(|t| match t.execute(sql, [id])? {
            0 => Err(StoreError::Refused(format!(
                "film {id} is not in the queue as it was: somebody, or its turn, was first"
            ))),
            _ => Ok(()),
        })
    }
}
