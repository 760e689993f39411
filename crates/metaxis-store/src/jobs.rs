//! The queue of jobs, kept so that a restart goes on where it was.

use crate::{
    ClipJob, Job, JobId, JobKind, JobName, JobState, JobSummary, Store, StoreError,
    columns::{name, word},
};
use metaxis_core::clip::ClipId;
use rusqlite::{OptionalExtension, Transaction, params};

impl Store {
    /// Queues a job unless the same one waits already.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn queue(&self, kind: &JobKind) -> Result<JobId, StoreError> {
        self.queue_of(kind, 1)
    }

    /// Queues a job of so many steps unless the same one waits already.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn queue_of(&self, kind: &JobKind, steps: u32) -> Result<JobId, StoreError> {
        self.transaction(|t| queue(t, kind, steps))
    }

    /// Queues many jobs, each of so many steps, unless the same ones wait already.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn queue_all(&self, jobs: &[(JobKind, u32)]) -> Result<(), StoreError> {
        self.transaction(|t| jobs.iter().try_for_each(|(kind, steps)| queue(t, kind, *steps).map(|_| ())))
    }

    /// Takes the next job and marks it running. A pass waits until no folder is being taken in: it would leave out, in
    /// silence, what was not read yet. Light copies that nobody looks for wait until no pass is under way: it is waited for,
    /// and listens to what was not listened to. Films are made one after the other. A job that this release does not know fails, and the next one is taken.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn next_job(&self) -> Result<Option<Job>, StoreError> {
        self.transaction(|t| {
            loop {
                let next: Option<(JobId, String)> =
                    t.query_row(NEXT, [], |row| Ok((row.get(0)?, row.get(1)?))).optional()?;
                let Some((id, body)) = next else { return Ok(None) };
                match serde_json::from_str(&body) {
                    Ok(kind) => {
                        t.execute(
                            "UPDATE job SET state = 'running', starts = starts + 1 WHERE id = ?1",
                            [id],
                        )?;
                        return Ok(Some(Job { id, kind }));
                    }
                    Err(e) => {
                        let why = format!(
                            "this version does not know what to do here ({e}); use the one that began it"
                        );
                        t.execute(
                            "UPDATE job SET state = 'failed', message = ?2 WHERE id = ?1",
                            params![id, why],
                        )?;
                    }
                }
            }
        })
    }

    /// Queues a job again that was done once; true where it was. What failed or was stopped waits for a person.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn queue_again(&self, kind: &JobKind) -> Result<bool, StoreError> {
        let body = serde_json::to_string(kind)?;
        self.transaction(|t| {
            let sql = "UPDATE job SET state = 'queued', done = 0 WHERE body = ?1 AND +state = 'done'";
            Ok(t.execute(sql, [body])? > 0)
        })
    }

    /// Puts the waiting jobs of these clips before others of their kind: somebody looks at them.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn want(&self, clips: &[ClipId]) -> Result<(), StoreError> {
        self.transaction(|t| {
            t.execute("UPDATE job SET wanted = 0 WHERE wanted > 0 AND kind IN ('listen', 'proxy')", [])?;
            for clip in clips {
                for kind in [JobKind::Listen { clip: *clip }, JobKind::Proxy { clip: *clip }] {
                    let body = serde_json::to_string(&kind)?;
                    t.execute("UPDATE job SET wanted = 1 WHERE body = ?1 AND +state = 'queued'", [body])?;
                }
            }
            Ok(())
        })
    }

    /// Notes how far a job is.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn job_progress(&self, id: JobId, done: usize, total: usize) -> Result<(), StoreError> {
        self.transaction(|t| {
            t.execute(
                "UPDATE job SET done = ?2, total = ?3 WHERE id = ?1",
                params![id, done as i64, total as i64],
            )?;
            Ok(())
        })
    }

    /// Notes how a job ended.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn end_job(&self, id: JobId, state: JobState, message: Option<&str>) -> Result<(), StoreError> {
        self.transaction(|t| {
            t.execute(
                "UPDATE job SET state = ?2, message = ?3, starts = 0, done = CASE WHEN ?2 = 'done' THEN total ELSE done END
                 WHERE id = ?1",
                params![id, name(state), message],
            )?;
            Ok(())
        })
    }

    /// Puts back a job that its server ended in the midst of, in good order: it waits again at the next start.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn put_back(&self, id: JobId) -> Result<(), StoreError> {
        self.transaction(|t| {
            let sql = "UPDATE job SET state = 'queued', starts = MAX(starts - 1, 0) WHERE id = ?1 AND state = 'running'";
            t.execute(sql, [id])?;
            Ok(())
        })
    }

    /// After a start: what was running when the server ended waits again. What it ended at twice fails until a person
    /// asks for it again: it may be what ends it.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn requeue_running(&self) -> Result<usize, StoreError> {
        self.transaction(|t| {
            t.execute(
                "UPDATE job SET state = 'failed', message = ?1, starts = 0 WHERE state = 'running' AND starts >= 2",
                ["the server ended twice while it was at this; press “again” if that had another reason"],
            )?;
            Ok(t.execute("UPDATE job SET state = 'queued' WHERE state = 'running'", [])?)
        })
    }

    /// Stops the waiting jobs of a kind; returns the running ones, for the caller to stop.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn stop_kind(&self, kind: JobName) -> Result<Vec<JobId>, StoreError> {
        self.transaction(|t| {
            t.execute("UPDATE job SET state = 'stopped' WHERE kind = ?1 AND state = 'queued'", [name(kind)])?;
            let mut statement = t.prepare("SELECT id FROM job WHERE kind = ?1 AND state = 'running'")?;
            let rows = statement.query_map([name(kind)], |row| row.get(0))?;
            Ok(rows.collect::<Result<_, _>>()?)
        })
    }

    /// Queues the stopped and failed jobs of a kind again.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn resume_kind(&self, kind: JobName) -> Result<usize, StoreError> {
        self.transaction(|t| {
            Ok(t.execute(
                "UPDATE job SET state = 'queued', message = NULL WHERE kind = ?1 AND state IN ('stopped', 'failed')",
                [name(kind)],
            )?)
        })
    }

    /// Jobs by kind.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn job_summaries(&self) -> Result<Vec<JobSummary>, StoreError> {
        self.transaction(summaries)
    }
}

const NEXT: &str = "SELECT id, body FROM job WHERE state = 'queued'
    AND NOT (kind = 'pass' AND EXISTS
        (SELECT 1 FROM job AS other WHERE other.state IN ('queued', 'running') AND other.kind IN ('intake', 'relink')))
    AND NOT (kind = 'proxy' AND wanted = 0 AND EXISTS
        (SELECT 1 FROM job AS other WHERE other.state IN ('queued', 'running') AND other.kind = 'pass'))
    AND NOT (kind = 'film' AND EXISTS
        (SELECT 1 FROM job AS other WHERE other.state = 'running' AND other.kind = 'film'))
    ORDER BY wanted DESC, rank, id LIMIT 1";
// A plus keeps the index of states out: thousands wait, and the planner takes it for the better one.
const WAITS: &str = "SELECT id FROM job WHERE body = ?1 AND +state = 'queued'";
const FINISHED_GOES: &str = "DELETE FROM job WHERE body = ?1 AND +state IN ('done', 'failed', 'stopped')";

fn queue(t: &Transaction, kind: &JobKind, steps: u32) -> Result<JobId, StoreError> {
    let body = serde_json::to_string(kind)?;
    if let Some(id) = t.query_row(WAITS, [&body], |row| row.get(0)).optional()? {
        return Ok(id);
    }
    // What was finished of this very job makes room for it: one row a job.
    t.execute(FINISHED_GOES, [&body])?;
    if let JobKind::Pass { .. } = kind {
        // A pass that is through is no part of how far the next one is.
        t.execute("DELETE FROM job WHERE kind = ?1 AND +state = 'done'", [name(JobName::Pass)])?;
    }
    t.execute(
        "INSERT INTO job (kind, body, rank, state, total) VALUES (?1, ?2, ?3, 'queued', ?4)",
        params![name(JobName::from(kind)), body, kind.rank(), steps],
    )?;
    Ok(JobId(t.last_insert_rowid()))
}

pub(crate) fn summaries(t: &Transaction) -> Result<Vec<JobSummary>, StoreError> {
    let mut statement = t.prepare(
        "SELECT kind, SUM(done), SUM(total), SUM(state IN ('queued', 'running')), SUM(state = 'stopped'),
                SUM(state = 'failed'), MAX(CASE WHEN state = 'failed' THEN message END)
         FROM job GROUP BY kind ORDER BY MIN(rank)",
    )?;
    let rows = statement.query_map([], |row| {
        Ok(JobSummary {
            kind: word(row, 0)?,
            done: row.get(1)?,
            total: row.get(2)?,
            open: row.get(3)?,
            stopped: row.get(4)?,
            failed: row.get(5)?,
            message: row.get(6)?,
            clips: vec![],
        })
    })?;
    let mut summaries: Vec<JobSummary> = rows.collect::<Result<_, _>>()?;
    let mut statement = t.prepare(
        "SELECT kind, json_extract(body, '$.clip'), done * 1.0 / MAX(total, 1), message FROM job
         WHERE state IN ('running', 'failed') AND json_extract(body, '$.clip') IS NOT NULL ORDER BY id",
    )?;
    let mut rows = statement.query([])?;
    while let Some(row) = rows.next()? {
        let kind: JobName = word(row, 0)?;
        if let Some(summary) = summaries.iter_mut().find(|summary| summary.kind == kind) {
            summary.clips.push(ClipJob {
                clip: ClipId(row.get(1)?),
                share: row.get(2)?,
                failed: row.get(3)?,
            });
        }
    }
    Ok(summaries)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// By their state thousands of jobs would be looked through for each that is queued.
    #[test]
    fn a_job_is_found_by_what_it_does() {
        let folder = tempfile::tempdir().expect("a folder");
        let store = Store::open(&folder.path().join("p.sqlite")).expect("a store");
        for sql in [WAITS, FINISHED_GOES] {
            let plan: String = store
                .transaction(|t| {
                    Ok(t.query_row(&format!("EXPLAIN QUERY PLAN {sql}"), ["{}"], |row| row.get("detail"))?)
                })
                .expect("a plan");
            assert!(plan.contains("job_body"), "{plan}");
        }
    }
}
