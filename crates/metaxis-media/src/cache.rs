//! Everything derived from a file, keyed by its content; can be deleted at any time.

use crate::{Fingerprint, MediaError};
use std::{
    fs,
    path::{Path, PathBuf},
};

/// The cache folder.
#[derive(Debug, Clone)]
pub struct Cache {
    root: PathBuf,
}

/// The cache of one clip's content.
#[derive(Debug, Clone)]
pub struct CachedClip {
    folder: PathBuf,
}

impl Cache {
    /// A cache at `root`, made where it is missing.
    ///
    /// # Errors
    /// [`MediaError::Cache`].
    pub fn open(root: &Path) -> Result<Self, MediaError> {
        fs::create_dir_all(root).map_err(|source| MediaError::Cache { path: root.to_owned(), source })?;
        Ok(Self { root: root.to_owned() })
    }

    /// The place of a clip's derived files.
    pub fn clip(&self, fingerprint: &Fingerprint) -> CachedClip {
        CachedClip { folder: self.root.join(fingerprint.as_str()) }
    }
}

impl CachedClip {
    /// What was heard: channel states and lengths, as JSON. Written last, so where it is, all is.
    pub fn heard(&self) -> PathBuf {
        self.folder.join("heard.json")
    }
    /// Listening stream, 16-bit mono.
    pub fn samples(&self) -> PathBuf {
        self.folder.join("samples.s16")
    }
    /// Band levels.
    pub fn bands(&self) -> PathBuf {
        self.folder.join("bands.u8")
    }
    /// Waveform levels.
    pub fn levels(&self) -> PathBuf {
        self.folder.join("levels.i8")
    }
    /// Proxy picture.
    pub fn proxy(&self) -> PathBuf {
        self.folder.join("proxy.mp4")
    }
    /// Sound for playing.
    pub fn playback(&self) -> PathBuf {
        self.folder.join("playback.wav")
    }
    /// Thumbnail.
    pub fn thumbnail(&self) -> PathBuf {
        self.folder.join("thumbnail.jpg")
    }

    /// Makes `target` whole or not at all: `make` writes to a name beside it, which is then renamed.
    ///
    /// # Errors
    /// What `make` returns, or [`MediaError::Cache`].
    pub fn write(
        &self,
        target: &Path,
        make: impl FnOnce(&Path) -> Result<(), MediaError>,
    ) -> Result<(), MediaError> {
        let cache = |source| MediaError::Cache { path: target.to_owned(), source };
        fs::create_dir_all(&self.folder).map_err(cache)?;
        let name = target.file_name().unwrap_or_default().to_string_lossy();
        let unique = format!("part-{}-{:?}-{name}", std::process::id(), std::thread::current().id());
        let part = self.folder.join(unique.replace(['(', ')'], ""));
        match make(&part) {
            Ok(()) => fs::rename(&part, target).map_err(cache),
            Err(e) => {
                let _ = fs::remove_file(&part);
                Err(e)
            }
        }
    }
}
