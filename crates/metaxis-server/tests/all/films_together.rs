//! Assemblies as one file: every frame is that of its part, and the sound of each lies where its part does.

use crate::{
    common::{Api, clip, config, synced},
    films::{OnAir, form, hold_against_recorder, later, made, originals, path_of, samples, truth},
    named::{drawn, said},
};
use serde_json::{Value, json};
use std::{
    collections::{BTreeMap, BTreeSet},
    fs,
    process::Command,
};

/// Where the parts begin: a piece of the first line, a gap, a slowed clip with its own sound, all of the second line.
const BEGINS: [i64; 4] = [0, 100, 125, 175];
/// The frame of its group that the first begins with.
const FROM: i64 = 100;
/// The clip's frame that the third begins with.
const SLOW: i64 = 200;

fn sample(frame: i64) -> usize {
    frame as usize * 48_000 / 25
}

#[tokio::test]
async fn an_assembly_as_one_file_shows_and_sounds_like_its_parts() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let groups = [0, 1].map(|own| day["groups"][own]["id"].clone());
    let (_, made_of) = api.post("/assemblies", json!({ "name": "Day 1", "groups": [] })).await;
    let id = made_of["id"].as_i64().expect("a number");
    let fast = clip(&day, "C001.mp4");
    let slow = json!({
        "at": 0, "frames": 50, "clip": fast["id"], "from": SLOW, "speed": { "num": 1, "den": 2 }, "own_sound": true
    });
    let parts = json!([
        { "is": "line", "group": groups[0], "range": [FROM, FROM + 100] },
        { "is": "gap", "frames": 25 },
        { "is": "clip", "layer": slow },
        { "is": "line", "group": groups[1] },
    ]);
    let put =
        json!({ "version": made_of["turns"]["version"], "edit": { "do": "put", "at": 0, "parts": parts } });
    let (status, view) = api.post(&format!("/assemblies/{id}"), put).await;
    assert_eq!(status, 200, "{view}");
    let frames = view["frames"].as_i64().expect("frames");

    let order = |assemblies: Value| {
        json!({
            "what": "assemblies", "groups": null, "clips": null, "assemblies": assemblies,
            "form": form("h264", "mov", json!({})), "folder": "", "replace": false
        })
    };
    let films = made(&api, order(json!([id]))).await;
    assert_eq!(films[0]["state"], "done", "{films:?}");
    assert_eq!(films[0]["path"], "01 Day 1 assembly.mov");
    let film = path_of(data.path(), &films[0]);

    // Its pictures.
    let codes = drawn(&film);
    assert_eq!(codes.len() as i64, frames);
    let moved = tempfile::tempdir().expect("a folder");
    let files = originals(moved.path());
    let views = [
        api.get(&format!("/groups/{}", groups[0])).await.1,
        api.get(&format!("/groups/{}", groups[1])).await.1,
    ];
    let on_air = |view| OnAir { day: &day, view, cuts: &[], files: &files };
    let code = |frame: i64| codes[frame as usize];
    let first =
        (0..BEGINS[1]).filter(|own| on_air(&views[0]).hold_frame(FROM + own, code(*own), &film)).count();
    assert!((BEGINS[1]..BEGINS[2]).all(|own| code(own).is_none()), "the gap is not black");
    for own in BEGINS[2]..BEGINS[3] {
        assert_eq!(code(own), Some((SLOW + own - BEGINS[2]) as u64), "frame {own} of the slowed clip");
    }
    let last = (BEGINS[3]..frames)
        .filter(|own| on_air(&views[1]).hold_frame(own - BEGINS[3], code(*own), &film))
        .count();
    assert!(first > 90 && last > 100, "{first} and {last} looked at");

    // Its sound.
    let own = samples(&film, 0);
    assert!((own.len() as i64 - sample(frames) as i64).abs() <= 1, "{} samples", own.len());
    let recordings = recordings();
    for (view, begins, from, length) in
        [(&views[0], BEGINS[0], FROM, BEGINS[1]), (&views[1], BEGINS[3], 0, frames - BEGINS[3])]
    {
        let axis_s = view["axis_start_s"].as_f64().expect("an axis") + from as f64 / 25.0;
        let at = [0, sample(length) / 2, sample(length) - 24_000];
        let middle_s = axis_s + length as f64 / 50.0;
        let (recording, _) =
            recordings.iter().find(|(_, (from, to))| (*from..*to).contains(&middle_s)).expect("one");
        hold_against_recorder(&own[sample(begins)..], axis_s, &at, recording);
    }
    assert!(own[sample(BEGINS[1])..sample(BEGINS[2])].iter().all(|own| *own == 0.0), "the gap is not silent");
    // As fast as its pictures: each sample of the clip's is two.
    let of_clip = samples(&crate::common::small().join(fast["relative"].as_str().expect("a path")), 0);
    let slowed: Vec<f32> =
        of_clip.windows(2).flat_map(|pair| [pair[0], f32::midpoint(pair[0], pair[1])]).collect();
    let piece = &own[sample(BEGINS[2])..sample(BEGINS[3])];
    let off = later(&piece[4_800..72_000], &slowed, 2 * SLOW * 48_000 / 50 + 4_800);
    assert!(off.abs() <= 2, "{off} samples off");
    // What has one output is heard on both sides.
    let right = samples(&film, 1);
    assert!(right[sample(BEGINS[2])..sample(BEGINS[3])] == *piece, "the other side is another");

    // The same is heard before: of what is a clip by itself, and of nothing else.
    let (status, heard) = api.get(&format!("/assemblies/{id}/heard/2")).await;
    assert_eq!(status, 200, "{heard}");
    let name = heard["name"].as_str().expect("a name");
    let (_, bytes) = api.bytes(&format!("/heard/{name}?from=9600&count=24000")).await;
    let heard: Vec<f32> =
        bytes.chunks_exact(4).map(|own| f32::from_le_bytes([own[0], own[1], own[2], own[3]])).collect();
    let most = heard.iter().zip(&piece[9_600..]).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
    assert!(most < 1e-6, "{most} apart");
    for part in [1, 9] {
        let (status, why) = api.get(&format!("/assemblies/{id}/heard/{part}")).await;
        assert_eq!(status, 422, "{why}");
    }

    // Whatever tracks are called in each group: a microphone is one track of all of it.
    let view = api.get("/sound").await.1;
    let change = json!({ "do": "name_tracks", "pattern": "{picture} {device} {channel}" });
    let edit = json!({ "version": view["turns"]["version"], "change": change });
    assert_eq!(api.post("/sound/edits", edit).await.0, 200);
    let mut by_track = order(json!([id]));
    by_track["form"] = form("h264", "mov", json!({ "sound": "tracks", "height": 180, "grade": "small" }));
    by_track["replace"] = json!(true);
    let films = made(&api, by_track).await;
    let film = films.iter().find(|own| own["order"]["form"]["sound"] == "tracks").expect("a film");
    assert_eq!(film["state"], "done", "{film}");
    let path = path_of(data.path(), film);
    let streams = [
        "-v",
        "error",
        "-select_streams",
        "a",
        "-show_entries",
        "stream_tags=handler_name",
        "-of",
        "csv=p=0",
    ];
    let streams = said("ffprobe", &[&streams[..], &[path.to_str().expect("text")]].concat());
    let streams = String::from_utf8_lossy(&streams).into_owned();
    let names: BTreeSet<&str> = streams.lines().collect();
    assert!(names.len() == streams.lines().count() && names.len() == 4, "{names:?}");
    assert!(names.contains("Mix L") && names.contains("Mix R"), "{names:?}");

    // What is put aside is not among all, and what is not there is not made.
    assert_eq!(api.post(&format!("/assemblies/{id}/aside"), json!({ "aside": true })).await.0, 200);
    let (status, why) = api.post("/films", order(Value::Null)).await;
    assert_eq!(status, 422);
    assert!(why["error"].as_str().is_some_and(|own| own.contains("nothing of the kind")), "{why}");
    api.server.stop().await;
}

/// The recorder's recordings, and from when to when each ran on the axis.
fn recordings() -> BTreeMap<String, (f64, f64)> {
    let truth = truth();
    let folder = truth.reference.split('/').next().expect("a folder");
    let own = truth.clips.iter().filter(|own| own.path.starts_with(folder));
    let ran = own.map(|own| {
        let (first, last) = (&own.segments[0], own.segments.last().expect("a segment"));
        let length_s = (last.clip_end_s - last.clip_start_s) / (1.0 + own.rate_ppm * 1e-6);
        (own.path.clone(), (first.start_s, last.start_s + length_s))
    });
    ran.collect()
}

#[tokio::test]
async fn a_film_whose_sound_is_gone_says_so_and_no_picture_is_waited_for() {
    let folder = tempfile::tempdir().expect("a folder");
    let (media, data) = (folder.path().join("media"), folder.path().join("data"));
    metaxis_shoot::copy_folder(&crate::common::small(), &media).expect("a copy");
    let api = Api::start(config(&data, &[&media])).await;
    api.take_in(&media).await;
    let day = api.sync().await;
    fs::remove_file(media.join("R_RECORDER/S-001.wav")).expect("gone");
    let group = &day["groups"][0]["id"];
    let order = |sound: &str| {
        json!({
            "what": "lines", "groups": [group], "clips": null, "form": form("h264", "mov", json!({ "sound": sound })),
            "folder": "", "replace": false
        })
    };
    let films = made(&api, order("mix")).await;
    assert_eq!(films[0]["state"], "failed", "{films:?}");
    let why = films[0]["message"].as_str().expect("a message");
    assert!(why.contains("S-001.wav") && !why.contains("stopped"), "{why}");
    assert!(films[0]["done"].as_i64() < films[0]["total"].as_i64(), "{films:?}");
    // Without it, it is made.
    let films = made(&api, order("silent")).await;
    assert!(films.iter().any(|own| own["state"] == "done"), "{films:?}");
    api.server.stop().await;
}

#[test]
fn pictures_alone_in_their_files_have_each_channel_of_sound_beside_them() {
    if !metaxis_media::codecs_offered().contains(&metaxis_core::film::Codec::Vc3) {
        return;
    }
    let folder = tempfile::tempdir().expect("a folder");
    let (media, out) = (crate::common::small(), folder.path().join("out"));
    let args = ["turnover", media.to_str().expect("text"), "--out", out.to_str().expect("text"), "--wall"];
    let form = ["--codec", "vc-3", "--held-by", "atom", "--rows", "180"];
    let run = Command::new(env!("CARGO_BIN_EXE_metaxis"))
        .env("XDG_CACHE_HOME", folder.path())
        .args([&args[..], &form[..]].concat())
        .output()
        .expect("a run");
    assert_eq!(run.status.code(), Some(0), "{}", String::from_utf8_lossy(&run.stderr));
    let mut names: Vec<String> = fs::read_dir(out.join("films"))
        .expect("a folder")
        .filter_map(|own| own.ok()?.file_name().into_string().ok())
        .filter(|own| own.starts_with("01 "))
        .collect();
    names.sort();
    let stem = "01 1 - 1 wall";
    assert_eq!(names, [format!("{stem} A01 Mix.mxf"), format!("{stem} A02 Mix.mxf"), format!("{stem}.mxf")]);
    let label = "0d010201.10";
    let mut known = BTreeSet::new();
    for name in &names {
        let path = out.join("films").join(name);
        let asked =
            ["-v", "error", "-show_entries", "format_tags", "-of", "json", path.to_str().expect("text")];
        let tags: Value = serde_json::from_slice(&said("ffprobe", &asked)).expect("JSON");
        let tags = &tags["format"]["tags"];
        // SMPTE ST 390, by its label; each a material of its own.
        assert!(tags["operational_pattern_ul"].as_str().is_some_and(|own| own.contains(label)), "{tags}");
        assert!(known.insert(tags["material_package_umid"].to_string()), "two are one material: {tags}");
        assert_eq!(tags["timecode"], "09:14:00:12", "{tags}");
    }
}
