//! Mending a line by keyboard and pointer: slips, passages out and black, cuts that are dragged, the sound's cuts.

use super::switch::{cuts, key, open};
use anyhow::{Result, ensure};
use metaxis_e2e::{Browser, Site, at_prepared};
use thirtyfour::Key;

async fn until_cuts(site: &Site, browser: &Browser, id: i64, wanted: &[i64]) -> Result<()> {
    // The log is drawn once the edit is kept.
    let labels: Vec<String> = wanted
        .iter()
        .map(|at| {
            let all = 12 + at;
            format!("09:14:{:02}:{:02}", all / 25, all % 25)
        })
        .collect();
    let said = serde_json::to_string(&labels)?;
    let log = "document.querySelector('[data-testid=switch-log]')";
    let count = wanted.len();
    browser
        .until(&format!(
            "{log}.querySelectorAll('li').length === {count} && {said}.every((own) => {log}.innerText.includes(own))"
        ))
        .await?;
    let now: Vec<i64> = cuts(site, id).await?.into_iter().map(|(at, _)| at).collect();
    ensure!(now == wanted, "{now:?}, wanted {wanted:?}");
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_line_is_mended_by_keyboard_and_by_pointer() -> Result<()> {
    at_prepared(mend).await
}

async fn mend(site: &Site, browser: &Browser) -> Result<()> {
    let id = open(site, browser).await?;
    for (frame, angle) in [(100, "2"), (200, "3"), (400, "1")] {
        browser.seek_line(frame).await?;
        browser.keys(angle).await?;
    }
    until_cuts(site, browser, id, &[0, 100, 200, 400]).await?;

    // Slipped: both cuts of the stretch, and no further than its neighbours.
    browser.seek_line(250).await?;
    browser.keys_with(Key::Alt, &key(Key::Right)).await?;
    until_cuts(site, browser, id, &[0, 100, 201, 401]).await?;
    browser.keys_with(Key::Alt, &key(Key::Left)).await?;
    until_cuts(site, browser, id, &[0, 100, 200, 400]).await?;

    // A cut is dragged to where the pointer lets it go.
    let strip = "document.querySelector('[aria-label=\"Place in the group\"]')";
    browser
        .script(&format!(
            "const s = {strip}, b = s.getBoundingClientRect();
             const at = (type, frame, buttons) => s.dispatchEvent(new PointerEvent(type, {{ bubbles: true, buttons, pointerId: 1,
               clientX: b.left + b.width * frame / (Number(s.ariaValueMax) + 1), clientY: b.top + 18 }}));
             window.pointed = at; at('pointerdown', 200, 1);"
        ))
        .await?;
    browser.script("pointed('pointermove', 300, 1)").await?;
    browser.until("document.querySelector('[data-testid=line-picture]').dataset.frame === '300'").await?;
    browser.script("pointed('pointerup', 300, 0)").await?;
    until_cuts(site, browser, id, &[0, 100, 300, 400]).await?;
    browser.keys_with(Key::Control, "z").await?;
    until_cuts(site, browser, id, &[0, 100, 200, 400]).await?;

    // The angle under the pointer is shown alone where it runs.
    let over = |kind: &str| {
        format!(
            "document.querySelector('[data-testid=angle-3]').dispatchEvent(new PointerEvent('{kind}', {{ bubbles: true }}))"
        )
    };
    browser.until("document.querySelector('[data-running]').dataset.running === '4'").await?;
    browser.script(&over("pointerover")).await?;
    browser.until("document.querySelector('[data-running]').dataset.running === '1'").await?;
    browser.script(&over("pointerout")).await?;
    browser.until("document.querySelector('[data-running]').dataset.running === '4'").await?;

    // Black from in to out is one step, and what was there goes on behind it.
    browser.seek_line(150).await?;
    browser.keys("i").await?;
    browser.seek_line(249).await?;
    browser.keys("o").await?;
    browser.keys("X").await?;
    until_cuts(site, browser, id, &[0, 100, 150, 250, 400]).await?;
    let angles: Vec<i64> = cuts(site, id).await?.into_iter().map(|(_, angle)| angle).collect();
    ensure!(angles[2] == 0 && angles[3] != 0, "{angles:?}");
    browser.keys_with(Key::Control, "z").await?;
    until_cuts(site, browser, id, &[0, 100, 200, 400]).await?;

    // In the last stretch, too, and where cuts are in between.
    browser.seek_line(350).await?;
    browser.keys("i").await?;
    browser.seek_line(499).await?;
    browser.keys("o").await?;
    browser.keys("X").await?;
    until_cuts(site, browser, id, &[0, 100, 200, 350, 500]).await?;
    browser.keys_with(Key::Control, "z").await?;
    until_cuts(site, browser, id, &[0, 100, 200, 400]).await?;

    // Taken out through picture and sound, what follows follows at once.
    browser.seek_line(150).await?;
    browser.keys("i").await?;
    browser.seek_line(249).await?;
    browser.keys("o").await?;
    browser.keys("x").await?;
    until_cuts(site, browser, id, &[0, 100, 150, 300]).await?;
    let frames = site.get(&format!("/api/groups/{id}")).await?["group"]["frames"].as_i64();
    ensure!(frames == Some(525), "{frames:?}");
    browser.until("!document.querySelector('[data-testid=span]')").await?;
    browser.until("document.querySelector('[data-testid=line-picture]').dataset.frame === '150'").await?;

    // A frame before the cut goes, then one behind it: what follows comes a frame earlier each time.
    browser.keys_with(Key::Alt, "e").await?;
    until_cuts(site, browser, id, &[0, 100, 149, 299]).await?;
    browser.until("document.querySelector('[data-testid=line-picture]').dataset.frame === '149'").await?;
    browser.keys_with(Key::Alt, "f").await?;
    until_cuts(site, browser, id, &[0, 100, 149, 298]).await?;
    let frames = site.get(&format!("/api/groups/{id}")).await?["group"]["frames"].as_i64();
    ensure!(frames == Some(523), "{frames:?}");
    // The key that takes back a cut takes that back, too, and does it again.
    browser.keys_with(Key::Control, "z").await?;
    until_cuts(site, browser, id, &[0, 100, 149, 299]).await?;
    browser.keys_with(Key::Control, &format!("{}Z", key(Key::Shift))).await?;
    until_cuts(site, browser, id, &[0, 100, 149, 298]).await?;

    // The same keys mend what is heard where that alone is switched.
    browser.keys("w").await?;
    browser.until_text("Keys switch: sound").await?;
    browser.seek_line(350).await?;
    browser.keys("2").await?;
    browser.until("document.querySelector('[data-heard=\"350\"]')").await?;
    browser.keys("ff").await?;
    browser.until("document.querySelector('[data-heard=\"352\"]')").await?;
    browser.keys("d").await?;
    browser.until("document.querySelector('[aria-label=\"Sound switches\"] input').value === '13'").await?;
    until_cuts(site, browser, id, &[0, 100, 149, 298]).await?;
    browser.keys(key(Key::Delete)).await?;
    browser.until("!document.querySelector('[data-heard]')").await?;
    Ok(())
}
