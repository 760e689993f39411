//! A piece taken out of a group through all of its angles: its line, sound and documents follow, and it can be put back.

use crate::{
    common::{Api, synced},
    groups::{names, of, shape},
    heard::piece,
};
use serde_json::{Value, json};

/// A file and a frame of it; none where nothing is shown.
type Shown = Option<(String, i64)>;

/// The picture of an angle in a document, frame by frame.
fn pictures(document: &Value, track: usize) -> Vec<Shown> {
    let children = document["tracks"]["children"][track]["children"].as_array().expect("items");
    let mut all = vec![];
    for item in children {
        let range = &item["source_range"];
        let count = range["duration"]["value"].as_f64().expect("a length") as i64;
        let (first, rate) = (&range["start_time"]["value"], &range["start_time"]["rate"]);
        let (first, rate) = (first.as_f64().expect("a frame"), rate.as_f64().expect("a rate"));
        for frame in 0..count {
            let is_clip = item["OTIO_SCHEMA"] == "Clip.2";
            let own = (first + frame as f64 * rate / 25.0).floor() as i64;
            all.push(is_clip.then(|| (item["name"].to_string(), own)));
        }
    }
    all
}

fn cuts(view: &Value) -> Vec<i64> {
    let switches = view["line"]["switches"].as_array().expect("switches");
    switches.iter().map(|own| own["at"].as_i64().expect("a frame")).collect()
}

async fn undone(api: &Api) -> Value {
    api.post("/groups/edits/undo", Value::Null).await.1["what"].clone()
}

#[tokio::test]
async fn a_piece_goes_out_of_all_angles_and_comes_back() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let group = &day["groups"][0]["id"];
    let frames = day["groups"][0]["group"]["frames"].as_i64().expect("frames");
    let view = async || api.get(&format!("/groups/{group}")).await.1;
    let otio = async || api.get(&format!("/groups/{group}/turnover/group.otio")).await.1;
    let heard = async || api.get(&format!("/groups/{group}/heard")).await.1;
    let (before, document, sound) = (view().await, otio().await, heard().await);
    let angles: Vec<Value> =
        before["group"]["angles"].as_array().expect("angles").iter().map(|own| own["id"].clone()).collect();
    let line = format!("/groups/{group}/line");
    let take = |version: i64, at: i64, angle: &Value| json!({ "version": version, "edit": { "do": "take", "at": at, "angle": angle } });
    for (version, at, angle) in [(0, 150, 1), (1, 240, 2), (2, 270, 0), (3, 400, 1)] {
        assert_eq!(api.post(&line, take(version, at, &angles[angle])).await.0, 200);
    }

    // Nothing and all of it are no pieces.
    let out = |from: i64, to: i64| json!({ "do": "take_out", "group": group, "pieces": [[from, to]] });
    let back = |at: i64| json!({ "do": "put_back", "group": group, "at": at });
    for wrong in [out(200, 200), out(300, 200), out(-9, frames + 9), out(frames, frames + 5), back(200)] {
        assert_eq!(shape(&api, wrong.clone()).await.0, 422, "{wrong}");
    }
    assert_eq!(shape(&api, out(200, 300)).await.0, 200);
    let after = view().await;
    assert_eq!(after["group"]["frames"], frames - 100);
    assert_eq!(after["group"]["seams"], json!([{ "at": 200, "frames": 100 }]));
    // What is cut within the piece is not seen: behind it is what was on there.
    assert_eq!(cuts(&after), [0, 150, 200, 300]);
    assert_eq!(after["line"]["switches"][2]["angle"], angles[0]);

    // Every picture is that of the same moment.
    let closed = otio().await;
    for track in 0..angles.len() {
        let (was, now) = (pictures(&document, track), pictures(&closed, track));
        assert_eq!(now.len() as i64, frames - 100);
        let same = was[..200].iter().chain(&was[300..]);
        // A part of a frame more or less where a new part begins.
        let is_near = |(a, b): (&Shown, &Shown)| match (a, b) {
            (Some(a), Some(b)) => a.0 == b.0 && (a.1 - b.1).abs() <= i64::from(track > 1),
            _ => a == b,
        };
        assert!(same.zip(&now).all(is_near), "track {track}");
    }
    // So is every sample of the sound, and every length.
    let short = heard().await;
    assert_eq!(short["samples"], (frames - 100) * 1920);
    for (now, was) in [(190, 190), (200, 300), (400, 500)] {
        let heard = piece(&api, &short, now * 1920, 10 * 1920).await;
        let expected = piece(&api, &sound, was * 1920, 10 * 1920).await;
        // Within five milliseconds one side of the seam goes over into the other: no click.
        let pairs = heard.iter().zip(&expected).flat_map(|(a, b)| a.iter().zip(b).skip(240));
        let off = pairs.map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
        assert!(heard.len() == expected.len() && off < 1e-6, "{off} at frame {now}");
    }
    let audio = &closed["tracks"]["children"][angles.len()]["children"];
    let length: f64 = audio
        .as_array()
        .expect("items")
        .iter()
        .map(|own| own["source_range"]["duration"]["value"].as_f64().expect("a length"))
        .sum();
    assert!((length - (frames - 100) as f64 * 1920.0).abs() < 1.0, "{length}");

    // Cut, split and made one on what is shown.
    assert_eq!(api.post(&line, take(4, 199, &angles[3])).await.0, 200);
    assert_eq!(cuts(&view().await), [0, 150, 199, 200, 300]);
    assert_eq!(shape(&api, json!({ "do": "split", "group": group, "at": 200 })).await.0, 200);
    let halves = api.day().await;
    assert_eq!(halves["groups"][0]["group"]["frames"], 200);
    assert_eq!(halves["groups"][1]["group"]["frames"], frames - 300);
    let both =
        json!({ "version": halves["groups_turns"]["version"], "groups": [group, halves["groups"][1]["id"]] });
    let (status, one) = api.post("/groups/merge", both).await;
    assert_eq!(status, 200, "{one}");
    let one = api.get(&format!("/groups/{}", one["group"])).await.1;
    assert_eq!(one["group"]["seams"], after["group"]["seams"]);
    assert_eq!(
        (one["group"]["frames"].clone(), cuts(&one)),
        (json!(frames - 100), vec![0, 150, 199, 200, 300])
    );
    assert_eq!((undone(&api).await, undone(&api).await), ("2 groups made one".into(), "1 / 1 split".into()));

    // Trimmed on what is shown, in frames of all of it; nothing of it that is out can be all that is left.
    let trim = |window: Value| json!({ "do": "trim", "group": group, "window": window });
    assert_eq!(shape(&api, trim(json!([220, 290]))).await.0, 422);
    assert_eq!(shape(&api, trim(json!([190, 310]))).await.0, 200);
    assert_eq!(view().await["group"]["frames"], 20);
    assert_eq!(undone(&api).await, "1 / 1 trimmed");

    // Another pass has what a person took out.
    api.sync().await;
    let later = api.day().await;
    assert_eq!(later["groups"][0]["group"]["seams"], after["group"]["seams"]);
    assert_eq!(names(&later), names(&day));

    let id = of(&later, "id")[0].clone();
    let again = json!({ "do": "put_back", "group": id, "at": 200 });
    assert_eq!(shape(&api, again).await.0, 200);
    let whole = api.get(&format!("/groups/{id}")).await.1;
    assert_eq!((&whole["group"]["frames"], cuts(&whole)), (&json!(frames), vec![0, 150, 199, 240, 270, 400]));
    assert_eq!(undone(&api).await, "a piece put back into 1 / 1");
    api.server.stop().await;
}

#[tokio::test]
async fn quiet_passages_are_found_on_the_sound_that_is_chosen_and_go_in_one_step() {
    let data = tempfile::tempdir().expect("a folder");
    let (api, day) = synced(data.path()).await;
    let group = &day["groups"][0]["id"];
    let frames = day["groups"][0]["group"]["frames"].as_i64().expect("frames");
    let quiet = async |asked: &str| api.get(&format!("/groups/{group}/quiet?{asked}")).await;
    let passages = |found: &Value| -> Vec<(i64, i64)> {
        serde_json::from_value(found["passages"].clone()).expect("passages")
    };
    // The recorder began within the first frame: from there on.
    let first = day["groups"][0]["group"]["sound"]["parts"][0]["from_frame"].as_i64().expect("a frame");
    // Softer than all there can be is everything, softer than nothing is none of it.
    let (status, all) = quiet("threshold_db=10&least_s=0.5").await;
    assert_eq!((status, passages(&all)), (200, vec![(first, frames)]));
    assert_eq!(all["channels"], json!(["Mix L", "Mix R"]));
    assert_eq!(passages(&quiet("threshold_db=-120").await.1), []);
    assert_eq!(quiet("channel=2").await.0, 422);
    assert_eq!(quiet("channel=x").await.0, 400);
    assert_eq!(quiet("channel=1&threshold_db=10").await.1["passages"], json!([[first, frames]]));

    // By itself: in order, apart, as long as was asked for; with longer handles there is less of it.
    let (_, found) = quiet("least_s=0.4&after_s=0.1&before_s=0.1").await;
    let own = passages(&found);
    assert!(own.windows(2).all(|pair| pair[0].1 < pair[1].0), "{own:?}");
    assert!(own.iter().all(|(from, to)| to - from >= 9 && *from >= 0 && *to <= frames), "{own:?}");
    let sum = |all: &[(i64, i64)]| all.iter().map(|(from, to)| to - from).sum::<i64>();
    let wide = passages(&quiet("least_s=0.4&after_s=0.4&before_s=0.4").await.1);
    assert!(sum(&wide) <= sum(&own));

    // Taken out together and put back together.
    let threshold = found["threshold_db"].as_f64().expect("a level") + 6.0;
    let softer = format!("threshold_db={threshold}&least_s=0.4&after_s=0.1&before_s=0.1");
    let out = passages(&quiet(&softer).await.1);
    assert!(!out.is_empty() && sum(&out) < frames, "{out:?}");
    let change = json!({ "do": "take_out", "group": group, "pieces": out });
    assert_eq!(shape(&api, change).await.0, 200);
    let after = api.get(&format!("/groups/{group}")).await.1;
    assert_eq!(after["group"]["frames"], frames - sum(&out));
    // What is left of the quiet are its handles.
    let left = passages(&quiet(&softer).await.1);
    assert!(sum(&left) * 4 <= sum(&out), "{left:?} of {out:?}");
    let what =
        if out.len() == 1 { "a piece taken".to_owned() } else { format!("{} pieces taken", out.len()) };
    assert!(undone(&api).await.as_str().is_some_and(|own| own.starts_with(&what)));
    assert_eq!(api.get(&format!("/groups/{group}")).await.1["group"]["frames"], frames);
    api.server.stop().await;
}
