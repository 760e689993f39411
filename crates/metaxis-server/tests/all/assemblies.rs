//! Lines one behind another, over HTTP, as another reader reads them.

use crate::common::{Api, clip, synced};
use serde_json::{Value, json};
use std::{fs, path::Path, process::Command};

/// What is on when, by OpenTimelineIO's own reader: name and length of what lies in the track.
const READ: &str = "import json, sys, opentimelineio as otio
t = otio.adapters.read_from_file(sys.argv[1])
own = list(t.tracks[0])
print(json.dumps({
  'start': t.global_start_time.to_timecode(), 'length': t.duration().to_frames(),
  'parts': [[type(i).__name__, i.name, i.range_in_parent().start_time.to_frames(), i.duration().to_frames()] for i in own],
  'clips': len(list(t.find_clips())),
}))";

fn by_opentimelineio(document: &[u8]) -> Value {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("assembly.otio");
    fs::write(&path, document).expect("a document");
    let python = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../.venv/bin/python");
    let run = Command::new(python).args(["-c", READ]).arg(&path).output().expect("a run");
    assert!(run.status.success(), "{}", String::from_utf8_lossy(&run.stderr));
    serde_json::from_slice(&run.stdout).expect("what it read")
}

async fn edit(api: &Api, id: &Value, edit: Value) -> (u16, Value) {
    let version = api.get(&format!("/assemblies/{id}")).await.1["turns"]["version"].clone();
    api.post(&format!("/assemblies/{id}"), json!({ "version": version, "edit": edit })).await
}

fn names(view: &Value) -> Vec<&str> {
    view["parts"].as_array().expect("parts").iter().filter_map(|own| own["name"].as_str()).collect()
}

#[tokio::test]
async fn lines_are_put_one_behind_another_and_go_out() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let [first, second] = [0, 1].map(|own| day["groups"][own]["id"].clone());
    let (status, made) = api.post("/assemblies", json!({ "name": "Day 1", "groups": [second, first] })).await;
    assert_eq!((status, names(&made)), (200, vec!["2 / 1", "1 / 1"]), "{made}");
    let id = &made["id"];

    // Ordered, cut to a range, a gap and slow motion in between; the second begins where the first ends.
    let (_, view) = edit(&api, id, json!({ "do": "move", "from": 1, "to": 0 })).await;
    assert_eq!(names(&view), ["1 / 1", "2 / 1"]);
    edit(
        &api,
        id,
        json!({ "do": "change", "at": 0, "part": { "is": "line", "group": first, "range": [100, 200] } }),
    )
    .await;
    let fast = clip(&day, "C001.mp4")["id"].clone();
    let slow = json!({ "at": 0, "frames": 50, "clip": fast, "from": 200, "speed": { "num": 1, "den": 2 } });
    let parts = json!([{ "is": "gap", "frames": 25 }, { "is": "clip", "layer": slow }]);
    let (status, view) = edit(&api, id, json!({ "do": "put", "at": 1, "parts": parts })).await;
    assert_eq!(status, 200, "{view}");
    assert_eq!(names(&view), ["1 / 1", "gap", "C001.mp4", "2 / 1"]);
    let begins: Vec<i64> =
        view["parts"].as_array().expect("parts").iter().filter_map(|own| own["at"].as_i64()).collect();
    assert_eq!(begins, [0, 100, 125, 175]);
    assert_eq!(view["parts"][2]["over"]["stretch"]["rate_ppm"], -500_000.0);

    let document = |which: &str| format!("/assemblies/{id}/turnover/{which}");
    let read = by_opentimelineio(&api.bytes(&document("assembly.otio")).await.1);
    assert_eq!(read["start"], "01:00:00:00");
    let frames = view["frames"].as_i64().expect("frames");
    assert_eq!(read["length"], frames);
    let parts = json!([
        ["Stack", "1 / 1", 0, 100],
        ["Gap", "", 100, 25],
        ["Stack", "", 125, 50],
        ["Stack", "2 / 1", 175, frames - 175]
    ]);
    assert_eq!(read["parts"], parts);
    let list = String::from_utf8(api.bytes(&document("assembly.edl")).await.1).expect("text");
    assert!(list.contains("TITLE: Day 1"), "{list}");
    let events: Vec<&str> = list.lines().filter(|own| own.starts_with('0') && own.contains(" V ")).collect();
    // Every event begins where the one before ended.
    assert!(events.windows(2).all(|pair| pair[0][64..75] == pair[1][52..63]), "{list}");
    assert!(list.contains("M2   C001     012.5"), "{list}");

    // What is refused says why, and a step is taken back.
    assert_eq!(edit(&api, id, json!({ "do": "take", "at": 9 })).await.0, 422);
    assert_eq!(
        edit(&api, id, json!({ "do": "put", "at": 0, "parts": [{ "is": "gap", "frames": 0 }] })).await.0,
        422
    );
    let unknown = json!({ "do": "put", "at": 0, "parts": [{ "is": "line", "group": 4711 }] });
    assert_eq!(edit(&api, id, unknown).await.0, 404);
    let stale = json!({ "version": 0, "edit": { "do": "take", "at": 0 } });
    assert_eq!(api.post(&format!("/assemblies/{id}"), stale).await.0, 409);
    let (_, back) = api
        .post(
            &format!("/assemblies/{id}/turn"),
            json!({ "version": view["turns"]["version"], "way": "undo" }),
        )
        .await;
    assert_eq!(names(&back), ["1 / 1", "2 / 1"]);

    // A clip is put in as far as it has pictures, and what has none is refused by its name.
    let long = |clip: &Value| json!({ "at": 0, "frames": 100_000, "clip": clip, "from": 0, "speed": { "num": 1, "den": 1 } });
    let put =
        |clip: &Value| json!({ "do": "put", "at": 9, "parts": [{ "is": "clip", "layer": long(clip) }] });
    let (_, longer) = edit(&api, id, put(&fast)).await;
    let reach = &longer["parts"][2]["range"][1];
    assert!(reach.as_i64().is_some_and(|own| (500..600).contains(&own)), "{longer}");
    let (status, why) = edit(&api, id, put(&clip(&day, "S-001.wav")["id"])).await;
    assert_eq!(status, 422);
    assert!(
        why["error"].as_str().is_some_and(|own| own.contains("S-001.wav cannot be laid: it has no picture")),
        "{why}"
    );
    edit(&api, id, json!({ "do": "take", "at": 2 })).await;

    // After another pass its lines are those of the groups that followed.
    api.sync().await;
    let later = api.get(&format!("/assemblies/{id}")).await.1;
    assert_eq!(names(&later), ["1 / 1", "2 / 1"]);
    assert_ne!(later["parts"][0]["group"], first);
    assert!(later["parts"][0]["remark"].as_str().is_some_and(|own| own.contains("followed it")), "{later}");

    // Put aside is not deleted.
    let (_, all) = api.post(&format!("/assemblies/{id}/aside"), json!({ "aside": true })).await;
    assert_eq!((&all[0]["name"], &all[0]["aside"]), (&json!("Day 1"), &json!(true)));
    let empty = api.post("/assemblies", json!({ "name": "Nothing", "groups": [] })).await.1["id"].clone();
    let (status, why) = api.get(&format!("/assemblies/{empty}/turnover/assembly.edl")).await;
    assert_eq!(status, 422);
    assert!(why["error"].as_str().is_some_and(|own| own.contains("has no line yet")), "{why}");
    api.server.stop().await;
}

#[tokio::test]
async fn lines_of_two_rates_cannot_follow_each_other() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let [first, second] = [0, 1].map(|own| day["groups"][own]["id"].clone());
    let version = &day["groups_turns"]["version"];
    let fast = json!({
        "version": version, "rate": { "num": 50, "den": 1 }, "drop": false, "width": 320, "height": 180,
        "start": { "from": "zero" }
    });
    let (status, formatted) = api.post(&format!("/groups/{second}/format"), fast).await;
    assert_eq!(status, 200, "{formatted}");
    // At another rate it is another group.
    let day = api.day().await;
    let others = day["groups"].as_array().expect("groups").iter().filter(|own| own["id"] != first);
    let faster = others.map(|own| own["id"].clone()).next().expect("the other group");
    let made = api.post("/assemblies", json!({ "name": "Both", "groups": [first, faster] })).await.1;
    let why = made["why_not"].as_str().unwrap_or_default();
    assert!(why.contains("counts 25 frames a second") && why.contains("50"), "{made}");
    assert_eq!(api.get(&format!("/assemblies/{}/turnover/assembly.otio", made["id"])).await.0, 422);
    api.server.stop().await;
}
