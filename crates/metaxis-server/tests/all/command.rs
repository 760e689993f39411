//! The headless command, as a script calls it.

use metaxis_core::sync::{EvidenceKind, REPORT_SCHEMA, SyncReport, Verdict};
use metaxis_shoot::{Truth, made_once};
use std::{
    fs::{self, Permissions},
    os::unix::fs::PermissionsExt,
    path::{Path, PathBuf},
    process::{Command, Output, Stdio},
};

fn small() -> PathBuf {
    let top = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    made_once(&top.join("demo/small.json"), &top.join("target")).expect("media")
}

fn metaxis(cache: &Path, args: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_metaxis"))
        .env("XDG_CACHE_HOME", cache)
        .args(args)
        .output()
        .expect("a run")
}

#[test]
fn sync_reports_what_the_truth_says() {
    let folder = tempfile::tempdir().expect("a folder");
    let media = small();
    let (report, out) = (folder.path().join("r.json"), folder.path().join("out"));
    let text = |path: &Path| path.to_str().expect("text").to_owned();
    let args = ["sync", &text(&media), "--report", &text(&report), "--turnover", &text(&out)];
    let run = metaxis(folder.path(), &args);
    assert!(run.status.success() && run.stdout.is_empty());
    assert!(String::from_utf8_lossy(&run.stderr).lines().any(|line| line.starts_with("listening ")));
    let report: SyncReport = serde_json::from_slice(&fs::read(&report).expect("a report")).expect("a report");
    let truth: Truth =
        serde_json::from_slice(&fs::read(media.join("truth.json")).expect("truth")).expect("truth");
    assert_eq!((report.schema.as_str(), report.mode.as_str()), (REPORT_SCHEMA, "day"));
    assert_eq!(report.reference, truth.reference);
    for clip in report.clips.iter().filter(|clip| clip.device != "R_RECORDER") {
        let known = truth.clip(&clip.path).expect("in the truth");
        if !known.heard_in_reference {
            if clip.path == "B_BENCH/B002.mov" {
                // It has no sound, but audio timecode that one other clip of its camera confirms.
                assert_eq!(clip.status, Verdict::Check, "{:?}", clip.reasons);
                assert!((clip.segments[0].start_s - known.segments[0].start_s).abs() < 0.02);
                assert!(clip.evidence.iter().any(|e| e.kind == EvidenceKind::AudioTimecode && e.used));
            } else {
                assert_eq!((clip.status, clip.segments.len()), (Verdict::Unplaced, 0), "{}", clip.path);
            }
            continue;
        }
        assert_eq!(clip.status, Verdict::Solid, "{}", clip.path);
        let segment = clip.segments[0];
        assert!((segment.start_s - known.segments[0].start_s).abs() < 0.5e-3, "{}", clip.path);
        assert_eq!(
            clip.evidence[0].against.as_deref(),
            Some(if known.scene == "pour" { "R_RECORDER/S-001.wav" } else { "R_RECORDER/S-002.wav" })
        );
    }
    let group = &report.groups[0];
    let devices: Vec<&str> = group.angles.iter().map(|angle| angle.device.as_str()).collect();
    assert_eq!(devices, ["A_FLOOR", "B_BENCH", "C_GALLERY", "D_PIT"]);
    assert!(
        report.skipped.iter().any(|s| s.path == "A_FLOOR/readme.txt" && s.why == "holds no audio or video")
    );
    assert!(
        report
            .warnings
            .iter()
            .any(|w| w.path == "C_GALLERY/C002.mp4" && w.code == metaxis_core::clip::NoteCode::Damaged)
    );
    let documents = |out: &Path| {
        let all = fs::read_dir(out).expect("documents").map(|own| own.expect("a file").file_name());
        all.filter(|own| own.to_string_lossy().ends_with(".otio")).count()
    };
    assert_eq!(documents(&out), report.groups.len());
    // The damaged file is said at once, and not only in the report.
    assert!(String::from_utf8_lossy(&run.stderr).contains("C_GALLERY/C002.mp4"));

    // Again from the cache, with a chosen reference file, to the standard output.
    let run = metaxis(folder.path(), &["sync", &text(&media), "--reference", "R_RECORDER/S-002.wav"]);
    let again: SyncReport = serde_json::from_slice(&run.stdout).expect("a report on the standard output");
    assert_eq!(again.reference, "R_RECORDER/S-002.wav");
    let camera = |report: &SyncReport| {
        report.clips.iter().find(|c| c.path == "A_FLOOR/A002.mov").expect("a clip").segments[0]
    };
    assert!(camera(&again).start_s.abs() < 2.0, "the axis begins with the file that was chosen");
    assert!(again.clips.iter().all(|clip| clip.root.is_none()));

    // Of several folders each clip names its own, and so does what is left out or damaged.
    let sides = [media.join("A_FLOOR"), media.join("R_RECORDER"), media.join("C_GALLERY")];
    let run = metaxis(folder.path(), &["sync", &text(&sides[0]), &text(&sides[1]), &text(&sides[2])]);
    let both: SyncReport = serde_json::from_slice(&run.stdout).expect("a report on the standard output");
    let root = |path: &str| both.clips.iter().find(|own| own.path == path).expect("a clip").root.clone();
    assert_eq!(root("A001.mov"), Some(text(&sides[0])));
    assert_eq!(root("S-001.wav"), Some(text(&sides[1])));
    let damaged = both.warnings.iter().find(|own| own.path == "C002.mp4").expect("a warning");
    assert_eq!(damaged.root, Some(text(&sides[2])));
    let left = both.skipped.iter().find(|own| own.path == "readme.txt").expect("left out");
    assert_eq!(left.root, Some(text(&sides[0])));
}

#[test]
fn what_cannot_go_well_is_said_before_the_work() {
    let folder = tempfile::tempdir().expect("a folder");
    let media = small();
    let text = |path: &Path| path.to_str().expect("text").to_owned();
    let refused = |args: &[&str]| {
        let run = metaxis(folder.path(), args);
        (run.status.code(), String::from_utf8_lossy(&run.stderr).into_owned())
    };
    let (status, why) = refused(&["sync", &text(&media), "--reference", "R_RECORDER/none.wav"]);
    assert_eq!(status, Some(2));
    assert!(why.contains("R_RECORDER/none.wav") && !why.contains("reading"), "{why}");
    let file = folder.path().join("a file");
    fs::write(&file, "").expect("written");
    let (status, why) = refused(&["sync", &text(&media), "--turnover", &text(&file)]);
    assert_eq!(status, Some(2));
    assert!(why.contains("cannot be written") && !why.contains("reading"), "{why}");
    // Where nothing can be read, it says why not.
    let bad = folder.path().join("bad");
    fs::create_dir(&bad).expect("a folder");
    fs::write(bad.join("A001.mov"), "no film").expect("written");
    let (status, why) = refused(&["sync", &text(&bad)]);
    assert_eq!(status, Some(1));
    assert!(why.contains("nothing could be read: A001.mov"), "{why}");
}

/// A program that stands in for the reader, as a script.
fn stand_in(folder: &Path, name: &str, script: &str) -> PathBuf {
    let path = folder.join(name);
    fs::write(&path, format!("#!/bin/sh\n{script}\n")).expect("written");
    fs::set_permissions(&path, Permissions::from_mode(0o755)).expect("made a program");
    path
}

#[test]
fn a_reader_that_is_missing_or_dies_costs_nothing() {
    let folder = tempfile::tempdir().expect("a folder");
    let media = small();
    let report = |reader: Option<&Path>, cache: &str| -> SyncReport {
        let mut program = Command::new(env!("CARGO_BIN_EXE_metaxis"));
        if let Some(reader) = reader {
            program.env("METAXIS_READER", reader);
        }
        let run = program
            .env("XDG_CACHE_HOME", folder.path().join(format!("{cache} cache")))
            .arg("sync")
            .arg(&media)
            .output();
        let run = run.expect("a run");
        assert!(run.status.success(), "{cache}: {}", String::from_utf8_lossy(&run.stderr));
        let report: SyncReport = serde_json::from_slice(&run.stdout).expect("a report");
        SyncReport { timing: Default::default(), ..report }
    };
    let dies = stand_in(folder.path(), "dies", "read line; printf '+\\004\\000\\000\\000half'; exit 1");
    let babbles = stand_in(folder.path(), "babbles", "read line; echo what did you say; cat >/dev/null");
    let usual = report(None, "usual");
    for (what, reader) in [("none", Path::new("")), ("dies", &dies), ("babbles", &babbles)] {
        let other = report(Some(reader), what);
        assert_eq!(other.warnings, usual.warnings, "{what}");
        assert_eq!(other.clips.len(), usual.clips.len(), "{what}");
        for (own, other) in usual.clips.iter().zip(&other.clips) {
            assert_eq!(
                (&own.path, own.status, &own.segments),
                (&other.path, other.status, &other.segments),
                "{what}"
            );
        }
    }
}

#[test]
fn wrong_use_and_nothing_to_read_have_their_own_exit_status() {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().to_str().expect("text");
    let status = |args: &[&str]| metaxis(folder.path(), args).status.code();
    assert_eq!(status(&["sync"]), Some(2));
    assert_eq!(status(&["sync", "/nowhere/at/all"]), Some(2));
    assert_eq!(status(&["sync", path, "--mode", "sideways"]), Some(2));
    assert_eq!(status(&["sync", path]), Some(1));
    fs::write(folder.path().join("a.wav"), b"no sound").expect("written");
    assert_eq!(status(&["sync", path]), Some(1));
    assert_eq!(status(&["sync", small().to_str().expect("text"), "--reference", "nobody"]), Some(2));
    assert_eq!(status(&["--version"]), Some(0));
}

/// A served production in a process of its own.
struct Served {
    process: std::process::Child,
    address: String,
}

impl Served {
    fn start(data: &Path) -> Self {
        let media = small();
        let mut process = Command::new(env!("CARGO_BIN_EXE_metaxis"))
            .args(["serve", "--address", "127.0.0.1:0", "--data"])
            .arg(data)
            .arg("--root")
            .arg(&media)
            .arg("--take-in")
            .arg(&media)
            .stdout(std::process::Stdio::piped())
            .spawn()
            .expect("a server");
        let mut address = String::new();
        let stdout = process.stdout.take().expect("output");
        std::io::BufRead::read_line(&mut std::io::BufReader::new(stdout), &mut address).expect("an address");
        Self { process, address: address.trim().to_owned() }
    }

    /// Asks for the day until `ready` says so.
    async fn until(&self, ready: impl Fn(&serde_json::Value) -> bool) -> serde_json::Value {
        for _ in 0..3600 {
            let day = reqwest::get(format!("{}/api/day", self.address)).await.expect("an answer");
            let day = day.json().await.expect("a day");
            if ready(&day) {
                return day;
            }
            tokio::time::sleep(std::time::Duration::from_millis(50)).await;
        }
        panic!("three minutes were not enough");
    }
}

fn clips_with(day: &serde_json::Value, proxy: bool) -> usize {
    day["clips"].as_array().expect("clips").iter().filter(|clip| !proxy || clip["proxy"] == true).count()
}

#[tokio::test]
async fn a_killed_server_goes_on_where_it_was_and_a_stopped_one_leaves_nothing_running() {
    let data = tempfile::tempdir().expect("a folder");
    let mut first = Served::start(data.path());
    first.until(|day| clips_with(day, false) > 0).await;
    first.process.kill().expect("killed");
    first.process.wait().expect("ended");

    let mut second = Served::start(data.path());
    second.until(|day| clips_with(day, true) == 9).await;
    // Politely this time, in the middle of making things again.
    fs::remove_dir_all(data.path().join("cache")).expect("cleared");
    let pass = reqwest::Client::new().post(format!("{}/api/passes", second.address));
    pass.json(&serde_json::json!({ "reference": null })).send().await.expect("an answer");
    let pid = second.process.id().to_string();
    assert!(Command::new("kill").args(["-INT", &pid]).status().expect("kill").success());
    assert_eq!(second.process.wait().expect("ended").code(), Some(0));
    let cache = data.path().display().to_string();
    let left = fs::read_dir("/proc").expect("processes").flatten().any(|entry| {
        fs::read(entry.path().join("cmdline"))
            .is_ok_and(|line| String::from_utf8_lossy(&line).contains(&cache))
    });
    assert!(!left, "a process of the server is still running");
}

#[test]
fn nobody_to_write_to_is_said_or_suffered_and_never_a_panic() {
    let folder = tempfile::tempdir().expect("a folder");
    let media = small();
    let text = |path: &Path| path.to_str().expect("text").to_owned();
    // Whoever was to read the report has gone before it comes.
    let mut gone = Command::new(env!("CARGO_BIN_EXE_metaxis"))
        .env("XDG_CACHE_HOME", folder.path())
        .args(["sync", &text(&media)])
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .expect("a run");
    drop(gone.stdout.take());
    drop(gone.stderr.take());
    assert_eq!(gone.wait().expect("an end").code(), Some(0));
    // A full disk under the report.
    let full = metaxis(folder.path(), &["sync", &text(&media), "--report", "/dev/full"]);
    let said = String::from_utf8_lossy(&full.stderr).into_owned();
    assert_eq!(full.status.code(), Some(1));
    assert!(said.contains("/dev/full cannot be written") && !said.contains("panicked"), "{said}");
    // No room for what is derived.
    let file = folder.path().join("no folder");
    fs::write(&file, "").expect("written");
    let none = metaxis(&file, &["sync", &text(&media)]);
    let said = String::from_utf8_lossy(&none.stderr).into_owned();
    assert_eq!(none.status.code(), Some(1));
    assert!(said.contains("cannot be written") && said.contains("free some space"), "{said}");
}
