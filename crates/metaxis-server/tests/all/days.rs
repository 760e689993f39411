//! Several shoot days in one production.

use crate::common::{Api, config, small};
use serde_json::{Value, json};
use std::path::Path;

const DAYS: [&str; 2] = ["2026-05-14", "2026-05-15"];
const DAY_S: f64 = 86_400.0;

/// The small shoot, twice: on two days at the same times of day.
fn two_days(folder: &Path) {
    for day in DAYS {
        for entry in walkdir::WalkDir::new(small()).into_iter().filter_map(Result::ok) {
            let to = folder.join(day).join(entry.path().strip_prefix(small()).expect("below"));
            if entry.file_type().is_dir() {
                std::fs::create_dir_all(to).expect("a folder");
            } else {
                std::fs::copy(entry.path(), to).expect("a copy");
            }
        }
    }
}

/// Clips of a day and where each lies: file name, verdict, component, start.
fn lies(day: &Value, which: &str) -> Vec<(String, String, i64, Option<f64>)> {
    let clips = day["clips"].as_array().expect("clips").iter().filter(|clip| clip["day"] == which);
    clips
        .map(|clip| {
            let placed = day["placements"].as_array().expect("placements");
            let none = Value::Null;
            let own =
                placed.iter().find(|own| own["clip"] == clip["id"]).map_or(&none, |own| &own["placement"]);
            (
                clip["file_name"].as_str().unwrap_or_default().to_owned(),
                own["verdict"].as_str().unwrap_or_default().to_owned(),
                own["component"].as_i64().unwrap_or(-1),
                own["stretches"][0]["start_s"].as_f64(),
            )
        })
        .collect()
}

fn of_day(which: &str) -> Value {
    let plan = json!({ "mode": "day", "effort": "normal", "clips": null, "near": null, "day": which });
    json!({ "reference": null, "plan": plan })
}

async fn taken_in(data: &Path, media: &Path) -> Api {
    two_days(media);
    let api = Api::start(config(data, &[media])).await;
    api.post("/intake", json!({ "path": media })).await;
    // Light copies are of no use here.
    api.post("/jobs/proxy/stop", json!({})).await;
    api.idle().await;
    api
}

#[tokio::test]
async fn each_day_is_placed_by_itself_a_day_after_the_one_before() {
    let (data, media) = (tempfile::tempdir().expect("a folder"), tempfile::tempdir().expect("a folder"));
    let api = taken_in(data.path(), media.path()).await;
    let day = api.sync().await;
    let [first, second] = DAYS.map(|which| lies(&day, which));
    assert!(first.len() > 8 && first.len() == second.len(), "{first:?} {second:?}");
    for (one, other) in first.iter().zip(&second) {
        assert_eq!((&one.0, &one.1), (&other.0, &other.1), "the same files fare the same");
        if let (Some(one_s), Some(other_s)) = (one.3, other.3) {
            assert!((other_s - one_s - DAY_S).abs() < 1e-6, "{one:?} {other:?}");
            assert_ne!(one.2, other.2, "nothing of one day can be compared with the other: {one:?}");
        }
    }
    assert!(day["counts"]["solid"].as_u64() >= Some(12), "{}", day["counts"]);
    // No group holds clips of both days, and what it says of its time is the time of day.
    let groups = day["groups"].as_array().expect("groups");
    let starts: Vec<&Value> = groups.iter().map(|group| &group["group"]["start"]["frames"]).collect();
    assert_eq!(starts[..groups.len() / 2], starts[groups.len() / 2..], "{starts:?}");

    // One day anew: the other lies where it lay.
    let (status, said) = api.post("/passes", of_day(DAYS[1])).await;
    assert_eq!(status, 200, "{said}");
    let again = api.idle().await;
    assert_eq!((&again["pass"]["number"], &again["pass"]["name"]), (&json!(2), &json!(DAYS[1])));
    assert_eq!(lies(&again, DAYS[0]), first);
    let places = |all: &[(String, String, i64, Option<f64>)]| {
        all.iter().map(|own| (own.0.clone(), own.1.clone(), own.3)).collect::<Vec<_>>()
    };
    assert_eq!(places(&lies(&again, DAYS[1])), places(&second));

    // Evidence of a clip of the second day is set aside: it alone moves.
    let clip = again["clips"].as_array().expect("clips").iter();
    let clip = clip.filter(|clip| clip["day"] == DAYS[1]).find(|clip| clip["file_name"] == "B001.mov");
    let id = clip.expect("a camera")["id"].clone();
    let of = |day: &Value| {
        let all = day["placements"].as_array().expect("placements").clone();
        all.into_iter().find(|own| own["clip"] == id).expect("a place")["placement"].clone()
    };
    let evidence = of(&again)["evidence"].as_array().expect("evidence").clone();
    let sound = evidence.iter().find(|own| own["kind"] == "waveform").expect("a sound");
    let aside = json!({ "clip": id, "kind": "waveform", "against": sound["against"], "aside": true });
    let (status, said) = api.post("/placements/aside", aside).await;
    assert_eq!(status, 200, "{said}");
    let after = api.day().await;
    assert!(of(&after)["evidence"].as_array().expect("evidence").iter().any(|own| own["aside"] == true));
    assert_eq!(lies(&after, DAYS[0]), first);
    let start = |day: &Value| of(day)["stretches"][0]["start_s"].as_f64();
    if let Some(start_s) = start(&after) {
        assert!((start_s - start(&again).expect("a place")).abs() < 1.0, "{start_s}");
    }

    let (status, said) = api.post("/passes", of_day("Day 7")).await;
    assert_eq!(status, 422);
    assert!(said.to_string().contains("no clip is of the shoot day “Day 7”"), "{said}");
}

/// Measured from another device than the axis's a day lies where it lay, and so does the other.
#[tokio::test]
async fn a_day_measured_from_another_device_stays_on_the_axis() {
    let (data, media) = (tempfile::tempdir().expect("a folder"), tempfile::tempdir().expect("a folder"));
    let api = taken_in(data.path(), media.path()).await;
    let before = api.sync().await;
    let named = |name: &str| {
        let clips = before["clips"].as_array().expect("clips");
        clips.iter().find(|clip| clip["file_name"] == name).expect("a clip")["device"].clone()
    };
    assert_ne!(before["pass"]["reference"], named("A001.mov"));
    for which in DAYS {
        let asked = json!({ "reference": named("A001.mov"), "plan": of_day(which)["plan"] });
        assert_eq!(api.post("/passes", asked).await.0, 200);
        let after = api.idle().await;
        assert_eq!(after["pass"]["axis_zero"], before["pass"]["axis_zero"]);
        let (mut moved_s, mut placed) = (0.0_f64, 0);
        for day in DAYS {
            for (was, now) in lies(&before, day).iter().zip(lies(&after, day)) {
                assert_eq!(was.0, now.0);
                if let (Some(was_s), Some(now_s)) = (was.3, now.3) {
                    moved_s = moved_s.max((now_s - was_s).abs());
                    placed += 1;
                }
            }
        }
        // Clocks between the takes are known to some hundredths of a second.
        assert!(placed > 12 && moved_s < 0.1, "{which}: {placed} placed, moved by {moved_s} s");
    }
}

#[tokio::test]
async fn a_day_can_be_synced_before_the_others_and_one_clip_without_a_day_joins_them() {
    let (data, media) = (tempfile::tempdir().expect("a folder"), tempfile::tempdir().expect("a folder"));
    let api = taken_in(data.path(), media.path()).await;
    api.post("/passes", of_day(DAYS[1])).await;
    let day = api.idle().await;
    // Nothing is said of the other day.
    assert!(lies(&day, DAYS[0]).iter().all(|own| own.1.is_empty() && own.3.is_none()));
    assert!(lies(&day, DAYS[1]).iter().any(|own| own.1 == "solid"));
    assert_eq!(day["counts"]["unplaced"], 1);
    // Then the day before it: it lies before it, and nothing moves.
    let second = lies(&day, DAYS[1]);
    api.post("/passes", of_day(DAYS[0])).await;
    let both = api.idle().await;
    assert_eq!(lies(&both, DAYS[1]), second);
    for (one, other) in lies(&both, DAYS[0]).iter().zip(&second) {
        if let (Some(one_s), Some(other_s)) = (one.3, other.3) {
            assert!((other_s - one_s - DAY_S).abs() < 1e-6, "{one:?} {other:?}");
        }
    }
    // Where one clip has no day it could be of any, and all are looked for together: copies lie on each other.
    let clip = both["clips"][0]["id"].clone();
    let change = json!({ "do": "day", "clips": [clip], "day": "" });
    let (status, said) = api.post("/intake/edits", change).await;
    assert_eq!(status, 200, "{said}");
    let together = api.sync().await;
    let [first, second] = DAYS.map(|which| lies(&together, which));
    let start = |all: &[(String, String, i64, Option<f64>)]| {
        all.iter().find(|own| own.0 == "B001.mov").and_then(|own| own.3).expect("a place")
    };
    assert!((start(&first) - start(&second)).abs() < 1.0, "{first:?} {second:?}");
}
