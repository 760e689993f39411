//! A day as tables: comma-separated values after RFC 4180, in UTF-8 with its mark, so that spreadsheets read the letters.

use super::Origin;
use crate::{
    clip::ClipFacts,
    signal::ChannelState,
    sync::{Placement, Stretch, Verdict, runs},
    time::{FrameRate, Tick, Timecode},
};
use std::collections::BTreeMap;

/// A clip as logs tell it.
#[derive(Debug, Clone, Default)]
pub struct LoggedClip {
    /// Path below the folder that was taken in.
    pub path: String,
    /// Its device.
    pub device: String,
    /// Shoot day, where it is known.
    pub day: Option<String>,
    /// The part that it takes, in words.
    pub part: String,
    /// What its file says.
    pub facts: ClipFacts,
    /// What else is known of it.
    pub origin: Origin,
    /// What its channels carry, where they were listened to.
    pub channels: Vec<ChannelState>,
    /// Its place, where a pass gave it one.
    pub placement: Option<Placement>,
    /// Label of its first frame or sample in the day, where it has a place.
    pub starts: Option<String>,
    /// What a person did about its place, in words.
    pub looked: Option<String>,
    /// What is wrong with it, in sentences.
    pub health: Vec<String>,
}

impl LoggedClip {
    /// How much later its last picture would be than the sound if its clock were left alone, in frames of its own (of 40 ms where
    /// it has no picture); `None` where it has no place, or runs at another speed.
    pub fn end_error_frames(&self) -> Option<f64> {
        let stretches = &self.placement.as_ref()?.stretches;
        if stretches.is_empty() || stretches.iter().any(|own| own.retimed().is_some()) {
            return None;
        }
        let frame_s = self.facts.picture.as_ref().map_or(0.04, |own| 1.0 / own.rate.as_f64());
        let late_s: f64 = stretches
            .iter()
            .map(|own| (own.clip_end_s - own.clip_start_s) - (own.end_s() - own.start_s))
            .sum();
        Some(late_s / frame_s)
    }

    /// How much faster its clock runs than that of the axis, parts in a million: the mean of its stretches.
    pub fn rate_ppm(&self) -> Option<f64> {
        let stretches = &self.placement.as_ref()?.stretches;
        let length = |own: &Stretch| own.clip_end_s - own.clip_start_s;
        let whole: f64 = stretches.iter().map(length).sum();
        let weighed: f64 = stretches.iter().map(|own| own.rate_ppm * length(own)).sum();
        (whole > 0.0).then(|| weighed / whole)
    }
}

/// The label of the day at which a clip begins, counted as its pictures are; `zero` is the time of day at the axis's zero. `None`
/// where it has no place.
pub fn starts(placement: &Placement, zero: Tick, facts: &ClipFacts) -> Option<String> {
    let first = placement.stretches.first()?;
    let rate = facts.picture.as_ref().map_or(FrameRate::FPS_25, |own| own.rate);
    let moment = Tick::from_seconds(first.start_s) + zero;
    let drop = facts.timecode.is_some_and(|own| own.drop);
    Some(Timecode::new(moment.frame(rate), rate, drop).to_string())
}

/// A verdict in a word.
pub fn verdict_word(verdict: Verdict) -> &'static str {
    match verdict {
        Verdict::Solid => "solid",
        Verdict::Check => "to be checked",
        Verdict::Unplaced => "without a place",
        Verdict::ByHand => "by hand",
    }
}

/// Every clip with what its file says.
pub fn clips_log(clips: &[LoggedClip]) -> String {
    let head = [
        "File",
        "Device",
        "Day",
        "Part",
        "Scene",
        "Take",
        "Circled",
        "Notes",
        "Reel",
        "Timecode",
        "Drop-frame",
        "Time reference",
        "Length s",
        "Picture",
        "Width",
        "Height",
        "Rate",
        "Frames",
        "Sound",
        "Channels",
        "Sample rate",
        "Fingerprint",
    ];
    table(
        &head,
        clips.iter().map(|own| {
            let (facts, origin) = (&own.facts, &own.origin);
            let picture = facts.picture.as_ref();
            let sound = facts.sound.as_ref();
            vec![
                own.path.clone(),
                own.device.clone(),
                said(&own.day),
                own.part.clone(),
                said(&origin.scene),
                said(&origin.take),
                yes(origin.circled),
                said(&origin.notes),
                said(&facts.reel),
                said(&facts.timecode),
                facts.timecode.map_or_else(String::new, |own| yes(own.drop)),
                said(&facts.time_reference),
                format!("{:.3}", facts.duration_s),
                picture.map_or_else(String::new, |own| own.codec.clone()),
                said(&picture.map(|own| own.width)),
                said(&picture.map(|own| own.height)),
                said(&picture.map(|own| own.rate)),
                said(&picture.and_then(|own| own.frames)),
                sound.map_or_else(String::new, |own| own.codec.clone()),
                said(&sound.map(|own| own.channels)),
                said(&sound.map(|own| own.rate.0)),
                said(&origin.fingerprint),
            ]
        }),
    )
}

/// Every clip with its place and why it is there.
pub fn sync_log(clips: &[LoggedClip]) -> String {
    let head = [
        "File",
        "Device",
        "Verdict",
        "Confidence",
        "Island",
        "Starts",
        "Start s",
        "Clock ppm",
        "End off frames",
        "Breaks",
        "Distance m",
        "Looked at",
        "Why",
        "Health",
    ];
    table(
        &head,
        clips.iter().map(|own| {
            let placed = own.placement.as_ref();
            let first = placed.and_then(|own| own.stretches.first());
            vec![
                own.path.clone(),
                own.device.clone(),
                placed.map_or("takes no part", |own| verdict_word(own.verdict)).to_owned(),
                placed.map_or_else(String::new, |own| format!("{:.3}", own.confidence)),
                said(&placed.map(|own| own.component)),
                said(&own.starts),
                first.map_or_else(String::new, |own| format!("{:.6}", own.start_s)),
                own.rate_ppm().map_or_else(String::new, |own| format!("{own:.2}")),
                own.end_error_frames().map_or_else(String::new, |own| format!("{own:.2}")),
                said(&placed.map(|own| runs(&own.stretches).count().saturating_sub(1))),
                own.origin.distance_m.map_or_else(String::new, |own| format!("{own:.1}")),
                said(&own.looked),
                placed.map_or_else(String::new, |own| own.reasons.join(" ")),
                own.health.join(" "),
            ]
        }),
    )
}

/// Every channel of every clip, and what it carries.
pub fn channels_log(clips: &[LoggedClip]) -> String {
    let head = [
        "File",
        "Device",
        "Channel",
        "Of",
        "Name",
        "Peak dBFS",
        "Level dBFS",
        "Clipped samples",
        "Audio timecode",
    ];
    let rows = clips.iter().flat_map(|own| {
        let sound = own.facts.sound.as_ref();
        let count = sound.map_or(0, |own| own.channels);
        (0..count as usize).map(move |channel| {
            let state = own.channels.get(channel);
            let name = sound.and_then(|own| own.channel_names.get(channel)).cloned();
            vec![
                own.path.clone(),
                own.device.clone(),
                (channel + 1).to_string(),
                count.to_string(),
                name.unwrap_or_default(),
                state.map_or_else(String::new, |own| format!("{:.1}", own.peak_dbfs)),
                state.map_or_else(String::new, |own| format!("{:.1}", own.rms_dbfs)),
                said(&state.map(|own| own.clipped)),
                state.map_or_else(String::new, |own| yes(own.audio_timecode.is_some())),
            ]
        })
    });
    table(&head, rows)
}

/// Every take with what was recorded of it.
pub fn takes_log(clips: &[LoggedClip]) -> String {
    let mut takes: BTreeMap<(String, String), Vec<&LoggedClip>> = BTreeMap::new();
    for own in clips {
        if let Some(scene) = &own.origin.scene {
            takes.entry((scene.clone(), own.origin.take.clone().unwrap_or_default())).or_default().push(own);
        }
    }
    let head = ["Scene", "Take", "Circled", "Notes", "Starts", "Length s", "Pictures", "Sounds"];
    let rows = takes.into_iter().map(|((scene, take), own)| {
        let files = |is_picture: bool| {
            let of = own.iter().filter(|own| own.facts.picture.is_some() == is_picture);
            of.map(|own| own.path.as_str()).collect::<Vec<_>>().join(" ")
        };
        let mut notes: Vec<&str> = own.iter().filter_map(|own| own.origin.notes.as_deref()).collect();
        notes.dedup();
        let starts = own.iter().filter_map(|own| own.starts.clone()).min();
        let longest = own.iter().map(|own| own.facts.duration_s).fold(0.0, f64::max);
        vec![
            scene,
            take,
            yes(own.iter().any(|own| own.origin.circled)),
            notes.join(" "),
            starts.unwrap_or_default(),
            format!("{longest:.3}"),
            files(true),
            files(false),
        ]
    });
    table(&head, rows)
}

fn said(own: &Option<impl ToString>) -> String {
    own.as_ref().map_or_else(String::new, ToString::to_string)
}

fn yes(own: bool) -> String {
    if own { "yes" } else { "" }.to_owned()
}

/// A cell that no spreadsheet takes for something to reckon: one that begins as a formula does has an apostrophe before it.
fn cell(text: String) -> String {
    let begins = text.starts_with(['=', '+', '-', '@', '\t', '\r']);
    if begins && text.parse::<f64>().is_err() { format!("'{text}") } else { text }
}

fn table(head: &[&str], rows: impl Iterator<Item = Vec<String>>) -> String {
    let mut writer = csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(vec![]);
    // Nothing can fail in memory; of rows all are as long as the head.
    let _ = writer.write_record(head);
    for row in rows {
        let _ = writer.write_record(row.into_iter().map(cell));
    }
    let bytes = writer.into_inner().unwrap_or_default();
    format!("\u{feff}{}", String::from_utf8_lossy(&bytes))
}
