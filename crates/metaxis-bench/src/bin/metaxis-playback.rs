//! Measures playback in the page and prints the figures: of the demo's four angles, or of a wall of many.

use anyhow::Result;
use clap::Parser;
use metaxis_e2e::{Browser, Site, measure, media_of};
use metaxis_shoot::made_once;
use serde_json::json;
use std::{fs, path::PathBuf};

/// Measures playback and prints the figures.
#[derive(Parser)]
struct Args {
    /// The demo's media where they are made; made here otherwise.
    media: Option<PathBuf>,
    /// Plays so many cameras of 25 frames a second that are made for it, in place of the demo.
    #[arg(long)]
    angles: Option<usize>,
    /// For so many seconds.
    #[arg(long, default_value_t = 60.0)]
    seconds: f64,
    /// Where that shoot is made and kept.
    #[arg(long, default_value = "target")]
    below: PathBuf,
}

/// A shoot of so many cameras that all run, and a recorder.
fn wall(angles: usize, seconds: f64) -> serde_json::Value {
    let ends = seconds + 24.0;
    // None that stands for something else than a camera.
    let letters: Vec<char> = "ABCDEFGHIJKLMNOQ".chars().collect();
    let folder = |i: usize| format!("{}_CAMERA", letters[i % letters.len()]);
    let camera = |i: usize| {
        let view = ["wide", "close", "far", "low"][i % 4];
        json!({
            "folder": folder(i), "clock_ppm": 3.0 * i as f64 - 20.0, "distance_m": 1.0 + i as f64, "noise_dbfs": -60,
            "channels": ["Mic"], "container": "mov_pcm", "file_timecode": "true",
            "picture": { "width": 640, "height": 360, "rate": 25, "view": view }
        })
    };
    let clip = |i: usize| json!({ "device": folder(i), "file": "C001.mov", "scene": "pour", "from_s": 1.0, "to_s": ends });
    let recorder = json!({
        "folder": "R_RECORDER", "clock_ppm": 2.3, "distance_m": 0.6, "noise_dbfs": -74, "channels": ["Mix L", "Mix R"],
        "container": "bwf"
    });
    let sound =
        json!({ "device": "R_RECORDER", "file": "S-001.wav", "scene": "pour", "from_s": 0.5, "to_s": ends });
    json!({
        "name": "A wall", "seed": 7, "date": "2026-05-14", "reference": "R_RECORDER",
        "scenes": [{
            "name": "pour", "start_s": 33240, "duration_s": ends + 2.0, "programme": "foundry", "room_s": 0.4,
            "slates": [{ "at_s": 4.0 }]
        }],
        "devices": (0..angles).map(camera).chain([recorder]).collect::<Vec<_>>(),
        "clips": (0..angles).map(clip).chain([sound]).collect::<Vec<_>>(),
    })
}

#[tokio::main]
async fn main() -> Result<()> {
    let args = Args::parse();
    let media = match (args.angles, args.media) {
        (Some(angles), _) => {
            fs::create_dir_all(&args.below)?;
            let plan = args.below.join(format!("wall-{angles}.json"));
            fs::write(&plan, serde_json::to_vec(&wall(angles.clamp(1, 16), args.seconds))?)?;
            made_once(&plan, &args.below)?
        }
        (None, Some(media)) => media,
        (None, None) => media_of("tarn-hollow")?,
    };
    let site = Site::start(&media).await?;
    site.prepare().await?;
    let browser = Browser::start().await?;
    if args.angles.is_none() {
        browser.driver.goto(site.url("/intake")).await?;
        browser.until("document.querySelectorAll('[role=row]').length > 5").await?;
        // Looked at every 20 ms or so: this is the time at which the table was seen, from the request on.
        let usable = browser.script("return performance.now() / 1000").await?;
        println!(
            "first page usable {:.2} s after its request (asked: 1 s)",
            usable.as_f64().unwrap_or(f64::NAN)
        );
    }
    // In the demo from where all four cameras run.
    let from_s = if args.angles.is_some() { 8.0 } else { 48.0 };
    let figures = measure(&site, &browser, from_s, args.seconds).await;
    browser.close().await?;
    site.server.stop().await;
    print!("{}", figures?);
    Ok(())
}
