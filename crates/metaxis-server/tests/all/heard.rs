//! Sound heard over HTTP before it is written: the same samples, from any moment on.

use crate::common::{Api, clip, config, small};
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
    let api = Api::start(config(data.path(), &[&small()])).await;
    api.take_in(&small()).await;
    let day = api.sync().await;
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
    let api = Api::start(config(data.path(), &[&small()])).await;
    api.take_in(&small()).await;
    let day = api.sync().await;
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
