//! What one window says.

/// The local offset measured in one window.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LocalOffset {
    /// Middle of the window in the clip's own time, seconds.
    pub clip_s: f64,
    /// Reference time minus clip time, seconds.
    pub offset_s: f64,
    /// Strength of the match, above zero.
    pub weight: f64,
}
