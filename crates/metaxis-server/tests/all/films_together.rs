//! Assemblies as one file: every frame is that of its part, and the sound of each lies where its part does.

use crate::{
    common::{clip, synced},
    films::{OnAir, form, hold_against_recorder, later, made, originals, path_of, samples, truth},
    named::drawn,
};
use serde_json::{Value, json};
use std::collections::BTreeMap;

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
