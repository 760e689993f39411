//! What tests make once for a whole run of theirs, and copies of it.

use std::{fs, io, path::Path, path::PathBuf};

/// A folder below `below` for what this process makes once; those of processes that have ended are taken away.
///
/// # Errors
/// Where it cannot be made.
pub fn folder_of_run(below: &Path) -> io::Result<PathBuf> {
    let all = below.join("made-for-tests");
    let own = all.join(std::process::id().to_string());
    fs::create_dir_all(&own)?;
    for other in fs::read_dir(&all)?.flatten() {
        if !Path::new("/proc").join(other.file_name()).exists() {
            // Another run may be about to do the same.
            let _ = fs::remove_dir_all(other.path());
        }
    }
    Ok(own)
}

/// Copies a folder with all that is below it.
///
/// # Errors
/// Where something cannot be read or written.
pub fn copy_folder(from: &Path, to: &Path) -> io::Result<()> {
    fs::create_dir_all(to)?;
    for own in fs::read_dir(from)? {
        let own = own?;
        let target = to.join(own.file_name());
        if own.file_type()?.is_dir() {
            copy_folder(&own.path(), &target)?;
        } else {
            fs::copy(own.path(), target)?;
        }
    }
    Ok(())
}
