//! Media files in and out, through ffmpeg and ffprobe as processes with fixed argument lists, no shell, and
//! limits on time and output. Sources are only read.

mod behind;
mod cache;
mod colours;
mod confined;
mod decode;
mod ear;
mod ended;
mod error;
mod film;
mod fingerprint;
mod grey;
mod guarded;
mod ixml;
mod kept;
mod limits;
mod listen;
mod made;
mod mark;
mod mixing;
mod open;
mod packed;
mod picture;
mod picture_out;
mod piece;
mod print;
mod probe;
mod reader;
mod resample;
mod riff;
mod sound_file;
mod stored;
mod times;
mod tool;
mod tracks;
mod turns;
mod voice;
mod voices;
mod walk;
mod wav;
mod wave_out;

pub use cache::{Cache, CachedClip};
pub use colours::colours_at;
pub use confined::unconfined;
pub use decode::decoder;
pub use ended::run_to_end;
pub use error::MediaError;
pub use film::{
    Canvas, Coded, Copied, FilmSpec, FilmWriter, FilmWritten, FrameTimes, Joined, Pictures, Pixels,
    SoundTrack, codecs_offered, film_bytes,
};
pub use fingerprint::Fingerprint;
pub use grey::grey_frames;
pub use guarded::{guarded, said};
pub use ixml::{Ixml, parse_ixml};
pub use kept::{facts, key_of};
pub use listen::{forget_heard, is_heard, listen, still_holds};
pub use made::{write_whole, write_whole_by};
pub use picture::{frame_timing, make_playback_sound, make_proxy, make_small, make_thumbnail};
pub use picture_out::{PictureForm, PictureWriter, written_picture_uid};
pub use piece::channel_piece;
pub use print::{printed, printer};
pub use probe::{probe, probe_json};
pub use resample::ToListenRate;
pub use riff::{append_chunk, find_chunk, find_chunk_in};
pub use sound_file::SoundFile;
pub use stored::StoredSamples;
pub use tool::{Stop, Tool};
pub use turns::{OneAtATime, Turn};
pub use walk::{Entry, Found, walk};
pub use wave_out::{WaveForm, WaveWriter, WaveWritten, free_bytes, wave_head, written_uid};
