//! How the pictures of a file are coded, as far as others have to be alike to stand in one file with them.

use crate::{MediaError, Stop, Tool};
use metaxis_core::{film::Codec, time::FrameRate};
use serde::Deserialize;
use std::path::Path;

/// How a file's pictures are coded.
#[derive(Debug, Clone, PartialEq, Eq, Default, Deserialize)]
#[serde(default)]
pub struct Coded {
    #[serde(rename = "codec_name")]
    name: String,
    profile: String,
    pix_fmt: String,
    width: u32,
    height: u32,
    sample_aspect_ratio: String,
    field_order: String,
    color_range: String,
    color_space: String,
    time_base: String,
    extradata_hash: String,
    side_data_list: Vec<Side>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Deserialize)]
#[serde(default)]
struct Side {
    rotation: i64,
}

#[derive(Deserialize)]
struct Said {
    #[serde(default)]
    streams: Vec<Coded>,
}

impl Coded {
    /// Of the file at `path`.
    ///
    /// # Errors
    /// [`MediaError`] naming the file.
    pub fn of(path: &Path, stop: &Stop) -> Result<Self, MediaError> {
        let said = Tool::ffprobe(path)
            .args(["-select_streams", "V:0", "-show_streams", "-show_data_hash", "sha256", "-of", "json"])
            .file(path)
            .output(1 << 20, stop)?;
        let said: Option<Said> = serde_json::from_slice(&said).ok();
        Ok(said.and_then(|own| own.streams.into_iter().next()).unwrap_or_default())
    }

    /// The profile that coded pictures get to be alike, as ffmpeg's coder calls it.
    pub fn profile(&self, codec: Codec) -> Option<&'static str> {
        Some(match (codec, self.profile.as_str()) {
            (Codec::Rdd36, "Proxy") => "proxy",
            (Codec::Rdd36, "LT") => "lt",
            (Codec::Rdd36, "Standard") => "standard",
            (Codec::Rdd36, "HQ") => "hq",
            (Codec::Vc3, "DNXHR LB") => "dnxhr_lb",
            (Codec::Vc3, "DNXHR SQ") => "dnxhr_sq",
            (Codec::Vc3, "DNXHR HQ") => "dnxhr_hq",
            _ => return None,
        })
    }

    /// Why its pictures, of that many a second, cannot stand in a film with those that are coded like `film`; nothing where they can.
    pub fn why_apart(&self, codec: Codec, rate: FrameRate, film: &Self) -> Option<String> {
        let [own, other] = [self, film].map(|own| format!("{} × {}", own.width, own.height));
        let is_turned = self.side_data_list.iter().any(|own| own.rotation != 0);
        Some(if self.name != film.name {
            format!("it is coded as {}, the film as {}", self.name, codec.name())
        } else if own != other {
            format!("its pictures are {own}, the film’s {other}")
        } else if self.pix_fmt != film.pix_fmt {
            format!("its pixels are {}, the film’s {}", self.pix_fmt, film.pix_fmt)
        } else if in_every_frame(codec) && self.profile != film.profile {
            format!("its profile is {}, the film’s {}", self.profile, film.profile)
        } else if is_turned {
            "its pictures are turned".into()
        } else if !matches!(self.sample_aspect_ratio.as_str(), "" | "1:1" | "0:1" | "N/A") {
            format!("its pixels are not square ({})", self.sample_aspect_ratio)
        } else if !matches!(self.field_order.as_str(), "" | "unknown" | "progressive") {
            "its pictures are made of two fields".into()
        } else if self.color_range == "pc" {
            "its colours have the full range".into()
        } else if !matches!(self.color_space.as_str(), "" | "unknown" | "bt709") {
            format!("its colours are counted as {}", self.color_space)
        } else if !self.counts(rate) {
            "the times of its frames are rounded".into()
        } else if !is_told_in_stream(codec) && self.extradata_hash != film.extradata_hash {
            format!("it is another coder’s {}", codec.name())
        } else {
            return None;
        })
    }

    /// Whether the file's own clock has a whole number of ticks a frame.
    fn counts(&self, rate: FrameRate) -> bool {
        let parts = self.time_base.split_once('/');
        let parts = parts.and_then(|(num, den)| Some((num.parse::<i64>().ok()?, den.parse::<i64>().ok()?)));
        parts.is_some_and(|(num, den)| {
            let (ticks, frames) =
                (i128::from(den) * i128::from(rate.den()), i128::from(num.max(1)) * i128::from(rate.num()));
            ticks % frames == 0
        })
    }
}

/// Whether every frame of a codec stands by itself, and says itself how it is coded.
pub(super) fn in_every_frame(codec: Codec) -> bool {
    matches!(codec, Codec::Rdd36 | Codec::Vc3)
}

/// Whether what a decoder has to know may change from one frame that stands by itself to the next.
fn is_told_in_stream(codec: Codec) -> bool {
    in_every_frame(codec) || in_stream(codec).is_some()
}

/// What puts what a decoder has to know before each frame that stands by itself (ISO/IEC 14496-15: what holds it is then called by
/// another name).
pub(super) fn in_stream(codec: Codec) -> Option<InStream> {
    match codec {
        Codec::H264 => Some(InStream { filter: "h264_mp4toannexb", tag: "avc3", pictures: "1-5" }),
        Codec::H265 => Some(InStream { filter: "hevc_mp4toannexb", tag: "hev1", pictures: "0-31" }),
        _ => None,
    }
}

/// How parameters come to be in the stream of pictures.
pub(super) struct InStream {
    /// The filter that puts them there.
    pub filter: &'static str,
    /// What MP4 and MOV call such a stream.
    pub tag: &'static str,
    /// The types of its units that are pictures (ITU-T H.264, table 7-1; H.265, table 7-1).
    pub pictures: &'static str,
}

#[cfg(test)]
mod tests {
    use super::*;

    fn coded() -> Coded {
        Coded {
            name: "prores".into(),
            profile: "HQ".into(),
            pix_fmt: "yuv422p10le".into(),
            width: 1920,
            height: 1080,
            time_base: "1/24000".into(),
            ..Coded::default()
        }
    }

    #[test]
    fn what_cannot_stand_in_one_file_is_said() {
        let film = coded();
        let rate = FrameRate::new(24000, 1001).expect("a rate");
        let why = |own: Coded| own.why_apart(Codec::Rdd36, rate, &film);
        assert_eq!(why(coded()), None);
        let turned = Coded { side_data_list: vec![Side { rotation: -90 }], ..coded() };
        let rounded = Coded { time_base: "1/1000".into(), ..coded() };
        for (own, said) in [
            (Coded { name: "dnxhd".into(), ..coded() }, "coded as dnxhd, the film as RDD 36"),
            (Coded { width: 1280, ..coded() }, "1280 × 1080, the film’s 1920 × 1080"),
            (Coded { pix_fmt: "yuv444p12le".into(), ..coded() }, "pixels are yuv444p12le"),
            (Coded { profile: "LT".into(), ..coded() }, "profile is LT, the film’s HQ"),
            (Coded { sample_aspect_ratio: "4:3".into(), ..coded() }, "not square (4:3)"),
            (Coded { field_order: "tt".into(), ..coded() }, "two fields"),
            (Coded { color_range: "pc".into(), ..coded() }, "full range"),
            (Coded { color_space: "bt2020nc".into(), ..coded() }, "bt2020nc"),
            (turned, "turned"),
            (rounded, "rounded"),
        ] {
            let why = why(own).expect("apart");
            assert!(why.contains(said), "{why}");
        }
        // What a frame says itself may differ; what is said once a file may not.
        let other = Coded { extradata_hash: "other".into(), ..coded() };
        assert_eq!(other.why_apart(Codec::Rdd36, rate, &film), None);
        assert!(other.why_apart(Codec::Ffv1, rate, &film).is_some());
    }
}
