//! One clip of a camera that stood elsewhere than the rest: named by the pass, given its own distance, laid right.

use crate::common::{Api, clip, config, placement, start_s};
use metaxis_core::sync::SOUND_M_PER_S;
use metaxis_shoot::{Scenario, Truth, shoot};
use serde_json::{Value, json};
use std::path::Path;

/// The second clip of the floor camera was shot from here, metres; the first from 3 m.
const FAR_M: f64 = 24.0;

/// The small shoot in the size of real pictures, with that clip moved away.
fn media(folder: &Path) -> Truth {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    let text = std::fs::read_to_string(demo.join("small.json")).expect("the small scenario");
    let mut plan: Scenario = serde_json::from_str(&text).expect("a scenario");
    plan.clips
        .retain(|clip| ["A001.mov", "A002.mov", "S-001.wav", "S-002.wav"].contains(&clip.file.as_str()));
    plan.devices.retain(|device| ["A_FLOOR", "R_RECORDER"].contains(&device.folder.as_str()));
    let moved = plan.clips.iter_mut().find(|clip| clip.file == "A002.mov").expect("the clip");
    moved.distance_m = Some(FAR_M);
    for picture in plan.devices.iter_mut().filter_map(|device| device.picture.as_mut()) {
        (picture.width, picture.height) = (640, 360);
    }
    plan.extras.clear();
    shoot(&plan, &demo.join("speech"), folder, &|_, _| {}).expect("media")
}

#[tokio::test]
async fn a_clip_that_stood_apart_is_named_given_its_distance_and_laid_right() {
    let folder = tempfile::tempdir().expect("a folder");
    let cards = folder.path().join("cards");
    let truth = media(&cards);
    let api = Api::start(config(&folder.path().join("data"), &[&cards])).await;
    api.post("/intake", json!({ "path": cards })).await;
    api.post("/jobs/proxy/stop", json!({})).await;
    api.idle().await;

    // The pass names the clip, not its camera, by what the picture shows.
    let first = api.sync().await;
    let far = clip(&first, "A002.mov")["id"].clone();
    let notes: Vec<&Value> =
        first["pass"]["notes"].as_array().expect("notes").iter().filter(|n| !n["metres"].is_null()).collect();
    let [note] = notes[..] else { panic!("one note of one clip: {notes:?}") };
    assert_eq!(note["clip"], far, "{note}");
    let metres = note["metres"].as_f64().expect("a distance");
    // A strike is seen to a third of a frame of 40 ms.
    assert!((metres - FAR_M).abs() < 0.35 * 0.04 * SOUND_M_PER_S, "{metres} m for {FAR_M}");

    // Given, it moves that clip alone, and to where its picture was true.
    let give = json!({ "do": "clip_distance", "clips": [far], "distance_cm": (FAR_M * 100.0) as i64 });
    assert_eq!(api.post("/intake/edits", give).await.0, 200);
    assert_eq!(clip(&api.day().await, "A002.mov")["distance_m"], json!(FAR_M));
    let second = api.sync().await;
    let moved_s = |name: &str| start_s(&second, name) - start_s(&first, name);
    assert_eq!(moved_s("A001.mov"), 0.0);
    assert!((moved_s("A002.mov") - FAR_M / SOUND_M_PER_S).abs() < 1e-9);
    assert_eq!(placement(&second, "A002.mov")["travel_s"], json!(FAR_M / SOUND_M_PER_S));
    let known = truth.clip("A_FLOOR/A002.mov").expect("in the truth");
    // The truth's axis begins with the sound that the recorder's microphone hears 0.6 m away.
    let off_s = start_s(&second, "A002.mov") - (known.segments[0].start_s + known.late_s);
    assert!(off_s.abs() < 0.6 / SOUND_M_PER_S + 0.5e-3, "{off_s} s off");
    let told = second["pass"]["notes"].as_array().expect("notes").iter().any(|note| note["clip"] == far);
    assert!(!told, "what is given is not proposed again: {}", second["pass"]["notes"]);

    // Its own distance counts whatever its device has; without it, it is as far as its device.
    let device = clip(&second, "A002.mov")["device"].clone();
    api.post("/intake/edits", json!({ "do": "distance", "device": device, "distance_cm": 300 })).await;
    let third = api.sync().await;
    assert!((start_s(&third, "A002.mov") - start_s(&second, "A002.mov")).abs() < 1e-9);
    assert!((start_s(&third, "A001.mov") - start_s(&second, "A001.mov") - 3.0 / SOUND_M_PER_S).abs() < 1e-9);
    let none = json!({ "do": "clip_distance", "clips": [far], "distance_cm": null });
    assert_eq!(api.post("/intake/edits", none).await.0, 200);
    let fourth = api.sync().await;
    assert!((start_s(&fourth, "A002.mov") - start_s(&first, "A002.mov") - 3.0 / SOUND_M_PER_S).abs() < 1e-9);
    // Undone, both are as they were.
    for expected in ["distance of one clip", "distance of a device", "distance of one clip"] {
        assert_eq!(api.post("/intake/edits/undo", json!({})).await.1["what"], expected);
    }
    assert_eq!(clip(&api.day().await, "A002.mov")["distance_m"], Value::Null);

    for (clips, distance_cm) in [(json!([far]), json!(-1)), (json!([far]), json!(100_001))] {
        let wrong = json!({ "do": "clip_distance", "clips": clips, "distance_cm": distance_cm });
        assert_eq!(api.post("/intake/edits", wrong).await.0, 422, "{distance_cm}");
    }
    let nobody = json!({ "do": "clip_distance", "clips": [9999], "distance_cm": 100 });
    assert_eq!(api.post("/intake/edits", nobody).await.0, 404);
    api.server.stop().await;
}

/// A remedy says what is off in all, so that it can be used again after a pass that still finds frames.
#[tokio::test]
async fn frames_to_take_off_are_said_with_those_that_are_off_already() {
    let folder = tempfile::tempdir().expect("a folder");
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    let cards =
        metaxis_shoot::made_once(&demo.join("timecode.json"), &demo.join("../target")).expect("media");
    let api = Api::start(config(&folder.path().join("data"), &[&cards])).await;
    api.post("/intake", json!({ "path": cards })).await;
    api.post("/jobs/proxy/stop", json!({})).await;
    api.idle().await;
    let note = |day: &Value| {
        let late = clip(day, "A001.mov")["device"].clone();
        let notes = day["pass"]["notes"].as_array().expect("notes").clone();
        notes.into_iter().find(|note| note["device"] == late && !note["take_off"].is_null())
    };
    let first = api.sync().await;
    let found = note(&first).expect("the camera that is late");
    assert_eq!((&found["take_off"], &found["frames_in_all"]), (&json!(11), &json!(11)));
    let take = |frames: i64| json!({ "do": "take_off", "device": found["device"], "kind": found["kind"], "frames": frames });
    // Too few are taken off: the next pass asks for the rest and says the sum.
    api.post("/intake/edits", take(8)).await;
    let again = note(&api.sync().await).expect("three are left");
    assert_eq!((&again["take_off"], &again["frames_in_all"]), (&json!(3), &json!(11)));
    api.post("/intake/edits", take(11)).await;
    assert_eq!(note(&api.sync().await), None);
    api.server.stop().await;
}
