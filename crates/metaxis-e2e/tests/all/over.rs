//! What lies over the line, in the page: slow motion at the frames that its clip carries, blended ones, a look below.

use super::switch::{key, open};
use anyhow::{Context, Result, ensure};
use metaxis_e2e::{Browser, Site, at_prepared, read_large, read_numbers};
use serde_json::Value;
use thirtyfour::Key;

/// Types into a field or chooses in a list of the dialog, as React hears it.
async fn set(browser: &Browser, label: &str, value: &str) -> Result<()> {
    browser
        .script(&format!(
            "const own = [...document.querySelectorAll('[role=dialog] label')].find((own) => own.innerText.trim().startsWith('{label}')).querySelector('input, select');
             own.focus();
             Object.getOwnPropertyDescriptor(Object.getPrototypeOf(own), 'value').set.call(own, '{value}');
             own.dispatchEvent(new Event(own.tagName === 'SELECT' ? 'change' : 'input', {{ bubbles: true }})); own.blur();"
        ))
        .await?;
    Ok(())
}

/// The number in the large picture at a frame.
async fn number_at(browser: &Browser, frame: i64, expected: i64) -> Result<()> {
    browser.seek_line(frame).await?;
    browser.until(&format!("{} === {expected}", read_large())).await
}

#[tokio::test(flavor = "multi_thread")]
async fn slow_motion_lies_over_the_line_at_the_frames_that_its_clip_carries() -> Result<()> {
    at_prepared(slow_motion).await
}

async fn slow_motion(site: &Site, browser: &Browser) -> Result<()> {
    let id = open(site, browser).await?;
    let view = site.get(&format!("/api/groups/{id}")).await?;
    let angles = view["group"]["angles"].as_array().context("angles")?;
    let fast = angles
        .iter()
        .position(|own| own["parts"][0]["rate"]["num"] == 50)
        .context("an angle of 50 frames a second")?;
    browser.seek_line(200).await?;
    browser.until(&format!("{}[{fast}] > 0", read_numbers())).await?;
    let first = browser.script(&format!("return {}[{fast}]", read_numbers())).await?;
    let first = first.as_i64().context("a number")?;

    browser.keys("u").await?;
    browser.until_text("Lay over the line from").await?;
    set(browser, "Frames", "60").await?;
    set(browser, "Speed", "each").await?;
    browser.until_text("50 %").await?;
    let lay = "document.querySelector('[aria-label=\"Angles that run here\"]').children";
    browser.script(&format!("{lay}[{fast}].querySelector('button').click()")).await?;
    browser.until("document.querySelector('span[data-over=\"0\"]')").await?;
    // Each frame of the line has the clip's next: half as fast as it was, from the frame that was seen there.
    for after in [0, 1, 2, 30, 59] {
        number_at(browser, 200 + after, first + after).await?;
    }
    // Nothing of the line moved, and behind it the line is seen.
    let now = site.get(&format!("/api/groups/{id}")).await?["line"].clone();
    ensure!(now["switches"] == view["line"]["switches"], "{now}");
    ensure!(now["layers"][0]["frames"] == 60 && now["layers"][0]["at"] == 200, "{now}");
    browser.seek_line(260).await?;
    browser.until("document.querySelector('[data-testid=line-picture]').dataset.over === ''").await?;

    // Held: the line below it, and an angle in its place; nothing is taken.
    browser.seek_line(230).await?;
    let shows = |over: &str, angle: &Value| {
        format!(
            "(({{ over, angle }}) => over === '{over}' && angle === '{angle}')(document.querySelector('[data-testid=line-picture]').dataset)"
        )
    };
    browser.until(&shows("0", &angles[0]["id"])).await?;
    browser.driver.action_chain().key_down('y').perform().await?;
    browser.until(&shows("", &angles[0]["id"])).await?;
    browser.driver.action_chain().key_down('2').key_up('2').perform().await?;
    browser.until(&shows("", &angles[1]["id"])).await?;
    browser.driver.action_chain().key_up('y').perform().await?;
    browser.until(&shows("0", &angles[0]["id"])).await?;
    ensure!(site.get(&format!("/api/groups/{id}")).await?["line"] == now);

    // It plays: over the line from its first frame on, and the line goes on behind it.
    browser.seek_line(190).await?;
    browser
        .script(&format!(
            "const large = document.querySelector('[data-testid=line-picture]'); window.seen = [];
             const step = () => {{ const frame = Number(large.dataset.frame);
               if (large.dataset.over === '0' && seen.at(-1)?.frame !== frame) seen.push({{ frame, number: {} }});
               if (frame < 270) requestAnimationFrame(step); }};
             requestAnimationFrame(step);",
            read_large()
        ))
        .await?;
    browser.keys(" ").await?;
    browser
        .until("Number(document.querySelector('[data-testid=line-picture]').dataset.frame) >= 270")
        .await?;
    browser.keys(" ").await?;
    // However late a busy machine is, no frame is seen before its time, and they rise.
    let seen = browser.script("return window.seen").await?;
    let seen: Vec<(i64, i64)> = seen
        .as_array()
        .context("frames")?
        .iter()
        .filter_map(|own| Some((own["frame"].as_i64()?, own["number"].as_i64()?)))
        .filter(|(_, number)| *number > 0)
        .collect();
    ensure!(seen.len() > 10 && seen.iter().all(|(frame, number)| *number <= first + frame - 200), "{seen:?}");
    ensure!(seen.windows(2).all(|pair| pair[0].1 <= pair[1].1), "{seen:?}");

    // Taken away, and put back.
    browser.seek_line(230).await?;
    browser.script("document.querySelector('[aria-label^=\"Lift \"]').click()").await?;
    browser.until("!document.querySelector('span[data-over]')").await?;
    browser.keys_with(Key::Control, "z").await?;
    number_at(browser, 231, first + 31).await
}

#[tokio::test(flavor = "multi_thread")]
async fn blended_frames_are_what_lies_between_two() -> Result<()> {
    at_prepared(blended).await
}

async fn blended(site: &Site, browser: &Browser) -> Result<()> {
    let id = open(site, browser).await?;
    let view = site.get(&format!("/api/groups/{id}")).await?;
    let fast = view["group"]["angles"].as_array().context("angles")?.iter();
    let part = fast.map(|own| own["parts"][0].clone()).find(|part| part["rate"]["num"] == 50);
    let clip = part.context("an angle of 50 frames a second")?["clip"].clone();
    let lay = async |blended: bool, version: &Value| {
        let layer = serde_json::json!({
            "at": 100, "frames": 20, "clip": clip, "from": 80, "speed": { "num": 1, "den": 4 }, "blended": blended
        });
        let edit = serde_json::json!({ "version": version, "edit": { "do": "lay", "layer": layer } });
        site.post(&format!("/api/groups/{id}/line"), edit).await?;
        Ok::<_, anyhow::Error>(site.get(&format!("/api/groups/{id}")).await?["version"].clone())
    };
    // Its pictures change by halves of a frame: whole, two frames of the line show one; blended, three parts of four and one.
    let version = lay(false, &view["version"]).await?;
    browser.until("document.querySelector('span[data-over=\"0\"]')").await?;
    let pixels = "(() => { const c = document.querySelector('[data-testid=line-picture]');
        return Array.from(c.getContext('2d').getImageData(0, 0, c.width, c.height).data); })()";
    number_at(browser, 101, 80).await?;
    browser.script(&format!("window.one = {pixels}")).await?;
    number_at(browser, 102, 81).await?;
    browser.script(&format!("window.two = {pixels}")).await?;
    lay(true, &version).await?;
    browser.until("document.body.innerText.includes('Blended')").await?;
    browser.seek_line(101).await?;
    browser
        .until(&format!(
            "(() => {{ const now = {pixels}; let [all, off] = [0, 0];
               for (let i = 0; i < now.length; i++) {{
                 // What does not move is rounded, and says nothing.
                 if (Math.abs(one[i] - two[i]) < 40) continue;
                 all += Math.abs(one[i] - two[i]); off += Math.abs(now[i] - (0.75 * one[i] + 0.25 * two[i])); }}
               return all > 1000 && off < all / 8; }})()"
        ))
        .await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_clip_of_another_time_is_laid_between_in_and_out_point_by_keyboard() -> Result<()> {
    at_prepared(lay_by_keys).await
}

async fn lay_by_keys(site: &Site, browser: &Browser) -> Result<()> {
    let id = open(site, browser).await?;
    browser.seek_line(300).await?;
    browser.keys("i").await?;
    browser.until("document.querySelector('[data-testid=span]')").await?;
    browser.seek_line(339).await?;
    browser.keys("o").await?;
    browser.keys("u").await?;
    browser.until_text("Lay over the line from").await?;
    browser.until("document.activeElement.tagName === 'INPUT'").await?;
    browser.keys("from its head").await?;
    browser
        .until("document.querySelectorAll('[aria-label=\"Angles that run here\"] li').length === 0")
        .await?;
    browser.keys(key(Key::Enter)).await?;
    browser.until("document.querySelector('span[data-over=\"0\"]')").await?;
    let line = site.get(&format!("/api/groups/{id}")).await?["line"].clone();
    let own = &line["layers"][0];
    ensure!(own["at"] == 300 && own["frames"] == 40 && own["from"] == 0, "{line}");
    // A later frame of its own, and longer than the clip has pictures: as long as they last.
    browser.seek_line(310).await?;
    browser
        .script(
            "const own = [...document.querySelectorAll('[aria-label=Layers] label')].find((own) => own.innerText.trim() === 'For').querySelector('input');
             own.focus(); Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(own, '100000');
             own.dispatchEvent(new Event('input', { bubbles: true })); own.blur();",
        )
        .await?;
    browser.until("Number(document.querySelector('[aria-label=Layers] input').value) > 40").await?;
    let longer = site.get(&format!("/api/groups/{id}")).await?["line"]["layers"][0].clone();
    ensure!(longer["frames"].as_i64().is_some_and(|own| (41..=325).contains(&own)), "{longer}");

    // What cannot lie there is refused with its name, and nothing is changed.
    let version = site.get(&format!("/api/groups/{id}")).await?["version"].clone();
    let day = site.day().await?;
    let recorder =
        day["clips"].as_array().context("clips")?.iter().find(|own| own["facts"]["picture"].is_null());
    let wrong = serde_json::json!({ "version": version, "edit": { "do": "lay", "layer": {
        "at": 0, "frames": 5, "clip": recorder.context("a recorder")?["id"], "from": 0, "speed": { "num": 1, "den": 1 } } } });
    let refused = site.post(&format!("/api/groups/{id}/line"), wrong).await;
    ensure!(refused.is_err_and(|e| e.to_string().contains("422")));
    ensure!(site.get(&format!("/api/groups/{id}")).await?["version"] == version);
    Ok(())
}
