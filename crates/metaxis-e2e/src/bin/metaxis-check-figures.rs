//! How the Day sheet and the Bench keep up at the size of a real day: frames while zooming and scrolling, and the time from a
//! key to the first waveform. `metaxis-check-figures [CLIPS]` makes a simulated day (once) and serves it.

use anyhow::{Context, Result};
use metaxis_e2e::{Browser, Site};
use serde_json::Value;
use std::path::{Path, PathBuf};

fn media(clips: usize) -> Result<PathBuf> {
    let top = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let kept = top.join(format!("target/media-large-{clips}"));
    if !kept.join("truth.json").exists() {
        eprintln!("making the media of {clips} clips, once …");
        let fresh = tempfile::tempdir_in(top.join("target"))?;
        let day = metaxis_shoot::large_day(clips, 1);
        metaxis_shoot::shoot(&day, &top.join("demo/speech"), fresh.path(), &|_, _| {})?;
        std::fs::rename(fresh.path(), &kept)?;
    }
    Ok(kept)
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
    let site = Site::start(&media(clips)?).await?;
    site.prepare().await?;
    let browser = Browser::start().await?;
    let result = measure(&site, &browser).await;
    browser.close().await?;
    site.server.stop().await;
    result
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
    let mirror = "document.querySelector('canvas[aria-label*=above]')";
    // From the key to the first ink of the next clip's waveforms.
    let inked = format!(
        "(() => {{ const c = {mirror}; if (!c || c.width < 10) return false; \
         const d = c.getContext('2d').getImageData(0, c.height * 0.2, c.width, c.height * 0.25).data; \
         let n = 0; for (let i = 3; i < d.length; i += 4) n += d[i] > 200; return n > 40; }})()"
    );
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
    paints.sort_by(f64::total_cmp);
    println!(
        "{:<34} median {:>5.0} ms, slowest {:>5.0} ms (asked: 300)",
        "Bench, from the key to a waveform",
        paints[paints.len() / 2],
        paints[paints.len() - 1]
    );
    let box_of = format!("{mirror}.parentElement");
    frames(browser, "Bench, zooming", &box_of, WHEEL).await?;
    frames(browser, "Bench, moving along", &box_of, "box.dispatchEvent(new WheelEvent('wheel', { bubbles: true, cancelable: true, deltaY: i % 80 < 40 ? 30 : -30 }))").await
}
