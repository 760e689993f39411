//! Cutting in the page: a live run as one step, dissolves that are seen, fades, black, markers, the wall in all its sizes.

use anyhow::{Context, Result, ensure};
use metaxis_e2e::{Browser, EAR, Site, at_prepared};
use serde_json::Value;
use thirtyfour::Key;

pub fn key(key: Key) -> String {
    key.value().to_string()
}

pub async fn open(site: &Site, browser: &Browser) -> Result<i64> {
    let id = site.day().await?["groups"][0]["id"].as_i64().context("a group")?;
    browser.driver.goto(site.url(&format!("/switch/{id}"))).await?;
    browser.until("document.querySelector('[data-testid=line-picture]')?.dataset.frame === '0'").await?;
    Ok(id)
}

pub async fn cuts(site: &Site, id: i64) -> Result<Vec<(i64, i64)>> {
    let view = site.get(&format!("/api/groups/{id}")).await?;
    let switches = view["line"]["switches"].as_array().context("switches")?.clone();
    let own = |own: &Value| Some((own["at"].as_i64()?, own["angle"].as_i64()?));
    switches.iter().map(|switch| own(switch).context("a switch")).collect()
}

/// Waits until play has come to a frame.
async fn reached(browser: &Browser, frame: i64) -> Result<()> {
    browser
        .until(&format!(
            "Number(document.querySelector('[data-testid=line-picture]').dataset.frame) >= {frame}"
        ))
        .await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_live_run_is_one_step_and_replaces_what_was_there() -> Result<()> {
    at_prepared(run_live).await
}

async fn run_live(site: &Site, browser: &Browser) -> Result<()> {
    let id = open(site, browser).await?;
    let angles: Vec<i64> = {
        let view = site.get(&format!("/api/groups/{id}")).await?;
        let all = view["group"]["angles"].as_array().context("angles")?.clone();
        all.iter().filter_map(|own| own["id"].as_i64()).collect()
    };
    // Something is there already: a cut in the middle of what is run over, and one far behind.
    for (frame, angle) in [(230, "2"), (550, "3")] {
        browser.seek_line(frame).await?;
        browser.keys(angle).await?;
        browser
            .until(&format!(
                "document.querySelector('[data-testid=line-picture]').dataset.angle === '{}'",
                angles[angle.parse::<usize>()? - 1]
            ))
            .await?;
    }
    let stretches = |count: usize| format!("document.body.innerText.includes('{count} stretches')");
    browser.until(&stretches(3)).await?;
    let before = cuts(site, id).await?;

    browser.seek_line(150).await?;
    browser.keys(" ").await?;
    reached(browser, 160).await?;
    browser.keys("3").await?;
    reached(browser, 190).await?;
    browser.keys("2").await?;
    reached(browser, 240).await?;
    browser.keys("1").await?;
    reached(browser, 260).await?;
    browser.keys(" ").await?;
    browser.until("[...document.querySelectorAll('button')].some((own) => own.innerText === 'Play')").await?;
    let stood = browser
        .script("return Number(document.querySelector('[data-testid=line-picture]').dataset.frame)")
        .await?;
    let stood = stood.as_i64().context("a frame")?;
    // Before the run all is as it was; the cut at 230 is gone; where it stood still, what was there goes on.
    browser.until(&stretches(6)).await?;
    let after = cuts(site, id).await?;
    let taken: Vec<i64> = after.iter().map(|(_, angle)| *angle).collect();
    ensure!(taken == [angles[0], angles[2], angles[1], angles[0], angles[1], angles[2]], "{after:?}");
    ensure!(
        (160..190).contains(&after[1].0) && after[4].0 == stood && after[5].0 == 550,
        "{after:?} {stood}"
    );
    ensure!(after.iter().all(|(at, _)| *at != 230), "{after:?}");

    // One switch at a time, and all of it at once, there and back.
    browser.keys("z").await?;
    browser.until(&format!("!{}", stretches(6))).await?;
    browser.keys_with(Key::Control, "z").await?;
    browser.until(&stretches(3)).await?;
    ensure!(cuts(site, id).await? == before);
    browser.keys_with(Key::Control, "Z").await?;
    browser.until(&stretches(6)).await?;
    ensure!(cuts(site, id).await? == after);

    // Whoever goes to another place while it runs ends the run there: what was there goes on.
    browser.seek_line(300).await?;
    browser.keys(" ").await?;
    reached(browser, 310).await?;
    browser.keys("4").await?;
    reached(browser, 330).await?;
    browser.script("document.querySelector('nav a[href=\"/groups\"]').click()").await?;
    browser.until_text("Coverage and angle order").await?;
    browser.driver.goto(site.url(&format!("/switch/{id}"))).await?;
    browser.until(&stretches(8)).await?;
    let left = cuts(site, id).await?;
    ensure!(left[5].1 == angles[3] && left[6].1 == angles[1] && left[6].0 < 550, "{left:?}");

    // So does whoever closes the page.
    browser.seek_line(400).await?;
    browser.keys(" ").await?;
    reached(browser, 410).await?;
    browser.keys("4").await?;
    reached(browser, 430).await?;
    browser.driver.goto("about:blank").await?;
    browser.driver.goto(site.url(&format!("/switch/{id}"))).await?;
    browser.until(&stretches(10)).await?;
    let closed = cuts(site, id).await?;
    ensure!(closed[7].1 == angles[3] && closed[8].1 == angles[1] && closed[8].0 < 550, "{closed:?}");
    Ok(())
}

/// The mean colour of a small field of a picture, at a place given in shares of it.
const FIELD: &str = "((c, x, y) => {
    const size = Math.max(2, Math.round(c.width / 40));
    const d = c.getContext('2d').getImageData(Math.round(x * c.width), Math.round(y * c.height), size, size).data;
    const sum = [0, 0, 0];
    for (let i = 0; i < d.length; i++) if (i % 4 < 3) sum[i % 4] += d[i] / (size * size);
    return sum;
  })";

#[tokio::test(flavor = "multi_thread")]
async fn dissolves_and_fades_are_seen() -> Result<()> {
    at_prepared(dissolve).await
}

async fn dissolve(site: &Site, browser: &Browser) -> Result<()> {
    let id = open(site, browser).await?;
    browser.seek_line(200).await?;
    browser.keys("2").await?;
    browser.until_text("2 stretches").await?;
    // Round and round the cut: it is the one that is moved, wherever the playhead is meanwhile.
    browser.keys("r").await?;
    browser.until_text("End the round").await?;
    // Frame 200 of a group that begins at 09:14:00:12.
    let begins = |frames: i64| {
        let label = format!("09:14:08:{:02}", 12 + frames);
        format!("document.querySelector('[data-testid=switch-log]').innerText.includes('{label}')")
    };
    for by in 1..=3 {
        browser.keys("f").await?;
        browser.until(&begins(by)).await?;
    }
    browser.keys("r").await?;
    browser.until_text("Round the cut").await?;
    for by in (0..3).rev() {
        browser.keys("e").await?;
        browser.until(&begins(by)).await?;
    }
    // Half a second from there on, unless another length is typed.
    browser.keys("d").await?;
    browser.until("document.querySelector('[data-dissolve=\"13\"]')").await?;
    let switch = async || {
        Ok::<_, anyhow::Error>(site.get(&format!("/api/groups/{id}")).await?["line"]["switches"][1].clone())
    };
    ensure!(switch().await?["dissolve"] == 13, "{}", switch().await?);
    // In its middle half of each.
    browser.seek_line(206).await?;
    let half = format!(
        "(() => {{ const field = {FIELD};
           const [large, one, two] = ['line-picture', 'angle-1', 'angle-2'].map((id) => {{
             const own = document.querySelector(`[data-testid=${{id}}]`);
             return own instanceof HTMLCanvasElement ? own : own.querySelector('canvas'); }});
           const places = Array.from({{ length: 40 }}, (_, i) => [0.06 + 0.11 * (i % 8), 0.08 + 0.15 * Math.floor(i / 8)]);
           const all = places.map(([x, y]) => [large, one, two].map((own) => field(own, x, y)));
           const mean = (of) => all.reduce((sum, own) => sum + of(own).reduce((a, b) => a + Math.abs(b), 0) / 3, 0) / all.length;
           const differ = mean(([, a, b]) => a.map((own, i) => own - b[i]));
           const off = mean(([mixed, a, b]) => mixed.map((own, i) => own - (a[i] + b[i]) / 2));
           return differ > 12 && off < differ / 5; }})()"
    );
    browser.until(&half).await?;
    browser.keys("d").await?;
    browser.until("!document.querySelector('[data-dissolve]')").await?;

    // Out of black at the head: a third of the way it is much darker than without, and typed again with nought it is not.
    let typed = |label: &str, frames: u32| {
        format!(
            "const own = [...document.querySelectorAll('label')].find((own) => own.innerText.trim() === '{label}').querySelector('input');
             own.focus(); Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(own, '{frames}');
             own.dispatchEvent(new Event('input', {{ bubbles: true }})); own.blur();"
        )
    };
    let light =
        format!("Math.max(...{FIELD}(document.querySelector('[data-testid=line-picture]'), 0.5, 0.5))");
    let lit = format!("{light} > 40");
    browser.seek_line(40).await?;
    browser.until(&lit).await?;
    browser.script(&format!("window.full = {light}")).await?;
    browser.script(&typed("Fade in", 120)).await?;
    browser.until_text("3 stretches").await?;
    browser.until(&format!("{light} < 0.5 * full && {light} > 0.2 * full")).await?;
    browser.script(&typed("Fade in", 0)).await?;
    browser.until_text("2 stretches").await?;
    browser.until(&format!("{light} > 0.98 * full")).await?;

    // Black for a stretch, by key.
    browser.keys("b").await?;
    browser
        .until("document.querySelector('[data-testid=line-picture]').ariaLabel === 'The line: black'")
        .await?;
    browser.until(&format!("!({lit})")).await?;
    browser.keys_with(Key::Control, "z").await?;
    browser.until(&lit).await
}

#[tokio::test(flavor = "multi_thread")]
async fn markers_are_put_noted_and_found_and_the_wall_changes_its_size() -> Result<()> {
    at_prepared(mark).await
}

async fn mark(site: &Site, browser: &Browser) -> Result<()> {
    let id = open(site, browser).await?;
    for (frame, note) in [(100, "hammer lands"), (300, "bell rings")] {
        browser.seek_line(frame).await?;
        browser.keys("m").await?;
        browser.until(&format!("document.querySelector('[data-marker=\"{frame}\"]')")).await?;
        browser.keys("M").await?;
        browser.until(&format!("document.activeElement.id === 'marker-{frame}'")).await?;
        browser.keys(format!("{note}{}", key(Key::Enter))).await?;
        browser.until(&format!("document.getElementById('marker-{frame}').value === '{note}' && document.activeElement.id === ''")).await?;
    }
    let at = |frame: i64| {
        format!("document.querySelector('[data-testid=line-picture]').dataset.frame === '{frame}'")
    };
    browser.seek_line(0).await?;
    browser.keys("n").await?;
    browser.until(&at(100)).await?;
    // A word is hunted for: only what has it is gone to.
    browser.keys("h").await?;
    browser.keys(format!("bell{}", key(Key::Enter))).await?;
    browser.until(&at(300)).await?;
    browser.keys("N").await?;
    browser.until(&at(300)).await?;
    browser.keys("m").await?;
    browser.until("!document.querySelector('[data-marker=\"300\"]')").await?;
    let kept = site.get(&format!("/api/groups/{id}")).await?;
    ensure!(kept["line"]["markers"].as_array().map(Vec::len) == Some(1), "{}", kept["line"]);

    // Half, all (no large picture), none (no small ones), and a row again.
    let (large, small) = (
        "document.querySelector('[data-testid=line-picture]')",
        "document.querySelector('[data-testid=angle-1]')",
    );
    let width = browser.script(&format!("return {small}.getBoundingClientRect().width")).await?;
    browser.keys("s").await?;
    browser.until(&format!("{small}.getBoundingClientRect().width !== {width}")).await?;
    browser.keys("s").await?;
    browser.until(&format!("!{large} && {small}.querySelector('canvas').width === 640")).await?;
    browser.keys("s").await?;
    browser.until(&format!("{large} && !{small}")).await?;
    browser.keys("s").await?;
    browser.until(&format!("{large} && {small}")).await?;
    // To where coverage changes, and the strip closer about it.
    browser.seek_line(0).await?;
    browser.keys("c").await?;
    browser.until(&format!("Number({large}.dataset.frame) > 0")).await?;
    let stretch = "parseFloat(document.querySelector('[data-stretch]').style.width)";
    let wide = browser.script(&format!("return {stretch}")).await?.as_f64().context("a width")?;
    browser.keys("+").await?;
    browser.until(&format!("{stretch} > {wide} * 1.3")).await
}

#[tokio::test(flavor = "multi_thread")]
async fn other_sound_is_taken_from_a_moment_on_and_heard() -> Result<()> {
    at_prepared(take_sound).await
}

async fn take_sound(site: &Site, browser: &Browser) -> Result<()> {
    let id = site.day().await?["groups"][0]["id"].as_i64().context("a group")?;
    // Of the grid nothing is heard: what is heard then is the camera's own.
    let grid = site.get(&format!("/api/groups/{id}/grid")).await?;
    for source in grid["sources"].as_array().context("sources")?.iter().filter(|own| own["camera"] == false) {
        let mute = serde_json::json!({ "do": "change", "change": { "do": "mute", "source": source["key"], "muted": true } });
        site.post(&format!("/api/groups/{id}/grid"), mute).await?;
    }
    // The ear is there before anything is connected: from Groups one comes to Switch without another page.
    browser.driver.goto(site.url(&format!("/groups/{id}"))).await?;
    browser.until_text("Coverage and angle order").await?;
    browser.script(EAR).await?;
    browser.keys(key(Key::Enter)).await?;
    browser.until("document.querySelector('[data-testid=line-picture]')?.dataset.frame === '0'").await?;
    browser.until_text("Keys switch: picture").await?;
    browser.seek_line(150).await?;
    browser.keys(" ").await?;
    browser.until("window.loud?.[0] < 0.0001").await?;
    browser.keys(" ").await?;
    browser.keys("w").await?;
    browser.until_text("Keys switch: sound").await?;
    browser.seek_line(200).await?;
    browser.keys("2").await?;
    browser.until("document.querySelector('[data-heard=\"200\"]')").await?;
    let line = site.get(&format!("/api/groups/{id}")).await?["line"].clone();
    ensure!(line["switches"].as_array().map(Vec::len) == Some(1), "the picture is as it was: {line}");
    ensure!(line["sound"]["switches"][1]["at"] == 200, "{line}");
    browser.keys(" ").await?;
    browser.until("window.loud[0] > 0.002").await?;
    browser.keys(" ").await?;
    // The grid's again from 400 on, by the key of nothing.
    browser.seek_line(400).await?;
    browser.keys("0").await?;
    browser.until("document.querySelectorAll('[aria-label=\"Sound switches\"] li').length === 3").await?;
    browser.seek_line(420).await?;
    browser.keys(" ").await?;
    browser.until("window.loud[0] < 0.0001").await?;
    browser.keys(" ").await?;
    // Both at once are one step.
    browser.keys("w").await?;
    browser.until_text("Keys switch: both").await?;
    browser.seek_line(500).await?;
    browser.keys("3").await?;
    browser.until("document.querySelector('[data-heard=\"500\"]')").await?;
    browser.until_text("2 stretches").await?;
    browser.keys_with(Key::Control, "z").await?;
    browser.until("!document.querySelector('[data-heard=\"500\"]')").await?;
    browser.until_text("no cuts yet").await
}
