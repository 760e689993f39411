//! What the store hands out. These types are the API's too.

use crate::{Checked, GroupId, HealthView, Look, PassId, SlateMarkView, SlateSource, SpanView};
use metaxis_core::{
    clip::{ClipFacts, ClipId, DeviceId, FrameTiming, NoteCode},
    group::{AnglePart, Conversion, Covered, Group},
    line::Line,
    lut::LutKey,
    review::Answer,
    signal::{ChannelState, Heard, LostSound},
    sync::{ClockNote, Island, Placement, TakenOff, Verdict},
    time::{FrameRate, Tick, Timecode},
};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use strum::{EnumIter, EnumString, IntoStaticStr};
use ts_rs::TS;

/// Name and day of the production.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct Production {
    /// Its name.
    pub name: String,
    /// Shoot day.
    pub day: String,
}

/// The part a clip takes.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, EnumString, IntoStaticStr, EnumIter, TS,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Part {
    /// Takes part in the sync.
    Sync,
    /// Left out (b-roll, stills).
    NoSync,
    /// Picture without sound.
    Silent,
    /// Sound without picture, not with any take.
    Wild,
    /// The track a performance was made to.
    Playback,
}

/// A clip to be kept.
#[derive(Debug, Clone)]
pub struct NewClip {
    /// Device.
    pub device: DeviceId,
    /// The folder that was taken in.
    pub root: String,
    /// Path below it.
    pub relative: String,
    /// Absolute path, as the bytes the system uses.
    pub path: Vec<u8>,
    /// Size.
    pub bytes: u64,
    /// Content fingerprint.
    pub fingerprint: String,
    /// What the file says.
    pub facts: ClipFacts,
    /// Part it takes.
    pub part: Part,
    /// Shoot day, where it is known.
    pub day: Option<String>,
}

/// A device as the page sees it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct DeviceView {
    /// Number.
    pub id: DeviceId,
    /// Folder it was guessed from.
    pub folder: String,
    /// One or two letters.
    pub letter: String,
    /// Name.
    pub name: String,
    /// Number of clips.
    pub clips: u32,
    /// Distance of its microphone from what it shows, metres; 0 where none is given.
    pub distance_m: f64,
    /// Frames taken off its timecodes.
    pub taken_off: TakenOff,
    /// What its pictures are seen through.
    pub lut: Option<LutKey>,
}

/// A clip as the page sees it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct ClipView {
    /// Number.
    pub id: ClipId,
    /// Device.
    pub device: DeviceId,
    /// Path below the folder that was taken in.
    pub relative: String,
    /// File name.
    pub file_name: String,
    /// Size.
    #[ts(type = "number")]
    pub bytes: u64,
    /// What the file says.
    pub facts: ClipFacts,
    /// When its device's own clock says it began, seconds since midnight.
    pub own_clock_s: Option<f64>,
    /// Part it takes.
    pub part: Part,
    /// Shoot day, where it is known.
    pub day: Option<String>,
    /// Scene: as a person set it, else as the slate log has it, else as the file says.
    pub scene: Option<String>,
    /// Take, likewise.
    pub take: Option<String>,
    /// Notes, likewise.
    pub notes: Option<String>,
    /// Circled, likewise.
    pub circled: bool,
    /// Where scene and take come from.
    pub slate_source: Option<SlateSource>,
    /// The first clip of its span.
    pub span: Option<ClipId>,
    /// Its file is not where it was.
    pub missing: bool,
    /// Channel states, once listened to.
    pub channels: Option<Vec<ChannelState>>,
    /// Decoded samples of each channel.
    #[ts(type = "number | null")]
    pub samples: Option<u64>,
    /// What of its sound could not be decoded; health says it.
    #[serde(skip)]
    pub lost: Vec<LostSound>,
    /// Its frames, once they were decoded.
    pub timing: Option<FrameTiming>,
    /// What is marked of its slates, one for each clap.
    pub marks: Vec<SlateMarkView>,
    /// Distance of its microphone from what it shows, metres, where it has one of its own; else its device's counts.
    pub distance_m: Option<f64>,
    /// Its frames were seen to wander.
    pub frames_vary: bool,
    /// Whether its light copies are ready.
    pub proxy: bool,
}

/// One clip with everything its file says.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct ClipDetail {
    /// The clip.
    pub clip: ClipId,
    /// Where the file is.
    pub path: String,
    /// The folder that was taken in.
    pub root: String,
    /// Fingerprint of its content.
    pub fingerprint: String,
    /// What the file says of itself, as read.
    pub tags: BTreeMap<String, String>,
    /// Container format.
    pub container: String,
}

/// A remark at a file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct NoteView {
    /// Path below the folder that was taken in.
    pub path: String,
    /// Kind of remark.
    pub code: NoteCode,
    /// What happened and what to do.
    pub message: String,
}

/// What a pass is and says.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct PassFacts {
    /// What it is called: what was asked for, or what a person named it.
    pub name: String,
    /// Reference device.
    pub reference: DeviceId,
    /// Clip that starts the axis.
    pub origin: ClipId,
    /// Time of day of the axis's zero.
    pub axis_zero: Tick,
    /// Seconds it took.
    pub took_s: f64,
    /// What is said once for a device.
    pub notes: Vec<ClockNote>,
    /// Its components and where each lies on the day.
    pub islands: Vec<Island>,
}

/// A pass that is kept.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct PassView {
    /// Number in the store.
    pub id: PassId,
    /// Running number.
    pub number: u32,
    /// What it is and says.
    #[serde(flatten)]
    pub facts: PassFacts,
}

/// A clip's place in the current pass.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct PlacementView {
    /// The clip.
    pub clip: ClipId,
    /// Where, why, how sure.
    pub placement: Placement,
}

/// A group in a list.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct GroupSummary {
    /// Number.
    pub id: GroupId,
    /// The group.
    pub group: Group,
    /// How many angles run when, from its head to its tail.
    pub coverage: Vec<Covered>,
    /// Switches in its line.
    pub switches: u32,
    /// How pictures of other rates than its own are shown.
    pub converted: Vec<(FrameRate, Conversion)>,
    /// Whether a person put it together: a later pass leaves it as it is.
    pub cast: bool,
    /// Whether a person named it, put its angles in order or trimmed it.
    pub shaped: bool,
    /// Frames of all that it is made of, and those of them that it is trimmed to.
    #[ts(type = "number")]
    pub whole_frames: i64,
    /// From and up to.
    #[ts(type = "[number, number]")]
    pub window: (i64, i64),
    /// The frames of all of it that are shown, from and up to, in order: within the window, without what is taken out.
    #[ts(type = "Array<[number, number]>")]
    pub left: Vec<(i64, i64)>,
}

/// The version of a document, and what can be undone and redone of it.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct Turns {
    /// Grows with every edit.
    #[ts(type = "number")]
    pub version: i64,
    /// What undo would take back.
    pub undo: Option<String>,
    /// What redo would make again.
    pub redo: Option<String>,
}

/// A group with its line.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct GroupView {
    /// Number.
    pub id: GroupId,
    /// The group.
    pub group: Group,
    /// Its line.
    pub line: Line,
    /// Version of the line; edits carry it.
    #[ts(type = "number")]
    pub version: i64,
    /// Whether there is an edit to undo.
    pub can_undo: bool,
    /// Whether there is an edit to redo.
    pub can_redo: bool,
    /// Axis time of frame 0, seconds.
    pub axis_start_s: f64,
    /// Timecode label of each switch.
    pub labels: Vec<Timecode>,
    /// The line's layers as parts on its frames, in their order; without those whose clips are not known any more.
    pub over: Vec<OverPart>,
    /// The group that a newer pass made of its clips, where this one is of a pass that is no longer shown.
    pub followed_by: Option<Follower>,
}

/// A layer of a line as it is played.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct OverPart {
    /// Which of the line's layers, from 0.
    pub layer: usize,
    /// The frames and the clip.
    pub part: AnglePart,
}

/// A group that followed another.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct Follower {
    /// Number.
    pub id: GroupId,
    /// Its name.
    pub name: String,
}

/// Verdicts counted.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct CutCounts {
    /// Solid.
    pub solid: u32,
    /// Check.
    pub check: u32,
    /// Unplaced.
    pub unplaced: u32,
    /// By hand.
    pub by_hand: u32,
}

impl CutCounts {
    /// Counts one more.
    pub fn count(&mut self, verdict: Verdict) {
        match verdict {
            Verdict::Solid => self.solid += 1,
            Verdict::Check => self.check += 1,
            Verdict::Unplaced => self.unplaced += 1,
            Verdict::ByHand => self.by_hand += 1,
        }
    }
}

/// The files of a day, and what was chosen and remarked of them.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct DayView {
    /// Name and day.
    pub production: Production,
    /// Devices in order.
    pub devices: Vec<DeviceView>,
    /// Clips by device and path.
    pub clips: Vec<ClipView>,
    /// Remarks.
    pub notes: Vec<NoteView>,
    /// What will hurt later.
    pub health: Vec<HealthView>,
    /// Chains of files.
    pub spans: Vec<SpanView>,
    /// Name of the slate log that was taken.
    pub slate_log: Option<String>,
    /// Files the slate log names and no clip has.
    pub log_missing: Vec<String>,
    /// What can be undone and redone of what was chosen at intake.
    pub intake: Turns,
}

/// The pass that is shown, and which others there are.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct ShownPass {
    /// What can be undone and redone of which pass is shown.
    pub shown: Turns,
    /// All passes, oldest first.
    pub passes: Vec<PassView>,
    /// The pass that is shown.
    pub pass: Option<PassView>,
    /// What can be undone and redone of its name.
    pub named: Turns,
    /// Its placements.
    pub placements: Vec<PlacementView>,
    /// Its verdicts.
    pub counts: CutCounts,
    /// What it says of the whole day.
    pub review: Vec<Answer>,
    /// Clips that a person looked at where it has them.
    pub looks: Vec<Look>,
    /// Who declared it checked.
    pub checked: Option<Checked>,
    /// What can be undone and redone of looks.
    pub round: Turns,
    /// Its groups.
    pub groups: Vec<GroupSummary>,
    /// What can be undone and redone of them.
    pub groups_turns: Turns,
}

/// What a stored clip needs for running jobs on it.
#[derive(Debug, Clone)]
pub struct StoredClip {
    /// Number.
    pub id: ClipId,
    /// Device.
    pub device: DeviceId,
    /// Absolute path.
    pub path: std::path::PathBuf,
    /// Content fingerprint.
    pub fingerprint: String,
    /// What the file says.
    pub facts: ClipFacts,
    /// Part it takes.
    pub part: Part,
    /// What was heard.
    pub heard: Option<Heard>,
    /// The folder that was taken in.
    pub root: String,
    /// Path below it.
    pub relative: String,
    /// Size in bytes.
    pub bytes: u64,
}
