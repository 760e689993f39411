//! Many small files at once.

use crate::{Plan, Served};
use anyhow::{Result, ensure};
use nix::sys::signal::Signal;
use reqwest::Method;
use serde_json::Value;
use std::{
    fmt, fs,
    path::Path,
    time::{Duration, Instant},
};

/// What came of it.
#[derive(Debug, Default)]
pub struct Many {
    /// Files in all.
    pub files: usize,
    /// Seconds until a quarter of so many files, and until all of them, were taken in.
    pub taken_in_s: (f64, f64),
    /// Milliseconds until the day was answered while all of them waited to be listened to.
    pub day_ms: f64,
    /// Seconds until it ended when told to, at that moment.
    pub ended_s: f64,
}

impl fmt::Display for Many {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        let Self { files, taken_in_s: (quarter, all), day_ms, ended_s } = self;
        write!(
            f,
            "many: {files} small files taken in in {all:.1} s, a quarter of them in {quarter:.1} s (times 4.0 is linear: \
             {:.1}); the day in {day_ms:.0} ms; ended within {ended_s:.2} s (asked: 2 s)",
            all / quarter
        )
    }
}

/// Takes in `count` files of a tenth of a second.
///
/// # Errors
/// Where a job does not end.
pub async fn many(plan: &Plan, count: usize) -> Result<Many> {
    let quarter = taken_in(plan, count / 4).await?;
    let all = taken_in(plan, count).await?;
    Ok(Many { files: count, taken_in_s: (quarter.0, all.0), day_ms: all.1, ended_s: all.2 })
}

async fn taken_in(plan: &Plan, count: usize) -> Result<(f64, f64, f64)> {
    let (media, data) = (tempfile::tempdir()?, tempfile::tempdir()?);
    make(media.path(), count)?;
    let own = Plan { data: data.path().to_owned(), media: media.path().to_owned(), ..plan.clone() };
    let served = Served::start(&own)?;
    let begin = Instant::now();
    served.take_in(media.path()).await?;
    while open(&served.day().await?, "intake") > 0 {
        ensure!(begin.elapsed() < Duration::from_secs(1_200), "the intake does not end");
        tokio::time::sleep(Duration::from_millis(200)).await;
    }
    let taken_in_s = begin.elapsed().as_secs_f64();
    let begin = Instant::now();
    let (_, day) = served.ask(Method::GET, "/day", &Value::Null).await?;
    let day_ms = begin.elapsed().as_secs_f64() * 1e3;
    ensure!(day["clips"].as_array().map(Vec::len) == Some(count), "not all of them became clips");
    Ok((taken_in_s, day_ms, served.end_by(Signal::SIGINT)?.as_secs_f64()))
}

fn open(day: &Value, kind: &str) -> i64 {
    let job = day["jobs"].as_array().into_iter().flatten().find(|job| job["kind"] == kind);
    job.and_then(|job| job["open"].as_i64()).unwrap_or(0)
}

/// Files of four devices, no two alike.
fn make(folder: &Path, count: usize) -> Result<()> {
    for device in ["A_FLOOR", "B_BENCH", "C_GALLERY", "R_RECORDER"] {
        fs::create_dir(folder.join(device))?;
    }
    for i in 0..count {
        let device = ["A_FLOOR", "B_BENCH", "C_GALLERY", "R_RECORDER"][i % 4];
        let samples: Vec<u8> =
            (0..4_800_usize).flat_map(|k| ((k * (i + 3) % 9_000) as i16).to_le_bytes()).collect();
        fs::write(
            folder.join(device).join(format!("{i:05}.wav")),
            crate::wave::wave(1, 48_000, 1, 16, &samples),
        )?;
    }
    Ok(())
}
