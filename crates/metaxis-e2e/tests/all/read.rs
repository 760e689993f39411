//! A line that was changed elsewhere, read back in the page.

use super::switch::open;
use anyhow::{Context, Result, ensure};
use metaxis_e2e::{Browser, Site, at_prepared};
use serde_json::{Value, json};
use std::fs;
use thirtyfour::By;

#[tokio::test(flavor = "multi_thread")]
async fn a_line_that_others_changed_is_read_compared_and_gone_to() -> Result<()> {
    at_prepared(read_back).await
}

async fn read_back(site: &Site, browser: &Browser) -> Result<()> {
    let id = open(site, browser).await?;
    let path = format!("/api/groups/{id}");
    browser.seek_line(200).await?;
    browser.keys("2").await?;
    browser.until("document.querySelectorAll('[data-testid=switch-log] li').length === 2").await?;
    // Somebody cuts half a second later: the first shot is longer, the second begins later.
    let mut document: Value = site.get(&format!("{path}/turnover/line.otio")).await?;
    let items = document["tracks"]["children"][0]["children"].as_array_mut().context("no items")?;
    let shots: Vec<usize> = (0..items.len()).filter(|own| items[*own]["OTIO_SCHEMA"] == "Clip.2").collect();
    let more = |time: &mut Value, by: f64| {
        let (value, rate) = (time["value"].as_f64().unwrap_or(0.0), time["rate"].as_f64().unwrap_or(25.0));
        time["value"] = json!(value + by * rate);
    };
    more(&mut items[shots[0]]["source_range"]["duration"], 0.48);
    more(&mut items[shots[1]]["source_range"]["duration"], -0.48);
    more(&mut items[shots[1]]["source_range"]["start_time"], 0.48);
    // And says so to whoever looks at it, at the cut.
    let mark = items[shots[1]]["source_range"]["start_time"].clone();
    let none = json!({ "OTIO_SCHEMA": "RationalTime.1", "value": 0, "rate": 25 });
    items[shots[1]]["markers"] = json!([{
        "OTIO_SCHEMA": "Marker.2", "name": "Later here", "color": "RED",
        "marked_range": { "OTIO_SCHEMA": "TimeRange.1", "start_time": mark, "duration": none },
    }]);
    let folder = tempfile::tempdir()?;
    let changed = folder.path().join("changed.otio");
    fs::write(&changed, serde_json::to_vec(&document)?)?;

    browser.keys("p").await?;
    browser.until_text("None is kept yet").await?;
    let field = browser.driver.find(By::Css("input[aria-label=\"Document to read a line from\"]")).await?;
    field.send_keys(changed.display().to_string()).await?;
    browser.until_text("changed.otio: 2 shots are in a line of its own, with a marker").await?;
    // What differs is there to be seen, cut by cut, before anybody goes to it.
    browser.until_text("other for").await?;
    browser.until("document.querySelectorAll('[aria-label=\"Kept lines\"] ol li').length === 1").await?;
    let own = site.get(&path).await?;
    ensure!(own["line"]["switches"][1]["at"] == 200, "it was not asked for: {}", own["line"]);
    browser.press("Go to it").await?;
    browser.until_text("as it is now").await?;
    let own = site.get(&path).await?;
    ensure!(own["line"]["switches"][1]["at"] == 212, "{}", own["line"]);
    let marker = json!([{ "at": 212, "colour": "brass", "note": "Later here" }]);
    ensure!(own["line"]["markers"] == marker, "{}", own["line"]);
    // What is no document is said, and what was read before stays.
    let wrong = folder.path().join("wrong.edl");
    fs::write(&wrong, "nothing of the kind")?;
    field.send_keys(wrong.display().to_string()).await?;
    browser.until_text("wrong.edl: this is neither").await?;
    browser.until("document.querySelectorAll('[aria-label=\"Kept lines\"] > li').length === 1").await
}
