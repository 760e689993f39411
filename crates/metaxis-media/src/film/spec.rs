//! What a film is to be, and what it became.

use metaxis_core::{clip::PictureFacts, film::FilmForm, time::FrameRate};
use std::{ops::Range, path::PathBuf};

/// A film that is to be written.
#[derive(Debug, Clone)]
pub struct FilmSpec {
    /// How it is coded.
    pub form: FilmForm,
    /// Its size in pixels.
    pub size: (u32, u32),
    /// Frames a second.
    pub rate: FrameRate,
    /// How many.
    pub frames: i64,
    /// Timecode of the first.
    pub timecode: Option<String>,
    /// What else is said of it, by name.
    pub notes: Vec<(String, String)>,
    /// Sound of it: a WAV, and which of its channels are tracks together.
    pub sound: Option<(PathBuf, Vec<SoundTrack>)>,
    /// Tells what is in it from everything else.
    pub uid: String,
    /// Longest piece that is coded, seconds.
    pub piece_s: f64,
    /// Profile of what is coded, as ffmpeg's coder calls it; that of the grade unless given.
    pub profile: Option<&'static str>,
}

/// A stretch of a film that is a clip's own frames, one after the other.
#[derive(Debug, Clone, PartialEq)]
pub struct Copied {
    /// Its first frame in the film.
    pub from: i64,
    /// How many.
    pub frames: i64,
    /// The clip's file.
    pub path: PathBuf,
    /// What is known of its pictures.
    pub facts: PictureFacts,
    /// The clip's frame that the first is.
    pub first: i64,
}

/// A film that was written.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FilmWritten {
    /// Its length in bytes.
    pub bytes: u64,
    /// Its BLAKE3 hash, the first 32 digits.
    pub hash: String,
}

/// Channels of a WAV that are one track of a film.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SoundTrack {
    /// What it is called.
    pub name: String,
    /// Its channels, one or two.
    pub channels: Range<usize>,
}
