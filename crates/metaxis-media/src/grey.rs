//! Small grey pictures of a moment, for looking at what moves.

use crate::{MediaError, Stop, Tool, times::packet_times};
use metaxis_core::{
    clip::{ClipFacts, PictureFacts},
    picture::GreyFrames,
};
use std::{path::Path, time::Duration};

/// Size of the pictures: enough for a slate at the other end of a hall.
const SIZE: (usize, usize) = (320, 180);
/// The most frames looked at.
const MOST: usize = 1_000;
/// Longest a look may take.
const LIMIT: Duration = Duration::from_secs(60);

/// The frames of a clip from `from_s` to `to_s` of its own time; none where it has no moving picture.
///
/// # Errors
/// [`MediaError`] naming the file.
pub fn grey_frames(
    path: &Path,
    facts: &ClipFacts,
    (from_s, to_s): (f64, f64),
    stop: &Stop,
) -> Result<GreyFrames, MediaError> {
    let (width, height) = SIZE;
    let mut frames = GreyFrames { width, height, times_s: vec![], pixels: vec![] };
    let Some(picture) = facts.picture.as_ref().filter(|picture| !picture.still) else { return Ok(frames) };
    // A clip's own time begins with its sound.
    let zero_s = picture.start_s - facts.picture_delay_s();
    let length_s = 1.0 / picture.rate.as_f64();
    let first = ((from_s + zero_s - picture.start_s) / length_s).ceil().max(0.0);
    // Half a frame early: rounded times cannot leave out the first.
    let seek_s = picture.start_s + (first - 0.5) * length_s;
    let last_s = (to_s + zero_s).min(seek_s + MOST as f64 * length_s);
    let times_s = times(path, picture, (first, seek_s, last_s), stop)?;
    frames.pixels = Tool::ffmpeg(path)
        .within(LIMIT)
        .args(["-threads", "1", "-seek_timestamp", "1", "-ss", &format!("{seek_s:.6}"), "-i"])
        .file(path)
        .args(["-map", "0:V:0", "-an", "-sn", "-dn", "-frames:v", &times_s.len().to_string()])
        .args(["-fps_mode", "passthrough", "-vf", &format!("scale={width}:{height}:flags=area,format=gray")])
        .args(["-f", "rawvideo", "-"])
        .output((MOST * width * height) as u64, stop)?;
    let whole = frames.pixels.len() / (width * height);
    frames.pixels.truncate(whole * width * height);
    frames.times_s = times_s.into_iter().take(whole).map(|at_s| at_s - zero_s).collect();
    Ok(frames)
}

/// Presentation times of the frames from number `first` on, which lies after `seek_s`, up to `last_s`, in the file's time.
fn times(
    path: &Path,
    picture: &PictureFacts,
    (first, seek_s, last_s): (f64, f64, f64),
    stop: &Stop,
) -> Result<Vec<f64>, MediaError> {
    if picture.constant_rate {
        let at = |i: usize| picture.start_s + (first + i as f64) / picture.rate.as_f64();
        return Ok((0..MOST).map(at).take_while(|at_s| *at_s <= last_s).collect());
    }
    let interval = ["-read_intervals".to_owned(), format!("{seek_s:.6}%{last_s:.6}")];
    let mut times = packet_times(Tool::ffprobe(path).within(LIMIT).args(interval), path, stop)?;
    times.retain(|at_s| (seek_s..=last_s).contains(at_s));
    times.truncate(MOST);
    Ok(times)
}
