//! Walking a card: every file, with the bad ones carried beside the good.

use std::path::{Path, PathBuf};
use walkdir::WalkDir;

/// A file that may hold media.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Entry {
    /// Absolute path.
    pub path: PathBuf,
    /// Path below the walked folder, with forward slashes.
    pub relative: String,
    /// Size in bytes.
    pub bytes: u64,
}

impl Entry {
    /// The walked folder.
    pub fn root(&self) -> Option<&Path> {
        self.path.ancestors().nth(self.relative.split('/').count())
    }

    /// The device guessed from the folders: the first folder below the walked one, else the file's name.
    pub fn device_guess(&self) -> &str {
        self.relative.split_once('/').map_or(self.relative.as_str(), |(first, _)| first)
    }

    /// A picture that does not move, by its name.
    pub fn is_still(&self) -> bool {
        STILLS.iter().any(|still| self.relative.to_lowercase().ends_with(still))
    }

    /// File name with its extension.
    pub fn file_name(&self) -> &str {
        self.relative.rsplit('/').next().unwrap_or(&self.relative)
    }
}

/// What a walk found.
#[derive(Debug, Default)]
pub struct Found {
    /// Candidates, in order of path.
    pub media: Vec<Entry>,
    /// (relative path, why) of what holds no audio or video by its name.
    pub skipped: Vec<(String, String)>,
    /// (relative path, what happened) of what could not be looked at.
    pub errors: Vec<(String, String)>,
}

const STILLS: [&str; 3] = [".png", ".jpg", ".jpeg"];

const MEDIA: [&str; 30] = [
    "mov", "mp4", "m4v", "mkv", "webm", "mxf", "mts", "m2ts", "avi", "3gp", "mpg", "ts", "wav", "bwf",
    "rf64", "w64", "flac", "mp3", "m4a", "aac", "aif", "aiff", "aifc", "caf", "ogg", "opus", "png", "jpg",
    "jpeg", "wave",
];

/// What cameras and recorders write beside their clips: indexes, previews, descriptions.
const SIDE_CARS: [&str; 11] = ["xml", "bim", "cpi", "mpl", "bdm", "bdmv", "thm", "lrv", "idx", "smi", "ppn"];

/// Walks `root`. Links are not followed, so nothing outside `root` is reached; hidden files are passed over.
pub fn walk(root: &Path) -> Found {
    let mut found = Found::default();
    let relative = |path: &Path| {
        let below = path.strip_prefix(root).unwrap_or(path);
        below.components().map(|c| c.as_os_str().to_string_lossy()).collect::<Vec<_>>().join("/")
    };
    let hidden = |name: &std::ffi::OsStr| name.to_string_lossy().starts_with('.');
    let walk = WalkDir::new(root)
        .follow_links(false)
        .sort_by_file_name()
        .into_iter()
        .filter_entry(|entry| entry.depth() == 0 || !hidden(entry.file_name()));
    for entry in walk {
        let entry = match entry {
            Ok(entry) => entry,
            Err(e) => {
                let path = e.path().map(relative).unwrap_or_default();
                found.errors.push((path, format!("cannot be read: {e}")));
                continue;
            }
        };
        if entry.file_type().is_dir() {
            continue;
        }
        let name = relative(entry.path());
        if entry.file_type().is_symlink() {
            found.skipped.push((name, "is a link; links are not followed".into()));
            continue;
        }
        if !entry.file_type().is_file() {
            found.skipped.push((name, "is a pipe, a socket or a device, no file".into()));
            continue;
        }
        let extension =
            entry.path().extension().map(|e| e.to_string_lossy().to_lowercase()).unwrap_or_default();
        if !MEDIA.contains(&extension.as_str()) {
            let why = if SIDE_CARS.contains(&extension.as_str()) {
                "is a side-car file of the device and holds no audio or video"
            } else {
                "holds no audio or video"
            };
            found.skipped.push((name, why.into()));
            continue;
        }
        match entry.metadata() {
            Ok(data) => {
                found.media.push(Entry { path: entry.path().to_owned(), relative: name, bytes: data.len() })
            }
            Err(e) => found.errors.push((name, format!("cannot be read: {e}"))),
        }
    }
    found
}
