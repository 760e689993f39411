//! Documents into a folder: nothing of somebody else's is written over, and nothing stale is left beside them.

use crate::turnover::Paper;
use metaxis_media::{Fingerprint, write_whole};
use std::{
    collections::{BTreeMap, BTreeSet},
    fs, io,
    path::Path,
};

/// The list of what was written, in the folder itself: names, and what their contents are known by.
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

/// Writes documents, each whole or not at all, over those of an earlier run, and takes away what that wrote and this one does not.
/// A file that is not as a run left it is somebody's: it stays, and is among those that failed.
pub fn hand_out(papers: &[Paper], folder: &Path) -> HandedOut {
    let list = folder.join(WRITTEN);
    let before: BTreeMap<String, String> =
        fs::read(&list).ok().and_then(|own| serde_json::from_slice(&own).ok()).unwrap_or_default();
    let mut now = before.clone();
    let mut done = HandedOut::default();
    for Paper { name, bytes, .. } in papers {
        let print = Fingerprint::of_bytes(bytes).to_string();
        let there = print_of(&folder.join(name));
        let is_ours = there.as_ref().is_none_or(|own| *own == print || before.get(name) == Some(own));
        let written = if is_ours {
            write_whole(&folder.join(name), bytes, true).map_err(|e| e.to_string())
        } else {
            Err("there is another file of that name, or it was changed; move it away or choose another folder".into())
        };
        match written {
            Ok(()) => {
                now.insert(name.clone(), print);
                done.written.push(name.clone());
            }
            Err(why) => done.failed.push((name.clone(), why)),
        }
    }
    let made: BTreeSet<&String> = papers.iter().map(|own| &own.name).collect();
    for (name, print) in before.iter().filter(|(name, _)| !made.contains(name)) {
        let path = folder.join(name);
        // Only plain names: whoever wrote another into the list means another folder.
        let is_plain = Path::new(name).file_name().is_some_and(|own| own == name.as_str());
        if is_plain && print_of(&path).as_ref() == Some(print) && fs::remove_file(&path).is_ok() {
            done.taken_away.push(name.clone());
        }
        now.remove(name);
    }
    if let Err(e) = write_whole(&list, &serde_json::to_vec(&now).unwrap_or_default(), true) {
        done.failed.push((WRITTEN.to_owned(), e.to_string()));
    }
    done
}

/// What a file's content is known by; `None` where there is none.
fn print_of(path: &Path) -> Option<String> {
    fs::read(path).ok().map(|own| Fingerprint::of_bytes(&own).to_string())
}
