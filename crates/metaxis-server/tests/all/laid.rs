//! Sound onto pictures over HTTP: what is chosen, what lies where, files written by the queue.

use crate::common::{Api, clip, config, small, synced, synced_with};
use metaxis_media::find_chunk;
use serde_json::{Value, json};
use std::{fs, path::Path};

async fn sound(api: &Api) -> Value {
    let (status, view) = api.get("/sound").await;
    assert_eq!(status, 200, "{view}");
    view
}

/// The file of a picture.
fn of<'a>(view: &'a Value, path: &str) -> &'a Value {
    let all = view["clips"].as_array().expect("clips");
    &all.iter().find(|file| file["report"]["belongs_to"] == path).expect("the picture")["report"]
}

async fn correct(api: &Api, view: &Value, change: Value) -> u16 {
    api.post("/sound/edits", json!({ "version": view["turns"]["version"], "change": change })).await.0
}

#[tokio::test]
async fn choices_are_documents_and_show_at_every_picture() {
    let data = tempfile::tempdir().expect("a folder");
    let api = Api::start(config(data.path(), &[&small()])).await;
    api.take_in(&small()).await;
    assert_eq!(sound(&api).await["clips"], json!([]));
    let day = api.sync().await;
    let view = sound(&api).await;
    let camera = of(&view, "A_FLOOR/A001.mov");
    assert_eq!(camera["state"], "planned");
    assert_eq!(camera["tracks"][1]["name"], "Mix R");
    assert_eq!(camera["sources"][0]["files"], json!(["R_RECORDER/S-001.wav"]));
    assert_eq!(camera["sources"][0]["correction"], "leave");
    assert!(camera["sources"][0]["why"].as_str().expect("a reason").contains("ppm ends 0.0 frames"));
    let without = view["without"].as_array().expect("a list");
    assert!(
        without.iter().any(|own| own["path"] == "A_FLOOR/A003.mov" && own["why"] == "it has no place yet")
    );

    // For the recorder as a device, then otherwise for one of its files.
    let recorder = clip(&day, "S-001.wav");
    let handling = |correction: &str| json!({ "correction": correction, "fill": "silence" });
    let device =
        json!({ "do": "correct", "devices": [recorder["device"]], "handling": handling("resample") });
    assert_eq!(correct(&api, &view, device).await, 200);
    let one = json!({ "do": "correct", "clips": [recorder["id"]], "handling": handling("recut") });
    // What was made on an older version is refused.
    assert_eq!(correct(&api, &view, one.clone()).await, 409);
    let view = sound(&api).await;
    assert_eq!(correct(&api, &view, one).await, 200);
    let view = sound(&api).await;
    let at = |view: &Value, path: &str| of(view, path)["sources"][0]["correction"].clone();
    assert_eq!(
        (at(&view, "A_FLOOR/A001.mov"), at(&view, "A_FLOOR/A002.mov")),
        (json!("recut"), json!("resample"))
    );
    assert_eq!(view["turns"]["undo"], "a clip's sound re-cut");

    // Undone and made again, over a restart.
    assert_eq!(api.post("/sound/edits/undo", Value::Null).await.1["what"], "a clip's sound re-cut");
    api.server.stop().await;
    let api = Api::start(config(data.path(), &[&small()])).await;
    assert_eq!(at(&sound(&api).await, "A_FLOOR/A001.mov"), json!("resample"));
    assert_eq!(api.post("/sound/edits/redo", Value::Null).await.0, 200);
    let view = sound(&api).await;
    assert_eq!(at(&view, "A_FLOOR/A001.mov"), json!("recut"));

    // What makes no sense is refused with a reason.
    let form = |handles_ms: u64, rate: Value| json!({ "do": "form", "form": { "handles_ms": handles_ms, "rate": rate } });
    assert_eq!(correct(&api, &view, form(4_000_000, Value::Null)).await, 422);
    assert_eq!(correct(&api, &view, form(0, json!(44_100))).await, 422);
    let far = json!({ "do": "form", "form": { "recut_ms": 0 } });
    assert_eq!(correct(&api, &view, far).await, 422);
    let nobody = json!({ "do": "correct", "clips": [4_711], "handling": null });
    assert_eq!(correct(&api, &view, nobody).await, 404);
    let nothing = json!({ "do": "correct", "devices": [4_711], "handling": null });
    assert_eq!(correct(&api, &view, nothing).await, 404);
    // A track that everything was made to does not lie under the day; b-roll has no sound of its own to give.
    let edit = json!({ "do": "part", "clips": [recorder["id"]], "part": "no_sync" });
    let (status, said) = api.post("/intake/edits", edit).await;
    assert_eq!(status, 200, "{said}");
    let view = sound(&api).await;
    assert!(
        view["clips"]
            .as_array()
            .expect("clips")
            .iter()
            .all(|file| file["report"]["belongs_to"] != "A_FLOOR/A001.mov")
    );
    // A slated take that its sound is missing from will hurt, and is said.
    let missing = |day: &Value| {
        let notes = day["health"].as_array().expect("notes").clone();
        notes.into_iter().map(|own| own["note"].clone()).find(|note| note["kind"] == "sound_missing")
    };
    assert_eq!(missing(&api.day().await), None);
    let camera = clip(&day, "A001.mov");
    let slate = json!({ "do": "slate", "clips": [camera["id"]], "scene": "1", "take": "1", "notes": null, "circled": null });
    assert_eq!(api.post("/intake/edits", slate).await.0, 200);
    let note = missing(&api.day().await).expect("a note");
    assert_eq!(note["clips"], json!([camera["id"]]));
    assert_eq!(note["what"], "no recorder ran with A001.mov, though slated");
}

#[tokio::test]
async fn tracks_are_chosen_for_every_picture_and_can_always_be_taken_in_again() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, _) = synced(data.path()).await;
    let view = sound(&api).await;
    let offered = |view: &Value, what: &str| -> Vec<Value> {
        view["tracks"].as_array().expect("tracks").iter().map(|own| own[what].clone()).collect()
    };
    assert_eq!(offered(&view, "name"), ["Mix L", "Mix R"]);
    assert_eq!(offered(&view, "device"), ["Recorder", "Recorder"]);
    let keys = offered(&view, "key");
    let order = json!({ "do": "order_tracks", "order": [keys[1]] });
    assert_eq!(correct(&api, &view, order).await, 200);
    let view = sound(&api).await;
    let pattern = |pattern: &str| json!({ "do": "name_tracks", "pattern": pattern });
    assert_eq!(correct(&api, &view, pattern(" {device} {track} ")).await, 200);
    let view = sound(&api).await;
    assert_eq!(offered(&view, "name"), ["Mix R", "Mix L"]);
    let names = |view: &Value| {
        let tracks = of(view, "A_FLOOR/A001.mov")["tracks"].as_array().expect("tracks").clone();
        tracks.into_iter().map(|track| track["name"].clone()).collect::<Vec<_>>()
    };
    assert_eq!(names(&view), ["Recorder Mix R", "Recorder Mix L"]);
    // What is heard is what goes out.
    let camera = clip(&api.day().await, "A001.mov")["id"].clone();
    let heard = api.get(&format!("/clips/{camera}/heard")).await.1;
    assert_eq!(heard["tracks"][0]["name"], "Recorder Mix R");

    let switch = |off: bool| json!({ "do": "switch_tracks", "tracks": keys, "off": off });
    assert_eq!(correct(&api, &view, switch(true)).await, 200);
    let view = sound(&api).await;
    assert_eq!((&view["clips"], &view["groups"]), (&json!([]), &json!([])));
    assert!(view["without"].as_array().expect("a list").iter().any(|own| {
        own["path"] == "A_FLOOR/A001.mov" && own["why"] == "every track that ran with it is left out"
    }));
    assert_eq!(offered(&view, "off"), [true, true]);
    assert_eq!(correct(&api, &view, switch(false)).await, 200);
    let view = sound(&api).await;
    assert_eq!(names(&view).len(), 2);
    assert_eq!(view["turns"]["undo"], "2 tracks taken in again");

    let (status, said) = api
        .post("/sound/edits", json!({ "version": view["turns"]["version"], "change": pattern("{mike}") }))
        .await;
    assert_eq!(status, 422);
    assert!(said.to_string().contains("{mike} stands for nothing"), "{said}");
    assert_eq!(correct(&api, &view, pattern(&"x".repeat(121))).await, 422);
}

#[tokio::test]
async fn files_go_to_the_folder_of_choice_and_nowhere_else() {
    let top = tempfile::tempdir().expect("a folder");
    let out = top.path().join("out");
    fs::create_dir(&out).expect("a folder");
    std::os::unix::fs::symlink("/", out.join("away")).expect("a link");
    let config = config(&top.path().join("data"), &[&small()]);
    let (api, day) = synced_with(metaxis_server::ServeConfig { out: vec![out.clone()], ..config }).await;
    let text = |path: &Path| path.to_str().expect("text").to_owned();
    let view = sound(&api).await;
    assert_eq!(view["folders"], json!([text(&out)]));
    let to = |folder: &str| json!({ "do": "folder", "folder": folder });
    let outside = [top.path().join("data"), out.join(".."), out.join("away/tmp"), "out".into()];
    for folder in outside.iter().map(|path| text(path)) {
        assert_eq!(correct(&api, &view, to(&folder)).await, 422, "{folder}");
    }
    let chosen = out.join("Day 1/sound");
    assert_eq!(correct(&api, &view, to(&text(&chosen))).await, 200);
    assert_eq!(sound(&api).await["folder"], text(&chosen));
    let clips = json!([clip(&day, "A001.mov")["id"]]);
    api.post("/sound/write", json!({ "made_for": "clips", "clips": clips, "replace": false })).await;
    api.idle().await;
    assert!(chosen.join("A_FLOOR/A001.wav").is_file());
    let view = sound(&api).await;
    assert_eq!(of(&view, "A_FLOOR/A001.mov")["state"], "written");
    // Elsewhere it is yet to be made.
    assert_eq!(correct(&api, &view, to("")).await, 200);
    assert_eq!(of(&sound(&api).await, "A_FLOOR/A001.mov")["state"], "planned");
}

fn uid(path: &Path) -> Option<String> {
    let chunk = find_chunk(path, *b"iXML", 1 << 20).ok()??;
    metaxis_media::parse_ixml(&chunk).uid
}

#[tokio::test]
async fn files_are_written_by_the_queue_and_known_again() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let out = data.path().join("sound");
    // Somebody else's file is in the way of one of them.
    fs::create_dir_all(out.join("B_BENCH")).expect("a folder");
    fs::write(out.join("B_BENCH/B001.wav"), b"mine").expect("written");
    let write =
        |clips: Value, replace: bool| json!({ "made_for": "clips", "clips": clips, "replace": replace });
    assert_eq!(api.post("/sound/write", write(json!([4_711]), false)).await.0, 404);
    assert_eq!(api.post("/sound/write", write(json!([clip(&day, "A001.mov")["id"]]), false)).await.0, 200);
    api.idle().await;
    let view = sound(&api).await;
    assert_eq!(of(&view, "A_FLOOR/A001.mov")["state"], "written");
    assert_eq!(of(&view, "A_FLOOR/A002.mov")["state"], "planned");
    let first = fs::read(out.join("A_FLOOR/A001.wav")).expect("a file");
    assert!(uid(&out.join("A_FLOOR/A001.wav")).is_some());

    api.post("/sound/write", write(Value::Null, false)).await;
    let day = api.idle().await;
    let jobs = day["jobs"].as_array().expect("jobs");
    let job = jobs.iter().find(|job| job["kind"] == "sound").expect("the job");
    let message = job["message"].as_str().unwrap_or_default();
    assert!(message.starts_with("1 of 6 files were not written") && message.contains("B001.wav"), "{job}");
    let view = sound(&api).await;
    assert_eq!(of(&view, "A_FLOOR/A001.mov")["state"], "there");
    assert_eq!(of(&view, "A_FLOOR/A002.mov")["state"], "written");
    assert_eq!(of(&view, "B_BENCH/B001.mov")["state"], "failed");
    assert!(
        of(&view, "B_BENCH/B001.mov")["message"]
            .as_str()
            .is_some_and(|text| text.contains("is there already"))
    );
    assert_eq!(fs::read(out.join("B_BENCH/B001.wav")).expect("a file"), b"mine");
    assert_eq!(fs::read(out.join("A_FLOOR/A001.wav")).expect("a file"), first);

    // Chosen otherwise since, they are yet to be made.
    let change = json!({ "do": "form", "form": { "depth": "float32" } });
    assert_eq!(correct(&api, &view, change).await, 200);
    assert_eq!(of(&sound(&api).await, "A_FLOOR/A002.mov")["state"], "planned");
    assert_eq!(api.post("/sound/edits/undo", Value::Null).await.0, 200);
    assert_eq!(of(&sound(&api).await, "A_FLOOR/A002.mov")["state"], "written");

    // Said to be replaced, it is; groups lie beside the pictures' files.
    api.post("/sound/write", write(json!([clip(&day, "B001.mov")["id"]]), true)).await;
    api.idle().await;
    assert!(uid(&out.join("B_BENCH/B001.wav")).is_some());
    api.post("/sound/write", json!({ "made_for": "groups", "clips": null, "replace": false })).await;
    api.idle().await;
    let view = sound(&api).await;
    let groups = view["groups"].as_array().expect("groups");
    assert!(!groups.is_empty());
    for group in groups {
        assert_eq!(group["report"]["state"], "written");
        assert!(out.join(group["report"]["path"].as_str().expect("a path")).is_file());
    }
}
