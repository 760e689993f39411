//! What a file may claim of itself: what lies beyond is a fault of the file, and would cost memory and time without
//! bound.

use crate::MediaError;
use metaxis_core::clip::ClipFacts;
use std::path::Path;

/// Samples a second.
const RATES: std::ops::RangeInclusive<u32> = 4_000..=384_000;
/// Channels of all streams together.
const CHANNELS: u32 = 64;
/// Pixels a side, and in all: a decoder holds several pictures at a time.
const SIDE: u32 = 16_384;
const PIXELS: u64 = 100_000_000;
/// Pixels of a still, of which each may be six bytes, and of one in PNG, of which each may be eight and be held twice.
const STILL: u64 = 50_000_000;
const PNG: u64 = 30_000_000;
/// Seconds: four days.
const LONGEST_S: f64 = 4.0 * 86_400.0;

/// Refuses facts beyond all measure.
///
/// # Errors
/// [`MediaError::Beyond`], saying what.
pub(crate) fn check(path: &Path, facts: &ClipFacts) -> Result<(), MediaError> {
    let beyond = |what: String| Err(MediaError::Beyond { path: path.to_owned(), what });
    if let Some(sound) = &facts.sound {
        if !RATES.contains(&sound.rate.0) {
            let (least, most) = (RATES.start(), RATES.end());
            return beyond(format!("{} samples a second; {least} to {most} are read", sound.rate.0));
        }
        if sound.channels > CHANNELS {
            return beyond(format!("{} channels; up to {CHANNELS} are read", sound.channels));
        }
    }
    if let Some(picture) = &facts.picture {
        let (width, height) = (picture.width, picture.height);
        let most = match picture.codec.as_str() {
            _ if !picture.still => PIXELS,
            "png" => PNG,
            _ => STILL,
        };
        if width.max(height) > SIDE || u64::from(width) * u64::from(height) > most {
            let most = most / 1_000_000;
            return beyond(format!(
                "pictures of {width} x {height}; up to {SIDE} a side and {most} million pixels are read"
            ));
        }
    }
    if !(0.0..=LONGEST_S).contains(&facts.duration_s) {
        return beyond(format!("a length of {:.0} s; up to four days are read", facts.duration_s));
    }
    Ok(())
}
