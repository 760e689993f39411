//! Finding files that moved.

use crate::{App, Event, error::ApiError};
use metaxis_media::{Entry, Fingerprint, MediaError, Stop, walk};
use metaxis_store::{JobId, StoredClip};
use std::{collections::HashMap, os::unix::ffi::OsStrExt, path::Path};

/// Looks below `folder` for the clips whose files are gone: the same size, the same content, best the same name.
/// Says what was found and what was not.
pub fn relink(app: &App, job: JobId, folder: &str, stop: &Stop) -> Result<(), ApiError> {
    let gone: Vec<StoredClip> =
        app.store.stored_clips()?.into_iter().filter(|clip| !clip.path.exists()).collect();
    let found = walk(Path::new(folder));
    let mut by_size: HashMap<u64, Vec<&Entry>> = HashMap::new();
    for entry in &found.media {
        by_size.entry(entry.bytes).or_default().push(entry);
    }
    let mut missing = vec![];
    for (i, clip) in gone.iter().enumerate() {
        if stop.is_stopped() {
            return Err(MediaError::Stopped.into());
        }
        let name = clip.relative.rsplit('/').next().unwrap_or_default();
        let mut candidates = by_size.get(&clip.bytes).cloned().unwrap_or_default();
        candidates.sort_by_key(|entry| (entry.relative != clip.relative, entry.file_name() != name));
        let same = |entry: &&Entry| {
            Fingerprint::of(&entry.path).is_ok_and(|print| print.as_str() == clip.fingerprint)
        };
        match candidates.into_iter().find(same) {
            Some(entry) => {
                app.store.relink(clip.id, folder, &entry.relative, entry.path.as_os_str().as_bytes())?;
            }
            None => missing.push(name.to_owned()),
        }
        app.store.job_progress(job, i + 1, gone.len())?;
        app.tell_jobs();
    }
    app.tell(Event::Said { text: said(gone.len(), &missing) });
    Ok(())
}

fn said(gone: usize, missing: &[String]) -> String {
    match (gone, missing) {
        (0, _) => "No file was missing.".into(),
        (_, []) => format!("All {gone} missing files were found again."),
        (_, _) => {
            let shown = missing.iter().take(6).cloned().collect::<Vec<_>>().join(", ");
            let more =
                if missing.len() > 6 { format!(" and {} more", missing.len() - 6) } else { String::new() };
            format!(
                "{} of {gone} missing files were found again. Not found: {shown}{more}.",
                gone - missing.len()
            )
        }
    }
}
