//! What a derived file was when it was whole: after a power cut, or when somebody touched the cache, what is there is
//! believed only where it still is that.

use serde::{Deserialize, Serialize};
use std::{
    fs::File,
    io::{self, Read},
    path::Path,
};

/// Bytes hashed at once.
const BLOCK: usize = 1 << 18;

/// A file's name, length and content.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) struct Mark {
    pub name: String,
    bytes: u64,
    /// BLAKE3 of the content, in hexadecimal.
    hash: String,
}

impl Mark {
    /// Of a file of so many bytes that were hashed on the way.
    pub fn new(path: &Path, bytes: u64, hash: &blake3::Hasher) -> Self {
        let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
        Self { name, bytes, hash: hash.finalize().to_hex().to_string() }
    }

    /// Of the file at `path`, read from beginning to end, which is to go by the name of `target`.
    pub fn of(path: &Path, target: &Path) -> io::Result<Self> {
        let (mut file, mut hash, mut block) = (File::open(path)?, blake3::Hasher::new(), vec![0; BLOCK]);
        let mut bytes = 0;
        loop {
            match file.read(&mut block)? {
                0 => return Ok(Self::new(target, bytes, &hash)),
                count => {
                    hash.update(&block[..count]);
                    bytes += count as u64;
                }
            }
        }
    }

    /// Whether the file in `folder` has the length it had.
    pub fn fits(&self, folder: &Path) -> bool {
        folder.join(&self.name).metadata().is_ok_and(|data| data.is_file() && data.len() == self.bytes)
    }

    /// Whether the file in `folder` is what it was, to the last byte.
    pub fn holds(&self, folder: &Path) -> bool {
        let path = folder.join(&self.name);
        self.fits(folder) && Self::of(&path, &path).is_ok_and(|now| now == *self)
    }
}
