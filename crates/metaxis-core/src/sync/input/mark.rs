//! What a person marked of a slate.

/// What a person marked of one clap in a clip, in its own time, seconds. A clip has one for each clap: head slates, end
/// slates, several in a take.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct SlateMark {
    /// The moment the sticks close in the picture; it may lie between two frames.
    pub picture_s: Option<f64>,
    /// The peak of the clap in the sound.
    pub sound_s: Option<f64>,
    /// What scene and take the slate belongs to: only marks of one take are laid against each other.
    pub take: String,
}
