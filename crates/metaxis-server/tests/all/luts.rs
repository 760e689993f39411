//! Viewing LUTs over HTTP: brought, chosen by device and by angle, and how angles differ through them.

use crate::{
    common::{Api, clip, synced},
    groups::shape,
};
use metaxis_core::lut::Lut;
use serde_json::{Value, json};

pub async fn bring(api: &Api, file: &str, text: impl Into<reqwest::Body>) -> (u16, Value) {
    let sent = api.client.post(api.url(&format!("/luts?file={file}"))).body(text).send().await;
    let answer = sent.expect("an answer");
    (answer.status().as_u16(), answer.json().await.expect("JSON"))
}

pub fn gain(factor: f32) -> String {
    Lut::sampled(17, |colour| colour.map(|own| (own * factor).min(1.0))).to_text()
}

#[tokio::test]
async fn luts_are_brought_listed_and_sent() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, _) = synced(data.path()).await;
    let keys = async || {
        let all = api.get("/luts").await.1;
        all.as_array().expect("a list").iter().map(|own| own["key"].to_string()).collect::<Vec<_>>()
    };
    let shipped = keys().await;
    assert!(shipped.len() >= 5 && shipped.contains(&"\"hlg\"".into()), "{shipped:?}");

    let (status, own) = bring(&api, "Bellows%20neg.cube", gain(0.5)).await;
    assert_eq!((status, &own["name"], &own["own"]), (200, &json!("Bellows neg"), &json!(true)));
    // The same one again is the same, whatever its file is called.
    let (_, again) = bring(&api, "..%2Fother.CUBE", gain(0.5)).await;
    assert_eq!((&again["key"], &again["name"]), (&own["key"], &json!("other")));
    assert_eq!(keys().await.len(), shipped.len() + 1);

    let key = own["key"].as_str().expect("a key");
    let (status, samples) = api.bytes(&format!("/luts/{key}")).await;
    assert_eq!((status, samples.len()), (200, 33 * 33 * 33 * 4));
    assert_eq!(
        (&samples[..4], &samples[samples.len() - 4..]),
        (&[0, 0, 0, 255][..], &[128, 128, 128, 255][..])
    );
    let (_, text) = api.bytes(&format!("/luts/{key}.cube")).await;
    let read = Lut::parse(&String::from_utf8(text).expect("text")).expect("a LUT");
    assert!((read.apply([0.8; 3])[1] - 0.4).abs() < 1e-4);

    // What is none says why, and nothing is kept.
    for (text, why) in [
        (
            &b"hello"[..],
            "a.cube cannot be taken: line 1 is neither a number of each colour nor a statement of the form",
        ),
        (
            &b"LUT_3D_SIZE 2\n0 0 0\n"[..],
            "a.cube cannot be taken: it says 8 samples and has 1: the file is cut short, or not whole",
        ),
        (&b"\xff\xfe\x00"[..], "a.cube is no text: a LUT in the cube form is"),
    ] {
        let (status, refusal) = bring(&api, "a.cube", text).await;
        assert_eq!((status, &refusal["error"]), (422, &json!(why)));
    }
    assert_eq!(bring(&api, "a.cube", vec![b'0'; 17 << 20]).await.0, 413);
    assert_eq!(api.bytes("/luts/none").await.0, 404);
    assert_eq!(keys().await.len(), shipped.len() + 1);
    api.server.stop().await;
}

#[tokio::test]
async fn angles_differ_by_what_they_are_seen_through() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    api.idle().await;
    let group = &day["groups"][0];
    let (id, angles) = (&group["id"], group["group"]["angles"].as_array().expect("angles"));
    let balance = async || {
        let (status, all) = api.get(&format!("/groups/{id}/balance")).await;
        assert_eq!(status, 200, "{all}");
        all
    };
    let brighter = |all: &Value, angle: usize| all[angle]["differs"]["brighter"].as_f64().expect("stops");
    let before = balance().await;
    assert_eq!(before.as_array().map(Vec::len), Some(angles.len()));
    assert_eq!((brighter(&before, 0), &before[0]["said"]), (0.0, &Value::Null));

    // Codes of three quarters are light of half, and less by a stop.
    let key = bring(&api, "half.cube", gain(0.5_f32.powf(1.0 / 2.4))).await.1["key"].clone();
    let device = &clip(&day, "B001.mov")["device"];
    let see = |lut: &Value| json!({ "do": "see_through", "device": device, "lut": lut });
    assert_eq!(api.post("/intake/edits", see(&json!("none"))).await.0, 404);
    assert_eq!(api.post("/intake/edits", see(&key)).await, (200, Value::Null));
    let known = api.day().await;
    let kept = known["devices"].as_array().expect("devices").iter().find(|own| own["id"] == *device);
    assert_eq!(kept.expect("the device")["lut"], key);
    let at = angles.iter().position(|angle| angle["device"] == *device).expect("its angle");
    let after = balance().await;
    let by = brighter(&after, at) - brighter(&before, at);
    assert!((by + 1.0).abs() < 0.25, "{by}: {before} {after}");
    assert_eq!(after[at + 1], before[at + 1]);

    // An angle has its own; it is one of the groups' steps, and the device's one of the day's.
    let angle = &angles[at]["id"];
    let arrange = |through: Value| {
        let how = json!({ "do": "see_through", "angle": angle, "through": through });
        json!({ "do": "arrange", "group": id, "how": how })
    };
    assert_eq!(shape(&api, arrange(json!({ "lut": "none" }))).await.0, 404);
    assert_eq!(shape(&api, arrange(json!("nothing"))).await.0, 200);
    assert_eq!(balance().await, before);
    let view = api.get(&format!("/groups/{id}")).await.1;
    assert_eq!(view["group"]["angles"][at]["through"], "nothing");
    // Documents say nothing of it: what is seen is not what is kept.
    let text = api.get(&format!("/groups/{id}/turnover/group.otio")).await.1.to_string();
    assert!(!text.contains("half") && !text.contains("through"));
    assert_eq!(api.post("/groups/edits/undo", Value::Null).await.1["what"], "what an angle is seen through");
    assert_eq!(balance().await, after);
    assert_eq!(api.post("/intake/edits/undo", Value::Null).await.1["what"], "a device's viewing LUT");
    assert_eq!(balance().await, before);
    api.server.stop().await;
}
