//! When the pictures of a file are presented.

use crate::{MediaError, Stop, Tool};
use std::path::Path;

/// Most bytes of a list of times: that of a day of 60 frames a second is shorter.
const MOST: u64 = 256 << 20;

/// Presentation times of the pictures of a file, in their order, seconds in the file's own time; `probing` is ffprobe on it, and may say
/// which part is looked at.
///
/// # Errors
/// [`MediaError`] naming the file.
pub(crate) fn packet_times(probing: Tool, path: &Path, stop: &Stop) -> Result<Vec<f64>, MediaError> {
    let text = probing
        .args(["-select_streams", "V:0", "-show_entries", "packet=pts_time", "-of", "csv=print_section=0"])
        .file(path)
        .output(MOST, stop)?;
    let text = String::from_utf8_lossy(&text);
    let mut times: Vec<f64> =
        text.lines().filter_map(|line| line.trim_end_matches(',').parse().ok()).collect();
    times.sort_by(f64::total_cmp);
    Ok(times)
}
