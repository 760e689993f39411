//! Copies of the production file, made while it is in use, and the check of it before it is used.

use crate::StoreError;
use rusqlite::{Connection, OpenFlags, backup::Backup};
use std::{
    fs,
    path::{Path, PathBuf},
    time::{Duration, SystemTime, UNIX_EPOCH},
};

/// Copies that are kept.
const KEPT: usize = 6;
/// Pages copied at once; between them others may write.
const PAGES: i32 = 256;
const PAUSE: Duration = Duration::from_millis(2);

/// Where the copies of the production at `path` are.
fn folder(path: &Path) -> PathBuf {
    path.with_file_name("backups")
}

/// The copies of the production at `path`, the newest first.
pub(crate) fn backups(path: &Path) -> Vec<PathBuf> {
    let mut all: Vec<PathBuf> = fs::read_dir(folder(path))
        .into_iter()
        .flatten()
        .flatten()
        .map(|entry| entry.path())
        .filter(|copy| copy.extension().is_some_and(|extension| extension == "sqlite"))
        .collect();
    // Their names begin with the time, in digits of one length.
    all.sort_by(|a, b| b.cmp(a));
    all
}

/// Copies the production at `path`, whole and at one moment, while it may be in use; the oldest copies go.
///
/// # Errors
/// [`StoreError::Sqlite`], [`StoreError::Backup`].
pub fn back_up(path: &Path) -> Result<PathBuf, StoreError> {
    let folder = folder(path);
    let failed = |source| StoreError::Backup { path: folder.clone(), source };
    fs::create_dir_all(&folder).map_err(failed)?;
    let seconds = SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or_default().as_millis();
    let (target, part) = (folder.join(format!("{seconds:014}.sqlite")), folder.join("part"));
    let _ = fs::remove_file(&part);
    {
        let from = Connection::open_with_flags(path, OpenFlags::SQLITE_OPEN_READ_ONLY)?;
        let mut to = Connection::open(&part)?;
        Backup::new(&from, &mut to)?.run_to_completion(PAGES, PAUSE, None)?;
    }
    fs::File::open(&part).and_then(|file| file.sync_all()).map_err(failed)?;
    fs::rename(&part, &target).map_err(failed)?;
    for old in backups(path).into_iter().skip(KEPT) {
        let _ = fs::remove_file(old);
    }
    Ok(target)
}

/// Looks for damage before a production is used.
///
/// # Errors
/// [`StoreError::Damaged`], naming what was found and the newest copy.
pub(crate) fn check(path: &Path, connection: &Connection) -> Result<(), StoreError> {
    look(path, connection, "PRAGMA quick_check(1)")
}

/// Looks through the whole production at `path`, beside its use, for damage, and whether every index says what its table
/// does: minutes on a large one.
///
/// # Errors
/// [`StoreError::Damaged`], naming what was found and the newest copy.
pub fn check_in_full(path: &Path) -> Result<(), StoreError> {
    let beside = Connection::open_with_flags(path, OpenFlags::SQLITE_OPEN_READ_ONLY)?;
    look(path, &beside, "PRAGMA integrity_check(1)")
}

fn look(path: &Path, connection: &Connection, how: &str) -> Result<(), StoreError> {
    let copies = backups(path);
    let damaged = |what: String| StoreError::Damaged {
        path: path.to_owned(),
        what,
        remedy: match copies.first() {
            Some(copy) => {
                format!(
                    "put {} in its place, with the server ended, and keep the damaged one",
                    copy.display()
                )
            }
            None => {
                "there is no copy of it in its folder of backups; put one of your own in its place".into()
            }
        },
    };
    if fs::metadata(path).is_ok_and(|data| data.len() == 0) && !copies.is_empty() {
        return Err(damaged("it holds 0 bytes".into()));
    }
    let said: Result<String, _> = connection.query_row(how, [], |row| row.get(0));
    match said {
        Ok(said) if said == "ok" => Ok(()),
        Ok(said) => Err(damaged(said)),
        Err(e) => match e.sqlite_error_code() {
            Some(rusqlite::ErrorCode::DatabaseCorrupt | rusqlite::ErrorCode::NotADatabase) => {
                Err(damaged(e.to_string()))
            }
            _ => Err(e.into()),
        },
    }
}
