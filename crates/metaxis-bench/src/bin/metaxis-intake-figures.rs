//! Measures intake: probing and listening against plain ffprobe and ffmpeg on the same files in the same run, the
//! server's memory, and the table's frame rate with a thousand clips: `metaxis-intake-figures METAXIS MEDIA`.

use anyhow::{Context, Result, ensure};
use metaxis_e2e::Browser;
use serde_json::{Value, json};
use std::{
    fs,
    io::{BufRead, BufReader},
    path::{Path, PathBuf},
    process::{Child, Command, Stdio},
    sync::Mutex,
    time::{Duration, Instant},
};

#[tokio::main]
async fn main() -> Result<()> {
    let mut args = std::env::args_os().skip(1).map(PathBuf::from);
    let (metaxis, demo) =
        (args.next().context("the metaxis binary")?, args.next().context("the demo media")?);
    let folder = tempfile::tempdir()?;
    let many = folder.path().join("400 files");
    let files = make_files(&demo, &many, 400)?;

    let plain = on_all_cores(&files, |file| {
        Command::new("ffprobe")
            .args(["-loglevel", "error", "-print_format", "json", "-show_format", "-show_streams"])
            .arg(file)
            .stdout(Stdio::null())
            .status()
    })?;
    let server = Server::start(&metaxis, &folder.path().join("data"), folder.path())?;
    let begin = Instant::now();
    server.post("/intake", &json!({ "path": many })).await?;
    server.until("intake").await?;
    let ours = begin.elapsed().as_secs_f64();
    println!("probing 400 files: {ours:.1} s, ffprobe alone {plain:.1} s: {:.2} x (asked 1.5)", ours / plain);

    server.until("listen").await?;
    println!(
        "memory of the server, 400 clips listed and listened to: {} MiB (asked 500)",
        server.most_memory()?
    );
    drop(server);

    // Listening: the demo's own files, long ones among them, without making light copies.
    let mut files: Vec<PathBuf> = vec![];
    for entry in walk(&demo) {
        let name = entry.display().to_string();
        if [".wav", ".mov", ".mp4"].iter().any(|end| name.ends_with(end)) {
            files.push(entry);
        }
    }
    let decode = || {
        on_all_cores(&files, |file| {
            Command::new("ffmpeg")
                .args(["-nostdin", "-loglevel", "quiet", "-vn", "-i"])
                .arg(file)
                .args(["-map", "0:a?", "-f", "null", "-"])
                .status()
        })
    };
    let first = decode()?;
    let listening = listen(&files)?;
    let plain = (first + decode()?) / 2.0;
    println!(
        "listening to the demo: {listening:.2} s, ffmpeg decoding alone {plain:.2} s: {:.2} x (asked 1.3)",
        listening / plain
    );

    let thousand = folder.path().join("1000 files");
    make_files(&demo, &thousand, 1000)?;
    let server = Server::start(&metaxis, &folder.path().join("data-2"), folder.path())?;
    server.post("/intake", &json!({ "path": thousand })).await?;
    server.until("intake").await?;
    server.post("/jobs/listen/stop", &json!({})).await?;
    server.post("/jobs/proxy/stop", &json!({})).await?;
    scroll(&server).await
}

/// Listens to all files as the product does, into a cache of its own; seconds.
fn listen(files: &[PathBuf]) -> Result<f64> {
    use metaxis_media::{Cache, Fingerprint, Stop, listen, probe};
    let folder = tempfile::tempdir()?;
    let cache = Cache::open(folder.path())?;
    let stop = Stop::default();
    let known: Vec<_> =
        files.iter().filter_map(|file| Some((file, probe(file, &stop).ok()?.sound?))).collect();
    on_all_cores(&known, |(file, sound)| -> Result<()> {
        let cached = cache.clip(&Fingerprint::of(file)?);
        listen(file, sound, &cached, &stop, &|_| {})?;
        Ok(())
    })
}

fn walk(folder: &Path) -> Vec<PathBuf> {
    let entries = fs::read_dir(folder).into_iter().flatten().flatten();
    let mut files: Vec<PathBuf> = entries
        .flat_map(|entry| if entry.path().is_dir() { walk(&entry.path()) } else { vec![entry.path()] })
        .collect();
    files.sort();
    files
}

/// Small files of different content: half five seconds of the recorder's sound, half copies of a small camera file.
fn make_files(demo: &Path, out: &Path, count: usize) -> Result<Vec<PathBuf>> {
    let sound = fs::read(walk(&demo.join("R_RECORDER")).first().context("a recorder")?)?;
    let seed = out.with_extension("mp4");
    fs::create_dir_all(out)?;
    let camera = walk(&demo.join("C_GALLERY")).into_iter().next().context("a camera")?;
    let made = Command::new("ffmpeg")
        .args(["-nostdin", "-loglevel", "error", "-y", "-i"])
        .arg(&camera)
        .args(["-t", "3", "-c", "copy"])
        .arg(&seed)
        .status()?;
    ensure!(made.success(), "ffmpeg failed");
    let picture = fs::read(&seed)?;
    let mut files = vec![];
    for i in 0..count {
        let card = out.join(["A_CAM", "B_CAM", "R_SOUND", "S_SOUND"][i % 4]);
        fs::create_dir_all(&card)?;
        let (name, bytes) = if i % 4 < 2 {
            // A box of eight bytes more at the end: another file, the same media.
            let mut bytes = picture.clone();
            bytes.extend(16_u32.to_be_bytes());
            bytes.extend(b"free");
            bytes.extend((i as u64).to_be_bytes());
            (format!("clip{i:04}.mp4"), bytes)
        } else {
            let length = 5 * 48_000 * 2;
            let from = 4096 + (i * 9973 * 2) % (sound.len() - length - 8192);
            (format!("take{i:04}.wav"), wav(&sound[from..from + length]))
        };
        let path = card.join(name);
        fs::write(&path, bytes)?;
        files.push(path);
    }
    Ok(files)
}

fn wav(samples: &[u8]) -> Vec<u8> {
    let mut bytes = b"RIFF".to_vec();
    bytes.extend((36 + samples.len() as u32).to_le_bytes());
    bytes.extend(b"WAVEfmt \x10\0\0\0\x01\0\x01\0\x80\xbb\0\0\0\x77\x01\0\x02\0\x10\0data");
    bytes.extend((samples.len() as u32).to_le_bytes());
    bytes.extend(samples);
    bytes
}

/// Runs `work` on every item, as many at once as there are cores; seconds.
fn on_all_cores<T: Sync, R, E: Into<anyhow::Error>>(
    items: &[T],
    work: impl Fn(&T) -> Result<R, E> + Sync,
) -> Result<f64> {
    let begin = Instant::now();
    let next = Mutex::new(items.iter());
    let cores = std::thread::available_parallelism().map_or(2, usize::from);
    std::thread::scope(|scope| {
        let run = || -> Result<()> {
            while let Some(item) = { next.lock().ok().and_then(|mut items| items.next()) } {
                work(item).map_err(Into::into)?;
            }
            Ok(())
        };
        let threads: Vec<_> = (0..cores).map(|_| scope.spawn(run)).collect();
        threads
            .into_iter()
            .try_for_each(|thread| thread.join().unwrap_or_else(|_| anyhow::bail!("a thread failed")))
    })?;
    Ok(begin.elapsed().as_secs_f64())
}

/// The product's own binary, serving.
struct Server {
    child: Child,
    address: String,
    client: reqwest::Client,
}

impl Server {
    fn start(metaxis: &Path, data: &Path, root: &Path) -> Result<Self> {
        let mut child = Command::new(metaxis)
            .args(["serve", "--address", "127.0.0.1:0", "--data"])
            .arg(data)
            .arg("--root")
            .arg(root)
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()?;
        let stdout = BufReader::new(child.stdout.take().context("no output")?);
        let line = stdout.lines().map_while(Result::ok).find(|line| line.contains("http://"));
        let line = line.context("the server did not start")?;
        let address = line[line.find("http://").unwrap_or(0)..].trim().to_owned();
        Ok(Self { child, address, client: reqwest::Client::new() })
    }

    async fn post(&self, path: &str, body: &Value) -> Result<()> {
        let url = format!("{}/api{path}", self.address);
        self.client.post(url).json(body).send().await?.error_for_status()?;
        Ok(())
    }

    /// Waits until no job of a kind is open.
    async fn until(&self, kind: &str) -> Result<()> {
        loop {
            let url = format!("{}/api/jobs", self.address);
            let jobs: Vec<Value> = self.client.get(url).send().await?.json().await?;
            if jobs.iter().any(|job| job["kind"] == kind)
                && jobs.iter().all(|job| job["kind"] != kind || job["open"] == 0)
            {
                return Ok(());
            }
            tokio::time::sleep(Duration::from_millis(100)).await;
        }
    }

    /// Most memory the server itself ever held, MiB.
    fn most_memory(&self) -> Result<u64> {
        let status = fs::read_to_string(format!("/proc/{}/status", self.child.id()))?;
        let line = status.lines().find(|line| line.starts_with("VmHWM")).context("no figure")?;
        Ok(line.split_whitespace().nth(1).context("no figure")?.parse::<u64>()? / 1024)
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// Scrolls a thousand rows down and says how long the frames took.
async fn scroll(server: &Server) -> Result<()> {
    let browser = Browser::start().await?;
    browser.driver.goto(format!("{}/intake", server.address)).await?;
    browser.until("document.querySelectorAll('[data-testid=clip-rows] [role=row]').length > 10").await?;
    let script = "return new Promise((done) => {
        const rows = document.querySelector('[data-testid=clip-rows]');
        const times = []; let last = performance.now();
        const step = (now) => {
          times.push(now - last); last = now; rows.scrollTop += 60;
          if (times.length < 400 && rows.scrollTop + rows.clientHeight < rows.scrollHeight) requestAnimationFrame(step);
          else done(times.slice(2));
        };
        requestAnimationFrame(step);
      })";
    let times: Vec<f64> = serde_json::from_value(browser.script(script).await?)?;
    let rows = browser.script("return document.querySelector('[role=grid]').ariaRowCount").await?;
    browser.close().await?;
    let mut sorted = times.clone();
    sorted.sort_by(f64::total_cmp);
    let mean = times.iter().sum::<f64>() / times.len() as f64;
    let at = |share: f64| sorted[((sorted.len() - 1) as f64 * share) as usize];
    println!(
        "scrolling {rows} rows, 60 pixels a frame: {:.1} frames a second, median frame {:.1} ms, 95 % within {:.1} ms (asked 60)",
        1000.0 / mean,
        at(0.5),
        at(0.95)
    );
    Ok(())
}
