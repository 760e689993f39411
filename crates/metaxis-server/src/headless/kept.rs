//! The result of a sync, kept in the cache: where nothing it depends on has changed, it is not worked out again.

use metaxis_core::{
    clip::ClipFacts,
    signal::Heard,
    sync::{DayPlan, DayResult},
};
use metaxis_media::{Cache, CachedClip, Fingerprint, MediaError, key_of};
use serde::{Deserialize, Serialize};
use std::time::SystemTime;

/// A placed day and the choice it was placed with.
#[derive(Clone, Serialize, Deserialize)]
pub struct KeptDay {
    /// What was chosen.
    pub choice: DayPlan,
    /// Where everything lies.
    pub result: DayResult,
}

/// One clip, as far as the result depends on it.
#[derive(Serialize)]
pub struct Known<'a> {
    /// Its name, by which it may be chosen as the reference, and its place among the others.
    pub path: &'a str,
    /// Its device.
    pub device: &'a str,
    /// Its content.
    pub fingerprint: &'a str,
    /// What its file says.
    pub facts: &'a ClipFacts,
    /// What was heard of it; nothing where it has no sound or could not be listened to.
    pub heard: Option<&'a Heard>,
}

/// Where the result of one sync is kept.
pub struct DayShelf(CachedClip);

impl DayShelf {
    /// The shelf for `clips` and everything else that was asked for.
    pub fn new(cache: &Cache, clips: &[Known], asked: &impl Serialize) -> Self {
        Self(cache.clip(&key_of(&(engine(), clips, asked))))
    }

    /// The result, if these clips were synced so before.
    pub fn kept(&self) -> Option<KeptDay> {
        self.0.kept("day")
    }

    /// Keeps it.
    ///
    /// # Errors
    /// [`MediaError::Cache`].
    pub fn keep(&self, day: &KeptDay) -> Result<(), MediaError> {
        self.0.keep("day", day)
    }
}

/// Which program answers: another build may answer otherwise.
fn engine() -> Option<(String, u128)> {
    let path = std::env::current_exe().ok()?;
    let built = path.metadata().and_then(|data| data.modified()).ok()?;
    let age = built.duration_since(SystemTime::UNIX_EPOCH).ok()?;
    Some((Fingerprint::of(&path).ok()?.to_string(), age.as_nanos()))
}
