//! Everything derived from a file, keyed by its content; can be deleted at any time.

use crate::{Fingerprint, MediaError, mark::Mark};
use std::{
    fs::{self, File},
    io::{self, BufWriter, Write},
    os::unix::fs::PermissionsExt,
    path::{Path, PathBuf},
    time::SystemTime,
};
use tempfile::{Builder, NamedTempFile};

/// The cache folder.
#[derive(Debug, Clone)]
pub struct Cache {
    root: PathBuf,
}

struct CacheFile {
    path: PathBuf,
    bytes: u64,
    used: SystemTime,
}

/// A derived file that is being written: kept whole with [`PartFile::keep`], or gone when dropped.
pub(crate) struct PartFile {
    out: BufWriter<NamedTempFile>,
    bytes: u64,
    hash: blake3::Hasher,
    target: PathBuf,
}

impl PartFile {
    pub(crate) fn keep(self) -> Result<Mark, MediaError> {
        let target = self.target.clone();
        self.keep_as(&target)
    }

    /// Keeps it under another name than it was begun for.
    pub(crate) fn keep_as(self, target: &Path) -> Result<Mark, MediaError> {
        let cache = |source| MediaError::Cache { path: target.to_owned(), source };
        let whole = self.out.into_inner().map_err(|e| cache(e.into_error()))?;
        whole.persist(target).map_err(|e| cache(e.error))?;
        Ok(Mark::new(target, self.bytes, &self.hash))
    }

    /// Where it is until it is kept, with all that was written.
    pub(crate) fn so_far(&mut self) -> io::Result<&Path> {
        self.out.flush()?;
        Ok(self.out.get_ref().path())
    }
}

impl Write for PartFile {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let count = self.out.write(bytes)?;
        self.hash.update(&bytes[..count]);
        self.bytes += count as u64;
        Ok(count)
    }
    fn flush(&mut self) -> io::Result<()> {
        self.out.flush()
    }
}

/// Under what a file's mark is kept.
fn mark_name(target: &Path) -> String {
    format!("mark-{}", target.file_name().unwrap_or_default().to_string_lossy())
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
        let cache = Self { root: root.to_owned() };
        cache.sweep();
        Ok(cache)
    }

    /// Removes what a run that was killed left half written.
    fn sweep(&self) {
        for file in self.files() {
            let name = file.path.file_name().unwrap_or_default().to_string_lossy().into_owned();
            let owner = name.strip_prefix("part-").and_then(|rest| rest.split('-').next());
            if owner.is_some_and(|pid| !Path::new("/proc").join(pid).exists()) {
                let _ = fs::remove_file(&file.path);
            }
        }
    }

    fn files(&self) -> Vec<CacheFile> {
        let folders = fs::read_dir(&self.root).into_iter().flatten().flatten();
        folders
            .flat_map(|folder| fs::read_dir(folder.path()).into_iter().flatten().flatten())
            .filter_map(|entry| {
                let data = entry.metadata().ok().filter(fs::Metadata::is_file)?;
                let used = data.accessed().or_else(|_| data.modified()).unwrap_or(SystemTime::UNIX_EPOCH);
                Some(CacheFile { path: entry.path(), bytes: data.len(), used })
            })
            .collect()
    }

    /// Bytes that everything derived takes.
    pub fn bytes(&self) -> u64 {
        self.files().iter().map(|file| file.bytes).sum()
    }

    /// Removes light copies, those unused for the longest first, until no more than `most` bytes are left; what
    /// the sync needs stays to the last. Returns the fingerprints whose light copies are gone.
    pub fn shrink(&self, most: u64) -> Vec<String> {
        let mut files = self.files();
        let mut total: u64 = files.iter().map(|file| file.bytes).sum();
        files.retain(|file| {
            let name = file.path.file_name().unwrap_or_default();
            name == "proxy.mp4" || name == "small.mp4" || name == "playback.wav"
        });
        files.sort_by_key(|file| file.used);
        let mut gone = vec![];
        for file in files {
            if total <= most {
                break;
            }
            if fs::remove_file(&file.path).is_ok() {
                total -= file.bytes;
                let folder = file.path.parent().and_then(Path::file_name).unwrap_or_default();
                gone.push(folder.to_string_lossy().into_owned());
            }
        }
        gone.sort();
        gone.dedup();
        gone
    }

    /// Removes everything; it is all made again from the sources when it is needed.
    ///
    /// # Errors
    /// [`MediaError::Cache`].
    pub fn clear(&self) -> Result<u64, MediaError> {
        let bytes = self.bytes();
        for folder in fs::read_dir(&self.root).into_iter().flatten().flatten() {
            // Only folders of our own naming: the cache may have been pointed at something else.
            if Fingerprint::parse(&folder.file_name().to_string_lossy()).is_some() {
                let path = folder.path();
                fs::remove_dir_all(&path).map_err(|source| MediaError::Cache { path, source })?;
            }
        }
        Ok(bytes)
    }

    /// The place of a clip's derived files.
    pub fn clip(&self, fingerprint: &Fingerprint) -> CachedClip {
        CachedClip { folder: self.root.join(fingerprint.as_str()) }
    }
}

impl CachedClip {
    /// An answer kept for later, as JSON.
    pub(crate) fn answer(&self, name: &str) -> PathBuf {
        self.folder.join(format!("{name}.json"))
    }
    /// Listening stream number `sound`, 16-bit mono.
    pub fn samples(&self, sound: usize) -> PathBuf {
        self.folder.join(format!("samples-{sound}.s16"))
    }
    /// Listening stream of one channel, until it is known which sounds are made of them.
    pub(crate) fn channel(&self, channel: usize) -> PathBuf {
        self.folder.join(format!("channel-{channel}.s16"))
    }
    /// Band levels of sound number `sound`.
    pub fn bands(&self, sound: usize) -> PathBuf {
        self.folder.join(format!("bands-{sound}.u8"))
    }
    /// Waveform levels.
    pub fn levels(&self) -> PathBuf {
        self.folder.join("levels.i8")
    }
    /// Waveforms of every channel at one zoom.
    pub fn peaks(&self, zoom: usize) -> PathBuf {
        self.folder.join(format!("peaks-{zoom}.i16"))
    }
    /// Proxy picture.
    pub fn proxy(&self) -> PathBuf {
        self.folder.join("proxy.mp4")
    }
    /// The same, smaller.
    pub fn small(&self) -> PathBuf {
        self.folder.join("small.mp4")
    }
    /// Sound for playing.
    pub fn playback(&self) -> PathBuf {
        self.folder.join("playback.wav")
    }
    /// Thumbnail.
    pub fn thumbnail(&self) -> PathBuf {
        self.folder.join("thumbnail.jpg")
    }

    /// A file beside `target` until it is whole; its name says whose it is.
    fn part_of(&self, target: &Path) -> Result<NamedTempFile, MediaError> {
        let cache = |source| MediaError::Cache { path: target.to_owned(), source };
        fs::create_dir_all(&self.folder).map_err(cache)?;
        let name = target.file_name().unwrap_or_default().to_string_lossy();
        Builder::new()
            .prefix(&format!("part-{}-", std::process::id()))
            .suffix(&format!("-{name}"))
            // As any file: who may read it, the folder says.
            .permissions(fs::Permissions::from_mode(0o666))
            .tempfile_in(&self.folder)
            .map_err(cache)
    }

    /// Begins to write `target`.
    pub(crate) fn begin(&self, target: PathBuf) -> Result<PartFile, MediaError> {
        let out = BufWriter::with_capacity(1 << 16, self.part_of(&target)?);
        Ok(PartFile { out, bytes: 0, hash: blake3::Hasher::new(), target })
    }

    /// Whether a file made by [`CachedClip::write`] is there and whole.
    pub fn is_whole(&self, target: &Path) -> bool {
        let mark: Option<Mark> = self.kept(&mark_name(target));
        mark.is_some_and(|mark| mark.fits(&self.folder))
    }

    /// Whether these files are what they were: by their lengths, or `to_the_last_byte`.
    pub(crate) fn are_whole(&self, marks: &[Mark], to_the_last_byte: bool) -> bool {
        marks
            .iter()
            .all(|mark| if to_the_last_byte { mark.holds(&self.folder) } else { mark.fits(&self.folder) })
    }

    /// Forgets an answer: it is worked out again when it is asked for next.
    pub(crate) fn forget(&self, name: &str) {
        // Where it cannot be removed, it is found out again.
        let _ = fs::remove_file(self.answer(name));
    }

    /// Makes `target` whole or not at all: `make` writes to a name beside it, which is then on the disk before it is
    /// renamed.
    ///
    /// # Errors
    /// What `make` returns, or [`MediaError::Cache`].
    pub fn write(
        &self,
        target: &Path,
        make: impl FnOnce(&Path) -> Result<(), MediaError>,
    ) -> Result<(), MediaError> {
        // Gone when dropped; closed, since others write to it.
        let part = self.part_of(target)?.into_temp_path();
        make(&part)?;
        let cache = |source| MediaError::Cache { path: target.to_owned(), source };
        File::open(&part).and_then(|file| file.sync_all()).map_err(cache)?;
        let mark = Mark::of(&part, target).map_err(cache)?;
        part.persist(target).map_err(|e| cache(e.error))?;
        self.keep(&mark_name(target), &mark)
    }
}
