//! Files that are whole or not there.

use std::{fs::Permissions, io, io::Write, os::unix::fs::PermissionsExt, path::Path};

/// Writes a file that is whole or not there: one cut off by a full disk would be read as one.
///
/// # Errors
/// Where it cannot be written; what was there before stays then.
pub fn write(path: &Path, bytes: &[u8]) -> io::Result<()> {
    // What is no file (a terminal, a pipe) is written to as it is.
    if path.metadata().is_ok_and(|data| !data.is_file()) {
        return std::fs::write(path, bytes);
    }
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty());
    let mut aside = tempfile::Builder::new()
        .permissions(Permissions::from_mode(0o644))
        .tempfile_in(folder.unwrap_or_else(|| Path::new(".")))?;
    aside.write_all(bytes)?;
    aside.persist(path)?;
    Ok(())
}
