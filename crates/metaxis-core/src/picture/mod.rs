//! What is measured from pictures: the moment at which something that moved strikes and stands still.

mod strikes;

pub use strikes::{GreyFrames, Strike, find_strikes};
