//! What a place rests on.

use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// What a piece of evidence rests on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum EvidenceKind {
    /// The same sound heard by two devices.
    Waveform,
    /// Timecode in the file: a timecode track or BWF time reference.
    FileTimecode,
    /// Timecode signal on a sound channel.
    AudioTimecode,
    /// Sticks seen and heard.
    Slate,
    /// Creation time.
    DeviceClock,
    /// A person said so.
    Hand,
}

impl EvidenceKind {
    /// A kind of label in words.
    pub fn called(self) -> &'static str {
        match self {
            Self::AudioTimecode => "audio timecode",
            Self::DeviceClock => "device's clock",
            Self::Slate => "timecode slate",
            Self::FileTimecode | Self::Waveform | Self::Hand => "file timecode",
        }
    }

    /// Whether it is timecode, which counts frames.
    pub fn counts_frames(self) -> bool {
        matches!(self, Self::FileTimecode | Self::AudioTimecode | Self::Slate)
    }
}

/// One reason for a position, with its uncertainty. `against` names a clip by the caller's index.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct Evidence {
    /// What it rests on.
    pub kind: EvidenceKind,
    /// The clip it was measured against.
    pub against: Option<usize>,
    /// Where it puts the start of the clip on the axis, seconds.
    pub start_s: f64,
    /// Standard deviation, seconds.
    pub sigma_s: f64,
    /// Strength, 0 to 1.
    pub score: f64,
    /// Whether the position rests on it.
    pub used: bool,
    /// How far it lies from the position taken, seconds.
    pub disagrees_by_s: f64,
    /// Whether a person set it aside: it has no say.
    #[serde(default)]
    pub aside: bool,
}

impl Evidence {
    /// As it is told where a person set it aside, of a clip that starts at `start_s`.
    pub fn set_aside(self, start_s: Option<f64>) -> Self {
        let disagrees_by_s = start_s.map_or(0.0, |start_s| self.start_s - start_s);
        Self { used: false, aside: true, disagrees_by_s, ..self }
    }
}

/// Another position that fits, though less well.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, TS)]
pub struct Alternative {
    /// Start of the clip on the axis, seconds.
    pub start_s: f64,
    /// Strength relative to the position taken, 0 to 1.
    pub score: f64,
}

/// What is left at one moment of the clip after the fit.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, TS)]
pub struct Residual {
    /// The clip's own time, seconds.
    pub clip_s: f64,
    /// Measured minus fitted offset, milliseconds.
    pub error_ms: f64,
}
