//! The Bench over HTTP: what is left about a moment, check points, what is left along a clip, and the round of doubt.

use crate::common::{clip, placement, start_s, synced};
use serde_json::{Value, json};

fn id(day: &Value, name: &str) -> i64 {
    clip(day, name)["id"].as_i64().expect("a number")
}

#[tokio::test]
async fn what_is_left_is_measured_against_the_reference_and_against_any_other_clip() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let (camera, other, recorder) = (id(&day, "A001.mov"), id(&day, "B001.mov"), id(&day, "S-001.wav"));
    let start = |name: &str| start_s(&day, name);
    let needle = async |own_s: f64, against: i64, there_s: f64, within_s: f64| {
        let path = format!(
            "/clips/{camera}/needle?own_s={own_s}&against={against}&there_s={there_s}&within_s={within_s}"
        );
        let (status, found) = api.get(&path).await;
        assert_eq!(status, 200, "{found}");
        found
    };
    for (name, against) in [("S-001.wav", recorder), ("B001.mov", other)] {
        // The camera's tenth second, where the pass has it and 12 frames off.
        let there_s = 10.0 + start("A001.mov") - start(name);
        for off_s in [0.0, 0.48, -0.48] {
            let found = needle(10.0, against, there_s + off_s, 1.0).await;
            assert_eq!(found["clear"], true, "{name} {off_s}: {found}");
            let later_s = found["later_s"].as_f64().expect("seconds");
            assert!((later_s + off_s).abs() < 0.001, "{name} {off_s}: {later_s}");
        }
    }
    // Where the camera had ended there is nothing to hold on to.
    assert_eq!(needle(5000.0, recorder, 5000.0, 1.0).await, Value::Null);
}

#[tokio::test]
async fn check_points_are_heard_by_both_where_the_pass_has_them() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let (camera, recorder) = (id(&day, "A001.mov"), id(&day, "S-001.wav"));
    let (status, points) = api.get(&format!("/clips/{camera}/points?against={recorder}")).await;
    assert_eq!(status, 200);
    let points = points.as_array().expect("points");
    let along: Vec<&str> = points.iter().filter_map(|point| point["along"].as_str()).collect();
    assert_eq!(along, ["start", "middle", "end"]);
    let offset = start_s(&day, "A001.mov") - start_s(&day, "S-001.wav");
    for point in points {
        let [own, there] = ["clip_s", "there_s"].map(|at| point[at].as_f64().expect("seconds"));
        assert!((there - own - offset).abs() < 0.005, "{point} {offset}");
        assert!(own > 0.0 && own < 30.0 && point["sharp_db"].as_f64() > Some(6.0), "{point}");
    }
    // A clip that has no place is looked through where a person begins it, and nowhere else.
    let lost = id(&day, "A003.mov");
    assert_eq!(placement(&day, "A003.mov")["verdict"], "unplaced");
    let at = |start: &str| format!("/clips/{lost}/points?against={recorder}{start}");
    assert_eq!(api.get(&at("")).await, (200, json!([])));
    assert_eq!(api.get(&at("&start_s=2")).await.0, 200);
    assert_eq!(api.get(&at("&start_s=inf")).await.0, 422);
}

#[tokio::test]
async fn what_is_left_along_a_clip_comes_by_itself_and_not_with_the_day() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    assert_eq!(placement(&day, "A001.mov")["residuals"], json!([]));
    let (status, drift) = api.get(&format!("/clips/{}/drift", id(&day, "A001.mov"))).await;
    let residuals = drift["residuals"].as_array().expect("measurements");
    assert!(status == 200 && residuals.len() > 10, "{drift}");
    assert!(residuals.iter().all(|one| one["error_ms"].as_f64().is_some_and(|ms| ms.abs() < 1.0)), "{drift}");
    // Half a minute of a clock that is near the reference's may be left as it is, and that is said with its numbers.
    let proposal = &drift["proposal"];
    assert_eq!(proposal["correction"], "leave", "{drift}");
    let why = proposal["why"].as_str().expect("a reason");
    assert!(why.contains(" ppm ends 0.0 frames ") && why.ends_with(": leave"), "{why}");
    let lost = api.get(&format!("/clips/{}/drift", id(&day, "A003.mov"))).await.1;
    assert_eq!(lost["proposal"], Value::Null);
    assert_eq!(api.get("/clips/999999/drift").await.0, 404);
}

#[tokio::test]
async fn a_break_is_added_moved_and_taken_out_by_hand() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let camera = id(&day, "B001.mov");
    let change = async |clip: i64, edit: Value| {
        api.post("/placements/breaks", json!({ "clip": clip, "edit": edit })).await
    };
    let begin = start_s(&day, "B001.mov");
    // Where its runs begin: in its own time, and on the axis against what comes before.
    let runs = async || {
        let day = api.day().await;
        let placed = placement(&day, "B001.mov").clone();
        let begins: Vec<(f64, f64)> = placed["stretches"]
            .as_array()
            .expect("stretches")
            .iter()
            .map(|own| ["clip_start_s", "start_s"].map(|at| own[at].as_f64().expect("seconds")))
            .map(|[clip_s, start_s]| (clip_s, start_s - begin - clip_s))
            .collect();
        (placed, begins)
    };
    let (_, plain) = runs().await;
    let add = json!({ "do": "add", "clip_s": 8.0, "step_s": 0.4 });
    assert_eq!(change(camera, add).await.0, 200);
    let (placed, begins) = runs().await;
    assert_eq!((&placed["verdict"], begins.len()), (&json!("by_hand"), plain.len() + 1), "{placed}");
    let broken = begins.iter().find(|(clip_s, _)| (clip_s - 8.0).abs() < 1e-9).expect("a break");
    assert!((broken.1 - 0.4).abs() < 0.002, "{begins:?}");
    // What was measured behind it now is off by as much, and that is told.
    let (_, drift) = api.get(&format!("/clips/{camera}/drift")).await;
    for left in drift["residuals"].as_array().expect("measurements") {
        let off_ms = left["error_ms"].as_f64().expect("ms");
        let expected_ms = if left["clip_s"].as_f64() > Some(8.0) { -400.0 } else { 0.0 };
        assert!((off_ms - expected_ms).abs() < 2.0, "{left}");
    }
    // Kept through a pass over the day, moved, taken out; undo goes back step by step.
    let after = api.sync().await;
    assert_eq!(placement(&after, "B001.mov")["stretches"], placed["stretches"]);
    assert_eq!(change(camera, json!({ "do": "move", "number": 0, "clip_s": 11.0 })).await.0, 200);
    assert!(runs().await.1.iter().any(|(clip_s, _)| (clip_s - 11.0).abs() < 1e-9));
    assert_eq!(change(camera, json!({ "do": "remove", "number": 0 })).await.0, 200);
    assert_eq!(runs().await.1.iter().filter(|(_, later_s)| later_s.abs() > 0.01).count(), 0);
    assert_eq!(api.post("/shown/edits/undo", json!({})).await.0, 200);
    assert!(runs().await.1.iter().any(|(clip_s, _)| (clip_s - 11.0).abs() < 1e-9));
    // What cannot be says why, and nothing is kept of it.
    let number = api.day().await["pass"]["number"].clone();
    for (clip, edit, why) in [
        (camera, json!({ "do": "add", "clip_s": 5000.0, "step_s": 0.4 }), "a break lies between"),
        (camera, json!({ "do": "add", "clip_s": 5.0, "step_s": 0.0 }), "what follows can lie from"),
        (camera, json!({ "do": "remove", "number": 7 }), "it has no break 8"),
        (id(&day, "A003.mov"), json!({ "do": "remove", "number": 0 }), "it has no place yet"),
        (id(&day, "S-001.wav"), json!({ "do": "remove", "number": 0 }), "the axis"),
    ] {
        let (status, said) = change(clip, edit).await;
        assert_eq!(status, 422, "{said}");
        assert!(said.to_string().contains(why), "{said}");
    }
    assert_eq!(change(999_999, json!({ "do": "remove", "number": 0 })).await.0, 404);
    assert_eq!(change(camera, json!({ "do": "bend" })).await.0, 422);
    assert_eq!(api.day().await["pass"]["number"], number);
}

#[tokio::test]
async fn one_channel_is_looked_at_by_itself() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let recorder = clip(&day, "S-001.wav");
    let number = recorder["id"].as_i64().expect("a number");
    let samples = async |channel: &str| {
        let path = format!("/clips/{number}/samples?from_s=4&count=16000{channel}");
        api.bytes(&path).await
    };
    let (status, all) = samples("").await;
    assert_eq!((status, all.len()), (200, 32_000));
    let states = recorder["channels"].as_array().expect("channels");
    let alive: Vec<usize> =
        (0..states.len()).filter(|&channel| states[channel]["carries"] == "sound").collect();
    for channel in &alive {
        let (status, own) = samples(&format!("&channel={channel}")).await;
        assert!(status == 200 && own.len() == 32_000 && own.iter().any(|byte| *byte != 0), "{channel}");
    }
    assert_eq!(samples("&channel=63").await.0, 404);
    assert_eq!(samples("&channel=x").await.0, 400);
}

#[tokio::test]
async fn the_round_is_kept_taken_back_and_declared() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let camera = id(&day, "A001.mov");
    let look = async |clips: Value, finding: Value| {
        api.post("/looks", json!({ "clips": clips, "finding": finding })).await
    };
    assert_eq!(look(json!([camera]), json!("right")).await.0, 200);
    let found = api.day().await["looks"].clone();
    assert_eq!((&found[0]["clip"], &found[0]["finding"]), (&json!(camera), &json!("right")));
    let (status, turned) = api.post("/looks/edits/undo", json!({})).await;
    assert_eq!((status, &turned["what"]), (200, &json!("a clip found right")));
    assert_eq!(api.day().await["looks"], json!([]));
    assert_eq!(api.post("/looks/edits/redo", json!({})).await.0, 200);
    assert_eq!(api.post("/checked", json!({ "who": " Ida " })).await.0, 200);
    let checked = api.day().await["checked"].clone();
    assert_eq!((&checked["who"], &checked["looked"]), (&json!("Ida"), &json!(1)));
    assert_eq!(api.post("/checked", json!({ "who": null })).await.0, 200);
    assert_eq!(api.day().await["checked"], Value::Null);
    // What cannot be is refused with its reason, and nothing of it is kept.
    assert_eq!(look(json!([camera, 999_999]), json!("aside")).await.0, 404);
    assert_eq!(look(json!([camera]), json!("perhaps")).await.0, 422);
    for who in ["", "   ", "two\nlines", &"x".repeat(61)] {
        let (status, said) = api.post("/checked", json!({ "who": who })).await;
        assert_eq!(status, 422, "{who:?}: {said}");
    }
    assert_eq!(api.day().await["looks"].as_array().map(Vec::len), Some(1));
}

#[tokio::test]
async fn what_cannot_be_measured_says_why_and_about_which_file() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let (camera, recorder) = (id(&day, "A001.mov"), id(&day, "S-001.wav"));
    let ask = async |clip: i64, against: i64, rest: &str| {
        let path = format!("/clips/{clip}/needle?against={against}&{rest}");
        let (status, said) = api.get(&path).await;
        (status, said["error"].as_str().unwrap_or_default().to_owned())
    };
    const HERE: &str = "own_s=1&there_s=1&within_s=1";
    for bad in
        ["own_s=NaN&there_s=1&within_s=1", "own_s=1&there_s=inf&within_s=1", "own_s=1&there_s=1&within_s=1e9"]
    {
        assert_eq!(ask(camera, recorder, bad).await.0, 422, "{bad}");
    }
    assert_eq!(ask(camera, recorder, "own_s=nonsense&there_s=1&within_s=1").await.0, 400);
    assert_eq!(ask(999_999, recorder, HERE).await.0, 404);
    // The cache was cleared meanwhile: it says of which file the sound is not ready.
    std::fs::remove_dir_all(data.path().join("cache")).expect("cleared");
    let (status, said) = ask(camera, recorder, HERE).await;
    assert!(status == 404 && said.contains("A001.mov") && said.contains("not ready"), "{said}");
}

/// Evidence of a clip as it is told: its kind, and whether it is set aside.
fn evidence(day: &Value, name: &str) -> Vec<(String, bool)> {
    let all = placement(day, name)["evidence"].as_array().cloned().unwrap_or_default();
    let told = |one: &Value| {
        (one["kind"].as_str().unwrap_or_default().to_owned(), one["aside"].as_bool().unwrap_or_default())
    };
    all.iter().map(told).collect()
}

#[tokio::test]
async fn evidence_is_set_aside_and_taken_back_and_later_passes_keep_to_it() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, before) = synced(data.path()).await;
    let camera = id(&before, "B001.mov");
    let told = placement(&before, "B001.mov")["evidence"].as_array().expect("evidence").clone();
    let sounds: Vec<&Value> = told.iter().filter(|one| one["kind"] == "waveform").collect();
    assert!(!sounds.is_empty(), "{told:?}");
    let turn = async |one: &Value, aside: bool| {
        let body = json!({ "clip": camera, "kind": one["kind"], "against": one["against"], "aside": aside });
        api.post("/placements/aside", body).await
    };
    // Without any sound it lies by its audio timecode, within half a frame of where it lay.
    for one in &sounds {
        assert_eq!(turn(one, true).await.0, 200);
    }
    let without = api.day().await;
    let moved_s = start_s(&without, "B001.mov") - start_s(&before, "B001.mov");
    assert!(moved_s != 0.0 && moved_s.abs() < 0.02, "{moved_s}");
    let reasons = placement(&without, "B001.mov")["reasons"].to_string();
    assert!(reasons.contains("audio timecode"), "{reasons}");
    let aside =
        evidence(&without, "B001.mov").iter().filter(|(kind, aside)| kind == "waveform" && *aside).count();
    assert_eq!(aside, sounds.len());
    // Nothing else moved.
    for other in ["A001.mov", "C001.mp4", "S-001.wav", "A002.mov"] {
        assert_eq!(start_s(&without, other), start_s(&before, other), "{other}");
    }
    // A later pass of the whole day keeps to it.
    let synced = api.sync().await;
    let aside =
        evidence(&synced, "B001.mov").iter().filter(|(kind, aside)| kind == "waveform" && *aside).count();
    assert_eq!(aside, sounds.len(), "{:?}", evidence(&synced, "B001.mov"));
    // Taken back it lies where it lay, and the same again.
    for one in &sounds {
        assert_eq!(turn(one, false).await.0, 200);
    }
    let back = api.day().await;
    assert!((start_s(&back, "B001.mov") - start_s(&before, "B001.mov")).abs() < 1e-6);
    assert!(evidence(&back, "B001.mov").iter().all(|(_, aside)| !aside));
    assert_eq!(placement(&back, "B001.mov")["verdict"], placement(&before, "B001.mov")["verdict"]);
}

#[tokio::test]
async fn what_cannot_be_weighed_again_is_refused_in_a_sentence() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let aside = async |name: &str| {
        let body = json!({ "clip": id(&day, name), "kind": "waveform", "against": null, "aside": true });
        let (status, said) = api.post("/placements/aside", body).await;
        (status, said.to_string())
    };
    let origin = day["pass"]["origin"].as_i64().expect("a clip");
    let clips = day["clips"].as_array().expect("clips");
    let first = clips.iter().find(|clip| clip["id"] == origin).expect("the axis");
    let (status, said) = aside(first["file_name"].as_str().expect("a name")).await;
    assert!(status == 422 && said.contains("clock is the axis"), "{status} {said}");
    // A clip takes no part any more: what was found is of other clips.
    let body = json!({ "do": "part", "clips": [id(&day, "A002.mov")], "part": "no_sync" });
    assert_eq!(api.post("/intake/edits", body).await.0, 200);
    let (status, said) = aside("B001.mov").await;
    assert!(status == 422 && said.contains("sync the day again"), "{status} {said}");
}
