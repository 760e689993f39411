//! Documents held against what was drawn: which frame of which file another reader finds at each moment, and which was on screen.

use metaxis_shoot::{CodeStrip, Truth, TruthClip, read_code};
use serde_json::{Value, json};
use std::{collections::BTreeMap, fs, path::Path, process::Command};

/// The folder of everything.
pub fn top() -> &'static Path {
    Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../.."))
}

/// What a program answers.
pub fn said(program: &str, args: &[&str]) -> Vec<u8> {
    let out = Command::new(program).args(args).output().expect("a run");
    assert!(out.status.success(), "{program}: {}", String::from_utf8_lossy(&out.stderr));
    out.stdout
}

/// What a script of another reader answers about files.
pub fn by_python(script: &str, files: &[&Path]) -> Value {
    let python = top().join(".venv/bin/python");
    let files = files.iter().map(|own| own.to_str().expect("text"));
    let args: Vec<&str> = ["-c", script].into_iter().chain(files).collect();
    serde_json::from_slice(&said(python.to_str().expect("text"), &args)).expect("JSON")
}

/// What both scripts begin with: how the list or timeline counts, and how the files do, by their names.
const HEAD: &str = "import json, re, sys, urllib.parse, zipfile, opentimelineio as otio
from opentimelineio import opentime
how = json.load(open(sys.argv[2]))
rate = how['num'] / how['den']
found = []
";

/// The clips of a document's picture tracks: first record frame, frames, the media, its first frame, and the speed.
const DOCUMENT: &str = "
for track in otio.adapters.read_from_file(sys.argv[1]).video_tracks():
    for clip in track.find_clips():
        at, media, source = track.range_of_child(clip), clip.media_reference, clip.source_range
        first = source.start_time - media.available_range.start_time
        own = how['files'][media.name]
        found.append({
            'at': at.start_time.rescaled_to(rate).value, 'frames': at.duration.rescaled_to(rate).value, 'media': media.name,
            'first': first.rescaled_to(own['num'] / own['den']).value, 'head': 0.0,
            'speed': clip.effects[0].time_scalar if clip.effects else 1.0,
        })
print(json.dumps(found))";

/// The same of an edit decision list, or an archive of them: read whole by one reader, its labels counted by another.
const LIST: &str = "
def count(label, rate):
    return opentime.from_timecode(label, rate).value
def lists():
    if not zipfile.is_zipfile(sys.argv[1]):
        return [open(sys.argv[1], newline='').read()]
    archive = zipfile.ZipFile(sys.argv[1])
    return [archive.read(name).decode() for name in sorted(archive.namelist())]
day = count('24:00:00' + (';' if ';' in how['start'] else ':') + '00', rate)
for text in lists():
    lines = text.split('\\r\\n')
    assert all(len(line) <= 80 and line.isascii() for line in lines), text
    names = dict(re.findall(r'^\\* FILE (.*?) IS (.*?)\\r$', text.replace('\\r\\n*  +', ''), re.M))
    events = []
    for line in lines:
        cut = re.match(r'\\d{3}  (\\S+) +V +C +(\\S+) (\\S+) (\\S+) (\\S+)$', line)
        if cut:
            events.append([*cut.groups(), None, 1.0])
        elif re.match(r'\\d{3}', line):
            events.append([None] * 7)
        elif line.startswith('* FROM CLIP NAME: '):
            said = line[18:]
            events[-1][5] = urllib.parse.unquote(names.get(said, said))
        elif line.startswith('M2'):
            events[-1][6] = float(line.split()[2]) / rate
    shots = [event for event in events if event[5] and event[0] != 'BL' and event[0]]
    # Another reader takes the whole of it, as many pictures as there are.
    timeline = otio.adapters.read_from_string(text, 'cmx_3600', rate=rate)
    black = otio.schema.GeneratorReference
    read = [one for track in timeline.video_tracks() for one in track.find_clips() if not isinstance(one.media_reference, black)]
    assert len(read) == len(shots), (len(read), len(shots))
    for reel, first, _, begins, ends, media, speed in shots:
        own = how['files'][media]
        own_rate = own['num'] / own['den']
        nominal, counted = round(own_rate), round(rate)
        if own['label'] is None:
            # Counted from nought as the list counts.
            named = count(first, rate) / rate * own_rate
        else:
            hours, minutes, seconds, frames = map(int, re.split('[:;]', first))
            # The first of its frames that has these digits here.
            frames = -(-frames * nominal // counted)
            mark = ';' if ';' in own['label'] else ':'
            label = f'{hours:02}:{minutes:02}:{seconds:02}{mark}{frames:02}'
            whole = count(f'24:00:00{mark}00', own_rate)
            named = (count(label, own_rate) - count(own['label'], own_rate)) % whole
        found.append({
            'at': (count(begins, rate) - count(how['start'], rate)) % day, 'frames': count(ends, rate) - count(begins, rate),
            'media': media, 'first': named, 'speed': speed,
            # As near as labels can say it.
            'head': nominal / counted if nominal > counted or own['label'] is None else 0.0,
        })
print(json.dumps(found))";

/// The numbers drawn into the frames of a file, as ffmpeg decodes it.
pub fn drawn(path: &Path) -> Vec<Option<u64>> {
    drawn_in(path, "")
}

/// The same in a part of them, which ffmpeg's filters say, each with a comma behind it.
pub fn drawn_in(path: &Path, part: &str) -> Vec<Option<u64>> {
    let row = format!(
        "{part}crop=iw:2:0:floor(ih*{}/2)*2,scale=640:2:flags=neighbor,format=gray",
        CodeStrip::TOP + CodeStrip::HEIGHT / 2.0
    );
    let path = path.to_str().expect("text");
    let args =
        ["-v", "error", "-i", path, "-an", "-vf", &row, "-fps_mode", "passthrough", "-f", "rawvideo", "-"];
    let frames = said("ffmpeg", &args);
    let read = |frame: &[u8]| read_code(|x, _| frame[((x * 640.0) as usize).min(639)]);
    frames.chunks_exact(2 * 640).map(read).collect()
}

/// Places are found as well as this, seconds.
const FOUND_S: f64 = 0.0015;

/// A file as it is found elsewhere.
pub struct Found {
    /// What is drawn into its frames.
    pub codes: Vec<Option<u64>>,
    /// The truth of what it is made of.
    pub truth: TruthClip,
    /// When each of its frames begins, in its own time.
    pub begins: Vec<f64>,
    /// How it counts.
    pub rate: (i64, i64),
    /// Its first label, as ffprobe reads it.
    pub label: Option<String>,
}

impl Found {
    /// How far its frames begin beside the ticks of its rate at most: documents count by that, also where a file keeps to it badly.
    fn unsteady_s(&self) -> f64 {
        let rate = self.rate.0 as f64 / self.rate.1 as f64;
        let beside = |begins: &f64| (begins * rate - (begins * rate).round()).abs() / rate;
        self.begins.iter().map(beside).fold(0.0, f64::max)
    }

    /// A file that was copied to `path`. At a steady rate its frames are as long as it says, else as the truth has them.
    pub fn at(path: &Path, truth: &TruthClip) -> Self {
        let ask = |what: &str| {
            let args =
                ["-v", "error", "-select_streams", "v", "-of", "default=nw=1:nk=1", "-show_entries", what];
            let text = said("ffprobe", &[&args[..], &[path.to_str().expect("text")]].concat());
            String::from_utf8(text).expect("text")
        };
        let rates = ask("stream=avg_frame_rate");
        let (num, den) = rates.trim().split_once('/').expect("a rate");
        let rate: (i64, i64) = (num.parse().expect("a number"), den.parse().expect("a number"));
        let codes = drawn(path);
        let steady = (0..=codes.len()).map(|frame| frame as f64 * rate.1 as f64 / rate.0 as f64);
        let varying =
            truth.frame_times_s.iter().copied().chain(truth.segments.last().map(|own| own.clip_end_s));
        let begins = if truth.frame_times_s.is_empty() { steady.collect() } else { varying.collect() };
        let label = ask("stream_tags=timecode").lines().next().map(str::to_owned);
        Self { codes, truth: truth.clone(), begins, rate, label }
    }

    /// Its own time at a moment of the axis.
    fn own_s(&self, axis_s: f64) -> f64 {
        own_s(&self.truth, axis_s)
    }

    /// Whether the frame into which a number is drawn is on screen at a moment of the axis.
    pub fn shows(&self, drawn: u64, axis_s: f64) -> bool {
        let (own_s, drawn) = (self.own_s(axis_s).max(0.0), drawn as usize);
        let Some([begins, ends]) = self.begins.get(drawn..drawn + 2) else { return false };
        (begins - FOUND_S..ends + FOUND_S).contains(&own_s)
    }
}

/// A file's own time at a moment of the axis.
pub fn own_s(truth: &TruthClip, axis_s: f64) -> f64 {
    let all = &truth.segments;
    let of = all.iter().rev().find(|own| own.start_s <= axis_s).unwrap_or(&all[0]);
    of.clip_start_s + (axis_s - of.start_s) * (1.0 + truth.rate_ppm * 1e-6)
}

/// Files of a shoot that lie elsewhere, and where the group is that documents are of.
pub struct Elsewhere {
    /// By their names.
    pub files: BTreeMap<String, Found>,
    /// Axis time of the group's first frame.
    pub axis_s: f64,
    /// How the group counts.
    pub rate: (i64, i64),
    /// Its first label.
    pub start: String,
}

impl Elsewhere {
    /// Every clip of a shoot that has pictures and can be read, copied to a folder.
    pub fn of(
        truth: &Truth,
        media: &Path,
        to: &Path,
        is_whole: impl Fn(&TruthClip) -> bool,
    ) -> BTreeMap<String, Found> {
        let pictures = truth.clips.iter().filter(|own| own.frames > 0 && is_whole(own));
        let one = |own: &TruthClip| {
            let name = own.path.rsplit('/').next().expect("a name").to_owned();
            let there = to.join(&name);
            fs::copy(media.join(&own.path), &there).expect("a copy");
            (name, Found::at(&there, own))
        };
        pictures.map(one).collect()
    }

    /// Holds every clip of a document against what was drawn: how many there are, and how many frames were looked at.
    pub fn hold(&self, document: &[u8], is_list: bool) -> (usize, usize) {
        let folder = tempfile::tempdir().expect("a folder");
        let (path, how) = (folder.path().join("document.otio"), folder.path().join("how.json"));
        fs::write(&path, document).expect("written");
        let file = |own: &Found| json!({ "num": own.rate.0, "den": own.rate.1, "label": own.label });
        let files: BTreeMap<&String, Value> =
            self.files.iter().map(|(name, own)| (name, file(own))).collect();
        let said = json!({ "num": self.rate.0, "den": self.rate.1, "start": self.start, "files": files });
        fs::write(&how, said.to_string()).expect("written");
        let found = by_python(&format!("{HEAD}{}", if is_list { LIST } else { DOCUMENT }), &[&path, &how]);
        let found = found.as_array().expect("clips");
        (found.len(), found.iter().map(|own| self.hold_one(own)).sum())
    }

    fn hold_one(&self, own: &Value) -> usize {
        let number = |what: &str| own[what].as_f64().unwrap_or_else(|| panic!("{what} of {own}"));
        let media = own["media"].as_str().expect("a name");
        let file = self.files.get(media).unwrap_or_else(|| panic!("{media} is no file"));
        let frame_s = |rate: (i64, i64)| rate.1 as f64 / rate.0 as f64;
        let (at, frames) = (number("at") as i64, number("frames") as i64);
        let looked: Vec<i64> = (0..frames).step_by(11).chain([frames - 1]).collect();
        for into in &looked {
            // What is on screen then by the reader's own counting, in the middle of its first frame and so much later.
            let own_s = (number("first") + 0.4) * frame_s(file.rate)
                + *into as f64 * frame_s(self.rate) * number("speed");
            let frame = file.begins.partition_point(|begins| *begins <= own_s).saturating_sub(1);
            let shown = file.codes.get(frame).copied().flatten();
            let shown = shown.unwrap_or_else(|| panic!("{media} has no frame {frame}: {own}")) as usize;
            let there_s = file.own_s(self.axis_s + ((at + into) as f64 + 0.5) * frame_s(self.rate));
            // A part begins with the frame in which its clip does: where that is in its second half, the clip's first stands there.
            let is_head = there_s > -0.5 * frame_s(self.rate) - FOUND_S;
            let there_s = if is_head { there_s.max(0.0) } else { there_s };
            // The first is the one that is named, as near as it can be; those behind it part by less than one of theirs where they are
            // counted otherwise.
            let apart = if file.rate == self.rate { 0.5 } else { 1.0 };
            let off = number("head") + if *into == 0 { 0.0 } else { apart };
            let slack_s = off * frame_s(file.rate) + FOUND_S + file.unsteady_s();
            let (begins, ends) = (file.begins[shown], file.begins[shown + 1]);
            assert!(
                there_s > begins - slack_s && there_s < ends + slack_s,
                "{own}: {shown} ({begins} to {ends}) at {there_s}, frame {} of the group",
                at + into
            );
        }
        looked.len()
    }
}
