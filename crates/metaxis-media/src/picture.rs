//! Light copies for the page: proxy picture, playback sound, thumbnail.

use crate::{CachedClip, MediaError, Stop, Tool, decode::sound_arguments, times::packet_times};
use metaxis_core::clip::{ClipFacts, ColourFacts, FrameTiming, SoundFacts};
use std::path::Path;

/// Widest proxy in pixels.
const PROXY_WIDTH: u32 = 640;
/// Widest smaller copy.
const SMALL_WIDTH: u32 = 320;
/// How light copies are coded: quick to make and to show, a key frame every half second of 25.
const CODED: [&str; 18] = [
    "-c:v",
    "libx264",
    "-preset",
    "ultrafast",
    "-tune",
    "fastdecode",
    "-crf",
    "23",
    "-g",
    "12",
    "-bf",
    "0",
    "-threads",
    "1",
    "-movflags",
    "+faststart",
    "-f",
    "mp4",
];

/// Makes the proxy picture unless it is there: H.264, a key frame every half second, every frame at its
/// own time (also at varying rates), first frame at zero.
///
/// # Errors
/// [`MediaError`] naming the file.
pub fn make_proxy(
    path: &Path,
    colour: &ColourFacts,
    cached: &CachedClip,
    stop: &Stop,
) -> Result<(), MediaError> {
    if cached.is_whole(&cached.proxy()) {
        return Ok(());
    }
    cached.write(&cached.proxy(), |part| {
        Tool::ffmpeg(path)
            .args(["-threads", "1", "-i"])
            .file(path)
            .args(["-map", "0:V:0", "-an", "-sn", "-dn", "-fps_mode", "passthrough", "-enc_time_base", "-1"])
            .args([
                "-vf",
                &format!(
                    "setpts=PTS-STARTPTS,scale=w='min({PROXY_WIDTH},trunc(iw/2)*2)':h=-2{},format=yuv420p",
                    as_coded(colour)
                ),
            ])
            .args(CODED)
            .into_file(part)
            .output(0, stop)
            .map(|_| ())
    })
}

/// Makes a smaller copy of the proxy unless it is there, or there is no proxy: every frame at the same time, for walls that a machine
/// cannot show at full size.
///
/// # Errors
/// [`MediaError`] naming the proxy.
pub fn make_small(cached: &CachedClip, stop: &Stop) -> Result<(), MediaError> {
    let proxy = cached.proxy();
    if !cached.is_whole(&proxy) || cached.is_whole(&cached.small()) {
        return Ok(());
    }
    cached.write(&cached.small(), |part| {
        Tool::ffmpeg(&proxy)
            .args(["-threads", "1", "-i"])
            .file(&proxy)
            .args(["-map", "0:V:0", "-fps_mode", "passthrough", "-enc_time_base", "-1"])
            .args(["-vf", &format!("scale=w='min({SMALL_WIDTH},trunc(iw/2)*2)':h=-2:flags=bilinear")])
            .args(CODED)
            .into_file(part)
            .output(0, stop)
            .map(|_| ())
    })
}

/// What keeps codes of red, green and blue as they were recorded, whatever the file says that they mean: else whoever shows a copy
/// would work on them before a viewing LUT does. Empty for pictures that are as a screen shows them.
pub(crate) fn as_coded(colour: &ColourFacts) -> String {
    const OF_SCREENS: [&str; 4] = ["bt709", "smpte170m", "bt470bg", "iec61966-2-1"];
    let is_plain = |own: &Option<String>| own.as_deref().is_none_or(|own| OF_SCREENS.contains(&own));
    if is_plain(&colour.transfer) && is_plain(&colour.primaries) {
        return String::new();
    }
    // Matrices that the scaler knows; of others, and of red, green and blue, it knows what to do by itself.
    let matrix = match colour.matrix.as_deref() {
        Some("bt2020nc" | "bt2020c") => ":in_color_matrix=bt2020",
        Some("smpte170m" | "bt470bg") => ":in_color_matrix=bt601",
        _ => ":in_color_matrix=bt709",
    };
    format!(
        "{matrix}:out_color_matrix=bt709,setparams=color_primaries=bt709:color_trc=bt709:colorspace=bt709"
    )
}

/// Reads the frames of a proxy: it has every frame of the clip at its own time.
///
/// # Errors
/// [`MediaError`] naming the proxy.
pub fn frame_timing(cached: &CachedClip, stop: &Stop) -> Result<FrameTiming, MediaError> {
    let proxy = cached.proxy();
    let times = packet_times(Tool::ffprobe(&proxy), &proxy, stop)?;
    let steps = || times.windows(2).map(|pair| pair[1] - pair[0]);
    Ok(FrameTiming {
        frames: times.len() as u64,
        shortest_s: steps().reduce(f64::min).unwrap_or(0.0),
        longest_s: steps().reduce(f64::max).unwrap_or(0.0),
    })
}

/// Makes the playback sound unless it is there: 48 kHz mono of the channels in `used`.
///
/// # Errors
/// [`MediaError`] naming the file.
pub fn make_playback_sound(
    path: &Path,
    sound: &SoundFacts,
    used: &[usize],
    cached: &CachedClip,
    stop: &Stop,
) -> Result<(), MediaError> {
    if cached.is_whole(&cached.playback()) || used.is_empty() {
        return Ok(());
    }
    let share = 1.0 / used.len() as f64;
    let mix: Vec<String> = used.iter().map(|channel| format!("{share}*c{channel}")).collect();
    cached.write(&cached.playback(), |part| {
        Tool::ffmpeg(path)
            .args(["-i"])
            .file(path)
            .args(sound_arguments(sound, Some(&format!("pan=mono|c0={}", mix.join("+")))))
            .args(["-vn", "-ar", "48000", "-c:a", "pcm_s16le", "-bitexact", "-f", "wav"])
            .into_file(part)
            .output(0, stop)
            .map(|_| ())
    })
}

/// Makes the thumbnail unless it is there: a frame a third into the clip.
///
/// # Errors
/// [`MediaError`] naming the file.
pub fn make_thumbnail(
    path: &Path,
    facts: &ClipFacts,
    cached: &CachedClip,
    stop: &Stop,
) -> Result<(), MediaError> {
    if cached.is_whole(&cached.thumbnail()) {
        return Ok(());
    }
    cached.write(&cached.thumbnail(), |part| {
        Tool::ffmpeg(path)
            .args(["-ss", &format!("{:.3}", facts.duration_s / 3.0), "-i"])
            .file(path)
            .args(["-map", "0:V:0", "-frames:v", "1", "-vf", "scale=160:-2", "-f", "mjpeg"])
            .into_file(part)
            .output(0, stop)
            .map(|_| ())
    })
}
