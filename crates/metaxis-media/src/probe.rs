//! Reading what a file says of itself, without decoding it.

use crate::{MediaError, Stop, Tool, find_chunk, parse_ixml};
use metaxis_core::{
    clip::{ClipFacts, PictureFacts, SoundFacts},
    time::{FrameRate, SampleRate, Timecode},
};
use serde::Deserialize;
use std::{collections::HashMap, path::Path, time::Duration};

/// Longest iXML chunk read, bytes.
const MAX_IXML: u64 = 1 << 20;

/// Probes one file with ffprobe, and its iXML where it is a WAV.
///
/// # Errors
/// [`MediaError`] naming the file; nothing else is disturbed.
pub fn probe(path: &Path, stop: &Stop) -> Result<ClipFacts, MediaError> {
    let size =
        std::fs::metadata(path).map_err(|source| MediaError::Read { path: path.to_owned(), source })?.len();
    if size == 0 {
        return Err(MediaError::Empty { path: path.to_owned() });
    }
    let json = Tool::ffprobe(path)
        .args(["-print_format", "json", "-show_format", "-show_streams"])
        .file(path)
        .within(Duration::from_secs(60))
        .output(4 << 20, stop)
        .map_err(|e| match e {
            MediaError::Tool { detail, .. } if !detail.contains("cannot be started") => MediaError::Damaged {
                path: path.to_owned(),
                detail: detail.rsplit(": ").next().unwrap_or("unreadable").to_owned(),
            },
            other => other,
        })?;
    let mut facts = probe_json(&json).ok_or_else(|| MediaError::NoMedia { path: path.to_owned() })?;
    if let Ok(Some(chunk)) = find_chunk(path, *b"iXML", MAX_IXML) {
        let ixml = parse_ixml(&chunk);
        facts.scene = ixml.scene;
        facts.take = ixml.take;
        facts.notes = ixml.notes;
        facts.circled = ixml.circled;
        facts.reel = facts.reel.or(ixml.tape);
        if let Some(sound) = &mut facts.sound {
            sound.channel_names = ixml.tracks;
        }
    }
    Ok(facts)
}

#[derive(Deserialize)]
struct Probe {
    #[serde(default)]
    streams: Vec<Stream>,
    #[serde(default)]
    format: Format,
}

#[derive(Deserialize, Default)]
struct Format {
    duration: Option<String>,
    #[serde(default)]
    tags: HashMap<String, String>,
}

#[derive(Deserialize)]
struct Stream {
    codec_type: Option<String>,
    codec_name: Option<String>,
    width: Option<u32>,
    height: Option<u32>,
    avg_frame_rate: Option<String>,
    r_frame_rate: Option<String>,
    start_time: Option<String>,
    duration: Option<String>,
    nb_frames: Option<String>,
    sample_rate: Option<String>,
    channels: Option<u32>,
    #[serde(default)]
    disposition: HashMap<String, i64>,
    #[serde(default)]
    tags: HashMap<String, String>,
}

fn number(text: Option<&String>) -> Option<f64> {
    text.and_then(|t| t.parse().ok()).filter(|n: &f64| n.is_finite())
}

/// The facts in ffprobe's JSON; `None` where it holds neither picture nor sound, or is no JSON.
pub fn probe_json(json: &[u8]) -> Option<ClipFacts> {
    let probe: Probe = serde_json::from_slice(json).ok()?;
    let whole = number(probe.format.duration.as_ref()).unwrap_or(0.0);
    let of_kind = |kind: &str| {
        probe.streams.iter().find(|s| {
            s.codec_type.as_deref() == Some(kind)
                && s.disposition.get("attached_pic").copied().unwrap_or(0) == 0
        })
    };
    let picture = of_kind("video").and_then(|stream| picture(stream, whole));
    let sound = of_kind("audio").and_then(|stream| sound(stream, whole));
    if picture.is_none() && sound.is_none() {
        return None;
    }
    let tag = |name: &str| {
        let in_streams = probe.streams.iter().find_map(|s| s.tags.get(name));
        probe.format.tags.get(name).or(in_streams).cloned()
    };
    let rate = picture.as_ref().map_or(FrameRate::FPS_25, |p| p.rate.snapped());
    let length = |p: Option<f64>, s: Option<f64>| s.or(p).unwrap_or(whole);
    Some(ClipFacts {
        duration_s: length(picture.as_ref().map(|p| p.duration_s), sound.as_ref().map(|s| s.duration_s)),
        timecode: tag("timecode").and_then(|text| Timecode::parse(&text, rate).ok()),
        time_reference: tag("time_reference").and_then(|text| text.parse().ok()),
        created: tag("creation_time").or_else(|| Some(format!("{}T{}", tag("date")?, tag("creation_time")?))),
        reel: tag("reel_name"),
        picture,
        sound,
        ..ClipFacts::default()
    })
}

fn picture(stream: &Stream, whole: f64) -> Option<PictureFacts> {
    let rate = |text: &Option<String>| text.as_ref()?.parse::<FrameRate>().ok();
    let average = rate(&stream.avg_frame_rate).or_else(|| rate(&stream.r_frame_rate))?;
    let base = rate(&stream.r_frame_rate).unwrap_or(average);
    let constant_rate = (average.as_f64() / base.as_f64() - 1.0).abs() < 2e-3;
    Some(PictureFacts {
        rate: if constant_rate { base.snapped() } else { average },
        constant_rate,
        width: stream.width?,
        height: stream.height?,
        codec: stream.codec_name.clone().unwrap_or_default(),
        start_s: number(stream.start_time.as_ref()).unwrap_or(0.0),
        duration_s: number(stream.duration.as_ref()).unwrap_or(whole),
        frames: stream.nb_frames.as_ref().and_then(|n| n.parse().ok()),
    })
}

fn sound(stream: &Stream, whole: f64) -> Option<SoundFacts> {
    Some(SoundFacts {
        rate: SampleRate(stream.sample_rate.as_ref()?.parse().ok().filter(|rate| *rate > 0)?),
        channels: stream.channels.filter(|n| *n > 0)?,
        channel_names: vec![],
        codec: stream.codec_name.clone().unwrap_or_default(),
        start_s: number(stream.start_time.as_ref()).unwrap_or(0.0),
        duration_s: number(stream.duration.as_ref()).unwrap_or(whole),
    })
}
