//! Lines that are kept beside a group's own, and first cuts, over HTTP.

use crate::common::{Api, clip, synced};
use reqwest::Method;
use serde_json::{Value, json};

async fn switches(api: &Api, group: &Value) -> Value {
    api.get(&format!("/groups/{group}")).await.1["line"]["switches"].clone()
}

#[tokio::test]
async fn a_line_is_kept_compared_and_gone_back_to() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let group = &day["groups"][0]["id"];
    let angles: Vec<Value> = day["groups"][0]["group"]["angles"]
        .as_array()
        .expect("angles")
        .iter()
        .map(|own| own["id"].clone())
        .collect();
    let (lines, line) = (format!("/groups/{group}/lines"), format!("/groups/{group}/line"));
    let take = |version: i64, at: i64, angle: usize| json!({ "version": version, "edit": { "do": "take", "at": at, "angle": angles[angle] } });
    api.post(&line, take(0, 100, 1)).await;
    let first = switches(&api, group).await;
    let (status, kept) = api.post(&lines, json!({ "name": "Rough" })).await;
    assert_eq!((status, &kept[0]["name"], &kept[0]["differs"]), (200, &json!("Rough"), &json!([])));
    for name in ["", " ", &"x".repeat(300)] {
        assert_eq!(api.post(&lines, json!({ "name": name })).await.0, 422);
    }

    // Cut on: it says where it is other than the line is now, and what each shows there.
    api.post(&line, take(1, 200, 2)).await;
    api.post(&line, take(2, 300, 1)).await;
    let kept = api.get(&lines).await.1;
    assert_eq!(kept[0]["differs"], json!([{ "from": 200, "to": 300, "own": angles[1], "other": angles[2] }]));
    let rough = kept[0]["id"].clone();
    let now = switches(&api, group).await;

    let back = format!("{lines}/{rough}");
    assert_eq!(api.post(&back, json!({ "version": 1 })).await.0, 409);
    assert_eq!(api.post(&format!("{lines}/999"), json!({ "version": 3 })).await.0, 404);
    let (status, view) = api.post(&back, json!({ "version": 3 })).await;
    assert_eq!((status, &view["line"]["switches"]), (200, &first));
    // With what is heard along it, in the same step.
    let heard = json!({ "do": "sound", "edit": { "do": "take", "at": 40, "angle": angles[1] } });
    api.post(&line, json!({ "version": 4, "edit": heard })).await;
    let kept = api.get(&lines).await.1;
    assert_eq!((&kept[0]["differs"], &kept[0]["other_beside"]), (&json!([]), &json!(true)), "{kept}");
    let (status, view) = api.post(&back, json!({ "version": 5 })).await;
    assert_eq!((status, view["line"]["sound"].is_null(), &view["version"]), (200, true, &json!(6)), "{view}");
    for version in [6, 7] {
        assert_eq!(api.post(&format!("{line}/undo"), json!({ "version": version })).await.0, 200);
    }
    assert_eq!(switches(&api, group).await, first);
    // It is a step like any other, and what was kept stays.
    api.post(&format!("{line}/undo"), json!({ "version": 8 })).await;
    assert_eq!(switches(&api, group).await, now);
    let (status, named) = api.ask(Method::PATCH, &back, json!({ "name": "Rough one" })).await;
    assert_eq!((status, &named[0]["name"]), (200, &json!("Rough one")));

    // Another pass has it too, where the same pictures are.
    api.sync().await;
    let later = &api.day().await["groups"][0]["id"];
    assert_ne!(later, group);
    let kept = api.get(&format!("/groups/{later}/lines")).await.1;
    assert_eq!(kept[0]["name"], "Rough one");
    assert_eq!(kept[0]["differs"], json!([{ "from": 200, "to": 300, "own": angles[1], "other": angles[2] }]));
    api.server.stop().await;
}

#[tokio::test]
async fn a_first_cut_is_a_line_of_its_own_with_reasons() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let group = &day["groups"][0]["id"];
    let of = |file: &str| clip(&day, file)["device"].clone();
    let path = format!("/groups/{group}/first-cut");
    let (status, view) = api.get(&path).await;
    assert_eq!(
        (status, &view["channels"], &view["seats"]["seats"]),
        (200, &json!(["Mix L", "Mix R"]), &json!([]))
    );
    let before = switches(&api, group).await;
    let seats = |seats: Value| json!({ "seats": seats, "wide": [of("A001.mov")], "least_s": 1.0, "lead_s": 0.1, "alone_s": 3.0 });
    // Nobody is seated, or on a device that is not there.
    for none in [
        json!([]),
        json!([{ "channel": "Mix L", "devices": [4711] }]),
        json!([{ "channel": "No", "devices": [of("B001.mov")] }]),
    ] {
        let (status, refusal) = api.post(&path, json!({ "name": "First cut", "seats": seats(none) })).await;
        assert_eq!(status, 422, "{refusal}");
    }
    let own = seats(json!([{ "channel": "Mix L", "devices": [of("B001.mov")] }]));
    let (status, kept) = api.post(&path, json!({ "name": "First cut", "seats": own })).await;
    assert_eq!((status, &kept[0]["name"]), (200, &json!("First cut")), "{kept}");
    // The group's line is as it was; each shot has its reason; how it was made is offered for the next.
    assert_eq!(switches(&api, group).await, before);
    let reasons = kept[0]["reasons"].as_array().expect("reasons");
    assert_eq!(
        (reasons.len(), &reasons[0]["at"]),
        (kept[0]["stretches"].as_u64().expect("a count") as usize, &json!(0))
    );
    assert!(reasons.iter().all(|own| own["why"].is_string()), "{kept}");
    assert_eq!(api.get(&path).await.1["seats"], own);
    let second = &day["groups"][1]["id"];
    assert_eq!(api.get(&format!("/groups/{second}/first-cut")).await.1["seats"], own);
    api.server.stop().await;
}

#[tokio::test]
async fn a_cut_on_the_music_needs_music() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let path = format!("/groups/{}/music-cut", day["groups"][0]["id"]);
    let wanted = |name: &str| json!({ "name": name, "every": 2, "bars": true });
    // Hammers and a furnace keep no time, and a line has a name.
    for (name, why) in [("On the beat", "no beat was found"), (" ", "a line's name")] {
        let (status, refusal) = api.post(&path, wanted(name)).await;
        assert_eq!(status, 422);
        assert!(refusal["error"].as_str().is_some_and(|own| own.contains(why)), "{refusal}");
    }
    assert_eq!(api.post("/groups/4711/music-cut", wanted("On the beat")).await.0, 404);
    api.server.stop().await;
}
