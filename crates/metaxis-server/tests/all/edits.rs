//! Names, parts, passes and documents through the API; what is refused and how.

use crate::common::{Api, config, small};
use metaxis_server::{file_stem, file_url};
use reqwest::Method;
use serde_json::{Value, json};
use std::{ops::Deref, path::Path};

struct Site {
    api: Api,
    _data: tempfile::TempDir,
}

impl Deref for Site {
    type Target = Api;

    fn deref(&self) -> &Api {
        &self.api
    }
}

impl Site {
    async fn prepared() -> Self {
        let data = tempfile::tempdir().expect("a folder");
        let api = Api::start(config(data.path(), &[&small()])).await;
        api.post("/intake", json!({ "path": small() })).await;
        api.post("/jobs/proxy/stop", json!({})).await;
        api.idle().await;
        Self { api, _data: data }
    }

    async fn stop(self) {
        self.api.server.stop().await;
    }
}

#[tokio::test]
async fn what_a_person_sets_is_kept_and_checked() {
    let site = Site::prepared().await;
    let day = site.day().await;
    let clips: Vec<&Value> = day["clips"].as_array().expect("clips").iter().map(|clip| &clip["id"]).collect();
    let device = day["devices"][1]["id"].as_i64().expect("a device");

    let edit = async |change: Value| site.ask(Method::POST, "/intake/edits", change).await.0;
    let name = |device: i64, letter: &str, name: &str| json!({ "do": "name_device", "device": device, "letter": letter, "name": name });
    assert_eq!(edit(name(device, "x", " Crane ")).await, 200);
    for bad in [name(device, "", "Crane"), name(device, "ABC", "Crane"), name(device, "A", "a\nb")] {
        assert_eq!(edit(bad.clone()).await, 422, "{bad}");
    }
    assert_eq!(edit(name(999, "A", "No")).await, 404);
    assert_eq!(edit(json!({ "do": "part", "clips": [clips[0]], "part": "wild" })).await, 200);
    assert_eq!(edit(json!({ "do": "part", "clips": [clips[0]], "part": "nonsense" })).await, 422);
    assert_eq!(edit(json!({ "do": "part", "clips": [clips[1], 999], "part": "wild" })).await, 404);
    assert_eq!(edit(json!({ "do": "join", "clips": [clips[1]] })).await, 422);
    let new = json!({ "clips": [clips[0]], "name": "E_ROOF" });
    assert_eq!(site.ask(Method::POST, "/intake/device", new).await.0, 200);
    assert_eq!(
        site.ask(Method::POST, "/intake/device", json!({ "clips": [clips[0]], "name": " " })).await.0,
        422
    );
    // A change too many, taken back.
    assert_eq!(edit(json!({ "do": "day", "clips": clips, "day": "Day 9" })).await, 200);
    let (status, turned) = site.ask(Method::POST, "/intake/edits/undo", json!({})).await;
    assert_eq!((status, &turned["what"]), (200, &json!(format!("shoot day of {} clips", clips.len()))));
    assert_eq!(
        site.ask(Method::PATCH, "/production", json!({ "name": "Bells", "day": "Day 2" })).await.0,
        200
    );

    let day = site.day().await;
    assert_eq!((&day["devices"][1]["letter"], &day["devices"][1]["name"]), (&json!("X"), &json!("Crane")));
    assert_eq!(day["production"], json!({ "name": "Bells", "day": "Day 2" }));
    let moved =
        day["clips"].as_array().expect("clips").iter().find(|clip| clip["id"] == *clips[0]).expect("a clip");
    assert_eq!(moved["part"], "wild");
    let roof = day["devices"]
        .as_array()
        .expect("devices")
        .iter()
        .find(|d| d["id"] == moved["device"])
        .expect("a device");
    assert_eq!((&roof["letter"], &roof["name"]), (&json!("E"), &json!("Roof")));
    let other =
        day["clips"].as_array().expect("clips").iter().find(|clip| clip["id"] == *clips[1]).expect("a clip");
    assert_eq!(other["part"], "sync", "one unknown clip refuses the whole change");
    site.stop().await;
}

#[tokio::test]
async fn clips_that_take_no_part_say_so_and_passes_stay() {
    let site = Site::prepared().await;
    let first = site.sync().await;
    assert_eq!(first["pass"]["number"], 1);
    let camera = first["clips"]
        .as_array()
        .expect("clips")
        .iter()
        .find(|c| c["file_name"] == "C001.mp4")
        .expect("a clip");
    site.ask(
        Method::POST,
        "/intake/edits",
        json!({ "do": "part", "clips": [camera["id"]], "part": "no_sync" }),
    )
    .await;
    let second = site.sync().await;
    assert_eq!(second["pass"]["number"], 2);
    let placed = |day: &Value| {
        let all = day["placements"].as_array().expect("placements").clone();
        all.into_iter().find(|p| p["clip"] == camera["id"]).expect("placed")["placement"].clone()
    };
    assert_eq!(placed(&first)["verdict"], "solid");
    assert_eq!(
        (&placed(&second)["verdict"], &placed(&second)["reasons"][0]),
        (&json!("unplaced"), &json!("It is set not to take part."))
    );
    assert_eq!(second["groups"][0]["group"]["angles"].as_array().map(Vec::len), Some(3));
    let id = first["pass"]["id"].as_i64().expect("a pass");
    assert_eq!(site.ask(Method::POST, &format!("/passes/{id}/show"), json!({})).await.0, 200);
    assert_eq!(site.ask(Method::POST, "/passes/99/show", json!({})).await.0, 404);
    let shown = site.day().await;
    assert_eq!((&shown["pass"]["number"], shown["passes"].as_array().map(Vec::len)), (&json!(1), Some(2)));
    assert_eq!(placed(&shown)["verdict"], "solid");
    // Evidence names clips by their own numbers.
    let against = placed(&shown)["evidence"][0]["against"].clone();
    let other =
        shown["clips"].as_array().expect("clips").iter().find(|c| c["id"] == against).expect("a clip");
    assert_eq!(other["file_name"], "S-001.wav");
    site.stop().await;
}

#[tokio::test]
async fn one_clip_is_looked_for_again_and_the_rest_stays() {
    let site = Site::prepared().await;
    let first = site.sync().await;
    let by_name = |day: &Value, name: &str| {
        let all = day["clips"].as_array().expect("clips").clone();
        all.into_iter().find(|clip| clip["file_name"] == name).expect("a clip")["id"].clone()
    };
    let placed = |day: &Value, clip: &Value| {
        let all = day["placements"].as_array().expect("placements").clone();
        all.into_iter().find(|p| p["clip"] == *clip).expect("placed")["placement"].clone()
    };
    let (camera, recorder) = (by_name(&first, "C001.mp4"), first["pass"]["origin"].clone());
    let start_s = placed(&first, &camera)["stretches"][0]["start_s"].as_f64().expect("a place");
    let near = |start_s: f64, within_ms: i64, against: &Value| {
        let near = json!({ "clip": camera, "against": against, "start_ms": (start_s * 1e3) as i64, "within_ms": within_ms });
        json!({ "reference": null, "plan": { "near": near } })
    };
    site.post("/passes", near(start_s + 0.7, 2000, &recorder)).await;
    let second = site.idle().await;
    assert_eq!(second["pass"]["number"], 2);
    let again = placed(&second, &camera);
    assert!((again["stretches"][0]["start_s"].as_f64().expect("a place") - start_s).abs() < 1e-3, "{again}");
    assert!(again["reasons"].to_string().contains("Looked for within 2.0 s"), "{again}");
    for clip in first["clips"].as_array().expect("clips").iter().filter(|clip| clip["id"] != camera) {
        assert_eq!(placed(&first, &clip["id"]), placed(&second, &clip["id"]), "the rest stays");
    }
    let plan = json!({ "reference": null, "plan": { "clips": [camera], "effort": "deep" } });
    site.post("/passes", plan).await;
    assert_eq!(placed(&site.idle().await, &camera)["verdict"], "solid");

    let refused = async |body: Value| site.ask(Method::POST, "/passes", body).await.0;
    assert_eq!(refused(near(0.0, 0, &recorder)).await, 422);
    assert_eq!(refused(near(0.0, 100, &camera)).await, 422, "against itself");
    assert_eq!(refused(near(0.0, 100, &json!(999))).await, 422);
    assert_eq!(refused(json!({ "reference": null, "plan": { "clips": [999] } })).await, 422);
    site.stop().await;
}

#[tokio::test]
async fn groups_are_edited_and_written_out() {
    let site = Site::prepared().await;
    let day = site.sync().await;
    let id = day["groups"][0]["id"].as_i64().expect("a group");
    let at = |path: &str| format!("/groups/{id}{path}");
    let shape = async |change: Value| {
        let version = site.day().await["groups_turns"]["version"].clone();
        site.ask(Method::POST, "/groups/edits", json!({ "version": version, "change": change })).await.0
    };
    let view = async || site.ask(Method::GET, &at(""), Value::Null).await.1;
    let named = |name: &str| json!({ "do": "rename", "group": id, "name": name });
    assert_eq!(shape(named("../../pour \"1\"")).await, 200);
    assert_eq!(view().await["group"]["name"], "../../pour \"1\"");
    assert_eq!(shape(named("  ")).await, 422);
    let angles = |view: &Value| -> Vec<Value> {
        view["group"]["angles"].as_array().expect("angles").iter().map(|a| a["device"].clone()).collect()
    };
    let before = angles(&view().await);
    let moved = |from: usize| json!({ "do": "move_angle", "group": id, "from": from, "to": 0 });
    assert_eq!(shape(moved(3)).await, 200);
    assert_eq!(angles(&view().await)[0], before[3]);
    assert_eq!(shape(moved(9)).await, 404);
    let url = format!("http://{}/api{}", site.server.address, at("/turnover/line.edl"));
    let answer = site.client.get(url).send().await.expect("an answer");
    let name = answer.headers()["content-disposition"].to_str().expect("text").to_owned();
    assert_eq!(name, "attachment; filename=\"pour -1 line.edl\"", "no path and no quote gets out");
    assert_eq!(site.ask(Method::GET, &at("/turnover/line.exe"), Value::Null).await.0, 404);
    assert_eq!(site.ask(Method::POST, &at("/line/undo"), json!({ "version": 0 })).await.0, 422);
    site.stop().await;
}

#[test]
fn names_and_addresses_are_made_safe() {
    assert_eq!(file_url(Path::new("/a b/ü%?#.wav")), "file:///a%20b/%C3%BC%25%3F%23.wav");
    assert_eq!(file_stem("../../etc/passwd"), "etc-passwd");
    assert_eq!(file_stem("2 / 1 (2)"), "2 - 1 (2)");
    assert_eq!(file_stem("-rf"), "rf");
    assert_eq!(file_stem("..."), "untitled");
}

#[tokio::test]
async fn names_orders_and_which_pass_is_shown_can_be_taken_back() {
    let site = Site::prepared().await;
    for _ in 0..2 {
        site.post("/passes", json!({ "reference": null })).await;
        site.idle().await;
    }
    let day = site.day().await;
    let (group, pass) = (day["groups"][0]["id"].clone(), day["pass"]["id"].clone());
    let order = |day: &Value| -> Vec<Value> {
        let angles = day["groups"][0]["group"]["angles"].as_array().expect("angles");
        angles.iter().map(|angle| angle["device"].clone()).collect()
    };
    let (name, before) = (day["groups"][0]["group"]["name"].clone(), order(&day));
    assert_eq!(day["groups_turns"]["undo"], Value::Null, "nobody edited them");
    let shape = |version: i64, change: Value| json!({ "version": version, "change": change });
    let rename = json!({ "do": "rename", "group": group, "name": "The long take" });
    assert_eq!(site.ask(Method::POST, "/groups/edits", shape(0, rename.clone())).await.0, 200);
    // What was made on an older version is refused.
    assert_eq!(site.ask(Method::POST, "/groups/edits", shape(0, rename)).await.0, 409);
    site.post("/groups/edits", shape(1, json!({ "do": "move_angle", "group": group, "from": 1, "to": 0 })))
        .await;
    let edited = site.day().await;
    assert_ne!(order(&edited), before);
    assert_eq!(edited["groups_turns"]["undo"], "order of angles");
    let turn = async |way: &str| site.post(&format!("/groups/edits/{way}"), json!({})).await.1;
    assert_eq!(turn("undo").await["what"], "order of angles");
    assert_eq!(turn("undo").await["what"], "group called The long take");
    let back = site.day().await;
    assert_eq!((&back["groups"][0]["group"]["name"], order(&back)), (&name, before));
    turn("redo").await;
    assert_eq!(site.day().await["groups"][0]["group"]["name"], "The long take");
    // The pass before is shown again, and then the newest.
    assert_eq!(site.post("/shown/edits/undo", json!({})).await.1["what"], "pass 2 shown");
    assert_eq!(site.day().await["pass"]["number"], 1);
    site.post("/shown/edits/redo", json!({})).await;
    assert_eq!(site.day().await["pass"]["number"], 2);
    assert_eq!(
        site.ask(Method::PATCH, &format!("/passes/{pass}"), json!({ "name": "Morning" })).await.0,
        200
    );
    site.post(&format!("/passes/{pass}/edits/undo"), json!({})).await;
    assert_eq!(site.day().await["pass"]["name"], "Whole day");
    site.stop().await;
}
