//! Documents beside the sound that was made of groups, as other readers read them: they point at its files, sample for sample.

use crate::{
    common::{synced, take},
    named::by_python,
    sound::{small, written},
};
use metaxis_core::sound::{MadeState, SoundReport};
use serde_json::{Value, json};
use std::{
    fs::{self, Permissions},
    os::unix::fs::PermissionsExt,
    path::Path,
    process::Command,
};

/// Every sound track of a timeline: its name, what it points at, what that has and what is taken of it, in samples; and how many clips
/// its first picture track has.
const TRACKS: &str = "import json, sys, urllib.parse, opentimelineio as otio
t = otio.adapters.read_from_file(sys.argv[1])
def one(track):
    [clip] = list(track)
    there, taken = clip.media_reference.available_range, clip.source_range
    return [track.name, urllib.parse.unquote(clip.media_reference.target_url), there.start_time.value, there.duration.value,
            taken.start_time.value, taken.duration.value]
print(json.dumps({
  'start': t.global_start_time.to_timecode(), 'sound': [one(own) for own in t.audio_tracks()],
  'pictures': [own.name for own in t.video_tracks()], 'shots': len(list(t.video_tracks()[0].find_clips())),
}))";

/// Every event of a list by another reader: its track, its reel, its first label in the source, its length.
const EVENTS: &str = "import json, sys, opentimelineio as otio
t = otio.adapters.read_from_file(sys.argv[1], rate=25)
print(json.dumps([[track.name, clip.metadata['cmx_3600']['reel'], clip.source_range.start_time.to_timecode(),
  clip.source_range.duration.value] for track in t.audio_tracks() for clip in track.find_clips()]))";

/// Every sound track of an AAF by another reader: its name, what it points at, what is taken of that in samples.
const AAF: &str = "import json, sys, urllib.parse, opentimelineio as otio
t = otio.adapters.read_from_file(sys.argv[1])
found = []
for track in t.tracks:
    for clip in track.find_clips():
        if isinstance(clip.media_reference, otio.schema.ExternalReference):
            url = urllib.parse.unquote(clip.media_reference.target_url.removeprefix('file://'))
            taken = clip.trimmed_range()
            found.append([track.name, url, taken.start_time.value, taken.duration.value, taken.start_time.rate])
print(json.dumps(found))";

/// Frames of the first group.
const FRAMES: i64 = 625;

#[test]
fn a_groups_sound_is_handed_on_with_a_timeline_and_lists_that_point_at_it() {
    let folder = tempfile::tempdir().expect("a folder");
    let out = folder.path().join("out");
    let (run, report) = written(&out, &["--for", "groups", "--scratch", "--handles", "1"]);
    assert!(run.status.success(), "{}", String::from_utf8_lossy(&run.stderr));
    let of_first = |ending: &str| {
        let own = |path: &&str| path.starts_with("01 ") && path.ends_with(ending);
        let all: Vec<&str> = report.files.iter().map(|file| file.path.as_str()).filter(own).collect();
        all.into_iter().map(|path| out.join(path)).collect::<Vec<_>>()
    };
    let wave = &report.files[0];
    let names: Vec<&str> = wave.tracks.iter().map(|track| track.name.as_str()).collect();
    assert!(names.len() > 4, "{names:?}");

    let [document] = &of_first(".otio")[..] else { panic!("{:?}", report.files) };
    let read = by_python(TRACKS, &[document]);
    assert_eq!(read["start"], "09:14:00:12");
    let sound = read["sound"].as_array().expect("tracks");
    assert_eq!(sound.iter().map(|own| own[0].as_str().expect("a name")).collect::<Vec<_>>(), names);
    let handle = 48_000;
    assert_eq!(wave.samples, FRAMES * 1920 + 2 * handle);
    for own in sound {
        let number = |at: usize| own[at].as_f64().expect("a number") as i64;
        let there = document.parent().expect("a folder").join(own[1].as_str().expect("a path"));
        assert_eq!(there, out.join(&wave.path));
        assert_eq!((number(2), number(3)), (wave.time_reference as i64, wave.samples));
        assert_eq!((number(4) - number(2), number(5)), (handle, FRAMES * 1920));
    }
    // The angles, where nothing was cut.
    assert!(read["pictures"].as_array().is_some_and(|own| own.len() == 4), "{read}");

    let lists = of_first(".edl");
    assert_eq!(lists.len(), names.len().div_ceil(4), "{lists:?}");
    let events: Vec<Value> =
        lists.iter().flat_map(|own| by_python(EVENTS, &[own]).as_array().expect("events").clone()).collect();
    assert_eq!(events.len(), names.len());
    for (number, own) in events.iter().enumerate() {
        assert_eq!(own[0], format!("A{}", number % 4 + 1), "{own}");
        assert_eq!(
            (&own[1], &own[2], &own[3]),
            (&events[0][1], &json!("09:14:00:12"), &json!(FRAMES as f64))
        );
    }
    let texts: String = lists.iter().map(|own| fs::read_to_string(own).expect("text")).collect();
    assert!(names.iter().all(|name| texts.contains(&format!(" IS {name}"))), "{texts}");
    // The same as AAF, whose tracks are the WAV's.
    let [aaf] = &of_first(".aaf")[..] else { panic!("{:?}", report.files) };
    let read = by_python(AAF, &[aaf]);
    let tracks = read.as_array().expect("tracks");
    assert_eq!(tracks.len(), names.len(), "{read}");
    let own = wave.path.rsplit('/').next().expect("a name");
    for (track, name) in tracks.iter().zip(&names) {
        let taken = (FRAMES * 1920) as f64;
        assert_eq!(*track, json!([name, own, handle as f64, taken, 48_000.0]));
    }
    // Made once more it is all there already, to the last byte.
    let (run, again) = written(&out, &["--for", "groups", "--scratch", "--handles", "1"]);
    assert!(run.status.success() && again.files.iter().all(|own| own.state == MadeState::There));
}

#[tokio::test]
async fn a_line_that_is_cut_since_is_written_only_where_it_may_be() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let group = day["groups"][0]["id"].clone();
    let write = async |replace: bool| {
        let order = json!({ "made_for": "groups", "clips": null, "replace": replace });
        assert_eq!(api.post("/sound/write", order).await.0, 200);
        api.idle().await;
    };
    let cut = async |at: i64| {
        let edits = |angles: &[Value]| vec![take(at, &angles[1]), take(at + 50, &angles[0])];
        api.cut(&group, edits).await;
    };
    let shots = |folder: &Path| {
        let document = fs::read_dir(folder.join("sound"))
            .expect("a folder")
            .filter_map(|own| Some(own.ok()?.path()))
            .find(|own| {
                let name = own.file_name().and_then(|own| own.to_str()).unwrap_or_default();
                name.starts_with("01 ") && name.ends_with(".otio")
            })
            .expect("a document");
        let read = by_python(TRACKS, &[&document]);
        assert_eq!(read["pictures"], json!(["Line"]));
        read["shots"].as_u64().expect("shots")
    };
    cut(100).await;
    write(false).await;
    let first = shots(data.path());
    assert!(first >= 3, "{first}");
    cut(300).await;
    // Somebody's by now: it stays, and that is said.
    write(false).await;
    assert_eq!(shots(data.path()), first);
    let jobs = api.get("/jobs").await.1.to_string();
    assert!(jobs.contains("1 of") && jobs.contains(".otio: a file of that name is there already"), "{jobs}");
    write(true).await;
    assert_eq!(shots(data.path()), first + 2);
    api.server.stop().await;
}

#[test]
fn without_its_library_there_is_no_aaf_and_one_that_breaks_is_said() {
    let folder = tempfile::tempdir().expect("a folder");
    let broken = folder.path().join("python");
    // It has what is asked for, and does not do it.
    let script = "#!/bin/sh\ncase \"$2\" in 'import aaf2') exit 0;; esac\necho broken >&2\nexit 3\n";
    fs::write(&broken, script).expect("written");
    fs::set_permissions(&broken, Permissions::from_mode(0o755)).expect("permissions");
    let run = |python: &Path, out: &Path| {
        let media = small();
        let args =
            ["sound", media.to_str().expect("text"), "--out", out.to_str().expect("text"), "--for", "groups"];
        let run = Command::new(env!("CARGO_BIN_EXE_metaxis"))
            .env("XDG_CACHE_HOME", folder.path())
            .env("METAXIS_PYTHON", python)
            .args(args)
            .output()
            .expect("a run");
        let report: SoundReport = serde_json::from_slice(&run.stdout).expect("a report");
        (run.status.code(), report, String::from_utf8_lossy(&run.stderr).into_owned())
    };
    let ends = |report: &SoundReport, ending: &str| {
        report.files.iter().filter(|own| own.path.ends_with(ending)).map(|own| own.state).collect::<Vec<_>>()
    };
    let (code, report, why) = run(Path::new("/no/such/python"), &folder.path().join("without"));
    assert_eq!((code, ends(&report, ".aaf").len()), (Some(0), 0), "{why}");
    let (code, report, why) = run(&broken, &folder.path().join("broken"));
    assert_eq!(code, Some(1));
    assert!(why.contains(".aaf: cannot be written (broken)"), "{why}");
    assert!(ends(&report, ".aaf").iter().all(|own| *own == MadeState::Failed));
    for ending in [".wav", ".otio", ".edl"] {
        assert!(ends(&report, ending).iter().all(|own| *own == MadeState::Written), "{ending}");
    }
}
