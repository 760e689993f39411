//! A passage of a clip.

use serde::{Deserialize, Serialize};

/// A part of a clip's own time, seconds.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Passage {
    /// Beginning.
    pub from_s: f64,
    /// End.
    pub to_s: f64,
}
