//! A short piece of one channel, decoded by itself: for looking at it closely.

use crate::{MediaError, Stop, Tool};
use metaxis_core::{
    clip::{SoundFacts, SoundStream},
    signal::LISTEN_RATE,
};
use std::{path::Path, time::Duration};

/// Longest a piece may take.
const LIMIT: Duration = Duration::from_secs(20);
/// Decoding begins so much earlier: coders need a run-up, seconds.
const RUN_UP_S: f64 = 1.0;

/// `count` samples of a channel (from 0) from `from_s` of the clip's own time on, at [`LISTEN_RATE`], −1 to 1; silence beyond
/// the ends. As exact as the file's own times: where these count milliseconds, half of one. `None` where the clip has no such channel.
///
/// # Errors
/// [`MediaError`] naming the file.
pub fn channel_piece(
    path: &Path,
    sound: &SoundFacts,
    channel: usize,
    (from_s, count): (f64, usize),
    stop: &Stop,
) -> Result<Option<Vec<f32>>, MediaError> {
    let Some((stream, own)) = stream_of(sound, channel) else { return Ok(None) };
    let rate = f64::from(LISTEN_RATE);
    // Silence before the clip begins.
    let ahead = ((-from_s).max(0.0) * rate).round().min(count as f64) as usize;
    let wanted = count - ahead;
    let begin_s = sound.start_s + from_s.max(0.0);
    let end_s = begin_s + wanted as f64 / rate;
    // Cut by the file's own times, which a seek does not touch; filled up where it begins late.
    let filter = format!(
        "pan=mono|c0=c{own},atrim=start={begin_s:.9}:end={end_s:.9},asetpts=PTS-{begin_s:.9}/TB,\
         aresample={LISTEN_RATE}:async=1:first_pts=0"
    );
    let bytes = Tool::ffmpeg(path)
        .within(LIMIT)
        .args(["-copyts", "-seek_timestamp", "1", "-ss", &format!("{:.6}", begin_s - RUN_UP_S), "-i"])
        .file(path)
        .args(["-map", &format!("0:a:{}", stream.index), "-vn", "-sn", "-dn", "-af", &filter])
        .args(["-c:a", "pcm_f32le", "-f", "f32le", "pipe:1"])
        .output(4 * wanted as u64, stop)?;
    let mut samples = vec![0.0; ahead];
    let read = bytes
        .chunks_exact(4)
        .take(wanted)
        .map(|four| f32::from_le_bytes([four[0], four[1], four[2], four[3]]));
    samples.extend(read.map(|value| if value.is_finite() { value } else { 0.0 }));
    samples.resize(count, 0.0);
    Ok(Some(samples))
}

/// The stream that holds a channel of a clip, and the channel's number in it.
fn stream_of(sound: &SoundFacts, channel: usize) -> Option<(SoundStream, u32)> {
    let channel = u32::try_from(channel).ok()?;
    if sound.streams.is_empty() {
        let all = SoundStream { index: 0, channels: sound.channels, delay_s: 0.0 };
        return (channel < all.channels).then_some((all, channel));
    }
    let mut first = 0;
    for stream in &sound.streams {
        if channel < first + stream.channels {
            return Some((*stream, channel - first));
        }
        first += stream.channels;
    }
    None
}
