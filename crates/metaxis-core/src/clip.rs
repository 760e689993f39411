//! What is known of a clip before anything is measured: the facts read from its file.

use crate::time::{FrameRate, SampleRate, Timecode};
use jiff::{
    civil::{Date, Time},
    fmt::temporal::Pieces,
};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use strum::{EnumIter, EnumString, IntoStaticStr};
use ts_rs::TS;

/// A clip's number in its production.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, TS)]
pub struct ClipId(#[ts(type = "number")] pub i64);

/// A device's number in its production.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, TS)]
pub struct DeviceId(#[ts(type = "number")] pub i64);

/// What a remark at a file is about. Stored and reported by its name.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, EnumString, IntoStaticStr, EnumIter, TS,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum NoteCode {
    /// The file has no content.
    Empty,
    /// It cannot be decoded.
    Damaged,
    /// It has neither picture nor sound.
    NoMedia,
    /// It cannot be opened.
    Unreadable,
    /// It was passed over: no media by its name.
    Skipped,
    /// It is another file than the one that was taken in.
    Changed,
    /// What was worked out cannot be kept for the next time.
    Cache,
    /// Labels of its device contradict its sound, or each other.
    Labels,
}

/// The picture of a file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct PictureFacts {
    /// Nominal frame rate; the average where the rate varies.
    pub rate: FrameRate,
    /// False where the container's average and base rates disagree.
    pub constant_rate: bool,
    /// Width in pixels.
    pub width: u32,
    /// Height in pixels.
    pub height: u32,
    /// Codec name as the container gives it.
    pub codec: String,
    /// First frame's presentation time in the file, seconds.
    pub start_s: f64,
    /// Length of the picture, seconds.
    pub duration_s: f64,
    /// Frames where the container counts them.
    #[ts(type = "number | null")]
    pub frames: Option<i64>,
    /// A single picture that does not move.
    #[serde(default)]
    pub still: bool,
    /// How its colours are coded, where the file says so.
    #[serde(default)]
    pub colour: ColourFacts,
}

/// How colours are coded, in the words of ISO/IEC 23091-2 as probing gives them; none of what the file does not say.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct ColourFacts {
    /// The curve from light to code.
    pub transfer: Option<String>,
    /// The colours of its red, green and blue.
    pub primaries: Option<String>,
    /// From those to brightness and colour difference.
    pub matrix: Option<String>,
}

/// One sound stream of a file.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, TS)]
pub struct SoundStream {
    /// Its place among the file's sound streams.
    pub index: u32,
    /// Channels.
    pub channels: u32,
    /// How much later than the file's first sound it begins, seconds.
    pub delay_s: f64,
}

/// The sound of a file: all its sound streams of the first one's rate, channel after channel.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct SoundFacts {
    /// Samples per second, as labelled.
    pub rate: SampleRate,
    /// Number of channels.
    pub channels: u32,
    /// One name a channel where the file names them (iXML), else empty.
    pub channel_names: Vec<String>,
    /// Codec name.
    pub codec: String,
    /// First presented sample's time in the file, seconds.
    pub start_s: f64,
    /// Length of the sound, seconds.
    pub duration_s: f64,
    /// Length that the header promises, where the file ends before it, seconds.
    #[serde(default)]
    pub labelled_s: Option<f64>,
    /// The streams that make up the channels, in order; empty means one stream.
    #[serde(default)]
    pub streams: Vec<SoundStream>,
    /// Sound streams left out, since their rate is another.
    #[serde(default)]
    pub left_out: u32,
}

/// What a recorder's iXML says of its speed.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize, TS)]
pub struct SpeedLabels {
    /// Rate at which the file is meant to be played, samples a second.
    pub file_sample_rate: Option<u32>,
    /// Rate at which the converters ran, samples a second.
    pub digitizer_sample_rate: Option<u32>,
    /// Timecode frames a second.
    pub timecode_rate: Option<FrameRate>,
    /// Drop-frame counting.
    pub drop: bool,
}

/// The frames of a picture as they were decoded.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, TS)]
pub struct FrameTiming {
    /// Frames there are.
    #[ts(type = "number")]
    pub frames: u64,
    /// Shortest time from one frame to the next, seconds.
    pub shortest_s: f64,
    /// Longest time from one frame to the next, seconds.
    pub longest_s: f64,
}

impl FrameTiming {
    /// Whether the frames wander, and not only by the rounding of a container's times (Matroska: a millisecond).
    pub fn varies(&self, rate: FrameRate) -> bool {
        self.frames > 2 && self.longest_s - self.shortest_s > (0.1 / rate.as_f64()).max(0.0025)
    }
}

/// Everything read from one media file without decoding it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, TS)]
pub struct ClipFacts {
    /// Picture, where the file has one.
    pub picture: Option<PictureFacts>,
    /// Sound, where the file has any.
    pub sound: Option<SoundFacts>,
    /// Length of the clip in its own time, seconds.
    pub duration_s: f64,
    /// File timecode of the first frame.
    pub timecode: Option<Timecode>,
    /// BWF time reference: samples since midnight at the file's sample rate.
    #[ts(type = "number | null")]
    pub time_reference: Option<u64>,
    /// Creation time as the container gives it (RFC 3339 text).
    pub created: Option<String>,
    /// Reel or tape name.
    pub reel: Option<String>,
    /// Scene from iXML.
    pub scene: Option<String>,
    /// Take from iXML.
    pub take: Option<String>,
    /// Notes from iXML.
    pub notes: Option<String>,
    /// Circled (preferred) take from iXML.
    pub circled: bool,
    /// Container format.
    #[serde(default)]
    pub container: String,
    /// Speed as iXML labels it.
    #[serde(default)]
    pub speed: SpeedLabels,
    /// Everything else the file says of itself, as read.
    #[serde(default)]
    pub tags: BTreeMap<String, String>,
}

/// Years that clocks begin in.
const UNSET_YEARS: [i16; 2] = [1904, 1970];

impl ClipFacts {
    /// Picture start minus sound start, seconds: add it to a picture's own time to get the clip's time.
    /// A clip's time zero is its first sample, or its first frame where it has no sound.
    pub fn picture_delay_s(&self) -> f64 {
        match (&self.picture, &self.sound) {
            (Some(picture), Some(sound)) => picture.start_s - sound.start_s,
            _ => 0.0,
        }
    }

    /// Time of day at which the file says it begins, seconds since midnight, from the BWF time reference.
    pub fn time_reference_s(&self) -> Option<f64> {
        let sound = self.sound.as_ref()?;
        self.time_reference.map(|samples| samples as f64 / f64::from(sound.rate.0))
    }

    /// Time of day of the file's creation by the device's clock, seconds since midnight.
    pub fn created_clock_s(&self) -> Option<f64> {
        let time = time_of_day(self.created.as_deref()?)?;
        Some(time.duration_since(Time::midnight()).as_secs_f64())
    }

    /// The day of the file's creation by the device's clock. The first days that clocks count from are none: a device
    /// that was never set has them.
    pub fn created_day(&self) -> Option<Date> {
        let day = Pieces::parse(self.created.as_deref()?).ok()?.date();
        (!UNSET_YEARS.contains(&day.year())).then_some(day)
    }

    /// Time of day at which the device's own clock says the clip began, seconds since midnight: the time
    /// reference, else the creation time, else the file timecode.
    pub fn own_clock_s(&self) -> Option<f64> {
        let labelled = || self.timecode.map(|label| label.since_midnight().seconds());
        self.time_reference_s().or_else(|| self.created_clock_s()).or_else(labelled)
    }
}

/// Time of day of an RFC 3339 time, or of one without a day, as it is written (no zone is applied).
fn time_of_day(text: &str) -> Option<Time> {
    match Pieces::parse(text) {
        Ok(pieces) => pieces.time(),
        Err(_) => text.parse().ok(),
    }
}
