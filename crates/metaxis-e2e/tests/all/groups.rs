//! Groups as a person shapes them in the page, by keyboard: proposed, trimmed, split, made one, deleted, taken back.

use anyhow::{Context, Result, ensure};
use metaxis_e2e::{Browser, Site, at_prepared};
use serde_json::Value;
use thirtyfour::Key;

/// Names in the list of groups.
const NAMES: &str =
    "[...document.querySelectorAll('nav[aria-label=Groups] a')].map(a => a.firstChild.innerText)";
/// What stands beside a word of the group's facts.
const EXTENT: &str = "[...document.querySelectorAll('[aria-label=Group] dl > div')].find(row => row.innerText.startsWith('Extent')).innerText";

#[tokio::test(flavor = "multi_thread")]
async fn groups_are_shaped_with_the_keyboard_alone() -> Result<()> {
    at_prepared(shape).await
}

fn key(key: Key) -> String {
    key.value().to_string()
}

async fn frames(site: &Site, at: usize) -> Result<i64> {
    let pass: Value = site.get("/api/pass").await?;
    pass["groups"][at]["group"]["frames"].as_i64().context("frames")
}

async fn shape(site: &Site, browser: &Browser) -> Result<()> {
    site.day().await?;
    browser.driver.goto(site.url("/groups")).await?;
    let names = |expected: &str| format!("{NAMES}.join() === '{expected}'");
    browser.until(&names("1 / 1,2 / 1")).await?;
    let whole = frames(site, 0).await?;

    // Every edge can be reached; the head goes to the first of them, the tail to the last but one.
    browser.keys(&key(Key::Right)).await?;
    browser.until_text("begins").await?;
    browser.keys("i").await?;
    browser.until(&format!("{EXTENT}.includes('trimmed off')")).await?;
    let trimmed = frames(site, 0).await?;
    ensure!(trimmed < whole, "{trimmed} of {whole} frames");
    browser.keys("u").await?;
    browser.until(&format!("!{EXTENT}.includes('trimmed off')")).await?;
    ensure!(frames(site, 0).await? == whole, "untrimmed it is all of it");
    browser.keys_with(Key::Control, "z").await?;
    browser.until_text("Taken back: 1 / 1 untrimmed").await?;
    browser.keys_with(Key::Control, "z").await?;
    browser.until_text("Taken back: 1 / 1 trimmed").await?;

    // Split at the playhead, and one again.
    browser.keys(&key(Key::Right)).await?;
    browser.keys(&key(Key::Right)).await?;
    browser.keys("s").await?;
    browser.until(&names("1 / 1,1 / 1 (2),2 / 1")).await?;
    ensure!(frames(site, 0).await? + frames(site, 1).await? == whole, "no frame is lost");
    browser.keys("m").await?;
    browser.until(&names("1 / 1,2 / 1")).await?;
    ensure!(frames(site, 0).await? == whole, "made one it is all of it");

    // Both ticked and deleted; proposed again, and taken with one key.
    browser.keys("x").await?;
    browser.keys(&key(Key::Down)).await?;
    browser.until("document.querySelector('nav[aria-label=Groups] a[aria-current=true]').innerText.startsWith('2 / 1')").await?;
    browser.keys("x").await?;
    browser.until_text("Make 2 groups one").await?;
    browser.keys(&key(Key::Delete)).await?;
    browser.until_text("There are no groups.").await?;
    browser.keys_with(Key::Control, "z").await?;
    browser.until(&names("1 / 1,2 / 1")).await?;
    browser.keys("p").await?;
    browser.until_text("2 groups, 2 there already").await?;
    browser.keys(&key(Key::Escape)).await?;
    browser.until("!document.querySelector('[role=dialog]')").await?;
    browser.keys(&key(Key::Delete)).await?;
    browser.until(&format!("{NAMES}.length === 1")).await?;
    browser.keys("p").await?;
    browser.until("document.activeElement.innerText === 'Take all of them'").await?;
    browser.keys(&key(Key::Enter)).await?;
    browser.until(&names("1 / 1,2 / 1")).await?;
    Ok(())
}
