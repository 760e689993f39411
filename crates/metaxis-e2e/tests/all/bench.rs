//! The Bench as a person uses it: slates marked without the mouse.

use anyhow::{Result, ensure};
use metaxis_e2e::{Browser, Site, at_prepared};
use serde_json::{Value, json};
use thirtyfour::Key;

/// The take that is open shows a picture, and claps of its sound where it has any.
const READY: &str = "(document.querySelector('section[aria-label=Slate] canvas[aria-label^=Frame]')?.width > 100) \
    && document.querySelector('[data-testid=at]').innerText.includes('frame')";
const AT: &str = "document.querySelector('[data-testid=at]').innerText";
const MARKS: &str = "document.querySelector('[data-testid=marks]').innerText";

async fn frame(browser: &Browser) -> Result<i64> {
    let text = browser.script(&format!("return {AT}")).await?;
    let number = text.as_str().unwrap_or_default().rsplit("frame ").next().unwrap_or_default();
    Ok(number.trim().parse()?)
}

fn marked(day: &Value) -> usize {
    let clips = day["clips"].as_array().map_or(&[][..], Vec::as_slice);
    clips.iter().filter(|clip| !clip["marks"][0]["picture_us"].is_null()).count()
}

#[tokio::test(flavor = "multi_thread")]
async fn takes_are_marked_one_after_the_other_by_keyboard() -> Result<()> {
    at_prepared(mark_takes).await
}

/// The slate log says another take than the recorder's own iXML: that is said where the slate is marked.
#[tokio::test(flavor = "multi_thread")]
async fn a_clash_of_slates_is_said_where_they_are_marked() -> Result<()> {
    at_prepared(async |site, browser| {
    let log = json!({ "do": "take_log", "log": { "name": "day.csv", "log": site.log("Scene;Take;Sound file\n7;2;S-001\n").await? } });
    reqwest::Client::new().post(site.url("/api/intake/edits")).json(&log).send().await?.error_for_status()?;
    let day = site.day().await?;
    let clips = day["clips"].as_array().map_or(&[][..], Vec::as_slice);
    let id_of =
        |name: &str| clips.iter().find(|clip| clip["file_name"] == name).map(|clip| clip["id"].clone());
    let (clashing, other) = (id_of("S-001.wav").unwrap_or_default(), id_of("S-002.wav").unwrap_or_default());
        browser.driver.goto(site.url(&format!("/bench/{clashing}"))).await?;
        let said = "document.querySelector('section[aria-label=Slate]').innerText";
        browser.until(&format!("{said}.includes('the slate log says scene 7, take 2 (line 2), its own iXML says scene 1, take 1')")).await?;
        browser.driver.goto(site.url(&format!("/bench/{other}"))).await?;
        browser.until(&format!("{said}.includes('S-002.wav')")).await?;
        browser.until(&format!("!{said}.includes('slate log says')")).await
    })
    .await
}

async fn mark_takes(site: &Site, browser: &Browser) -> Result<()> {
    browser.driver.goto(site.url("/bench")).await?;
    for take in 1..=3 {
        browser.until_text(&format!("{take} of 9 takes")).await?;
        browser.until(READY).await?;
        if take == 1 {
            // It opens at the likeliest clap; a step is one frame, with shift ten.
            browser.until_text("rises").await?;
            let open = frame(browser).await?;
            browser.keys(Key::Right.value().to_string()).await?;
            browser.until(&format!("{AT}.endsWith('frame {}')", open + 1)).await?;
            browser.keys_with(Key::Shift, &Key::Left.value().to_string()).await?;
            browser.until(&format!("{AT}.endsWith('frame {}')", open - 9)).await?;
            browser.keys("b").await?;
            browser.until(&format!("{MARKS}.includes('sticks close')")).await?;
            browser.keys("x").await?;
            browser.until_text("Nothing marked yet.").await?;
        }
        browser.keys("m").await?;
        browser.until(&format!("{MARKS}.includes('sticks close')")).await?;
        browser.keys("n").await?;
    }
    browser.until_text("3 marked").await?;
    ensure!(marked(&site.day().await?) == 3);

    // Where a picture has its own sound, its peak shows how far away it stood.
    browser.keys("e").await?;
    browser.until_text("3 of 9 takes").await?;
    browser.until(READY).await?;
    browser.keys("p").await?;
    browser.until(&format!("{MARKS}.includes('after it is seen')")).await?;
    browser.keys_with(Key::Control, "z").await?;
    browser.until(&format!("!{MARKS}.includes('after it is seen')")).await?;

    // A second clap of the same take is a mark of its own; taking off takes that one.
    // However fast the keys come, no step is lost while the picture follows.
    let open = frame(browser).await?;
    for _ in 0..6 {
        browser.keys_with(Key::Shift, &Key::Right.value().to_string()).await?;
    }
    browser.until(&format!("{AT}.endsWith('frame {}')", open + 60)).await?;
    browser.keys("m").await?;
    browser.until("document.querySelectorAll('[data-testid=marks] button').length === 2").await?;
    browser.keys("x").await?;
    browser.until("document.querySelectorAll('[data-testid=marks] button').length === 1").await?;
    browser.script("document.querySelector('[data-testid=marks] button').click()").await?;

    // Where the sound has a clap, the frame in which it seems to strike is one key away.
    browser.keys("e").await?;
    browser.until_text("2 of 9 takes").await?;
    browser.until(READY).await?;
    browser.keys("c").await?;
    browser.until("document.querySelector('[data-testid=seen]') !== null").await?;
    browser.keys("n").await?;
    browser.until_text("3 of 9 takes").await?;
    browser.until(READY).await?;

    // The timecode on a slate is typed; one that cannot be is refused in a sentence.
    browser.keys("t").await?;
    browser.keys(format!("09:14:02:99{}", Key::Enter.value())).await?;
    browser.until_text("the most at this rate is").await?;
    browser.keys("t").await?;
    browser.keys_with(Key::Control, "a").await?;
    browser.keys(format!("09:14:02:03{}", Key::Enter.value())).await?;
    browser
        .until("document.querySelector('input[placeholder=\"09:14:02:05\"]').defaultValue === '09:14:02:03'")
        .await?;
    Ok(())
}
