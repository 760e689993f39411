//! What is handed on, as other readers read it: every frame that documents name is the one that was drawn at that moment.

use crate::{
    common::{Api, clip, config, small, synced, take},
    named::{Elsewhere, by_python, said},
};
use metaxis_media::Fingerprint;
use metaxis_shoot::{Truth, TruthClip};
use serde_json::{Value, json};
use std::{collections::BTreeMap, fs, path::Path, process::Command};

/// The documents of a group.
const OF_A_GROUP: [&str; 5] = ["group.otio", "line.otio", "choices.otio", "nested.otio", "line.edl"];

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
    let cuts = [60, 130, 131, 200, 290, 341, 400, 477, 520];
    let edits = |angles: &[Value]| {
        let next = angles.iter().cycle().skip(1);
        cuts.iter().zip(next).map(|(at, angle)| take(*at, angle)).collect()
    };
    let (view, _) = api.cut(&group, edits).await;

    // The originals lie elsewhere by now, and are found again by their names.
    let moved = tempfile::tempdir().expect("a folder");
    let truth: Truth =
        serde_json::from_slice(&fs::read(small().join("truth.json")).expect("truth")).expect("truth");
    let files = Elsewhere::of(&truth, &small(), moved.path(), |own| !own.path.contains("C002"));
    let start = view["group"]["start"].clone();
    let elsewhere = Elsewhere {
        files,
        axis_s: view["axis_start_s"].as_f64().expect("an axis"),
        rate: (25, 1),
        start: "09:14:00:12".into(),
    };
    assert_eq!(start["frames"], ((9 * 60 + 14) * 60) * 25 + 12);
    for which in OF_A_GROUP {
        let document = text(&api, &format!("/groups/{group}/turnover/{which}")).await;
        let (clips, looked) = elsewhere.hold(&document, which == "line.edl");
        println!("{which}: {clips} clips, {looked} frames are those that were drawn");
        assert!(looked > 60, "{which}: {looked}");
    }
    api.server.stop().await;
}

/// Writes a camera's file anew: its pictures at another rate, each frame as long as that says, under another label.
fn relabelled(from: &Path, to: &Path, (num, den): (i64, i64), label: &str) {
    fs::create_dir_all(to.parent().expect("a folder")).expect("a folder");
    let (times, rate) = (format!("setpts=N*{den}/{num}/TB"), format!("{num}/{den}"));
    let (from, to) = (from.to_str().expect("text"), to.to_str().expect("text"));
    let coded = ["-c:v", "libx264", "-preset", "ultrafast", "-crf", "18", "-bf", "0", "-c:a", "pcm_s16le"];
    let args = [
        "-v",
        "error",
        "-i",
        from,
        "-map",
        "0:v",
        "-map",
        "0:a",
        "-vf",
        &times,
        "-r",
        &rate,
        "-fps_mode",
        "cfr",
    ];
    said("ffmpeg", &[&args[..], &coded[..], &["-timecode", label, to]].concat());
}

#[tokio::test]
async fn at_every_rate_and_over_midnight_the_frames_that_are_named_are_those_that_were_drawn() {
    let shoot: Truth =
        serde_json::from_slice(&fs::read(small().join("truth.json")).expect("truth")).expect("truth");
    let media = tempfile::tempdir().expect("a folder");
    let folder = media.path().canonicalize().expect("a path");
    // Names that a list has no letters for, or other uses; labels that count otherwise, and pass midnight.
    let cameras = [
        ("A_FLOOR/A001.mov", "A_FLOOR/Gr\u{f6}\u{df}e 1.mov", (24_000, 1001), "10:00:00:00"),
        ("B_BENCH/B001.mov", "B_BENCH/BL.mov", (30_000, 1001), "10:00:58;00"),
        ("C_GALLERY/C001.mp4", "C_GALLERY/AX.mov", (60_000, 1001), "01:00:58;00"),
        ("C_GALLERY/C001.mp4", "E_YARD/E001.mov", (50, 1), "23:59:50:00"),
    ];
    let mut truth = Truth::default();
    for (from, to, rate, label) in cameras {
        relabelled(&small().join(from), &folder.join(to), rate, label);
        truth.clips.push(TruthClip { path: to.into(), ..shoot.clip(from).expect("the clip").clone() });
    }
    fs::create_dir(folder.join("R_RECORDER")).expect("a folder");
    fs::copy(small().join("R_RECORDER/S-001.wav"), folder.join("R_RECORDER/S-001.wav")).expect("a copy");
    let data = tempfile::tempdir().expect("a folder");
    let api = Api::start(config(data.path(), &[&folder])).await;
    api.post("/intake", json!({ "path": folder })).await;
    api.post("/jobs/proxy/stop", json!({})).await;
    api.idle().await;
    let mut day = api.sync().await;

    let moved = tempfile::tempdir().expect("a folder");
    let mut elsewhere = Elsewhere {
        files: Elsewhere::of(&truth, &folder, moved.path(), |_| true),
        axis_s: 0.0,
        rate: (25, 1),
        start: String::new(),
    };
    let counts = [
        ((25, 1), "10:00:00:00"),
        ((24_000, 1001), "09:59:58:00"),
        ((30_000, 1001), "10:00:58;00"),
        ((30_000, 1001), "01:00:00:00"),
        ((50, 1), "23:59:52:00"),
        ((60_000, 1001), "23:59:52;00"),
    ];
    for (turn, (rate, start)) in (0..).zip(counts) {
        let group = day["groups"][0]["id"].clone();
        let format = json!({
            "version": day["groups_turns"]["version"], "rate": { "num": rate.0, "den": rate.1 },
            "drop": start.contains(';'), "width": 320, "height": 180, "start": { "from": "typed", "label": start },
        });
        let (status, said) = api.post(&format!("/groups/{group}/format"), format).await;
        assert_eq!(status, 200, "{said}");
        day = api.day().await;
        let group = day["groups"][0]["id"].clone();
        let view = api.get(&format!("/groups/{group}")).await.1;
        let frames = view["group"]["frames"].as_i64().expect("frames");
        let angles: Vec<&Value> =
            view["group"]["angles"].as_array().expect("angles").iter().map(|own| &own["id"]).collect();
        // Cut to another angle at odd frames, over all of it.
        let at = |own: i64| if own == 0 { 0 } else { own * frames / 16 + turn };
        let angle = |own: i64| angles[own as usize % angles.len()];
        let switches = (0..16).map(|own| json!({ "at": at(own), "angle": angle(own) }));
        let restore = json!({ "do": "restore", "switches": switches.collect::<Vec<_>>() });
        let edit = json!({ "version": view["version"], "edit": restore });
        assert_eq!(api.post(&format!("/groups/{group}/line"), edit).await.0, 200);
        elsewhere.axis_s = view["axis_start_s"].as_f64().expect("an axis");
        (elsewhere.rate, elsewhere.start) = (rate, start.into());
        for which in OF_A_GROUP {
            let document = text(&api, &format!("/groups/{group}/turnover/{which}")).await;
            let (clips, looked) = elsewhere.hold(&document, which == "line.edl");
            println!("{}/{} from {start}, {which}: {clips} clips, {looked} frames", rate.0, rate.1);
            assert!(clips >= 4 && looked > 60, "{which}: {clips}, {looked}");
        }
        // Where the record passes midnight there are two lists.
        let list = text(&api, &format!("/groups/{group}/turnover/line.edl")).await;
        assert_eq!(list.starts_with(b"PK"), start.starts_with("23"), "{start}");
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
    let bins = by_python(COUNT, &[&path]);
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
    // A picture of every clip that has pictures, and of no other.
    let sheet = String::from_utf8(text(&api, "/turnover/contact.html").await).expect("text");
    let clips = day["clips"].as_array().expect("clips");
    let pictures = clips.iter().filter(|own| !own["facts"]["picture"].is_null());
    let names: Vec<&str> = pictures.filter_map(|own| own["file_name"].as_str()).collect();
    assert!(names.iter().all(|name| sheet.contains(&format!("<b>{name}</b>"))), "{names:?}");
    assert_eq!(sheet.matches("<figure>").count(), names.len());
    assert_eq!(sheet.matches("data:image/jpeg;base64,").count(), names.len());
    assert!(!sheet.contains("<script") && sheet.contains("&lt;script&gt;1") && !sheet.contains("S-001"));

    // The same two as PDF, with the names of all clips as words.
    const PAGES: &str = "import json, sys, pypdf
own = pypdf.PdfReader(sys.argv[1])
print(json.dumps([len(own.pages), ' '.join(page.extract_text() for page in own.pages)]))";
    for which in ["report.pdf", "contact.pdf"] {
        let path = folder.path().join(which);
        fs::write(&path, text(&api, &format!("/turnover/{which}")).await).expect("written");
        let read = by_python(PAGES, &[&path]);
        let words = read[1].as_str().expect("words");
        assert!(read[0].as_u64().is_some_and(|own| own >= 1), "{read}");
        assert!(names.iter().all(|name| words.contains(name)), "{which}: {words}");
    }

    // All of it in an archive, as another reader unpacks it.
    let archive = text(&api, "/turnover/everything.zip").await;
    let path = folder.path().join("all.zip");
    fs::write(&path, &archive).expect("written");
    const NAMES: &str = "import json, sys, zipfile
archive = zipfile.ZipFile(sys.argv[1])
assert archive.testzip() is None
print(json.dumps(archive.namelist()))";
    let names: Vec<String> = serde_json::from_value(by_python(NAMES, &[&path])).expect("names");
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
    for ending in ["report.html", "contact.html", "day.otio", "sync.csv", "channels.csv", "group.otio"] {
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
    let mut known: BTreeMap<String, String> =
        serde_json::from_slice(&fs::read(&list).expect("a list")).expect("names");
    let print = |text: &str| Fingerprint::of_bytes(text.as_bytes()).to_string();
    for (name, was) in [("99 Old group.otio", "old"), ("98 Edited.otio", "old"), ("../other.txt", "mine")] {
        known.insert(name.into(), print(was));
    }
    fs::write(&list, serde_json::to_vec(&known).expect("JSON")).expect("written");
    fs::write(out.join("99 Old group.otio"), "old").expect("written");
    fs::write(out.join("98 Edited.otio"), "edited").expect("written");
    let run = metaxis(folder.path(), &["turnover", media, "--out", into]);
    let report: Value = serde_json::from_slice(&run.stdout).expect("a report");
    assert_eq!(report["taken_away"], json!(["99 Old group.otio"]));
    assert!(!out.join("99 Old group.otio").exists() && out.join("mine.txt").exists());
    assert!(folder.path().join("other.txt").exists() && out.join("98 Edited.otio").exists());

    // What somebody changed meanwhile is not written over; the rest is written.
    let edited = out.join(written.iter().find(|own| own.ends_with("takes.csv")).expect("it"));
    fs::write(&edited, "Scene,mine").expect("written");
    let run = metaxis(folder.path(), &["turnover", media, "--out", into]);
    let why = String::from_utf8_lossy(&run.stderr).into_owned();
    assert_eq!(run.status.code(), Some(1), "{why}");
    assert!(why.contains("takes.csv was not written"), "{why}");
    assert_eq!(fs::read_to_string(&edited).expect("text"), "Scene,mine");
    let report: Value = serde_json::from_slice(&run.stdout).expect("a report");
    assert_eq!(report["written"].as_array().map(Vec::len), Some(written.len() - 1));

    // What cannot be written to is said before anything is listened to.
    let file = folder.path().join("other.txt");
    let run = metaxis(folder.path(), &["turnover", media, "--out", file.to_str().expect("text")]);
    let why = String::from_utf8_lossy(&run.stderr).into_owned();
    assert_eq!(run.status.code(), Some(2), "{why}");
    assert!(why.contains("cannot be written to") && !why.contains("listening"), "{why}");
}
