//! The Day sheet by hand: closer and farther, clips chosen together, a clip dragged and looked for where it was put.

use anyhow::{Context, Result, ensure};
use metaxis_e2e::{Browser, Site, at_prepared, clip_of, start_of};
use serde_json::{Value, json};
use thirtyfour::{By, Key};

/// Names of the clips that are chosen on the sheet and in its tray, in order.
const CHOSEN: &str = "[...document.querySelectorAll('[aria-label=Sheet] button[aria-pressed=true]')]\
    .map((slip) => slip.innerText.match(/[A-Z]-?[0-9]+/)?.[0]).sort().join(' ')";

fn slip(name: &str) -> String {
    format!(
        "[...document.querySelectorAll('[aria-label=Sheet] button[aria-pressed]')].find(b => b.innerText.includes('{name}'))"
    )
}

#[tokio::test(flavor = "multi_thread")]
async fn the_sheet_goes_closer_and_the_chosen_clip_stays_where_it_is() -> Result<()> {
    at_prepared(zoom).await
}

async fn zoom(site: &Site, browser: &Browser) -> Result<()> {
    browser.driver.goto(site.url("/day")).await?;
    let slip = slip("B001");
    browser.until(&slip).await?;
    browser.script(&format!("{slip}.click()")).await?;
    let of = async |what: &str| -> Result<f64> {
        browser.script(&format!("return {what}")).await?.as_f64().context("a number")
    };
    let top = format!("{slip}.getBoundingClientRect().top");
    let tall = format!("{slip}.getBoundingClientRect().height");
    let (was, height) = (of(&top).await?, of(&tall).await?);
    for _ in 0..5 {
        browser.keys("+").await?;
    }
    browser.until(&format!("{tall} > {}", 4.0 * height)).await?;
    let now = of(&top).await?;
    ensure!((now - was).abs() < 24.0, "it stood at {was} and stands at {now}");
    // The window on the ribbon is smaller than the day, and with all of the day in sight it is all of it.
    let window = "document.querySelector('[data-testid=window]').getBoundingClientRect().height";
    browser.until(&format!("{window} < 500")).await?;
    browser.keys("w").await?;
    let sheet = "document.querySelector('[data-testid=sheet]')";
    browser.until(&format!("{sheet}.scrollHeight <= {sheet}.clientHeight + 1")).await?;
    // What is too short to be told apart is still counted, and its doubts have their names.
    let shown = "document.querySelector('[data-testid=sheet]').innerText";
    browser.until(&format!("{shown}.length > 20")).await
}

#[tokio::test(flavor = "multi_thread")]
async fn clips_are_chosen_together_and_placed_anew() -> Result<()> {
    at_prepared(choose).await
}

async fn choose(site: &Site, browser: &Browser) -> Result<()> {
    let before = site.day().await?;
    browser.driver.goto(site.url("/day")).await?;
    browser.until(&slip("A001")).await?;
    browser.script(&format!("{}.click()", slip("A001"))).await?;
    browser.until(&format!("{CHOSEN} === 'A001'")).await?;
    // All of its device, by key; with ctrl one more.
    browser.keys("d").await?;
    browser.until(&format!("{CHOSEN} === 'A001 A002 A003'")).await?;
    browser
        .script(&format!(
            "{}.dispatchEvent(new MouseEvent('click', {{ bubbles: true, ctrlKey: true }}))",
            slip("C001")
        ))
        .await?;
    browser.until(&format!("{CHOSEN} === 'A001 A002 A003 C001'")).await?;
    browser.until_text("4 clips chosen").await?;
    // What is chosen by its verdict is what the foot counts.
    let unplaced = before["counts"]["unplaced"].as_u64().context("a count")?;
    browser.script("[...document.querySelectorAll('footer button')].find(b => b.innerText.endsWith(' solid')).click()").await?;
    let solid = before["counts"]["solid"].as_u64().context("a count")?;
    browser.until_text(&format!("{solid} clips chosen")).await?;
    browser.keys("a").await?;
    let all = before["placements"].as_array().map_or(0, Vec::len) as u64;
    browser
        .until(&format!(
            "document.querySelectorAll('[aria-label=Sheet] button[aria-pressed=true]').length >= {}",
            all - unplaced - 1
        ))
        .await?;
    browser.keys(Key::Escape.value().to_string()).await?;
    browser.until(&format!("{CHOSEN} === ''")).await?;
    // What is not well with the day is said in one glance, with its clips to choose.
    browser.until_text("1 picture has no place.").await?;
    // From the first on with shift, and those alone are placed anew; nothing else moves.
    browser.keys(Key::Down.value().to_string()).await?;
    browser.keys_with(Key::Shift, &Key::Down.value().to_string()).await?;
    browser.until_text("2 clips chosen").await?;
    browser.keys("p").await?;
    let after = site.until_day(|day| day["pass"]["number"] == 2).await?;
    ensure!(after["pass"]["name"] == "2 clips", "{}", after["pass"]);
    for placed in before["placements"].as_array().context("placements")? {
        let clip = placed["clip"].as_i64().context("a clip")?;
        let [was, now] = [start_of(&before, clip), start_of(&after, clip)];
        let same = was.zip(now).map_or(was == now, |(was, now)| (was - now).abs() < 1e-3);
        ensure!(same, "clip {clip} lay at {was:?} and lies at {now:?}");
    }
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_clip_is_dragged_and_found_near_there() -> Result<()> {
    at_prepared(drag).await
}

async fn drag(site: &Site, browser: &Browser) -> Result<()> {
    let before = site.day().await?;
    let clip = clip_of(&before, "B001.mov").context("the clip")?;
    let truth_s = start_of(&before, clip).context("its place")?;
    browser.driver.goto(site.url("/day")).await?;
    browser.until(&slip("B001")).await?;
    // Near enough that a few pixels are a few seconds.
    browser.script(&format!("{}.click()", slip("B001"))).await?;
    let held =
        browser.driver.find(By::XPath("//*[@aria-label='Sheet']//button[@aria-pressed='true']")).await?;
    browser
        .driver
        .action_chain()
        .click_and_hold_element(&held)
        .move_by_offset(4, 30)
        .move_by_offset(0, 8)
        .release()
        .perform()
        .await?;
    browser.until("document.querySelector('[data-testid=rough]')").await?;
    browser.until_text("Look near it, or lay it there.").await?;
    // Put back with escape, nothing has happened; moved by keys it is put somewhere again.
    browser.keys(Key::Escape.value().to_string()).await?;
    browser.until("!document.querySelector('[data-testid=rough]')").await?;
    ensure!(site.day().await?["pass"]["number"] == 1, "a drag alone moves nothing");
    browser.script(&format!("{}.click()", slip("B001"))).await?;
    for _ in 0..3 {
        browser.keys_with(Key::Alt, &Key::Down.value().to_string()).await?;
    }
    browser.until("document.querySelector('[data-testid=rough]')").await?;
    // Laid there it is by hand, and not where it belongs.
    browser.keys_with(Key::Shift, "l").await?;
    let laid = site.until_day(|day| day["pass"]["number"] == 2).await?;
    let wrong_s = start_of(&laid, clip).context("its place")?;
    ensure!(wrong_s - truth_s > 0.5, "laid at {wrong_s}, it belongs at {truth_s}");
    ensure!(laid["counts"]["by_hand"] == 1, "{}", laid["counts"]);
    // Dragged back by about as much, what is found near there is its place.
    browser.until_text("By hand").await?;
    for _ in 0..2 {
        browser.keys_with(Key::Alt, &Key::Up.value().to_string()).await?;
    }
    browser.until("document.querySelector('[data-testid=rough]')").await?;
    browser.keys("l").await?;
    let near = |now: Option<f64>| now.is_some_and(|now| (now - truth_s).abs() < 0.002);
    let found = site.until_day(|day| near(start_of(day, clip))).await?;
    ensure!(near(start_of(&found, clip)), "it belongs at {truth_s} and lies at {:?}", start_of(&found, clip));
    browser.until("!document.querySelector('[data-testid=rough]')").await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_clip_without_a_place_is_dragged_out_of_its_tray_and_folding_is_kept() -> Result<()> {
    at_prepared(from_the_tray).await
}

async fn from_the_tray(site: &Site, browser: &Browser) -> Result<()> {
    let clip = clip_of(&site.day().await?, "A003.mov").context("a clip without a place")?;
    browser.driver.goto(site.url("/day")).await?;
    let tray = "//section[@aria-label='Clips without a place']//button[contains(., 'A003')]";
    browser.until(&slip("A003")).await?;
    let held = browser.driver.find(By::XPath(tray)).await?;
    let onto = browser.driver.action_chain().click_and_hold_element(&held).move_by_offset(0, -120);
    onto.move_by_offset(0, -160).release().perform().await?;
    browser.until("document.querySelector('[data-testid=rough]')").await?;
    browser.keys_with(Key::Shift, "l").await?;
    let laid = site.until_day(|day| day["pass"]["number"] == 2).await?;
    ensure!(start_of(&laid, clip).is_some() && laid["counts"]["by_hand"] == 1, "{}", laid["counts"]);
    browser.until("!document.querySelector('[aria-label=\"Clips without a place\"]')").await?;
    // Folding is a choice that outlasts the visit.
    let fold = "[...document.querySelectorAll('footer label')].find(l => l.innerText === 'Fold').control";
    browser.until(&format!("{fold}.checked")).await?;
    browser.keys("f").await?;
    browser.until(&format!("!{fold}.checked")).await?;
    browser.driver.refresh().await?;
    browser.until(&format!("document.querySelector('footer label') && !{fold}.checked")).await
}

#[tokio::test(flavor = "multi_thread")]
async fn takes_stand_under_the_track_they_were_made_to() -> Result<()> {
    at_prepared(under_the_track).await
}

async fn under_the_track(site: &Site, browser: &Browser) -> Result<()> {
    let track = clip_of(&site.day().await?, "S-001.wav").context("a track")?;
    let part = json!({ "do": "part", "clips": [track], "part": "playback" });
    site.post("/api/intake/edits", part).await?;
    let plan = json!({ "mode": "playback", "effort": "normal", "clips": null, "near": null });
    site.post("/api/passes", json!({ "reference": null, "plan": plan })).await?;
    let day = site.until_day(|day| day["pass"]["number"] == 2).await?;
    ensure!(day["pass"]["origin"] == track, "{}", day["pass"]);
    browser.driver.goto(site.url("/day")).await?;
    let rows = "[...document.querySelectorAll('section[aria-label=\"Track S-001\"] button')]";
    browser.until(&format!("{rows}.some(row => row.innerText.includes('A001'))")).await?;
    browser.until(&format!("{rows}.some(row => row.innerText.includes('B001'))")).await?;
    // What each was made to is drawn where it lies on the track.
    let drawn = format!("{rows}.every(row => row.querySelector('path')?.getBoundingClientRect().width > 20)");
    browser.until(&drawn).await?;
    // Stepped through as they stand.
    browser.keys(Key::Down.value().to_string()).await?;
    browser.until(&format!("{rows}[0].ariaPressed === 'true'")).await?;
    browser.keys_with(Key::Shift, &Key::Down.value().to_string()).await?;
    browser.until(&format!("{rows}[1].ariaPressed === 'true'")).await?;
    browser.until_text("2 clips chosen").await
}

#[tokio::test(flavor = "multi_thread")]
async fn each_shoot_day_is_a_sheet_of_its_own() -> Result<()> {
    at_prepared(two_days).await
}

async fn two_days(site: &Site, browser: &Browser) -> Result<()> {
    let day = site.day().await?;
    let ids = |second: bool| -> Vec<i64> {
        let clips = day["clips"].as_array().into_iter().flatten();
        let is_second = |clip: &Value| {
            ["A002.mov", "B002.mov", "C002.mp4", "S-002.wav"]
                .contains(&clip["file_name"].as_str().unwrap_or_default())
        };
        clips.filter(|clip| is_second(clip) == second).filter_map(|clip| clip["id"].as_i64()).collect()
    };
    for (name, clips) in [("Day 1", ids(false)), ("Day 2", ids(true))] {
        site.post("/api/intake/edits", json!({ "do": "day", "clips": clips, "day": name })).await?;
    }
    browser.driver.goto(site.url("/day")).await?;
    let days = "[...document.querySelectorAll('nav[aria-label=\"Shoot days\"] button')]";
    browser.until(&format!("{days}.length === 3 && {days}[0].ariaPressed === 'true'")).await?;
    browser.until(&format!("{} && !{}", slip("A001"), slip("A002"))).await?;
    browser.keys("g").await?;
    browser.until(&format!("{} && !{}", slip("A002"), slip("A001"))).await?;
    browser.press("Sync the day").await?;
    let after = site.until_day(|day| day["pass"]["number"] == 2).await?;
    ensure!(after["pass"]["name"] == "Day 2", "{}", after["pass"]);
    // The other day lies where it lay.
    for clip in ids(false) {
        ensure!(start_of(&after, clip) == start_of(&day, clip), "clip {clip}");
    }
    browser.keys("g").await?;
    browser.until(&format!("{} && {}", slip("A002"), slip("A001"))).await?;
    browser.until_text("Sync all days").await
}
