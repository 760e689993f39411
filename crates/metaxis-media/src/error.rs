//! What can go wrong with a media file, in words.

use std::path::PathBuf;
use thiserror::Error;

/// An error about one file: what happened, to which file, what to do.
#[derive(Debug, Error)]
pub enum MediaError {
    /// The file could not be opened or read.
    #[error("{path}: cannot be read ({source}); check that the card is mounted and readable")]
    Read {
        /// The file.
        path: PathBuf,
        /// Why.
        source: std::io::Error,
    },
    /// Not a byte in it.
    #[error("{path}: the file is empty (0 bytes); copy it from the card again")]
    Empty {
        /// The file.
        path: PathBuf,
    },
    /// A media file by name, but not readable as one.
    #[error("{path}: damaged or not a media file ({detail}); copy it from the card again")]
    Damaged {
        /// The file.
        path: PathBuf,
        /// What the reader said.
        detail: String,
    },
    /// It claims more than any device writes.
    #[error("{path}: its header claims {what}; it is damaged or no recording of a device")]
    Beyond {
        /// The file.
        path: PathBuf,
        /// What it claims, and what is read.
        what: String,
    },
    /// No picture and no sound.
    #[error("{path}: holds no audio or video")]
    NoMedia {
        /// The file.
        path: PathBuf,
    },
    /// ffmpeg or ffprobe is missing or failed.
    #[error("{tool} failed on {path}: {detail}")]
    Tool {
        /// Which program.
        tool: &'static str,
        /// The file.
        path: PathBuf,
        /// Its last words.
        detail: String,
    },
    /// Something went wrong that nobody thought of.
    #[error(
        "{path}: the program failed at it ({detail}); everything else goes on. Please report it with the file"
    )]
    Failed {
        /// The file.
        path: PathBuf,
        /// What it said.
        detail: String,
    },
    /// It is not what it was when it was begun with.
    #[error("{path}: it changed while it was read; wait until it is copied, then take its folder in again")]
    Changed {
        /// The file.
        path: PathBuf,
    },
    /// A file that is made cannot be written.
    #[error("{path}: cannot be written ({detail})")]
    Write {
        /// The file that was to be made.
        path: PathBuf,
        /// Why, and what to do.
        detail: String,
    },
    /// Another file has the name of one that is to be made.
    #[error(
        "{path}: a file of that name is there already and is left as it is; move it away, or ask for it to be replaced"
    )]
    Taken {
        /// The file.
        path: PathBuf,
    },
    /// Stopped by the user.
    #[error("stopped")]
    Stopped,
    /// The cache folder cannot be written.
    #[error("the cache at {path} cannot be written ({source}); free some space or choose another folder")]
    Cache {
        /// The cache path.
        path: PathBuf,
        /// Why.
        source: std::io::Error,
    },
}
