//! Documents into a folder, with nothing stale left beside them.

use crate::turnover::Paper;
use std::{collections::BTreeSet, fs, io, path::Path};

/// The list of what was written, in the folder itself: a later run takes away what it no longer makes, and nothing else.
const WRITTEN: &str = ".metaxis-turnover.json";

/// What became of documents.
#[derive(Debug, Default, PartialEq, Eq)]
pub struct HandedOut {
    /// Those that were written, by their names.
    pub written: Vec<String>,
    /// Those of an earlier run that are no longer made, and were taken away.
    pub taken_away: Vec<String>,
    /// Those that could not be written, and why.
    pub failed: Vec<(String, String)>,
}

/// Finds out whether files can be made in a folder, which is made where it is not there.
///
/// # Errors
/// Why not.
pub fn can_be_written(folder: &Path) -> io::Result<()> {
    fs::create_dir_all(folder)?;
    tempfile::tempfile_in(folder).map(drop)
}

/// Writes documents, each whole or not at all, and takes those away that an earlier run wrote and this one does not.
pub fn hand_out(papers: &[Paper], folder: &Path) -> HandedOut {
    let list = folder.join(WRITTEN);
    let before: BTreeSet<String> =
        fs::read(&list).ok().and_then(|own| serde_json::from_slice(&own).ok()).unwrap_or_default();
    let mut done = HandedOut::default();
    for paper in papers {
        match crate::whole::write(&folder.join(&paper.name), &paper.bytes) {
            Ok(()) => done.written.push(paper.name.clone()),
            Err(e) => done.failed.push((paper.name.clone(), e.to_string())),
        }
    }
    let now: BTreeSet<String> = papers.iter().map(|own| own.name.clone()).collect();
    // Only plain names are taken away: whoever wrote another into the list means another folder.
    let is_plain = |name: &&String| Path::new(name).file_name().is_some_and(|own| own == name.as_str());
    let gone =
        before.difference(&now).filter(is_plain).filter(|name| fs::remove_file(folder.join(name)).is_ok());
    done.taken_away = gone.cloned().collect();
    if let Err(e) = crate::whole::write(&list, &serde_json::to_vec(&done.written).unwrap_or_default()) {
        done.failed.push((WRITTEN.to_owned(), e.to_string()));
    }
    done
}
