//! Sound onto pictures, as a person does it in the page: looked at, corrected otherwise, taken back, written.

use anyhow::{Context, Result, ensure};
use metaxis_e2e::{Browser, Site, at_prepared, clip_of};
use serde_json::Value;
use thirtyfour::Key;

/// The rows of the list, as text.
const ROWS: &str = "[...document.querySelectorAll('[aria-label=\"Files of sound\"] [role=row][aria-selected]')].map(e => e.innerText)";

#[tokio::test(flavor = "multi_thread")]
async fn sound_is_chosen_and_written_in_the_page() -> Result<()> {
    at_prepared(lay_and_write).await
}

async fn lay_and_write(site: &Site, browser: &Browser) -> Result<()> {
    let day = site.day().await?;
    browser.driver.goto(site.url("/turnover")).await?;
    browser.until_text("The whole day").await?;
    browser.keys("s").await?;
    browser.until(&format!("{ROWS}.length === 6")).await?;
    browser
        .until(&format!("{ROWS}.every(row => row.includes('left as it ran') && row.includes('S-00'))"))
        .await?;
    // What lies under the second: by key.
    browser.keys(Key::Down.value().to_string()).await?;
    let under = "document.querySelector('[aria-label=\"What lies under it\"]').innerText";
    browser.until(&format!("{under}.includes('A_FLOOR/A002.wav') && {under}.includes('Mix R')")).await?;
    browser.until_text("1 without sound").await?;

    // All of the recorder otherwise, and back by key.
    browser.choose("Clock", "recut").await?;
    browser.until(&format!("{ROWS}.every(row => row.includes('re-cut'))")).await?;
    browser.until_text("(chosen: re-cut)").await?;
    browser.keys_with(Key::Control, "z").await?;
    browser.until_text("Taken back: a device's sound re-cut").await?;
    browser.until(&format!("{ROWS}.every(row => row.includes('left as it ran'))")).await?;

    // Tracks by key: the second goes first, the other stays at home; then both as they were.
    let tracks = "[...document.querySelectorAll('[aria-label=\"What lies under it\"] ol li')].map(e => e.innerText.replace(/\\s+/g, ' '))";
    browser.until(&format!("{tracks}.join() === '1 Mix L,2 Mix R'")).await?;
    browser.keys("n").await?;
    browser.until("document.activeElement.matches('[aria-label=\"Tracks in their order\"] input')").await?;
    browser.keys_with(Key::Alt, &Key::Down.value().to_string()).await?;
    browser.until(&format!("{tracks}.join() === '1 Mix R,2 Mix L'")).await?;
    browser.keys(" ").await?;
    browser.until(&format!("{tracks}.join() === '1 Mix R'")).await?;
    browser.keys(Key::Escape.value().to_string()).await?;
    browser.until_text("1 left out").await?;
    browser.keys_with(Key::Control, "z").await?;
    browser.until(&format!("{tracks}.length === 2")).await?;
    browser.keys_with(Key::Control, "z").await?;
    browser.until(&format!("{tracks}.join() === '1 Mix L,2 Mix R'")).await?;

    // One of its files at the Bench, as a choice of its own.
    let recorder = clip_of(&day, "S-002.wav").context("the recorder")?;
    let camera = clip_of(&day, "A002.mov").context("the camera")?;
    browser.driver.goto(site.url(&format!("/bench/{recorder}/against/{camera}"))).await?;
    browser
        .until("[...document.querySelectorAll('label')].some(e => e.innerText.startsWith('as sound'))")
        .await?;
    browser.choose("as sound", "resample").await?;
    browser
        .until("[...document.querySelectorAll('label')].find(e => e.innerText.startsWith('as sound')).querySelector('select').value === 'resample'")
        .await?;
    // On the Day sheet the picture says what lies under it.
    browser.driver.goto(site.url("/day")).await?;
    let slip = "[...document.querySelectorAll('[aria-label=Sheet] button[aria-pressed]')].find(b => b.innerText.includes('A002'))";
    browser.until(slip).await?;
    browser.script(&format!("{slip}.click()")).await?;
    browser
        .until("document.querySelector('[data-testid=sound-under]').innerText.includes('S-002.wav')")
        .await?;

    browser.driver.goto(site.url("/turnover/sound")).await?;
    browser.until(&format!("{ROWS}.filter(row => row.includes('resampled')).length === 2")).await?;
    browser.keys("w").await?;
    browser.until(&format!("{ROWS}.every(row => row.trim().endsWith('written'))")).await?;
    let view: Value = site.get("/api/sound").await?;
    let folder = view["folder"].as_str().context("a folder")?;
    for file in view["clips"].as_array().context("files")? {
        let path = std::path::Path::new(folder).join(file["report"]["path"].as_str().context("a path")?);
        let there = path.metadata()?.len();
        // Two tracks of three bytes a sample.
        let least = 6 * file["report"]["samples"].as_u64().context("a length")?;
        ensure!(there > least, "{}: {there} bytes for {least}", path.display());
    }
    browser.keys("g").await?;
    browser.until(&format!("{ROWS}.length > 0 && {ROWS}.every(row => !row.includes('written'))")).await?;
    Ok(())
}
