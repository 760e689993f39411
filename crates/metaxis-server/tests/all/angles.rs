//! The angles of groups over HTTP: named, set aside, filled, blanked, moved; groups named and put in order.

use super::groups::{names, of, shape};
use crate::common::{Api, clip, config, small, synced};
use serde_json::{Value, json};

async fn arrange(api: &Api, group: &Value, how: Value) -> (u16, Value) {
    shape(api, json!({ "do": "arrange", "group": group, "how": how })).await
}

/// Sends a change of what is in a group, on the newest version.
async fn cast(api: &Api, group: &Value, what: &str, mut body: Value) -> (u16, Value) {
    body["version"] = api.day().await["groups_turns"]["version"].clone();
    api.post(&format!("/groups/{group}/{what}"), body).await
}

async fn angles(api: &Api, group: &Value) -> Vec<Value> {
    let view = api.get(&format!("/groups/{group}")).await.1;
    view["group"]["angles"].as_array().expect("angles").clone()
}

fn frames(angle: &Value) -> Vec<(i64, i64)> {
    let frame = |part: &Value, what: &str| part[what].as_i64().expect("a frame");
    let parts = angle["parts"].as_array().expect("parts").iter();
    parts.map(|part| (frame(part, "from_frame"), frame(part, "to_frame"))).collect()
}

async fn undo(api: &Api) -> Value {
    api.post("/groups/edits/undo", json!({})).await.1["what"].clone()
}

#[tokio::test]
async fn angles_are_named_set_aside_and_in_every_document() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let group = of(&day, "id")[0].clone();
    let before = angles(&api, &group).await;
    let [first, second] = [before[0]["id"].clone(), before[1]["id"].clone()];
    assert_eq!(first, before[0]["device"], "a device's first angle has its number");
    let name = |name: &str| json!({ "do": "name", "angle": first, "name": name });
    for bad in ["", "   ", &"x".repeat(300), "two\nlines"] {
        assert_eq!(arrange(&api, &group, name(bad)).await.0, 422, "{bad:?}");
    }
    assert_eq!(arrange(&api, &group, name("العريضة")).await.0, 200);
    assert_eq!(arrange(&api, &group, name(" Wide one ")).await.0, 200);
    assert_eq!(arrange(&api, &group, json!({ "do": "hide", "angle": second, "hidden": true })).await.0, 200);
    let (_, document) = api.get(&format!("/groups/{group}/turnover/group.otio")).await;
    let tracks = document["tracks"]["children"].as_array().expect("tracks");
    let seen: Vec<(&str, bool)> = tracks[..2]
        .iter()
        .map(|track| (track["name"].as_str().expect("a name"), track["enabled"] == true))
        .collect();
    assert_eq!((seen[0], seen[1].1), (("Wide one", true), false));
    assert_eq!(of(&api.day().await, "shaped")[0], &json!(true));

    // Cut to, an angle stays; what waits for a clip can be taken out again.
    let take = json!({ "version": 0, "edit": { "do": "take", "at": 50, "angle": before[2]["id"] } });
    assert_eq!(api.post(&format!("/groups/{group}/line"), take).await.0, 200);
    let (status, refused) = arrange(&api, &group, json!({ "do": "remove", "angle": before[2]["id"] })).await;
    assert_eq!(status, 422);
    assert!(refused["error"].as_str().expect("why").contains("the line shows that angle once"), "{refused}");
    assert_eq!(arrange(&api, &group, json!({ "do": "add", "name": "Score" })).await.0, 200);
    let now = angles(&api, &group).await;
    let score = now.last().expect("one more");
    assert_eq!((&score["name"], &score["device"], frames(score).len()), (&json!("Score"), &Value::Null, 0));
    assert_eq!(arrange(&api, &group, json!({ "do": "remove", "angle": score["id"] })).await.0, 200);

    // A later pass has the same names and the same angle aside.
    api.sync().await;
    let later = api.day().await;
    let again = angles(&api, of(&later, "id")[0]).await;
    assert_eq!((&again[0]["name"], &again[1]["hidden"]), (&json!("Wide one"), &json!(true)));
    api.server.stop().await;
}

#[tokio::test]
async fn clips_are_set_aside_taken_in_moved_and_blanked() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let (group, other) = (of(&day, "id")[0].clone(), of(&day, "id")[1].clone());
    let before = angles(&api, &group).await;
    let own = &before[1];
    let clip = own["parts"][0]["clip"].clone();
    let extent = frames(own);

    // Aside it is beside the group, where it ran; taken in again it is where it was.
    let aside = json!({ "do": "set_aside", "clip": clip });
    assert_eq!(arrange(&api, &group, aside.clone()).await.0, 200);
    assert_eq!(arrange(&api, &group, aside).await.0, 422, "it is aside already");
    assert_eq!(frames(&angles(&api, &group).await[1]), []);
    let beside = api.get(&format!("/groups/{group}/beside")).await.1;
    assert_eq!(beside[0], json!({ "clip": clip, "at": extent[0].0 }));
    let take_in = |clip: &Value, angle: Value, at: Value| json!({ "clip": clip, "angle": angle, "at": at });
    assert_eq!(cast(&api, &group, "take-in", take_in(&clip, Value::Null, Value::Null)).await.0, 200);
    assert_eq!(angles(&api, &group).await, before);

    // Moved by frames within its group, and back; the other group and the day do not follow.
    let placed = api.day().await["placements"].clone();
    let nudge = |by_s: f64| json!({ "clip": clip, "by_s": by_s });
    assert_eq!(cast(&api, &group, "nudge", nudge(0.4)).await.0, 200);
    let moved = frames(&angles(&api, &group).await[1]);
    assert_eq!(moved[0].0, extent[0].0 + 10);
    assert_eq!(api.day().await["placements"], placed);
    assert_eq!(cast(&api, &group, "nudge", nudge(-0.4)).await.0, 200);
    assert_eq!(frames(&angles(&api, &group).await[1]), extent);
    for bad in [0.0, 1e9] {
        assert_eq!(cast(&api, &group, "nudge", nudge(bad)).await.0, 422);
    }

    // A clip of another take runs at another time: it can be laid at a frame, in an angle of its own where its device runs.
    let elsewhere = angles(&api, &other).await[0]["parts"][0]["clip"].clone();
    let (status, why) = cast(&api, &group, "take-in", take_in(&elsewhere, Value::Null, Value::Null)).await;
    assert_eq!((status, &why["error"]), (422, &json!("the clip does not run while the group does")));
    assert_eq!(cast(&api, &group, "take-in", take_in(&elsewhere, Value::Null, json!(40))).await.0, 200);
    let with = angles(&api, &group).await;
    let taken = with.iter().find(|angle| angle["parts"][0]["clip"] == elsewhere).expect("its angle");
    assert_eq!(frames(taken)[0].0, 40);
    assert_eq!((with.len(), &taken["device"]), (before.len() + 1, &before[0]["device"]));
    let into = take_in(&elsewhere, own["id"].clone(), json!(0));
    assert_eq!(cast(&api, &group, "take-in", into).await.0, 422, "it is another device's angle");

    // In one step it comes into the place of the clip that goes for it.
    let mut instead = take_in(&elsewhere, Value::Null, json!(frames(&before[0])[0].0));
    instead["instead"] = before[0]["parts"][0]["clip"].clone();
    assert_eq!(cast(&api, &group, "take-in", instead.clone()).await.0, 200);
    let replaced = angles(&api, &group).await;
    assert_eq!(replaced[0]["parts"][0]["clip"], elsewhere);
    assert_eq!((&replaced[0]["id"], frames(&replaced[0])[0].0), (&before[0]["id"], frames(&before[0])[0].0));
    assert_eq!(cast(&api, &group, "take-in", instead).await.0, 422, "the one that goes is gone");
    assert_eq!(undo(&api).await, "a clip in another's place");

    // Blanked, an angle shows nothing there, and its clip goes on at its own frames behind it.
    let hole = (extent[0].0 + 20, extent[0].0 + 30);
    let blank = |from: i64, to: i64| json!({ "do": "blank", "angle": own["id"], "from": from, "to": to });
    assert_eq!(arrange(&api, &group, blank(30, 30)).await.0, 422);
    assert_eq!(arrange(&api, &group, blank(hole.0, hole.1)).await.0, 200);
    let now = angles(&api, &group).await;
    assert_eq!(frames(&now[1])[..2], [(extent[0].0, hole.0), (hole.1, extent[0].1)]);
    assert_eq!(now[1]["parts"][1]["stretch"], own["parts"][0]["stretch"]);

    // All of it can be taken back, step by step.
    for what in ["an angle blanked", "a clip taken in", "a clip moved by -0.400 s in its group"] {
        assert_eq!(undo(&api).await, what);
    }
    while !api.day().await["groups_turns"]["undo"].is_null() {
        undo(&api).await;
    }
    assert_eq!(angles(&api, &group).await, before);
    api.server.stop().await;
}

#[tokio::test]
async fn groups_are_named_by_a_pattern_and_put_in_order() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let ids: Vec<Value> = of(&day, "id").into_iter().cloned().collect();
    let wanted = |version: Value, pattern: &str, groups: Value| json!({ "version": version, "pattern": pattern, "groups": groups, "first": 7 });
    let named = async |body: Value| api.post("/groups/names", body).await;
    let (status, seen) = named(wanted(Value::Null, "Bell {scene}-{take} {number}", json!([]))).await;
    assert_eq!(status, 200, "{seen}");
    assert_eq!([&seen[0]["name"], &seen[1]["name"]], ["Bell 1-1 07", "Bell 2-1 08"]);
    assert_eq!(api.day().await["groups"], day["groups"], "looking changes nothing");
    // Two of one name are told apart; a name that is no name is refused, and so is an older version.
    let same = named(wanted(Value::Null, "Bell", json!([]))).await.1;
    assert_eq!([&same[0]["name"], &same[1]["name"]], ["Bell", "Bell (2)"]);
    for bad in ["", "{nothing}", &"x".repeat(300)] {
        assert_eq!(named(wanted(Value::Null, bad, json!([]))).await.0, 422, "{bad}");
    }
    assert_eq!(named(wanted(json!(7), "Bell", json!([]))).await.0, 409);
    assert_eq!(named(wanted(json!(0), "Bell", json!([999]))).await.0, 404);
    assert_eq!(named(wanted(json!(0), "{name} wide", json!([ids[1]]))).await.0, 200);
    assert_eq!(names(&api.day().await), ["1 / 1", "2 / 1 wide"]);

    let place = json!({ "do": "move", "group": ids[1], "to": 0 });
    assert_eq!(shape(&api, place).await.0, 200);
    assert_eq!(names(&api.day().await), ["2 / 1 wide", "1 / 1"]);
    // The halves of one that is split stay together, and a later pass keeps names and order.
    assert_eq!(shape(&api, json!({ "do": "split", "group": ids[1], "at": 60 })).await.0, 200);
    assert_eq!(names(&api.day().await), ["2 / 1 wide", "2 / 1 wide (2)", "1 / 1"]);
    assert_eq!(undo(&api).await, "2 / 1 wide split");
    api.sync().await;
    assert_eq!(names(&api.day().await), ["2 / 1 wide", "1 / 1"]);
    api.server.stop().await;
}

#[tokio::test]
async fn what_a_person_put_together_stays_and_says_what_moved() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let group = of(&day, "id")[0].clone();
    let before = angles(&api, &group).await;
    let clip = |at: usize| before[at]["parts"][0]["clip"].clone();
    assert_eq!(arrange(&api, &group, json!({ "do": "set_aside", "clip": clip(2) })).await.0, 200);
    assert_eq!(cast(&api, &group, "nudge", json!({ "clip": clip(1), "by_s": 0.4 })).await.0, 200);
    let shaped = angles(&api, &group).await;
    let other = of(&day, "id")[1].clone();
    assert_eq!(shape(&api, json!({ "do": "split", "group": other, "at": 100 })).await.0, 200);
    let take = json!({ "version": 0, "edit": { "do": "take", "at": 50, "angle": before[1]["id"] } });
    assert_eq!(api.post(&format!("/groups/{group}/line"), take).await.0, 200);

    // Another pass, and a clip laid elsewhere by hand: what was put together is as it was, and can still be undone in its line.
    api.sync().await;
    let later = api.day().await;
    assert_eq!(names(&later), ["1 / 1", "2 / 1", "2 / 1 (2)"]);
    let id = of(&later, "id")[0].clone();
    assert_ne!(id, group);
    assert_eq!(angles(&api, &id).await, shaped);
    let view = api.get(&format!("/groups/{id}")).await.1;
    assert_eq!((&view["can_undo"], &view["line"]["switches"][1]["at"]), (&json!(true), &json!(50)));
    let moved = async |id: &Value| api.get(&format!("/groups/{id}/moved")).await.1;
    assert_eq!(moved(&id).await, json!([{ "clip": clip(1), "frames": 10.0 }]));
    let placements = later["placements"].as_array().expect("placements");
    let place = |clip: &Value| placements.iter().find(|own| own["clip"] == *clip).expect("a place");
    let start_s = place(&clip(3))["placement"]["stretches"][0]["start_s"].as_f64().expect("a start");
    let by_hand = json!({ "clip": clip(3), "start_us": ((start_s - 0.2) * 1e6).round() as i64 });
    let (status, answer) = api.post("/placements/hand", by_hand).await;
    assert_eq!(status, 200, "{answer}");
    let now = api.day().await;
    let id = of(&now, "id")[0].clone();
    assert_eq!(angles(&api, &id).await, shaped, "it does not follow by itself");
    let off = moved(&id).await;
    assert_eq!(off.as_array().map(Vec::len), Some(2), "{off}");
    assert!((off[1]["frames"].as_f64().expect("frames") - 5.0).abs() < 0.01, "{off}");

    // Laid as the day has them, and back.
    let relay = json!({ "clips": [clip(1), clip(3)] });
    assert_eq!(cast(&api, &id, "relay", relay.clone()).await.0, 200);
    assert_eq!(moved(&id).await, json!([]));
    let laid = angles(&api, &id).await;
    assert_eq!(frames(&laid[1]), frames(&before[1]));
    assert_eq!(frames(&laid[3])[0].0, frames(&before[3])[0].0 - 5);
    assert_eq!(frames(&laid[2]), [], "what is aside stays aside");
    assert_eq!(cast(&api, &id, "relay", relay).await.0, 200, "it is so already");
    undo(&api).await;
    assert_eq!(angles(&api, &id).await, shaped);
    api.server.stop().await;
}

#[tokio::test]
async fn groups_made_one_keep_what_was_put_together_in_them() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let (group, other) = (of(&day, "id")[0].clone(), of(&day, "id")[1].clone());
    let before = angles(&api, &group).await;
    let nudge = json!({ "clip": before[1]["parts"][0]["clip"], "by_s": 0.4 });
    assert_eq!(cast(&api, &group, "nudge", nudge).await.0, 200);
    let hide = json!({ "do": "hide", "angle": before[3]["id"], "hidden": true });
    assert_eq!(arrange(&api, &group, hide).await.0, 200);
    let shaped = angles(&api, &group).await;
    assert_eq!(shape(&api, json!({ "do": "move", "group": other, "to": 0 })).await.0, 200);
    assert_eq!(shape(&api, json!({ "do": "split", "group": group, "at": 200 })).await.0, 200);
    let halves = api.day().await;
    assert_eq!(names(&halves), ["2 / 1", "1 / 1", "1 / 1 (2)"]);
    let version = halves["groups_turns"]["version"].clone();
    let both = json!({ "version": version, "groups": [of(&halves, "id")[1], of(&halves, "id")[2]] });
    let (status, made) = api.post("/groups/merge", both).await;
    assert_eq!(status, 200, "{made}");
    assert_eq!(names(&api.day().await), ["2 / 1", "1 / 1"], "in the place of the two");
    let whole = angles(&api, &made["group"]).await;
    let shown = |all: &[Value]| -> Vec<(Vec<(i64, i64)>, Value)> {
        let joined = |angle: &Value| {
            let mut runs: Vec<(i64, i64)> = vec![];
            for (from, to) in frames(angle) {
                match runs.last_mut() {
                    Some(last) if last.1 == from => last.1 = to,
                    _ => runs.push((from, to)),
                }
            }
            runs
        };
        all.iter().map(|angle| (joined(angle), angle["hidden"].clone())).collect()
    };
    assert_eq!(shown(&whole), shown(&shaped));
    api.server.stop().await;
}

#[tokio::test]
async fn a_still_stands_from_where_it_is_laid_to_the_end() {
    let (data, stills) = (tempfile::tempdir().expect("a folder"), tempfile::tempdir().expect("a folder"));
    let title = stills.path().join("GFX/title.png");
    std::fs::create_dir_all(title.parent().expect("a folder")).expect("made");
    let made = std::process::Command::new("ffmpeg")
        .args(["-nostdin", "-loglevel", "error", "-f", "lavfi", "-i", "color=orange:size=322x181:d=0.04"])
        .args(["-frames:v", "1"])
        .arg(&title)
        .status();
    assert!(made.expect("ffmpeg").success());
    let api = Api::start(config(data.path(), &[&small(), stills.path()])).await;
    api.take_in(&small()).await;
    api.take_in(stills.path()).await;
    let day = api.sync().await;
    let group = of(&day, "id")[0].clone();
    let still = clip(&day, "title.png")["id"].clone();
    let whole = day["groups"][0]["group"]["frames"].as_i64().expect("frames");
    // It has no place in the day: it is laid at a frame.
    let beside = api.get(&format!("/groups/{group}/beside")).await.1;
    let own = beside.as_array().expect("clips").iter().find(|own| own["clip"] == still).expect("beside");
    assert!(own["at"].is_null());
    assert_eq!(cast(&api, &group, "take-in", json!({ "clip": still, "at": null })).await.0, 422);
    assert_eq!(cast(&api, &group, "take-in", json!({ "clip": still, "at": 100 })).await.0, 200);
    let all = angles(&api, &group).await;
    let own = all.last().expect("an angle");
    assert_eq!((frames(own), &own["parts"][0]["still"]), (vec![(100, whole)], &json!(true)));
    // Blanked, it ends before.
    let blank = json!({ "do": "blank", "angle": own["id"], "from": 150, "to": whole });
    assert_eq!(arrange(&api, &group, blank).await.0, 200);
    assert_eq!(frames(angles(&api, &group).await.last().expect("an angle")), [(100, 150)]);
    // Its light copy is one frame, there as soon as it is asked for.
    let (status, copy) = api.bytes(&format!("/clips/{still}/proxy.mp4")).await;
    assert_eq!((status, &copy[4..8]), (200, &b"ftyp"[..]));

    let document = api.get(&format!("/groups/{group}/turnover/group.otio")).await.1;
    let track = document["tracks"]["children"].as_array().expect("tracks").iter().find(|track| {
        track["children"].as_array().is_some_and(|all| all.iter().any(|own| own["name"] == "title.png"))
    });
    let children = track.expect("its track")["children"].as_array().expect("items");
    let own = children.iter().find(|own| own["name"] == "title.png").expect("it");
    assert_eq!(own["effects"][0]["OTIO_SCHEMA"], "FreezeFrame.1");
    assert_eq!(own["source_range"]["duration"]["value"].as_f64(), Some(50.0));
    let there = &own["media_references"]["DEFAULT_MEDIA"]["available_range"];
    assert_eq!((&there["start_time"]["value"], &there["duration"]["value"]), (&json!(0.0), &json!(1.0)));
    // Cut to, it stands in the list.
    let take = |version: i64, at: i64, angle: &Value| json!({ "version": version, "edit": { "do": "take", "at": at, "angle": angle } });
    let line = format!("/groups/{group}/line");
    let still_angle = &all.last().expect("an angle")["id"];
    let (_, view) = api.post(&line, take(0, 110, still_angle)).await;
    let version = view["version"].as_i64().expect("a version");
    assert_eq!(api.post(&line, take(version, 140, &all[0]["id"])).await.0, 200);
    let (_, list) = api.bytes(&format!("/groups/{group}/turnover/line.edl")).await;
    let list = String::from_utf8(list).expect("text");
    assert!(list.contains("M2   TITLE    000.0"), "{list}");
}
