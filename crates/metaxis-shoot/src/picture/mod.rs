//! Drawn pictures that show what is heard, each frame carrying its number.

mod code;
mod stage;

pub use code::{CODE_BITS, CodeStrip, read_code};
pub use stage::{Stage, title_card};
