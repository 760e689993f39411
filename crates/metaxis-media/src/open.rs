//! Opening what a user points at: files, and nothing that looks like one.

use std::{
    fs::{File, OpenOptions},
    io,
    os::unix::fs::OpenOptionsExt,
    path::Path,
};

/// Opens a regular file for reading. A pipe or a device would keep its reader waiting for ever: what was opened is looked
/// at, not the name, so that nothing can take the file's place in between.
///
/// # Errors
/// What the system says, or that it is no ordinary file.
pub(crate) fn open_file(path: &Path) -> io::Result<File> {
    // Without waiting: opening a pipe that nobody writes to does not return otherwise.
    let file = OpenOptions::new().read(true).custom_flags(nix::libc::O_NONBLOCK).open(path)?;
    if file.metadata()?.is_file() {
        Ok(file)
    } else {
        Err(io::Error::new(io::ErrorKind::InvalidInput, "it is a pipe, a device or a folder, no file"))
    }
}
