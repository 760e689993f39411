//! Reading what a file says of itself, without decoding it.

use crate::{
    MediaError, Stop, Tool, find_chunk, limits::check, open::open_file, parse_ixml, reader, riff::data_share,
};
use metaxis_core::{
    clip::{ClipFacts, ColourFacts, PictureFacts, SoundFacts, SoundStream},
    time::{FrameRate, SampleRate, Timecode},
};
use serde::Deserialize;
use std::{
    collections::{BTreeMap, HashMap},
    path::Path,
    time::Duration,
};

/// Most sound streams and channels taken of one file.
const MAX_STREAMS: usize = 16;
const MAX_CHANNELS: u32 = 64;
/// Most tags kept.
const MAX_TAGS: usize = 60;
/// Longest iXML chunk read, bytes.
const MAX_IXML: u64 = 1 << 20;

/// Probes one file, and reads its iXML where it is a WAV.
///
/// # Errors
/// [`MediaError`] naming the file; nothing else is disturbed.
pub fn probe(path: &Path, stop: &Stop) -> Result<ClipFacts, MediaError> {
    let read = |source| MediaError::Read { path: path.to_owned(), source };
    let size = open_file(path).and_then(|file| file.metadata()).map_err(read)?.len();
    if size == 0 {
        return Err(MediaError::Empty { path: path.to_owned() });
    }
    let json = match reader::facts(path, stop)? {
        Some(json) => json,
        None => ffprobe(path, stop)?,
    };
    let mut facts = probe_json(&json).ok_or_else(|| MediaError::NoMedia { path: path.to_owned() })?;
    if facts.container.contains("matroska")
        && let Some(sound) = &mut facts.sound
        && sound.codec == "opus"
        && let Some(start_s) = first_presented_s(path, sound, stop)?
    {
        sound.start_s = start_s;
    }
    if let (Some(sound), Ok(Some(share))) = (&mut facts.sound, data_share(path)) {
        // ffprobe goes by what is there; the header knows what there was to be.
        sound.labelled_s = (share < 1.0).then(|| sound.duration_s / share);
    }
    if let Ok(Some(chunk)) = find_chunk(path, *b"iXML", MAX_IXML) {
        let ixml = parse_ixml(&chunk);
        facts.scene = ixml.scene;
        facts.take = ixml.take;
        facts.notes = ixml.notes;
        facts.circled = ixml.circled;
        facts.reel = facts.reel.or(ixml.tape);
        facts.speed = ixml.speed;
        if let Some(sound) = &mut facts.sound {
            sound.channel_names = ixml.tracks;
            sound.channel_names.truncate(sound.channels as usize);
        }
    }
    check(path, &facts)?;
    Ok(facts)
}

fn ffprobe(path: &Path, stop: &Stop) -> Result<Vec<u8>, MediaError> {
    Tool::ffprobe(path)
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
        })
}

/// When the first sample that is presented comes. Matroska's stream start does not take the codec's delay into
/// account, which a player drops.
fn first_presented_s(path: &Path, sound: &SoundFacts, stop: &Stop) -> Result<Option<f64>, MediaError> {
    let index = sound.streams.first().map_or(0, |stream| stream.index);
    let text = Tool::ffprobe(path)
        .args(["-select_streams", &format!("a:{index}"), "-read_intervals", "%+#1"])
        .args(["-show_entries", "frame=pts_time", "-of", "csv=print_section=0"])
        .file(path)
        .within(Duration::from_secs(60))
        .output(1 << 16, stop)?;
    let text = String::from_utf8_lossy(&text);
    Ok(text.lines().find_map(|line| line.trim_end_matches(',').parse().ok()))
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
    format_name: Option<String>,
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
    color_transfer: Option<String>,
    color_primaries: Option<String>,
    color_space: Option<String>,
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
    let sound = sound(&probe.streams, whole);
    if picture.is_none() && sound.is_none() {
        return None;
    }
    // Matroska has names of tags in capital letters.
    let named = |tags: &HashMap<String, String>, name: &str| {
        let is_it = |(own, _): &(&String, &String)| own.eq_ignore_ascii_case(name);
        tags.get(name).cloned().or_else(|| tags.iter().find(is_it).map(|(_, value)| value.clone()))
    };
    let tag = |name: &str| {
        let in_streams = || probe.streams.iter().find_map(|s| named(&s.tags, name));
        named(&probe.format.tags, name).or_else(in_streams)
    };
    let rate = picture.as_ref().map_or(FrameRate::FPS_25, |p| p.rate.snapped());
    let length = |p: Option<f64>, s: Option<f64>| s.or(p).unwrap_or(whole);
    Some(ClipFacts {
        duration_s: length(picture.as_ref().map(|p| p.duration_s), sound.as_ref().map(|s| s.duration_s)),
        timecode: tag("timecode").and_then(|text| Timecode::parse(&text, counted(&probe, rate)).ok()),
        // What counts no time writes 0; nothing begins at midnight to the sample.
        time_reference: tag("time_reference").and_then(|text| text.parse().ok()).filter(|count| *count > 0),
        created: created(tag("creation_time"), tag("date")),
        reel: tag("reel_name"),
        container: probe.format.format_name.clone().unwrap_or_default(),
        tags: tags(&probe),
        picture,
        sound,
        ..ClipFacts::default()
    })
}

/// The rate at which a file's timecode track counts; the picture's where there is none that says it.
fn counted(probe: &Probe, picture: FrameRate) -> FrameRate {
    let is_track = |stream: &&Stream| {
        stream.codec_type.as_deref() == Some("data") && stream.tags.contains_key("timecode")
    };
    let said = probe.streams.iter().find(is_track).and_then(|track| track.avg_frame_rate.as_ref());
    let rate: Option<FrameRate> = said.and_then(|text| text.parse().ok());
    rate.map(FrameRate::snapped).filter(|rate| COUNTED_FPS.contains(&rate.as_f64())).unwrap_or(picture)
}

/// Timecode counts so many frames a second.
const COUNTED_FPS: std::ops::Range<f64> = 23.0..121.0;

fn picture(stream: &Stream, whole: f64) -> Option<PictureFacts> {
    let rate = |text: &Option<String>| text.as_ref()?.parse::<FrameRate>().ok();
    let average = rate(&stream.avg_frame_rate).or_else(|| rate(&stream.r_frame_rate))?;
    let base = rate(&stream.r_frame_rate).unwrap_or(average);
    let constant_rate = (average.as_f64() / base.as_f64() - 1.0).abs() < 2e-3;
    Some(PictureFacts {
        rate: if constant_rate { base.snapped() } else { average },
        still: is_still(stream, whole),
        constant_rate,
        width: stream.width?,
        height: stream.height?,
        codec: stream.codec_name.clone().unwrap_or_default(),
        start_s: number(stream.start_time.as_ref()).unwrap_or(0.0),
        duration_s: number(stream.duration.as_ref()).unwrap_or(whole),
        frames: stream.nb_frames.as_ref().and_then(|n| n.parse().ok()),
        colour: ColourFacts {
            transfer: coded(stream.color_transfer.as_ref()),
            primaries: coded(stream.color_primaries.as_ref()),
            matrix: coded(stream.color_space.as_ref()),
        },
    })
}

/// A word for how colours are coded; nothing where it says that it does not know, or is no such word.
fn coded(word: Option<&String>) -> Option<String> {
    let is_word = |own: &&String| {
        own.len() <= 32 && own.chars().all(|c| c.is_ascii_alphanumeric() || "-_.".contains(c))
    };
    word.filter(is_word)
        .filter(|own| !matches!(own.as_str(), "unknown" | "unspecified" | "reserved"))
        .cloned()
}

/// A PNG, a JPEG or the like: one picture, no length.
fn is_still(stream: &Stream, whole: f64) -> bool {
    const CODECS: [&str; 6] = ["png", "mjpeg", "tiff", "bmp", "webp", "gif"];
    let codec = stream.codec_name.as_deref().unwrap_or_default();
    CODECS.contains(&codec) && whole < 0.1 && stream.nb_frames.as_deref().is_none_or(|n| n == "1")
}

/// All sound streams of the first one's rate.
fn sound(streams: &[Stream], whole: f64) -> Option<SoundFacts> {
    let rate_of = |stream: &Stream| stream.sample_rate.as_ref()?.parse().ok().filter(|rate: &u32| *rate > 0);
    let all: Vec<(u32, &Stream, u32)> = streams
        .iter()
        .filter(|stream| stream.codec_type.as_deref() == Some("audio"))
        .zip(0..)
        .filter_map(|(stream, index)| {
            Some((index, stream, stream.channels.filter(|n| *n > 0 && *n <= MAX_CHANNELS)?))
        })
        .collect();
    let (rate, first) = all.iter().find_map(|(_, stream, _)| Some((rate_of(stream)?, *stream)))?;
    let joined: Vec<_> =
        all.iter().filter(|(_, stream, _)| rate_of(stream) == Some(rate)).take(MAX_STREAMS).collect();
    let start = |stream: &Stream| number(stream.start_time.as_ref()).unwrap_or(0.0);
    let start_s = joined.iter().map(|(_, stream, _)| start(stream)).fold(f64::MAX, f64::min);
    let end = |stream: &Stream| start(stream) + number(stream.duration.as_ref()).unwrap_or(whole);
    let end_s = joined.iter().map(|(_, stream, _)| end(stream)).fold(f64::MIN, f64::max);
    let stream = |&&(index, stream, channels): &&(u32, &Stream, u32)| SoundStream {
        index,
        channels,
        delay_s: start(stream) - start_s,
    };
    Some(SoundFacts {
        rate: SampleRate(rate),
        channels: joined.iter().map(|(_, _, channels)| *channels).fold(0, u32::saturating_add),
        channel_names: vec![],
        codec: first.codec_name.clone().unwrap_or_default(),
        start_s,
        duration_s: end_s - start_s,
        labelled_s: None,
        left_out: (all.len() - joined.len()) as u32,
        streams: joined.iter().map(stream).collect(),
    })
}

/// When a file says it was made: broadcast WAV has the date and the time of day apart.
fn created(time: Option<String>, date: Option<String>) -> Option<String> {
    let time = time?;
    if time.contains(['T', ' ']) {
        return Some(time);
    }
    // EBU Tech 3285 leaves open what stands between the digits.
    let parted = |text: &str, by: char| -> String {
        text.chars().map(|c| if c.is_ascii_digit() { c } else { by }).collect()
    };
    Some(format!("{}T{}", parted(&date.unwrap_or_default(), '-'), parted(&time, ':')))
}

/// What else the file says, for a person to read.
fn tags(probe: &Probe) -> BTreeMap<String, String> {
    let short =
        |text: &str, most: usize| text.chars().filter(|c| !c.is_control()).take(most).collect::<String>();
    let streams = probe.streams.iter().flat_map(|stream| &stream.tags);
    let all = streams.chain(&probe.format.tags);
    all.filter(|(name, _)| !name.starts_with("iXML") && !name.starts_with("umid"))
        .map(|(name, value)| (short(name, 40), short(value, 200)))
        .take(MAX_TAGS)
        .collect()
}
