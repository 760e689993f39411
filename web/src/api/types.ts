// Generated from the server's types. Do not edit: run `make types`.

export type ClipId = number;

export type DeviceId = number;

export type FrameRate = { num: number, den: number, };

export type SampleRate = number;

export type Tick = number;

export type Timecode = { 
/**
 * Frames since midnight.
 */
frames: number, 
/**
 * Rate of the count.
 */
rate: FrameRate, 
/**
 * Drop-frame counting.
 */
drop: boolean, };

export type PictureFacts = { 
/**
 * Nominal frame rate; the average where the rate varies.
 */
rate: FrameRate, 
/**
 * False where the container's average and base rates disagree.
 */
constant_rate: boolean, 
/**
 * Width in pixels.
 */
width: number, 
/**
 * Height in pixels.
 */
height: number, 
/**
 * Codec name as the container gives it.
 */
codec: string, 
/**
 * First frame's presentation time in the file, seconds.
 */
start_s: number, 
/**
 * Length of the picture, seconds.
 */
duration_s: number, 
/**
 * Frames where the container counts them.
 */
frames: number | null, };

export type SoundFacts = { 
/**
 * Samples per second, as labelled.
 */
rate: SampleRate, 
/**
 * Number of channels.
 */
channels: number, 
/**
 * One name a channel where the file names them (iXML), else empty.
 */
channel_names: Array<string>, 
/**
 * Codec name.
 */
codec: string, 
/**
 * First presented sample's time in the file, seconds.
 */
start_s: number, 
/**
 * Length of the sound, seconds.
 */
duration_s: number, };

export type ClipFacts = { 
/**
 * Picture, where the file has one.
 */
picture: PictureFacts | null, 
/**
 * Sound, where the file has any.
 */
sound: SoundFacts | null, 
/**
 * Length of the clip in its own time, seconds.
 */
duration_s: number, 
/**
 * File timecode of the first frame.
 */
timecode: Timecode | null, 
/**
 * BWF time reference: samples since midnight at the file's sample rate.
 */
time_reference: number | null, 
/**
 * Creation time as the container gives it (RFC 3339 text).
 */
created: string | null, 
/**
 * Reel or tape name.
 */
reel: string | null, 
/**
 * Scene from iXML.
 */
scene: string | null, 
/**
 * Take from iXML.
 */
take: string | null, 
/**
 * Notes from iXML.
 */
notes: string | null, 
/**
 * Circled (preferred) take from iXML.
 */
circled: boolean, };

export type ChannelState = { 
/**
 * Largest absolute sample, in dB below full scale (−200 for digital silence).
 */
peak_dbfs: number, 
/**
 * Root mean square level in dB below full scale.
 */
rms_dbfs: number, 
/**
 * Carries audio timecode: its edges come at one or two half-bit lengths and nowhere else.
 */
audio_timecode: boolean, 
/**
 * Digital silence or next to it.
 */
dead: boolean, };

export type Verdict = "solid" | "check" | "unplaced" | "by_hand";

export type Stretch = { 
/**
 * Beginning in the clip's own time, seconds.
 */
clip_start_s: number, 
/**
 * End in the clip's own time, seconds.
 */
clip_end_s: number, 
/**
 * Beginning on the axis, seconds.
 */
start_s: number, 
/**
 * How much faster the clip's clock runs than the reference's.
 */
rate_ppm: number, 
/**
 * Standard deviation of `start_s`.
 */
start_sigma_s: number, 
/**
 * Standard deviation of `rate_ppm`.
 */
rate_sigma_ppm: number, };

export type EvidenceKind = "waveform" | "file_timecode" | "audio_timecode" | "slate" | "device_clock" | "hand";

export type Evidence = { 
/**
 * What it rests on.
 */
kind: EvidenceKind, 
/**
 * The clip it was measured against.
 */
against: number | null, 
/**
 * Where it puts the start of the clip on the axis, seconds.
 */
start_s: number, 
/**
 * Standard deviation, seconds.
 */
sigma_s: number, 
/**
 * Strength, 0 to 1.
 */
score: number, 
/**
 * Whether the position rests on it.
 */
used: boolean, 
/**
 * How far it lies from the position taken, seconds.
 */
disagrees_by_s: number, };

export type Alternative = { 
/**
 * Start of the clip on the axis, seconds.
 */
start_s: number, 
/**
 * Strength relative to the position taken, 0 to 1.
 */
score: number, };

export type Residual = { 
/**
 * The clip's own time, seconds.
 */
clip_s: number, 
/**
 * Measured minus fitted offset, milliseconds.
 */
error_ms: number, };

export type Placement = { 
/**
 * How far to trust it.
 */
verdict: Verdict, 
/**
 * Estimated probability that the position is right to within half a frame.
 */
confidence: number, 
/**
 * Island of clips whose positions can be compared.
 */
component: number, 
/**
 * Where it lies; empty when unplaced.
 */
stretches: Array<Stretch>, 
/**
 * Why.
 */
evidence: Array<Evidence>, 
/**
 * What else would fit.
 */
alternatives: Array<Alternative>, 
/**
 * What was left along the clip.
 */
residuals: Array<Residual>, 
/**
 * In sentences: what decided, what is doubtful.
 */
reasons: Array<string>, };

export type AnglePart = { 
/**
 * The clip.
 */
clip: ClipId, 
/**
 * First group frame it covers.
 */
from_frame: number, 
/**
 * First group frame it no longer covers.
 */
to_frame: number, 
/**
 * Where this part lies on the axis.
 */
stretch: Stretch, 
/**
 * Picture start minus the clip's time zero, seconds.
 */
picture_delay_s: number, 
/**
 * The clip's own frame rate (the group's for sound).
 */
rate: FrameRate, };

export type Angle = { 
/**
 * The device.
 */
device: DeviceId, 
/**
 * Parts in time order, without overlaps.
 */
parts: Array<AnglePart>, };

export type Group = { 
/**
 * Its name.
 */
name: string, 
/**
 * Label of frame 0.
 */
start: Timecode, 
/**
 * Time of day of the axis's zero.
 */
axis_zero: Tick, 
/**
 * Length in frames.
 */
frames: number, 
/**
 * Width of the format in pixels: the smallest of the angles.
 */
width: number, 
/**
 * Height of the format in pixels.
 */
height: number, 
/**
 * Picture angles, in the order of their number keys.
 */
angles: Array<Angle>, 
/**
 * The sound that runs under all of them, where there is any.
 */
sound: Angle | null, };

export type Switch = { 
/**
 * Group frame.
 */
at: number, 
/**
 * The angle's device.
 */
angle: DeviceId, };

export type Line = { 
/**
 * Length in frames.
 */
frames: number, switches: Array<Switch>, };

export type LineEdit = { "do": "take", 
/**
 * Group frame.
 */
at: number, 
/**
 * The angle to take.
 */
angle: DeviceId, } | { "do": "change_angle", 
/**
 * Which stretch, from 0.
 */
index: number, 
/**
 * The angle to show.
 */
angle: DeviceId, } | { "do": "roll", 
/**
 * Which stretch, from 1.
 */
index: number, 
/**
 * Frames; later is positive.
 */
by: number, } | { "do": "remove", 
/**
 * Which stretch, from 1.
 */
index: number, } | { "do": "clear_after", 
/**
 * Group frame.
 */
at: number, } | { "do": "restore", 
/**
 * The switches to have.
 */
switches: Array<Switch>, };

export type Production = { 
/**
 * Its name.
 */
name: string, 
/**
 * Shoot day.
 */
day: string, };

export type Part = "sync" | "no_sync" | "silent" | "wild" | "playback";

export type DeviceView = { 
/**
 * Number.
 */
id: DeviceId, 
/**
 * Folder it was guessed from.
 */
folder: string, 
/**
 * One or two letters.
 */
letter: string, 
/**
 * Name.
 */
name: string, 
/**
 * Number of clips.
 */
clips: number, };

export type ClipView = { 
/**
 * Number.
 */
id: ClipId, 
/**
 * Device.
 */
device: DeviceId, 
/**
 * Path below the folder that was taken in.
 */
relative: string, 
/**
 * File name.
 */
file_name: string, 
/**
 * Size.
 */
bytes: number, 
/**
 * What the file says.
 */
facts: ClipFacts, 
/**
 * When its device's own clock says it began, seconds since midnight.
 */
own_clock_s: number | null, 
/**
 * Part it takes.
 */
part: Part, 
/**
 * Channel states, once listened to.
 */
channels: Array<ChannelState> | null, 
/**
 * Whether its light copies are ready.
 */
proxy: boolean, };

export type NoteView = { 
/**
 * Path below the folder that was taken in.
 */
path: string, 
/**
 * Kind of remark.
 */
code: string, 
/**
 * What happened and what to do.
 */
message: string, };

export type PassView = { 
/**
 * Number in the store.
 */
id: number, 
/**
 * Running number.
 */
number: number, 
/**
 * Reference device.
 */
reference: DeviceId, 
/**
 * Clip that starts the axis.
 */
origin: ClipId, 
/**
 * Time of day of the axis's zero.
 */
axis_zero: Tick, 
/**
 * Seconds it took.
 */
took_s: number, };

export type PlacementView = { 
/**
 * The clip.
 */
clip: ClipId, 
/**
 * Where, why, how sure.
 */
placement: Placement, };

export type GroupSummary = { 
/**
 * Number.
 */
id: number, 
/**
 * The group.
 */
group: Group, 
/**
 * Frames that every angle covers.
 */
covered_by_all: [number, number] | null, 
/**
 * Switches in its line.
 */
switches: number, };

export type GroupView = { 
/**
 * Number.
 */
id: number, 
/**
 * The group.
 */
group: Group, 
/**
 * Its line.
 */
line: Line, 
/**
 * Version of the line; edits carry it.
 */
version: number, 
/**
 * Whether there is an edit to undo.
 */
can_undo: boolean, 
/**
 * Whether there is an edit to redo.
 */
can_redo: boolean, 
/**
 * Axis time of frame 0, seconds.
 */
axis_start_s: number, 
/**
 * Timecode label of each switch.
 */
labels: Array<Timecode>, };

export type CutCounts = { 
/**
 * Solid.
 */
solid: number, 
/**
 * Check.
 */
check: number, 
/**
 * Unplaced.
 */
unplaced: number, 
/**
 * By hand.
 */
by_hand: number, };

export type JobKind = { "kind": "intake", 
/**
 * Absolute path, allowed and canonical.
 */
folder: string, } | { "kind": "listen", 
/**
 * The clip.
 */
clip: ClipId, } | { "kind": "proxy", 
/**
 * The clip.
 */
clip: ClipId, } | { "kind": "pass", 
/**
 * Reference device; chosen by the engine unless given.
 */
reference: DeviceId | null, };

export type JobSummary = { 
/**
 * Name of the kind.
 */
kind: string, 
/**
 * Steps done.
 */
done: number, 
/**
 * Steps in all.
 */
total: number, 
/**
 * Jobs waiting or running.
 */
open: number, 
/**
 * Jobs stopped.
 */
stopped: number, 
/**
 * Jobs failed.
 */
failed: number, 
/**
 * Message of the last failure.
 */
message: string | null, };

export type DayView = { 
/**
 * Name and day.
 */
production: Production, 
/**
 * Devices in order.
 */
devices: Array<DeviceView>, 
/**
 * Clips by device and path.
 */
clips: Array<ClipView>, 
/**
 * Remarks.
 */
notes: Array<NoteView>, 
/**
 * All passes, oldest first.
 */
passes: Array<PassView>, 
/**
 * The pass that is shown.
 */
pass: PassView | null, 
/**
 * Its placements.
 */
placements: Array<PlacementView>, 
/**
 * Its verdicts.
 */
counts: CutCounts, 
/**
 * Its groups.
 */
groups: Array<GroupSummary>, 
/**
 * Jobs by kind.
 */
jobs: Array<JobSummary>, };

export type Event = { "event": "day" } | { "event": "line", 
/**
 * The group.
 */
group: number, 
/**
 * Its version now.
 */
version: number, } | { "event": "jobs", 
/**
 * By kind.
 */
jobs: Array<JobSummary>, };

export type Refusal = { 
/**
 * What happened and what to do.
 */
error: string, };

export type EditLine = { version: number, edit: LineEdit, };

export type FolderView = { 
/**
 * Full path.
 */
path: string, 
/**
 * Folders directly in it.
 */
folders: Array<string>, };

export type MoveAngle = { from: number, to: number, };

export type NameDevice = { letter: string, name: string, };

export type RenameGroup = { name: string, };

export type SetDevice = { clips: Array<ClipId>, device: DeviceId | null, new_device: string | null, };

export type SetPart = { clips: Array<ClipId>, part: Part, };

export type StartPass = { reference: DeviceId | null, };

export type TakeIn = { path: string, };

export type Versioned = { version: number, };

