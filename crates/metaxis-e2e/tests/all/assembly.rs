//! An assembly put together and played by keyboard.

use super::switch::key;
use anyhow::{Context, Result, ensure};
use metaxis_e2e::{Browser, EAR, Site, at_prepared};
use serde_json::Value;
use thirtyfour::Key;

#[tokio::test(flavor = "multi_thread")]
async fn lines_are_assembled_by_keyboard_and_play_on_into_each_other() -> Result<()> {
    at_prepared(assemble).await
}

async fn names(browser: &Browser, wanted: &[&str]) -> Result<()> {
    let said = serde_json::to_string(wanted)?;
    browser
        .until(&format!(
            "JSON.stringify([...document.querySelectorAll('[data-testid=parts] li span:nth-child(3)')].map((own) => own.innerText)) === '{said}'"
        ))
        .await
}

async fn assemble(site: &Site, browser: &Browser) -> Result<()> {
    browser.driver.goto(site.url("/turnover")).await?;
    browser.until_text("The whole day").await?;
    browser.script(EAR).await?;
    browser.keys("a").await?;
    browser.press("One of all lines").await?;
    names(browser, &["1 / 1", "2 / 1"]).await?;
    let all = async || -> Result<Value> { site.get("/api/assemblies/1").await };

    // The second goes before the first, and back; a gap in between.
    browser.keys(key(Key::Down)).await?;
    browser
        .until(
            "document.querySelector('[data-testid=parts] [aria-current=true]').innerText.includes('2 / 1')",
        )
        .await?;
    browser.keys_with(Key::Alt, &key(Key::Up)).await?;
    names(browser, &["2 / 1", "1 / 1"]).await?;
    browser.keys_with(Key::Control, "z").await?;
    names(browser, &["1 / 1", "2 / 1"]).await?;
    browser.keys("g").await?;
    names(browser, &["1 / 1", "gap", "2 / 1"]).await?;

    // The first ends where the playhead is: 40 frames in.
    browser.keys(key(Key::Up)).await?;
    browser
        .until(
            "document.querySelector('[data-testid=parts] [aria-current=true]').innerText.includes('1 / 1')",
        )
        .await?;
    let shows = |frame: u32| {
        format!("document.querySelector('[data-testid=assembly-picture]')?.dataset.frame === '{frame}'")
    };
    browser.until(&shows(0)).await?;
    for at in 1..=4 {
        browser.keys_with(Key::Shift, &key(Key::Right)).await?;
        browser.until(&shows(10 * at)).await?;
    }
    browser.keys("o").await?;
    browser.until("document.querySelector('[data-testid=parts] li').innerText.includes('1:16')").await?;
    ensure!(all().await?["assembly"]["parts"][0]["range"] == serde_json::json!([0, 41]));

    // It plays on through the gap into the other line, without another key.
    browser.keys(" ").await?;
    let current = |name: &str| {
        format!(
            "document.querySelector('[data-testid=parts] [aria-current=true]').innerText.includes('{name}')"
        )
    };
    browser.until(&current("gap")).await?;
    browser.until(&current("2 / 1")).await?;
    browser
        .until("Number(document.querySelector('[data-testid=assembly-picture]').dataset.frame) > 20")
        .await?;
    browser.keys(" ").await?;
    // 41 frames, 25 of nothing, and more than 20: from an hour on.
    browser
        .until("document.querySelector('[data-testid=assembly-timecode]').innerText >= '01:00:03:11'")
        .await?;

    // A clip behind it that is heard itself, as slow as it goes.
    browser.until("window.loud?.every((side) => side === 0)").await?;
    browser.keys("u").await?;
    browser.choose("Sound", "own").await?;
    browser.keys("C001").await?;
    browser.keys(key(Key::Enter)).await?;
    names(browser, &["1 / 1", "gap", "2 / 1", "C001.mp4"]).await?;
    browser.until(&current("C001.mp4")).await?;
    ensure!(all().await?["assembly"]["parts"][3]["layer"]["own_sound"] == true);
    browser.keys(" ").await?;
    browser.until("window.loud?.every((side) => side > 0.001)").await?;
    browser.until_text("Play").await?;

    // All of it as a film, of which the queue is told.
    browser.keys("f").await?;
    browser.until_text("Make 1 assembly").await?;
    browser.driver.back().await?;
    browser.until(&current("1 / 1")).await?;
    browser.keys(key(Key::Down)).await?;
    browser.keys(key(Key::Down)).await?;
    browser.until(&current("2 / 1")).await?;

    // Enter goes to where its line is cut.
    browser.keys(key(Key::Enter)).await?;
    let second = site.day().await?["groups"][1]["id"].as_i64().context("a group")?;
    browser.until(&format!("location.pathname === '/switch/{second}'")).await
}
