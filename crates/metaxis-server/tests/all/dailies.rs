//! Pictures written again with the recorders' sound: the picture to the last bit, named tracks, its own timecode.

use crate::sound::{made, metaxis, said, small, top, written};
use metaxis_core::sound::{MadeState, SoundReport};
use serde_json::Value;
use std::{fs, path::Path, process::Command};

/// Runs ffmpeg with `args` behind its input and returns what it writes.
fn ffmpeg(input: &Path, args: &[&str]) -> Vec<u8> {
    let run = Command::new("ffmpeg")
        .args(["-nostdin", "-loglevel", "error", "-y", "-i"])
        .arg(input)
        .args(args)
        .output()
        .expect("ffmpeg");
    assert!(run.status.success(), "{}: {}", input.display(), String::from_utf8_lossy(&run.stderr));
    run.stdout
}

/// The hash of a stream as it lies in a file.
fn stream(path: &Path, which: &str) -> String {
    let list = ffmpeg(path, &["-map", which, "-c", "copy", "-f", "streamhash", "-hash", "md5", "-"]);
    String::from_utf8_lossy(&list).rsplit('=').next().expect("a hash").trim().to_owned()
}

/// A track's samples in 24 bits.
fn track(path: &Path, pick: &str) -> Vec<u8> {
    ffmpeg(path, &["-filter_complex", pick, "-f", "s24le", "-c:a", "pcm_s24le", "-"])
}

/// When each picture is shown, and how long it is in the file, in order of time.
fn pictures(path: &Path) -> Vec<(String, String)> {
    let args =
        ["-v", "error", "-select_streams", "v:0", "-show_entries", "packet=pts_time,size", "-of", "json"];
    let all = said("ffprobe", &args, path);
    let text = |value: &Value| value.as_str().expect("text").to_owned();
    let packets = all["packets"].as_array().expect("packets").iter();
    let mut found: Vec<_> = packets.map(|one| (text(&one["pts_time"]), text(&one["size"]))).collect();
    found.sort_by(|a, b| a.0.parse::<f64>().expect("a time").total_cmp(&b.0.parse().expect("a time")));
    found
}

fn streams(path: &Path) -> Vec<Value> {
    said("ffprobe", &["-v", "error", "-show_streams", "-of", "json"], path)["streams"]
        .as_array()
        .expect("streams")
        .clone()
}

#[test]
fn a_picture_stays_as_it_is_and_gets_the_recorders_tracks() {
    let folder = tempfile::tempdir().expect("a folder");
    let (mov, wav) = (folder.path().join("mov"), folder.path().join("wav"));
    let resample = ["--correct", "resample"];
    let (run, report) = written(&mov, &[&resample[..], &["--picture", "mov"]].concat());
    assert!(run.status.success(), "{}", String::from_utf8_lossy(&run.stderr));
    written(&wav, &resample);
    // Cameras with samples of their own, with coded sound, and one whose frames vary.
    for (source, channels) in
        [("A_FLOOR/A001.mov", 1), ("B_BENCH/B001.mov", 2), ("C_GALLERY/C001.mp4", 2), ("D_PIT/D001.mp4", 2)]
    {
        let name = Path::new(source).with_extension("mov");
        let file = made(&report, name.to_str().expect("text"));
        assert_eq!((file.state, file.bits), (MadeState::Written, 24), "{:?}", file.message);
        let (from, to) = (small().join(source), mov.join(&name));
        assert_eq!(file.bytes, to.metadata().expect("a file").len());
        assert_eq!(stream(&to, "0:v:0"), stream(&from, "0:v:0"), "{source}");
        assert_eq!(pictures(&to), pictures(&from), "{source}");
        // Each track is the one of the plain file, sample for sample; its own sound is behind, as it was, and switched off.
        let plain = wav.join(Path::new(source).with_extension("wav"));
        for n in 0..2 {
            let own = track(&to, &format!("[0:a:{n}]anull"));
            assert_eq!(own.len() as i64, 3 * file.samples, "{source}");
            assert!(own == track(&plain, &format!("[0:a]pan=mono|c0=c{n}")), "{source}: track {n}");
        }
        assert_eq!(stream(&to, "0:a:2"), stream(&from, "0:a:0"), "{source}");
        let all = streams(&to);
        let sounds: Vec<&Value> = all.iter().filter(|own| own["codec_type"] == "audio").collect();
        let of = |n: usize, what: &str| sounds[n][what].clone();
        assert_eq!(
            (sounds.len(), of(0, "codec_name"), of(2, "channels")),
            (3, "pcm_s24le".into(), channels.into())
        );
        let named: Vec<&Value> = sounds.iter().take(2).map(|own| &own["tags"]["handler_name"]).collect();
        assert_eq!(named, ["Mix L", "Mix R"]);
        let on: Vec<&Value> = sounds.iter().map(|own| &own["disposition"]["default"]).collect();
        assert_eq!(on, [1, 1, 0], "{source}");
    }
    // At the camera's own timecode, as the source has it; none is made up where there is none.
    let timecode = |path: &Path| streams(path)[0]["tags"]["timecode"].clone();
    let own = |path: &str| (timecode(&small().join(path)), timecode(&mov.join(path).with_extension("mov")));
    let (a, a_out) = own("A_FLOOR/A001.mov");
    assert!(a.is_string() && a == a_out, "{a} {a_out}");
    assert_eq!(own("C_GALLERY/C001.mp4"), (Value::Null, Value::Null));
    // What was done is named in the file.
    let tags =
        said("ffprobe", &["-v", "error", "-show_format", "-of", "json"], &mov.join("A_FLOOR/A001.mov"));
    let sound = tags["format"]["tags"]["sound"].as_str().expect("a note");
    assert!(sound.contains("R_RECORDER/S-001.wav resampled"), "{sound}");

    // Made again it is the same to the last byte, and what is there is known.
    let hash = |report: &SoundReport| made(report, "A_FLOOR/A001.mov").hash.clone();
    let (_, again) = written(&mov, &[&resample[..], &["--picture", "mov"]].concat());
    assert!(again.files.iter().all(|file| file.state == MadeState::There));
    let (_, replaced) = written(&mov, &[&resample[..], &["--picture", "mov", "--replace"]].concat());
    assert_eq!(hash(&replaced), hash(&report));
    // Its own sound left out is another file.
    let (run, _) = written(&mov, &[&resample[..], &["--picture", "mov", "--own", "replaced"]].concat());
    assert!(String::from_utf8_lossy(&run.stderr).contains("a file of that name is there already"));
    written(&mov, &[&resample[..], &["--picture", "mov", "--own", "replaced", "--replace"]].concat());
    let sounds = streams(&mov.join("A_FLOOR/A001.mov"));
    assert_eq!(sounds.iter().filter(|own| own["codec_type"] == "audio").count(), 2);
}

#[test]
fn an_mxf_is_op1a_and_says_which_pictures_it_cannot_hold() {
    let folder = tempfile::tempdir().expect("a folder");
    let cards = folder.path().join("cards");
    for own in ["CAM", "CAM_2", "REC"] {
        fs::create_dir_all(cards.join(own)).expect("a folder");
    }
    let first = small().join("A_FLOOR/A001.mov");
    let broadcast = ["-c:v", "mpeg2video", "-g", "1", "-b:v", "30M", "-pix_fmt", "yuv422p", "-s", "640x360"];
    let card = cards.join("CAM/A001.mxf");
    let rest = ["-c:a", "pcm_s16le", "-timecode", "10:20:30:05", "-f", "mxf", card.to_str().expect("text")];
    ffmpeg(&first, &[&broadcast[..], &rest].concat());
    fs::copy(&first, cards.join("CAM_2/B001.mov")).expect("a copy");
    fs::copy(small().join("R_RECORDER/S-001.wav"), cards.join("REC/S-001.wav")).expect("a copy");

    let (out, report) = (folder.path().join("out"), folder.path().join("report.json"));
    let text = |path: &Path| path.to_str().expect("text").to_owned();
    let (from, to, at) = (text(&cards), text(&out), text(&report));
    let run = metaxis(&["sound", &from, "--out", &to, "--picture", "mxf", "--report", &at]);
    let report: SoundReport =
        serde_json::from_slice(&fs::read(&report).expect("a report")).expect("a report");
    let file = made(&report, "CAM/A001.mxf");
    assert_eq!(file.state, MadeState::Written, "{:?}", file.message);
    let path = out.join("CAM/A001.mxf");
    assert_eq!((stream(&path, "0:v:0"), pictures(&path)), (stream(&card, "0:v:0"), pictures(&card)));
    let all = said("mediainfo", &["--Output=JSON"], &path);
    let tracks = all["media"]["track"].as_array().expect("tracks");
    assert_eq!(tracks[0]["Format_Profile"], "OP-1a");
    let sounds: Vec<&Value> = tracks.iter().filter(|track| track["@type"] == "Audio").collect();
    assert_eq!(sounds.len(), 3);
    assert!(sounds.iter().all(|track| track["BitDepth"] == "24" && track["SamplingRate"] == "48000"));
    let timecode = tracks.iter().find(|track| track["TimeCode_FirstFrame"].is_string()).expect("timecode");
    assert_eq!(timecode["TimeCode_FirstFrame"], "10:20:30:05");
    let tags =
        said("ffprobe", &["-v", "error", "-show_format", "-of", "json"], &path)["format"]["tags"].clone();
    assert_eq!((&tags["comment_track 1"], &tags["comment_track 2"]), (&"Mix L".into(), &"Mix R".into()));

    // One that an MXF cannot hold is said, and stops nothing else.
    assert!(!run.status.success());
    let other = made(&report, "CAM_2/B001.mxf");
    let message = other.message.as_deref().expect("a reason");
    assert!(message.contains("B001.mov") && message.contains("MOV"), "{message}");
    assert!(!out.join("CAM_2/B001.mxf").exists() && !out.join("CAM_2/B001.mxf.part").exists());

    // Made again it is known; cut short since, it is not.
    let again = || {
        metaxis(&["sound", &from, "--out", &to, "--picture", "mxf", "--report", &at]);
        let report: SoundReport =
            serde_json::from_slice(&fs::read(&at).expect("a report")).expect("a report");
        made(&report, "CAM/A001.mxf").state
    };
    assert_eq!(again(), MadeState::There);
    let file = fs::OpenOptions::new().write(true).open(&path).expect("the file");
    file.set_len(file.metadata().expect("its length").len() - 4096).expect("shorter");
    assert_eq!(again(), MadeState::Failed);
}

#[test]
fn a_file_of_the_day_is_never_replaced() {
    let folder = tempfile::tempdir().expect("a folder");
    let cards = folder.path().join("cards");
    for path in ["A_FLOOR/A001.mov", "R_RECORDER/S-001.wav"] {
        let to = cards.join(path);
        fs::create_dir_all(to.parent().expect("a folder")).expect("a folder");
        fs::copy(small().join(path), to).expect("a copy");
    }
    let from = cards.to_str().expect("text");
    let run = metaxis(&["sound", from, "--out", from, "--picture", "mov", "--replace"]);
    let said = String::from_utf8_lossy(&run.stderr);
    assert!(!run.status.success() && said.contains("it is a file of the day, which is only read"), "{said}");
    for path in ["A_FLOOR/A001.mov", "R_RECORDER/S-001.wav"] {
        assert!(fs::read(cards.join(path)).expect("a file") == fs::read(small().join(path)).expect("a file"));
    }
}

/// What another reader finds in a document: its beginning, and each track with whether it is on and its pieces.
fn by_opentimelineio(path: &Path) -> Value {
    const READ: &str = "import json, sys, opentimelineio as otio
t = otio.adapters.read_from_file(sys.argv[1])
time = lambda t: [t.value, t.rate]
def piece(c):
    if isinstance(c, otio.schema.Gap): return {'gap': time(c.source_range.duration)}
    r = c.media_reference
    return {'url': r.target_url, 'start': time(c.source_range.start_time), 'length': time(c.source_range.duration),
            'there': [time(r.available_range.start_time), time(r.available_range.duration)]}
print(json.dumps({'start': time(t.global_start_time), 'tracks': [
    {'kind': k.kind, 'name': k.name, 'on': k.enabled, 'pieces': [piece(c) for c in k]} for k in t.tracks]}))";
    said(top().join(".venv/bin/python").to_str().expect("text"), &["-c", READ], path)
}

#[test]
fn linked_only_names_the_recorders_samples_under_the_picture() {
    let folder = tempfile::tempdir().expect("a folder");
    let (linked, wav) = (folder.path().join("linked"), folder.path().join("wav"));
    let leave = ["--correct", "leave"];
    let (run, report) = written(&linked, &[&leave[..], &["--picture", "linked"]].concat());
    assert!(run.status.success(), "{}", String::from_utf8_lossy(&run.stderr));
    written(&wav, &leave);
    let file = made(&report, "A_FLOOR/A002.otio");
    assert_eq!(file.state, MadeState::Written);
    let document = by_opentimelineio(&linked.join("A_FLOOR/A002.otio"));
    let picture = &document["tracks"][0]["pieces"][0];
    // The picture from its first frame to its last, at its own timecode.
    assert_eq!(document["start"], picture["start"]);
    assert_eq!([&picture["start"], &picture["length"]], [&picture["there"][0], &picture["there"][1]]);
    let sound = &document["tracks"][1];
    assert_eq!((&sound["kind"], &sound["on"]), (&"Audio".into(), &true.into()));
    let piece = &sound["pieces"][0];
    assert!(piece["url"].as_str().is_some_and(|url| url.ends_with("R_RECORDER/S-002.wav")), "{piece}");
    let number = |value: &Value| value[0].as_f64().expect("a number");
    let first = (number(&piece["start"]) - number(&piece["there"][0])).round() as usize;
    let length = number(&piece["length"]) as usize;
    // What the document names is what a file has there.
    let recorder = track(&small().join("R_RECORDER/S-002.wav"), "[0:a]pan=mono|c0=c0");
    let own = track(&wav.join("A_FLOOR/A002.wav"), "[0:a]pan=mono|c0=c0");
    assert_eq!(own.len(), 3 * length);
    assert!(own == recorder[3 * first..3 * (first + length)]);
    // Its own sound is there, switched off; left out where that is chosen.
    let last = document["tracks"].as_array().and_then(|all| all.last()).expect("a track");
    assert_eq!((&last["name"], &last["on"]), (&"A_FLOOR".into(), &false.into()));
    let bare = folder.path().join("bare");
    written(&bare, &["--picture", "linked", "--own", "replaced"]);
    let document = by_opentimelineio(&bare.join("A_FLOOR/A002.otio"));
    assert!(document["tracks"].as_array().expect("tracks").iter().all(|track| track["on"] == true));

    // Made again it is there; somebody else's file of that name stays.
    fs::write(linked.join("A_FLOOR/A001.otio"), "mine").expect("written");
    let (run, report) = written(&linked, &[&leave[..], &["--picture", "linked"]].concat());
    assert_eq!(run.status.code(), Some(1));
    assert_eq!(made(&report, "A_FLOOR/A002.otio").state, MadeState::There);
    assert_eq!(made(&report, "A_FLOOR/A001.otio").state, MadeState::Failed);
    assert_eq!(fs::read_to_string(linked.join("A_FLOOR/A001.otio")).expect("a file"), "mine");
}
