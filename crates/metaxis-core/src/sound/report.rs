//! What became of sound that was to be written (`metaxis.sound-report/1`).

use super::{Correction, Fill};
use crate::sync::{Skipped, Warning};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Value of the report's `schema`.
pub const SOUND_REPORT_SCHEMA: &str = "metaxis.sound-report/1";

/// A whole report.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct SoundReport {
    pub schema: String,
    /// Path of the clip whose clock is the axis.
    pub reference: String,
    pub files: Vec<MadeReport>,
    /// Pictures and groups that there is no sound for, and why.
    pub without: Vec<Skipped>,
    pub skipped: Vec<Skipped>,
    pub warnings: Vec<Warning>,
    /// Seconds that finding the places took, and writing.
    pub sync_s: f64,
    pub write_s: f64,
}

/// What became of one file.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum MadeState {
    /// It was not made yet.
    Planned,
    /// It was written, and read back.
    Written,
    /// It was there already, made from the same sounds in the same way.
    There,
    /// It could not be written.
    Failed,
}

/// One file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
#[allow(missing_docs)]
pub struct MadeReport {
    /// Below the output folder, with forward slashes.
    pub path: String,
    /// Path of the picture clip, or the group's name.
    pub belongs_to: String,
    pub state: MadeState,
    /// What went wrong.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub message: Option<String>,
    pub sample_rate: u32,
    pub bits: u32,
    /// Samples a track.
    #[ts(type = "number")]
    pub samples: i64,
    /// Samples since midnight at the first.
    #[ts(type = "number")]
    pub time_reference: u64,
    /// The timecode that is there.
    pub timecode: Option<String>,
    pub tracks: Vec<TrackReport>,
    pub sources: Vec<SourceReport>,
    /// Where a device was not running: silence.
    pub holes: Vec<HoleReport>,
    /// Samples that were too loud for the form.
    #[ts(type = "number")]
    pub clipped: u64,
    #[ts(type = "number")]
    pub bytes: u64,
    /// BLAKE3 hash of the content.
    pub hash: String,
    /// Tells what it is made of, and how, from everything else.
    #[serde(default)]
    pub uid: String,
}

/// One track of a file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
#[allow(missing_docs)]
pub struct TrackReport {
    pub name: String,
    pub device: String,
    /// Channel in its files, from 1.
    pub channel: usize,
    /// Largest sample; `None` where it is silent or was not looked at.
    pub peak_dbfs: Option<f64>,
}

/// One sound that went into a file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
#[allow(missing_docs)]
pub struct SourceReport {
    /// The files that it is made of, and their device.
    pub files: Vec<String>,
    #[serde(default)]
    pub device: String,
    pub correction: Correction,
    pub fill: Fill,
    /// What was proposed, and why.
    pub why: String,
    /// How much faster its clock runs than the one that leads, on the whole.
    pub rate_ppm: f64,
    /// The picture's own sound is the same signal: it was laid by that.
    #[serde(default)]
    pub by_cable: bool,
    /// Its extent in the file, seconds.
    pub from_s: f64,
    pub to_s: f64,
    /// Pieces that it lies in: 1 where it lies in one.
    pub pieces: usize,
}

/// A passage in which a device was not running.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
#[allow(missing_docs)]
pub struct HoleReport {
    pub device: String,
    pub from_s: f64,
    pub to_s: f64,
}
