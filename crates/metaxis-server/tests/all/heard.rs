//! Sound heard over HTTP before it is written: the same samples, from any moment on.

use crate::common::{Api, clip, synced};
use metaxis_core::{clip::SoundFacts, sound::Samples};
use metaxis_media::{SoundFile, Stop};
use serde_json::{Value, json};
use std::path::Path;

/// Samples of every track, as the server gives them.
pub async fn piece(api: &Api, heard: &Value, from: i64, count: usize) -> Vec<Vec<f32>> {
    let name = heard["name"].as_str().expect("a name");
    let (status, bytes) = api.bytes(&format!("/heard/{name}?from={from}&count={count}")).await;
    assert_eq!(status, 200);
    let all: Vec<f32> = bytes.as_chunks().0.iter().map(|four| f32::from_le_bytes(*four)).collect();
    let tracks = heard["tracks"].as_array().expect("tracks").len();
    all.chunks(all.len() / tracks).map(<[f32]>::to_vec).collect()
}

/// A written file of 32-bit floats.
fn written(path: &Path, facts: &SoundFacts, from: i64, count: usize) -> Vec<Vec<f32>> {
    let mut file = SoundFile::open(path, facts, &Stop::default()).expect("a file");
    let mut out = vec![vec![0.0; count]; facts.channels as usize];
    file.read(from, &mut out).expect("samples");
    out
}

#[tokio::test]
async fn what_is_heard_is_what_is_written() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let recorder = &clip(&day, "S-001.wav")["device"];
    let change = |change: Value, version: i64| json!({ "version": version, "change": change });
    let form = json!({ "do": "form", "form": { "depth": "float32" } });
    assert_eq!(api.post("/sound/edits", change(form, 0)).await, (200, Value::Null));
    let handling = json!({ "correction": "resample", "fill": "silence" });
    let resample = json!({ "do": "correct", "devices": [recorder], "handling": handling });
    assert_eq!(api.post("/sound/edits", change(resample, 1)).await.0, 200);

    let camera = &clip(&day, "A001.mov")["id"];
    let (status, heard) = api.get(&format!("/clips/{camera}/heard")).await;
    assert_eq!(status, 200, "{heard}");
    assert_eq!(heard["tracks"][0]["name"], "Mix L");
    api.post("/sound/write", json!({ "made_for": "clips", "clips": [camera], "replace": false })).await;
    api.idle().await;
    let whole = usize::try_from(heard["samples"].as_i64().expect("a length")).expect("a length");
    let facts = SoundFacts {
        duration_s: whole as f64 / 48_000.0,
        ..serde_json::from_value(clip(&day, "S-001.wav")["facts"]["sound"].clone()).expect("facts")
    };
    let path = data.path().join("sound/A_FLOOR/A001.wav");
    let mut loudest = 0.0_f32;
    for (from, count) in [(0, 12_000), (12_000, 48_000), (777_777, 1), (31, 4800), (whole as i64 - 9, 48_000)]
    {
        let there = count.min(whole - from as usize);
        let (heard, written) = (piece(&api, &heard, from, count).await, written(&path, &facts, from, there));
        assert!(heard == written, "from {from}");
        loudest = heard.iter().flatten().fold(loudest, |most, value| most.max(value.abs()));
    }
    assert!(loudest > 0.01, "{loudest}");

    // The same is known by its name, what is chosen otherwise has another, and both can be listened to.
    let name = |heard: &Value| heard["name"].as_str().expect("a name").to_owned();
    assert_eq!(name(&api.get(&format!("/clips/{camera}/heard")).await.1), name(&heard));
    assert_eq!(api.post("/sound/edits/undo", Value::Null).await.0, 200);
    let left = api.get(&format!("/clips/{camera}/heard")).await.1;
    assert_ne!(name(&left), name(&heard));
    assert!(piece(&api, &left, 800_000, 480).await != piece(&api, &heard, 800_000, 480).await);

    // A group has all that ran in it.
    let group = &day["groups"][0]["id"];
    let (status, of_group) = api.get(&format!("/groups/{group}/heard")).await;
    assert_eq!((status, of_group["begins_s"].as_f64()), (200, Some(0.0)), "{of_group}");
    assert_eq!(piece(&api, &of_group, 48_000, 100).await.len(), 2);
}

#[tokio::test]
async fn what_cannot_be_heard_is_said() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let refused = async |path: String| {
        let (status, said) = api.get(&path).await;
        (status, said["error"].as_str().unwrap_or_default().to_owned())
    };
    let of = |name: &str| format!("/clips/{}/heard", clip(&day, name)["id"]);
    assert_eq!(refused(of("A003.mov")).await, (422, "A_FLOOR/A003.mov: it has no place yet".into()));
    assert_eq!(refused(of("S-001.wav")).await, (422, "this clip has no picture".into()));
    assert_eq!(refused("/clips/4711/heard".into()).await.0, 404);
    assert_eq!(refused("/groups/4711/heard".into()).await.0, 404);
    assert_eq!(
        refused("/heard/nothing?from=0&count=10".into()).await,
        (404, "this sound was closed; open it again".into())
    );
    let heard = api.get(&of("A001.mov")).await.1;
    let name = heard["name"].as_str().expect("a name");
    assert_eq!(refused(format!("/heard/{name}?from=-1&count=10")).await.0, 422);
    for beyond in [heard["samples"].as_i64().expect("a length"), i64::MAX] {
        assert_eq!(api.bytes(&format!("/heard/{name}?from={beyond}&count=10")).await, (200, vec![]));
    }
    // However much is asked for, two seconds of it come.
    let (_, most) = api.bytes(&format!("/heard/{name}?from=0&count={}", usize::MAX)).await;
    assert_eq!(most.len(), 2 * 96_000 * 4);
}

/// How alike two sounds are where one is best moved against the other by up to so many samples, 0 to 1; and by how many.
fn alike(one: &[f32], other: &[f32], most: usize) -> (f64, usize) {
    let length = one.len().min(other.len().saturating_sub(2 * most));
    let energy = |own: &[f32]| own.iter().map(|own| f64::from(*own).powi(2)).sum::<f64>();
    let at = |lag: usize| {
        let there = &other[lag..lag + length];
        let sum: f64 = one[..length].iter().zip(there).map(|(a, b)| f64::from(*a) * f64::from(*b)).sum();
        sum / (energy(&one[..length]) * energy(there)).sqrt().max(1e-12)
    };
    (0..2 * most).map(|lag| (at(lag), lag)).max_by(|a, b| a.0.total_cmp(&b.0)).expect("a lag")
}

#[tokio::test]
async fn what_lies_over_a_line_is_heard_as_fast_as_it_goes() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let group = day["groups"][0]["id"].clone();
    let (fast, device) = (clip(&day, "C001.mp4")["id"].clone(), clip(&day, "C001.mp4")["device"].clone());
    let view = api.get(&format!("/groups/{group}")).await.1;
    let grid = api.get(&format!("/groups/{group}/grid")).await.1;
    let number = |grid: &Value, device: &Value| {
        let all = grid["sources"].as_array().expect("tracks");
        all.iter().position(|own| own["key"]["device"] == *device).expect("the track")
    };
    // The frame that the camera shows at frame 300 of the group, and what it heard from then on.
    let part = view["group"]["angles"]
        .as_array()
        .expect("angles")
        .iter()
        .flat_map(|own| own["parts"].as_array().expect("parts"))
        .find(|own| own["clip"] == fast)
        .expect("the camera");
    let first = |name: &str| part["stretch"][name].as_f64().expect("a number");
    let axis_s = view["axis_start_s"].as_f64().expect("an axis") + 300.0 / 25.0;
    let own_s = first("clip_start_s") + (axis_s - first("start_s")) * (1.0 + first("rate_ppm") * 1e-6);
    let heard =
        piece(&api, &grid["heard"], 300 * 1920 - 960, 24_000).await.swap_remove(number(&grid, &device));

    let layer = json!({
        "at": 300, "frames": 50, "clip": fast, "from": (own_s * 50.0) as i64, "speed": { "num": 1, "den": 2 }, "own_sound": true,
    });
    let lay = json!({ "version": view["version"], "edit": { "do": "lay", "layer": layer } });
    assert_eq!(api.post(&format!("/groups/{group}/line"), lay).await.0, 200);
    let laid = api.get(&format!("/groups/{group}/grid")).await.1;
    assert_ne!(laid["heard"]["name"], grid["heard"]["name"], "it is another sound");
    assert_eq!(laid["grid"], grid["grid"], "and goes nowhere by itself");
    let track = number(&laid, &json!(-1));
    let all = piece(&api, &laid["heard"], 300 * 1920, 46_000).await;
    let slow = all[track].clone();
    // Half as fast: every second sample is one of the camera's.
    let half: Vec<f32> = slow.iter().step_by(2).copied().collect();
    let (share, _) = alike(&half[..20_000], &heard, 1900);
    assert!(share > 0.98, "{share}");
    // Where it does not lie there is nothing of it.
    for from in [280 * 1920, 351 * 1920] {
        let beside = piece(&api, &laid["heard"], from, 1920).await.swap_remove(track);
        assert!(beside.iter().all(|own| own.abs() < 1e-6));
    }

    // Mixed it is heard instead of what is below, and in documents it stands above that, with its speed.
    let form = json!({ "do": "form", "form": { "of_groups": "grid", "depth": "float32" } });
    assert_eq!(api.post("/sound/edits", json!({ "version": 0, "change": form })).await.0, 200);
    let mixed = api.get(&format!("/groups/{group}/heard")).await.1;
    let out = piece(&api, &mixed, 302 * 1920, 40_000).await;
    let together: Vec<f32> = (0..slow.len()).map(|at| all[track..].iter().map(|own| own[at]).sum()).collect();
    let (share, lag) = alike(&out[0][..30_000], &together, 4_500);
    assert!(share > 0.98 && lag.abs_diff(2 * 1920) < 2, "{share} {lag}");
    let document = api.bytes(&format!("/groups/{group}/turnover/line.otio")).await.1;
    let document: Value = serde_json::from_slice(&document).expect("JSON");
    let tracks = document["tracks"]["children"].as_array().expect("tracks");
    let own = tracks.iter().find(|own| own["name"] == "Heard with the line").expect("the track");
    let items = own["children"].as_array().expect("items");
    let (gap, over) = (&items[0], &items[1]);
    assert_eq!((&gap["OTIO_SCHEMA"], &over["name"]), (&json!("Gap.1"), &json!("C001.mp4")));
    assert_eq!(over["effects"][0]["time_scalar"], 0.5);
    let list =
        String::from_utf8(api.bytes(&format!("/groups/{group}/turnover/line.edl")).await.1).expect("text");
    let event = list.lines().find(|own| own.contains("C001") && own.contains(" A")).expect("an event");
    assert!(event.ends_with("09:14:12:12 09:14:14:12") && list.contains("M2   C001     012.5"), "{list}");
    api.server.stop().await;
}
