//! Jobs as plain values.

use crate::{FilmOrder, JobId, SoundOrder};
use metaxis_core::{
    clip::{ClipId, DeviceId},
    sync::{Effort, Mode},
};
use serde::{Deserialize, Serialize};
use strum::{EnumDiscriminants, EnumIter, EnumString, IntoStaticStr};
use ts_rs::TS;

/// What a job does. Plain values: they survive a restart and can be run again.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, EnumDiscriminants, TS)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[strum_discriminants(
    name(JobName),
    doc = "The name of a kind of job.",
    derive(Hash, Serialize, Deserialize, EnumString, IntoStaticStr, EnumIter, TS),
    serde(rename_all = "snake_case"),
    strum(serialize_all = "snake_case")
)]
pub enum JobKind {
    /// Walk a folder and read its files.
    Intake {
        /// Absolute path, allowed and canonical.
        folder: String,
    },
    /// Listen to a clip.
    Listen {
        /// The clip.
        clip: ClipId,
    },
    /// Make a clip's light copies.
    Proxy {
        /// The clip.
        clip: ClipId,
    },
    /// Look for moved files below a folder.
    Relink {
        /// Absolute path, allowed and canonical.
        folder: String,
    },
    /// Sync the day.
    Pass {
        /// Reference device; chosen by the engine unless given.
        reference: Option<DeviceId>,
        /// How and what.
        #[serde(default)]
        plan: PassPlan,
    },
    /// Write sound.
    Sound {
        /// Which, and how.
        order: SoundOrder,
    },
    /// Make a film.
    Film {
        /// Which, and how.
        order: FilmOrder,
    },
}

/// How a pass is run, and over what.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(default)]
pub struct PassPlan {
    /// Whether the day ran once or was performed to a track.
    pub mode: Mode,
    /// How much to spend on each clip.
    pub effort: Effort,
    /// Only these are placed anew; all others stay as the pass that is shown has them. All where `None`.
    pub clips: Option<Vec<ClipId>>,
    /// One clip only, near a place.
    pub near: Option<Near>,
    /// Only the clips of this shoot day; what a person laid stays.
    pub day: Option<String>,
}

impl PassPlan {
    /// Whether some clips stay as the pass that is shown has them.
    pub fn is_part(&self) -> bool {
        self.clips.is_some() || self.near.is_some() || self.day.is_some()
    }
}

/// A rough place to look near.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct Near {
    /// The clip to place.
    pub clip: ClipId,
    /// The clip it is laid against.
    pub against: ClipId,
    /// Where it might start on the axis, milliseconds.
    #[ts(type = "number")]
    pub start_ms: i64,
    /// How far either way to look, milliseconds.
    #[ts(type = "number")]
    pub within_ms: i64,
}

impl JobKind {
    /// Lower runs first: what a person waits for.
    pub fn rank(&self) -> i64 {
        match self {
            JobKind::Intake { .. } | JobKind::Relink { .. } => 0,
            JobKind::Pass { .. } => 1,
            JobKind::Listen { .. } | JobKind::Sound { .. } => 2,
            JobKind::Proxy { .. } => 3,
            // Far behind: those that somebody wants first go before others.
            JobKind::Film { .. } => 1_000_000,
        }
    }
}

/// How far a job is.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, EnumString, IntoStaticStr, EnumIter, TS,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum JobState {
    /// Waiting.
    Queued,
    /// Running.
    Running,
    /// Done.
    Done,
    /// Failed; see its message.
    Failed,
    /// Stopped by a person; can be resumed.
    Stopped,
}

/// A job to run.
#[derive(Debug, Clone, PartialEq)]
pub struct Job {
    /// Number.
    pub id: JobId,
    /// What to do.
    pub kind: JobKind,
}

/// All jobs of one kind.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct JobSummary {
    /// Its kind.
    pub kind: JobName,
    /// Steps done.
    #[ts(type = "number")]
    pub done: i64,
    /// Steps in all.
    #[ts(type = "number")]
    pub total: i64,
    /// Jobs waiting or running.
    #[ts(type = "number")]
    pub open: i64,
    /// Jobs stopped.
    #[ts(type = "number")]
    pub stopped: i64,
    /// Jobs failed.
    #[ts(type = "number")]
    pub failed: i64,
    /// Message of the last failure.
    pub message: Option<String>,
    /// The clips it is at work on or failed at.
    pub clips: Vec<ClipJob>,
}

/// A job of one clip that runs or failed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct ClipJob {
    /// The clip.
    pub clip: ClipId,
    /// Share done, 0 to 1.
    pub share: f64,
    /// Why it failed, where it did.
    pub failed: Option<String>,
}
