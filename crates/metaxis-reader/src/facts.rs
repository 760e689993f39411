//! What a file says of itself, in the form in which ffprobe says it.

use crate::input;
use ffmpeg_next::{
    Rational, codec, ffi::AV_NOPTS_VALUE, format::stream::Disposition, format::stream::Stream, media::Type,
};
use serde_json::{Map, Value, json};

/// JSON with `streams` and `format`.
///
/// # Errors
/// Why it cannot be said: the file is no media, or holds a stream that nothing here decodes.
pub fn read(path: &str) -> Result<Vec<u8>, String> {
    let input = input::open(path)?;
    let streams = input.streams().map(|stream| self::stream(&stream)).collect::<Result<Vec<_>, _>>()?;
    let mut format = json!({ "format_name": input.format().name(), "tags": tags(input.metadata().iter()) });
    if input.duration() != AV_NOPTS_VALUE {
        format["duration"] = seconds(input.duration(), Rational(1, 1_000_000));
    }
    serde_json::to_vec(&json!({ "streams": streams, "format": format })).map_err(|e| e.to_string())
}

fn stream(stream: &Stream) -> Result<Value, String> {
    let parameters = stream.parameters();
    let mut said = json!({
        "codec_type": kind(parameters.medium()),
        "codec_name": parameters.id().name(),
        "avg_frame_rate": fraction(stream.avg_frame_rate()),
        "r_frame_rate": fraction(stream.rate()),
        "disposition": { "attached_pic": i64::from(stream.disposition().contains(Disposition::ATTACHED_PIC)) },
        "tags": tags(stream.metadata().iter()),
    });
    for (name, value) in [("start_time", stream.start_time()), ("duration", stream.duration())] {
        if value != AV_NOPTS_VALUE {
            said[name] = seconds(value, stream.time_base());
        }
    }
    if stream.frames() > 0 {
        said["nb_frames"] = stream.frames().to_string().into();
    }
    let decoder = || {
        codec::Context::from_parameters(stream.parameters())
            .map(codec::Context::decoder)
            .map_err(|e| e.to_string())
    };
    match parameters.medium() {
        Type::Video => {
            let video = decoder()?.video().map_err(|e| e.to_string())?;
            said["width"] = video.width().into();
            said["height"] = video.height().into();
            let coded = [
                ("color_transfer", video.color_transfer_characteristic().name()),
                ("color_primaries", video.color_primaries().name()),
                ("color_space", video.color_space().name()),
            ];
            for (name, value) in coded {
                said[name] = value.into();
            }
        }
        Type::Audio => {
            let audio = decoder()?.audio().map_err(|e| e.to_string())?;
            said["channels"] = audio.channels().into();
            said["sample_rate"] = audio.rate().to_string().into();
        }
        _ => {}
    }
    Ok(said)
}

fn kind(medium: Type) -> &'static str {
    match medium {
        Type::Video => "video",
        Type::Audio => "audio",
        Type::Data => "data",
        Type::Subtitle => "subtitle",
        Type::Attachment => "attachment",
        Type::Unknown => "unknown",
    }
}

fn fraction(rate: Rational) -> String {
    format!("{}/{}", rate.numerator(), rate.denominator())
}

fn seconds(value: i64, base: Rational) -> Value {
    format!("{:.6}", value as f64 * f64::from(base)).into()
}

fn tags<'a>(all: impl Iterator<Item = (&'a str, &'a str)>) -> Map<String, Value> {
    all.map(|(name, value)| (name.to_owned(), value.into())).collect()
}
