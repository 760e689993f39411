//! Documents together with their media, unpacked by another reader.

use crate::{
    common::{Api, clip, config, small, synced, take},
    named::by_python,
};
use serde_json::{Value, json};
use std::{collections::BTreeSet, fs, path::Path, process::Command};

/// Unpacks a bundle beside itself by OpenTimelineIO's own reader: what each reference of it points to, with the length of that file.
const UNPACK: &str = "import json, os, sys, urllib.parse, zipfile, opentimelineio as otio
folder = os.path.join(os.path.dirname(sys.argv[1]), 'out')
os.mkdir(folder)
whole = otio.adapters.read_from_file(sys.argv[1], extract_to_directory=folder)
assert zipfile.ZipFile(sys.argv[1]).testzip() is None
found = {}
for clip in whole.find_clips() if hasattr(whole, 'find_clips') else [c for b in whole for t in b for c in t.find_clips()]:
    for own in clip.media_references().values():
        path = urllib.parse.unquote(own.target_url)
        found[own.target_url] = [own.name, os.path.getsize(os.path.join(folder, path))]
print(json.dumps({'found': found, 'version': open(os.path.join(folder, 'version.txt')).read()}))";

/// What is found in a bundle: where, by what name of its own, and of which length.
fn unpacked(bytes: &[u8]) -> Vec<(String, String, u64)> {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("own.otioz");
    fs::write(&path, bytes).expect("written");
    let read = by_python(UNPACK, &[&path]);
    assert_eq!(read["version"], "1.0.0");
    let all = read["found"].as_object().expect("references");
    let one = |(url, own): (&String, &Value)| {
        (url.clone(), own[0].as_str().expect("a name").to_owned(), own[1].as_u64().expect("a length"))
    };
    all.iter().map(one).collect()
}

fn length_of(path: &Path) -> u64 {
    path.metadata().expect("a file").len()
}

#[tokio::test]
async fn a_document_goes_out_with_the_files_that_it_names() {
    let folder = tempfile::tempdir().expect("a folder");
    let (media, data) = (folder.path().join("media"), folder.path().join("data"));
    metaxis_shoot::copy_folder(&small(), &media).expect("a copy");
    // Two cameras that call their files alike but for capitals, and a name that a URL has no letters for.
    fs::rename(media.join("B_BENCH/B001.mov"), media.join("B_BENCH/a001.MOV")).expect("renamed");
    fs::rename(media.join("D_PIT/D001.mp4"), media.join("D_PIT/Gr\u{f6}\u{df}e #1.mp4")).expect("renamed");
    let api = Api::start(config(&data, &[&media])).await;
    api.take_in(&media).await;
    let day = api.sync().await;
    let group = day["groups"][0]["id"].clone();
    let edits = |angles: &[Value]| (1..4).map(|own| take(100 * own + 60, &angles[own as usize])).collect();
    api.cut(&group, edits).await;

    let path = format!("/groups/{group}/turnover/line.otioz");
    let (_, told) = api.get(&format!("{path}?told=true")).await;
    let (status, bytes) = api.bytes(&path).await;
    assert_eq!(status, 200);
    let found = unpacked(&bytes);
    // Four cameras and the recorder, each with all that its file has.
    assert_eq!(found.len(), 5, "{found:?}");
    assert_eq!(told["files"], 5, "{told}");
    let about = told["bytes"].as_u64().expect("bytes");
    assert!(about.abs_diff(bytes.len() as u64) < about / 100, "{about} said of {}", bytes.len());
    for (url, name, length) in &found {
        let own = clip(&day, name)["relative"].as_str().expect("a path");
        assert_eq!(*length, length_of(&media.join(own)), "{url}");
    }
    let lower: BTreeSet<String> = found.iter().map(|(url, ..)| url.to_lowercase()).collect();
    assert_eq!(lower.len(), 5, "{found:?}");
    assert!(found.iter().any(|(url, ..)| url == "media/Gr%C3%B6%C3%9Fe%20%231.mp4"), "{found:?}");

    // Every angle to choose from, and the whole day as a bin.
    for other in ["choices", "nested", "group"] {
        let (status, bytes) = api.bytes(&format!("/groups/{group}/turnover/{other}.otioz")).await;
        assert_eq!(status, 200);
        assert!(unpacked(&bytes).len() >= 4, "{other}");
    }
    let (_, whole) = api.bytes("/turnover/day.otioz").await;
    assert!(unpacked(&whole).len() > 6);

    // What is not there, or names nothing, is said before anything goes out.
    for (path, wanted) in [("/turnover/sync.csvz", 404), ("/turnover/nothing.otioz", 404)] {
        assert_eq!(api.get(path).await.0, wanted, "{path}");
    }
    fs::remove_file(media.join("R_RECORDER/S-001.wav")).expect("gone");
    let (status, why) = api.get(&path).await;
    assert_eq!(status, 422);
    assert!(why["error"].as_str().is_some_and(|own| own.contains("S-001.wav")), "{why}");
    api.server.stop().await;
}

#[tokio::test]
async fn an_assembly_goes_out_with_what_it_is_made_of() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let groups = [&day["groups"][0]["id"], &day["groups"][1]["id"]];
    let (_, made) = api.post("/assemblies", json!({ "name": "Day", "groups": groups })).await;
    let (status, bytes) = api.bytes(&format!("/assemblies/{}/turnover/assembly.otioz", made["id"])).await;
    assert_eq!(status, 200);
    assert!(unpacked(&bytes).iter().any(|(_, name, _)| name == "S-002.wav"));
    api.server.stop().await;
}

#[test]
fn the_command_hands_a_day_on_with_its_media_and_writes_over_nothing() {
    let folder = tempfile::tempdir().expect("a folder");
    let out = folder.path().join("out");
    let run = |more: &[&str]| {
        let media = small();
        let args =
            ["turnover", media.to_str().expect("text"), "--out", out.to_str().expect("text"), "--with-media"];
        let run = Command::new(env!("CARGO_BIN_EXE_metaxis"))
            .env("XDG_CACHE_HOME", folder.path())
            .args(args)
            .args(more)
            .output()
            .expect("a run");
        let report: Value = serde_json::from_slice(&run.stdout).expect("a report");
        (run.status.code(), report, String::from_utf8_lossy(&run.stderr).into_owned())
    };
    let (code, report, why) = run(&[]);
    assert_eq!(code, Some(0), "{why}");
    let path = out.join(report["with_media"]["path"].as_str().expect("a name"));
    let bytes = fs::read(&path).expect("there");
    assert_eq!(report["with_media"]["bytes"], bytes.len());
    assert!(unpacked(&bytes).len() > 6);
    // Not a second time, unless it is to be replaced.
    let (code, report, why) = run(&[]);
    assert_eq!(code, Some(1));
    assert!(why.contains("was not made") && report["with_media"]["failed"].is_string(), "{why}");
    assert_eq!(run(&["--replace"]).0, Some(0));
}
