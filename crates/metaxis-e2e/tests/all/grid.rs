//! The sound of a group in the page: its grid set by keyboard, heard at once, the same where it is cut.

use anyhow::{Context, Result, ensure};
use metaxis_e2e::{Browser, EAR, Site, at_prepared};
use serde_json::{Value, json};
use thirtyfour::Key;

fn key(key: Key) -> String {
    key.value().to_string()
}

/// Waits until what has the focus is called so.
async fn at(browser: &Browser, words: &str) -> Result<()> {
    browser.until(&format!("document.activeElement.ariaLabel === '{words}'")).await
}

/// Waits until what is heard is so; what came to its end meanwhile is played again.
async fn hears(browser: &Browser, condition: &str) -> Result<()> {
    let stands = "return document.getElementById('sound-grid-play').innerText.startsWith('Play')";
    if browser.script(stands).await? == true {
        browser.keys(" ").await?;
    }
    browser.until(condition).await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_sound_grid_is_set_by_keyboard_and_heard_at_once() -> Result<()> {
    at_prepared(set).await
}

async fn set(site: &Site, browser: &Browser) -> Result<()> {
    let id = site.day().await?["groups"][0]["id"].as_i64().context("a group")?;
    let grid = async || site.get(&format!("/api/groups/{id}/grid")).await;
    browser.driver.goto(site.url(&format!("/groups/{id}"))).await?;
    browser.until_text("As the recorders mixed it").await?;
    browser.script(EAR).await?;

    // From what the recorder mixed down to the first camera, which goes to the left: softer, inverted.
    browser.keys("e").await?;
    at(browser, "Recorder Mix L to Master L: 0 dB").await?;
    for _ in 0..2 {
        browser.keys(key(Key::Down)).await?;
    }
    browser.until("document.activeElement.ariaLabel.endsWith(' to Master L: not there')").await?;
    let camera = browser.script("return document.activeElement.ariaLabel.split(' to ')[0]").await?;
    let camera = camera.as_str().context("a name")?.to_owned();
    browser.keys(key(Key::Enter)).await?;
    at(browser, &format!("{camera} to Master L: 0 dB")).await?;
    for level in ["−1", "−2"] {
        browser.keys("-").await?;
        at(browser, &format!("{camera} to Master L: {level} dB")).await?;
    }
    browser.keys("v").await?;
    at(browser, &format!("{camera} to Master L: −2 dB, inverted")).await?;
    let factor = |grid: &Value| grid["factors"][0][2].as_f64().context("a factor");
    ensure!((factor(&grid().await?)? + 0.794).abs() < 1e-3, "{}", grid().await?);
    browser.until_text("This group’s own.").await?;
    // Undone like everything that is done to groups.
    for _ in 0..4 {
        browser.keys_with(Key::Control, "z").await?;
    }
    at(browser, &format!("{camera} to Master L: not there")).await?;
    browser.until_text("As the recorders mixed it").await?;

    // Played from the grid: both sides; one side silent as soon as its track is muted; one track alone on both.
    browser.keys(" ").await?;
    browser.until("window.loud?.[0] > 0.002 && window.loud[1] > 0.002").await?;
    browser.until("document.querySelector('[aria-label=\"Playhead\"]').innerText !== '' && [...document.querySelectorAll('[role=grid] thead span span')].some(bar => bar.style.transform > 'scaleX(0.1')").await?;
    for _ in 0..2 {
        browser.keys(key(Key::Up)).await?;
    }
    at(browser, "Recorder Mix L to Master L: 0 dB").await?;
    browser.keys("m").await?;
    hears(browser, "window.loud[0] < 0.0001 && window.loud[1] > 0.002").await?;
    browser.keys("m").await?;
    hears(browser, "window.loud[0] > 0.002").await?;
    for _ in 0..2 {
        browser.keys(key(Key::Down)).await?;
    }
    browser.keys("a").await?;
    hears(browser, "window.loud[0] > 0.0005 && Math.abs(window.loud[0] - window.loud[1]) < 0.0001").await?;
    browser.keys("a").await?;
    browser.keys(" ").await?;
    browser.until("document.getElementById('sound-grid-play').innerText === 'Play'").await?;

    // Kept for all groups, the next one has it.
    let add = json!({ "do": "change", "change": { "do": "add_output" } });
    site.post(&format!("/api/groups/{id}/grid"), add).await?;
    browser.until("[...document.querySelectorAll('[role=grid] th')].some(head => head.innerText.startsWith('Output 3'))").await?;
    browser.press("Keep as…").await?;
    browser.until("document.activeElement.ariaLabel === 'Name under which the grid is kept'").await?;
    browser.keys(format!("Interview{}", key(Key::Enter))).await?;
    browser.until("[...document.querySelectorAll('option')].some(own => own.innerText === 'As Interview (all groups)')").await?;
    let second = site.day().await?["groups"][1]["id"].as_i64().context("a group")?;
    browser.driver.goto(site.url(&format!("/switch/{second}"))).await?;
    browser.until_text("Sound: Mix L, Mix R on Master L, Master R, Output 3").await?;
    browser.keys("g").await?;
    browser.until_text("“Interview”, as all groups that have none of their own.").await?;
    browser.until("document.activeElement.dataset.at === '0 0'").await?;
    browser.keys(key(Key::Escape)).await?;
    browser.until("!document.querySelector('[role=dialog]')").await?;
    // One track alone by key, and all by the grid again.
    browser.keys("t").await?;
    browser.until_text("Sound: Mix L alone").await?;
    browser.keys("T").await?;
    browser.until_text("Sound: Mix L, Mix R on").await
}
