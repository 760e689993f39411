//! One server a data folder: two would take each other's jobs and refuse each other's edits.

use std::{
    fs::{File, OpenOptions},
    io::{Read, Seek, Write},
    path::Path,
};

/// Holds a data folder until it is dropped, or its process ends in any way.
pub struct Owner {
    _lock: File,
}

impl Owner {
    /// Takes the folder.
    ///
    /// # Errors
    /// Who has it, or why it cannot be written, in words.
    pub fn take(folder: &Path) -> Result<Self, String> {
        let path = folder.join("in-use");
        let mut file =
            OpenOptions::new().read(true).write(true).create(true).truncate(false).open(&path).map_err(
                |e| format!("{} cannot be written ({e}); choose another data folder", path.display()),
            )?;
        let mut owner = String::new();
        let _ = (&mut file).take(200).read_to_string(&mut owner);
        file.try_lock().map_err(|_| {
            format!(
                "{} is in use by another server ({}); end that one first, or give this one another data folder",
                folder.display(),
                owner.trim()
            )
        })?;
        let who = format!("process {}\n", std::process::id());
        // Only for the sentence above: the lock holds without it.
        let _ = file.set_len(0).and_then(|()| file.rewind()).and_then(|()| file.write_all(who.as_bytes()));
        Ok(Self { _lock: file })
    }
}
