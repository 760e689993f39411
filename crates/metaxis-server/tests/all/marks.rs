//! Slates, hand, distances and the comparing of passes over HTTP.

use crate::common::{Api, clip, config, placement, small, start_s};
use reqwest::Method;
use serde_json::{Value, json};

async fn prepared(data: &std::path::Path) -> Api {
    let api = Api::start(config(data, &[&small()])).await;
    api.post("/intake", json!({ "path": small() })).await;
    api.post("/jobs/proxy/stop", json!({})).await;
    api.idle().await;
    api
}

async fn edit(api: &Api, change: Value) -> (u16, Value) {
    api.post("/intake/edits", change).await
}

#[tokio::test]
async fn claps_and_samples_of_a_clip_are_served() {
    let data = tempfile::tempdir().expect("a folder");
    let api = prepared(data.path()).await;
    let day = api.day().await;
    let id = clip(&day, "A002.mov")["id"].as_i64().expect("a number");
    let (status, found) = api.get(&format!("/clips/{id}/claps")).await;
    assert_eq!(status, 200);
    let claps = found["claps"].as_array().expect("claps");
    assert!(
        !claps.is_empty() && claps.iter().all(|clap| clap["why"].as_str().is_some_and(|why| !why.is_empty()))
    );
    let get = async |query: &str| {
        let answer =
            api.client.get(api.url(&format!("/clips/{id}/samples?{query}"))).send().await.expect("an answer");
        (answer.status().as_u16(), answer.bytes().await.expect("bytes"))
    };
    let (status, bytes) = get("from_s=1&count=1600").await;
    assert_eq!((status, bytes.len()), (200, 3200));
    assert!(bytes.iter().any(|byte| *byte != 0));
    let (status, before) = get("from_s=-5&count=16").await;
    assert!(status == 200 && before.iter().all(|byte| *byte == 0), "silence before the clip");
    assert_eq!(get("from_s=0&count=999999999").await.1.len(), 2 * 60 * 16_000, "no more than a minute");
    assert_eq!(get("from_s=NaN&count=5").await.0, 422);

    // Where the sound has a clap the picture shows the sticks close, to a part of a frame; elsewhere nothing.
    let clap_s = claps[0]["at_s"].as_f64().expect("a moment");
    let (status, seen) = api.get(&format!("/clips/{id}/seen?heard_s={clap_s}")).await;
    assert_eq!(status, 200);
    let late_s =
        clap_s - seen["seen_s"].as_f64().unwrap_or_else(|| panic!("nothing seen at {clap_s}: {found}"));
    assert!((-0.02..0.03).contains(&late_s), "{seen}");
    assert_eq!(api.get(&format!("/clips/{id}/seen?heard_s={clap_s}")).await.1, seen, "kept");
    assert_eq!(api.get(&format!("/clips/{id}/seen?heard_s=-4")).await.0, 422);
    let sound = clip(&day, "S-001.wav")["id"].as_i64().expect("a number");
    assert_eq!(api.get(&format!("/clips/{sound}/seen?heard_s=4")).await, (200, Value::Null), "no picture");
    assert_eq!(api.get("/clips/999/claps").await.0, 404);
    api.server.stop().await;
}

#[tokio::test]
async fn marks_distances_and_frames_are_checked_and_can_be_undone() {
    let data = tempfile::tempdir().expect("a folder");
    let api = prepared(data.path()).await;
    let day = api.day().await;
    let id = clip(&day, "A001.mov")["id"].clone();
    let device = clip(&day, "A001.mov")["device"].clone();
    let mark = |picture: Value, label: Value| json!({ "do": "mark", "clips": [id], "marks": [{ "picture_us": picture, "sound_us": null, "label": label }] });
    assert_eq!(edit(&api, mark(json!(2_020_000), json!("09:14:02:24"))).await.0, 200);
    let day = api.day().await;
    let marks_of = |day: &Value| clip(day, "A001.mov")["marks"].clone();
    let one = json!([{ "picture_us": 2_020_000, "sound_us": null, "label": "09:14:02:24", "take": null }]);
    assert_eq!(marks_of(&day), one);
    // Several claps, kept in the order of time.
    let at = |picture_us: i64, take: &str| json!({ "picture_us": picture_us, "sound_us": null, "label": null, "take": take });
    let several =
        json!({ "do": "mark", "clips": [id], "marks": [at(9_000_000, " 2/4 "), at(1_000_000, "")] });
    assert_eq!(edit(&api, several).await.0, 200);
    let kept = marks_of(&api.day().await);
    assert_eq!((&kept[0]["picture_us"], &kept[0]["take"]), (&json!(1_000_000), &Value::Null));
    assert_eq!((&kept[1]["picture_us"], &kept[1]["take"]), (&json!(9_000_000), &json!("2/4")));
    assert_eq!(api.post("/intake/edits/undo", json!({})).await.0, 200);
    assert_eq!(marks_of(&api.day().await), one);
    let many: Vec<Value> = (0..60).map(|i| at(i * 1_000_000, "")).collect();
    assert_eq!(edit(&api, json!({ "do": "mark", "clips": [id], "marks": many })).await.0, 422);
    let (status, refusal) = edit(&api, mark(json!(1), json!("09:14:02:25"))).await;
    assert_eq!(status, 422);
    assert!(
        refusal["error"].as_str().is_some_and(|e| e.contains("the most at this rate is 24")),
        "{refusal}"
    );
    assert_eq!(edit(&api, mark(json!(-5), Value::Null)).await.0, 422);
    let two = json!({ "do": "mark", "clips": [id, id], "marks": [{ "picture_us": 1, "sound_us": null, "label": null }] });
    assert_eq!(edit(&api, two).await.0, 422);
    assert_eq!(
        edit(&api, mark(Value::Null, json!("09:14:02:24"))).await.0,
        422,
        "a label alone is no moment"
    );
    for bad in [
        json!({ "do": "distance", "device": device, "distance_cm": -1 }),
        json!({ "do": "distance", "device": device, "distance_cm": 1_000_000 }),
        json!({ "do": "take_off", "device": device, "kind": "file_timecode", "frames": 1_000_000 }),
        json!({ "do": "take_off", "device": device, "kind": "device_clock", "frames": 1 }),
    ] {
        assert_eq!(edit(&api, bad.clone()).await.0, 422, "{bad}");
    }
    assert_eq!(edit(&api, json!({ "do": "distance", "device": device, "distance_cm": 2000 })).await.0, 200);
    let take_off = |kind: &str, frames: i64| json!({ "do": "take_off", "device": device, "kind": kind, "frames": frames });
    assert_eq!(edit(&api, take_off("file_timecode", 11)).await.0, 200);
    assert_eq!(edit(&api, take_off("audio_timecode", -2)).await.0, 200);
    let of_device = |day: &Value, what: &str| {
        day["devices"].as_array().expect("devices").iter().find(|one| one["id"] == device).expect("it")[what]
            .clone()
    };
    let day = api.day().await;
    let off = json!({ "file_timecode": 11, "audio_timecode": -2, "slate": 0 });
    assert_eq!((of_device(&day, "distance_m"), of_device(&day, "taken_off")), (json!(20.0), off));
    for _ in 0..4 {
        assert_eq!(api.post("/intake/edits/undo", json!({})).await.0, 200);
    }
    let day = api.day().await;
    let none = json!({ "file_timecode": 0, "audio_timecode": 0, "slate": 0 });
    assert_eq!((of_device(&day, "distance_m"), of_device(&day, "taken_off")), (json!(0.0), none));
    assert_eq!(marks_of(&day), json!([]));
    api.server.stop().await;
}

#[tokio::test]
async fn a_distance_moves_its_device_and_the_passes_can_be_compared_and_gone_back_to() {
    let data = tempfile::tempdir().expect("a folder");
    let api = prepared(data.path()).await;
    let first = api.sync().await;
    assert_eq!(first["pass"]["name"], "Whole day");
    let device = clip(&first, "C001.mp4")["device"].clone();
    edit(&api, json!({ "do": "distance", "device": device, "distance_cm": 2000 })).await;
    let second = api.sync().await;
    let moved_s = start_s(&second, "C001.mp4") - start_s(&first, "C001.mp4");
    assert!((moved_s - 20.0 / 343.4).abs() < 1e-6, "{moved_s}");
    let (one, two) = (first["pass"]["id"].clone(), second["pass"]["id"].clone());
    let (status, changes) = api.get(&format!("/passes/{one}/changes/{two}")).await;
    assert_eq!(status, 200);
    let changes = changes.as_array().expect("changes");
    assert_eq!(changes.len(), 1, "{changes:?}");
    assert_eq!(changes[0]["clip"], clip(&first, "C001.mp4")["id"]);
    assert_eq!(api.get(&format!("/passes/{one}/changes/999")).await.0, 404);
    let name = json!({ "name": "Gallery laid 20 m off" });
    assert_eq!(api.ask(Method::PATCH, &format!("/passes/{two}"), name).await.0, 200);
    assert_eq!(api.ask(Method::PATCH, &format!("/passes/{two}"), json!({ "name": " " })).await.0, 422);
    assert_eq!(api.ask(Method::PATCH, "/passes/999", json!({ "name": "no" })).await.0, 404);
    assert_eq!(api.day().await["pass"]["name"], "Gallery laid 20 m off");
    api.post(&format!("/passes/{one}/show"), json!({})).await;
    assert_eq!(start_s(&api.day().await, "C001.mp4"), start_s(&first, "C001.mp4"));
    api.server.stop().await;
}

/// A far camera has no clear clap of its own: after a pass those of the near microphones are proposed in its place.
#[tokio::test]
async fn a_clip_is_offered_the_claps_that_others_have_clear() {
    let data = tempfile::tempdir().expect("a folder");
    let api = prepared(data.path()).await;
    let day = api.sync().await;
    let far = clip(&day, "C001.mp4")["id"].as_i64().expect("a number");
    let (_, found) = api.get(&format!("/clips/{far}/claps")).await;
    let claps = found["claps"].as_array().expect("claps");
    let lent = |clap: &Value| clap["why"].as_str().is_some_and(|why| why.starts_with("heard clear in"));
    assert!(claps.iter().any(lent), "{found}");
    // The slate is at 4.0 s of the scene, the clip begins at 1.71 s of it, and sound takes 58 ms.
    let slate_s = 4.0 - 1.71 + 20.0 / 343.4;
    let near = |clap: &Value| (clap["at_s"].as_f64().unwrap_or(0.0) - slate_s).abs() < 0.005;
    assert!(claps.iter().any(near), "{found}");
    assert!(claps.windows(2).all(|pair| pair[0]["score"].as_f64() >= pair[1]["score"].as_f64()));
    // Where its microphone hears it is the same once its distance lays it later.
    let device = clip(&day, "C001.mp4")["device"].clone();
    edit(&api, json!({ "do": "distance", "device": device, "distance_cm": 2000 })).await;
    let later = api.sync().await;
    assert!(start_s(&later, "C001.mp4") > start_s(&day, "C001.mp4") + 0.05);
    let (_, again) = api.get(&format!("/clips/{far}/claps")).await;
    assert!(again["claps"].as_array().expect("claps").iter().any(near), "{again}");
    api.server.stop().await;
}

#[tokio::test]
async fn what_is_laid_by_hand_stays_until_it_is_asked_for_by_name() {
    let data = tempfile::tempdir().expect("a folder");
    let api = prepared(data.path()).await;
    let id = clip(&api.day().await, "B001.mov")["id"].clone();
    let hand = |clip: &Value, start_us: i64| json!({ "clip": clip, "start_us": start_us });
    assert_eq!(api.post("/placements/hand", hand(&id, 0)).await.0, 422, "nothing is placed yet");
    let first = api.sync().await;
    let there = start_s(&first, "B001.mov");
    let to_us = ((there + 0.08) * 1e6).round() as i64;
    assert_eq!(api.post("/placements/hand", hand(&id, to_us)).await.0, 200);
    let laid = api.day().await;
    assert_eq!(laid["pass"]["name"], "B001.mov by hand");
    assert_eq!(placement(&laid, "B001.mov")["verdict"], "by_hand");
    assert!((start_s(&laid, "B001.mov") - to_us as f64 / 1e6).abs() < 1e-9);
    assert_eq!(laid["counts"]["by_hand"], 1);
    let again = api.sync().await;
    assert_eq!(placement(&again, "B001.mov")["verdict"], "by_hand", "a pass over the day leaves it");
    assert!((start_s(&again, "B001.mov") - to_us as f64 / 1e6).abs() < 1e-9);
    api.post("/passes", json!({ "reference": null, "plan": { "clips": [id] } })).await;
    let asked = api.idle().await;
    assert_eq!(placement(&asked, "B001.mov")["verdict"], "solid");
    assert!((start_s(&asked, "B001.mov") - there).abs() < 1e-4);
    let origin = asked["pass"]["origin"].clone();
    assert_eq!(api.post("/placements/hand", hand(&origin, 5)).await.0, 422, "the axis does not move");
    assert_eq!(api.post("/placements/hand", hand(&json!(999), 5)).await.0, 404);
    api.server.stop().await;
}
