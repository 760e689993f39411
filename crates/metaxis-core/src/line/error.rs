//! Why an edit of a line is refused.

use super::MOST_LETTERS;
use thiserror::Error;

/// Why an edit is refused.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum LineError {
    /// No such frame.
    #[error("frame {at} is outside the line, which has {frames} frames")]
    Outside {
        /// Frame asked for.
        at: i64,
        /// Length of the line.
        frames: i64,
    },
    /// No such stretch.
    #[error("the line has no stretch {index}; it has {count}")]
    NoStretch {
        /// Stretch asked for.
        index: usize,
        /// How many there are.
        count: usize,
    },
    /// The head of the line is not a cut.
    #[error("the head of the line is no cut: nothing is before it")]
    Head,
    /// A roll beyond a neighbouring cut.
    #[error("the cut can be rolled only between its neighbours: by {least} to {most} frames")]
    RollTooFar {
        /// Furthest roll to the left.
        least: i64,
        /// Furthest roll to the right.
        most: i64,
    },
    /// A dissolve that is longer than what is shown.
    #[error("the stretch has {most} frames: a dissolve is at most as long")]
    DissolveTooLong {
        /// Frames of the stretch.
        most: i64,
    },
    /// A fade that does not fit.
    #[error("the first or last stretch is too short for that fade: {most} frames at most")]
    FadeTooLong {
        /// The longest that fits.
        most: i64,
    },
    /// The first or last stretch.
    #[error("the first and the last stretch cannot be slipped: the line begins and ends with them")]
    NoSlip,
    /// A slip beyond its neighbours.
    #[error("the stretch can be slipped only between its neighbours: by {least} to {most} frames")]
    SlipTooFar {
        /// Furthest slip to the left.
        least: i64,
        /// Furthest slip to the right.
        most: i64,
    },
    /// No such layer.
    #[error("the line has no layer {index}; it has {count}")]
    NoLayer {
        /// Layer asked for.
        index: usize,
        /// How many there are.
        count: usize,
    },
    /// A layer that cannot be.
    #[error("a layer covers one frame of the line at least, and begins with a frame of its clip")]
    NotALayer,
    /// No marker there.
    #[error("there is no marker at that frame")]
    NoMarker,
    /// A note that is too long.
    #[error("a marker's note has {MOST_LETTERS} letters at most")]
    Note,
    /// The angle is on already.
    #[error("this angle is on already")]
    NoChange,
    /// Switches that are not a line.
    #[error("switches must begin at frame 0 and rise within the line")]
    NotALine,
}
