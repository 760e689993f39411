//! The colours of a moment, for comparing cameras.

use crate::{CachedClip, MediaError, Stop, Tool};
use std::time::Duration;

/// Size of the picture that is looked at.
const SIZE: (usize, usize) = (96, 54);
/// Longest a look may take.
const LIMIT: Duration = Duration::from_secs(30);

/// Red, green and blue of a small picture of a light copy, `at_s` seconds from its first frame; none where it has ended.
///
/// # Errors
/// [`MediaError`] naming the light copy.
pub fn colours_at(cached: &CachedClip, at_s: f64, stop: &Stop) -> Result<Vec<[u8; 3]>, MediaError> {
    let proxy = cached.proxy();
    let (width, height) = SIZE;
    let pixels = Tool::ffmpeg(&proxy)
        .within(LIMIT)
        .args(["-threads", "1", "-ss", &format!("{:.6}", at_s.max(0.0)), "-i"])
        .file(&proxy)
        .args(["-map", "0:V:0", "-frames:v", "1"])
        .args([
            "-vf",
            &format!("scale={width}:{height}:flags=area:in_color_matrix=bt709:in_range=tv,format=rgb24"),
        ])
        .args(["-f", "rawvideo", "-"])
        .output((3 * width * height) as u64, stop)?;
    Ok(pixels.as_chunks().0.to_vec())
}
