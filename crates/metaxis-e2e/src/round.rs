//! A round of doubt by keyboard alone.

use crate::{Browser, Site};
use anyhow::{Result, ensure};

/// Keys that a round took.
#[derive(Debug, Clone, Copy)]
pub struct Presses {
    /// Clips that needed eyes.
    pub doubts: usize,
    /// For deciding of them and going on.
    pub deciding: usize,
    /// Check points that were looped.
    pub points: usize,
    /// To declare the day checked, the name and its end not counted.
    pub declaring: usize,
}

/// Goes the round from the Day sheet to "checked": at each doubt its check points are looped, then what has a place is
/// found right there and the rest set aside; then the day is declared checked. No mouse.
///
/// # Errors
/// Where something does not answer its key.
pub async fn round_by_keyboard(site: &Site, browser: &Browser) -> Result<Presses> {
    let left = "Number.parseInt(document.querySelector('[data-testid=left]')?.innerText) || 0";
    browser.driver.goto(site.url("/day")).await?;
    browser.until("document.querySelectorAll('[data-testid=sheet] button').length > 3").await?;
    browser.keys("r").await?;
    browser.until("document.querySelector('[data-testid=left]')").await?;
    let doubts = browser.script(&format!("return {left}")).await?.as_u64().unwrap_or(0) as usize;
    let mut presses = Presses { doubts, deciding: 0, points: 0, declaring: 1 };
    for done in 0..doubts {
        // Decided for the clip that stands there, and not for the one before it.
        browser.until("document.querySelector('section[aria-label=Against]')").await?;
        let here = browser.script("return document.querySelector('[aria-current=true]')?.href ?? ''").await?;
        browser
            .until("!document.querySelector('section[aria-label=\"Check points\"]').innerText.includes('Looking')")
            .await?;
        let points = "[...document.querySelectorAll('section[aria-label=\"Check points\"] button b')]";
        let keys = browser.script(&format!("return {points}.map(b => b.innerText).join('')")).await?;
        for key in keys.as_str().unwrap_or_default().to_lowercase().chars() {
            browser.keys(key.to_string()).await?;
            browser
                .until("[...document.querySelectorAll('button')].some(b => b.innerText === 'Stand')")
                .await?;
            presses.points += 1;
        }
        let placed = "document.querySelector('section[aria-label=\"Places that would fit\"]').innerText";
        let has_place =
            browser.script(&format!("return {placed}.includes('as it was placed')")).await? == true;
        browser.keys(if has_place { "y" } else { "s" }).await?;
        presses.deciding += 1;
        browser.until(&format!("({left}) === {}", doubts - done - 1)).await?;
        if done + 1 < doubts {
            browser.until(&format!("document.querySelector('[aria-current=true]')?.href !== {here}")).await?;
        }
    }
    browser.keys("v").await?;
    browser.until("document.activeElement.ariaLabel === 'Checked by'").await?;
    browser.keys(format!("Ida Holm{}", thirtyfour::Key::Enter.value())).await?;
    browser.until_text("Checked by Ida Holm").await?;
    let checked = site.day().await?["checked"].clone();
    ensure!(checked["who"] == "Ida Holm" && checked["looked"] == doubts, "{checked}");
    Ok(presses)
}
