//! A server with media of its own.

use anyhow::{Result, bail};
use metaxis_server::{Limits, ServeConfig, Server, start};
use metaxis_shoot::{copy_folder, made_once};
use metaxis_store::JobKind;
use serde_json::Value;
use std::{
    net::{Ipv4Addr, SocketAddr},
    path::{Path, PathBuf},
};

/// A server on a free port, with a production and a media root in a folder of its own.
pub struct Site {
    /// The running server.
    pub server: Server,
    /// Its media root.
    pub media: PathBuf,
    /// Where its production is, unless it stays.
    _data: Option<tempfile::TempDir>,
}

/// The folder of everything, and what is built in it.
pub(crate) fn target() -> PathBuf {
    top().join("target")
}

fn top() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// The media of a scenario shipped with the product, made once.
///
/// # Errors
/// Errors of the simulator.
pub fn media_of(name: &str) -> Result<PathBuf> {
    made_once(&top().join(format!("demo/{name}.json")), &target())
}

impl Site {
    /// Starts a server whose only media root is `media`.
    ///
    /// # Errors
    /// Errors of the server.
    pub async fn start(media: &Path) -> Result<Self> {
        let data = tempfile::tempdir()?;
        let site = Self::start_in(data.path(), media).await?;
        Ok(Self { _data: Some(data), ..site })
    }

    /// The same with a copy of a production.
    ///
    /// # Errors
    /// Errors of the server, and where it cannot be copied.
    pub async fn start_with(production: &Path, media: &Path) -> Result<Self> {
        let data = tempfile::tempdir()?;
        copy_folder(production, data.path())?;
        let site = Self::start_in(data.path(), media).await?;
        Ok(Self { _data: Some(data), ..site })
    }

    /// The same with a production in a folder that stays.
    ///
    /// # Errors
    /// Errors of the server.
    pub async fn start_in(data: &Path, media: &Path) -> Result<Self> {
        let server = start(ServeConfig {
            address: SocketAddr::from((Ipv4Addr::LOCALHOST, 0)),
            data: data.to_owned(),
            roots: vec![media.to_owned()],
            out: vec![],
            token: None,
            production: Some(("The Tarn Hollow Tenor".into(), "Day 1 · Thu 14 May".into())),
            limits: Limits::default(),
        })
        .await?;
        Ok(Self { server, media: media.canonicalize()?, _data: None })
    }

    /// Address of a page.
    pub fn url(&self, path: &str) -> String {
        format!("http://{}{path}", self.server.address)
    }

    /// A JSON value of the API.
    ///
    /// # Errors
    /// Errors of the request.
    pub async fn get(&self, path: &str) -> Result<Value> {
        Ok(reqwest::get(self.url(path)).await?.error_for_status()?.json().await?)
    }

    /// Asks for a change.
    ///
    /// # Errors
    /// Errors of the request, and its refusal.
    pub async fn post(&self, path: &str, body: Value) -> Result<()> {
        reqwest::Client::new().post(self.url(path)).json(&body).send().await?.error_for_status()?;
        Ok(())
    }

    /// The day with the pass that is shown and its jobs.
    ///
    /// # Errors
    /// Errors of the requests.
    pub async fn day(&self) -> Result<Value> {
        // The jobs first: what they made is in what is asked for after them.
        let jobs = self.get("/api/jobs").await?;
        let (mut day, shown) = (self.get("/api/day").await?, self.get("/api/pass").await?);
        for (name, value) in shown.as_object().into_iter().flatten() {
            day[name] = value.clone();
        }
        day["jobs"] = jobs;
        Ok(day)
    }

    /// A slate log as the server reads it from text.
    ///
    /// # Errors
    /// Where it is no slate log.
    pub async fn log(&self, text: &'static str) -> Result<Value> {
        let answer = reqwest::Client::new().post(self.url("/api/intake/log")).body(text).send().await?;
        let preview: Value = answer.error_for_status()?.json().await?;
        Ok(preview["log"].clone())
    }

    /// Takes the whole media root in, makes every light copy and syncs the day.
    ///
    /// # Errors
    /// Where a job fails.
    pub async fn prepare(&self) -> Result<()> {
        let app = &self.server.app;
        app.queue(&JobKind::Intake { folder: self.media.display().to_string() })?;
        self.until_idle().await?;
        app.queue(&JobKind::Pass { reference: None, plan: Default::default() })?;
        self.until_idle().await
    }

    /// Waits until the day is as it should be, half a minute at most; the last one that was seen.
    ///
    /// # Errors
    /// Errors of the requests.
    pub async fn until_day(&self, ready: impl Fn(&Value) -> bool) -> Result<Value> {
        let mut events = self.server.app.listen();
        let since = std::time::Instant::now();
        loop {
            let day = self.day().await?;
            if ready(&day) || since.elapsed().as_secs() > 30 {
                return Ok(day);
            }
            let _ = tokio::time::timeout(std::time::Duration::from_secs(1), events.recv()).await;
        }
    }

    /// Waits until no job is waiting or running.
    ///
    /// # Errors
    /// The message of a job that failed.
    pub async fn until_idle(&self) -> Result<()> {
        let mut events = self.server.app.listen();
        loop {
            let jobs = self.server.app.store.job_summaries()?;
            if let Some(message) = jobs.iter().find_map(|job| job.message.clone()) {
                bail!("a job failed: {message}");
            }
            if jobs.iter().all(|job| job.open == 0) {
                return Ok(());
            }
            // Woken by what the server says; looked at again at least every second.
            let _ = tokio::time::timeout(std::time::Duration::from_secs(1), events.recv()).await;
        }
    }
}
