//! A server with media of its own, asked over HTTP.
#![allow(dead_code)]

use metaxis_server::{Limits, ServeConfig, Server, start};
use metaxis_shoot::{copy_folder, folder_of_run, made_once};
use reqwest::{Client, Method};
use serde_json::{Value, json};
use std::{
    net::{Ipv4Addr, SocketAddr},
    path::{Path, PathBuf},
    time::Duration,
};
use tokio::sync::OnceCell;

fn top() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// The media of the small scenario, made once.
pub fn small() -> PathBuf {
    made_once(&top().join("demo/small.json"), &top().join("target")).expect("media")
}

/// An angle put on from a frame on.
pub fn take(at: i64, angle: &Value) -> Value {
    json!({ "do": "take", "at": at, "angle": angle })
}

/// A server on the small scenario, taken in and synced, and the day. That is done once: each test has a copy of its own in
/// `data`.
pub async fn synced(data: &Path) -> (Api, Value) {
    synced_with(config(data, &[&small()])).await
}

/// The same with other settings.
pub async fn synced_with(config: ServeConfig) -> (Api, Value) {
    static MADE: OnceCell<PathBuf> = OnceCell::const_new();
    let made = MADE
        .get_or_init(async || {
            let data = folder_of_run(&top().join("target")).expect("a folder").join("server");
            let api = Api::start(self::config(&data, &[&small()])).await;
            api.take_in(&small()).await;
            api.sync().await;
            api.server.stop().await;
            data
        })
        .await;
    copy_folder(made, &config.data).expect("a copy");
    let api = Api::start(config).await;
    let day = api.idle().await;
    (api, day)
}

/// Settings on a free port of this machine.
pub fn config(data: &Path, roots: &[&Path]) -> ServeConfig {
    ServeConfig {
        address: SocketAddr::from((Ipv4Addr::LOCALHOST, 0)),
        data: data.to_owned(),
        out: vec![],
        roots: roots.iter().map(|root| root.to_path_buf()).collect(),
        token: None,
        production: Some(("Test".into(), "Day 1".into())),
        limits: Limits::default(),
    }
}

/// A running server.
pub struct Api {
    pub server: Server,
    pub client: Client,
}

impl Api {
    pub async fn start(config: ServeConfig) -> Self {
        Self { server: start(config).await.expect("a server"), client: Client::new() }
    }

    pub fn url(&self, path: &str) -> String {
        format!("http://{}/api{path}", self.server.address)
    }

    pub async fn ask(&self, method: Method, path: &str, body: Value) -> (u16, Value) {
        let answer = self.client.request(method, self.url(path)).json(&body).send().await.expect("an answer");
        (answer.status().as_u16(), answer.json().await.unwrap_or_default())
    }

    pub async fn post(&self, path: &str, body: Value) -> (u16, Value) {
        self.ask(Method::POST, path, body).await
    }

    pub async fn get(&self, path: &str) -> (u16, Value) {
        self.ask(Method::GET, path, Value::Null).await
    }

    /// Edits the line of a group, one edit after the other; the group's view before and behind.
    pub async fn cut(&self, group: &Value, edits: impl FnOnce(&[Value]) -> Vec<Value>) -> (Value, Value) {
        let path = format!("/groups/{group}");
        let before = self.get(&path).await.1;
        let angles = before["group"]["angles"].as_array().expect("angles");
        let ids: Vec<Value> = angles.iter().map(|own| own["id"].clone()).collect();
        let mut view = before.clone();
        for edit in edits(&ids) {
            let edit = json!({ "version": view["version"], "edit": edit });
            let (status, next) = self.post(&format!("{path}/line"), edit).await;
            assert_eq!(status, 200, "{next}");
            view = next;
        }
        (before, view)
    }

    /// What is no JSON: samples.
    pub async fn bytes(&self, path: &str) -> (u16, Vec<u8>) {
        let answer = self.client.get(self.url(path)).send().await.expect("an answer");
        (answer.status().as_u16(), answer.bytes().await.expect("a body").to_vec())
    }

    /// The day with the pass that is shown and its jobs.
    pub async fn day(&self) -> Value {
        // The jobs first: what they made is in what is asked for after them.
        let jobs = self.get("/jobs").await.1;
        let mut day = self.get("/day").await.1;
        day["jobs"] = jobs;
        for (name, value) in self.get("/pass").await.1.as_object().expect("a pass") {
            day[name] = value.clone();
        }
        day
    }

    /// Takes a folder in and waits until nothing is left to do.
    pub async fn take_in(&self, folder: &Path) -> Value {
        self.post("/intake", json!({ "path": folder })).await;
        self.idle().await
    }

    /// A pass over the day, and the day after it.
    pub async fn sync(&self) -> Value {
        self.post("/passes", json!({ "reference": null })).await;
        self.idle().await
    }

    /// The day, once no job is open.
    pub async fn idle(&self) -> Value {
        let mut events = self.server.app.listen();
        loop {
            let day = self.day().await;
            if day["jobs"].as_array().expect("jobs").iter().all(|job| job["open"] == 0) {
                return day;
            }
            let _ = tokio::time::timeout(Duration::from_secs(1), events.recv()).await;
        }
    }
}

/// A clip of the day by its file's name.
pub fn clip<'a>(day: &'a Value, name: &str) -> &'a Value {
    day["clips"].as_array().expect("clips").iter().find(|clip| clip["file_name"] == name).expect("the clip")
}

/// Its placement in the pass that is shown.
pub fn placement<'a>(day: &'a Value, name: &str) -> &'a Value {
    let id = &clip(day, name)["id"];
    let all = day["placements"].as_array().expect("placements");
    &all.iter().find(|placed| &placed["clip"] == id).expect("a placement")["placement"]
}

/// Where it starts on the axis, seconds.
pub fn start_s(day: &Value, name: &str) -> f64 {
    placement(day, name)["stretches"][0]["start_s"].as_f64().expect("a place")
}
