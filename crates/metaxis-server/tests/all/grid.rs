//! The grid of a group's sound over HTTP: changed, undone, kept for other groups, written.

use crate::common::{Api, clip, synced};
use metaxis_core::{clip::SoundFacts, sound::Samples};
use metaxis_media::{SoundFile, Stop};
use serde_json::{Value, json};
use std::path::Path;

struct Site {
    api: Api,
    day: Value,
    /// The group that is shaped.
    group: Value,
    _data: tempfile::TempDir,
}

async fn site() -> Site {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let group = day["groups"][0]["id"].clone();
    Site { api, day, group, _data: data }
}

impl Site {
    async fn grid(&self, group: &Value) -> Value {
        let (status, grid) = self.api.get(&format!("/groups/{group}/grid")).await;
        assert_eq!(status, 200, "{grid}");
        grid
    }

    async fn step(&self, step: Value) -> (u16, Value) {
        self.api.post(&format!("/groups/{}/grid", self.group), step).await
    }

    async fn change(&self, change: Value) -> Value {
        let (status, grid) = self.step(json!({ "do": "change", "change": change })).await;
        assert_eq!(status, 200, "{grid}");
        grid
    }
}

fn source(grid: &Value, device: &str) -> (usize, Value) {
    let sources = grid["sources"].as_array().expect("sources");
    let at = sources.iter().position(|own| own["device"] == device).unwrap_or_else(|| panic!("no {device}"));
    (at, sources[at]["key"].clone())
}

fn factor(grid: &Value, output: usize, source: usize) -> f64 {
    grid["factors"][output][source].as_f64().expect("a factor")
}

#[tokio::test]
async fn a_grid_is_changed_undone_and_kept_for_the_next_groups() {
    let site = site().await;
    let grid = site.grid(&site.group).await;
    // What the recorder mixed, on two sides; the cameras are there and go nowhere.
    assert_eq!(grid["origin"]["from"], "first");
    let names: Vec<&str> = grid["grid"]["outputs"]
        .as_array()
        .expect("outputs")
        .iter()
        .filter_map(|own| own["name"].as_str())
        .collect();
    assert_eq!(names, ["Master L", "Master R"]);
    let (floor, key) = source(&grid, "Floor");
    assert_eq!((factor(&grid, 0, 0), factor(&grid, 1, 1), factor(&grid, 0, floor)), (1.0, 1.0, 0.0));
    assert_eq!(grid["sources"][floor]["camera"], true);

    let level = json!({ "do": "level", "source": key, "output": 0, "level_db": -20.0 });
    let louder = site.change(level).await;
    assert_eq!(louder["origin"]["from"], "own");
    assert!((factor(&louder, 0, floor) - 0.1).abs() < 1e-6);
    let added = site.change(json!({ "do": "add_output" })).await;
    assert_eq!(added["grid"]["outputs"][2]["name"], "Output 3");
    // Each step is one of the groups' log.
    for _ in 0..2 {
        assert_eq!(site.api.post("/groups/edits/undo", Value::Null).await.0, 200);
    }
    assert_eq!(site.grid(&site.group).await, grid);
    for _ in 0..2 {
        assert_eq!(site.api.post("/groups/edits/redo", Value::Null).await.0, 200);
    }
    assert_eq!(site.grid(&site.group).await, added);

    // Kept, it is that of the groups that have none of their own.
    let keep = json!({ "do": "keep", "name": " Interview ", "usual": true });
    assert_eq!(site.step(keep).await.0, 200);
    let second = &site.day["groups"][1]["id"];
    let usual = site.grid(second).await;
    assert_eq!(
        (&usual["origin"], &usual["usual"]),
        (&json!({ "from": "usual", "name": "Interview" }), &json!("Interview"))
    );
    assert_eq!(usual["grid"], added["grid"]);
    // Kept and for all groups is one step, there and back.
    let turn =
        async |way: &str| site.api.post(&format!("/sound/edits/{way}"), Value::Null).await.1["what"].clone();
    assert_eq!(turn("undo").await, "grid “Interview” kept for all groups");
    assert_eq!(site.grid(second).await["usual"], Value::Null);
    assert_eq!(turn("redo").await, "grid “Interview” kept for all groups");
    // Made one, they have that of the first.
    let version = site.api.day().await["groups_turns"]["version"].clone();
    let both = json!({ "version": version, "groups": [site.group, second] });
    let (_, made) = site.api.post("/groups/merge", both).await;
    assert_eq!(site.grid(&made["group"]).await["grid"], added["grid"]);
    assert_eq!(site.api.post("/groups/edits/undo", Value::Null).await.0, 200);
    // Another pass leaves it all as it is.
    let again = site.api.sync().await;
    let carried = site.grid(&again["groups"][0]["id"]).await;
    assert_eq!((&carried["grid"], &carried["origin"]), (&added["grid"], &json!({ "from": "own" })));
}

#[tokio::test]
async fn what_a_grid_cannot_be_is_said_and_nothing_changes() {
    let site = site().await;
    let grid = site.grid(&site.group).await;
    let (_, key) = source(&grid, "Floor");
    let cross = |output: usize| json!({ "do": "cross", "source": key, "output": output, "on": true });
    let level = json!({ "do": "level", "source": key, "output": 0, "level_db": 90.0 });
    let named = |name: &str| {
        let now = json!({ "name": name, "ear": "both", "muted": false, "follows": false });
        json!({ "do": "output", "output": 0, "now": now })
    };
    for (change, says) in [
        (cross(7), "there is no such output"),
        (level, "a level is a number from −60 to +12 dB"),
        (named(""), "an output's name must have 1 to 80 letters"),
        (named(&"x".repeat(300)), "an output's name must have 1 to 80 letters"),
    ] {
        let (status, said) = site.step(json!({ "do": "change", "change": change })).await;
        assert_eq!((status, said["error"].as_str()), (422, Some(says)));
    }
    let (status, said) = site.step(json!({ "do": "take", "name": "Concert" })).await;
    assert_eq!((status, said["error"].as_str()), (422, Some("no grid is kept as “Concert”")));
    let (status, said) = site.step(json!({ "do": "keep", "name": "  ", "usual": false })).await;
    assert_eq!((status, said["error"].as_str()), (422, Some("a grid's name must have 1 to 80 letters")));
    assert_eq!(site.api.get("/groups/4711/grid").await.0, 404);
    assert_eq!(site.grid(&site.group).await, grid);
    let heard = grid["heard"]["name"].as_str().expect("a name");
    assert_eq!(site.api.bytes(&format!("/heard/{heard}?from=0&count=10&tracks=1,x")).await.0, 422);
}

/// A written file of 32-bit floats.
fn written(path: &Path, facts: &SoundFacts, channels: u32, samples: usize) -> Vec<Vec<f32>> {
    let rate = f64::from(facts.rate.0);
    let facts = SoundFacts { channels, duration_s: samples as f64 / rate, ..facts.clone() };
    let mut file = SoundFile::open(path, &facts, &Stop::default()).expect("a file");
    let mut out = vec![vec![0.0; samples]; channels as usize];
    file.read(0, &mut out).expect("samples");
    out
}

#[tokio::test]
async fn what_comes_out_is_written_and_a_camera_is_heard_while_it_is_shown() {
    let site = site().await;
    let grid = site.grid(&site.group).await;
    let (floor, key) = source(&grid, "Floor");
    site.change(json!({ "do": "add_output" })).await;
    site.change(json!({ "do": "cross", "source": key, "output": 2, "on": true })).await;
    let now = json!({ "name": "On air", "ear": "both", "muted": false, "follows": true });
    let grid = site.change(json!({ "do": "output", "output": 2, "now": now })).await;
    // The floor is shown up to frame 200, and from 400 on.
    let view = site.api.get(&format!("/groups/{}", site.group)).await.1;
    let angle = |at: usize| view["group"]["angles"][at]["id"].clone();
    let mut version = view["version"].as_i64().expect("a version");
    for (at, angle) in [(0, angle(0)), (200, angle(1)), (400, angle(0))] {
        let edit = json!({ "version": version, "edit": { "do": "take", "at": at, "angle": angle } });
        let (_, now) = site.api.post(&format!("/groups/{}/line", site.group), edit).await;
        version = now["version"].as_i64().unwrap_or(version);
    }
    // From 500 on the sound of the second camera is heard instead of all that the grid has, whatever is shown.
    let instead = json!({ "do": "sound", "edit": { "do": "take", "at": 500, "angle": angle(1) } });
    let edit = json!({ "version": version, "edit": instead });
    assert_eq!(site.api.post(&format!("/groups/{}/line", site.group), edit).await.0, 200);
    let form = json!({ "do": "form", "form": { "depth": "float32", "of_groups": "both" } });
    assert_eq!(site.api.post("/sound/edits", json!({ "version": 0, "change": form })).await.0, 200);
    let order = json!({ "made_for": "groups", "clips": null, "replace": false });
    assert_eq!(site.api.post("/sound/write", order).await.0, 200);
    site.api.idle().await;
    let sound = site.api.get("/sound").await.1;
    let report = &sound["groups"][0]["report"];
    assert_eq!(report["state"], "written", "{report}");
    let names: Vec<&str> =
        report["tracks"].as_array().expect("tracks").iter().filter_map(|own| own["name"].as_str()).collect();
    assert_eq!(names, ["Master L", "Master R", "On air", "Mix L", "Mix R"]);

    let samples = usize::try_from(report["samples"].as_i64().expect("a length")).expect("a length");
    let facts: SoundFacts =
        serde_json::from_value(clip(&site.day, "S-001.wav")["facts"]["sound"].clone()).expect("facts");
    let path = site._data.path().join("sound").join(report["path"].as_str().expect("a path"));
    let tracks = written(&path, &facts, 5, samples);
    let turn = 500 * 1920;
    assert!(tracks[0][..turn] == tracks[3][..turn] && tracks[1][..turn] == tracks[4][..turn]);
    // What the page hears of the floor is what is written of it while it is shown, and nothing of it meanwhile.
    let name = grid["heard"]["name"].as_str().expect("a name");
    for (frame, shown) in [(190, true), (210, false), (390, false), (410, true)] {
        let from = frame * 1920;
        let path = format!("/heard/{name}?from={from}&count=480&tracks={floor}");
        let (_, bytes) = site.api.bytes(&path).await;
        let all: Vec<f32> = bytes.as_chunks().0.iter().map(|four| f32::from_le_bytes(*four)).collect();
        assert_eq!(all.len(), 480, "only one is asked for");
        assert!(all.iter().any(|value| *value != 0.0), "frame {frame}");
        let out = &tracks[2][from..from + 480];
        let same = out.iter().zip(&all).all(|(out, own)| (out - own).abs() < 1e-6);
        assert!(if shown { same } else { out.iter().all(|value| *value == 0.0) }, "frame {frame}");
    }
    // Behind the turn every output has the mean of that camera's tracks.
    let device = &view["group"]["angles"][1]["device"];
    let all_sources = grid["sources"].as_array().expect("sources");
    let its: Vec<usize> =
        (0..all_sources.len()).filter(|own| all_sources[*own]["key"]["device"] == *device).collect();
    assert!(!its.is_empty());
    let from = 510 * 1920;
    let mut mean = vec![0.0_f32; 480];
    for own in &its {
        let (_, bytes) = site.api.bytes(&format!("/heard/{name}?from={from}&count=480&tracks={own}")).await;
        let values = bytes.as_chunks().0.iter().map(|four| f32::from_le_bytes(*four) / its.len() as f32);
        mean.iter_mut().zip(values).for_each(|(sum, value)| *sum += value);
    }
    assert!(mean.iter().any(|value| *value != 0.0));
    for (number, track) in tracks.iter().take(3).enumerate() {
        let off = track[from..from + 480].iter().zip(&mean).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
        assert!(off < 1e-6, "output {number}: {off}");
    }
    // The document says the same: the floor's sound is there and on, with its way.
    let document = site.api.get(&format!("/groups/{}/turnover/group.otio", site.group)).await.1;
    let children = document["tracks"]["children"].as_array().expect("tracks");
    let sounds: Vec<&Value> = children.iter().filter(|own| own["kind"] == "Audio").collect();
    let own = sounds.iter().find(|own| own["name"].as_str().is_some_and(|name| name.contains("Floor")));
    let own = own.expect("the floor's sound");
    assert_eq!(own["metadata"]["metaxis"]["grid"][0]["output"], "On air");
    assert_eq!(
        (&own["enabled"], own["metadata"]["metaxis"]["grid"][0]["follows_picture"].clone()),
        (&json!(true), json!(true))
    );
}
