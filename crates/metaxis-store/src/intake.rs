//! What is chosen and concluded at intake, as the store hands it out. These types are the API's too.

use crate::Part;
use metaxis_core::{
    clip::{ClipId, DeviceId},
    intake::{HealthNote, SlateLog},
    lut::LutKey,
    sync::EvidenceKind,
};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Where a clip's scene and take come from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum SlateSource {
    /// A person set them.
    Hand,
    /// The slate log.
    Log,
    /// The file itself (iXML).
    File,
}

/// A chain of files that is one recording.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct SpanView {
    /// Its clips, in order.
    pub clips: Vec<ClipId>,
    /// Seconds missing between each and the next, as the shown pass measured them.
    pub gaps_s: Vec<Option<f64>>,
    /// The same in frames of the picture.
    pub gaps_frames: Vec<Option<f64>>,
}

/// A slate log that was taken.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct StoredLog {
    /// Name of its file.
    pub name: String,
    /// Its takes.
    pub log: SlateLog,
}

/// A health note, and whether it was set aside.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct HealthView {
    /// The note.
    pub note: HealthNote,
    /// Set aside by a person.
    pub aside: bool,
}

/// What is marked of one clap in a clip, in microseconds of the clip's own time.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct SlateMarkView {
    /// The moment the sticks close in the picture; it may lie between two frames.
    #[ts(type = "number | null")]
    pub picture_us: Option<i64>,
    /// The peak of the clap in the sound.
    #[ts(type = "number | null")]
    pub sound_us: Option<i64>,
    /// The timecode read off a timecode slate at the picture's mark.
    pub label: Option<String>,
    /// The scene and take on the slate, where they are not the clip's own.
    #[serde(default)]
    pub take: Option<String>,
}

impl SlateMarkView {
    /// Whether no moment is marked.
    pub fn is_empty(&self) -> bool {
        self.picture_us.is_none() && self.sound_us.is_none()
    }
}

/// A change at intake; each can be undone.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(tag = "do", rename_all = "snake_case")]
pub enum IntakeChange {
    /// Clips belong to a device.
    Device {
        /// The clips.
        clips: Vec<ClipId>,
        /// Their device.
        device: DeviceId,
    },
    /// Clips take a part.
    Part {
        /// The clips.
        clips: Vec<ClipId>,
        /// Their part.
        part: Part,
    },
    /// Clips belong to a shoot day.
    Day {
        /// The clips.
        clips: Vec<ClipId>,
        /// The day.
        day: String,
    },
    /// Scene, take, notes, circled; what is not given stays, empty text goes back to what the file says.
    Slate {
        /// The clips.
        clips: Vec<ClipId>,
        /// Scene.
        scene: Option<String>,
        /// Take.
        take: Option<String>,
        /// Notes.
        notes: Option<String>,
        /// Circled.
        circled: Option<bool>,
    },
    /// Clips are one recording.
    Join {
        /// The clips.
        clips: Vec<ClipId>,
    },
    /// Clips are recordings of their own.
    Separate {
        /// The clips.
        clips: Vec<ClipId>,
    },
    /// Letter and name of a device.
    NameDevice {
        /// The device.
        device: DeviceId,
        /// One or two letters.
        letter: String,
        /// Its name.
        name: String,
    },
    /// Moves a device in the order.
    MoveDevice {
        /// The device.
        device: DeviceId,
        /// Places to move down; below zero up.
        by: i32,
    },
    /// What is marked of a clip's slates; what is not given is no longer marked.
    Mark {
        /// The clip.
        clips: Vec<ClipId>,
        /// What is marked, one for each clap.
        marks: Vec<SlateMarkView>,
    },
    /// Distance of a device's microphone from what it shows.
    Distance {
        /// The device.
        device: DeviceId,
        /// Centimetres.
        #[ts(type = "number")]
        distance_cm: i64,
    },
    /// Distance of these clips' microphone, whatever their device has; none goes back to that of the device.
    ClipDistance {
        /// The clips.
        clips: Vec<ClipId>,
        /// Centimetres.
        #[ts(type = "number | null")]
        distance_cm: Option<i64>,
    },
    /// Frames to take off one of a device's timecodes, all day.
    TakeOff {
        /// The device.
        device: DeviceId,
        /// Which of its timecodes.
        kind: EvidenceKind,
        /// Frames; negative ones are added.
        #[ts(type = "number")]
        frames: i64,
    },
    /// What a device's pictures are seen through; nothing where `None`.
    SeeThrough {
        /// The device.
        device: DeviceId,
        /// The LUT.
        lut: Option<LutKey>,
    },
    /// Sets a health note aside, or brings it back.
    SetAside {
        /// Key of the note.
        key: String,
        /// Whether it is aside from now on.
        aside: bool,
    },
    /// Takes a slate log.
    TakeLog {
        /// The log.
        log: StoredLog,
    },
    /// Puts the slate log away.
    DropLog,
}
