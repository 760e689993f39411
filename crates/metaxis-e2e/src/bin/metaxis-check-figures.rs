//! How the Day sheet and the Bench keep up at the size of a real day: frames while zooming and scrolling, and the time from a
//! key to the first waveform. `metaxis-check-figures [CLIPS]` makes a simulated day (once) and serves it.

use anyhow::{Context, Result, ensure};
use metaxis_e2e::{Browser, Site};
use serde_json::Value;
use std::{
    path::{Path, PathBuf},
    process::Command,
};

/// Media in the build's folder, made once; `make` fills an empty folder.
fn made(name: &str, make: impl FnOnce(&Path) -> Result<()>) -> Result<PathBuf> {
    let target = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../target");
    let kept = target.join(name);
    if !kept.exists() {
        eprintln!("making {name}, once …");
        let fresh = tempfile::tempdir_in(&target)?;
        make(fresh.path())?;
        std::fs::rename(fresh.keep(), &kept)?;
    }
    Ok(kept)
}

fn large(clips: usize) -> Result<PathBuf> {
    made(&format!("media-large-{clips}"), |folder| {
        let speech = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/speech");
        let day = metaxis_shoot::large_day(clips, 1);
        metaxis_shoot::shoot(&day, &speech, folder, &|_, _| {}).map(|_| ())
    })
}

/// Length of the long clips, seconds.
const LONG_S: u32 = 3600;

/// A camera and a recorder that ran for an hour, the camera a little later: noise that comes and goes.
fn long() -> Result<PathBuf> {
    made("media-hour", |folder| {
        let make = |path: &str, skip: &str, picture: bool| -> Result<()> {
            let path = folder.join(path);
            std::fs::create_dir_all(path.parent().context("a folder")?)?;
            let noise = format!("anoisesrc=d={}:a=0.4:seed=7:r=48000,tremolo=f=0.9:d=0.9", LONG_S + 30);
            let size = format!("color=c=gray:s=64x36:r=25:d={LONG_S}");
            let mut ffmpeg = Command::new("ffmpeg");
            ffmpeg.args(["-v", "error", "-f", "lavfi", "-ss", skip, "-i", &noise]);
            if picture {
                ffmpeg.args(["-f", "lavfi", "-i", &size, "-map", "1:v", "-map", "0:a", "-c:v", "libx264"]);
                ffmpeg.args(["-preset", "ultrafast", "-g", "12", "-c:a", "pcm_s16le"]);
            }
            let length = LONG_S.to_string();
            let status =
                ffmpeg.args(["-t", &length]).arg(&path).status().context("ffmpeg cannot be started")?;
            ensure!(status.success(), "ffmpeg made no {}", path.display());
            Ok(())
        };
        make("R_SOUND/R001.wav", "0", false)?;
        make("A_CAM/A001.mov", "20", true)?;
        make("B_CAM/B001.mov", "25", true)
    })
}

/// Times between the frames of a run of steps, one step a frame; `step` is a statement that may use `i` and `box`.
async fn frames(browser: &Browser, what: &str, find: &str, step: &str) -> Result<()> {
    let script = format!(
        "return new Promise(done => {{
           const box = {find}, edges = box.getBoundingClientRect(), times = [];
           let i = 0, last = 0;
           const next = now => {{
             if (i > 3) times.push(now - last);
             last = now;
             if (i++ < 160) {{ {step}; requestAnimationFrame(next); }} else done(times);
           }};
           requestAnimationFrame(next);
         }})"
    );
    let times = browser.script(&script).await?;
    let mut times: Vec<f64> = times.as_array().context("times")?.iter().filter_map(Value::as_f64).collect();
    times.sort_by(f64::total_cmp);
    let at = |share: f64| times[((times.len() - 1) as f64 * share) as usize];
    let late = times.iter().filter(|time| **time > 25.0).count();
    println!(
        "{what:<34} median {:>5.1} ms, 95th percentile {:>5.1} ms (asked: 16.7), {} of {} frames late",
        at(0.5),
        at(0.95),
        late,
        times.len()
    );
    Ok(())
}

const WHEEL: &str = "box.dispatchEvent(new WheelEvent('wheel', { ctrlKey: true, bubbles: true, cancelable: true, \
     deltaY: (i % 80 < 40 ? -1 : 1) * 50, clientX: edges.left + edges.width / 2, clientY: edges.top + edges.height / 3 }))";

#[tokio::main]
async fn main() -> Result<()> {
    let clips = std::env::args().nth(1).map_or(Ok(400), |clips| clips.parse()).context("how many clips?")?;
    at_media(&large(clips)?, measure).await?;
    at_media(&long()?, measure_long).await
}

/// Serves media, taken in and synced, to a browser for a measurement.
async fn at_media(media: &Path, work: impl AsyncFnOnce(&Site, &Browser) -> Result<()>) -> Result<()> {
    let site = Site::start(media).await?;
    site.prepare().await?;
    let browser = Browser::start().await?;
    let result = work(&site, &browser).await;
    browser.close().await?;
    site.server.stop().await;
    result
}

const MIRROR: &str = "document.querySelector('canvas[aria-label*=above]')";

/// Whether there is ink in the upper half of the mirror.
fn inked() -> String {
    format!(
        "(() => {{ const c = {MIRROR}; if (!c || c.width < 10) return false; \
         const d = c.getContext('2d').getImageData(0, c.height * 0.2, c.width, c.height * 0.25).data; \
         let n = 0; for (let i = 3; i < d.length; i += 4) n += d[i] > 200; return n > 40; }})()"
    )
}

/// The first paint of the Bench for clips of an hour, from the press that opens it.
async fn measure_long(site: &Site, browser: &Browser) -> Result<()> {
    let mut paints = vec![];
    for name in ["A001", "B001", "A001", "B001", "A001", "B001"] {
        browser.driver.goto(site.url("/day")).await?;
        let slip = format!(
            "[...document.querySelectorAll('[data-testid=sheet] button')].find(b => b.innerText.includes('{name}'))"
        );
        browser.until(&slip).await?;
        browser.script(&format!("{slip}.click()")).await?;
        let open = "[...document.querySelectorAll('a')].find(a => a.innerText === 'Lay it against another')";
        browser.until(open).await?;
        let script = format!(
            "return new Promise(done => {{ const from = performance.now(); {open}.click();
               const look = () => {} || performance.now() - from > 5000
                 ? done(performance.now() - from) : requestAnimationFrame(look);
               requestAnimationFrame(look); }})",
            inked()
        );
        paints.push(browser.script(&script).await?.as_f64().context("a time")?);
    }
    said_paints("Bench, opened on a clip of an hour", paints);
    Ok(())
}

fn said_paints(what: &str, mut paints: Vec<f64>) {
    paints.sort_by(f64::total_cmp);
    let (middle, slowest) = (paints[paints.len() / 2], paints[paints.len() - 1]);
    println!("{what:<34} median {middle:>5.0} ms, slowest {slowest:>5.0} ms (asked: 300)");
}

async fn measure(site: &Site, browser: &Browser) -> Result<()> {
    let day = site.day().await?;
    println!("{} clips", day["clips"].as_array().map_or(0, Vec::len));
    browser.driver.goto(site.url("/day")).await?;
    let sheet = "document.querySelector('[data-testid=sheet]')";
    browser.until("document.querySelectorAll('[data-testid=sheet] button').length > 5").await?;
    browser.until("document.querySelectorAll('[data-testid=sheet] path').length > 5").await?;
    frames(browser, "Day sheet, scrolling", sheet, "box.scrollTop += 40").await?;
    browser.script(&format!("{sheet}.scrollTop = {sheet}.scrollHeight / 2")).await?;
    frames(browser, "Day sheet, zooming", sheet, WHEEL).await?;
    browser.driver.goto(site.url("/bench/round")).await?;
    let (mirror, inked) = (MIRROR, inked());
    browser.until(&inked).await?;
    let mut paints = vec![];
    for _ in 0..12 {
        let script = format!(
            "return new Promise(done => {{ const was = {mirror}.ariaLabel, from = performance.now();
               dispatchEvent(new KeyboardEvent('keydown', {{ key: 'n', code: 'KeyN' }}));
               const look = () => ({mirror} && {mirror}.ariaLabel !== was && {inked}) || performance.now() - from > 5000
                 ? done(performance.now() - from) : requestAnimationFrame(look);
               requestAnimationFrame(look); }})"
        );
        paints.push(browser.script(&script).await?.as_f64().context("a time")?);
    }
    said_paints("Bench, from the key to a waveform", paints);
    let box_of = format!("{mirror}.parentElement");
    frames(browser, "Bench, zooming", &box_of, WHEEL).await?;
    frames(browser, "Bench, moving along", &box_of, "box.dispatchEvent(new WheelEvent('wheel', { bubbles: true, cancelable: true, deltaY: i % 80 < 40 ? 30 : -30 }))").await
}
