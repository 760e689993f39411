//! Intake as a person uses it: health, the table, spans, the slate log, files sent from this computer.

use anyhow::{Context, Result, ensure};
use metaxis_e2e::{Browser, Site, at_prepared, media_of};
use serde_json::{Value, json};
use std::fs;
use thirtyfour::{By, Key};

/// Text of the table's rows, top to bottom.
const ROWS: &str = "[...document.querySelectorAll('[data-testid=clip-rows] [role=row]')]\
    .sort((a, b) => a.ariaRowIndex - b.ariaRowIndex).map((row) => row.innerText.replaceAll('\\n', ' '))";

async fn at_intake(work: impl AsyncFnOnce(&Site, &Browser) -> Result<()>) -> Result<()> {
    at_prepared(async |site, browser| {
        browser.driver.goto(site.url("/intake")).await?;
        browser.until(&format!("{ROWS}.length === 9")).await?;
        work(site, browser).await
    })
    .await
}

fn clip<'a>(day: &'a Value, name: &str) -> Result<&'a Value> {
    let clips = day["clips"].as_array().context("clips")?;
    clips.iter().find(|clip| clip["file_name"] == name).context("the clip")
}

async fn choose(browser: &Browser, name: &str) -> Result<()> {
    browser
        .script(&format!(
            "[...document.querySelectorAll('[data-testid=clip-rows] [role=row]')].find(r => r.innerText.includes('{name}')).click()"
        ))
        .await?;
    browser.driver.find(By::Css("[data-testid=clip-rows]")).await?.focus().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn what_will_hurt_is_said_shown_and_set_aside() -> Result<()> {
    at_intake(async |site, browser| {
        browser.until_text("One fault").await?;
        browser.script("document.querySelector('section[aria-label=Health] button').click()").await?;
        for text in ["the frame rate varies", "carries audio timecode at 25 fps", "D Pit records at 44.1 kHz", "different frame rates"] {
            browser.until_text(text).await?;
        }
        let notes = "document.querySelectorAll('[aria-label=\"Health notes\"] li').length";
        let before = browser.script(&format!("return {notes}")).await?.as_i64().context("notes")?;
        let of = |text: &str, button: &str| format!(
            "[...[...document.querySelectorAll('[aria-label=\"Health notes\"] li')].find(l => l.innerText.includes('{text}')).querySelectorAll('button')].find(b => b.innerText.includes('{button}')).click()"
        );
        browser.script(&of("the frame rate varies", "show")).await?;
        browser.until("document.querySelector('[data-testid=clip-rows] [aria-selected=true]').innerText.includes('D001.mp4')").await?;
        browser.script(&of("the frame rate varies", "set aside")).await?;
        browser.until(&format!("{notes} === {before} - 1")).await?;
        browser.until_text("1 set aside").await?;
        browser.keys_with(Key::Control, "z").await?;
        browser.until(&format!("{notes} === {before}")).await?;
        browser.until_text("Taken back: health note set aside").await?;
        let day = site.day().await?;
        ensure!(day["health"].as_array().context("health")?.iter().all(|one| one["aside"] == false));
        Ok(())
    })
    .await
}

#[tokio::test(flavor = "multi_thread")]
async fn the_table_is_filtered_edited_and_ordered_by_keyboard() -> Result<()> {
    at_intake(async |site, browser| {
        // Only what is asked for; escape shows all again.
        browser.keys("f").await?;
        browser.keys("gallery").await?;
        browser.until(&format!("{ROWS}.length === 1 && {ROWS}[0].includes('C001.mp4')")).await?;
        browser.keys(Key::Escape.value().to_string()).await?;
        browser.until(&format!("{ROWS}.length === 9")).await?;

        // Scene and take are typed where they stand.
        choose(browser, "A002.mov").await?;
        browser.keys("e").await?;
        browser.until("document.activeElement.ariaLabel === 'Scene of A002.mov'").await?;
        browser.keys(format!("4B{}", Key::Tab.value())).await?;
        browser.until("document.activeElement.ariaLabel === 'Take of A002.mov'").await?;
        browser.keys(format!("3{}", Key::Enter.value())).await?;
        browser.until(&format!("{ROWS}.some(row => row.includes('A002.mov') && row.includes('4B') && row.includes(' 3 '))")).await?;
        let day = site.day().await?;
        let a002 = clip(&day, "A002.mov")?;
        ensure!(a002["scene"] == "4B" && a002["take"] == "3" && a002["slate_source"] == "hand", "{a002}");
        browser.keys_with(Key::Control, "z").await?;
        browser.keys_with(Key::Control, "z").await?;
        browser.until(&format!("{ROWS}.every(row => !row.includes('4B'))")).await?;

        // Other columns, kept for the next time.
        browser.press("Columns…").await?;
        browser.until("[...document.querySelectorAll('[role=menuitem]')].some((e) => e.innerText.includes('Codec'))").await?;
        browser.script("[...document.querySelectorAll('[role=menuitem]')].find((e) => e.innerText.includes('Codec')).click()").await?;
        browser.until("[...document.querySelectorAll('[role=columnheader]')].some(e => e.innerText === 'Codec')").await?;
        browser.driver.refresh().await?;
        browser.until(&format!("{ROWS}.some(row => row.includes('h264 · aac'))")).await?;

        // The order of the devices is a person's.
        browser.press("Move Floor down").await?;
        browser.until(&format!("{ROWS}[0].includes('B001.mov')")).await?;
        Ok(())
    })
    .await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_span_is_one_row_and_a_clip_shows_its_channels() -> Result<()> {
    at_intake(async |site, browser| {
        let day = site.day().await?;
        let parts = [clip(&day, "A001.mov")?["id"].clone(), clip(&day, "A002.mov")?["id"].clone()];
        let client = reqwest::Client::new();
        let join = json!({ "do": "join", "clips": parts });
        ensure!(client.post(site.url("/api/intake/edits")).json(&join).send().await?.status() == 200);
        browser.until(&format!("{ROWS}.length === 8 && {ROWS}[0].includes('… 2 files')")).await?;
        choose(browser, "2 files").await?;
        browser.until_text("2 chosen").await?;
        browser.keys("o").await?;
        browser.until(&format!("{ROWS}.length === 10")).await?;
        browser.keys("o").await?;
        browser.until(&format!("{ROWS}.length === 8")).await?;

        // The bench camera's first channel carries timecode, its second sound; both are drawn.
        choose(browser, "B001.mov").await?;
        browser.until_text("audio timecode 25 fps").await?;
        browser.until("document.querySelectorAll('[aria-label=Channels] canvas').length === 2").await?;
        browser
            .until(
                "[...document.querySelectorAll('[aria-label=Channels] canvas')].every(c => {
                    const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;
                    let n = 0; for (let i = 3; i < d.length; i += 4) if (d[i] > 0) n++;
                    return n > c.width;
                 })",
            )
            .await?;
        browser
            .until("document.querySelector('section[aria-label^=\"Clip B001\"] img').naturalWidth > 0")
            .await?;
        browser.until_text("B_BENCH/B001.mov").await?;
        browser.keys("d").await?;
        browser.until("!document.querySelector('[aria-label=Channels]')").await?;
        Ok(())
    })
    .await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_slate_log_and_files_of_this_computer_come_in() -> Result<()> {
    at_intake(async |site, browser| {
        let folder = tempfile::tempdir()?;
        let log = folder.path().join("slates.csv");
        fs::write(&log, "Scene\tTake\tWhat\tPicture file\n7\t4\tS-002.wav\tA002.mov\n")?;
        browser
            .driver
            .find(By::Css("input[aria-label=\"Slate log to take in\"]"))
            .await?
            .send_keys(log.display().to_string())
            .await?;
        browser.until_text("1 takes · UTF-8").await?;
        // The third column's header says nothing: a person says what it is.
        browser
            .driver
            .find(By::Css("select[aria-label=\"What What means\"] option[value=sound]"))
            .await?
            .click()
            .await?;
        browser
            .until("document.querySelector('select[aria-label=\"What What means\"]').value === 'sound'")
            .await?;
        browser.press("Take the log").await?;
        browser.until_text("slate log slates.csv").await?;
        let day = site.day().await?;
        ensure!(clip(&day, "A002.mov")?["scene"] == "7" && clip(&day, "S-002.wav")?["take"] == "4", "{day}");
        browser.until_text("will hurt later").await?;

        // Two files from this computer, sent and taken in.
        let media = media_of("small")?;
        for name in ["S-001.wav", "S-002.wav"] {
            let bytes = fs::read(media.join("R_RECORDER").join(name))?;
            fs::write(folder.path().join(format!("sent-{name}")), bytes)?;
        }
        let both = format!(
            "{}\n{}",
            folder.path().join("sent-S-001.wav").display(),
            folder.path().join("sent-S-002.wav").display()
        );
        browser.driver.find(By::Css("input[aria-label=\"Files to send\"]")).await?.send_keys(both).await?;
        browser.until(&format!("{ROWS}.filter(row => row.includes('sent-S-00')).length === 2")).await?;
        site.until_idle().await?;
        browser.script("document.querySelector('section[aria-label=Health] button').click()").await?;
        browser.until_text("are the same recording").await?;
        Ok(())
    })
    .await
}

/// The accessibility checker's own script, as the page's packages bring it.
fn checker() -> Result<String> {
    let path =
        std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web/node_modules/axe-core/axe.min.js");
    fs::read_to_string(&path).with_context(|| format!("{}: run npm ci in web", path.display()))
}

#[tokio::test(flavor = "multi_thread")]
async fn the_accessibility_checker_finds_nothing_serious() -> Result<()> {
    let checker = checker()?;
    at_intake(async |site, browser| {
        let id = site.day().await?["groups"][0]["id"].as_i64().context("a group")?;
        let mut faults = vec![];
        for theme in ["film", "dim"] {
            browser.script(&format!("localStorage.setItem('theme', '{theme}')")).await?;
            for (path, ready) in [
                ("/intake".to_owned(), "document.querySelectorAll('[role=row]').length > 5"),
                ("/day".to_owned(), "document.querySelectorAll('[data-testid=sheet] button').length >= 7"),
                ("/bench/round".to_owned(), "document.querySelector('[data-testid=needle]')?.innerText"),
                (format!("/groups/{id}"), "document.body.innerText.includes('Coverage')"),
                (format!("/switch/{id}"), "document.querySelector('[data-testid=line-picture]')?.dataset.frame"),
                (format!("/turnover/{id}"), "document.querySelector('[data-testid=preview]')?.innerText.length > 100"),
            ] {
                browser.driver.goto(site.url(&path)).await?;
                browser.until(ready).await?;
                browser.until(&format!("document.documentElement.dataset.theme === '{theme}'")).await?;
                if path == "/intake" {
                    browser.script("document.querySelector('section[aria-label=Health] button').click()").await?;
                    choose(browser, "B001.mov").await?;
                    browser.until_text("audio timecode 25 fps").await?;
                }
                if path == "/day" && theme == "dim" {
                    browser.script("document.querySelector('[data-testid=sheet] button[aria-pressed]').click()").await?;
                    browser.until_text("set aside").await?;
                }
                browser.script(&checker).await?;
                let found = browser
                    .script(
                        "return axe.run(document, { resultTypes: ['violations'] }).then(r => r.violations
                            .filter(v => v.impact === 'serious' || v.impact === 'critical')
                            .map(v => `${v.id}: ${v.nodes.slice(0, 4).map(n => n.html.slice(0, 160) + ' – ' + n.any.map(a => a.message).join(' ').slice(0, 160)).join(' | ')}`))",
                    )
                    .await?;
                for fault in found.as_array().context("a list")? {
                    faults.push(format!("{path} in {theme}: {}", fault.as_str().unwrap_or_default()));
                }
            }
        }
        ensure!(faults.is_empty(), "{}", faults.join("\n"));
        Ok(())
    })
    .await
}
