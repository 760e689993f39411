//! A line of thousands of cuts over a group of hours: opening it, every edit, the strip and the log, and the page's memory.
//! `metaxis-line-figures [CUTS] [SECONDS] [MINUTES]` makes the media (once) and prints the figures; with the last, what the page holds
//! of its memory while it plays and is worked at for so long.

use anyhow::{Context, Result};
use metaxis_e2e::{
    Browser, Site,
    frames::{WHEEL, frames},
};
use serde_json::{Value, json};
use std::{
    path::{Path, PathBuf},
    time::{Duration, Instant},
};
use thirtyfour::Key;

const STRIP: &str = "document.querySelector('[aria-label=\"Place in the group\"]')";
const LOG: &str = "document.querySelector('[data-testid=switch-log]').parentElement";

fn media(seconds: f64) -> Result<PathBuf> {
    let top = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let kept = top.join(format!("target/media-long-{seconds}"));
    if !kept.join("truth.json").exists() {
        eprintln!("making the media of {seconds} seconds, once …");
        let fresh = tempfile::tempdir_in(top.join("target"))?;
        let plan = metaxis_shoot::long_take(seconds);
        metaxis_shoot::shoot(&plan, &top.join("demo/speech"), fresh.path(), &|_, _| {})?;
        std::fs::rename(fresh.path(), &kept)?;
    }
    Ok(kept)
}

/// The middle one of several times of a piece of work, and the longest, milliseconds.
async fn timed(count: usize, mut work: impl AsyncFnMut(usize) -> Result<()>) -> Result<(f64, f64)> {
    let mut times = vec![];
    for i in 0..count {
        let since = Instant::now();
        work(i).await?;
        times.push(since.elapsed().as_secs_f64() * 1000.0);
    }
    times.sort_by(f64::total_cmp);
    Ok((times[count / 2], times[count - 1]))
}

async fn measured(site: &Site, browser: &Browser, cuts: i64, minutes: u64) -> Result<()> {
    let day = site.day().await?;
    let id = day["groups"][0]["id"].as_i64().context("no group")?;
    let path = format!("/api/groups/{id}");
    let view: Value = site.get(&path).await?;
    let frames_of = view["group"]["frames"].as_i64().context("no frames")?;
    let angles: Vec<i64> = view["group"]["angles"]
        .as_array()
        .context("no angles")?
        .iter()
        .filter_map(|own| own["id"].as_i64())
        .collect();
    // Black between the angles, so that one camera is enough.
    let shown: Vec<i64> = angles.iter().flat_map(|own| [*own, 0]).collect();
    let switches: Vec<Value> = (0..cuts)
        .map(|i| json!({ "at": i * frames_of / cuts, "angle": shown[i as usize % shown.len()] }))
        .collect();
    let edit = async |edit: Value| {
        let version = site.get(&path).await?["version"].clone();
        site.post(&format!("{path}/line"), json!({ "version": version, "edit": edit })).await
    };
    edit(json!({ "do": "restore", "switches": switches })).await?;
    println!("a group of {:.1} h with {cuts} cuts:", frames_of as f64 / 25.0 / 3600.0);
    let (median, most) = timed(9, async |_| site.get(&path).await.map(drop)).await?;
    println!("  asked for by the page: {median:.0} ms, at most {most:.0} (asked: 500)");
    let mut version = site.get(&path).await?["version"].as_i64().context("a version")?;
    let (median, most) = timed(20, async |i| {
        let roll = json!({ "do": "roll", "index": 1 + i * 100, "by": 1 });
        site.post(&format!("{path}/line"), json!({ "version": version, "edit": roll })).await?;
        version += 1;
        Ok(())
    })
    .await?;
    println!("  an edit from request to kept: {median:.0} ms, at most {most:.0} (asked: 50)");

    for document in ["line.otio", "choices.otio", "line.edl"] {
        let url = site.url(&format!("{path}/turnover/{document}"));
        let (median, most) = timed(5, async |_| {
            reqwest::get(&url).await?.error_for_status()?.bytes().await?;
            Ok(())
        })
        .await?;
        println!("  {document}: {median:.0} ms, at most {most:.0} (asked: 1000)");
    }

    browser.driver.goto(site.url(&format!("/groups/{id}"))).await?;
    browser.until("document.body.innerText.includes('Coverage and angle order')").await?;
    let opened = "return new Promise(done => {
        const from = performance.now();
        dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', code: 'Enter' }));
        const look = () => document.querySelector('[data-testid=switch-log] li')
            ? done(performance.now() - from) : requestAnimationFrame(look);
        look(); })";
    let opened = browser.script(opened).await?.as_f64().unwrap_or(f64::NAN);
    println!("  from the key at Groups to the log: {opened:.0} ms (asked: 500)");
    browser.driver.goto(site.url(&format!("/switch/{id}"))).await?;
    browser.until(&format!("document.body.innerText.includes('{cuts} stretches')")).await?;
    let open = browser.script("return performance.now()").await?;
    println!("  the page from its request to the log: {:.0} ms", open.as_f64().unwrap_or(f64::NAN));
    let key = "return new Promise(done => {
        const log = document.querySelector('[data-testid=switch-log]'), from = performance.now();
        const seen = new MutationObserver(() => { seen.disconnect(); done(performance.now() - from); });
        seen.observe(log, { subtree: true, characterData: true, childList: true });
        dispatchEvent(new KeyboardEvent('keydown', { key: 'f', code: 'KeyF' }));
        setTimeout(() => done(-1), 5000); })";
    browser.seek_line(frames_of / 2).await?;
    let mut times = vec![];
    for _ in 0..9 {
        times.push(browser.script(key).await?.as_f64().unwrap_or(f64::NAN));
    }
    times.sort_by(f64::total_cmp);
    println!("  a key to what the log shows: {:.0} ms, at most {:.0}", times[4], times[8]);
    frames(browser, "  the strip, zooming", STRIP, WHEEL).await?;
    frames(browser, "  the log, scrolling", LOG, "box.scrollTop += 40").await?;
    let memory = browser.script("return (performance.memory?.usedJSHeapSize ?? 0) / 1e6").await?;
    println!("  memory of the page: {:.0} MB", memory.as_f64().unwrap_or(0.0));
    if minutes > 0 {
        held(browser, frames_of, minutes).await?;
    }
    Ok(())
}

/// Plays the line for so many minutes, with an edit and its undo every ten seconds and another place every minute, and prints what the
/// page holds meanwhile.
async fn held(browser: &Browser, frames_of: i64, minutes: u64) -> Result<()> {
    // All of the strip again, however far it was zoomed.
    browser.driver.refresh().await?;
    println!("  what the page holds while the line plays and is edited, after its garbage is collected:");
    for minute in 0..=minutes {
        if minute % 5 == 0 || minute == minutes {
            let (mb, nodes) = browser.held().await?;
            println!("    after {minute} min: {mb:.1} MB, {nodes} nodes");
        }
        if minute == minutes {
            break;
        }
        browser.seek_line((minute as i64 * 7919) % (frames_of - 3000)).await?;
        browser.keys(" ").await?;
        let since = Instant::now();
        while since.elapsed() < Duration::from_secs(60) {
            tokio::time::sleep(Duration::from_secs(10)).await;
            browser.keys("f").await?;
            browser.keys_with(Key::Control, "z").await?;
        }
        browser.keys(" ").await?;
        browser.until("document.body.innerText.includes('Play')").await?;
    }
    Ok(())
}

#[tokio::main]
async fn main() -> Result<()> {
    let mut args = std::env::args().skip(1);
    let cuts = args.next().map_or(Ok(3000), |own| own.parse()).context("how many cuts?")?;
    let seconds = args.next().map_or(Ok(7200.0), |own| own.parse()).context("how many seconds?")?;
    let minutes = args.next().map_or(Ok(0), |own| own.parse()).context("how many minutes?")?;
    let site = Site::start(&media(seconds)?).await?;
    let result = async {
        site.prepare().await?;
        let browser = Browser::start().await?;
        let result = measured(&site, &browser, cuts, minutes).await;
        browser.close().await?;
        result
    }
    .await;
    site.server.stop().await;
    result
}
