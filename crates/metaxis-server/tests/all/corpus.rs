//! Files that are no recordings of a device, among some that are: each is told, none stops a production or leads out of
//! its folder.

use crate::common::{self, Api, config};
use nix::{sys::stat::Mode, unistd::mkfifo};
use serde_json::{Value, json};
use std::{fs, path::Path, process::Command};

const RATE: usize = 48_000;

/// A float WAV that says what it is told to.
fn float_wav(path: &Path, rate: u32, channels: u16, samples: &[f32]) {
    let data: Vec<u8> = samples.iter().flat_map(|sample| sample.to_le_bytes()).collect();
    let frame = channels.wrapping_mul(4);
    let mut bytes = b"RIFF".to_vec();
    bytes.extend((36 + data.len() as u32).to_le_bytes());
    bytes.extend(b"WAVEfmt ");
    bytes.extend(16_u32.to_le_bytes());
    bytes.extend(3_u16.to_le_bytes());
    bytes.extend(channels.to_le_bytes());
    bytes.extend(rate.to_le_bytes());
    bytes.extend(rate.wrapping_mul(u32::from(frame)).to_le_bytes());
    bytes.extend(frame.to_le_bytes());
    bytes.extend(32_u16.to_le_bytes());
    bytes.extend(b"data");
    bytes.extend((data.len() as u32).to_le_bytes());
    bytes.extend(data);
    fs::write(path, bytes).expect("written");
}

/// Knocks of noise at irregular moments.
fn sound(seconds: usize) -> Vec<f32> {
    let mut state = 9_u32;
    let mut next = move || {
        state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
        (state >> 8) as f32 / 8_388_608.0 - 1.0
    };
    let mut level = 0.0;
    (0..seconds * RATE)
        .map(|_| {
            if next() > 0.9999 {
                level = 0.4;
            }
            level *= 0.9997;
            level * next()
        })
        .collect()
}

fn ffmpeg(args: &[&str], out: &Path) {
    let made =
        Command::new("ffmpeg").args(["-v", "error", "-y"]).args(args).arg(out).status().expect("ffmpeg");
    assert!(made.success(), "{args:?}");
}

fn clip<'a>(day: &'a Value, name: &str) -> Option<&'a Value> {
    day["clips"].as_array().expect("clips").iter().find(|clip| clip["file_name"] == name)
}

#[tokio::test(flavor = "multi_thread")]
async fn what_no_device_wrote_is_told_and_stops_nothing() {
    let (data, media, outside) = (
        tempfile::tempdir().expect("a folder"),
        tempfile::tempdir().expect("a folder"),
        tempfile::tempdir().expect("a folder"),
    );
    let card = media.path().join("DAY");
    let at = |name: &str| card.join(name);
    for device in ["REC", "CAM", "ODD"] {
        fs::create_dir_all(at(device)).expect("a folder");
    }
    // A recorder with samples that are no numbers, and a time-lapse that heard the same.
    let mut heard = sound(40);
    float_wav(&outside.path().join("heard.wav"), RATE as u32, 1, &heard);
    (heard[30_000], heard[700_000], heard[900_001]) = (f32::NAN, f32::INFINITY, f32::NEG_INFINITY);
    float_wav(&at("REC/R1.WAV"), RATE as u32, 1, &heard);
    let secret = outside.path().join("heard.wav");
    let named = secret.to_str().expect("a name");
    ffmpeg(
        &[
            "-f",
            "lavfi",
            "-i",
            "testsrc=size=64x48:rate=1/4:duration=36",
            "-ss",
            "3",
            "-i",
            named,
            "-shortest",
        ],
        &at("CAM/lapse.mov"),
    );
    // Playlists that lead out of the folder, under names of media.
    fs::write(
        at("ODD/hls.mp4"),
        format!("#EXTM3U\n#EXT-X-TARGETDURATION:9\n#EXTINF:9,\nfile://{named}\n#EXT-X-ENDLIST\n"),
    )
    .expect("written");
    fs::write(at("ODD/list.wav"), format!("ffconcat version 1.0\nfile '{named}'\n")).expect("written");
    let manifest = format!(
        "<?xml version=\"1.0\"?><MPD xmlns=\"urn:mpeg:dash:schema:mpd:2011\" type=\"static\" mediaPresentationDuration=\"PT9S\"><Period><AdaptationSet mimeType=\"audio/wav\"><Representation id=\"1\" bandwidth=\"1\"><BaseURL>file://{named}</BaseURL></Representation></AdaptationSet></Period></MPD>"
    );
    fs::write(at("ODD/dash.mov"), manifest).expect("written");
    ffmpeg(
        &["-f", "lavfi", "-i", "testsrc=size=64x48:duration=1", "-frames:v", "1"],
        &outside.path().join("s001.png"),
    );
    fs::write(at("ODD/s%03d.png"), "no picture").expect("written");
    // Headers beyond all measure, and what is no file.
    float_wav(&at("ODD/slow.wav"), 7, 1, &[0.1; 96_000]);
    float_wav(&at("ODD/fast.wav"), i32::MAX as u32, 1, &[0.1; 9_600]);
    float_wav(&at("ODD/wide.wav"), RATE as u32, 4_000, &[0.1; 96_000]);
    mkfifo(&at("ODD/pipe.mov"), Mode::S_IRWXU).expect("a pipe");

    let api = Api::start(config(data.path(), &[media.path()])).await;
    let day = api.take_in(&card).await;
    for name in
        ["hls.mp4", "list.wav", "dash.mov", "s%03d.png", "slow.wav", "fast.wav", "wide.wav", "pipe.mov"]
    {
        assert!(clip(&day, name).is_none(), "{name} was taken in: {}", clip(&day, name).expect("it"));
        let notes = day["notes"].as_array().expect("notes");
        let told = notes.iter().find(|note| note["path"].as_str().is_some_and(|path| path.ends_with(name)));
        let said =
            told.and_then(|note| note["message"].as_str()).unwrap_or_else(|| panic!("{name} is not told"));
        assert!(!said.contains("heard.wav"), "{name} led out: {said}");
    }
    let jobs = day["jobs"].as_array().expect("jobs");
    assert!(jobs.iter().all(|job| job["failed"] == 0), "{jobs:?}");
    let health = day["health"].to_string();
    assert!(health.contains("holds 3 samples that are no numbers"), "{health}");
    assert!(health.contains("rate_outside"), "{health}");

    let synced = api.sync().await;
    let pass = synced["jobs"].as_array().expect("jobs").iter().find(|job| job["kind"] == "pass");
    assert_eq!(pass.expect("the pass")["failed"], json!(0), "{synced}");
    assert!(
        (common::start_s(&synced, "lapse.mov") - 3.0).abs() < 0.1,
        "{}",
        common::placement(&synced, "lapse.mov")
    );
    assert_eq!(common::placement(&synced, "lapse.mov")["verdict"], "solid");
    let groups = synced["groups"].as_array().expect("groups");
    assert_eq!(groups.len(), 1, "{synced}");
    api.server.stop().await;
}
