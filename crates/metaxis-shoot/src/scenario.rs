//! What happened, who recorded it, and with which faults. Read from JSON.

use serde::{Deserialize, Serialize};

/// A whole shoot.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Scenario {
    /// Title of the production.
    pub name: String,
    /// Makes another shoot of the same plan.
    pub seed: u64,
    /// Shoot day, YYYY-MM-DD.
    pub date: String,
    /// The device whose first long clip is the axis of the truth.
    pub reference: String,
    /// What happened.
    pub scenes: Vec<ScenePlan>,
    /// Who recorded.
    pub devices: Vec<DevicePlan>,
    /// Which files came of it.
    pub clips: Vec<ClipPlan>,
    /// Other files on the cards.
    #[serde(default)]
    pub extras: Vec<Extra>,
}

/// What is going on in a scene.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Programme {
    /// Furnace, hammers on a bell, footsteps.
    Foundry,
    /// A person speaks.
    Talk,
    /// Handbells to a playback track.
    Handbells,
    /// The playback track itself.
    PlaybackTrack,
    /// Nothing but a quiet room.
    Quiet,
}

/// A stretch of true time in which something happens.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ScenePlan {
    /// Its name, used by clips.
    pub name: String,
    /// True time of day of its beginning, seconds since midnight.
    pub start_s: f64,
    /// Length in seconds.
    pub duration_s: f64,
    /// What goes on.
    pub programme: Programme,
    /// Reverberation time in seconds.
    #[serde(default = "default_room")]
    pub room_s: f64,
    /// Claps of the slate.
    #[serde(default)]
    pub slates: Vec<SlatePlan>,
    /// Handbells only: the playback was stopped at this time of the track and started again.
    #[serde(default)]
    pub stopped_s: Option<f64>,
    /// What is said.
    #[serde(default)]
    pub speech: Vec<SpeechPlan>,
}

fn default_room() -> f64 {
    0.5
}

/// A clap.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SlatePlan {
    /// Seconds from the scene's beginning.
    pub at_s: f64,
}

/// Something said.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SpeechPlan {
    /// Seconds from the scene's beginning.
    pub at_s: f64,
    /// Name of the sound file in the speech folder, without extension.
    pub file: String,
}

/// How the picture is framed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum View {
    /// The whole floor.
    Wide,
    /// Near.
    Close,
    /// From far above.
    Far,
    /// From below, mirrored.
    Low,
    /// A computer screen.
    Screen,
}

/// The camera part of a device.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PicturePlan {
    /// Width in pixels.
    pub width: u32,
    /// Height in pixels.
    pub height: u32,
    /// Whole frames per second.
    pub rate: u32,
    /// Frame times wander, as pocket cameras' do.
    #[serde(default)]
    pub varying: bool,
    /// Framing.
    pub view: View,
}

/// What the files are.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Container {
    /// QuickTime with 16-bit PCM and a timecode track.
    MovPcm,
    /// MP4 with AAC.
    Mp4Aac,
    /// Broadcast WAV, 24 bit, with time reference and iXML.
    Bwf,
}

/// File timecode of a device.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum FileTimecode {
    /// Time of day.
    True,
    /// Stands at 01:00:00:00 at the start of every clip.
    Wrong,
    /// Counts only while recording: a clip begins where the one before it ended.
    WhileRecording,
    /// None.
    #[default]
    None,
}

/// Audio timecode of a device.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum AudioTimecode {
    /// On the first channel.
    Left,
    /// None.
    #[default]
    None,
}

/// The timecode signal that a device records, and what is wrong with it.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct SignalPlan {
    /// Frames a second: a numerator over a denominator.
    pub rate: (i64, i64),
    /// Drop-frame counting.
    pub drop: bool,
    /// The shoot day in the user bits.
    pub date: bool,
    /// Level of the signal.
    pub level_dbfs: f64,
    /// Level of white noise on it; none below −120.
    pub noise_dbfs: f64,
    /// Level of 50 Hz hum on it; none below −120.
    pub hum_dbfs: f64,
    /// Wired the other way round.
    pub inverted: bool,
    /// Frames its labels are later than they should be.
    pub late_frames: i64,
    /// The cable is loose from the one to the other moment of every clip, seconds of its own time.
    pub loose_s: Option<(f64, f64)>,
    /// From this moment of every clip's own time on, the labels are so many frames further: the box was jammed anew.
    pub jumps: Option<(f64, i64)>,
}

impl Default for SignalPlan {
    fn default() -> Self {
        Self {
            rate: (25, 1),
            drop: false,
            date: false,
            level_dbfs: -12.041_2,
            noise_dbfs: -200.0,
            hum_dbfs: -200.0,
            inverted: false,
            late_frames: 0,
            loose_s: None,
            jumps: None,
        }
    }
}

/// A camera or recorder and its faults.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DevicePlan {
    /// Folder of its files; the device's name in reports.
    pub folder: String,
    /// How much faster its clock runs than true time, parts per million.
    #[serde(default)]
    pub clock_ppm: f64,
    /// How far its time of day is off, seconds.
    #[serde(default)]
    pub clock_error_s: f64,
    /// Distance of its microphone from the action, metres.
    #[serde(default = "default_distance")]
    pub distance_m: f64,
    /// Level of its own noise.
    #[serde(default = "default_noise")]
    pub noise_dbfs: f64,
    /// Recording gain; what exceeds full scale is clipped.
    #[serde(default)]
    pub gain_db: f64,
    /// Automatic gain control.
    #[serde(default)]
    pub automatic_gain: bool,
    /// Samples per second.
    #[serde(default = "default_rate")]
    pub sample_rate: u32,
    /// Names of its channels; their number is the number of channels.
    pub channels: Vec<String>,
    /// Files it writes.
    pub container: Container,
    /// Its picture, where it is a camera.
    #[serde(default)]
    pub picture: Option<PicturePlan>,
    /// A recorder that counts no samples from midnight: its files have no time reference.
    #[serde(default)]
    pub no_time_reference: bool,
    /// Broadcast WAV of 16 bits a sample instead of 24.
    #[serde(default)]
    pub short_samples: bool,
    /// Timecode in its files.
    #[serde(default)]
    pub file_timecode: FileTimecode,
    /// Frames its file timecode is later than it should be.
    #[serde(default)]
    pub late_frames: i64,
    /// Timecode on its sound.
    #[serde(default)]
    pub audio_timecode: AudioTimecode,
    /// What that timecode is like.
    #[serde(default)]
    pub signal: SignalPlan,
}

fn default_distance() -> f64 {
    1.0
}
fn default_noise() -> f64 {
    -66.0
}
fn default_rate() -> u32 {
    48_000
}

/// Samples a device failed to write.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Loss {
    /// Where in the clip's own time, seconds.
    pub at_s: f64,
    /// How much, seconds.
    pub length_s: f64,
}

/// One recording.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ClipPlan {
    /// Folder of the device.
    pub device: String,
    /// File name; with several parts, `#` in it becomes the part's number.
    pub file: String,
    /// Which scene it recorded.
    pub scene: String,
    /// Start, seconds from the scene's beginning.
    pub from_s: f64,
    /// End, seconds from the scene's beginning.
    pub to_s: f64,
    /// Distance of its microphone from the action, metres, where it is not that of its device.
    #[serde(default)]
    pub distance_m: Option<f64>,
    /// Losses.
    #[serde(default)]
    pub lost: Vec<Loss>,
    /// No microphone: digital silence (audio timecode stays).
    #[serde(default)]
    pub silent: bool,
    /// Written as a chain of this many files.
    #[serde(default = "one")]
    pub parts: u32,
    /// Frames missing between the parts.
    #[serde(default)]
    pub part_gap_frames: u32,
    /// Scene in iXML.
    #[serde(default)]
    pub slate_scene: Option<String>,
    /// Take in iXML.
    #[serde(default)]
    pub slate_take: Option<String>,
    /// Picture without a sound stream.
    #[serde(default)]
    pub no_sound_stream: bool,
    /// Recorded straight from the playback track, not from the air.
    #[serde(default)]
    pub direct: bool,
}

impl ClipPlan {
    /// Distance of its microphone from the action, metres: its own, else that of its device.
    pub fn distance_m(&self, device: &DevicePlan) -> f64 {
        self.distance_m.unwrap_or(device.distance_m)
    }
}

fn one() -> u32 {
    1
}

/// Another file on the cards.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", tag = "kind", deny_unknown_fields)]
pub enum Extra {
    /// Text as it is.
    Text {
        /// Path below the output.
        path: String,
        /// Content.
        content: String,
    },
    /// A file copied and cut off after some bytes.
    Damaged {
        /// Path below the output.
        path: String,
        /// Source: a clip's path below the output.
        of: String,
        /// Bytes kept.
        keep: u64,
    },
    /// A still picture with the production's name.
    TitleCard {
        /// Path below the output (PNG).
        path: String,
    },
}
