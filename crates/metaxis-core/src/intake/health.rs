//! What will hurt later, said at intake: rules over what the files say and what was heard.

use super::{health_clip::clip_notes, health_device::device_notes, health_late::late_channels};
use crate::{
    clip::{ClipFacts, ClipId, DeviceId, FrameTiming},
    signal::{ChannelState, LostSound},
};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A device as far as health is concerned.
#[derive(Debug, Clone)]
pub struct HealthDevice {
    /// The device.
    pub id: DeviceId,
    /// Letter and name, as it is spoken of: `C Gallery`.
    pub called: String,
}

/// A clip as far as health is concerned.
#[derive(Debug, Clone)]
pub struct HealthClip<'a> {
    /// The clip.
    pub id: ClipId,
    /// Its device.
    pub device: DeviceId,
    /// File name.
    pub name: &'a str,
    /// What the file says.
    pub facts: &'a ClipFacts,
    /// Fingerprint of its content.
    pub fingerprint: &'a str,
    /// Whether it takes part in the sync.
    pub takes_part: bool,
    /// Its channels and the samples of each, once listened to.
    pub heard: Option<(&'a [ChannelState], u64)>,
    /// What of its sound could not be decoded.
    pub lost: &'a [LostSound],
    /// Its frames, once they were decoded.
    pub timing: Option<FrameTiming>,
    /// Time of day at which a pass put its start, by the reference's clock.
    pub placed_clock_s: Option<f64>,
}

/// How much a note matters.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Weight {
    /// Something is lost or wrong already.
    Fault,
    /// It will hurt later if nothing is done.
    Hurts,
    /// Good to know; nothing to do.
    Know,
}

/// Kinds of notes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum HealthKind {
    /// The file could not be read.
    Damaged,
    /// The file is not what was taken in.
    Changed,
    /// Less in the file than its header promises.
    ShorterThanLabel,
    /// Sound in the middle that cannot be decoded.
    SoundLost,
    /// The same content under two names.
    Duplicate,
    /// Frame times wander.
    VaryingRate,
    /// A time-lapse, or a rate that no group can have.
    RateOutside,
    /// Cameras run at different frame rates.
    MixedRates,
    /// A sample rate unlike the rest of the day.
    OddSampleRate,
    /// The sound runs at another speed than its label.
    WrongSpeed,
    /// A device's clock is off.
    ClockOff,
    /// File timecode that begins anew with every clip.
    TimecodeStands,
    /// Timecode that jumps.
    TimecodeJumps,
    /// A timecode rate unlike the pictures'.
    TimecodeRate,
    /// Cameras of which some count drop-frame and others do not.
    MixedCounting,
    /// Audio timecode on a channel.
    AudioTimecode,
    /// No channel carries any sound.
    SilentClip,
    /// One channel carries nothing.
    DeadChannel,
    /// A channel carries nothing but hum, a tone or steady noise.
    SteadyChannel,
    /// A channel hears later than another of the same file.
    LateChannel,
    /// One channel carries hardly anything.
    QuietChannel,
    /// Cut off at full scale.
    Clipped,
    /// Samples that are no numbers.
    NoNumbers,
    /// Sound streams that are left out.
    StreamLeftOut,
    /// Sound and picture end apart.
    UnevenEnds,
    /// Frames missing within a span.
    SpanGap,
    /// A slated take without a recorder's sound.
    SoundMissing,
    /// A recorder's sound that ends before its picture.
    SoundEnds,
    /// Slate log, names and recorder disagree.
    SlateClash,
}

/// One note: for which clips, what, what it means, what to do.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct HealthNote {
    /// Stays the same as long as the note is about the same thing; what is set aside is kept by it.
    pub key: String,
    /// Kind.
    pub kind: HealthKind,
    /// How much it matters.
    pub weight: Weight,
    /// The clips it is about; empty where it is about a file that is no clip.
    pub clips: Vec<ClipId>,
    /// What was found.
    pub what: String,
    /// What it means for the work to come.
    pub means: String,
    /// What to do.
    pub todo: String,
}

impl HealthNote {
    /// A note about clips; `about` tells it from others of its kind.
    pub fn new(kind: HealthKind, weight: Weight, about: &str, clips: &[ClipId], text: [String; 3]) -> Self {
        let [what, means, todo] = text;
        let word = serde_json::to_value(kind).ok();
        let word = word.as_ref().and_then(serde_json::Value::as_str).unwrap_or("note");
        Self { key: format!("{word}:{about}"), kind, weight, clips: clips.to_vec(), what, means, todo }
    }
}

/// All notes of a day: the worst first, then in the order of the clips.
pub fn health(clips: &[HealthClip], devices: &[HealthDevice]) -> Vec<HealthNote> {
    let mut notes: Vec<HealthNote> = clips.iter().flat_map(clip_notes).collect();
    notes.extend(device_notes(clips, devices));
    notes.extend(late_channels(clips, devices));
    notes.sort_by_key(|note| (note.weight, note.clips.first().copied(), note.kind));
    notes
}
