//! A piece taken out of all angles by keyboard: pictures and sound run on where it was, and it comes back.

use anyhow::{Context, Result, ensure};
use metaxis_e2e::{Browser, Site, at_prepared, expected_numbers, read_numbers};
use thirtyfour::Key;

#[tokio::test(flavor = "multi_thread")]
async fn a_piece_is_taken_out_by_keyboard_and_closed() -> Result<()> {
    at_prepared(take_out).await
}

async fn take_out(site: &Site, browser: &Browser) -> Result<()> {
    let id = site.day().await?["groups"][0]["id"].as_i64().context("a group")?;
    let view = async || site.get(&format!("/api/groups/{id}")).await;
    let before = view().await?;
    let frames = before["group"]["frames"].as_i64().context("frames")?;
    // Where all angles run: from the edge before it, thirty frames on.
    browser.driver.goto(site.url(&format!("/groups/{id}"))).await?;
    browser.until_text("Coverage and angle order").await?;
    browser.keys("g").await?;
    browser.keys("r").await?;
    browser.until_text("Take out 0:00.00 to here").await?;
    for _ in 0..30 {
        browser.keys_with(Key::Shift, Key::Right.value().to_string().as_str()).await?;
    }
    browser.until_text("Take out 0:01.20 to here").await?;
    browser.keys("r").await?;
    browser.until("document.querySelectorAll('[data-seam]').length >= 5").await?;
    browser.until_text("a piece is taken out here").await?;
    browser.until_text("0:01.20 taken out").await?;
    let after = view().await?;
    let at = after["group"]["seams"][0]["at"].as_i64().context("a seam")?;
    ensure!(after["group"]["frames"] == frames - 30 && after["group"]["seams"][0]["frames"] == 30, "{after}");

    // In Switch every picture at the seam and behind it is the one of thirty frames later.
    browser.driver.goto(site.url(&format!("/switch/{id}"))).await?;
    for (frame, was) in [(at, at + 30), (at + 5, at + 35)] {
        browser.seek_line(frame).await?;
        let expected = serde_json::to_string(&expected_numbers(site, &before, was).await?)?;
        browser.until(&format!("JSON.stringify({}) === '{expected}'", read_numbers())).await?;
    }

    // Put back at the seam.
    browser.driver.goto(site.url(&format!("/groups/{id}"))).await?;
    browser.until_text("0:01.20 taken out").await?;
    browser.keys("g").await?;
    browser.until_text("Put 0:01.20 back").await?;
    browser.keys_with(Key::Shift, "r").await?;
    browser.until("document.querySelectorAll('[data-seam]').length === 0").await?;
    ensure!(view().await?["group"] == before["group"]);
    Ok(())
}
