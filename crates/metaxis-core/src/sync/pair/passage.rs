//! A passage of a clip.

/// A part of a clip's own time, seconds.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Passage {
    /// Beginning.
    pub from_s: f64,
    /// End.
    pub to_s: f64,
}
