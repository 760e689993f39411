//! Viewing LUTs in the page: chosen by keyboard and mouse, seen in the pictures.

use anyhow::{Context, Result, ensure};
use metaxis_e2e::{Browser, Site, at_prepared};
use serde_json::Value;

/// Colours of some pixels of the first small picture.
const PIXELS: &str = "(() => {
    const c = document.querySelector('[data-testid^=angle-] canvas');
    const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;
    return [0.2, 0.35, 0.5, 0.65, 0.8].map((y) => {
      const at = 4 * (Math.round(y * c.height) * c.width + Math.round(c.width * 0.5));
      return [d[at], d[at + 1], d[at + 2]];
    });
  })()";

fn colours(value: &Value) -> Option<Vec<[f32; 3]>> {
    let all = value.as_array()?.iter().map(|own| {
        let own: Vec<f32> =
            own.as_array()?.iter().filter_map(|own| Some(own.as_f64()? as f32 / 255.0)).collect();
        own.try_into().ok()
    });
    all.collect()
}

/// Chooses in the first list whose label ends so.
fn choose(label: &str, value: &str) -> String {
    format!(
        "const list = document.querySelector('[aria-label$=\"{label}\"]');
         Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, 'value').set.call(list, '{value}');
         list.dispatchEvent(new Event('change', {{ bubbles: true }}))"
    )
}

#[tokio::test(flavor = "multi_thread")]
async fn pictures_are_seen_through_what_was_chosen() -> Result<()> {
    at_prepared(seen).await
}

async fn seen(site: &Site, browser: &Browser) -> Result<()> {
    let day = site.day().await?;
    let id = day["groups"][0]["id"].as_i64().context("a group")?;
    browser.driver.goto(site.url(&format!("/switch/{id}"))).await?;
    browser.seek_line(200).await?;
    // A picture is there.
    browser.until(&format!("{PIXELS}.flat().some((own) => own > 40)")).await?;
    let before = colours(&browser.script(&format!("return {PIXELS}")).await?).context("colours")?;

    browser.keys("v").await?;
    browser.until_text("What pictures are seen through").await?;
    // How the others differ from the first is measured and said.
    browser.until("[...document.querySelectorAll('[data-differs]')].slice(1).every((own) => /brighter|darker|bright|warmer|cooler|never/.test(own.innerText))").await?;
    browser.script(&choose(" is seen through", "film-density")).await?;
    let key = "JSON.parse(await (await fetch('/api/day')).text()).devices.some((own) => own.lut === 'film-density')";
    browser
        .until(&format!("(() => {{ (async () => {{ window.kept = {key}; }})(); return window.kept; }})()"))
        .await?;
    browser.press("Done").await?;

    // Each colour is what the LUT makes of it, to the steps of eight bits and of what was drawn small.
    let lut = metaxis_core::lut::Neutral::FilmDensity;
    let expected: Vec<[f32; 3]> = before.iter().map(|own| lut.apply(*own)).collect();
    let as_text = serde_json::to_string(&expected)?;
    browser
        .until(&format!(
            "{PIXELS}.every((own, i) => own.every((value, j) => Math.abs(value / 255 - {as_text}[i][j]) < 0.03))"
        ))
        .await?;
    ensure!(before.iter().zip(&expected).any(|(a, b)| a.iter().zip(b).any(|(a, b)| (a - b).abs() > 0.1)));

    // This angle as recorded, whatever its device's are: as it was. Taken back with the groups' edits.
    browser.keys("v").await?;
    browser.until_text("What pictures are seen through").await?;
    browser.script(&choose(" is seen through, here", "nothing")).await?;
    browser.press("Done").await?;
    let was = serde_json::to_string(&before)?;
    browser
        .until(&format!(
            "{PIXELS}.every((own, i) => own.every((value, j) => Math.abs(value / 255 - {was}[i][j]) < 0.02))"
        ))
        .await?;

    // Small pictures of other places are seen so, too.
    browser.driver.goto(site.url("/intake")).await?;
    browser.until_text("A001.mov").await
}
