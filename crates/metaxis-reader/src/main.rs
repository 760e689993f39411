//! `metaxis-reader`: reads media files with the libraries behind ffmpeg, many files one after the other.
//!
//! Starting ffmpeg takes longer than decoding a minute of sound, so `metaxis` keeps a few of these at hand. Being
//! processes of their own, a file that brings the libraries down takes nothing else with it. Requests are lines of JSON on
//! standard input; answers are messages on standard output, see [`wire`]. What is out of the ordinary is refused, and
//! `metaxis` then asks ffmpeg or ffprobe itself. The folder that is its argument is all that it can read from.

mod facts;
mod input;
mod sound;
mod times;
mod wire;

use ffmpeg_next as ffmpeg;
use metaxis_confine::{Bounds, confine};
use serde::Deserialize;
use sound::Wanted;
use std::io::{self, BufRead};
use wire::Wire;

/// What is asked.
#[derive(Deserialize)]
#[serde(tag = "want", rename_all = "snake_case")]
enum Request {
    /// What a file says of itself: one message of JSON, in the form of ffprobe's.
    Facts {
        /// The file.
        path: String,
    },
    /// The sound of one of its streams: messages of interleaved 32-bit floats.
    Sound {
        /// The file.
        path: String,
        /// Which of the sound streams.
        stream: usize,
        /// Channels that are expected,
        channels: u16,
        /// and samples a second.
        rate: u32,
        /// The first sample that is wanted.
        #[serde(default)]
        from: u64,
    },
}

/// Memory that it may hold, bytes.
const MEMORY: u64 = 3 << 30;

fn main() -> io::Result<()> {
    if let Some(folder) = std::env::args_os().nth(1) {
        let bounds = Bounds { read: vec![folder.into()], memory: MEMORY, ..Bounds::default() };
        confine(&bounds).map_err(|e| io::Error::other(format!("{e:#}")))?;
    }
    if ffmpeg::init().is_err() {
        return Err(io::Error::other("the media libraries cannot be set up"));
    }
    ffmpeg::log::set_level(ffmpeg::log::Level::Quiet);
    let mut wire = Wire::new(io::stdout().lock());
    for line in io::stdin().lock().lines() {
        let answered = match serde_json::from_str(&line?) {
            Ok(Request::Facts { path }) => facts::read(&path).map(|json| wire.say(&json)),
            Ok(Request::Sound { path, stream, channels, rate, from }) => {
                let wanted = Wanted { stream, expected: (channels, rate), from };
                sound::decode(&path, &wanted, &mut wire).map(Ok)
            }
            Err(e) => Err(e.to_string()),
        };
        match answered {
            Ok(written) => written.and_then(|()| wire.end())?,
            Err(why) => wire.refuse(&why)?,
        }
        wire.flush()?;
    }
    Ok(())
}
