//! Files that are made for others: whole under their name, or not there at all.

use crate::MediaError;
use nix::{
    errno::Errno,
    fcntl::{AT_FDCWD, RenameFlags, renameat2},
};
use std::{
    ffi::OsString,
    fs::{self, File, OpenOptions, TryLockError},
    io::{self, Write},
    os::unix::fs::FileExt,
    path::{Path, PathBuf},
};

/// A file under way to its name. It is written beside it and gone when dropped.
pub(crate) struct Made {
    target: PathBuf,
    aside: PathBuf,
    /// What is written to, and read back from.
    pub(crate) file: File,
    kept: bool,
}

impl Made {
    /// Begins to make `target`, in a folder that is made where it is missing. Where that name cannot be, it is said now.
    ///
    /// # Errors
    /// [`MediaError::Write`]; [`MediaError::Taken`] where the name is taken and not to be replaced.
    pub(crate) fn begin(target: &Path, replace: bool) -> Result<Self, MediaError> {
        let fail = |e: io::Error| refused(target, &e);
        if let Some(folder) = target.parent() {
            fs::create_dir_all(folder).map_err(fail)?;
        }
        if !replace && target.symlink_metadata().is_ok() {
            return Err(MediaError::Taken { path: target.to_owned() });
        }
        let mut name = OsString::from(target);
        name.push(".part");
        let aside = PathBuf::from(name);
        let file = OpenOptions::new()
            .read(true)
            .write(true)
            .create(true)
            .truncate(false)
            .open(&aside)
            .map_err(fail)?;
        match file.try_lock() {
            Err(TryLockError::WouldBlock) => {
                let detail = "another program is just writing it; wait until it is done".into();
                return Err(MediaError::Write { path: target.to_owned(), detail });
            }
            // Where there are no locks, nobody is kept out.
            Ok(()) | Err(TryLockError::Error(_)) => {}
        }
        // What a program left behind that was ended.
        file.set_len(0).map_err(fail)?;
        Ok(Self { target: target.to_owned(), aside, file, kept: false })
    }

    /// The name it will have.
    pub(crate) fn target(&self) -> &Path {
        &self.target
    }

    /// Where it is until it has its name, for a program that writes it.
    pub(crate) fn aside(&self) -> &Path {
        &self.aside
    }

    /// All of it as it is on the disk: its length, and the first 32 digits of its BLAKE3 hash.
    ///
    /// # Errors
    /// [`MediaError::Write`] where it cannot be read.
    pub(crate) fn read_back(&self) -> Result<(u64, String), MediaError> {
        let (mut hash, mut length, mut bytes) = (blake3::Hasher::new(), 0, vec![0; 1 << 20]);
        loop {
            match self.file.read_at(&mut bytes, length).map_err(|e| self.refused(&e))? {
                0 => return Ok((length, hash.finalize().to_hex()[..32].to_owned())),
                count => {
                    hash.update(&bytes[..count]);
                    length += count as u64;
                }
            }
        }
    }

    /// What went wrong with it, in words.
    pub(crate) fn refused(&self, e: &io::Error) -> MediaError {
        refused(&self.target, e)
    }

    /// Gives it its name, once all of it is on the disk.
    ///
    /// # Errors
    /// As [`Made::begin`].
    pub(crate) fn keep(mut self, replace: bool) -> Result<(), MediaError> {
        let fail = |e: &io::Error| refused(&self.target, e);
        self.file.sync_all().map_err(|e| fail(&e))?;
        let renamed = if replace {
            fs::rename(&self.aside, &self.target)
        } else {
            match renameat2(AT_FDCWD, &self.aside, AT_FDCWD, &self.target, RenameFlags::RENAME_NOREPLACE) {
                Ok(()) => Ok(()),
                Err(Errno::EEXIST) => return Err(MediaError::Taken { path: self.target.clone() }),
                // A file system that does not know the question: it was free a moment ago.
                Err(Errno::EINVAL | Errno::ENOSYS) if self.target.symlink_metadata().is_err() => {
                    fs::rename(&self.aside, &self.target)
                }
                Err(Errno::EINVAL | Errno::ENOSYS) => {
                    return Err(MediaError::Taken { path: self.target.clone() });
                }
                Err(e) => Err(e.into()),
            }
        };
        renamed.map_err(|e| fail(&e))?;
        self.kept = true;
        // The name is to be on the disk too; a file system that cannot say so has done what it can.
        if let Some(folder) = self.target.parent().and_then(|folder| File::open(folder).ok()) {
            let _ = folder.sync_all();
        }
        Ok(())
    }
}

/// Writes a file of these bytes: whole under its name, or not at all.
///
/// # Errors
/// [`MediaError::Write`]; [`MediaError::Taken`] where the name is taken and not to be replaced.
pub fn write_whole(target: &Path, bytes: &[u8], replace: bool) -> Result<(), MediaError> {
    write_whole_by(target, replace, |out| out.write_all(bytes))
}

/// The same of a file that `write` writes from its beginning to its end.
///
/// # Errors
/// As [`write_whole`], and what `write` returns, of the file.
pub fn write_whole_by(
    target: &Path,
    replace: bool,
    write: impl FnOnce(&mut dyn Write) -> io::Result<()>,
) -> Result<(), MediaError> {
    let mut made = Made::begin(target, replace)?;
    write(&mut made.file).map_err(|e| made.refused(&e))?;
    made.keep(replace)
}

impl Drop for Made {
    fn drop(&mut self) {
        if !self.kept {
            let _ = fs::remove_file(&self.aside);
        }
    }
}

/// What to do about what a program said that could not write, where that has to do with the disk and not with what was written.
pub(crate) fn by_disk(said: &str) -> Option<String> {
    let says = |words: &[&'static str]| words.iter().find(|word| said.contains(**word)).copied();
    if says(&["No space left on device", "Disk quota exceeded"]).is_some() {
        return Some("the disk is full: make room, then write again".into());
    }
    let why = says(&["File too large", "Input/output error", "Read-only file system"])?;
    Some(format!("{why}; check the disk, then write again"))
}

fn refused(target: &Path, e: &io::Error) -> MediaError {
    let what_to_do = match e.kind() {
        io::ErrorKind::StorageFull | io::ErrorKind::QuotaExceeded => {
            "the disk is full: make room, then write again"
        }
        io::ErrorKind::ReadOnlyFilesystem | io::ErrorKind::PermissionDenied => {
            "choose a folder that can be written to"
        }
        io::ErrorKind::NotFound => "its folder is gone: is the disk still there?",
        io::ErrorKind::InvalidFilename | io::ErrorKind::InvalidInput => {
            "this disk does not take such a name: choose another folder, or rename the clip's folder"
        }
        _ => "check the disk, then write again",
    };
    MediaError::Write { path: target.to_owned(), detail: format!("{e}; {what_to_do}") }
}
