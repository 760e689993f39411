//! Media files in and out, through ffmpeg and ffprobe as processes with fixed argument lists, no shell, and
//! limits on time and output. Sources are only read.

mod cache;
mod confined;
mod decode;
mod ear;
mod error;
mod fingerprint;
mod grey;
mod guarded;
mod ixml;
mod kept;
mod limits;
mod listen;
mod mark;
mod mixing;
mod open;
mod picture;
mod piece;
mod probe;
mod reader;
mod resample;
mod riff;
mod stored;
mod tool;
mod voice;
mod voices;
mod walk;
mod wav;

pub use cache::{Cache, CachedClip};
pub use confined::unconfined;
pub use decode::decoder;
pub use error::MediaError;
pub use fingerprint::Fingerprint;
pub use grey::grey_frames;
pub use guarded::{guarded, said};
pub use ixml::{Ixml, parse_ixml};
pub use kept::{facts, key_of};
pub use listen::{forget_heard, is_heard, listen, still_holds};
pub use picture::{frame_timing, make_playback_sound, make_proxy, make_thumbnail};
pub use piece::channel_piece;
pub use probe::{probe, probe_json};
pub use resample::ToListenRate;
pub use riff::{append_chunk, find_chunk, find_chunk_in};
pub use stored::StoredSamples;
pub use tool::{Stop, Tool};
pub use walk::{Entry, Found, walk};
