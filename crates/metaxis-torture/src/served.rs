//! A `metaxis serve` of its own, as a person would start it.

use anyhow::{Context, Result, bail, ensure};
use nix::{
    sys::signal::{Signal, kill},
    unistd::Pid,
};
use reqwest::{Client, Method};
use serde_json::{Value, json};
use std::{
    io::{BufRead, BufReader},
    path::{Path, PathBuf},
    process::{Child, Command, Stdio},
    sync::mpsc,
    time::{Duration, Instant},
};

/// Longest until a server says where it listens.
const START: Duration = Duration::from_secs(30);

/// How to start it.
#[derive(Debug, Clone)]
pub struct Plan {
    /// The metaxis program.
    pub program: PathBuf,
    /// Folder of the production.
    pub data: PathBuf,
    /// Folder of the media.
    pub media: PathBuf,
}

/// A server that runs; ended when dropped.
pub struct Served {
    child: Child,
    /// Its API.
    pub api: String,
    /// Asks it.
    pub client: Client,
}

impl Served {
    /// Starts a server on a free port and waits until it listens.
    ///
    /// # Errors
    /// Where it does not.
    pub fn start(plan: &Plan) -> Result<Self> {
        let mut child = Command::new(&plan.program)
            .args(["serve", "--address", "127.0.0.1:0", "--name", "Torture", "--data"])
            .arg(&plan.data)
            .arg("--root")
            .arg(&plan.media)
            .stdin(Stdio::null())
            .stdout(Stdio::piped())
            // What it says when it ends of itself is worth reading; of what is done to it, it need not complain.
            .env("RUST_LOG", "off")
            .stderr(Stdio::inherit())
            .spawn()
            .context("metaxis cannot be started")?;
        let stdout = child.stdout.take().context("no output")?;
        let (said, heard) = mpsc::channel();
        std::thread::spawn(move || {
            let mut line = String::new();
            let read = BufReader::new(stdout).read_line(&mut line);
            let _ = said.send(read.map(|_| line));
        });
        let line = heard.recv_timeout(START);
        let mut served = Self { child, api: String::new(), client: Client::new() };
        let line = line.context("it does not say where it listens")??;
        ensure!(line.starts_with("http://"), "it ended at once");
        served.api = format!("{}/api", line.trim());
        Ok(served)
    }

    /// Its process.
    pub fn id(&self) -> u32 {
        self.child.id()
    }

    /// Ends it as a power cut would: at once, whatever it does.
    ///
    /// # Errors
    /// Where the system refuses.
    pub fn kill(mut self) -> Result<()> {
        self.child.kill()?;
        self.child.wait()?;
        Ok(())
    }

    /// Asks it to end and waits until it has; how long that took.
    ///
    /// # Errors
    /// Where it does not within 20 s.
    pub fn end_by(mut self, signal: Signal) -> Result<Duration> {
        let begin = Instant::now();
        self.send(signal)?;
        while self.child.try_wait()?.is_none() {
            ensure!(begin.elapsed() < Duration::from_secs(20), "it does not end at {signal}");
            std::thread::sleep(Duration::from_millis(2));
        }
        Ok(begin.elapsed())
    }

    /// Sends it a signal.
    ///
    /// # Errors
    /// Where the system refuses.
    pub fn send(&self, signal: Signal) -> Result<()> {
        Ok(kill(Pid::from_raw(i32::try_from(self.id())?), signal)?)
    }

    /// The answer to a request: its status, and its body as JSON where it is.
    ///
    /// # Errors
    /// Where no answer comes.
    pub async fn ask(&self, method: Method, path: &str, body: &Value) -> Result<(u16, Value)> {
        let request = self.client.request(method, format!("{}{path}", self.api)).json(body);
        let answer = request.timeout(Duration::from_secs(60)).send().await?;
        let status = answer.status().as_u16();
        Ok((status, answer.json().await.unwrap_or_default()))
    }

    /// The day with the pass that is shown and its jobs.
    ///
    /// # Errors
    /// Where no answer comes.
    pub async fn day(&self) -> Result<Value> {
        let get = async |path| Ok::<Value, anyhow::Error>(self.ask(Method::GET, path, &Value::Null).await?.1);
        // The jobs first: what they made is in what is asked for after them.
        let jobs = get("/jobs").await?;
        let (mut day, shown) = (get("/day").await?, get("/pass").await?);
        for (name, value) in shown.as_object().into_iter().flatten() {
            day[name] = value.clone();
        }
        day["jobs"] = jobs;
        Ok(day)
    }

    /// Takes its media in.
    ///
    /// # Errors
    /// Where it is refused.
    pub async fn take_in(&self, media: &Path) -> Result<()> {
        self.post("/intake", &json!({ "path": media })).await
    }

    /// A request that must be granted.
    ///
    /// # Errors
    /// Where it is not.
    pub async fn post(&self, path: &str, body: &Value) -> Result<()> {
        let (status, answer) = self.ask(Method::POST, path, body).await?;
        ensure!(status == 200, "{path}: {status} {answer}");
        Ok(())
    }

    /// The day once no job is open.
    ///
    /// # Errors
    /// Where one still is after `most`.
    pub async fn idle(&self, most: Duration) -> Result<Value> {
        let begin = Instant::now();
        loop {
            let day = self.day().await?;
            let open = |job: &&Value| job["open"] != 0;
            let Some(job) = day["jobs"].as_array().and_then(|jobs| jobs.iter().find(open)) else {
                return Ok(day);
            };
            if begin.elapsed() > most {
                bail!("a job does not end: {job}");
            }
            tokio::time::sleep(Duration::from_millis(20)).await;
        }
    }
}

impl Drop for Served {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// A production with the small shoot taken in, synced and grouped.
///
/// # Errors
/// Where the server refuses any of it.
pub async fn production(plan: &Plan) -> Result<()> {
    let served = Served::start(plan)?;
    served.take_in(&plan.media).await?;
    served.idle(Duration::from_secs(120)).await?;
    served.post("/passes", &json!({ "reference": null })).await?;
    let day = served.idle(Duration::from_secs(120)).await?;
    ensure!(day["groups"].as_array().is_some_and(|groups| !groups.is_empty()), "no group was made");
    served.end_by(Signal::SIGTERM)?;
    Ok(())
}
