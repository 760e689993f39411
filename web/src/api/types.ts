// Generated from the server's types. Do not edit: run `make types`.

export type ClipId = number;

export type DeviceId = number;

export type PassId = number;

export type GroupId = number;

export type NoteCode = "empty" | "damaged" | "no_media" | "unreadable" | "skipped" | "changed" | "cache" | "labels";

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

export type ColourFacts = { 
/**
 * The curve from light to code.
 */
transfer: string | null, 
/**
 * The colours of its red, green and blue.
 */
primaries: string | null, 
/**
 * From those to brightness and colour difference.
 */
matrix: string | null, };

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
frames: number | null, 
/**
 * A single picture that does not move.
 */
still: boolean, 
/**
 * How its colours are coded, where the file says so.
 */
colour: ColourFacts, };

export type SoundStream = { 
/**
 * Its place among the file's sound streams.
 */
index: number, 
/**
 * Channels.
 */
channels: number, 
/**
 * How much later than the file's first sound it begins, seconds.
 */
delay_s: number, };

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
duration_s: number, 
/**
 * Length that the header promises, where the file ends before it, seconds.
 */
labelled_s: number | null, 
/**
 * The streams that make up the channels, in order; empty means one stream.
 */
streams: Array<SoundStream>, 
/**
 * Sound streams left out, since their rate is another.
 */
left_out: number, };

export type SpeedLabels = { 
/**
 * Rate at which the file is meant to be played, samples a second.
 */
file_sample_rate: number | null, 
/**
 * Rate at which the converters ran, samples a second.
 */
digitizer_sample_rate: number | null, 
/**
 * Timecode frames a second.
 */
timecode_rate: FrameRate | null, 
/**
 * Drop-frame counting.
 */
drop: boolean, };

export type FrameTiming = { 
/**
 * Frames there are.
 */
frames: number, 
/**
 * Shortest time from one frame to the next, seconds.
 */
shortest_s: number, 
/**
 * Longest time from one frame to the next, seconds.
 */
longest_s: number, };

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
circled: boolean, 
/**
 * Container format.
 */
container: string, 
/**
 * Speed as iXML labels it.
 */
speed: SpeedLabels, 
/**
 * Everything else the file says of itself, as read.
 */
tags: { [key in string]: string }, };

export type LutKey = string;

export type SeenThrough = "nothing" | { "lut": LutKey };

export type LutView = { key: LutKey, name: string, 
/**
 * Whether a person brought it.
 */
own: boolean, };

export type LineDifference = { 
/**
 * First frame.
 */
from: number, 
/**
 * First frame behind.
 */
to: number, 
/**
 * What the one shows there,
 */
own: AngleId, 
/**
 * and the other.
 */
other: AngleId, };

export type Why = { "why": "speaks", 
/**
 * Number of the microphone.
 */
microphone: number, } | { "why": "several" } | { "why": "nobody" } | { "why": "ended" } | { "why": "on_beat", 
/**
 * Number of the cut.
 */
cut: number, };

export type Shot = { 
/**
 * Its first frame.
 */
at: number, 
/**
 * What it shows.
 */
angle: AngleId, } & ({ "why": "speaks", 
/**
 * Number of the microphone.
 */
microphone: number, } | { "why": "several" } | { "why": "nobody" } | { "why": "ended" } | { "why": "on_beat", 
/**
 * Number of the cut.
 */
cut: number, });

export type KeptLineId = number;

export type KeptLineView = { 
/**
 * Number.
 */
id: KeptLineId, 
/**
 * Its name.
 */
name: string, 
/**
 * When it was kept, seconds since 1970.
 */
at: number, 
/**
 * Its stretches, as far as the group is shown.
 */
stretches: number, 
/**
 * Where it shows something else than the group's line does now.
 */
differs: Array<LineDifference>, 
/**
 * What is heard along it, or lies over it, is other than now, or it has markers more.
 */
other_beside: boolean, 
/**
 * Why its shots are there, where it was proposed.
 */
reasons: Array<Shot>, };

export type Seat = { 
/**
 * The channel's name.
 */
channel: string, 
/**
 * Those devices.
 */
devices: Array<DeviceId>, };

export type Seats = { 
/**
 * The microphones.
 */
seats: Array<Seat>, 
/**
 * The devices that show all, the best first.
 */
wide: Array<DeviceId>, 
/**
 * No shot is shorter, seconds.
 */
least_s: number, 
/**
 * It cuts so long before the first word, seconds.
 */
lead_s: number, 
/**
 * Where nobody speaks for so long, all are shown, seconds.
 */
alone_s: number, };

export type FirstCutView = { 
/**
 * Names of the channels of its sound.
 */
channels: Array<string>, 
/**
 * How one was made last in this production; as is usual where none was.
 */
seats: Seats, };

export type LineRead = { 
/**
 * The line that it is kept as.
 */
id: KeptLineId, 
/**
 * The lines that the group keeps, it among them.
 */
kept: Array<KeptLineView>, 
/**
 * How many shots of the document are in it.
 */
shots: number, 
/**
 * How many of its markers.
 */
markers: number, 
/**
 * What of the document is not in it, or otherwise, in sentences.
 */
remarks: Array<string>, };

export type MakeFirstCut = { 
/**
 * What the line is called that it is kept as.
 */
name: string, 
/**
 * Who wears what, and how it cuts.
 */
seats: Seats, };

export type MakeMusicCut = { 
/**
 * What the line is called that it is kept as.
 */
name: string, 
/**
 * It cuts every so many beats,
 */
every: number, 
/**
 * or bars.
 */
bars: boolean, };

export type AssemblyId = number;

export type AssemblyPart = { "is": "line", 
/**
 * The group's number.
 */
group: number, 
/**
 * Those frames.
 */
range?: [number, number], } | { "is": "gap", 
/**
 * How many.
 */
frames: number, } | { "is": "clip", 
/**
 * Which frames of it, and how fast.
 */
layer: Layer, };

export type Assembly = { 
/**
 * Its name.
 */
name: string, 
/**
 * What it is made of.
 */
parts: Array<AssemblyPart>, };

export type AssemblyEdit = { "do": "name", 
/**
 * Its name.
 */
name: string, } | { "do": "put", 
/**
 * Which part, from 0.
 */
at: number, 
/**
 * They.
 */
parts: Array<AssemblyPart>, } | { "do": "move", 
/**
 * Where it is,
 */
from: number, 
/**
 * and where it is then.
 */
to: number, } | { "do": "change", 
/**
 * Which one.
 */
at: number, 
/**
 * What is there instead.
 */
part: AssemblyPart, } | { "do": "take", 
/**
 * Which one.
 */
at: number, } | { "do": "restore", 
/**
 * As it was.
 */
was: Assembly, };

export type AssemblySummary = { 
/**
 * Number.
 */
id: AssemblyId, 
/**
 * Its name.
 */
name: string, 
/**
 * How many parts it has.
 */
parts: number, 
/**
 * It is put aside: not deleted, and can be taken up again.
 */
aside: boolean, };

export type AssemblyPartView = { 
/**
 * The group that is shown now; of a line whose group is not there any more, the one that followed it.
 */
group: GroupId | null, 
/**
 * What it is called: its group, or its clip's file.
 */
name: string, 
/**
 * From and up to which frame of the group's.
 */
range: [number, number], 
/**
 * Labels of the first frame and of the one behind its last, where it is a line.
 */
labels: [Timecode, Timecode] | null, 
/**
 * Where it begins in the assembly, frames.
 */
at: number, 
/**
 * Of a clip, its part on the frames from nought on.
 */
over: AnglePart | null, 
/**
 * Why it is not what was put there.
 */
remark: string | null, };

export type AssemblyView = { 
/**
 * Number.
 */
id: AssemblyId, 
/**
 * It.
 */
assembly: Assembly, 
/**
 * Its parts as they are found now, in their order.
 */
parts: Array<AssemblyPartView>, 
/**
 * The label of its first frame, where it has a line; its rate is the lines'.
 */
start: Timecode | null, 
/**
 * Length in frames.
 */
frames: number, 
/**
 * Why it cannot be one programme.
 */
why_not: string | null, 
/**
 * Version, and what can be undone and redone.
 */
turns: Turns, };

export type MakeAssembly = { name: string, groups: Array<GroupId>, };

export type EditAssembly = { version: number, edit: AssemblyEdit, };

export type TurnAssembly = { version: number, way: "undo" | "redo", };

export type PutAside = { aside: boolean, };

export type NameLine = { name: string, };

export type GoBack = { version: number, };

export type QuietView = { 
/**
 * What is softer was taken for quiet, dBFS.
 */
threshold_db: number, 
/**
 * From which frame of what is shown up to which, in order.
 */
passages: Array<[number, number]>, 
/**
 * Names of the channels that can be judged.
 */
channels: Array<string>, };

export type BalanceDifference = { 
/**
 * Brighter; darker below zero.
 */
brighter: number, 
/**
 * Warmer; cooler below zero.
 */
warmer: number, 
/**
 * Greener; more magenta below zero.
 */
greener: number, };

export type AngleBalance = { angle: AngleId, 
/**
 * By how much; `None` where the two never run together, or nothing is seen in them.
 */
differs: BalanceDifference | null, 
/**
 * The same in words.
 */
said: string | null, 
/**
 * Moments that were looked at.
 */
moments: number, };

export type LtcFound = { 
/**
 * Frames decoded.
 */
frames: number, 
/**
 * Share of the clip that they cover, 0 to 1.
 */
share: number, 
/**
 * Label of the first frame of the count that most frames belong to.
 */
first: Timecode, 
/**
 * Where it begins in the channel, seconds of the clip's own time.
 */
first_s: number, 
/**
 * Share of the decoded frames that belong to that count, 0 to 1: less where the labels jump.
 */
steady: number, 
/**
 * Measured frames a second of the clip's own time.
 */
measured_fps: number, 
/**
 * Times that the labels jumped to another count.
 */
jumps: number, 
/**
 * Frames whose label was that of the frame before: timecode that stands still.
 */
standing: number, 
/**
 * Running backwards.
 */
backwards: boolean, 
/**
 * Year of the century, month and day in its user bits.
 */
date: [number, number, number] | null, };

export type Carries = "sound" | "nothing" | "hum" | "tone" | "noise" | "timecode";

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
 * Samples cut off at full scale: those in runs of three or more.
 */
clipped: number, 
/**
 * Samples that are no numbers (not finite): they count as silence.
 */
no_numbers: number, 
/**
 * Level of its quiet tenth in dB below full scale.
 */
floor_dbfs: number, 
/**
 * What is on it.
 */
carries: Carries, 
/**
 * How much later it hears than the earliest channel of the file, seconds, where one delay holds for all of it.
 */
late_s: number | null, 
/**
 * Audio timecode, where the channel carries it.
 */
audio_timecode: LtcFound | null, };

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

export type BreakEdit = { "do": "add", 
/**
 * The moment, in the clip's own time, seconds.
 */
clip_s: number, 
/**
 * How much later, seconds.
 */
step_s: number, } | { "do": "move", 
/**
 * Which.
 */
number: number, 
/**
 * Where, in the clip's own time, seconds.
 */
clip_s: number, } | { "do": "remove", 
/**
 * Which.
 */
number: number, };

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
disagrees_by_s: number, 
/**
 * Whether a person set it aside: it has no say.
 */
aside: boolean, };

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
 * Share of what sound compared that agreeing windows cover; `None` where it does not lie by its waves.
 */
covered: number | null, 
/**
 * How much later it was laid than its microphone hears, since that is far from what it shows, seconds.
 */
travel_s: number, 
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
rate: FrameRate, 
/**
 * A still: its one frame stands throughout.
 */
still?: boolean, };

export type AngleId = number;

export type Arrange = { "do": "name", 
/**
 * It.
 */
angle: AngleId, 
/**
 * Its name.
 */
name: string | null, } | { "do": "hide", 
/**
 * It.
 */
angle: AngleId, 
/**
 * Whether it is aside.
 */
hidden: boolean, } | { "do": "see_through", 
/**
 * It.
 */
angle: AngleId, 
/**
 * What.
 */
through: SeenThrough | null, } | { "do": "add", 
/**
 * Its name.
 */
name: string | null, } | { "do": "remove", 
/**
 * It.
 */
angle: AngleId, } | { "do": "set_aside", 
/**
 * It.
 */
clip: ClipId, } | { "do": "blank", 
/**
 * It.
 */
angle: AngleId, 
/**
 * First frame of the group,
 */
from: number, 
/**
 * and the first that is shown again.
 */
to: number, };

export type Angle = { 
/**
 * Its number.
 */
id: AngleId, 
/**
 * The device; `None` where it waits for its first clip.
 */
device: DeviceId | null, 
/**
 * What a person calls it; as its device unless given.
 */
name: string | null, 
/**
 * Whether it is set aside: it has no number key, and is off in documents.
 */
hidden: boolean, 
/**
 * What its pictures are seen through; as its device's unless given.
 */
through?: SeenThrough, 
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
 * Component of its clips: 0 for that of the axis, others are islands.
 */
component: number, 
/**
 * Length in frames.
 */
frames: number, 
/**
 * Width of the format in pixels: that of the smallest picture.
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
sound: Angle | null, 
/**
 * The frames that it is trimmed to, from and up to; all of them unless given. What it is made of stays whole, so that it can
 * always be untrimmed, and frames keep their numbers.
 */
window?: [number, number] | null, 
/**
 * Pieces of it, from and up to a frame, that are taken out of all angles: what follows follows at once. In order, apart from
 * each other; they too keep their frames, so that they can be put back.
 */
removed?: Array<[number, number]>, 
/**
 * As it is shown: where pieces are taken out. No part lies over one of these.
 */
seams?: Array<Seam>, 
/**
 * Which tracks are heard, and where, where a person chose it for this group.
 */
grid?: Grid, };

export type Switch = { 
/**
 * Group frame.
 */
at: number, 
/**
 * The angle; [`AngleId::BLACK`] where nothing is shown.
 */
angle: AngleId, 
/**
 * Over how many frames from there on it comes out of what was on before; 0 of a cut.
 */
dissolve?: number, };

export type MarkerColour = "brass" | "moss" | "plum" | "slate";

export type Speed = { num: number, den: number, };

export type Layer = { 
/**
 * The first frame of the line that it covers.
 */
at: number, 
/**
 * How many it covers.
 */
frames: number, 
/**
 * Of which clip.
 */
clip: ClipId, 
/**
 * The clip's frame that it would begin with.
 */
from: number, 
/**
 * How many frames of the line it goes on from there before it is seen: where its head was cut off.
 */
skip?: number, 
/**
 * How fast.
 */
speed: Speed, 
/**
 * Frames in between are made of their neighbours, else each is shown until the next is due.
 */
blended?: boolean, 
/**
 * Its clip's own sound is heard while it lies there, as fast as its pictures go; else what is below goes on.
 */
own_sound?: boolean, };

export type Marker = { 
/**
 * The frame.
 */
at: number, 
/**
 * Its colour.
 */
colour: MarkerColour, 
/**
 * What is said of it.
 */
note: string, };

export type Line = { 
/**
 * Length in frames.
 */
frames: number, switches: Array<Switch>, 
/**
 * What a person marked, in order, one at a frame.
 */
markers?: Array<Marker>, 
/**
 * What lies over it, in order, apart from each other.
 */
layers?: Array<Layer>, 
/**
 * What is heard, as a line of its own: an angle's own sound, and what comes out of the group's grid where that is
 * [`AngleId::BLACK`]. The grid throughout unless given.
 */
sound?: Line, };

export type LineEdit = { "do": "take", 
/**
 * Group frame.
 */
at: number, 
/**
 * The angle to take.
 */
angle: AngleId, 
/**
 * The frame of the take before in the same live run: what was there between the two is gone.
 */
since?: number, 
/**
 * The live run that it is a part of; those of one run are undone together.
 */
run?: number, } | { "do": "hold", 
/**
 * Frame of the last take.
 */
from: number, 
/**
 * Frame at which the run stood still.
 */
to: number, 
/**
 * The run.
 */
run: number, 
/**
 * The switches before the run.
 */
before: Array<Switch>, } | { "do": "dissolve", 
/**
 * Which stretch, from 1.
 */
index: number, 
/**
 * Frames.
 */
frames: number, } | { "do": "fade", 
/**
 * At the head, else at the tail.
 */
head: boolean, 
/**
 * Frames.
 */
frames: number, } | { "do": "sound", 
/**
 * What is done.
 */
edit: LineEdit, } | { "do": "put_marker", 
/**
 * It.
 */
marker: Marker, } | { "do": "take_marker", 
/**
 * Group frame.
 */
at: number, } | { "do": "change_angle", 
/**
 * Which stretch, from 0.
 */
index: number, 
/**
 * The angle to show.
 */
angle: AngleId, } | { "do": "roll", 
/**
 * Which stretch, from 1.
 */
index: number, 
/**
 * Frames; later is positive.
 */
by: number, } | { "do": "slip", 
/**
 * Which stretch, neither the first nor the last.
 */
index: number, 
/**
 * Frames; later is positive.
 */
by: number, } | { "do": "lay", 
/**
 * It.
 */
layer: Layer, } | { "do": "relay", 
/**
 * Which one, from 0.
 */
index: number, 
/**
 * What is there instead.
 */
layer: Layer, } | { "do": "lift", 
/**
 * Which one, from 0.
 */
index: number, } | { "do": "remove", 
/**
 * Which stretch, from 1.
 */
index: number, } | { "do": "clear_after", 
/**
 * Group frame.
 */
at: number, } | { "do": "within", 
/**
 * The frames that are shown, from and up to, in order.
 */
left: Array<[number, number]>, 
/**
 * What is done.
 */
edit: LineEdit, } | { "do": "restore", 
/**
 * The switches to have.
 */
switches: Array<Switch>, 
/**
 * The markers to have, where they are others.
 */
markers?: Array<Marker>, 
/**
 * The layers to have, where they are others.
 */
layers?: Array<Layer>, 
/**
 * The switches of what is heard to have, where they are others.
 */
sound?: Array<Switch>, };

export type OverPart = { 
/**
 * Which of the line's layers, from 0.
 */
layer: number, 
/**
 * The frames and the clip.
 */
part: AnglePart, };

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

export type LogColumn = "scene" | "take" | "camera" | "picture" | "sound" | "circled" | "notes" | "ignore";

export type SlateRow = { 
/**
 * Line of the file, from 1.
 */
line: number, 
/**
 * Scene.
 */
scene: string, 
/**
 * Take.
 */
take: string, 
/**
 * Camera.
 */
camera: string, 
/**
 * Picture files named.
 */
pictures: Array<string>, 
/**
 * Sound files named.
 */
sounds: Array<string>, 
/**
 * Circled.
 */
circled: boolean, 
/**
 * Notes.
 */
notes: string, };

export type SlateLog = { 
/**
 * Its takes.
 */
rows: Array<SlateRow>, };

export type LogPreview = { 
/**
 * Encoding, as guessed.
 */
encoding: string, 
/**
 * Separator, as guessed or chosen.
 */
separator: string, 
/**
 * Headers.
 */
headers: Array<string>, 
/**
 * What each column is taken for.
 */
columns: Array<LogColumn>, 
/**
 * The first lines.
 */
lines: Array<Array<string>>, 
/**
 * The log, read with these columns.
 */
log: SlateLog, };

export type StoredLog = { 
/**
 * Name of its file.
 */
name: string, 
/**
 * Its takes.
 */
log: SlateLog, };

export type Turns = { 
/**
 * Grows with every edit.
 */
version: number, 
/**
 * What undo would take back.
 */
undo: string | null, 
/**
 * What redo would make again.
 */
redo: string | null, };

export type Weight = "fault" | "hurts" | "know";

export type HealthKind = "damaged" | "changed" | "shorter_than_label" | "sound_lost" | "duplicate" | "varying_rate" | "rate_outside" | "mixed_rates" | "odd_sample_rate" | "wrong_speed" | "clock_off" | "timecode_stands" | "timecode_jumps" | "timecode_rate" | "mixed_counting" | "audio_timecode" | "silent_clip" | "dead_channel" | "steady_channel" | "late_channel" | "quiet_channel" | "clipped" | "no_numbers" | "stream_left_out" | "uneven_ends" | "span_gap" | "sound_missing" | "sound_ends" | "slate_clash";

export type HealthNote = { 
/**
 * Stays the same as long as the note is about the same thing; what is set aside is kept by it.
 */
key: string, 
/**
 * Kind.
 */
kind: HealthKind, 
/**
 * How much it matters.
 */
weight: Weight, 
/**
 * The clips it is about; empty where it is about a file that is no clip.
 */
clips: Array<ClipId>, 
/**
 * What was found.
 */
what: string, 
/**
 * What it means for the work to come.
 */
means: string, 
/**
 * What to do.
 */
todo: string, };

export type HealthView = { 
/**
 * The note.
 */
note: HealthNote, 
/**
 * Set aside by a person.
 */
aside: boolean, };

export type SpanView = { 
/**
 * Its clips, in order.
 */
clips: Array<ClipId>, 
/**
 * Seconds missing between each and the next, as the shown pass measured them.
 */
gaps_s: Array<number | null>, 
/**
 * The same in frames of the picture.
 */
gaps_frames: Array<number | null>, };

export type SlateSource = "hand" | "log" | "file";

export type SlateMarkView = { 
/**
 * The moment the sticks close in the picture; it may lie between two frames.
 */
picture_us: number | null, 
/**
 * The peak of the clap in the sound.
 */
sound_us: number | null, 
/**
 * The timecode read off a timecode slate at the picture's mark.
 */
label: string | null, 
/**
 * The scene and take on the slate, where they are not the clip's own.
 */
take: string | null, };

export type ClockNote = { 
/**
 * Device, as the caller names it.
 */
device: number, 
/**
 * The clip, where this is said of it alone, as the caller names it.
 */
clip: number | null, 
/**
 * Kind of label.
 */
kind: EvidenceKind, 
/**
 * What was found and what to do, without the device's name.
 */
text: string, 
/**
 * Frames to take off its labels so that they agree with the reference's; negative ones are to be added.
 */
take_off: number | null, 
/**
 * Frames that are then taken off them in all, with those that were off already; filled in by who knows of these.
 */
frames_in_all: number | null, 
/**
 * Distance of its microphone that its slates show, metres.
 */
metres: number | null, };

export type Island = { 
/**
 * Number of the component; 0 is that of the reference clip that starts the axis.
 */
component: number, 
/**
 * The clip whose clock is the component's axis, as the caller names it.
 */
reference: number, 
/**
 * Where the first of its seconds lies on the axis: the start of that clip, seconds.
 */
zero_s: number, 
/**
 * How well that is known, seconds; `None` where nothing says when the island ran: it is then put behind all others.
 */
sigma_s: number | null, 
/**
 * What says so.
 */
by: EvidenceKind | null, 
/**
 * Seconds of the day at `zero_s`, where a label tells.
 */
day_start_s: number | null, };

export type Changed = { 
/**
 * The clip.
 */
clip: ClipId, 
/**
 * Its verdict in the one pass and in the other; none where it was not in it.
 */
before: Verdict | null, 
/**
 * See `before`.
 */
after: Verdict | null, 
/**
 * How much later it starts, seconds of time of day; none where it has no place in one of them.
 */
moved_s: number | null, };

export type ByHand = { 
/**
 * The clip.
 */
clip: ClipId, 
/**
 * Where it starts on the axis, microseconds.
 */
start_us: number, };

export type ChangeBreak = { 
/**
 * The clip.
 */
clip: ClipId, 
/**
 * What is changed.
 */
edit: BreakEdit, };

export type SetAside = { 
/**
 * The clip.
 */
clip: ClipId, 
/**
 * The kind of evidence.
 */
kind: EvidenceKind, 
/**
 * The clip it was measured against, as the evidence names it.
 */
against: ClipId | null, 
/**
 * Whether it is to have no say.
 */
aside: boolean, };

export type NamePass = { 
/**
 * The name.
 */
name: string, };

export type Clap = { 
/**
 * Its peak in the clip's own time, seconds.
 */
at_s: number, 
/**
 * How far it looks like a clap, 0 to 1.
 */
score: number, 
/**
 * Why, in words.
 */
why: string, };

export type ClapView = { 
/**
 * The claps.
 */
claps: Array<Clap>, };

export type SeenClap = { 
/**
 * When it is seen, seconds of the clip's own time.
 */
seen_s: number, 
/**
 * When its own sound has it, likewise.
 */
heard_s: number, 
/**
 * Standard deviation of the moment it is seen, seconds.
 */
sigma_s: number, 
/**
 * How far the strike stands out in the picture, 0 to 1.
 */
score: number, };

export type IntakeChange = { "do": "device", 
/**
 * The clips.
 */
clips: Array<ClipId>, 
/**
 * Their device.
 */
device: DeviceId, } | { "do": "part", 
/**
 * The clips.
 */
clips: Array<ClipId>, 
/**
 * Their part.
 */
part: Part, } | { "do": "day", 
/**
 * The clips.
 */
clips: Array<ClipId>, 
/**
 * The day.
 */
day: string, } | { "do": "slate", 
/**
 * The clips.
 */
clips: Array<ClipId>, 
/**
 * Scene.
 */
scene: string | null, 
/**
 * Take.
 */
take: string | null, 
/**
 * Notes.
 */
notes: string | null, 
/**
 * Circled.
 */
circled: boolean | null, } | { "do": "join", 
/**
 * The clips.
 */
clips: Array<ClipId>, } | { "do": "separate", 
/**
 * The clips.
 */
clips: Array<ClipId>, } | { "do": "name_device", 
/**
 * The device.
 */
device: DeviceId, 
/**
 * One or two letters.
 */
letter: string, 
/**
 * Its name.
 */
name: string, } | { "do": "move_device", 
/**
 * The device.
 */
device: DeviceId, 
/**
 * Places to move down; below zero up.
 */
by: number, } | { "do": "mark", 
/**
 * The clip.
 */
clips: Array<ClipId>, 
/**
 * What is marked, one for each clap.
 */
marks: Array<SlateMarkView>, } | { "do": "distance", 
/**
 * The device.
 */
device: DeviceId, 
/**
 * Centimetres.
 */
distance_cm: number, } | { "do": "clip_distance", 
/**
 * The clips.
 */
clips: Array<ClipId>, 
/**
 * Centimetres.
 */
distance_cm: number | null, } | { "do": "take_off", 
/**
 * The device.
 */
device: DeviceId, 
/**
 * Which of its timecodes.
 */
kind: EvidenceKind, 
/**
 * Frames; negative ones are added.
 */
frames: number, } | { "do": "see_through", 
/**
 * The device.
 */
device: DeviceId, 
/**
 * The LUT.
 */
lut: LutKey | null, } | { "do": "set_aside", 
/**
 * Key of the note.
 */
key: string, 
/**
 * Whether it is aside from now on.
 */
aside: boolean, } | { "do": "take_log", 
/**
 * The log.
 */
log: StoredLog, } | { "do": "drop_log" };

export type ClipDetail = { 
/**
 * The clip.
 */
clip: ClipId, 
/**
 * Where the file is.
 */
path: string, 
/**
 * The folder that was taken in.
 */
root: string, 
/**
 * Fingerprint of its content.
 */
fingerprint: string, 
/**
 * What the file says of itself, as read.
 */
tags: { [key in string]: string }, 
/**
 * Container format.
 */
container: string, };

export type TakenOff = { 
/**
 * Off the timecode in its files.
 */
file_timecode: number, 
/**
 * Off the timecode on its sound.
 */
audio_timecode: number, 
/**
 * Off the timecode that stands on its slates.
 */
slate: number, };

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
clips: number, 
/**
 * Distance of its microphone from what it shows, metres; 0 where none is given.
 */
distance_m: number, 
/**
 * Frames taken off its timecodes.
 */
taken_off: TakenOff, 
/**
 * What its pictures are seen through.
 */
lut: LutKey | null, };

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
 * Shoot day, where it is known.
 */
day: string | null, 
/**
 * Scene: as a person set it, else as the slate log has it, else as the file says.
 */
scene: string | null, 
/**
 * Take, likewise.
 */
take: string | null, 
/**
 * Notes, likewise.
 */
notes: string | null, 
/**
 * Circled, likewise.
 */
circled: boolean, 
/**
 * Where scene and take come from.
 */
slate_source: SlateSource | null, 
/**
 * The first clip of its span.
 */
span: ClipId | null, 
/**
 * Its file is not where it was.
 */
missing: boolean, 
/**
 * Channel states, once listened to.
 */
channels: Array<ChannelState> | null, 
/**
 * Decoded samples of each channel.
 */
samples: number | null, 
/**
 * Its frames, once they were decoded.
 */
timing: FrameTiming | null, 
/**
 * What is marked of its slates, one for each clap.
 */
marks: Array<SlateMarkView>, 
/**
 * Distance of its microphone from what it shows, metres, where it has one of its own; else its device's counts.
 */
distance_m: number | null, 
/**
 * Its frames were seen to wander.
 */
frames_vary: boolean, 
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
code: NoteCode, 
/**
 * What happened and what to do.
 */
message: string, };

export type PassFacts = { 
/**
 * What it is called: what was asked for, or what a person named it.
 */
name: string, 
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
took_s: number, 
/**
 * What is said once for a device.
 */
notes: Array<ClockNote>, 
/**
 * Its components and where each lies on the day.
 */
islands: Array<Island>, };

export type PassView = { 
/**
 * Number in the store.
 */
id: PassId, 
/**
 * Running number.
 */
number: number, 
/**
 * What it is called: what was asked for, or what a person named it.
 */
name: string, 
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
took_s: number, 
/**
 * What is said once for a device.
 */
notes: Array<ClockNote>, 
/**
 * Its components and where each lies on the day.
 */
islands: Array<Island>, };

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
id: GroupId, 
/**
 * The group.
 */
group: Group, 
/**
 * How many angles run when, from its head to its tail.
 */
coverage: Array<Covered>, 
/**
 * Switches in its line.
 */
switches: number, 
/**
 * How pictures of other rates than its own are shown.
 */
converted: Array<[FrameRate, Conversion]>, 
/**
 * Whether a person put it together: a later pass leaves it as it is.
 */
cast: boolean, 
/**
 * Whether a person named it, put its angles in order or trimmed it.
 */
shaped: boolean, 
/**
 * Frames of all that it is made of, and those of them that it is trimmed to.
 */
whole_frames: number, 
/**
 * From and up to.
 */
window: [number, number], 
/**
 * The frames of all of it that are shown, from and up to, in order: within the window, without what is taken out.
 */
left: Array<[number, number]>, };

export type Follower = { 
/**
 * Number.
 */
id: GroupId, 
/**
 * Its name.
 */
name: string, };

export type GroupView = { 
/**
 * Number.
 */
id: GroupId, 
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
labels: Array<Timecode>, 
/**
 * The line's layers as parts on its frames, in their order; without those whose clips are not known any more.
 */
over: Array<OverPart>, 
/**
 * The group that a newer pass made of its clips, where this one is of a pass that is no longer shown.
 */
followed_by: Follower | null, };

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

export type Question = "places" | "ends" | "clocks" | "sound" | "breaks";

export type Answer = { 
/**
 * What was looked at.
 */
question: Question, 
/**
 * Whether all is well.
 */
well: boolean, 
/**
 * A sentence.
 */
text: string, 
/**
 * The clips it is about, the worst first.
 */
clips: Array<ClipId>, };

export type Mode = "day" | "playback";

export type Effort = "normal" | "deep";

export type Near = { 
/**
 * The clip to place.
 */
clip: ClipId, 
/**
 * The clip it is laid against.
 */
against: ClipId, 
/**
 * Where it might start on the axis, milliseconds.
 */
start_ms: number, 
/**
 * How far either way to look, milliseconds.
 */
within_ms: number, };

export type PassPlan = { 
/**
 * Whether the day ran once or was performed to a track.
 */
mode: Mode, 
/**
 * How much to spend on each clip.
 */
effort: Effort, 
/**
 * Only these are placed anew; all others stay as the pass that is shown has them. All where `None`.
 */
clips: Array<ClipId> | null, 
/**
 * One clip only, near a place.
 */
near: Near | null, 
/**
 * Only the clips of this shoot day; what a person laid stays.
 */
day: string | null, };

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
clip: ClipId, } | { "kind": "relink", 
/**
 * Absolute path, allowed and canonical.
 */
folder: string, } | { "kind": "pass", 
/**
 * Reference device; chosen by the engine unless given.
 */
reference: DeviceId | null, 
/**
 * How and what.
 */
plan: PassPlan, } | { "kind": "sound", 
/**
 * Which, and how.
 */
order: SoundOrder, } | { "kind": "film", 
/**
 * Which, and how.
 */
order: FilmOrder, };

export type JobName = "intake" | "listen" | "proxy" | "relink" | "pass" | "sound" | "film";

export type ClipJob = { 
/**
 * The clip.
 */
clip: ClipId, 
/**
 * Share done, 0 to 1.
 */
share: number, 
/**
 * Why it failed, where it did.
 */
failed: string | null, };

export type JobSummary = { 
/**
 * Its kind.
 */
kind: JobName, 
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
message: string | null, 
/**
 * The clips it is at work on or failed at.
 */
clips: Array<ClipJob>, };

export type Finding = "right" | "aside";

export type Look = { 
/**
 * The clip.
 */
clip: ClipId, 
/**
 * What was decided.
 */
finding: Finding, 
/**
 * Where it lay then, microseconds on the axis; none where it had no place. Elsewhere, it needs another look.
 */
start_us: number | null, 
/**
 * When, seconds since 1970.
 */
at: number, };

export type Checked = { 
/**
 * Who says so.
 */
who: string, 
/**
 * When, seconds since 1970.
 */
at: number, 
/**
 * Clips that were looked at then.
 */
looked: number, };

export type Along = "start" | "middle" | "end";

export type CheckPoint = { 
/**
 * Where along what the two share.
 */
along: Along, 
/**
 * The moment in the clip's own time, seconds.
 */
clip_s: number, 
/**
 * The same moment in the other's own time.
 */
there_s: number, 
/**
 * How far it stands out of what came before, in the one in which it does so less, decibels.
 */
sharp_db: number, };

export type Needle = { 
/**
 * How much later the clip should lie, seconds.
 */
later_s: number, 
/**
 * Whether that match stands clear of all others in reach.
 */
clear: boolean, 
/**
 * Height of the match in standard deviations of all places that were looked at.
 */
height: number, 
/**
 * One of the two is inverted.
 */
inverted: boolean, };

export type Correction = "resample" | "recut" | "leave";

export type Proposal = { 
/**
 * What to do.
 */
correction: Correction, 
/**
 * How much later than it should its worst run would end if it were left alone, seconds.
 */
late_s: number, 
/**
 * The reason, with its numbers.
 */
why: string, };

export type Fill = "silence" | "close";

export type Handling = { 
/**
 * What is done about its clock; what is proposed unless given.
 */
correction: Correction | null, 
/**
 * What stands for what it lost.
 */
fill: Fill, };

export type Layout = "poly" | "split";

export type Container = "wave" | "mov" | "mxf" | "linked";

export type OwnSound = "muted" | "replaced";

export type Depth = "pcm24" | "float32";

export type GroupTracks = "recorded" | "grid" | "both";

export type SoundForm = { 
/**
 * What holds the sound of a picture; that of a group is sound alone.
 */
container: Container, 
/**
 * What becomes of a picture's own sound where it is written again.
 */
own: OwnSound, 
/**
 * How tracks of sound alone are shared out among files.
 */
layout: Layout, 
/**
 * How samples are written.
 */
depth: Depth, 
/**
 * Samples a second; those of the recordings unless given.
 */
rate: number | null, 
/**
 * So much more on both sides, milliseconds.
 */
handles_ms: number, 
/**
 * A re-cut sound is never further off than this, milliseconds.
 */
recut_ms: number, 
/**
 * Channels that carry timecode too.
 */
with_timecode: boolean, 
/**
 * The cameras' own sound too.
 */
scratch: boolean, 
/**
 * Which tracks the sound of a group has.
 */
of_groups: GroupTracks, };

export type TrackKey = { 
/**
 * Its device; that of every device, and all that lie beside each other, where `None`.
 */
device: DeviceId | null, 
/**
 * Its name in the files.
 */
name: string | null, 
/**
 * Its channel, from 0; 0 where it has a name.
 */
channel: number, 
/**
 * As [`Track::lane`].
 */
lane: number, };

export type Ear = "both" | "left" | "right";

export type GridOutput = { 
/**
 * Its name.
 */
name: string, 
/**
 * Where it is heard.
 */
ear: Ear, 
/**
 * Nothing comes out of it.
 */
muted: boolean, 
/**
 * What cameras heard goes to it only while their picture is shown.
 */
follows: boolean, };

export type Crosspoint = { 
/**
 * The track.
 */
source: TrackKey, 
/**
 * Number of the output.
 */
output: number, 
/**
 * How much louder than it is, dB.
 */
level_db: number, 
/**
 * Turned upside down.
 */
inverted: boolean, 
/**
 * Whether it is open; one that is not keeps its level.
 */
on: boolean, };

export type Grid = { 
/**
 * What comes out.
 */
outputs: Array<GridOutput>, 
/**
 * Where tracks go to them.
 */
points: Array<Crosspoint>, 
/**
 * Tracks that go nowhere for now.
 */
muted: Array<TrackKey>, };

export type NamedGrid = { 
/**
 * Its name.
 */
name: string, 
/**
 * It.
 */
grid: Grid, };

export type GridChange = { "do": "cross", 
/**
 * It.
 */
source: TrackKey, 
/**
 * Number of the output.
 */
output: number, 
/**
 * Whether it goes there.
 */
on: boolean, } | { "do": "level", 
/**
 * It.
 */
source: TrackKey, 
/**
 * Number of the output.
 */
output: number, 
/**
 * As [`Crosspoint::level_db`].
 */
level_db: number, } | { "do": "invert", 
/**
 * It.
 */
source: TrackKey, 
/**
 * Number of the output.
 */
output: number, 
/**
 * Whether it does.
 */
inverted: boolean, } | { "do": "mute", 
/**
 * It.
 */
source: TrackKey, 
/**
 * Whether it is silent.
 */
muted: boolean, } | { "do": "add_output" } | { "do": "output", 
/**
 * Its number.
 */
output: number, 
/**
 * As it is then.
 */
now: GridOutput, } | { "do": "remove_output", 
/**
 * Its number.
 */
output: number, };

export type GridOrigin = { "from": "own" } | { "from": "usual", 
/**
 * Its name.
 */
name: string, } | { "from": "first" };

export type GridSource = { 
/**
 * What it is known by.
 */
key: TrackKey, 
/**
 * What it is called.
 */
name: string, 
/**
 * Its device's name.
 */
device: string, 
/**
 * Whether that takes pictures.
 */
camera: boolean, };

export type GridView = { 
/**
 * Which tracks go where.
 */
grid: Grid, 
/**
 * Where it comes from.
 */
origin: GridOrigin, 
/**
 * The tracks, in the order of those that are heard.
 */
sources: Array<GridSource>, 
/**
 * What each is multiplied by, output by output.
 */
factors: Array<Array<number>>, 
/**
 * The tracks as they are heard.
 */
heard: HeardView, 
/**
 * Names of the grids that are kept.
 */
kept: Array<string>, 
/**
 * The one that groups have unless given another.
 */
usual: string | null, };

export type GridStep = { "do": "change", 
/**
 * How.
 */
change: GridChange, } | { "do": "take", 
/**
 * The name.
 */
name: string, } | { "do": "usual" } | { "do": "keep", 
/**
 * The name.
 */
name: string, 
/**
 * Whether groups have it unless given another.
 */
usual: boolean, } | { "do": "drop", 
/**
 * Its name.
 */
name: string, };

export type TrackChoice = { 
/**
 * What they are called, as [`track_names`] reads it; as the recordings have it where empty.
 */
pattern: string, 
/**
 * Those that come first, in this order; the rest follow as they are laid.
 */
order: Array<TrackKey>, 
/**
 * Those that are left out.
 */
off: Array<TrackKey>, };

export type SoundHabit = { 
/**
 * How files are written.
 */
form: SoundForm, 
/**
 * Folder that files go to; the production's own where empty.
 */
folder: string, 
/**
 * Which tracks go out, in which order, and what they are called.
 */
tracks: TrackChoice, 
/**
 * Grids that are kept for other groups, by name.
 */
grids: Array<NamedGrid>, 
/**
 * The name of the one that groups have unless given another.
 */
usual_grid: string | null, 
/**
 * What holds for every sound that nothing else was chosen for.
 */
all: Handling, 
/**
 * For all sounds of a device.
 */
devices: Array<[DeviceId, Handling]>, 
/**
 * For one sound.
 */
clips: Array<[ClipId, Handling]>, };

export type SoundChange = { "do": "form", 
/**
 * How.
 */
form: SoundForm, } | { "do": "folder", 
/**
 * As [`SoundHabit::folder`].
 */
folder: string, } | { "do": "name_tracks", 
/**
 * As [`TrackChoice::pattern`].
 */
pattern: string, } | { "do": "order_tracks", 
/**
 * Those that come first.
 */
order: Array<TrackKey>, } | { "do": "switch_tracks", 
/**
 * Those.
 */
tracks: Array<TrackKey>, 
/**
 * Whether they are left out.
 */
off: boolean, } | { "do": "keep_grid", 
/**
 * It.
 */
grid: NamedGrid, 
/**
 * Whether groups have it unless given another; as it is unless given.
 */
usual: boolean | null, } | { "do": "drop_grid", 
/**
 * Its name.
 */
name: string, } | { "do": "usual_grid", 
/**
 * Its name.
 */
name: string | null, } | { "do": "correct", 
/**
 * Devices.
 */
devices: Array<DeviceId>, 
/**
 * Clips.
 */
clips: Array<ClipId>, 
/**
 * What is done.
 */
handling: Handling | null, };

export type MadeState = "planned" | "written" | "there" | "failed";

export type TrackReport = { name: string, device: string, 
/**
 * Channel in its files, from 1.
 */
channel: number, 
/**
 * Largest sample; `None` where it is silent or was not looked at.
 */
peak_dbfs: number | null, };

export type SourceReport = { 
/**
 * The files that it is made of, and their device.
 */
files: Array<string>, device: string, correction: Correction, fill: Fill, 
/**
 * What was proposed, and why.
 */
why: string, 
/**
 * How much faster its clock runs than the one that leads, on the whole.
 */
rate_ppm: number, 
/**
 * The picture's own sound is the same signal: it was laid by that.
 */
by_cable: boolean, 
/**
 * Its extent in the file, seconds.
 */
from_s: number, to_s: number, 
/**
 * Pieces that it lies in: 1 where it lies in one.
 */
pieces: number, };

export type HoleReport = { device: string, from_s: number, to_s: number, };

export type MadeReport = { 
/**
 * Below the output folder, with forward slashes.
 */
path: string, 
/**
 * Path of the picture clip, or the group's name.
 */
belongs_to: string, state: MadeState, 
/**
 * What went wrong.
 */
message?: string | null, sample_rate: number, bits: number, 
/**
 * Samples a track.
 */
samples: number, 
/**
 * Samples since midnight at the first.
 */
time_reference: number, 
/**
 * The timecode that is there.
 */
timecode: string | null, tracks: Array<TrackReport>, sources: Array<SourceReport>, 
/**
 * Where a device was not running: silence.
 */
holes: Array<HoleReport>, 
/**
 * Samples that were too loud for the form.
 */
clipped: number, bytes: number, 
/**
 * BLAKE3 hash of the content.
 */
hash: string, 
/**
 * Tells what it is made of, and how, from everything else.
 */
uid: string, };

export type SoundFileView = { 
/**
 * The picture that it lies along; null for a group.
 */
clip: ClipId | null, 
/**
 * What lies in it, and what became of it.
 */
report: MadeReport, };

export type Without = { 
/**
 * Path of the picture, or name of the group.
 */
path: string, 
/**
 * Why.
 */
why: string, };

export type TrackOffered = { key: TrackKey, 
/**
 * What its files call it, else its device and channel.
 */
name: string, 
/**
 * Its device's name.
 */
device: string, 
/**
 * How many pictures it runs under.
 */
pictures: number, 
/**
 * Whether it is left out.
 */
off: boolean, };

export type SoundView = { 
/**
 * What is chosen.
 */
habit: SoundHabit, 
/**
 * What of that can be undone and redone.
 */
turns: Turns, 
/**
 * Folder that files go to.
 */
folder: string, 
/**
 * Others that they may go to, or below.
 */
folders: Array<string>, 
/**
 * The tracks that run under pictures and groups, in the order chosen.
 */
tracks: Array<TrackOffered>, 
/**
 * A file for each picture that has sound.
 */
clips: Array<SoundFileView>, 
/**
 * A file for each group.
 */
groups: Array<SoundFileView>, 
/**
 * What there is no sound for, and why.
 */
without: Array<Without>, };

export type HeardView = { 
/**
 * What it is asked for by; another where anything in it is another.
 */
name: string, 
/**
 * Samples a second.
 */
rate: number, 
/**
 * Length in samples.
 */
samples: number, 
/**
 * The moment at its first sample: of the picture clip's own time; 0, the beginning, for a group.
 */
begins_s: number, 
/**
 * Its tracks, in the order of the samples.
 */
tracks: Array<TrackReport>, };

export type EditSound = { version: number, change: SoundChange, };

export type WriteSound = { made_for: SoundFor, 
/**
 * Only these pictures; all where null.
 */
clips: Array<ClipId> | null, 
/**
 * Files that are there under the same names are replaced.
 */
replace: boolean, };

export type SoundFor = "clips" | "groups";

export type SoundOrder = { 
/**
 * What files are made for.
 */
made_for: SoundFor, 
/**
 * Only these picture clips; all where `None`.
 */
clips: Array<ClipId> | null, 
/**
 * What was chosen when it was ordered.
 */
habit: SoundHabit, 
/**
 * Files that are there under the same names are replaced.
 */
replace: boolean, };

export type Codec = "h264" | "h265" | "av1" | "vc3" | "rdd36" | "ffv1";

export type Wrapper = "mp4" | "mov" | "mxf" | "atom" | "mkv";

export type Grade = "small" | "good" | "fine" | "recorded";

export type FilmSound = "mix" | "tracks" | "both" | "silent";

export type BurnIn = { 
/**
 * The clip's name.
 */
name: boolean, 
/**
 * Timecode: the clip's own, and the film's where that is another.
 */
timecode: boolean, 
/**
 * Scene and take.
 */
scene: boolean, 
/**
 * Notes.
 */
notes: boolean, };

export type FilmForm = { 
/**
 * Of its pictures.
 */
codec: Codec, 
/**
 * What holds it.
 */
wrapper: Wrapper, 
/**
 * How much of the pictures is kept.
 */
grade: Grade, 
/**
 * Rows of pixels; as many as its pictures have unless given.
 */
height: number | null, 
/**
 * What is heard.
 */
sound: FilmSound, 
/**
 * What is written into the pictures.
 */
burn: BurnIn, 
/**
 * Whether pictures are as they are seen through viewing LUTs; else as they were recorded.
 */
through: boolean, };

export type FilmOf = { "of": "line", 
/**
 * The group.
 */
group: GroupId, } | { "of": "wall", 
/**
 * The group.
 */
group: GroupId, } | { "of": "angle", 
/**
 * The group.
 */
group: GroupId, 
/**
 * The angle.
 */
angle: AngleId, } | { "of": "assembly", 
/**
 * The assembly.
 */
assembly: AssemblyId, } | { "of": "clip", 
/**
 * The clip.
 */
clip: ClipId, };

export type FilmOrder = { 
/**
 * Its path below the folder, without what says what holds it.
 */
stem: string, 
/**
 * How it is coded.
 */
form: FilmForm, 
/**
 * The folder that it goes to; the production's own where empty.
 */
folder: string, 
/**
 * Whether a file that is there under its name is replaced.
 */
replace: boolean, } & ({ "of": "line", 
/**
 * The group.
 */
group: GroupId, } | { "of": "wall", 
/**
 * The group.
 */
group: GroupId, } | { "of": "angle", 
/**
 * The group.
 */
group: GroupId, 
/**
 * The angle.
 */
angle: AngleId, } | { "of": "assembly", 
/**
 * The assembly.
 */
assembly: AssemblyId, } | { "of": "clip", 
/**
 * The clip.
 */
clip: ClipId, });

export type JobId = number;

export type JobState = "queued" | "running" | "done" | "failed" | "stopped";

export type QueuedFilm = { 
/**
 * Its number.
 */
id: JobId, 
/**
 * What it is.
 */
order: FilmOrder, 
/**
 * How far it is.
 */
state: JobState, 
/**
 * Frames that are made.
 */
done: number, 
/**
 * And in all.
 */
total: number, 
/**
 * What became of it.
 */
message: string | null, };

export type CodecView = { codec: Codec, 
/**
 * Its specification.
 */
name: string, 
/**
 * What can hold it, the usual one first.
 */
wrappers: Array<Wrapper>, };

export type FilmView = { 
/**
 * Its file's path below its folder.
 */
path: string, 
/**
 * Frames a second that are made just now, where it is being made.
 */
pace: number | null, 
/**
 * Whether its file is there.
 */
there: boolean, 
/**
 * Its number.
 */
id: JobId, 
/**
 * What it is.
 */
order: FilmOrder, 
/**
 * How far it is.
 */
state: JobState, 
/**
 * Frames that are made.
 */
done: number, 
/**
 * And in all.
 */
total: number, 
/**
 * What became of it.
 */
message: string | null, };

export type FilmsView = { 
/**
 * In the order of the queue; what is done comes last.
 */
films: Array<FilmView>, 
/**
 * What can be chosen.
 */
codecs: Array<CodecView>, 
/**
 * The production's own folder.
 */
own: string, 
/**
 * Others that films may go to, or below.
 */
folders: Array<string>, };

export type FilmsOf = "lines" | "walls" | "angles" | "clips" | "assemblies";

export type OrderFilms = { what: FilmsOf, 
/**
 * Only of these groups; of all where null.
 */
groups: Array<GroupId> | null, 
/**
 * Only of these clips; of all where null.
 */
clips: Array<ClipId> | null, 
/**
 * Only of these assemblies; of all where it is not given.
 */
assemblies?: Array<AssemblyId>, form: FilmForm, 
/**
 * Where they go: the production's own folder where empty.
 */
folder: string, 
/**
 * Files that are there under their names are replaced.
 */
replace: boolean, };

export type BundleView = { 
/**
 * Files of media.
 */
files: number, 
/**
 * Bytes of all of it.
 */
bytes: number, };

export type PrinterView = { 
/**
 * Its program; null where there is none.
 */
program: string | null, };

export type FilmsOrdered = { films: number, };

export type FilmStep = "next" | "stop" | "again" | "forget";

export type DriftView = { 
/**
 * Moments of the clip's own time and what is left there.
 */
residuals: Array<Residual>, 
/**
 * How its sound is best corrected to the axis's clock; null where it has no place or no sound.
 */
proposal: Proposal | null, };

export type LookAt = { clips: Array<ClipId>, 
/**
 * Null asks for another look.
 */
finding: Finding | null, };

export type Declare = { who: string | null, };

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
 * What will hurt later.
 */
health: Array<HealthView>, 
/**
 * Chains of files.
 */
spans: Array<SpanView>, 
/**
 * Name of the slate log that was taken.
 */
slate_log: string | null, 
/**
 * Files the slate log names and no clip has.
 */
log_missing: Array<string>, 
/**
 * What can be undone and redone of what was chosen at intake.
 */
intake: Turns, };

export type ShownPass = { 
/**
 * What can be undone and redone of which pass is shown.
 */
shown: Turns, 
/**
 * All passes, oldest first.
 */
passes: Array<PassView>, 
/**
 * The pass that is shown.
 */
pass: PassView | null, 
/**
 * What can be undone and redone of its name.
 */
named: Turns, 
/**
 * Its placements.
 */
placements: Array<PlacementView>, 
/**
 * Its verdicts.
 */
counts: CutCounts, 
/**
 * What it says of the whole day.
 */
review: Array<Answer>, 
/**
 * Clips that a person looked at where it has them.
 */
looks: Array<Look>, 
/**
 * Who declared it checked.
 */
checked: Checked | null, 
/**
 * What can be undone and redone of looks.
 */
round: Turns, 
/**
 * Its groups.
 */
groups: Array<GroupSummary>, 
/**
 * What can be undone and redone of them.
 */
groups_turns: Turns, };

export type SomeClips = { clips: Array<ClipView>, health: Array<HealthView>, notes: Array<NoteView>, };

export type ArrivingClip = { 
/**
 * The clip.
 */
clip: ClipId, 
/**
 * Start on the axis of its shoot day, seconds.
 */
start_s: number, 
/**
 * The time of day at which it begins, seconds, where the axis's clip has a clock.
 */
at_s: number | null, 
/**
 * Whether little can change about it.
 */
sure: boolean, };

export type Event = { "event": "day" } | { "event": "clips", 
/**
 * Which.
 */
clips: Array<ClipId>, } | { "event": "pass" } | { "event": "sound" } | { "event": "films" } | { "event": "filming", 
/**
 * It.
 */
film: JobId, 
/**
 * Frames that are made.
 */
done: number, 
/**
 * Frames a second.
 */
pace: number | null, } | { "event": "line", 
/**
 * The group.
 */
group: GroupId, 
/**
 * Its version now.
 */
version: number, } | { "event": "assembly", 
/**
 * It.
 */
assembly: AssemblyId, 
/**
 * Its version now.
 */
version: number, } | { "event": "said", 
/**
 * The sentence.
 */
text: string, } | { "event": "arriving", 
/**
 * Since the last time.
 */
clips: Array<ArrivingClip>, } | { "event": "jobs", 
/**
 * By kind.
 */
jobs: Array<JobSummary>, };

export type Refusal = { 
/**
 * What happened and what to do.
 */
error: string, };

export type Arrived = { 
/**
 * Bytes.
 */
have: number, 
/**
 * All of it is here.
 */
complete: boolean, };

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

export type NewDevice = { 
/**
 * Its name.
 */
name: string, 
/**
 * Clips that are its from now on.
 */
clips: Array<ClipId>, };

export type PeaksView = { 
/**
 * Beginning in the clip's own time, seconds.
 */
from_s: number, 
/**
 * End in the clip's own time, seconds.
 */
to_s: number, 
/**
 * For each channel: lowest, highest and root-mean-square sample of each bin in turn; 32 767 is full scale.
 */
channels: Array<Array<number>>, };

export type GroupBy = { "by": "takes" } | { "by": "runs" } | { "by": "pauses", 
/**
 * A pause is where fewer ran than these,
 */
fewer_than: number, 
/**
 * for so long, seconds.
 */
least_s: number, } | { "by": "scenes" } | { "by": "device", 
/**
 * The device.
 */
device: DeviceId, } | { "by": "day" };

export type GroupChange = { "do": "rename", 
/**
 * It.
 */
group: GroupId, 
/**
 * Its name.
 */
name: string, } | { "do": "rename_all", 
/**
 * Each with its name.
 */
names: Array<[GroupId, string]>, } | { "do": "move", 
/**
 * It.
 */
group: GroupId, 
/**
 * Its place then, from 0.
 */
to: number, } | { "do": "format", 
/**
 * It.
 */
group: GroupId, 
/**
 * Its format as it is shown.
 */
format: GroupFormat, } | { "do": "arrange", 
/**
 * It.
 */
group: GroupId, 
/**
 * How.
 */
how: Arrange, } | { "do": "move_angle", 
/**
 * Its group.
 */
group: GroupId, 
/**
 * Its place,
 */
from: number, 
/**
 * and the one it takes.
 */
to: number, } | { "do": "trim", 
/**
 * It.
 */
group: GroupId, 
/**
 * Frames of all of it, from and up to.
 */
window: [number, number] | null, } | { "do": "take_out", 
/**
 * The group.
 */
group: GroupId, 
/**
 * From and up to which frame.
 */
pieces: Array<[number, number]>, } | { "do": "put_back", 
/**
 * The group.
 */
group: GroupId, 
/**
 * The frame.
 */
at: number, } | { "do": "split", 
/**
 * It.
 */
group: GroupId, 
/**
 * First frame of the second.
 */
at: number, } | { "do": "duplicate", 
/**
 * It.
 */
group: GroupId, } | { "do": "delete", 
/**
 * Those.
 */
groups: Array<GroupId>, };

export type EditGroups = { version: number, change: GroupChange, };

export type MergeGroups = { version: number, groups: Array<GroupId>, };

export type NameGroups = { 
/**
 * The version it is made on, where the names are to be given; else they are only shown.
 */
version: number | null, 
/**
 * Text with `{production}`, `{day}`, `{scene}`, `{take}`, `{name}` and `{number}` in it.
 */
pattern: string, 
/**
 * Those; all of them where empty.
 */
groups: Array<GroupId>, 
/**
 * The number of the first.
 */
first: number, };

export type GroupNamed = { group: GroupId, name: string, };

export type Beside = { clip: ClipId, 
/**
 * The frame of the group as it is shown at which its picture begins; `None` where it does not run with the group.
 */
at: number | null, };

export type TakeClip = { version: number, clip: ClipId, 
/**
 * The angle it goes into; one of its device with room, or one of its own, unless given.
 */
angle: AngleId | null, 
/**
 * The frame of the group as it is shown at which its picture is to begin; where it lies in the day unless given.
 */
at: number | null, 
/**
 * The clip that goes for it.
 */
instead: ClipId | null, };

export type NudgeClip = { version: number, clip: ClipId, 
/**
 * So much later, seconds.
 */
by_s: number, };

export type MovedClip = { clip: ClipId, 
/**
 * So many frames of the group later.
 */
frames: number, };

export type RelayClips = { version: number, clips: Array<ClipId>, };

export type StartsAt = { "from": "day" } | { "from": "zero" } | { "from": "hour" } | { "from": "clip", 
/**
 * It.
 */
clip: ClipId, } | { "from": "typed", 
/**
 * The label.
 */
label: string, };

export type FormatGroup = { version: number, rate: FrameRate, 
/**
 * Whether it counts drop-frame.
 */
drop: boolean, width: number, height: number, start: StartsAt, };

export type Conversion = "none" | { "repeated": number } | { "skipped": number } | "some_twice" | "some_left_out";

export type Covered = { 
/**
 * First frame.
 */
from: number, 
/**
 * First frame after it.
 */
to: number, 
/**
 * How many angles run, of those that are switched to.
 */
angles: number, };

export type GroupFormat = { 
/**
 * Label of its first frame, and how it counts.
 */
start: Timecode, 
/**
 * Width in pixels.
 */
width: number, 
/**
 * Height in pixels.
 */
height: number, };

export type AcceptGroups = { version: number, by: GroupBy, 
/**
 * Their places among those proposed; all where null.
 */
only: Array<number> | null, };

export type GroupsMade = { 
/**
 * How many are new.
 */
made: number, 
/**
 * The one, where it is one.
 */
group: GroupId | null, };

export type Running = { device: DeviceId | null, 
/**
 * Frames, from and up to.
 */
parts: [number, number][], };

export type Difference = { 
/**
 * So many of its frames later it begins; earlier where negative.
 */
begins: number, 
/**
 * So many of its frames later it ends.
 */
ends: number, 
/**
 * Clips that only it has.
 */
more: number, 
/**
 * Clips that only the other has.
 */
fewer: number, };

export type Seam = { 
/**
 * The first frame behind it.
 */
at: number, 
/**
 * How many frames are taken out there.
 */
frames: number, };

export type Like = { group: GroupId, name: string, differs: Difference, };

export type ProposedGroup = { name: string, start: Timecode, frames: number, 
/**
 * Picture angles, and clips in them.
 */
angles: number, clips: number, 
/**
 * Whether a recorder ran with it.
 */
sound: boolean, 
/**
 * The group that is the same already.
 */
there: GroupId | null, 
/**
 * Who runs when, angle by angle.
 */
strip: Array<Running>, 
/**
 * The group that it is most like, where it is none of those that are there, and how it differs from that.
 */
like: Like | null, };

export type Proposed = { groups: Array<ProposedGroup>, 
/**
 * Placed picture clips that are in none of them.
 */
alone: Array<ClipId>, 
/**
 * Groups that are there and would go: nobody cut or named them.
 */
going: Array<GroupId>, 
/**
 * Groups that are there, are none of these, and would stay.
 */
staying: Array<GroupId>, };

export type StartPass = { reference: DeviceId | null, 
/**
 * All clips of a day at normal effort unless given.
 */
plan: PassPlan, };

export type StorageView = { 
/**
 * Bytes taken.
 */
bytes: number, 
/**
 * Bytes that light copies are kept within.
 */
limit: number, };

export type TakeIn = { path: string, };

export type Turned = { what: string, };

export type Versioned = { version: number, 
/**
 * Whether all of a live run goes in one step.
 */
whole: boolean, };

export type Want = { clips: Array<ClipId>, };

