//! Answers kept beside a clip's other derived files, so that the same question is not worked out twice.

use crate::{CachedClip, Fingerprint, MediaError, Stop, probe};
use metaxis_core::clip::ClipFacts;
use serde::{Deserialize, Serialize, de::DeserializeOwned};
use std::{fs, io::Write, path::Path};

impl CachedClip {
    /// The answer kept as `name`; `None` where there is none, or one of another release that cannot be read.
    pub fn kept<T: DeserializeOwned>(&self, name: &str) -> Option<T> {
        serde_json::from_slice(&fs::read(self.answer(name)).ok()?).ok()
    }

    /// Keeps an answer as `name`.
    ///
    /// # Errors
    /// [`MediaError::Cache`].
    pub fn keep<T: Serialize>(&self, name: &str, answer: &T) -> Result<(), MediaError> {
        let target = self.answer(name);
        let mut part = self.begin(target.clone())?;
        part.write_all(&serde_json::to_vec(answer).unwrap_or_default())
            .map_err(|source| MediaError::Cache { path: target, source })?;
        part.keep().map(|_| ())
    }
}

/// Grows whenever [`probe`] learns to read something else, so that older answers are not believed.
const PROBE: u32 = 5;

#[derive(Serialize, Deserialize)]
struct Probed {
    probe: u32,
    facts: ClipFacts,
}

/// What a file says of itself, asked of [`probe`] once for each content.
///
/// # Errors
/// [`MediaError`] naming the file.
pub fn facts(path: &Path, cached: &CachedClip, stop: &Stop) -> Result<ClipFacts, MediaError> {
    if let Some(Probed { probe: PROBE, facts }) = cached.kept("facts") {
        return Ok(facts);
    }
    let facts = probe(path, stop)?;
    cached.keep("facts", &Probed { probe: PROBE, facts: facts.clone() })?;
    Ok(facts)
}

/// A key for an answer that depends on everything in `question`.
pub fn key_of(question: &impl Serialize) -> Fingerprint {
    Fingerprint::of_bytes(&serde_json::to_vec(question).unwrap_or_default())
}
