//! Intake through the API: waveforms, spans, slate log, moved files, the cache.

use crate::common::{Api, clip, config, small};
use metaxis_server::{Limits, ServeConfig};
use serde_json::{Value, json};
use std::{fs, ops::Deref, path::PathBuf, time::Duration};

/// A server on a folder of its own, with cards beside it.
struct Site {
    api: Api,
    top: tempfile::TempDir,
}

impl Deref for Site {
    type Target = Api;

    fn deref(&self) -> &Api {
        &self.api
    }
}

impl Site {
    async fn new(limits: Limits) -> Self {
        let top = tempfile::tempdir().expect("a folder");
        let cards = top.path().join("cards");
        fs::create_dir_all(&cards).expect("made");
        let config = ServeConfig { limits, ..config(&top.path().join("data"), &[&cards]) };
        Self { api: Api::start(config).await, top }
    }

    fn cards(&self) -> PathBuf {
        self.top.path().join("cards")
    }

    /// Copies a file of the small shoot onto the cards.
    fn card(&self, from: &str, to: &str) {
        let to = self.cards().join(to);
        fs::create_dir_all(to.parent().expect("a parent")).expect("made");
        fs::copy(small().join(from), to).expect("copied");
    }

    async fn take_in(&self) -> Value {
        self.api.take_in(&self.cards()).await
    }

    async fn stop(self) {
        self.api.server.stop().await;
    }
}

fn kinds(day: &Value) -> Vec<&str> {
    day["health"].as_array().expect("health").iter().filter_map(|one| one["note"]["kind"].as_str()).collect()
}

#[tokio::test]
async fn a_clip_shows_its_channels_and_what_its_file_says() {
    let site = Site::new(Limits::default()).await;
    site.card("B_BENCH/B001.mov", "B_BENCH/B001.mov");
    site.card("R_RECORDER/S-001.wav", "SOUND/S-001.wav");
    let day = site.take_in().await;
    let sound = clip(&day, "S-001.wav");
    assert_eq!(
        (&sound["scene"], &sound["take"], &sound["slate_source"]),
        (&json!("1"), &json!("1"), &json!("file"))
    );
    assert_eq!(sound["facts"]["tags"], json!({}), "a list does not carry them");
    let (_, detail) = site.get(&format!("/clips/{}", sound["id"])).await;
    assert!(detail["tags"].as_object().is_some_and(|tags| tags.contains_key("time_reference")), "{detail}");

    // The camera's first channel carries timecode, and says so in its health notes.
    let camera = clip(&day, "B001.mov");
    let found = &camera["channels"][0]["audio_timecode"];
    assert!(found["share"].as_f64().is_some_and(|share| share > 0.95), "{found}");
    assert_eq!(found["first"]["rate"], json!({ "num": 25, "den": 1 }));
    assert!(kinds(&day).contains(&"audio_timecode"));
    assert_eq!(
        camera["timing"]["frames"].as_f64().map(f64::round),
        camera["facts"]["picture"]["frames"].as_f64()
    );

    // A waveform of the whole, and of a second of it: the louder part of the two is in the whole.
    let peaks = async |query: &str| site.get(&format!("/clips/{}/peaks{query}", sound["id"])).await;
    let (status, whole) = peaks("?bins=50").await;
    assert_eq!(status, 200, "{whole}");
    let largest = |view: &Value| -> i64 {
        let channel = view["channels"][0].as_array().expect("numbers");
        channel.chunks(3).filter_map(|bin| bin[1].as_i64()).max().unwrap_or(0)
    };
    assert_eq!(whole["channels"].as_array().map(Vec::len), Some(2));
    assert_eq!(whole["channels"][0].as_array().map(Vec::len), Some(150));
    let (_, part) = peaks("?from_s=3&to_s=4&bins=20").await;
    assert!(largest(&part) > 0 && largest(&part) <= largest(&whole), "{part}");
    let (status, after) = peaks("?from_s=1e9&to_s=-4&bins=1000000").await;
    assert_eq!((status, after["from_s"] == after["to_s"]), (200, true), "what lies outside is drawn back in");
    assert_eq!(site.get("/clips/999/peaks").await.0, 404);
    site.stop().await;
}

#[tokio::test]
async fn faults_of_the_day_are_told_once_and_can_be_set_aside() {
    let site = Site::new(Limits::default()).await;
    site.card("A_FLOOR/A001.mov", "A_FLOOR/A001.mov");
    site.card("A_FLOOR/A001.mov", "A_FLOOR/copy of A001.mov");
    site.card("C_GALLERY/C001.mp4", "C_GALLERY/C001.mp4");
    site.card("D_PIT/D001.mp4", "D_PIT/D001.mp4");
    let whole = fs::read(small().join("R_RECORDER/S-001.wav")).expect("read");
    fs::create_dir_all(site.cards().join("R_RECORDER")).expect("made");
    fs::write(site.cards().join("R_RECORDER/cut.wav"), &whole[..whole.len() / 2]).expect("written");
    fs::write(site.cards().join("C_GALLERY/C001.XML"), "<x/>").expect("written");
    let day = site.take_in().await;
    let found = kinds(&day);
    for kind in ["duplicate", "varying_rate", "odd_sample_rate", "mixed_rates"] {
        assert_eq!(found.iter().filter(|one| **one == kind).count(), 1, "{kind}: {found:?}");
    }
    let cut = day["health"]
        .as_array()
        .expect("health")
        .iter()
        .find(|one| one["note"]["what"].as_str().is_some_and(|what| what.contains("cut.wav")));
    assert!(cut.is_some(), "half a file is told: {}", day["health"]);
    assert!(day["notes"].to_string().contains("side-car"), "{}", day["notes"]);
    let key = day["health"]
        .as_array()
        .expect("health")
        .iter()
        .find(|one| one["note"]["kind"] == "duplicate")
        .expect("a note")["note"]["key"]
        .clone();
    site.post("/intake/edits", json!({ "do": "set_aside", "key": key, "aside": true })).await;
    let day = site.day().await;
    let aside: Vec<&Value> =
        day["health"].as_array().expect("health").iter().filter(|one| one["aside"] == true).collect();
    assert_eq!(aside.len(), 1);
    assert_eq!(aside[0]["note"]["kind"], "duplicate");
    site.stop().await;
}

#[tokio::test]
async fn a_slate_log_is_shown_before_it_is_taken() {
    let site = Site::new(Limits::default()).await;
    site.card("R_RECORDER/S-001.wav", "R/S-001.wav");
    site.take_in().await;
    let text = "Szene;Take;Sound file\n7;2;S-001\n7;3;S-009\n";
    let answer = site.client.post(site.url("/intake/log")).body(text).send().await.expect("an answer");
    let preview: Value = answer.json().await.expect("a preview");
    assert_eq!(
        (&preview["separator"], &preview["columns"]),
        (&json!(";"), &json!(["scene", "take", "sound"]))
    );
    let changed = site
        .client
        .post(site.url("/intake/log?columns=take,scene,sound"))
        .body(text)
        .send()
        .await
        .expect("an answer");
    let changed: Value = changed.json().await.expect("a preview");
    assert_eq!(changed["log"]["rows"][0]["scene"], "2");
    let bad =
        site.client.post(site.url("/intake/log")).body(vec![0_u8; 100]).send().await.expect("an answer");
    assert_eq!(bad.status().as_u16(), 422);
    assert_eq!(clip(&site.day().await, "S-001.wav")["scene"], "1", "a preview keeps nothing");
    let log = json!({ "do": "take_log", "log": { "name": "day.csv", "log": preview["log"] } });
    assert_eq!(site.post("/intake/edits", log).await.0, 200);
    let day = site.day().await;
    assert_eq!((&clip(&day, "S-001.wav")["scene"], &day["slate_log"]), (&json!("7"), &json!("day.csv")));
    assert_eq!(day["log_missing"], json!(["S-009 (line 3)"]));
    assert!(kinds(&day).contains(&"slate_clash"), "its iXML says scene 1");
    site.post("/intake/edits/undo", json!({})).await;
    assert_eq!(clip(&site.day().await, "S-001.wav")["scene"], "1");
    site.stop().await;
}

#[tokio::test]
async fn moved_and_renamed_files_are_found_with_all_work() {
    let site = Site::new(Limits::default()).await;
    site.card("R_RECORDER/S-001.wav", "R/S-001.wav");
    site.card("R_RECORDER/S-002.wav", "R/S-002.wav");
    site.card("A_FLOOR/A003.mov", "A/A003.mov");
    let before = site.take_in().await;
    let id = |day: &Value, name: &str| clip(day, name)["id"].clone();
    let ids = [id(&before, "S-001.wav"), id(&before, "S-002.wav")];
    let slate = json!({ "do": "slate", "clips": [ids[0]], "scene": "77", "take": null, "notes": null, "circled": null });
    assert_eq!(site.post("/intake/edits", slate).await.0, 200);
    fs::create_dir_all(site.cards().join("elsewhere")).expect("made");
    fs::rename(site.cards().join("R/S-001.wav"), site.cards().join("elsewhere/renamed.wav")).expect("moved");
    fs::rename(site.cards().join("R/S-002.wav"), site.cards().join("elsewhere/S-002.wav")).expect("moved");
    fs::remove_file(site.cards().join("A/A003.mov")).expect("removed");
    let gone = site.day().await;
    assert_eq!(
        gone["clips"].as_array().expect("clips").iter().filter(|clip| clip["missing"] == true).count(),
        3
    );

    let mut events = site.server.app.listen();
    let (status, _) = site.post("/intake/relink", json!({ "path": site.cards().join("elsewhere") })).await;
    assert_eq!(status, 200);
    let said = loop {
        let event = tokio::time::timeout(Duration::from_secs(60), events.recv()).await.expect("in time");
        if let Ok(metaxis_server::Event::Said { text }) = event {
            break text;
        }
    };
    assert_eq!(said, "2 of 3 missing files were found again. Not found: A003.mov.");
    let day = site.idle().await;
    let found = clip(&day, "renamed.wav");
    assert_eq!((&found["id"], &found["scene"], &found["missing"]), (&ids[0], &json!("77"), &json!(false)));
    assert_eq!(id(&day, "S-002.wav"), ids[1]);
    assert_eq!(clip(&day, "A003.mov")["missing"], true);
    // Taking the new place in makes no second clips of them.
    let again = site.take_in().await;
    assert_eq!(again["clips"].as_array().map(Vec::len), Some(3));
    assert_eq!(site.post("/intake/relink", json!({ "path": "/etc" })).await.0, 422);
    site.stop().await;
}

#[tokio::test]
async fn the_cache_can_be_cleared_and_loses_nothing() {
    let site = Site::new(Limits::default()).await;
    site.card("A_FLOOR/A003.mov", "A/A003.mov");
    let before = site.take_in().await;
    let (_, storage) = site.get("/storage").await;
    assert!(storage["bytes"].as_u64().is_some_and(|bytes| bytes > 10_000), "{storage}");
    assert_eq!(site.post("/storage/clear", json!({})).await.0, 200);
    let after = site.idle().await;
    assert_eq!(clip(&after, "A003.mov"), clip(&before, "A003.mov"), "everything is made again as it was");
    let id = clip(&after, "A003.mov")["id"].clone();
    let proxy = site.client.get(site.url(&format!("/clips/{id}/proxy.mp4"))).send().await.expect("an answer");
    assert_eq!(proxy.status().as_u16(), 200);
    site.stop().await;
}

#[tokio::test]
async fn light_copies_beyond_the_limit_make_room() {
    let site = Site::new(Limits { cache_bytes: 1, ..Limits::default() }).await;
    site.card("A_FLOOR/A003.mov", "A/A003.mov");
    let day = site.take_in().await;
    let clip = clip(&day, "A003.mov");
    assert_eq!(clip["proxy"], false);
    // Asked for, it is made once more, and not again and again.
    let proxy = format!("/clips/{}/proxy.mp4", clip["id"]);
    assert_eq!(site.get(&proxy).await.0, 404);
    let open = |day: &Value| {
        day["jobs"].as_array().expect("jobs").iter().find(|job| job["kind"] == "proxy").expect("a job")["open"].clone()
    };
    site.idle().await;
    assert_eq!(site.get(&proxy).await.0, 404);
    assert_eq!(open(&site.day().await), 0, "the limit is smaller than what is looked at");
    // What the sync and the table need is kept.
    assert_eq!(site.get(&format!("/clips/{}/peaks", clip["id"])).await.0, 200);
    assert_eq!(site.post(&format!("/clips/{}/again", clip["id"]), json!({})).await.0, 200);
    site.idle().await;
    site.stop().await;
}
