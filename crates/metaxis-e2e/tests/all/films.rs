//! Films, as a person orders them in the page: chosen by key, made, rested and taken out of the queue.

use anyhow::{Context, Result, ensure};
use metaxis_e2e::{Browser, Site, at_prepared};
use std::process::Command;

/// What the queue says, row by row.
const ROWS: &str = "[...document.querySelectorAll('[aria-label=\"Queue of films\"] [role=row][aria-selected]')].map(e => e.innerText)";

#[tokio::test(flavor = "multi_thread")]
async fn films_are_ordered_and_made_in_the_page() -> Result<()> {
    at_prepared(order_and_make).await
}

async fn order_and_make(site: &Site, browser: &Browser) -> Result<()> {
    browser.driver.goto(site.url("/turnover")).await?;
    browser.until_text("The whole day").await?;
    browser.keys("f").await?;
    browser.until_text("Nothing waits").await?;
    // A codec brings what holds it; what it does not go into cannot be chosen.
    browser.choose("Codec", "rdd36").await?;
    let holders = "[...[...document.querySelectorAll('label')].find(e => e.firstChild.innerText === 'Held by').querySelectorAll('option')].map(e => e.innerText).join()";
    browser.until(&format!("{holders} === 'MOV,MXF OP1a'")).await?;
    browser.choose("Codec", "h264").await?;
    browser.until(&format!("{holders} === 'MP4,MOV,Matroska'")).await?;
    browser.choose("Size", "360").await?;
    // Both lines, by key alone.
    browser.keys("w").await?;
    browser.until_text("side by side").await?;
    browser.keys("l").await?;
    browser.until_text("Make 2 lines").await?;
    browser.keys("m").await?;
    browser.until_text("2 films wait").await?;
    browser
        .until(&format!("{ROWS}.length === 2 && {ROWS}.every(row => row.includes('counted, looked at'))"))
        .await?;
    browser.until("document.querySelectorAll('[aria-label^=\"Save \"]').length === 2").await?;
    // It can be fetched, and another reader finds every frame in it.
    let path = browser.script("return document.querySelector('[aria-label^=\"Save 01\"]').pathname").await?;
    let bytes =
        reqwest::get(site.url(path.as_str().context("a path")?)).await?.error_for_status()?.bytes().await?;
    let folder = tempfile::tempdir()?;
    let film = folder.path().join("line.mov");
    std::fs::write(&film, bytes)?;
    let count = Command::new("ffprobe")
        .args(["-v", "error", "-count_frames", "-select_streams", "v", "-show_entries"])
        .args(["stream=nb_read_frames,height", "-of", "csv=p=0"])
        .arg(&film)
        .output()?;
    let count = String::from_utf8_lossy(&count.stdout).trim().to_owned();
    ensure!(count == "360,625", "{count}");

    // Ordered once more they are there already; what is refused is said; each goes out of the queue.
    browser.keys("m").await?;
    browser
        .until(&format!("{ROWS}.length === 2 && {ROWS}.every(row => row.includes('there already'))"))
        .await?;
    browser.choose("To be", "fine").await?;
    browser.keys("m").await?;
    browser
        .until(&format!(
            "{ROWS}.filter(row => row.includes('not made') && row.includes('is left as it is')).length === 2"
        ))
        .await?;
    // Those that came before others lie on none of them.
    let apart = "(() => { const all = [...document.querySelectorAll('[aria-label=\"Queue of films\"] [role=row][aria-selected]')]
        .map(e => e.getBoundingClientRect()).sort((a, b) => a.top - b.top);
        return all.length === 4 && all.every((own, i) => i === 0 || own.top >= all[i - 1].bottom - 1); })()";
    browser.until(apart).await?;
    browser.press("Clear 2 that are made").await?;
    browser.until(&format!("{ROWS}.length === 2")).await?;
    browser.keys("\u{e017}").await?;
    browser.until(&format!("{ROWS}.length === 1")).await?;
    browser.keys("\u{e017}").await?;
    browser.until_text("Nothing waits").await
}
