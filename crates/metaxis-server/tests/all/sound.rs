//! Sound written for pictures: against what the simulator knows, and as other programs read it.

use metaxis_core::sound::{Correction, MadeReport, MadeState, SOUND_REPORT_SCHEMA, SoundReport};
use metaxis_shoot::{Scenario, Truth, later, made_once, true_sound};
use serde_json::Value;
use std::{
    fs::{self, Permissions},
    os::unix::fs::PermissionsExt,
    path::{Path, PathBuf},
    process::{Command, Output},
    sync::LazyLock,
};

pub fn top() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

pub fn small() -> PathBuf {
    made_once(&top().join("demo/small.json"), &top().join("target")).expect("media")
}

/// What was heard is kept for all tests of this file.
static CACHE: LazyLock<tempfile::TempDir> = LazyLock::new(|| tempfile::tempdir().expect("a folder"));

pub fn metaxis(args: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_metaxis"))
        .env("XDG_CACHE_HOME", CACHE.path())
        .env("METAXIS_PYTHON", top().join(".venv/bin/python"))
        .args(args)
        .output()
        .expect("a run")
}

/// Writes the small shoot's sound below `out`.
pub fn written(out: &Path, more: &[&str]) -> (Output, SoundReport) {
    let (media, report) = (small(), out.with_extension("json"));
    let text = |path: &Path| path.to_str().expect("text").to_owned();
    let (media, to, report_at) = (text(&media), text(out), text(&report));
    let mut args = vec!["sound", &media, "--out", &to, "--report", &report_at];
    args.extend(more);
    let run = metaxis(&args);
    let said = String::from_utf8_lossy(&run.stderr).into_owned();
    let bytes = fs::read(&report).unwrap_or_else(|e| panic!("no report ({e}): {said}"));
    (run, serde_json::from_slice(&bytes).expect("a report"))
}

pub fn made<'a>(report: &'a SoundReport, path: &str) -> &'a MadeReport {
    report.files.iter().find(|file| file.path == path).unwrap_or_else(|| panic!("no {path}"))
}

/// One vector a channel, as ffmpeg reads the file.
fn samples(path: &Path, channels: usize) -> Vec<Vec<f32>> {
    let run = Command::new("ffmpeg")
        .args(["-nostdin", "-loglevel", "error", "-i"])
        .arg(path)
        .args(["-f", "f32le", "-"])
        .output()
        .expect("ffmpeg");
    assert!(run.status.success(), "{}", String::from_utf8_lossy(&run.stderr));
    let all: Vec<f32> = run.stdout.as_chunks().0.iter().map(|four| f32::from_le_bytes(*four)).collect();
    (0..channels).map(|channel| all.iter().skip(channel).step_by(channels).copied().collect()).collect()
}

/// How much later `own` has what `truth` has around sample `at`, in samples.
fn off(own: &[f32], truth: &[f32], at: usize, expected: f64) -> f64 {
    later(own, truth, at, 24_000, expected, 60).unwrap_or_else(|| panic!("nothing near {expected} at {at}"))
}

/// How much later than it should a file's first track is at head, middle and tail of its picture, in ms.
pub fn off_ms(out: &Path, camera: &str, recorder: &str, tracks: usize) -> Vec<f64> {
    let scenario: Scenario =
        serde_json::from_slice(&fs::read(top().join("demo/small.json")).expect("a plan")).expect("a plan");
    let truth: Truth =
        serde_json::from_slice(&fs::read(small().join("truth.json")).expect("truth")).expect("truth");
    let heard =
        true_sound(&scenario, &top().join("demo/speech"), recorder, camera, 48_000).expect("the truth");
    let own = samples(&out.join(camera).with_extension("wav"), tracks).swap_remove(0);
    // A far camera is laid by what it hears, which is late.
    let late = truth.clip(camera).expect("in the truth").late_s * 48_000.0;
    let length = own.len().min(heard[0].len());
    [4_800, length / 2, length - 30_000].map(|at| (off(&own, &heard[0], at, late) - late) / 48.0).to_vec()
}

#[test]
fn what_is_written_is_the_true_sound_at_the_pictures_clock() {
    let folder = tempfile::tempdir().expect("a folder");
    let out = folder.path().join("out");
    let (run, report) = written(&out, &["--correct", "resample"]);
    assert!(run.status.success(), "{}", String::from_utf8_lossy(&run.stderr));
    assert_eq!(report.schema, SOUND_REPORT_SCHEMA);
    let truth: Truth =
        serde_json::from_slice(&fs::read(small().join("truth.json")).expect("truth")).expect("truth");
    for (camera, recorder) in [
        ("A_FLOOR/A001.mov", "R_RECORDER/S-001.wav"),
        ("B_BENCH/B001.mov", "R_RECORDER/S-001.wav"),
        ("C_GALLERY/C001.mp4", "R_RECORDER/S-001.wav"),
        ("D_PIT/D001.mp4", "R_RECORDER/S-001.wav"),
        ("A_FLOOR/A002.mov", "R_RECORDER/S-002.wav"),
    ] {
        let name = Path::new(camera).with_extension("wav").to_string_lossy().into_owned();
        let file = made(&report, &name);
        assert_eq!((file.state, file.belongs_to.as_str()), (MadeState::Written, camera));
        assert_eq!(file.sources[0].files, [recorder]);
        let names: Vec<&str> = file.tracks.iter().map(|track| track.name.as_str()).collect();
        assert_eq!(names, ["Mix L", "Mix R"]);
        // Exactly the picture's range; where frames vary, to what the container says of their times.
        let known = truth.clip(camera).expect("in the truth");
        let fps = match camera.as_bytes()[0] {
            b'C' => 50.0,
            b'D' => 30.0,
            _ => 25.0,
        };
        let length = known.frames as f64 / fps * 48_000.0;
        let slack = if known.frame_times_s.is_empty() { 0.5 } else { 1_600.0 };
        assert!((file.samples as f64 - length).abs() <= slack, "{camera}: {} for {length}", file.samples);
        for off in off_ms(&out, camera, recorder, 2) {
            assert!(off.abs() < 0.1, "{camera}: {off:+.3} ms");
        }
    }
    // A picture that no sound was found for is said, with its reason.
    assert_eq!(report.without.len(), 1);
    assert_eq!(
        (report.without[0].path.as_str(), report.without[0].why.as_str()),
        ("A_FLOOR/A003.mov", "it has no place yet")
    );
}

#[test]
fn what_is_left_is_out_at_the_end_and_what_is_recut_stays_near() {
    let folder = tempfile::tempdir().expect("a folder");
    let (left, cut) = (folder.path().join("left"), folder.path().join("cut"));
    let (_, report) = written(&left, &["--correct", "leave"]);
    let source = &made(&report, "C_GALLERY/C001.wav").sources[0];
    assert_eq!(source.correction, Correction::Leave);
    // 22.49 s at 38.7 ppm.
    let off = off_ms(&left, "C_GALLERY/C001.mp4", "R_RECORDER/S-001.wav", 2);
    assert!(off[0].abs() < 0.1 && (0.7..1.0).contains(&off[2].abs()), "{off:?}");
    // Samples that are left are the recorder's own, to the bit.
    let own = samples(&left.join("A_FLOOR/A001.wav"), 2).swap_remove(1);
    let recorder = samples(&small().join("R_RECORDER/S-001.wav"), 2).swap_remove(1);
    let first = recorder.windows(64).position(|part| *part == own[..64]).expect("the recorder's own samples");
    assert_eq!(own[..], recorder[first..first + own.len()]);
    // Nothing drifts as far as the limit here: cut or left, it is the same sound.
    let (_, report) = written(&cut, &["--correct", "recut"]);
    assert_eq!(made(&report, "C_GALLERY/C001.wav").sources[0].pieces, 1);
    let data = |out: &Path| samples(&out.join("C_GALLERY/C001.wav"), 2);
    assert!(data(&left) == data(&cut));
}

/// What another program says of a file, as JSON.
pub fn said(program: &str, args: &[&str], path: &Path) -> Value {
    let run =
        Command::new(program).args(args).arg(path).output().unwrap_or_else(|e| panic!("{program}: {e}"));
    serde_json::from_slice(&run.stdout)
        .unwrap_or_else(|e| panic!("{program}: {e}: {}", String::from_utf8_lossy(&run.stderr)))
}

/// A third reader, for the chunks that the others leave alone.
fn by_wavinfo(path: &Path) -> Value {
    const READ: &str = "import json, sys; from wavinfo import WavInfoReader as R; i = R(sys.argv[1]); \
        print(json.dumps({'reference': i.bext.time_reference, 'history': i.bext.coding_history, \
        'frames': i.data.frame_count, 'scene': i.ixml.scene, 'take': i.ixml.take, 'family': i.ixml.family_uid, \
        'tracks': [t.name for t in i.ixml.track_list]}))";
    said(top().join(".venv/bin/python").to_str().expect("text"), &["-c", READ], path)
}

#[test]
fn other_programs_read_lengths_time_references_and_names() {
    let folder = tempfile::tempdir().expect("a folder");
    let out = folder.path().join("out");
    let (_, report) = written(&out, &[]);
    let file = made(&report, "A_FLOOR/A001.wav");
    let path = out.join(&file.path);

    let probe = said("ffprobe", &["-v", "error", "-of", "json", "-show_streams", "-show_format"], &path);
    assert_eq!(probe["streams"][0]["duration_ts"], file.samples);
    assert_eq!(probe["streams"][0]["channels"], 2);
    assert_eq!(probe["streams"][0]["bits_per_raw_sample"], "24");
    assert_eq!(probe["format"]["tags"]["time_reference"], file.time_reference.to_string());
    // The picture's own timecode is where the sound begins.
    let media = small().join("A_FLOOR/A001.mov");
    let picture = said("ffprobe", &["-v", "error", "-of", "json", "-show_streams"], &media);
    let streams = picture["streams"].as_array().expect("streams");
    let label =
        streams.iter().find_map(|stream| stream["tags"]["timecode"].as_str()).expect("timecode").to_owned();
    let parts: Vec<f64> = label.split(':').map(|part| part.parse().expect("a number")).collect();
    let since_s = parts[0] * 3600.0 + parts[1] * 60.0 + parts[2] + parts[3] / 25.0;
    assert_eq!(file.time_reference as f64, (since_s * 48_000.0).round());
    assert_eq!(file.timecode.as_deref(), Some(label.as_str()));

    let info = said("mediainfo", &["--Output=JSON"], &path);
    let tracks = &info["media"]["track"];
    assert_eq!(tracks[1]["SamplingCount"], file.samples.to_string());
    assert_eq!((&tracks[1]["BitDepth"], &tracks[1]["Channels"]), (&Value::from("24"), &Value::from("2")));
    let delay_s: f64 = tracks[1]["Delay"].as_str().and_then(|text| text.parse().ok()).expect("a delay");
    assert!((delay_s - since_s).abs() < 1e-3, "{delay_s}");

    let chunks = by_wavinfo(&path);
    assert_eq!(chunks["reference"], file.time_reference);
    assert_eq!(chunks["frames"], file.samples);
    assert_eq!((&chunks["scene"], &chunks["take"]), (&Value::from("1"), &Value::from("1")));
    assert_eq!(chunks["tracks"], serde_json::json!(["Mix L", "Mix R"]));
    assert!(chunks["history"].as_str().is_some_and(|text| text.contains("S-001.wav left as it ran at ")));
}

#[test]
fn a_file_a_track_is_the_same_sound_and_knows_its_set() {
    let folder = tempfile::tempdir().expect("a folder");
    let (poly, split) = (folder.path().join("poly"), folder.path().join("split"));
    written(&poly, &["--handles", "1.5", "--bits", "float"]);
    let (run, report) = written(&split, &["--handles", "1.5", "--bits", "float", "--layout", "split"]);
    assert!(run.status.success());
    let whole = samples(&poly.join("A_FLOOR/A002.wav"), 2);
    let names = ["A_FLOOR/A002 01 Mix L.wav", "A_FLOOR/A002 02 Mix R.wav"];
    let mut families = vec![];
    for (channel, name) in names.iter().enumerate() {
        assert_eq!(made(&report, name).tracks.len(), 1);
        assert!(samples(&split.join(name), 1).swap_remove(0) == whole[channel], "{name}");
        families.push(by_wavinfo(&split.join(name))["family"].clone());
    }
    assert!(families[0].is_string() && families[0] == families[1]);
    // Three seconds more than the picture, and a second and a half before it.
    let file = made(&report, names[0]);
    let (_, bare) = written(&folder.path().join("bare"), &[]);
    let own = made(&bare, "A_FLOOR/A002.wav");
    assert_eq!(file.samples, own.samples + 3 * 48_000);
    assert_eq!(file.time_reference, own.time_reference - 72_000);
}

#[test]
fn tracks_are_named_and_ordered_by_choice_and_others_stay_at_home() {
    let folder = tempfile::tempdir().expect("a folder");
    let (plain, other) = (folder.path().join("plain"), folder.path().join("other"));
    written(&plain, &[]);
    let pattern = ["--track-names", "{number} {picture} {scene}/{take} {track}"];
    let (run, report) = written(&other, &[&pattern[..], &["--first", "Nobody,Mix R"]].concat());
    assert!(run.status.success());
    let path = "A_FLOOR/A002.wav";
    let names = ["1 A002 2/1 Mix R", "2 A002 2/1 Mix L"];
    let made_of = |report: &SoundReport| -> Vec<String> {
        made(report, path).tracks.iter().map(|track| track.name.clone()).collect()
    };
    assert_eq!(made_of(&report), names);
    assert_eq!(by_wavinfo(&other.join(path))["tracks"], serde_json::json!(names));
    let (was, is) = (samples(&plain.join(path), 2), samples(&other.join(path), 2));
    assert!(was[0] == is[1] && was[1] == is[0]);
    // With one left out, only the other; with both, it is said.
    let (_, report) = written(&folder.path().join("one"), &["--leave-out", "Mix L"]);
    assert_eq!(made_of(&report), ["Mix R"]);
    let (run, report) = written(&folder.path().join("none"), &["--leave-out", "Mix L,Mix R"]);
    assert!(run.status.success() && report.files.is_empty());
    assert!(report.without.iter().any(|own| own.why == "every track that ran with it is left out"));
}

#[test]
fn a_group_has_every_recorder_over_its_whole_extent() {
    let folder = tempfile::tempdir().expect("a folder");
    let out = folder.path().join("out");
    let (run, report) = written(&out, &["--for", "groups", "--scratch"]);
    assert!(run.status.success());
    let pour = report.files.iter().find(|file| file.path.starts_with("01 ")).expect("the first group");
    let names: Vec<&str> = pour.tracks.iter().map(|track| track.name.as_str()).collect();
    assert_eq!(names[..2], ["Mix L", "Mix R"]);
    // The cameras' sound in step beside it; what carries timecode is left out.
    let devices: Vec<&str> = pour.tracks.iter().map(|track| track.device.as_str()).collect();
    let of = |device: &str| devices.iter().filter(|own| **own == device).count();
    assert_eq!(["A_FLOOR", "B_BENCH", "C_GALLERY", "D_PIT"].map(of), [1, 1, 2, 2], "{names:?}");
    let tracks = samples(&out.join(&pour.path), names.len());
    assert_eq!(tracks[0].len() as i64, pour.samples);
    // Twenty metres are 56 ms; the near camera is 7 ms from the recorder.
    for (device, most_s) in [("A_FLOOR", 0.0005), ("B_BENCH", 0.0005)] {
        let number = devices.iter().position(|own| *own == device).expect("a track");
        let lag = off(&tracks[number], &tracks[0], 10 * 48_000, 0.0) / 48_000.0;
        assert!(lag.abs() < most_s, "{device}: {lag}");
    }
}

#[test]
fn what_is_there_stays_and_is_known_again() {
    let folder = tempfile::tempdir().expect("a folder");
    let out = folder.path().join("out");
    let (_, first) = written(&out, &[]);
    let bytes = |path: &str| fs::read(out.join(path)).expect("a file");
    let before = bytes("A_FLOOR/A001.wav");
    // Somebody else's file, a half one, and one that is gone.
    fs::write(out.join("A_FLOOR/A002.wav"), b"mine").expect("written");
    fs::write(out.join("B_BENCH/B001.wav"), &bytes("B_BENCH/B001.wav")[..50_000]).expect("written");
    fs::remove_file(out.join("D_PIT/D001.wav")).expect("removed");
    let (run, again) = written(&out, &[]);
    let state = |path: &str| made(&again, path).state;
    assert_eq!(state("A_FLOOR/A001.wav"), MadeState::There);
    assert_eq!(state("D_PIT/D001.wav"), MadeState::Written);
    for taken in ["A_FLOOR/A002.wav", "B_BENCH/B001.wav"] {
        let message = made(&again, taken).message.clone().unwrap_or_default();
        assert_eq!(state(taken), MadeState::Failed);
        assert!(message.contains("is there already") && message.contains(taken), "{message}");
    }
    assert_eq!(run.status.code(), Some(1));
    assert!(String::from_utf8_lossy(&run.stderr).contains("2 of 6 files were not written"));
    assert_eq!(bytes("A_FLOOR/A002.wav"), b"mine");
    // Asked to replace, it does, and what comes is what came before to the last byte.
    let (run, last) = written(&out, &["--replace"]);
    assert!(run.status.success());
    assert_eq!(bytes("A_FLOOR/A001.wav"), before);
    for (one, other) in first.files.iter().zip(&last.files) {
        assert_eq!((&one.path, &one.hash, one.bytes), (&other.path, &other.hash, other.bytes));
    }
    let strays = walk(&out).into_iter().filter(|path| path.extension().is_none_or(|end| end != "wav"));
    assert_eq!(strays.count(), 0);
}

fn walk(folder: &Path) -> Vec<PathBuf> {
    let mut found = vec![];
    for entry in fs::read_dir(folder).expect("a folder").flatten() {
        let path = entry.path();
        if path.is_dir() { found.extend(walk(&path)) } else { found.push(path) }
    }
    found
}

/// Writes the small shoot's sound where no file may be longer than so many blocks of 1 KiB.
fn limited(out: &Path, blocks: u32, more: &[&str]) -> (Output, SoundReport) {
    let report = out.with_extension("json");
    let script = format!(
        "trap '' XFSZ; ulimit -f {blocks}; exec \"$0\" sound \"$1\" --out \"$2\" --report \"$3\" \"${{@:4}}\""
    );
    let run = Command::new("bash")
        .env("XDG_CACHE_HOME", CACHE.path())
        .args(["-c", &script, env!("CARGO_BIN_EXE_metaxis")])
        .args([small(), out.to_owned(), report.clone()])
        .args(more)
        .output()
        .expect("a run");
    (run, serde_json::from_slice(&fs::read(&report).expect("a report")).expect("a report"))
}

#[test]
fn a_disk_that_gives_out_leaves_no_half_file_and_stops_nobody_else() {
    let folder = tempfile::tempdir().expect("a folder");
    let out = folder.path().join("out");
    // A002 has 13.7 s of two channels, 3.9 MB.
    let (run, report) = limited(&out, 4000, &[]);
    assert_eq!(run.status.code(), Some(1), "{}", String::from_utf8_lossy(&run.stderr));
    let long = made(&report, "A_FLOOR/A001.wav");
    assert_eq!(long.state, MadeState::Failed);
    assert!(
        long.message
            .as_deref()
            .is_some_and(|text| text.contains("A001.wav: cannot be written (File too large"))
    );
    assert_eq!(made(&report, "A_FLOOR/A002.wav").state, MadeState::Written);
    let there: Vec<PathBuf> = walk(&out);
    let written = report.files.iter().filter(|file| file.state == MadeState::Written).count();
    assert_eq!(there.len(), written, "{there:?}");
}

#[test]
fn a_disk_that_gives_out_leaves_no_half_picture() {
    let folder = tempfile::tempdir().expect("a folder");
    let out = folder.path().join("out");
    let (run, report) = limited(&out, 2000, &["--picture", "mov"]);
    assert_eq!(run.status.code(), Some(1), "{}", String::from_utf8_lossy(&run.stderr));
    let message = made(&report, "A_FLOOR/A001.mov").message.clone().unwrap_or_default();
    assert!(message.contains("File too large; check the disk, then write again"), "{message}");
    let written = report.files.iter().filter(|file| file.state == MadeState::Written).count();
    assert_eq!(walk(&out).len(), written);
}

#[test]
fn a_folder_that_cannot_be_written_to_is_said() {
    let folder = tempfile::tempdir().expect("a folder");
    let file = folder.path().join("a file");
    fs::write(&file, b"").expect("written");
    let (run, report) = written(&file, &[]);
    assert_eq!(run.status.code(), Some(1));
    assert!(report.files.iter().all(|own| own.state == MadeState::Failed && own.message.is_some()));
    let closed = folder.path().join("closed");
    fs::create_dir(&closed).expect("a folder");
    fs::set_permissions(&closed, Permissions::from_mode(0o555)).expect("closed");
    // Root may write everywhere.
    if fs::write(closed.join("probe"), b"").is_ok() {
        return;
    }
    let (_, report) = written(&closed, &[]);
    let message = report.files[0].message.clone().unwrap_or_default();
    assert!(message.contains("choose a folder that can be written to"), "{message}");
}

#[test]
fn wrong_use_is_refused_before_anything_is_done() {
    let status = |args: &[&str]| metaxis(args).status.code();
    assert_eq!(status(&["sound", "/tmp"]), Some(2));
    assert_eq!(status(&["sound", "/tmp", "--out", "/tmp/x", "--handles", "-1"]), Some(2));
    assert_eq!(status(&["sound", "/tmp", "--out", "/tmp/x", "--rate", "44100"]), Some(2));
    assert_eq!(status(&["sound", "/tmp", "--out", "/tmp/x", "--track-names", "{mike}"]), Some(2));
    assert_eq!(status(&["sound", "/nowhere/at/all", "--out", "/tmp/x"]), Some(2));
}
