//! The API over real HTTP, with a real database file and real media.

use crate::common::{config, small};
use metaxis_server::{ServeConfig, Server, start};
use metaxis_shoot::Truth;
use reqwest::{Client, Method, StatusCode, header, redirect::Policy};
use serde_json::{Value, json};
use std::{fs, net::SocketAddr, path::Path, time::Duration};

struct Site {
    server: Server,
    client: Client,
}

impl Site {
    async fn start(data: &Path, roots: &[&Path]) -> Self {
        Self { server: start(config(data, roots)).await.expect("a server"), client: Client::new() }
    }

    async fn ask(&self, method: Method, path: &str, body: Value) -> (StatusCode, Value) {
        let url = format!("http://{}{path}", self.server.address);
        let answer = self.client.request(method, url).json(&body).send().await.expect("an answer");
        (answer.status(), answer.json().await.unwrap_or_default())
    }

    async fn get(&self, path: &str) -> Value {
        let (status, value) = self.ask(Method::GET, path, Value::Null).await;
        assert_eq!(status, StatusCode::OK, "{path}: {value}");
        value
    }

    /// The day with the pass that is shown.
    async fn day(&self) -> Value {
        let (mut day, shown) = (self.get("/api/day").await, self.get("/api/pass").await);
        for (name, value) in shown.as_object().expect("a pass") {
            day[name] = value.clone();
        }
        day
    }

    async fn post(&self, path: &str, body: Value) -> (StatusCode, Value) {
        self.ask(Method::POST, path, body).await
    }

    async fn refused(&self, path: &str, body: Value, saying: &str) {
        let (status, value) = self.post(path, body.clone()).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{body}: {value}");
        let error = value["error"].as_str().unwrap_or_default();
        assert!(error.contains(saying), "“{error}” should say “{saying}”");
    }

    /// Waits until no job is open; returns the jobs.
    async fn idle(&self) -> Value {
        let mut events = self.server.app.listen();
        loop {
            let jobs = self.get("/api/jobs").await;
            if jobs.as_array().expect("jobs").iter().all(|job| job["open"] == 0) {
                return jobs;
            }
            let _ = tokio::time::timeout(Duration::from_secs(1), events.recv()).await;
        }
    }
}

#[tokio::test]
async fn from_a_folder_to_documents_and_through_a_restart() {
    let media = small();
    let data = tempfile::tempdir().expect("a folder");
    let site = Site::start(data.path(), &[&media]).await;
    let (status, _) = site.post("/api/intake", json!({ "path": media })).await;
    assert_eq!(status, StatusCode::OK);
    site.idle().await;

    let day = site.day().await;
    let names: Vec<&str> =
        day["devices"].as_array().expect("devices").iter().filter_map(|d| d["name"].as_str()).collect();
    assert_eq!(names, ["Floor", "Bench", "Gallery", "Pit", "Recorder"]);
    assert_eq!(day["clips"].as_array().map(Vec::len), Some(9));
    assert!(day["clips"].as_array().expect("clips").iter().all(|clip| clip["proxy"] == true));
    let notes = day["notes"].to_string();
    assert!(
        notes.contains("C002.mp4") && notes.contains("damaged") && notes.contains("readme.txt"),
        "{notes}"
    );

    // A page that has the day asks only for the clips that changed.
    let two: Vec<i64> = [1, 4].iter().filter_map(|at: &usize| day["clips"][*at]["id"].as_i64()).collect();
    let some = site.get(&format!("/api/clips?ids={},{},99999", two[0], two[1])).await;
    assert_eq!(some["clips"], json!([day["clips"][1], day["clips"][4]]));
    assert_eq!((&some["health"], &some["notes"]), (&day["health"], &day["notes"]));
    let (status, _) = site.ask(Method::GET, "/api/clips?ids=1,x", Value::Null).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);

    site.post("/api/passes", json!({ "reference": null })).await;
    site.idle().await;
    let day = site.day().await;
    check_against_truth(&day, &media);
    let group = &day["groups"][0];
    assert_eq!(group["group"]["name"], "1 / 1");
    assert_eq!(group["group"]["angles"].as_array().map(Vec::len), Some(4));
    let id = group["id"].as_i64().expect("a number");
    let angle = &group["group"]["angles"][1]["device"];

    let line = format!("/api/groups/{id}/line");
    let take = json!({ "do": "take", "at": 50, "angle": angle });
    let (status, view) = site.post(&line, json!({ "version": 0, "edit": take })).await;
    assert_eq!(
        (status, &view["version"], &view["line"]["switches"][1]["at"]),
        (StatusCode::OK, &json!(1), &json!(50))
    );
    let (status, stale) = site.post(&line, json!({ "version": 0, "edit": take })).await;
    assert_eq!(status, StatusCode::CONFLICT, "{stale}");
    site.refused(
        &line,
        json!({ "version": 1, "edit": { "do": "take", "at": 9999, "angle": angle } }),
        "outside",
    )
    .await;

    // Started again on the same data: everything is as it was, and can still be undone.
    let before = site.get(&format!("/api/groups/{id}")).await;
    site.server.stop().await;
    let site = Site::start(data.path(), &[&media]).await;
    assert_eq!(site.get(&format!("/api/groups/{id}")).await, before);
    assert_eq!(site.day().await["clips"], day["clips"]);

    let base = format!("http://{}/api", site.server.address);
    let text = reqwest::get(format!("{base}/groups/{id}/turnover/line.edl"))
        .await
        .expect("a list")
        .text()
        .await
        .expect("text");
    assert!(text.starts_with("TITLE: 1 / 1\r\n") && text.contains("B001"), "{text}");
    let wanted = format!("bytes={}-{}", 0, 99);
    let clip = day["clips"][0]["id"].as_i64().expect("a clip");
    let part = site
        .client
        .get(format!("{base}/clips/{clip}/proxy.mp4"))
        .header(header::RANGE, wanted)
        .send()
        .await
        .expect("a part");
    assert_eq!((part.status(), part.content_length()), (StatusCode::PARTIAL_CONTENT, Some(100)));
    assert_eq!(
        site.get(&format!("/api/groups/{id}/levels?bins=50")).await.as_array().map(Vec::len),
        Some(50)
    );
    let (status, _) = site.post(&format!("{line}/undo"), json!({ "version": 1 })).await;
    assert_eq!(status, StatusCode::OK);
    site.server.stop().await;
}

/// Every clip that can be heard in the reference lies where the truth says, and nothing wrong is solid.
fn check_against_truth(day: &Value, media: &Path) {
    let truth: Truth =
        serde_json::from_slice(&fs::read(media.join("truth.json")).expect("truth")).expect("truth");
    for placed in day["placements"].as_array().expect("placements") {
        let clip = day["clips"]
            .as_array()
            .expect("clips")
            .iter()
            .find(|clip| clip["id"] == placed["clip"])
            .expect("a clip");
        let path = clip["relative"].as_str().expect("a path");
        let known = truth.clip(path).expect("in the truth");
        let placement = &placed["placement"];
        if path.starts_with("R_") {
            continue;
        }
        if known.heard_in_reference {
            assert_eq!(placement["verdict"], "solid", "{path}: {placement}");
            let start = placement["stretches"][0]["start_s"].as_f64().expect("a start");
            let error_ms = (start - known.segments[0].start_s) * 1e3;
            assert!(error_ms.abs() <= 0.5, "{path} is {error_ms} ms off");
        } else if path == "B_BENCH/B002.mov" {
            // It has no sound, but audio timecode that one other clip of its camera confirms.
            assert_eq!(placement["verdict"], "check", "{placement}");
            let start = placement["stretches"][0]["start_s"].as_f64().expect("a start");
            assert!((start - known.segments[0].start_s).abs() < 0.02, "{start}");
        } else {
            assert_eq!(placement["verdict"], "unplaced", "{path}");
            assert!(placement["reasons"][0].as_str().is_some_and(|reason| reason.len() > 10));
        }
    }
}

#[tokio::test]
async fn a_folder_must_lie_below_a_root_and_hold_media() {
    let top = tempfile::tempdir().expect("a folder");
    let (root, data) = (top.path().join("media"), top.path().join("data"));
    let outside = top.path().join("outside");
    for folder in [&root.join("empty"), &outside] {
        fs::create_dir_all(folder).expect("made");
    }
    std::os::unix::fs::symlink(&outside, root.join("out")).expect("a link");
    fs::write(root.join("file.wav"), b"").expect("written");
    let site = Site::start(&data, &[&root]).await;
    let path = |below: &str| json!({ "path": root.canonicalize().expect("a root").join(below) });
    site.refused("/api/intake", json!({ "path": outside }), "outside").await;
    site.refused("/api/intake", json!({ "path": "/etc" }), "outside").await;
    site.refused("/api/intake", json!({ "path": "relative" }), "full path").await;
    site.refused("/api/intake", path("../outside"), "..").await;
    site.refused("/api/intake", path("out"), "outside").await;
    site.refused("/api/intake", path("gone"), "no such folder").await;
    site.refused("/api/intake", path("file.wav"), "not a folder").await;
    let (status, _) = site.post("/api/intake", path("empty")).await;
    assert_eq!(status, StatusCode::OK);
    let jobs = site.idle().await;
    assert!(jobs[0]["message"].as_str().is_some_and(|m| m.contains("no audio or video")), "{jobs}");
    site.server.stop().await;
}

#[tokio::test]
async fn bad_files_are_notes_and_never_stop_the_rest() {
    let top = tempfile::tempdir().expect("a folder");
    let (root, data) = (top.path().join("media"), top.path().join("data"));
    let card = root.join("A_CAM");
    fs::create_dir_all(&card).expect("made");
    let good = small().join("R_RECORDER/S-002.wav");
    for name in ["-dash.wav", "sp ace.wav", "quo\"te'.wav", "ünïcode ☃.wav", "$(touch pwned).wav"] {
        fs::copy(&good, card.join(name)).expect("copied");
    }
    let camera = fs::read(small().join("C_GALLERY/C001.mp4")).expect("a file");
    fs::write(card.join("cut.mp4"), &camera[..camera.len() / 3]).expect("written");
    fs::write(card.join("zero.mov"), b"").expect("written");
    fs::write(card.join("text.wav"), b"not sound").expect("written");
    let site = Site::start(&data, &[&root]).await;
    site.post("/api/intake", json!({ "path": root })).await;
    site.idle().await;
    let day = site.day().await;
    let mut names: Vec<&str> =
        day["clips"].as_array().expect("clips").iter().filter_map(|c| c["file_name"].as_str()).collect();
    names.sort_unstable();
    assert_eq!(names, ["$(touch pwned).wav", "-dash.wav", "quo\"te'.wav", "sp ace.wav", "ünïcode ☃.wav"]);
    let noted: Vec<(&str, &str)> = day["notes"]
        .as_array()
        .expect("notes")
        .iter()
        .filter_map(|note| Some((note["path"].as_str()?, note["code"].as_str()?)))
        .collect();
    assert_eq!(
        noted,
        [("A_CAM/cut.mp4", "damaged"), ("A_CAM/text.wav", "damaged"), ("A_CAM/zero.mov", "empty")]
    );
    assert_eq!(fs::read_dir(&card).expect("a card").count(), 8, "nothing was written to the card");
    site.server.stop().await;
}

#[tokio::test]
async fn jobs_stop_and_go_on() {
    let media = small();
    let data = tempfile::tempdir().expect("a folder");
    let site = Site::start(data.path(), &[&media]).await;
    site.post("/api/intake", json!({ "path": media })).await;
    // The server is ended in the middle of its work, and the next one finishes it.
    let mut events = site.server.app.listen();
    while site.day().await["clips"].as_array().is_none_or(Vec::is_empty) {
        let _ = tokio::time::timeout(Duration::from_secs(1), events.recv()).await;
    }
    site.server.stop().await;
    let site = Site::start(data.path(), &[&media]).await;
    site.post("/api/jobs/proxy/stop", json!({})).await;
    site.idle().await;
    let stopped = site.get("/api/jobs").await;
    site.post("/api/jobs/proxy/resume", json!({})).await;
    site.idle().await;
    let day = site.day().await;
    assert_eq!(day["clips"].as_array().map(Vec::len), Some(9), "{stopped}");
    assert!(day["clips"].as_array().expect("clips").iter().all(|clip| clip["proxy"] == true), "{stopped}");
    site.server.stop().await;
}

#[tokio::test]
async fn strangers_are_refused() {
    let top = tempfile::tempdir().expect("a folder");
    let site = Site::start(&top.path().join("data"), &[top.path()]).await;
    let url = format!("http://{}/api/day", site.server.address);
    let with = async |name: header::HeaderName, value: &str| {
        site.client.get(&url).header(name, value).send().await.expect("an answer").status()
    };
    for host in ["rebound.example", "[::1].evil.example", "localhost:evil.example", "localhost.evil.example"]
    {
        assert_eq!(with(header::HOST, host).await, StatusCode::FORBIDDEN, "{host}");
    }
    assert_eq!(with(header::ORIGIN, "http://elsewhere.example").await, StatusCode::FORBIDDEN);
    assert_eq!(with(header::ORIGIN, "null").await, StatusCode::FORBIDDEN);
    assert_eq!(with(header::ORIGIN, &format!("http://{}", site.server.address)).await, StatusCode::OK);
    assert_eq!(site.ask(Method::GET, "/api/clips/1/proxy.mp4", Value::Null).await.0, StatusCode::NOT_FOUND);
    assert_eq!(
        site.ask(Method::GET, "/api/groups/1/turnover/..%2f..", Value::Null).await.0,
        StatusCode::NOT_FOUND
    );
    site.server.stop().await;

    let token = "a-token-of-some-length".to_owned();
    let guarded =
        ServeConfig { token: Some(token.clone()), ..config(&top.path().join("other"), &[top.path()]) };
    let site = Site { server: start(guarded).await.expect("a server"), client: Client::new() };
    let url = format!("http://{}/api/day", site.server.address);
    let ask = async |token: &str| {
        site.client.get(&url).bearer_auth(token).send().await.expect("an answer").status()
    };
    assert_eq!(ask("wrong-token-of-length!").await, StatusCode::UNAUTHORIZED);
    assert_eq!(ask(&token).await, StatusCode::OK);
    // In a link it is exchanged for a cookie that does not tell it, at the same address without it.
    let browser = Client::builder().redirect(Policy::none()).build().expect("a client");
    let link = browser.get(format!("{url}?a=1&token={token}")).send().await.expect("an answer");
    assert_eq!(link.status(), StatusCode::SEE_OTHER);
    assert_eq!(link.headers()[header::LOCATION], "/api/day?a=1");
    let cookie = link.headers()[header::SET_COOKIE].to_str().expect("text").to_owned();
    assert!(cookie.contains("HttpOnly") && !cookie.contains(&token), "{cookie}");
    let cookie = cookie.split(';').next().expect("its value").to_owned();
    let led_away = browser.get(format!("http://{}//evil.example/?token={token}", site.server.address));
    assert_eq!(led_away.send().await.expect("an answer").headers()[header::LOCATION], "/evil.example/");
    // Who guesses has to wait, also for the right one; who is in stays in.
    for _ in 0..9 {
        assert_eq!(ask("wrong-token-of-length!").await, StatusCode::UNAUTHORIZED);
    }
    assert_eq!(ask(&token).await, StatusCode::TOO_MANY_REQUESTS);
    let inside = browser.get(&url).header(header::COOKIE, cookie).send().await.expect("an answer");
    assert_eq!(inside.status(), StatusCode::OK);
    for (name, value) in [
        ("referrer-policy", "no-referrer"),
        ("cross-origin-resource-policy", "same-origin"),
        ("x-content-type-options", "nosniff"),
    ] {
        assert_eq!(inside.headers()[name], value);
    }
    site.server.stop().await;
}

#[tokio::test]
async fn no_open_door_without_a_token() {
    let top = tempfile::tempdir().expect("a folder");
    let open =
        ServeConfig { address: SocketAddr::from(([0, 0, 0, 0], 0)), ..config(top.path(), &[top.path()]) };
    let error = start(open).await.err().expect("refused").to_string();
    assert!(error.contains("token"), "{error}");
    for weak in ["short", "                ", "aaaaaaaaaaaaaaaaaaaa", "with spaces in a token"] {
        let weak = ServeConfig { token: Some(weak.into()), ..config(top.path(), &[top.path()]) };
        assert!(start(weak).await.is_err());
    }
    let missing = config(top.path(), &[&top.path().join("gone")]);
    assert!(start(missing).await.is_err());
}
