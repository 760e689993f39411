//! What is handed on, as other readers read it: every frame that documents name is the one that was drawn at that moment.

use crate::common::{Api, clip, small, synced};
use metaxis_shoot::{CodeStrip, Truth, TruthClip, read_code};
use serde_json::{Value, json};
use std::{collections::HashMap, fs, path::Path, process::Command};

fn top() -> &'static Path {
    Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../.."))
}

/// What a program answers.
fn said(program: &str, args: &[&str]) -> Vec<u8> {
    let out = Command::new(program).args(args).output().expect("a run");
    assert!(out.status.success(), "{program}: {}", String::from_utf8_lossy(&out.stderr));
    out.stdout
}

/// The clips of a document's picture tracks, as another reader has them: track, first record frame, frames, name of the media, first
/// frame of it as it is counted, its rate, the first that there is, and the speed.
const READ: &str = "import json, sys, opentimelineio as otio
how = {'rate': 25} if sys.argv[1].endswith('.edl') else {}
timeline = otio.adapters.read_from_file(sys.argv[1], **how)
found = []
for track in timeline.video_tracks():
    for clip in track.find_clips():
        at = track.range_of_child(clip)
        media, source = clip.media_reference, clip.source_range
        if isinstance(media, otio.schema.GeneratorReference):
            continue
        there = media.available_range
        speed = clip.effects[0].time_scalar if clip.effects else 1.0
        found.append({
            'track': track.name, 'at': at.start_time.rescaled_to(25).value, 'frames': at.duration.rescaled_to(25).value,
            'media': getattr(media, 'name', '') or clip.name,
            'url': getattr(media, 'target_url', None), 'first': source.start_time.value, 'rate': source.start_time.rate,
            'there': there.start_time.value if there else None, 'speed': speed,
        })
print(json.dumps(found))";

fn by_another_reader(name: &str, document: &[u8]) -> Vec<Value> {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join(name);
    fs::write(&path, document).expect("written");
    let python = top().join(".venv/bin/python");
    let out = said(python.to_str().expect("text"), &["-c", READ, path.to_str().expect("text")]);
    serde_json::from_slice(&out).expect("clips")
}

/// The numbers drawn into the frames of a file, as ffmpeg decodes it.
fn drawn(path: &Path) -> Vec<Option<u64>> {
    let row = format!(
        "crop=iw:2:0:floor(ih*{}/2)*2,scale=640:2:flags=neighbor,format=gray",
        CodeStrip::TOP + CodeStrip::HEIGHT / 2.0
    );
    let path = path.to_str().expect("text");
    let args =
        ["-v", "error", "-i", path, "-an", "-vf", &row, "-fps_mode", "passthrough", "-f", "rawvideo", "-"];
    let frames = said("ffmpeg", &args);
    let read = |frame: &[u8]| read_code(|x, _| frame[((x * 640.0) as usize).min(639)]);
    frames.chunks_exact(2 * 640).map(read).collect()
}

/// The first timecode label of a file as ffprobe reads it, in frames of 25 a second; nought where it has none.
fn first_label(path: &Path) -> i64 {
    let args = [
        "-v",
        "error",
        "-show_entries",
        "stream_tags=timecode:format_tags=timecode",
        "-of",
        "default=nw=1:nk=1",
    ];
    let text = String::from_utf8(said("ffprobe", &[&args[..], &[path.to_str().expect("text")]].concat()))
        .expect("text");
    let Some(label) = text.lines().next() else { return 0 };
    let fields: Vec<i64> = label.split([':', ';']).map(|own| own.parse().expect("a number")).collect();
    let rate = if fields[3] > 24 { 50 } else { 25 };
    ((fields[0] * 60 + fields[1]) * 60 + fields[2]) * 25 + fields[3] * 25 / rate
}

/// When a frame of a clip begins, in its own time.
fn begins(truth: &TruthClip, frame: u64) -> f64 {
    let length = truth.segments.last().map_or(1.0, |own| own.clip_end_s);
    let regular = frame as f64 / (truth.frames as f64 / length).round();
    truth.frame_times_s.get(frame as usize).copied().unwrap_or(regular)
}

struct Moved {
    truth: Truth,
    /// By file name: what is drawn in its frames, and its first label.
    files: HashMap<String, (Vec<Option<u64>>, i64)>,
    axis_s: f64,
}

impl Moved {
    /// Whether the frame of a clip is the one on screen at a group frame, give or take so many of its own.
    fn is_on_screen(&self, media: &str, shown: u64, frame: i64, slack: f64) -> bool {
        let truth =
            self.truth.clips.iter().find(|own| own.path.ends_with(&format!("/{media}"))).expect("the clip");
        let axis_s = self.axis_s + (frame as f64 + 0.5) / 25.0;
        let of = truth.segments.iter().rev().find(|own| own.start_s <= axis_s).unwrap_or(&truth.segments[0]);
        let own_s = of.clip_start_s + (axis_s - of.start_s) * (1.0 + truth.rate_ppm * 1e-6);
        let slack_s =
            slack / (truth.frames as f64 / truth.segments.last().expect("a segment").clip_end_s).round();
        // Found to a millisecond and a half.
        own_s > begins(truth, shown) - slack_s - 0.0015 && own_s < begins(truth, shown + 1) + slack_s + 0.0015
    }

    /// Holds every clip of a document against what was drawn; how many frames were looked at.
    fn hold(&self, found: &[Value], is_list: bool) -> usize {
        let number =
            |own: &Value, what: &str| own[what].as_f64().unwrap_or_else(|| panic!("{what} of {own}"));
        let mut looked = 0;
        for own in found {
            let media = own["media"].as_str().expect("a name");
            let (codes, label) = self.files.get(media).unwrap_or_else(|| panic!("{media} is no file"));
            let first = if is_list {
                number(own, "first") - *label as f64
            } else {
                number(own, "first") - number(own, "there")
            };
            let (at, frames) = (number(own, "at") as i64, number(own, "frames") as i64);
            let truth = self
                .truth
                .clips
                .iter()
                .find(|own| own.path.ends_with(&format!("/{media}")))
                .expect("the clip");
            for into in (0..frames).step_by(11).chain([frames - 1]) {
                // What is on screen then by the reader's own counting.
                let own_s = (first + 1e-3) / number(own, "rate") + into as f64 / 25.0 * number(own, "speed");
                let on =
                    (0..truth.frames).take_while(|own| begins(truth, *own) <= own_s + 0.4 / 50.0).count();
                let frame = on.saturating_sub(1);
                let shown = codes.get(frame).copied().flatten();
                let shown = shown.unwrap_or_else(|| panic!("{media} has no frame {frame}"));
                // A list of 25 has no label for the second of two.
                let slack = if is_list { 1.0 } else { 0.5 };
                assert!(self.is_on_screen(media, shown, at + into, slack), "{own}: {shown} at {}", at + into);
                looked += 1;
            }
        }
        looked
    }
}

async fn text(api: &Api, path: &str) -> Vec<u8> {
    let (status, bytes) = api.bytes(path).await;
    assert_eq!(status, 200, "{path}: {}", String::from_utf8_lossy(&bytes));
    bytes
}

#[tokio::test]
async fn every_frame_that_is_named_is_found_in_files_that_moved() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let group = day["groups"][0]["id"].clone();
    let view = api.get(&format!("/groups/{group}")).await.1;
    let angles: Vec<i64> = view["group"]["angles"]
        .as_array()
        .expect("angles")
        .iter()
        .map(|own| own["id"].as_i64().expect("a number"))
        .collect();
    let mut version = view["version"].clone();
    for (number, at) in (0..).zip([60, 130, 131, 200, 290, 341, 400, 477, 520]) {
        let edit = json!({ "do": "take", "at": at, "angle": angles[(number + 1) % angles.len()] });
        let (status, next) =
            api.post(&format!("/groups/{group}/line"), json!({ "version": version, "edit": edit })).await;
        assert_eq!(status, 200, "{next}");
        version = next["version"].clone();
    }

    // The originals lie elsewhere by now, and are found again by their names.
    let moved = tempfile::tempdir().expect("a folder");
    let truth: Truth =
        serde_json::from_slice(&fs::read(small().join("truth.json")).expect("truth")).expect("truth");
    let mut files = HashMap::new();
    for own in &truth.clips {
        let name = own.path.rsplit('/').next().expect("a name").to_owned();
        if own.frames > 0 && !name.starts_with("C002") {
            let there = moved.path().join(&name);
            fs::copy(small().join(&own.path), &there).expect("a copy");
            files.insert(name, (drawn(&there), first_label(&there)));
        }
    }
    let axis_s = view["axis_start_s"].as_f64().expect("an axis");
    let moved = Moved { truth, files, axis_s };
    let of = |which: &str| format!("/groups/{group}/turnover/{which}");
    for which in ["group.otio", "line.otio", "choices.otio", "line.edl"] {
        let found = by_another_reader(which, &text(&api, &of(which)).await);
        let is_list = which == "line.edl";
        if which == "choices.otio" {
            // Counted by the group: what is first there is not the file's first frame.
            assert!(found.iter().all(|own| own["there"].is_number()), "{found:?}");
        }
        let looked = moved.hold(&found, is_list);
        println!("{which}: {} clips, {looked} frames are those that were drawn", found.len());
        assert!(looked > 60, "{which}: {looked}");
    }
    api.server.stop().await;
}

#[tokio::test]
async fn a_day_is_handed_on_at_once() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let group = day["groups"][0]["id"].clone();
    let version = day["groups_turns"]["version"].clone();
    let named = json!({ "do": "rename", "group": group, "name": "Gl\u{fc}ck <b>1</b>" });
    assert_eq!(api.post("/groups/edits", json!({ "version": version, "change": named })).await.0, 200);
    let note = json!({ "do": "slate", "clips": [clip(&day, "A001.mov")["id"]], "scene": "<script>1", "take": "2", "notes": "=1+1", "circled": true });
    assert_eq!(api.post("/intake/edits", note).await.0, 200);

    // As a bin, which another reader opens whole.
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("day.otio");
    fs::write(&path, text(&api, "/turnover/day.otio").await).expect("written");
    const COUNT: &str = "import json, sys, opentimelineio as otio
day = otio.adapters.read_from_file(sys.argv[1])
tracks = {track.name: track.enabled for track in day[0][0].tracks}
print(json.dumps({**{bin.name: [one.name for one in bin] for bin in day}, 'tracks': tracks}))";
    let python = top().join(".venv/bin/python");
    let out = said(python.to_str().expect("text"), &["-c", COUNT, path.to_str().expect("text")]);
    let bins: Value = serde_json::from_slice(&out).expect("bins");
    assert!(
        bins["Clips with their sound"].as_array().is_some_and(|own| own.contains(&json!("A001.mov"))),
        "{bins}"
    );
    // The picture, the recorder's channels, and its own sound off; all called as their devices are.
    assert_eq!(
        bins["tracks"],
        json!({ "A Floor": false, "R Recorder Mix L": true, "R Recorder Mix R": true }),
        "{bins}"
    );
    assert_eq!(bins["Groups"][0], "Gl\u{fc}ck <b>1</b>");
    assert_eq!(bins["Lines"][0], "Gl\u{fc}ck <b>1</b> line");

    // What was noted is known in documents.
    let document: Value =
        serde_json::from_slice(&text(&api, &format!("/groups/{group}/turnover/group.otio")).await)
            .expect("JSON");
    let items = document["tracks"]["children"][0]["children"].as_array().expect("items");
    let own = items.iter().find(|own| own["name"] == "A001.mov").expect("the clip");
    let said_of = &own["metadata"]["metaxis"];
    assert_eq!((&said_of["scene"], &said_of["circled"]), (&json!("<script>1"), &json!(true)));
    assert_eq!((&said_of["verdict"], &said_of["drop_frame"]), (&json!("solid"), &json!(false)));
    assert!(said_of["fingerprint"].as_str().is_some_and(|own| own.len() == 32), "{said_of}");

    // Tables and the page say what a person wrote, and nothing of it is taken for anything else.
    let table = String::from_utf8(text(&api, "/turnover/clips.csv").await).expect("text");
    assert!(table.contains("'=1+1") && table.contains("A_FLOOR/A001.mov"), "{table}");
    let page = String::from_utf8(text(&api, "/turnover/report.html").await).expect("text");
    assert!(page.contains("clips are in place") && page.contains("&lt;script&gt;1"), "{page}");
    assert!(!page.contains("<script") && page.contains("data:image/jpeg;base64,"));

    // All of it in an archive, as another reader unpacks it.
    let archive = text(&api, "/turnover/everything.zip").await;
    let path = folder.path().join("all.zip");
    fs::write(&path, &archive).expect("written");
    const NAMES: &str = "import json, sys, zipfile
archive = zipfile.ZipFile(sys.argv[1])
assert archive.testzip() is None
print(json.dumps(archive.namelist()))";
    let names: Vec<String> = serde_json::from_slice(&said(
        python.to_str().expect("text"),
        &["-c", NAMES, path.to_str().expect("text")],
    ))
    .expect("names");
    let ends = |what: &str| names.iter().filter(|own| own.ends_with(what)).count();
    let groups = day["groups"].as_array().expect("groups").len();
    assert_eq!(
        (ends("report.html"), ends("line.edl"), ends("choices.otio")),
        (1, groups, groups),
        "{names:?}"
    );
    assert!(names.contains(&"01 Gl\u{fc}ck -b-1--b line.edl".to_owned()), "{names:?}");

    // A browser gets the whole name, an old one what of it is ASCII; what is unknown is said.
    let url = api.url(&format!("/groups/{group}/turnover/line.edl"));
    let answer = api.client.get(url).send().await.expect("an answer");
    let named = answer.headers()["content-disposition"].to_str().expect("text").to_owned();
    assert!(named.contains("filename=\"Gl_ck") && named.contains("filename*=UTF-8''Gl%C3%BCck"), "{named}");
    assert_eq!(api.get("/turnover/day.exe").await.0, 404);
    api.server.stop().await;
}

fn metaxis(cache: &Path, args: &[&str]) -> std::process::Output {
    let run = Command::new(env!("CARGO_BIN_EXE_metaxis")).env("XDG_CACHE_HOME", cache).args(args).output();
    run.expect("a run")
}

#[test]
fn the_command_hands_a_day_on_and_keeps_nothing_stale() {
    let folder = tempfile::tempdir().expect("a folder");
    let (media, out) = (small(), folder.path().join("out"));
    let (media, into) = (media.to_str().expect("text"), out.to_str().expect("text"));
    let run = metaxis(folder.path(), &["turnover", media, "--out", into]);
    assert_eq!(run.status.code(), Some(0), "{}", String::from_utf8_lossy(&run.stderr));
    let report: Value = serde_json::from_slice(&run.stdout).expect("a report");
    assert_eq!((&report["schema"], &report["failed"]), (&json!("metaxis.turnover-report/1"), &json!([])));
    let written: Vec<&str> =
        report["written"].as_array().expect("names").iter().filter_map(Value::as_str).collect();
    assert!(written.iter().all(|name| out.join(name).is_file()), "{written:?}");
    for ending in ["report.html", "day.otio", "sync.csv", "channels.csv", "group.otio"] {
        assert!(written.iter().any(|name| name.ends_with(ending)), "{ending}: {written:?}");
    }
    // Nobody cut anything: there are no lines.
    assert!(!written.iter().any(|name| name.contains("line")), "{written:?}");
    let table =
        fs::read_to_string(out.join(written.iter().find(|own| own.ends_with("sync.csv")).expect("it")))
            .expect("text");
    assert!(table.contains("A_FLOOR/A001.mov,A Floor,solid"), "{table}");

    // Another run takes away what it wrote before and no longer makes; what it did not write stays, and so does all elsewhere.
    fs::write(out.join("mine.txt"), "mine").expect("written");
    fs::write(folder.path().join("other.txt"), "mine").expect("written");
    let list = out.join(".metaxis-turnover.json");
    let mut known: Vec<String> = serde_json::from_slice(&fs::read(&list).expect("a list")).expect("names");
    known.extend(["99 Old group.otio".to_owned(), "../other.txt".to_owned()]);
    fs::write(&list, serde_json::to_vec(&known).expect("JSON")).expect("written");
    fs::write(out.join("99 Old group.otio"), "old").expect("written");
    let run = metaxis(folder.path(), &["turnover", media, "--out", into]);
    let report: Value = serde_json::from_slice(&run.stdout).expect("a report");
    assert_eq!(report["taken_away"], json!(["99 Old group.otio"]));
    assert!(!out.join("99 Old group.otio").exists() && out.join("mine.txt").exists());
    assert!(folder.path().join("other.txt").exists());

    // What cannot be written to is said before anything is listened to.
    let file = folder.path().join("other.txt");
    let run = metaxis(folder.path(), &["turnover", media, "--out", file.to_str().expect("text")]);
    let why = String::from_utf8_lossy(&run.stderr).into_owned();
    assert_eq!(run.status.code(), Some(2), "{why}");
    assert!(why.contains("cannot be written to") && !why.contains("listening"), "{why}");
}
