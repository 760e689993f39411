//! The coded pictures of a file: when each is shown, and what it is to the last bit.

use super::coded::{InStream, in_stream};
use metaxis_core::{film::Codec, time::FrameRate};

/// Most bytes of such a list: that of a day of 60 frames a second is shorter.
pub(super) const MOST: u64 = 1 << 30;

/// A coded picture.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Listed {
    /// When it is shown, seconds in the file's own time.
    pub at_s: f64,
    /// A hash of all that is its own: what a decoder has to know beside it may stand elsewhere in another file.
    pub hash: u128,
}

/// Arguments of ffmpeg that list the coded pictures of its first input, each by what is its own.
pub(super) fn listing(codec: Codec) -> Vec<String> {
    let alone = |own: InStream| format!("{},filter_units=pass_types={}", own.filter, own.pictures);
    let filter = in_stream(codec).map(|own| vec!["-bsf:v".to_owned(), alone(own)]);
    [listing_whole(), filter.unwrap_or_default()].concat()
}

/// The same, each by all that the file has of it.
pub(super) fn listing_whole() -> Vec<String> {
    ["-map", "0:V:0", "-c", "copy", "-f", "framehash", "-hash", "murmur3"].map(str::to_owned).to_vec()
}

/// What such a list says, in the order of the file; what it does not say of a picture leaves that out.
pub(super) fn listed(said: &str) -> Vec<Listed> {
    let mut tick_s = 0.0;
    let mut all = vec![];
    for line in said.lines() {
        if let Some(tick) = line.strip_prefix("#tb 0: ").and_then(|own| own.split_once('/')) {
            let part = |own: &str| own.trim().parse::<f64>().unwrap_or(0.0);
            tick_s = part(tick.0) / part(tick.1);
        }
        let mut fields = line.split(',').map(str::trim);
        // Which stream, when it is decoded, when it is shown, how long, how many bytes, and the hash.
        let (Some(ticks), Some(hash)) = (fields.nth(2), fields.nth(2)) else { continue };
        if let (Ok(ticks), Ok(hash)) = (ticks.parse::<i64>(), u128::from_str_radix(hash, 16)) {
            all.push(Listed { at_s: ticks as f64 * tick_s, hash });
        }
    }
    all
}

/// The numbers of pictures of which frame 0 is shown at `zero_s`.
pub(super) fn numbers(all: &[Listed], zero_s: f64, rate: FrameRate) -> Vec<i64> {
    all.iter().map(|own| ((own.at_s - zero_s) * rate.as_f64()).round() as i64).collect()
}

/// Whether these are the numbers from `first` on, each once, in whatever order.
pub(super) fn are_all_from(first: i64, numbers: &[i64]) -> bool {
    let mut sorted = numbers.to_vec();
    sorted.sort_unstable();
    (first..).zip(&sorted).all(|(own, there)| own == *there)
}

#[cfg(test)]
mod tests {
    use super::*;

    const SAID: &str = "#format: frame checksums\n#tb 0: 1/12800\n#stream#, dts,        pts, duration,     size, hash\n\
        0,      48128,      49152,      512,   715387, 9e7669b95cab0880bb8acc0ddcf824a0\n\
        0,      48640,      50176,      512,   505461, dd6f91281622907c09d27efb21296502\n\
        0,      49152,      49664,      512,   488829, 945b6bdd8aad1c4abfa6aa5975987c1e\n";

    #[test]
    fn a_list_says_when_each_is_shown_and_what_it_is() {
        let all = listed(SAID);
        assert_eq!(all.len(), 3);
        assert_eq!(all[0].hash, 0x9e76_69b9_5cab_0880_bb8a_cc0d_dcf8_24a0);
        let rate = FrameRate::FPS_25;
        assert_eq!(numbers(&all, 3.0, rate), [21, 23, 22]);
        assert!(are_all_from(21, &numbers(&all, 3.0, rate)));
        for wrong in [&[21, 23][..], &[21, 22, 22], &[22, 23, 24], &[20, 21, 22]] {
            assert!(!are_all_from(21, wrong), "{wrong:?}");
        }
        // Nonsense is no picture.
        assert_eq!(listed("0, x, y, 1, 2, 3\n0,1,2\n\n#tb 0: 1/0\n0, 1, -, 1, 2, ff"), []);
    }
}
