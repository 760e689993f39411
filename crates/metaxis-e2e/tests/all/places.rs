//! Each place as a person uses it: names, parts, order, themes, refusals, two open pages.

use anyhow::{Context, Result, ensure};
use metaxis_e2e::{Browser, at_prepared};
use serde_json::{Value, json};
use thirtyfour::{By, Key};

/// Text of the table's rows, top to bottom.
const ROWS: &str = "[...document.querySelectorAll('[data-testid=clip-rows] [role=row]')]\
    .sort((a, b) => a.ariaRowIndex - b.ariaRowIndex).map((row) => row.innerText.replaceAll('\\n', ' '))";

async fn type_over(browser: &Browser, label: &str, text: &str) -> Result<()> {
    let field = browser.driver.find(By::Css(format!("input[aria-label=\"{label}\"]"))).await?;
    field.click().await?;
    browser.keys_with(Key::Control, "a").await?;
    browser.keys(format!("{text}{}", Key::Enter.value())).await
}

#[tokio::test(flavor = "multi_thread")]
async fn intake_names_devices_and_changes_clips_in_bulk() -> Result<()> {
    at_prepared(async |site, browser| {
        browser.driver.goto(site.url("/intake")).await?;
        browser.until(&format!("{ROWS}.length === 9")).await?;
        // A device is named where it stands.
        type_over(browser, "Name of device C", "Crane").await?;
        browser.until("document.querySelector('input[aria-label=\"Name of device C\"]').value === 'Crane'").await?;
        let day = site.day().await?;
        ensure!(day["devices"][2]["name"] == "Crane", "{}", day["devices"]);

        // Sorted by length, longest first.
        browser.press("Length").await?;
        browser.press("Length ↑").await?;
        let first = browser.script(&format!("return {ROWS}[0]")).await?;
        ensure!(first.as_str().is_some_and(|row| row.contains("S-001.wav")), "{first}");
        browser.press("Length ↓").await?;

        // Three clips by keyboard, out of the sync in one go.
        browser.driver.find(By::Css("[data-testid=clip-rows]")).await?.focus().await?;
        browser.script("document.querySelector('[data-testid=clip-rows] [role=row]').click()").await?;
        browser.driver.find(By::Css("[data-testid=clip-rows]")).await?.focus().await?;
        for _ in 0..2 {
            browser.keys_with(Key::Shift, &Key::Down.value().to_string()).await?;
        }
        browser.until_text("3 chosen").await?;
        browser.press("Part…").await?;
        browser.until("[...document.querySelectorAll('[role=menuitem]')].some((e) => e.innerText === 'no sync')").await?;
        browser.script("[...document.querySelectorAll('[role=menuitem]')].find((e) => e.innerText === 'no sync').click()").await?;
        browser.until(&format!("{ROWS}.filter((row) => row.includes('no sync')).length === 3")).await?;

        // A folder that may not be read is refused in a sentence, on the page.
        type_over(browser, "Path of a folder", "/etc").await?;
        browser.until_text("/etc is outside the folders that media may come from").await?;
        Ok(())
    })
    .await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_device_and_one_of_its_clips_are_given_their_distances() -> Result<()> {
    at_prepared(async |site, browser| {
        let gallery = async || -> Result<(Value, Value)> {
            let day = site.day().await?;
            let clips = day["clips"].as_array().context("clips")?;
            let clip = clips.iter().find(|clip| clip["file_name"] == "C001.mp4").context("the clip")?;
            Ok((day["devices"][2]["distance_m"].clone(), clip["distance_m"].clone()))
        };
        browser.driver.goto(site.url("/intake")).await?;
        browser.until(&format!("{ROWS}.length === 9")).await?;
        // A recorder has no picture that could be early.
        browser.until("!document.querySelector('[aria-label=\"Distance of Recorder\\'s microphone\"]')").await?;
        let device = "Distance of Gallery's microphone";
        type_over(browser, device, "far").await?;
        browser.until_text("A distance is typed in metres").await?;
        type_over(browser, device, "20,5 m").await?;
        browser.until(&format!("document.querySelector(`[aria-label=\"{device}\"]`).value === '20.5 m'")).await?;
        ensure!(gallery().await? == (json!(20.5), Value::Null));

        // The chosen clips, from the menu.
        browser.script("[...document.querySelectorAll('[data-testid=clip-rows] [role=row]')].find((row) => row.innerText.includes('C001')).click()").await?;
        browser.press("More…").await?;
        let item = "[...document.querySelectorAll('[role=menuitem]')].find((e) => e.innerText.startsWith('distance'))";
        browser.until(&format!("!!{item}")).await?;
        browser.script(&format!("{item}.click()")).await?;
        type_over(browser, "Metres; empty: as their device", "35").await?;
        browser.until("!document.querySelector('[aria-label=\"Metres; empty: as their device\"]')").await?;
        ensure!(gallery().await? == (json!(20.5), json!(35.0)));

        // The Day sheet says that it is to come, and after a pass that it is so.
        browser.driver.goto(site.url("/day")).await?;
        let choose = "[...document.querySelectorAll('[data-testid=sheet] button')].find((b) => b.innerText.includes('C001'))";
        browser.until(&format!("!!{choose}")).await?;
        browser.script(&format!("{choose}.click()")).await?;
        browser.until_text("It counts at the next pass.").await?;
        browser.press("Sync the day").await?;
        browser.until_text("Its microphone is 35.0 m away: it lies 102 ms later than it hears.").await?;
        browser.until("!document.body.innerText.includes('It counts at the next pass.')").await?;
        let own = "Distance of the microphone of C001.mp4";
        type_over(browser, own, "0").await?;
        browser.until_text("It counts at the next pass.").await?;
        ensure!(gallery().await?.1 == json!(0.0));
        type_over(browser, own, &Key::Delete.value().to_string()).await?;
        browser.until(&format!("document.querySelector('[aria-label=\"{own}\"]').placeholder === '20.5 m as C'")).await?;
        browser.until(&format!("document.querySelector('[aria-label=\"{own}\"]').value === ''")).await?;
        ensure!(gallery().await?.1 == Value::Null);
        Ok(())
    })
    .await
}

#[tokio::test(flavor = "multi_thread")]
async fn the_day_sheet_says_why_and_goes_back_to_an_earlier_pass() -> Result<()> {
    at_prepared(async |site, browser| {
        browser.driver.goto(site.url("/day")).await?;
        browser.until("document.querySelectorAll('[data-testid=sheet] button').length >= 7").await?;
        browser.script("[...document.querySelectorAll('[data-testid=sheet] button')].find((b) => b.innerText.includes('C001')).click()").await?;
        for text in ["Solid", "Sound matches S-001", "ppm", "In group 1 / 1"] {
            browser.until_text(text).await?;
        }
        // A silent clip says that it is silent, and what places it.
        browser.script("[...document.querySelectorAll('[data-testid=sheet] button')].find((b) => b.innerText.includes('B002')).click()").await?;
        browser.until_text("It has no sound to match: placed by its audio timecode").await?;
        // Another reference, another pass; then back to the first.
        let floor = site.day().await?["devices"][0]["id"].clone();
        browser
            .driver
            .find(By::XPath("//label[contains(., 'Reference')]//select"))
            .await?
            .find(By::Css(format!("option[value='{floor}']")))
            .await?
            .click()
            .await?;
        browser.press("Sync the day").await?;
        browser.until_text("Pass 2").await?;
        let day = site.day().await?;
        ensure!(day["pass"]["reference"] == floor, "{}", day["pass"]);
        let first = day["passes"][0]["id"].clone();
        browser
            .driver
            .find(By::XPath("//label[contains(., 'Show pass')]//select"))
            .await?
            .find(By::Css(format!("option[value='{first}']")))
            .await?
            .click()
            .await?;
        browser.until("document.querySelector('header').innerText.includes('Pass 1')").await?;
        ensure!(site.day().await?["pass"]["number"] == 1);
        Ok(())
    })
    .await
}

/// What a pass changed since another stands in the margin and on the slips, with where they were.
#[tokio::test(flavor = "multi_thread")]
async fn passes_are_compared_on_the_sheet() -> Result<()> {
    at_prepared(async |site, browser| {
        browser.driver.goto(site.url("/day")).await?;
        browser.until_text("solid").await?;
        let day = site.day().await?;
        let all = day["clips"].as_array().context("clips")?;
        let clip = all.iter().find(|clip| clip["file_name"] == "B001.mov").context("a clip")?;
        let there = day["placements"]
            .as_array()
            .and_then(|all| all.iter().find(|placed| placed["clip"] == clip["id"]))
            .and_then(|placed| placed["placement"]["stretches"][0]["start_s"].as_f64())
            .context("a place")?;
        let start_us = ((there + 3.0) * 1e6).round() as i64;
        let answer = reqwest::Client::new()
            .post(site.url("/api/placements/hand"))
            .json(&json!({ "clip": clip["id"], "start_us": start_us }))
            .send()
            .await?;
        ensure!(answer.status().is_success(), "{answer:?}");
        browser.until_text("Changed since pass").await?;
        browser.until_text("moved +3.000 s").await?;
        browser.until_text("solid → by hand").await?;
        // On the slip, and its former place as an outline.
        let slip = "[...document.querySelectorAll('[data-testid=sheet] button')].find((b) => b.innerText.includes('B001'))";
        browser.until(&format!("{slip}?.innerText.includes('moved +3.000 s')")).await?;
        browser.until("document.querySelectorAll('[data-testid=sheet] span.border-dashed').length === 1").await?;
        // Back at the first pass, the other one is compared.
        let passes = site.day().await?["passes"].clone();
        let shown = reqwest::Client::new().post(site.url(&format!("/api/passes/{}/show", passes[0]["id"])));
        ensure!(shown.json(&json!({})).send().await?.status().is_success());
        browser.until_text("moved −3.000 s").await?;
        Ok(())
    })
    .await
}

#[tokio::test(flavor = "multi_thread")]
async fn groups_are_named_and_ordered_and_keys_follow() -> Result<()> {
    at_prepared(async |site, browser| {
        browser.driver.goto(site.url("/groups")).await?;
        browser.until_text("Coverage and angle order").await?;
        type_over(browser, "Name of the group", "The pour").await?;
        browser.until("document.querySelector('nav[aria-label=Groups]').innerText.includes('The pour')").await?;
        browser.press("Move Gallery up").await?;
        // Taken back and made again by keyboard.
        let third = "[...document.querySelectorAll('section ol > li')][1].innerText.includes('Gallery')";
        browser.until(third).await?;
        browser.keys_with(Key::Control, "z").await?;
        browser.until_text("Taken back: order of angles").await?;
        browser.until(&format!("!{third}")).await?;
        browser.press("Redo").await?;
        browser.until(third).await?;
        browser.until("document.querySelector('section ol').innerText.replaceAll('\\n', ' ').startsWith('1 A Floor ↑ ↓ A001 2 C Gallery')").await?;
        browser.press("Cut this group").await?;
        browser.until("document.querySelector('[data-testid=line-picture]')?.dataset.frame === '0'").await?;
        browser.seek_line(50).await?;
        browser.until("document.querySelectorAll('[data-testid^=angle-]')[1].innerText.includes('Gallery')").await?;
        browser.keys("2").await?;
        browser.until("document.querySelector('[data-testid=switch-log]').innerText.includes('Gallery')").await?;
        // A newer pass has what was given; who still looks at the old group is told, and led on.
        let client = reqwest::Client::new();
        let pass = json!({ "reference": null });
        client.post(site.url("/api/passes")).json(&pass).send().await?.error_for_status()?;
        site.until_idle().await?;
        browser.until_text("This group is of an earlier pass").await?;
        browser.script("[...document.querySelectorAll('[role=status] a')].find(a => a.innerText === 'The pour').click()").await?;
        browser.until("!document.body.innerText.includes('of an earlier pass')").await?;
        browser.until("document.querySelector('[data-testid=switch-log]').innerText.includes('Gallery')").await?;
        Ok(())
    })
    .await
}

#[tokio::test(flavor = "multi_thread")]
async fn two_pages_agree_and_a_stale_edit_is_not_lost_in_silence() -> Result<()> {
    at_prepared(async |site, browser| {
        let day = site.day().await?;
        let group = &day["groups"][0];
        let (id, angles) = (group["id"].as_i64().context("a group")?, &group["group"]["angles"]);
        browser.driver.goto(site.url(&format!("/switch/{id}"))).await?;
        browser.until("document.querySelector('[data-testid=line-picture]')?.dataset.frame === '0'").await?;
        // Another page (here: the API) cuts; this one shows it without being asked.
        let edit = json!({ "version": 0, "edit": { "do": "take", "at": 200, "angle": angles[2]["device"] } });
        let url = site.url(&format!("/api/groups/{id}/line"));
        let client = reqwest::Client::new();
        let made: Value = client.post(&url).json(&edit).send().await?.json().await?;
        ensure!(made["version"] == 1, "{made}");
        browser.until("document.querySelectorAll('[data-testid=switch-log] li').length === 2").await?;
        // And cuts on from there, on the newest version.
        browser.seek_line(300).await?;
        browser.keys("2").await?;
        browser.until("document.querySelectorAll('[data-testid=switch-log] li').length === 3").await?;
        ensure!(client.post(&url).json(&edit).send().await?.status() == 409);
        Ok(())
    })
    .await
}

#[tokio::test(flavor = "multi_thread")]
async fn standing_still_shows_the_exact_frame_of_every_angle() -> Result<()> {
    at_prepared(async |site, browser| {
        let id = site.day().await?["groups"][0]["id"].as_i64().context("a group")?;
        browser.driver.goto(site.url(&format!("/switch/{id}"))).await?;
        browser.until("document.querySelector('[data-testid=line-picture]')?.dataset.frame === '0'").await?;
        let numbers = metaxis_e2e::read_numbers();
        // The same frames forwards, backwards and by the arrow keys, and the same pictures each time.
        let mut seen = vec![];
        for frame in [100, 400, 101, 100] {
            browser.seek_line(frame).await?;
            let view = site.get(&format!("/api/groups/{id}")).await?;
            let expected = metaxis_e2e::expected_numbers(site, &view, frame).await?;
            browser
                .until(&format!("JSON.stringify({numbers}) === '{}'", serde_json::to_string(&expected)?))
                .await?;
            seen.push(expected);
        }
        browser.keys(Key::Right.value().to_string()).await?;
        browser.until("document.querySelector('[data-testid=line-picture]').dataset.frame === '101'").await?;
        browser
            .until(&format!("JSON.stringify({numbers}) === '{}'", serde_json::to_string(&seen[2])?))
            .await?;
        ensure!(seen[0] == seen[3] && seen[0] != seen[1]);
        Ok(())
    })
    .await
}

#[tokio::test(flavor = "multi_thread")]
async fn keys_are_listed_and_the_room_can_be_dark() -> Result<()> {
    at_prepared(async |site, browser| {
        for (path, word) in [
            ("/intake", "choose several"),
            ("/day", "next doubt"),
            ("/switch", "a frame earlier, further"),
            ("/turnover", "save the document"),
        ] {
            browser.driver.goto(site.url(path)).await?;
            browser.until("document.querySelector('header')").await?;
            browser.keys("?").await?;
            browser.until_text("Keys here").await?;
            browser.until_text(word).await?;
            browser.keys(Key::Escape.value().to_string()).await?;
            browser.until("!document.body.innerText.includes('Keys here')").await?;
        }
        // What is drawn follows at once.
        browser.driver.goto(site.url("/day")).await?;
        const INK: &str = "(() => { const own = document.querySelector('canvas[aria-label^=\"The whole day\"]'); \
            const all = own?.getContext('2d').getImageData(0, 0, own.width, own.height).data ?? []; \
            const at = all.findIndex((value, i) => i % 4 === 3 && value === 255); \
            return at < 0 ? '' : [...all.slice(at - 3, at)].join() })()";
        browser.until(INK).await?;
        let bright = browser.script(&format!("return {INK}")).await?;
        browser.press("Dim").await?;
        browser.until("document.documentElement.dataset.theme === 'dim'").await?;
        browser.until(&format!("{INK} && {INK} !== {bright}")).await?;
        browser.driver.refresh().await?;
        browser.until("document.documentElement.dataset.theme === 'dim'").await?;
        browser.until_text("Bright").await?;
        Ok(())
    })
    .await
}

#[tokio::test(flavor = "multi_thread")]
async fn an_angle_that_does_not_run_is_asked_about_first() -> Result<()> {
    at_prepared(async |site, browser| {
        let group = site.day().await?["groups"][0].clone();
        let frames = group["group"]["frames"].as_i64().context("frames")?;
        let angles = group["group"]["angles"].as_array().context("angles")?.clone();
        let runs = |angle: &Value, at: i64| {
            let part = |part: &Value| {
                part["from_frame"].as_i64() <= Some(at) && Some(at) < part["to_frame"].as_i64()
            };
            angle["parts"].as_array().is_some_and(|parts| parts.iter().any(part))
        };
        let line = site.get(&format!("/api/groups/{}", group["id"])).await?["line"].clone();
        let shown = line["switches"][0]["angle"].clone();
        let still = |at| angles.iter().position(|angle| angle["device"] != shown && !runs(angle, at));
        // Where another one does run.
        let (number, at) = (0..frames)
            .filter(|at| angles.iter().any(|angle| runs(angle, *at)))
            .find_map(|at| Some((still(at)? + 1, at)))
            .context("an angle that does not run all the time")?;
        browser.driver.goto(site.url(&format!("/switch/{}", group["id"]))).await?;
        browser.until("document.querySelector('[data-testid=line-picture]')?.dataset.frame >= 0").await?;
        browser.seek_line(at).await?;
        let cuts = "document.querySelectorAll('[data-testid=switch-log] li').length";
        let before = browser.script(&format!("return {cuts}")).await?;
        browser.keys(number.to_string()).await?;
        browser.until_text("does not run here").await?;
        ensure!(browser.script(&format!("return {cuts}")).await? == before, "it was recorded");
        // Somewhere else the question is gone; asked twice, it is taken.
        browser.keys(Key::Right.value().to_string()).await?;
        browser.until("!document.querySelector('[data-testid=asked]')").await?;
        browser.keys(Key::Left.value().to_string()).await?;
        browser.keys(number.to_string()).await?;
        browser.until_text("does not run here").await?;
        browser.keys(number.to_string()).await?;
        let device = angles[number - 1]["device"].to_string();
        browser
            .until(&format!("document.querySelector('[data-testid=angle-{number}]').ariaPressed === 'true'"))
            .await?;
        browser.until("!document.querySelector('[data-testid=asked]')").await?;
        let line = site.get(&format!("/api/groups/{}", group["id"])).await?;
        ensure!(line["line"]["switches"].to_string().contains(&format!("\"angle\":{device}")), "{line}");
        Ok(())
    })
    .await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_clip_is_looked_for_again_from_the_day_sheet() -> Result<()> {
    at_prepared(async |site, browser| {
        browser.driver.goto(site.url("/day")).await?;
        browser.until_text(" solid · ").await?;
        let slip = "[...document.querySelectorAll('[data-testid=sheet] button')].find(b => b.innerText.includes('C001'))";
        browser.script(&format!("{slip}.click()")).await?;
        browser.until("document.querySelector('#near-at') !== null").await?;
        // A time that is none is not looked for.
        let at = browser.driver.find(By::Css("#near-at")).await?;
        let right = at.value().await?.context("a time")?;
        at.click().await?;
        browser.keys_with(Key::Control, "a").await?;
        browser.keys("noon").await?;
        browser.until_text("Write the time of day as").await?;
        browser.until("[...document.querySelectorAll('button')].find(b => b.innerText === 'Look near').disabled").await?;
        // The right one, by keyboard: enter looks.
        browser.keys_with(Key::Control, "a").await?;
        browser.keys(format!("{right}{}", Key::Enter.value())).await?;
        browser.until_text("Looked for within 5.0 s").await?;
        let day = site.day().await?;
        ensure!(day["pass"]["number"] == 2, "{}", day["pass"]);

        // With deep effort: a third pass, and the others stand where they stood.
        browser.press("With deep effort").await?;
        browser.until_text("Pass 3").await?;
        let after = site.day().await?;
        let others = |day: &Value| -> Vec<Value> {
            let clip = |p: &&Value| p["placement"]["reasons"].to_string().contains("Reference");
            day["placements"].as_array().map(|all| all.iter().filter(clip).cloned().collect()).unwrap_or_default()
        };
        ensure!(!others(&day).is_empty() && others(&day) == others(&after), "the rest stays");
        Ok(())
    })
    .await
}
