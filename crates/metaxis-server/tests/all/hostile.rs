//! Whatever is sent, the server answers with a sentence, goes on, and keeps what was there.

use crate::common::{Api, config};
use proptest::{
    prelude::*,
    strategy::ValueTree,
    test_runner::{Config, RngSeed, TestRunner},
};
use reqwest::Method;
use serde_json::{Value, json};

/// A value of any kind, with the numbers and texts that break things.
fn any_value() -> impl Strategy<Value = Value> {
    let number = prop::sample::select(vec![0, 1, -1, 7, 999, i64::MAX, i64::MIN]);
    let odd =
        ["", " ", "null", "../../etc/passwd", "\u{0}", "\u{202e}", "1e999", "NaN", "A001.mov", "sync", "Ω—ß"];
    let leaf = prop_oneof![
        Just(Value::Null),
        any::<bool>().prop_map(Value::from),
        number.prop_map(Value::from),
        any::<f64>().prop_map(Value::from),
        prop::sample::select(odd.map(String::from).to_vec()).prop_map(Value::from),
        "\\PC{0,12}".prop_map(Value::from),
        Just(Value::from("x".repeat(3000))),
    ];
    leaf.prop_recursive(2, 12, 4, |inner| {
        prop_oneof![
            prop::collection::vec(inner.clone(), 0..4).prop_map(Value::from),
            prop::collection::hash_map("[a-z_]{1,8}", inner, 0..3)
                .prop_map(|map| Value::Object(map.into_iter().collect())),
        ]
    })
}

/// What can be asked for, with a body that is right in form.
fn askings() -> Vec<(Method, &'static str, Value)> {
    let mark = json!({ "picture_us": 1, "sound_us": 2, "label": null, "take": null });
    let edit = |body: Value| (Method::POST, "/intake/edits", body);
    let shape = |change: Value| (Method::POST, "/groups/edits", json!({ "version": 0, "change": change }));
    let plan = json!({ "clips": [1], "effort": "normal", "mode": "day", "near": { "clip": 1, "against": 2, "start_ms": 0, "within_ms": 5 } });
    vec![
        edit(json!({ "do": "device", "clips": [1], "device": 1 })),
        edit(json!({ "do": "part", "clips": [1], "part": "silent" })),
        edit(json!({ "do": "day", "clips": [1], "day": "x" })),
        edit(
            json!({ "do": "slate", "clips": [1], "scene": "1", "take": "2", "notes": null, "circled": true }),
        ),
        edit(json!({ "do": "join", "clips": [1, 2] })),
        edit(json!({ "do": "separate", "clips": [1] })),
        edit(json!({ "do": "name_device", "device": 1, "letter": "A", "name": "Floor" })),
        edit(json!({ "do": "move_device", "device": 1, "by": 1 })),
        edit(json!({ "do": "mark", "clips": [1], "marks": [mark] })),
        edit(json!({ "do": "distance", "device": 1, "distance_cm": 100 })),
        edit(json!({ "do": "clip_distance", "clips": [1], "distance_cm": 100 })),
        edit(json!({ "do": "take_off", "device": 1, "kind": "file_timecode", "frames": 1 })),
        edit(json!({ "do": "set_aside", "key": "k", "aside": true })),
        edit(json!({ "do": "take_log", "log": { "name": "n", "log": { "rows": [] } } })),
        (Method::POST, "/passes", json!({ "reference": 1, "plan": plan })),
        (Method::PATCH, "/passes/1", json!({ "name": "n" })),
        (Method::POST, "/placements/hand", json!({ "clip": 1, "start_us": 5 })),
        (Method::PATCH, "/production", json!({ "name": "n", "day": "d" })),
        (Method::POST, "/intake", json!({ "path": "/tmp" })),
        (Method::POST, "/intake/relink", json!({ "path": "/tmp" })),
        (Method::POST, "/intake/device", json!({ "name": "n", "clips": [1] })),
        (Method::POST, "/clips/want", json!({ "clips": [1] })),
        shape(json!({ "do": "rename", "group": 1, "name": "n" })),
        shape(json!({ "do": "move_angle", "group": 1, "from": 0, "to": 1 })),
        shape(json!({ "do": "trim", "group": 1, "window": [3, 9] })),
        shape(json!({ "do": "split", "group": 1, "at": 5 })),
        shape(json!({ "do": "delete", "groups": [1] })),
        shape(json!({ "do": "rename_all", "names": [[1, "n"]] })),
        shape(json!({ "do": "move", "group": 1, "to": 2 })),
        shape(json!({ "do": "arrange", "group": 1, "how": { "do": "name", "angle": 1, "name": "n" } })),
        shape(
            json!({ "do": "arrange", "group": 1, "how": { "do": "blank", "angle": 1, "from": 3, "to": 9 } }),
        ),
        shape(json!({ "do": "arrange", "group": 1, "how": { "do": "set_aside", "clip": 1 } })),
        (Method::POST, "/groups/names", json!({ "version": 0, "pattern": "p", "groups": [1], "first": 1 })),
        (Method::POST, "/groups/1/take-in", json!({ "version": 0, "clip": 1, "angle": 1, "at": 5 })),
        (
            Method::POST,
            "/groups/1/format",
            json!({
                "version": 0,
                "rate": { "num": 25, "den": 1 },
                "drop": false,
                "width": 64,
                "height": 64,
                "start": { "from": "typed", "label": "01:00:00:00" },
            }),
        ),
        (Method::POST, "/groups/1/relay", json!({ "version": 0, "clips": [1] })),
        (Method::POST, "/groups/1/nudge", json!({ "version": 0, "clip": 1, "by_s": 0.5 })),
        (Method::POST, "/groups/merge", json!({ "version": 0, "groups": [1, 2] })),
        (Method::POST, "/groups/proposed", json!({ "by": "pauses", "fewer_than": 2, "least_s": 1.5 })),
        (Method::POST, "/groups/accept", json!({ "version": 0, "by": { "by": "takes" }, "only": [0] })),
        (
            Method::POST,
            "/groups/1/line",
            json!({ "version": 0, "edit": { "do": "take", "at": 5, "angle": 1 } }),
        ),
    ]
}

/// The body with one thing in it, at any depth, put in place of another or gone.
fn spoilt(body: &Value, with: &Value, at: usize) -> Value {
    let mut body = body.clone();
    let mut left = at;
    fn spoil(value: &mut Value, with: &Value, left: &mut usize) -> bool {
        if *left == 0 {
            *value = with.clone();
            return true;
        }
        *left -= 1;
        match value {
            Value::Object(map) => map.values_mut().any(|inner| spoil(inner, with, left)),
            Value::Array(all) => all.iter_mut().any(|inner| spoil(inner, with, left)),
            _ => false,
        }
    }
    spoil(&mut body, with, &mut left);
    body
}

#[tokio::test]
async fn nonsense_is_refused_in_a_sentence_and_changes_nothing() {
    let data = tempfile::tempdir().expect("a folder");
    let api = Api::start(config(data.path(), &[])).await;
    let before = api.day().await;
    let mut runner = TestRunner::new(Config { rng_seed: RngSeed::Fixed(5), ..Config::default() });
    for (method, path, body) in askings() {
        for at in (0..14).cycle().take(56) {
            let with = any_value().new_tree(&mut runner).expect("a value").current();
            let sent = spoilt(&body, &with, at);
            let (status, answer) = api.ask(method.clone(), path, sent.clone()).await;
            // The production is empty: whatever is understood finds no clip. What can be asked of nothing all the same:
            // names, wishes, and a pass over the day.
            let named = ["/production", "/clips/want"].contains(&path);
            let harmless =
                named || path == "/passes" || sent["do"] == "set_aside" || sent["do"] == "take_log";
            assert!(
                (400..500).contains(&status) || status == 200 && (harmless || is_empty(&sent)),
                "{method} {path} {sent}: {status} {answer}"
            );
        }
        // No body, half a body, and what is no text at all.
        for raw in [&b""[..], b"{", b"\xff\xfe{}", b"[[[[[[[["] {
            let ask = api.client.request(method.clone(), api.url(path));
            let answer = ask
                .header("content-type", "application/json")
                .body(raw.to_vec())
                .send()
                .await
                .expect("an answer");
            let status = answer.status();
            let said: Value = answer.json().await.expect("refusals are of one shape");
            assert!(
                status.is_client_error() && said["error"].is_string(),
                "{method} {path}: {status} {said}"
            );
        }
    }
    while api.post("/intake/edits/undo", json!({})).await.0 == 200 {}
    let after = api.day().await;
    for what in ["clips", "devices", "placements", "groups", "passes"] {
        assert_eq!(after[what], before[what], "{what}");
    }
    api.server.stop().await;
}

/// An edit of no clips is understood and does nothing.
fn is_empty(sent: &Value) -> bool {
    sent["clips"].as_array().is_some_and(Vec::is_empty)
}

#[tokio::test]
async fn addresses_that_lead_nowhere_say_so() {
    let data = tempfile::tempdir().expect("a folder");
    let api = Api::start(config(data.path(), &[])).await;
    for path in [
        "/clips/1",
        "/clips/1/claps",
        "/clips/1/seen?heard_s=1",
        "/clips/1/samples?from_s=0&count=1",
        "/clips/1/peaks?bins=4",
        "/clips/1/levels?bins=4",
        "/clips/1/proxy.mp4",
        "/clips/1/playback.wav",
        "/clips/1/thumbnail.jpg",
        "/groups/1",
        "/groups/1/levels?bins=4",
        "/groups/1/turnover/line.otio",
        "/passes/1/changes/2",
        "/nothing/here",
        "/clips/-1",
        "/clips/99999999999999999999",
        "/clips/abc",
        "/clips/1/seen",
        "/clips/1/seen?heard_s=inf",
        "/clips/1/samples?from_s=0&count=-1",
        "/clips/1/peaks?bins=0",
        "/clips/1/peaks?bins=x",
        "/clips/%00",
        "/groups/1/turnover/..%2f..%2fx",
    ] {
        let (status, answer) = api.get(path).await;
        assert!((400..500).contains(&status), "{path}: {status}");
        assert!(answer["error"].as_str().is_some_and(|text| text.len() > 8), "{path}: {answer}");
    }
    for path in [
        "/passes/1/show",
        "/clips/1/again",
        "/groups/1/line/undo",
        "/groups/1/line/redo",
        "/intake/edits/undo",
        "/intake/edits/redo",
        "/intake/edits/sideways",
        "/shown/edits/undo",
        "/passes/1/edits/undo",
        "/groups/edits/redo",
    ] {
        let (status, answer) = api.post(path, json!({ "version": 0 })).await;
        assert!((400..500).contains(&status), "{path}: {status}");
        assert!(answer["error"].as_str().is_some_and(|text| text.len() > 8), "{path}: {answer}");
    }
    api.server.stop().await;
}
