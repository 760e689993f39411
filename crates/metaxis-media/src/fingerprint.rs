//! A content fingerprint that does not need the whole file.

use crate::{MediaError, open::open_file};
use std::{
    fmt,
    io::{Read, Seek, SeekFrom},
    path::Path,
};

/// Identifies content whatever its name: the length and three samples of it, hashed.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub struct Fingerprint(String);

/// Bytes hashed at the head, the middle and the tail.
const SAMPLE: u64 = 256 * 1024;

impl Fingerprint {
    /// Of the file at `path`.
    ///
    /// # Errors
    /// [`MediaError::Read`], [`MediaError::Empty`].
    pub fn of(path: &Path) -> Result<Self, MediaError> {
        let read = |source| MediaError::Read { path: path.to_owned(), source };
        let mut file = open_file(path).map_err(read)?;
        let length = file.metadata().map_err(read)?.len();
        if length == 0 {
            return Err(MediaError::Empty { path: path.to_owned() });
        }
        let mut hash = blake3::Hasher::new();
        hash.update(&length.to_le_bytes());
        let mut buffer = vec![];
        for from in [0, length / 2, length.saturating_sub(SAMPLE)] {
            file.seek(SeekFrom::Start(from)).map_err(read)?;
            buffer.clear();
            (&mut file).take(SAMPLE).read_to_end(&mut buffer).map_err(read)?;
            hash.update(&buffer);
        }
        Ok(Self(hash.finalize().to_hex()[..32].to_owned()))
    }

    /// Nothing, where the file at `path` still is what this is the fingerprint of.
    ///
    /// # Errors
    /// [`MediaError::Changed`], and those of [`Fingerprint::of`].
    pub fn still_of(&self, path: &Path) -> Result<(), MediaError> {
        if Self::of(path)? == *self { Ok(()) } else { Err(MediaError::Changed { path: path.to_owned() }) }
    }

    /// Of something that is not a file.
    pub fn of_bytes(bytes: &[u8]) -> Self {
        Self(blake3::hash(bytes).to_hex()[..32].to_owned())
    }

    /// A fingerprint written before; `None` unless it has the form of one, so that it is safe in a path.
    pub fn parse(text: &str) -> Option<Self> {
        (text.len() == 32 && text.bytes().all(|b| b.is_ascii_hexdigit())).then(|| Self(text.to_owned()))
    }

    /// As text.
    pub fn as_str(&self) -> &str {
        &self.0
    }
}

impl fmt::Display for Fingerprint {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.0)
    }
}
