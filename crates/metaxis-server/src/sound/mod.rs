//! Sound that is to be written: shared by the page and the command.
//!
//! - [`SoundDay`]: the placed clips of a day, and what of their sound was ordered.
//! - [`SoundFile`]: one file that is to be made of it; [`write`] makes it, [`Listening`] plays it before; [`SoundRow`] is
//!   several one behind another, as films have them.

mod aaf;
mod beside;
mod day;
mod file;
mod heard;
mod mix;
mod offered;
mod row;
mod write;

pub use day::{Asked, SoundClip, SoundDay};
pub use file::SoundFile;
pub use heard::{Listening, laid};
pub use mix::{GridOrigin, Grouped, grid_of};
pub use offered::{TrackOffered, offered};
pub use row::{RowPart, SoundRow};
pub use write::{only_read, room_for, write};
