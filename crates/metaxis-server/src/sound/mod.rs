//! Sound that is to be written: shared by the page and the command.
//!
//! - [`SoundDay`]: the placed clips of a day, and what of their sound was ordered.
//! - [`SoundFile`]: one file that is to be made of it; [`write`] makes it.

mod day;
mod file;
mod write;

pub use day::{SoundClip, SoundDay};
pub use file::SoundFile;
pub use write::{room_for, write};
