//! Groups over HTTP: proposed, taken, trimmed, split, merged and taken back.

use crate::common::{Api, synced};
use serde_json::{Value, json};

/// Changes groups on the newest version of them.
pub async fn shape(api: &Api, change: Value) -> (u16, Value) {
    let version = api.day().await["groups_turns"]["version"].clone();
    api.post("/groups/edits", json!({ "version": version, "change": change })).await
}

pub fn of<'a>(day: &'a Value, what: &str) -> Vec<&'a Value> {
    day["groups"].as_array().expect("groups").iter().map(|own| &own[what]).collect()
}

pub fn names(day: &Value) -> Vec<String> {
    of(day, "group").iter().map(|group| group["name"].as_str().expect("a name").to_owned()).collect()
}

#[tokio::test]
async fn groups_are_proposed_seen_and_taken() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    assert_eq!(names(&day), ["1 / 1", "2 / 1"]);
    let proposed = async |by: Value| api.post("/groups/proposed", by).await;
    // By takes it is what is there.
    let (status, takes) = proposed(json!({ "by": "takes" })).await;
    assert_eq!(status, 200, "{takes}");
    let there: Vec<&Value> =
        takes["groups"].as_array().expect("groups").iter().map(|own| &own["there"]).collect();
    assert_eq!(there, of(&day, "id"));
    assert_eq!((&takes["going"], &takes["staying"]), (&json!([]), &json!([])));
    // All of the day is one, and both of these would go.
    let (_, whole) = proposed(json!({ "by": "day" })).await;
    assert_eq!(whole["groups"].as_array().expect("groups").len(), 1);
    assert_eq!(whole["going"], json!(of(&day, "id")));
    // It goes on where the first ends, with the clips of the second; each angle's stretches are seen.
    let like = &whole["groups"][0]["like"];
    assert_eq!((&like["group"], &like["name"]), (&of(&day, "id")[0].clone(), &json!("1 / 1")));
    assert_eq!((&like["differs"]["begins"], &like["differs"]["fewer"]), (&json!(0), &json!(0)));
    assert!(like["differs"]["ends"].as_i64().is_some_and(|frames| frames > 300), "{like}");
    let strip = whole["groups"][0]["strip"].as_array().expect("a strip");
    assert_eq!(strip.len() as u64, whole["groups"][0]["angles"].as_u64().expect("angles"));
    assert!(strip[0]["parts"].as_array().is_some_and(|parts| parts.len() == 2), "{strip:?}");
    assert!(takes["groups"][0]["like"].is_null());
    assert_eq!(api.day().await["groups"], day["groups"], "looking changes nothing");

    let accept =
        |version: i64, only: Value| json!({ "version": version, "by": { "by": "day" }, "only": only });
    assert_eq!(api.post("/groups/accept", accept(7, Value::Null)).await.0, 409);
    let (status, made) = api.post("/groups/accept", accept(0, Value::Null)).await;
    assert_eq!((status, &made["made"]), (200, &json!(1)));
    let now = api.day().await;
    assert_eq!(names(&now), ["Day"]);
    // The group before is not lost: it says which came after it, and it comes back.
    let first = of(&day, "id")[0].clone();
    let old = api.get(&format!("/groups/{first}")).await.1;
    assert_eq!(old["followed_by"]["id"], *of(&now, "id")[0]);
    assert_eq!(api.post("/groups/edits/undo", json!({})).await.1["what"], "a group as proposed");
    assert_eq!(of(&api.day().await, "id"), of(&day, "id"));
    // One beside those that are there.
    let version = api.day().await["groups_turns"]["version"].as_i64().expect("a version");
    api.post("/groups/accept", accept(version, json!([0]))).await;
    assert_eq!(api.day().await["groups"].as_array().expect("groups").len(), 3);
    // What somebody shaped stays.
    let first = of(&day, "id")[0];
    shape(&api, json!({ "do": "rename", "group": first, "name": "Kept" })).await;
    let (_, whole) = proposed(json!({ "by": "day" })).await;
    assert!(whole["staying"].as_array().expect("a list").contains(first), "{whole}");
    api.server.stop().await;
}

#[tokio::test]
async fn a_group_is_trimmed_and_everything_built_on_it_follows() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let summary = &day["groups"][0];
    let (id, frames) = (&summary["id"], summary["group"]["frames"].as_i64().expect("frames"));
    let view = async || api.get(&format!("/groups/{id}")).await.1;
    let before = view().await;
    let angles: Vec<&Value> =
        before["group"]["angles"].as_array().expect("angles").iter().map(|own| &own["device"]).collect();
    let take = |version: i64, at: i64, angle: &Value| json!({ "version": version, "edit": { "do": "take", "at": at, "angle": angle } });
    let line = format!("/groups/{id}/line");
    api.post(&line, take(0, 200, angles[1])).await;
    api.post(&line, take(1, 400, angles[0])).await;

    let trim = |window: Value| json!({ "do": "trim", "group": id, "window": window });
    assert_eq!(shape(&api, trim(json!([100, 100]))).await.0, 422);
    assert_eq!(shape(&api, trim(json!([-5, 100]))).await.0, 422);
    assert_eq!(shape(&api, trim(json!([100, frames - 50]))).await.0, 200);
    let after = view().await;
    assert_eq!(after["group"]["frames"], frames - 150);
    let start = |view: &Value| view["group"]["start"]["frames"].as_i64().expect("a label");
    assert_eq!(start(&after), start(&before) + 100);
    let cuts = |view: &Value| -> Vec<i64> {
        let switches = view["line"]["switches"].as_array().expect("switches");
        switches.iter().map(|own| own["at"].as_i64().expect("a frame")).collect()
    };
    assert_eq!(cuts(&after), [0, 100, 300], "the line is the same pictures");
    // Proposed anew it is there already, and not made a second time.
    let takes = api.post("/groups/proposed", json!({ "by": "takes" })).await.1;
    let there = takes["groups"].as_array().expect("groups").iter().map(|own| &own["there"]);
    assert_eq!(there.collect::<Vec<_>>(), of(&day, "id"));
    // Cut where it is trimmed: a frame of what is shown, kept when it is untrimmed.
    let version = after["version"].as_i64().expect("a version");
    let (status, cut) = api.post(&line, take(version, 350, angles[1])).await;
    assert_eq!((status, cuts(&cut)), (200, vec![0, 100, 300, 350]));
    let (_, rolled) = api
        .post(&line, json!({ "version": version + 1, "edit": { "do": "roll", "index": 1, "by": 7 } }))
        .await;
    assert_eq!(cuts(&rolled), [0, 107, 300, 350]);
    // Its sound and its documents are of what is shown.
    let sound = api.get("/sound").await.1;
    let report = &sound["groups"][0]["report"];
    assert_eq!(report["samples"], (frames - 150) * 1920);
    let (_, list) = api.get(&format!("/groups/{id}/turnover/group.otio")).await;
    assert_eq!(list["global_start_time"]["value"].as_f64(), Some(start(&after) as f64));

    assert_eq!(shape(&api, trim(Value::Null)).await.0, 200);
    let whole = view().await;
    assert_eq!(whole["group"], before["group"]);
    assert_eq!(cuts(&whole), [0, 207, 400, 450]);
    for what in ["1 / 1 untrimmed", "1 / 1 trimmed"] {
        assert_eq!(api.post("/groups/edits/undo", json!({})).await.1["what"], what);
    }
    assert_eq!(view().await["group"], before["group"]);
    api.server.stop().await;
}

#[tokio::test]
async fn groups_are_split_and_made_one_with_their_cuts() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let ids: Vec<Value> = of(&day, "id").into_iter().cloned().collect();
    let frames = |day: &Value, at: usize| day["groups"][at]["group"]["frames"].as_i64().expect("frames");
    let first = frames(&day, 0);
    assert_eq!(shape(&api, json!({ "do": "split", "group": ids[0], "at": 0 })).await.0, 422);
    assert_eq!(shape(&api, json!({ "do": "split", "group": ids[0], "at": 300 })).await.0, 200);
    let split = api.day().await;
    assert_eq!(names(&split), ["1 / 1", "1 / 1 (2)", "2 / 1"]);
    assert_eq!((frames(&split, 0), frames(&split, 1)), (300, first - 300));
    // The second begins where the first ends, to the frame.
    let start = |at: usize| split["groups"][at]["group"]["start"]["frames"].as_i64().expect("a label");
    assert_eq!(start(1), start(0) + 300);

    // Both halves are cut, and made one again: the cuts are where they were.
    let angle = &split["groups"][1]["group"]["angles"][1]["device"];
    for (at, frame) in [(0, 100), (1, 40)] {
        let line = format!("/groups/{}/line", split["groups"][at]["id"]);
        let take = json!({ "version": 0, "edit": { "do": "take", "at": frame, "angle": angle } });
        assert_eq!(api.post(&line, take).await.0, 200);
    }
    let merge = async |groups: Value| {
        let version = api.day().await["groups_turns"]["version"].clone();
        api.post("/groups/merge", json!({ "version": version, "groups": groups })).await
    };
    assert_eq!(merge(json!([ids[0]])).await.0, 422);
    assert_eq!(merge(json!([ids[0], 4711])).await.0, 404);
    let (status, made) = merge(json!([split["groups"][1]["id"], ids[0]])).await;
    assert_eq!(status, 200, "{made}");
    let one = api.get(&format!("/groups/{}", made["group"])).await.1;
    assert_eq!(one["group"]["frames"], first);
    assert_eq!(one["group"]["name"], "1 / 1");
    let cuts: Vec<i64> = one["line"]["switches"]
        .as_array()
        .expect("switches")
        .iter()
        .map(|own| own["at"].as_i64().expect("a frame"))
        .collect();
    assert_eq!(cuts, [0, 100, 300, 340]);
    assert_eq!(names(&api.day().await), ["1 / 1", "2 / 1"]);

    // Deleted and once more; each step is taken back by itself.
    assert_eq!(shape(&api, json!({ "do": "duplicate", "group": ids[1] })).await.0, 200);
    assert_eq!(names(&api.day().await), ["1 / 1", "2 / 1", "2 / 1 (2)"]);
    assert_eq!(shape(&api, json!({ "do": "delete", "groups": [ids[1], made["group"]] })).await.0, 200);
    assert_eq!(names(&api.day().await), ["2 / 1 (2)"]);
    let undone = async || api.post("/groups/edits/undo", json!({})).await.1["what"].clone();
    assert_eq!(undone().await, "2 groups deleted");
    assert_eq!(undone().await, "2 / 1 once more");
    assert_eq!(undone().await, "2 groups made one");
    assert_eq!(names(&api.day().await), ["1 / 1", "1 / 1 (2)", "2 / 1"]);
    assert_eq!(undone().await, "1 / 1 split");
    assert_eq!(of(&api.day().await, "id"), of(&day, "id"));
    assert_eq!(api.post("/groups/edits/undo", json!({})).await.0, 422);
    api.server.stop().await;
}
