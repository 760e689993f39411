//! A recorder without time references: every take is an island, in the report, on the page's day and in its groups.

use crate::common::{Api, clip, config, placement, start_s};
use metaxis_core::sync::{EvidenceKind, SyncReport, Verdict};
use metaxis_shoot::{Scenario, Truth, shoot};
use serde_json::{Value, json};
use std::{fs, path::Path, process::Command};

/// The small shoot with a recorder that counts no time of day, and of the cameras those without timecode and one whose
/// timecode is taken away. Two takes of the same day, a pause apart.
fn media(folder: &Path) -> Truth {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    let text = fs::read_to_string(demo.join("small.json")).expect("the small scenario");
    let mut plan: Scenario = serde_json::from_str(&text).expect("a scenario");
    let used = ["A001.mov", "A002.mov", "C001.mp4", "S-001.wav", "S-002.wav"];
    plan.clips.retain(|clip| used.contains(&clip.file.as_str()));
    plan.devices.retain(|device| ["A_FLOOR", "C_GALLERY", "R_RECORDER"].contains(&device.folder.as_str()));
    for device in &mut plan.devices {
        device.no_time_reference = true;
        device.file_timecode = metaxis_shoot::FileTimecode::None;
    }
    plan.extras.clear();
    shoot(&plan, &demo.join("speech"), folder, &|_, _| {}).expect("media")
}

#[test]
fn the_report_tells_where_each_take_lies_on_the_day() {
    let folder = tempfile::tempdir().expect("a folder");
    let cards = folder.path().join("cards");
    let truth = media(&cards);
    let run = Command::new(env!("CARGO_BIN_EXE_metaxis"))
        .env("XDG_CACHE_HOME", folder.path().join("cache"))
        .arg("sync")
        .arg(&cards)
        .output()
        .expect("a run");
    let report: SyncReport = serde_json::from_slice(&run.stdout).expect("a report");
    let of = |path: &str| report.clips.iter().find(|clip| clip.path == path).expect("a clip");
    for clip in &report.clips {
        assert_eq!(clip.status, Verdict::Solid, "{}: {:?}", clip.path, clip.reasons);
    }
    let components = ["S-001.wav", "S-002.wav"].map(|file| of(&format!("R_RECORDER/{file}")).component);
    assert_eq!(components, [0, 1]);
    assert_eq!((of("A_FLOOR/A001.mov").component, of("A_FLOOR/A002.mov").component), (0, 1));
    // Each component counts from its own reference clip.
    let reference = of("R_RECORDER/S-002.wav");
    assert_eq!(reference.segments[0].start_s, 0.0);
    let true_s = |path: &str| truth.clip(path).expect("in the truth").segments[0].start_s;
    let apart_s = true_s("A_FLOOR/A002.mov") - true_s("R_RECORDER/S-002.wav");
    assert!((of("A_FLOOR/A002.mov").segments[0].start_s - apart_s).abs() < 0.5e-3);
    let [first, second] = &report.days[..] else { panic!("two rows: {:?}", report.days) };
    assert_eq!(
        (first.reference.as_str(), second.reference.as_str()),
        ("R_RECORDER/S-001.wav", "R_RECORDER/S-002.wav")
    );
    assert_eq!(second.by, Some(EvidenceKind::DeviceClock));
    let between_s = second.day_start_s.expect("a time") - first.day_start_s.expect("a time");
    let off_s = between_s - true_s("R_RECORDER/S-002.wav") + true_s("R_RECORDER/S-001.wav");
    assert!(off_s.abs() < 3.0 * second.sigma_s.expect("a sigma"), "{off_s} s off: {second:?}");
    let groups: Vec<(u32, bool)> =
        report.groups.iter().map(|own| (own.component, own.start_s < 1.0)).collect();
    assert_eq!(groups, [(0, true), (1, true)], "each on the time of its component");
}

#[tokio::test]
async fn islands_keep_their_numbers_and_places_where_one_clip_is_placed_again() {
    let folder = tempfile::tempdir().expect("a folder");
    let cards = folder.path().join("cards");
    media(&cards);
    let api = Api::start(config(&folder.path().join("data"), &[&cards])).await;
    api.post("/intake", json!({ "path": cards })).await;
    api.post("/jobs/proxy/stop", json!({})).await;
    api.idle().await;
    let day = api.sync().await;
    let component = |day: &Value, file: &str| placement(day, file)["component"].clone();
    assert_eq!((component(&day, "A001.mov"), component(&day, "A002.mov")), (json!(0), json!(1)));
    let islands = day["pass"]["islands"].as_array().expect("islands").clone();
    assert_eq!(islands.len(), 2);
    assert_eq!(islands[1]["reference"], clip(&day, "S-002.wav")["id"]);
    assert_eq!(islands[1]["zero_s"], json!(start_s(&day, "S-002.wav")));
    let of_groups: Vec<&Value> =
        day["groups"].as_array().expect("groups").iter().map(|own| &own["group"]["component"]).collect();
    assert_eq!(of_groups, [&json!(0), &json!(1)]);
    // The clocks tell when the day began, within a second or two of the truth.
    let zero_s = day["pass"]["axis_zero"].as_f64().expect("a time of day") / 705_600_000.0;
    assert!((zero_s - 33_240.5).abs() < 4.0, "{zero_s}");

    let again = json!({ "reference": null, "plan": {
        "mode": "day", "effort": "normal", "clips": [clip(&day, "A002.mov")["id"]], "near": null } });
    assert_eq!(api.post("/passes", again).await.0, 200);
    let second = api.idle().await;
    assert_ne!(second["pass"]["id"], day["pass"]["id"]);
    assert_eq!(component(&second, "A002.mov"), json!(1));
    assert_eq!(second["pass"]["islands"], json!(islands));
    assert!((start_s(&second, "A002.mov") - start_s(&day, "A002.mov")).abs() < 1e-9);

    // Laid by hand among the clips of the other take it belongs to them.
    let start_us = ((start_s(&day, "A001.mov") + 2.0) * 1e6) as i64;
    let lay = json!({ "clip": clip(&day, "A002.mov")["id"], "start_us": start_us });
    let (status, answer) = api.post("/placements/hand", lay).await;
    assert_eq!(status, 200, "{answer}");
    assert_eq!(component(&api.idle().await, "A002.mov"), json!(0));
    api.server.stop().await;
}
