//! The whole way as a person goes it: intake, sync, group, three cuts by keyboard, export.

use anyhow::{Context, Result, ensure};
use metaxis_e2e::{Browser, Site, media_of};
use serde_json::Value;
use std::{path::Path, process::Command};
use thirtyfour::Key;

const CUTS: &str = "document.querySelectorAll('[data-testid=switch-log] li').length";
const SHOWN: &str = "Number(document.querySelector('[data-testid=line-picture]')?.dataset.frame)";

#[tokio::test(flavor = "multi_thread")]
async fn from_cards_to_a_cut() -> Result<()> {
    let site = Site::start(&media_of("small")?).await?;
    let browser = Browser::start().await?;
    let walked = walk(&site, &browser).await;
    if walked.is_err() {
        let _ = browser.picture(&std::env::temp_dir().join("metaxis-walk-failed.png")).await;
    }
    browser.close().await?;
    site.server.stop().await;
    walked
}

async fn walk(site: &Site, browser: &Browser) -> Result<()> {
    // An empty production says what to do next.
    browser.driver.goto(site.url("/")).await?;
    browser.until_text("No clips yet").await?;
    browser.press("All of it").await?;
    browser.until_text("S-002.wav").await?;
    browser.until_text("One fault").await?;
    browser.script("document.querySelector('section[aria-label=Health] button').click()").await?;
    browser.until_text("C002.mp4: damaged").await?;

    browser.press("Day sheet").await?;
    browser.until_text("Not synced yet").await?;
    browser.keys("s").await?;
    browser.until_text("unplaced, in").await?;
    // The next doubt is a clip that belongs nowhere, and the margin says so.
    browser.keys("n").await?;
    browser.until_text("Unplaced").await?;
    site.until_idle().await?;

    browser.driver.goto(site.url("/groups")).await?;
    browser.until_text("Coverage and angle order").await?;
    browser.press("Cut this group").await?;
    browser.until(&format!("{SHOWN} >= 0")).await?;

    // A live cut while playing, then two standing still.
    browser.seek_line(100).await?;
    browser.keys(" ").await?;
    browser.until(&format!("{SHOWN} > 120")).await?;
    browser.keys("2").await?;
    browser.until(&format!("{CUTS} === 2")).await?;
    browser.keys(" ").await?;
    browser.until_text("Play").await?;
    let live = browser
        .script("return document.querySelectorAll('[data-testid=switch-log] li')[1].innerText")
        .await?;
    ensure!(live.as_str().is_some_and(|row| row.contains("Bench")), "{live}");
    for (frame, key, cuts) in [(300, "3", 3), (400, "4", 4)] {
        browser.seek_line(frame).await?;
        browser.keys(key).await?;
        browser.until(&format!("{CUTS} === {cuts}")).await?;
    }
    // Roll the last cut a frame, undo it, redo it.
    let last = "[...document.querySelectorAll('[data-testid=switch-log] li')].at(-1).innerText";
    let at_400 = browser.script(&format!("return {last}")).await?;
    browser.keys("f").await?;
    browser.until(&format!("{last} !== {at_400}")).await?;
    let rolled = browser.script(&format!("return {last}")).await?;
    browser.keys_with(Key::Control, "z").await?;
    browser.until(&format!("{last} === {at_400}")).await?;
    browser.press("Redo").await?;
    browser.until(&format!("{last} === {rolled}")).await?;
    // The angle after the last is the first again; and back.
    browser.keys("a").await?;
    browser.until(&format!("{last}.includes('Floor')")).await?;
    browser.keys_with(Key::Control, "z").await?;
    browser.until(&format!("{last} === {rolled}")).await?;

    // What was cut is what goes out.
    browser.press("Turn over").await?;
    browser
        .until("document.querySelector('[data-testid=preview]')?.innerText.includes('Timeline.1')")
        .await?;
    let link = browser
        .script("return document.querySelector('a[download][href$=\"line.otio\"]').getAttribute('href')")
        .await?;
    let path = link.as_str().context("a link")?;
    let line: Value = site.get(path).await?;
    let clips = line["tracks"]["children"][0]["children"].as_array().context("a track")?;
    let names: Vec<&str> = clips
        .iter()
        .filter(|item| item["OTIO_SCHEMA"] == "Clip.2")
        .filter_map(|clip| clip["name"].as_str())
        .collect();
    ensure!(names == ["A001.mov", "B001.mov", "C001.mp4", "D001.mp4"], "{names:?}");
    let rolled_length = &clips[clips.len() - 3]["source_range"]["duration"];
    ensure!(
        rolled_length["value"] == 101.0 && rolled_length["rate"] == 25.0,
        "gallery runs from frame 300 to 401: {rolled_length}"
    );
    opens_in_the_reference_reader(site, path).await?;

    // Together with its media, of which is said beforehand how much that is; and what is to be read, as PDF.
    browser.until_text("Save it with its media: 5 files").await?;
    let whole = browser.script("return document.getElementById('save-whole').getAttribute('href')").await?;
    let sent = reqwest::get(site.url(whole.as_str().context("a link")?)).await?.error_for_status()?;
    ensure!(sent.headers()["content-disposition"].to_str()?.contains("group.otioz"));
    ensure!(sent.bytes().await?.starts_with(b"PK"));
    browser
        .script("[...document.querySelectorAll('button')].find((own) => own.innerText.startsWith('The sync report')).click()")
        .await?;
    browser.until_text("Save it as PDF").await
}

/// Both documents open in the OpenTimelineIO package, with the same clips.
async fn opens_in_the_reference_reader(site: &Site, line: &str) -> Result<()> {
    let folder = tempfile::tempdir()?;
    let python = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../.venv/bin/python");
    for (path, tracks) in [(line.to_owned(), 4), (line.replace("line.otio", "group.otio"), 10)] {
        let file = folder.path().join("document.otio");
        std::fs::write(&file, reqwest::get(site.url(&path)).await?.bytes().await?)?;
        let script = "import sys, opentimelineio as otio\n\
                      t = otio.adapters.read_from_file(sys.argv[1])\n\
                      assert isinstance(t, otio.schema.Timeline), t\n\
                      for c in t.find_clips():\n    a = c.media_reference.available_range; s = c.source_range\n    \
                      assert a.start_time <= s.start_time and s.end_time_exclusive() <= a.end_time_exclusive(), (c.name, a, s)\n\
                      d = {round(tr.duration().to_seconds(), 2) for tr in t.tracks}\n\
                      assert len(d) == 1, d\n\
                      print(len(t.tracks))";
        let run = Command::new(&python)
            .args(["-c", script])
            .arg(&file)
            .output()
            .context(".venv is missing: run scripts/setup.sh test")?;
        let said = String::from_utf8_lossy(&run.stderr);
        ensure!(run.status.success(), "{path}: {said}");
        ensure!(String::from_utf8_lossy(&run.stdout).trim() == tracks.to_string(), "{path}");
    }
    Ok(())
}
