//! Retakes `docs/screenshots` from a served demo: `metaxis-shots http://127.0.0.1:4810 docs/screenshots [dim]`.

use anyhow::{Context, Result};
use metaxis_e2e::Browser;
use std::path::PathBuf;

#[tokio::main]
async fn main() -> Result<()> {
    let mut args = std::env::args().skip(1);
    let site = args.next().context("the address of a served demo is needed")?;
    let out = PathBuf::from(args.next().context("a folder is needed")?);
    std::fs::create_dir_all(&out)?;
    let browser = Browser::start().await?;
    let go = async |path: &str| browser.driver.goto(format!("{site}{path}")).await;

    let theme = args.next().unwrap_or_else(|| "film".into());
    go("/intake").await?;
    browser.script(&format!("localStorage.setItem('theme', '{theme}')")).await?;
    go("/intake").await?;
    browser.until("document.querySelectorAll('[role=row]').length > 5").await?;
    // Taken when everything is ready: no job is running.
    browser.until("!document.querySelector('[role=progressbar]')").await?;
    browser.script("document.querySelector('section[aria-label=Health] button').click()").await?;
    browser.until_text("GAL_0184").await?;
    browser.script("[...document.querySelectorAll('[data-testid=clip-rows] [role=row]')].find(r => r.innerText.includes('B004')).click()").await?;
    browser.until("document.querySelectorAll('[aria-label=Channels] canvas').length > 0").await?;
    browser
        .until("document.querySelector('section[aria-label^=\"Clip B004\"] img')?.naturalWidth > 0")
        .await?;
    browser.picture(&out.join("intake.png")).await?;

    go("/day").await?;
    browser.until_text("Sync the day").await?;
    if browser.script("return document.body.innerText.includes('Not synced yet')").await? == true {
        browser.keys("s").await?;
    }
    browser.until_text(" solid · ").await?;
    browser.script("[...document.querySelectorAll('[data-testid=sheet] button')].find(b => b.innerText.includes('PIT_0007')).click()").await?;
    browser.until_text("Drift").await?;
    browser.picture(&out.join("day-sheet.png")).await?;

    go("/bench").await?;
    browser.until("document.querySelectorAll('nav[aria-label=Takes] button').length > 5").await?;
    browser.script("[...document.querySelectorAll('nav[aria-label=Takes] button')].find(b => b.innerText.includes('A001C03')).click()").await?;
    browser.until_text("rises").await?;
    browser
        .until("document.querySelector('section[aria-label=Slate] canvas[aria-label^=Frame]')?.width > 300")
        .await?;
    browser.keys("m").await?;
    browser.until_text("sticks close at").await?;
    browser.picture(&out.join("bench.png")).await?;

    let path = browser
        .script("return [...document.querySelectorAll('a')].find(a => a.innerText === 'Against').pathname")
        .await?;
    let clips = "[...document.querySelectorAll('nav[aria-label=Takes] button')]";
    browser.script(&format!("{clips}.find(b => b.innerText.includes('B004')).click()")).await?;
    browser.until(&format!("![...document.querySelectorAll('a')].some(a => a.pathname === {path})")).await?;
    browser.press("Against").await?;
    browser.until("document.querySelector('[data-testid=needle]')?.innerText.includes(' f')").await?;
    for _ in 0..7 {
        browser.keys("+").await?;
    }
    for _ in 0..3 {
        browser.keys("d").await?;
    }
    browser.until("document.querySelector('[data-testid=needle]').innerText.includes('−3.0 f')").await?;
    browser.picture(&out.join("bench-against.png")).await?;

    go("/groups").await?;
    browser.until_text("Coverage").await?;
    browser.picture(&out.join("groups.png")).await?;

    go("/switch").await?;
    browser.until("document.querySelector('[data-testid=line-picture]')?.dataset.frame").await?;
    let cuts = "return document.querySelectorAll('[data-testid=switch-log] li').length";
    if browser.script(cuts).await?.as_u64().unwrap_or(0) < 4 {
        for (seconds, angle) in [(8, "2"), (14, "1"), (19, "3"), (30, "2"), (52, "4"), (60, "1"), (74, "3")] {
            browser.seek_line(seconds * 25).await?;
            let before = browser.script(cuts).await?;
            browser.keys(angle).await?;
            browser
                .until(&format!(
                    "document.querySelectorAll('[data-testid=switch-log] li').length !== {before}"
                ))
                .await?;
        }
    }
    // In the middle of the take, where all angles run.
    browser.seek_line(64 * 25).await?;
    browser.until("[...document.querySelectorAll('[data-testid^=angle-]')].every(a => !a.innerText.includes('not running'))").await?;
    tokio::time::sleep(std::time::Duration::from_millis(800)).await;
    if browser.script("return !document.querySelector('span[data-over]')").await? == true {
        browser.keys("u").await?;
        browser.until_text("Lay over the line from").await?;
        browser.until("document.activeElement.tagName === 'INPUT'").await?;
        browser.keys("Gallery").await?;
        browser.keys("\u{e007}").await?;
        browser.until("document.querySelector('span[data-over]')").await?;
    }
    browser.until("document.querySelector('[data-testid=line-picture]').dataset.over === '0'").await?;
    tokio::time::sleep(std::time::Duration::from_millis(800)).await;
    browser.picture(&out.join("switch.png")).await?;

    go("/turnover/films").await?;
    browser.until_text("Queue").await?;
    if browser.script("return document.body.innerText.includes('Nothing waits')").await? == true {
        browser.keys("l").await?;
        browser.keys("m").await?;
    }
    browser.until("[...document.querySelectorAll('[aria-label=\"Queue of films\"] [role=row]')].filter(e => e.innerText.includes('looked at')).length > 1").await?;
    browser
        .until("document.querySelector('[aria-label=\"Queue of films\"]').innerText.includes(' %')")
        .await?;
    browser.picture(&out.join("films.png")).await?;

    go("/turnover/assembly").await?;
    browser.until("document.querySelector('[data-testid=parts], button')").await?;
    browser.until("document.body.innerText.includes('One of all lines') || document.querySelector('[data-testid=parts] li')").await?;
    if browser.script("return !document.querySelector('[data-testid=parts] li')").await? == true {
        browser.press("One of all lines").await?;
        browser.until("document.querySelectorAll('[data-testid=parts] li').length > 3").await?;
        browser.keys("g").await?;
        browser.until("document.querySelector('[data-testid=parts]').innerText.includes('gap')").await?;
    }
    browser.script("document.querySelectorAll('[data-testid=parts] button')[2].click()").await?;
    browser.until("document.querySelector('[data-testid=assembly-picture]')?.dataset.frame === '0'").await?;
    for _ in 0..20 {
        browser.keys_with(thirtyfour::Key::Shift, "\u{e014}").await?;
    }
    tokio::time::sleep(std::time::Duration::from_millis(800)).await;
    browser.picture(&out.join("assembly.png")).await?;

    go("/turnover").await?;
    browser.until("document.querySelector('[data-testid=preview]')?.innerText.length > 100").await?;
    browser
        .script(
            "[...document.querySelectorAll('button')].find(b => b.innerText.includes('line.edl')).click()",
        )
        .await?;
    browser.until("document.querySelector('[data-testid=preview]')?.innerText.includes('TITLE')").await?;
    browser.picture(&out.join("turnover.png")).await?;
    go("/api/turnover/report.html?shown=true").await?;
    browser.until_text("Sync report").await?;
    browser.script("document.querySelector('article').scrollIntoView()").await?;
    browser.picture(&out.join("sync-report.png")).await?;
    go("/api/turnover/contact.html?shown=true").await?;
    browser.until_text("Contact sheet").await?;
    browser.picture(&out.join("contact-sheet.png")).await?;
    go("/turnover/sound").await?;
    let files = "document.querySelectorAll('[aria-label=\"Files of sound\"] [role=row][aria-selected]')";
    browser.until(&format!("{files}.length > 8")).await?;
    // The one that lost samples, with its hole.
    browser.script(&format!("[...{files}].find(row => row.innerText.includes('PIT')).click()")).await?;
    browser
        .until("document.querySelector('[aria-label=\"What lies under it\"]').innerText.includes('PIT_')")
        .await?;
    // Listened to, and stopped somewhere in it.
    browser.press("Play it with its sound").await?;
    browser.until_text("Heard: Mix L").await?;
    browser.keys("m").await?;
    browser.until_text("Stand still").await?;
    browser.press("Stand still").await?;
    browser.picture(&out.join("sound.png")).await?;

    // Takes under the track they were made to, last: another pass is shown for it, and the one before again.
    let plan = "{ mode: 'playback', effort: 'normal', clips: null, near: null }";
    let ask = |path: &str, body: &str| {
        format!(
            "return fetch('/api/{path}', {{ method: 'POST', headers: {{ 'content-type': 'application/json' }}, body: JSON.stringify({body}) }}).then(done => done.ok)"
        )
    };
    browser.script(&ask("passes", &format!("{{ reference: null, plan: {plan} }}"))).await?;
    go("/day").await?;
    browser.until("document.querySelectorAll('section[aria-label^=Track] button path').length > 8").await?;
    browser.picture(&out.join("day-track.png")).await?;
    browser.script(&ask("shown/edits/undo", "{}")).await?;
    browser.close().await
}
