//! The angles of a group in the page: named, set aside, moved, blanked, filled; many groups shaped by keyboard alone.

use anyhow::{Context, Result, ensure};
use metaxis_e2e::{Browser, Site, at_prepared, expected_numbers, read_numbers};
use serde_json::{Value, json};
use thirtyfour::Key;

/// What stands in the rows of the angles.
const ROWS: &str =
    "[...document.querySelectorAll('section ol > li')].map(row => row.innerText.replaceAll('\\n', ' '))";

fn key(key: Key) -> String {
    key.value().to_string()
}

async fn angle(site: &Site, at: usize) -> Result<Value> {
    let pass: Value = site.get("/api/pass").await?;
    Ok(pass["groups"][0]["group"]["angles"][at].clone())
}

#[tokio::test(flavor = "multi_thread")]
async fn angles_are_arranged_with_the_keyboard_and_followed_by_the_pictures() -> Result<()> {
    at_prepared(arrange).await
}

async fn arrange(site: &Site, browser: &Browser) -> Result<()> {
    let id = site.day().await?["groups"][0]["id"].as_i64().context("a group")?;
    let before = site.get(&format!("/api/groups/{id}")).await?;
    browser.driver.goto(site.url(&format!("/groups/{id}"))).await?;
    browser.until_text("Coverage and angle order").await?;

    // The second angle is named, and its clip moved by ten frames within the group.
    browser.keys("a").await?;
    browser.until("document.querySelectorAll('section ol button[aria-pressed=true]').length === 1").await?;
    browser.keys("n").await?;
    browser.until("document.activeElement.ariaLabel === 'Name of the angle'").await?;
    browser.keys(format!("Crane{}", key(Key::Enter))).await?;
    browser.until(&format!("{ROWS}[1].includes('Crane')")).await?;
    let begins = angle(site, 1).await?["parts"][0]["from_frame"].as_i64().context("a part")?;
    for _ in 0..3 {
        browser.keys(key(Key::Right)).await?;
    }
    browser
        .until("!document.querySelector('[aria-label=\"Chosen angle\"]').innerText.includes('no clip here')")
        .await?;
    // As fast as keys can be pressed.
    for _ in 0..10 {
        browser.keys_with(Key::Control, &key(Key::Right)).await?;
    }
    let frames = before["group"]["frames"].as_i64().context("frames")?;
    let left = 100.0 * (begins + 10) as f64 / frames as f64;
    let bar = "parseFloat(document.querySelector('[aria-label=\"Coverage of Crane\"] span').style.left)";
    browser.until(&format!("Math.abs({bar} - {left}) < 0.001")).await?;

    // In Switch its pictures come ten frames later, those of the others do not; its key and its name are there.
    browser.driver.goto(site.url(&format!("/switch/{id}"))).await?;
    browser.until("document.querySelector('[data-testid=line-picture]')?.dataset.frame === '0'").await?;
    browser.until("document.querySelector('[data-testid=angle-2]').innerText.includes('Crane')").await?;
    browser.seek_line(200).await?;
    let mut expected = expected_numbers(site, &before, 200).await?;
    expected[1] = expected_numbers(site, &before, 190).await?[1];
    let drawn = format!("JSON.stringify({}) === '{}'", read_numbers(), serde_json::to_string(&expected)?);
    browser.until(&drawn).await?;

    // Set aside it has no key: the third is the second now. Shown again, all is as it was.
    browser.driver.goto(site.url(&format!("/groups/{id}"))).await?;
    browser.until_text("Coverage and angle order").await?;
    browser.keys("a").await?;
    browser.keys("h").await?;
    browser.until_text("Show it again").await?;
    browser.until(&format!("{ROWS}[2].startsWith('2 ')")).await?;
    browser.keys("h").await?;
    browser.until(&format!("{ROWS}[2].startsWith('3 ')")).await?;

    // Blanked for a frame where all angles run, its clip out of the group, and in again where it lies.
    browser.keys("g").await?;
    browser.keys("b").await?;
    browser.until_text("Blank to here").await?;
    browser.keys_with(Key::Shift, &key(Key::Right)).await?;
    browser.keys("b").await?;
    browser
        .until("document.querySelectorAll('[aria-label=\"Coverage of Crane\"] > [title]').length === 2")
        .await?;
    browser.keys_with(Key::Control, "z").await?;
    browser.until_text("Taken back: an angle blanked").await?;
    browser.keys("w").await?;
    browser.until(&format!("!{ROWS}[1].includes('B00')")).await?;
    browser.keys("t").await?;
    browser.until_text("Take a clip into").await?;
    browser.press("Take in B001 where it lies").await?;
    browser.until(&format!("!document.querySelector('[role=dialog]') && {ROWS}[1].includes('B001')")).await?;
    let again = angle(site, 1).await?;
    ensure!(again["parts"] == before["group"]["angles"][1]["parts"], "{again}");

    // Another format: from nought, and the documents say so.
    browser.keys("f").await?;
    browser.until_text("Format of 1 / 1").await?;
    let chosen = "(() => { const own = document.querySelectorAll('[role=dialog] select')[2]; \
        Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, 'value').set.call(own, 'zero'); \
        own.dispatchEvent(new Event('change', { bubbles: true })); })()";
    browser.script(chosen).await?;
    browser.press("Have it so").await?;
    browser
        .until("document.querySelector('[aria-label=Group] dl').innerText.includes('00:00:00:00')")
        .await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn twenty_groups_are_shaped_named_and_put_in_order_with_few_keys() -> Result<()> {
    at_prepared(many).await
}

/// What a person presses, counted.
struct Hand<'a> {
    browser: &'a Browser,
    presses: usize,
}

impl Hand<'_> {
    async fn press(&mut self, keys: &str) -> Result<()> {
        self.presses += keys.chars().count();
        self.browser.keys(keys).await
    }
}

async fn many(site: &Site, browser: &Browser) -> Result<()> {
    // Twenty groups, of two takes.
    let client = reqwest::Client::new();
    let pass = async || site.get("/api/pass").await;
    while pass().await?["groups"].as_array().map_or(0, Vec::len) < 20 {
        let now = pass().await?;
        let longest = now["groups"].as_array().context("groups")?.iter();
        let longest = longest.max_by_key(|own| own["group"]["frames"].as_i64()).context("a group")?;
        let at = longest["group"]["frames"].as_i64().context("frames")? / 2;
        let change = json!({ "do": "split", "group": longest["id"], "at": at });
        let body = json!({ "version": now["groups_turns"]["version"], "change": change });
        let url = site.url("/api/groups/edits");
        ensure!(client.post(url).json(&body).send().await?.status().is_success());
    }
    browser.driver.goto(site.url("/groups")).await?;
    browser.until("document.querySelectorAll('nav[aria-label=Groups] a').length === 20").await?;
    let mut hand = Hand { browser, presses: 0 };
    // Each a little shorter at its head: to the second frame, and the head there.
    for number in 0..20 {
        let here = format!(
            "[...document.querySelectorAll('nav[aria-label=Groups] a')][{number}].ariaCurrent === 'true'"
        );
        browser.until(&here).await?;
        browser.keys_with(Key::Shift, &key(Key::Right)).await?;
        hand.presses += 1;
        hand.press("i").await?;
        browser
            .until("document.querySelector('[aria-label=Group] dl').innerText.includes('trimmed off')")
            .await?;
        if number < 19 {
            hand.press(&key(Key::Down)).await?;
        }
    }
    // All named at once.
    hand.press("l").await?;
    browser.until_text("Name all groups").await?;
    hand.press("Bell {number}").await?;
    browser.until("document.querySelector('[aria-label=Names]')?.innerText.includes('Bell 20')").await?;
    hand.press(&key(Key::Enter)).await?;
    let names = "[...document.querySelectorAll('nav[aria-label=Groups] a')].map(a => a.firstChild.innerText)";
    browser.until(&format!("{names}.at(-1) === 'Bell 20'")).await?;
    // The last goes up to be the eighteenth.
    for place in [18, 17] {
        browser.keys_with(Key::Shift, &key(Key::Up)).await?;
        hand.presses += 1;
        browser.until(&format!("{names}[{place}] === 'Bell 20'")).await?;
    }
    println!("20 groups shaped, named and put in order: {} key presses", hand.presses);
    ensure!(hand.presses <= 80, "{} key presses", hand.presses);
    let groups = pass().await?;
    let groups = groups["groups"].as_array().context("groups")?;
    ensure!(groups.iter().all(|own| own["shaped"] == true));
    ensure!(groups[17]["group"]["name"] == "Bell 20", "{}", groups[17]["group"]["name"]);
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_title_is_written_and_stands_as_an_angle() -> Result<()> {
    at_prepared(title).await
}

async fn title(site: &Site, browser: &Browser) -> Result<()> {
    let id = site.day().await?["groups"][0]["id"].as_i64().context("a group")?;
    browser.driver.goto(site.url(&format!("/groups/{id}"))).await?;
    browser.until_text("Coverage and angle order").await?;
    browser.keys("T").await?;
    browser.until("document.activeElement.ariaLabel === 'Text of the title'").await?;
    browser.keys("The bell is cast").await?;
    browser.press("Take it in at the playhead").await?;
    browser.until("!document.querySelector('[role=dialog]')").await?;
    browser.until(&format!("{ROWS}[4]?.includes('Titles')")).await?;
    let own = angle(site, 4).await?;
    ensure!(own["parts"][0]["still"] == true && own["parts"][0]["from_frame"] == 0, "{own}");

    // On the wall it stands at any frame: text on black.
    browser.driver.goto(site.url(&format!("/switch/{id}"))).await?;
    const BRIGHT: &str = "(() => {
        const canvas = document.querySelector('[data-testid=angle-5] canvas');
        if (!canvas) return -1;
        const { data } = canvas.getContext('2d').getImageData(0, 0, canvas.width, canvas.height);
        let bright = 0;
        for (let i = 0; i < data.length; i += 4) if (data[i] > 160) bright++;
        return bright / (data.length / 4);
      })()";
    let seen = format!("{BRIGHT} > 0.003 && {BRIGHT} < 0.2");
    browser.until(&seen).await?;
    browser.seek_line(600).await?;
    browser.until(&seen).await?;
    browser.keys(" ").await?;
    browser.keys("5").await?;
    browser.until("document.querySelector('[data-testid=line-picture]').dataset.angle !== '1'").await?;
    browser.until(&seen).await
}
