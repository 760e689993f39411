//! Films: pictures of clips read frame by frame, put together, and coded piece by piece.

mod canvas;
mod code;
mod coded;
mod copy;
mod heard;
mod join;
mod keys;
mod letters;
mod listed;
mod look;
mod pictures;
mod pipes;
mod pixels;
mod place;
mod proof;
mod spec;
mod writer;

pub use canvas::Canvas;
pub use code::{codecs_offered, film_bytes};
pub use coded::Coded;
pub use join::Joined;
pub use pictures::{FrameTimes, Pictures};
pub use pixels::Pixels;
pub use spec::{Copied, FilmSpec, FilmWritten, SoundTrack};
pub use writer::FilmWriter;
