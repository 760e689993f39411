//! How ffmpeg is told to code pictures, and what it can.

use super::{pixels::Pixels, spec::FilmSpec};
use metaxis_core::film::{Codec, FilmForm, Grade, Wrapper};
use std::{
    process::{Command, Stdio},
    sync::OnceLock,
};
use strum::IntoEnumIterator;

/// The coder of each codec, as ffmpeg calls it.
fn coder(codec: Codec) -> &'static str {
    match codec {
        Codec::H264 => "libx264",
        Codec::H265 => "libx265",
        Codec::Av1 => "libsvtav1",
        Codec::Vc3 => "dnxhd",
        Codec::Rdd36 => "prores_ks",
        Codec::Ffv1 => "ffv1",
    }
}

/// What this machine can code, in the order of the codecs.
pub fn codecs_offered() -> Vec<Codec> {
    static OFFERED: OnceLock<String> = OnceLock::new();
    let list = OFFERED.get_or_init(|| {
        let asked = Command::new("ffmpeg")
            .args(["-hide_banner", "-nostdin", "-encoders"])
            .stdin(Stdio::null())
            .stderr(Stdio::null())
            .output();
        asked.map(|own| String::from_utf8_lossy(&own.stdout).into_owned()).unwrap_or_default()
    });
    let knows =
        |codec: &Codec| list.lines().any(|line| line.split_whitespace().nth(1) == Some(coder(*codec)));
    Codec::iter().filter(knows).collect()
}

impl Pixels {
    /// As a codec takes them.
    pub fn for_film(form: &FilmForm, (width, height): (u32, u32)) -> Self {
        let deep = matches!(form.codec, Codec::Rdd36 | Codec::Ffv1);
        Self { width, height, deep, every_row: deep || form.codec == Codec::Vc3 }
    }
}

/// What holds a piece until all are there.
pub(super) fn piece_wrapper(codec: Codec) -> &'static str {
    // AV1 is at home in the one and not in the other.
    if matches!(codec, Codec::Av1 | Codec::H265) { "mp4" } else { "mov" }
}

/// So often a frame stands by itself where others need one, seconds: who looks for a place is there at once.
const KEY_S: f64 = 2.0;

/// Arguments that code the pictures of a film.
pub(super) fn arguments(spec: &FilmSpec) -> Vec<String> {
    let FilmSpec { form, profile, rate, .. } = spec;
    let group = (KEY_S * rate.as_f64()).round().to_string();
    let pick = |small: &'static str, good: &'static str, fine: &'static str| match form.grade {
        Grade::Small => small,
        Grade::Good => good,
        Grade::Fine | Grade::Recorded => fine,
    };
    // Beside what is copied, each frame that stands by itself is told how the others are coded.
    let in_stream = form.grade == Grade::Recorded;
    let own: Vec<&str> = match form.codec {
        Codec::H264 => {
            let headers = if in_stream { "repeat-headers=1" } else { "repeat-headers=0" };
            let crf = pick("27", "20", "15");
            let preset = pick("veryfast", "veryfast", "medium");
            vec!["-preset", preset, "-crf", crf, "-g", &group, "-x264-params", headers]
        }
        Codec::H265 => {
            let crf = pick("30", "24", "18");
            vec![
                "-preset",
                pick("veryfast", "fast", "medium"),
                "-crf",
                crf,
                "-g",
                &group,
                "-x265-params",
                if in_stream { "log-level=error:repeat-headers=1" } else { "log-level=error" },
                "-tag:v",
                "hvc1",
            ]
        }
        Codec::Av1 => vec!["-preset", pick("12", "10", "8"), "-crf", pick("45", "35", "25")],
        Codec::Vc3 => vec!["-profile:v", profile.unwrap_or(pick("dnxhr_lb", "dnxhr_sq", "dnxhr_hq"))],
        Codec::Rdd36 => {
            let own = profile.unwrap_or(pick("proxy", "standard", "hq"));
            vec!["-profile:v", own, "-vendor", "fmpg"]
        }
        Codec::Ffv1 => vec!["-level", "3", "-g", "1", "-slices", "16", "-slicecrc", "1"],
    };
    let colours =
        ["-color_primaries", "bt709", "-color_trc", "bt709", "-colorspace", "bt709", "-color_range", "tv"];
    ["-c:v", coder(form.codec)].into_iter().chain(own).chain(colours).map(str::to_owned).collect()
}

/// About how many bytes a film of so many frames takes, its sound apart.
pub fn film_bytes(form: &FilmForm, (width, height): (u32, u32), frames: i64) -> u64 {
    let pick = |small: f64, good: f64, fine: f64| match form.grade {
        Grade::Small => small,
        Grade::Good => good,
        Grade::Fine | Grade::Recorded => fine,
    };
    // Bits a pixel, on the high side of what is usual.
    let bits = match form.codec {
        Codec::H264 => pick(0.08, 0.2, 0.5),
        Codec::H265 => pick(0.05, 0.13, 0.35),
        Codec::Av1 => pick(0.05, 0.12, 0.3),
        Codec::Vc3 => pick(0.8, 2.5, 3.8),
        Codec::Rdd36 => pick(0.9, 2.5, 3.8),
        Codec::Ffv1 => 9.0,
    };
    (f64::from(width) * f64::from(height) * frames.max(0) as f64 * bits / 8.0) as u64
}

/// How ffmpeg calls what holds a film.
pub(super) fn muxer(wrapper: Wrapper) -> &'static [&'static str] {
    match wrapper {
        Wrapper::Mp4 => &["-movflags", "+faststart+use_metadata_tags", "-f", "mp4"],
        Wrapper::Mov => &["-movflags", "use_metadata_tags", "-f", "mov"],
        Wrapper::Mxf => &["-f", "mxf"],
        Wrapper::Atom => &["-f", "mxf_opatom"],
        Wrapper::Mkv => &["-f", "matroska"],
    }
}
