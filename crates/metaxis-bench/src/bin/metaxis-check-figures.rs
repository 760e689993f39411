//! How the Day sheet and the Bench keep up at the size of a real day: frames while zooming and scrolling, and the time from a
//! key to the first waveform; how many keys a round of doubt takes. `metaxis-check-figures [--demo MEDIA] [CLIPS]` makes
//! simulated days (once) and serves them.

use anyhow::{Context, Result};
use metaxis_e2e::{
    Browser, Site,
    frames::{ALONG, MIRROR, WHEEL, frames, inked, paint},
    round_by_keyboard,
};
use metaxis_shoot::Scenario;
use serde_json::{Value, json};
use std::{
    path::{Path, PathBuf},
    time::Instant,
};
use thirtyfour::extensions::cdp::ChromeDevTools;

const SHEET: &str = "document.querySelector('[data-testid=sheet]')";

fn media(name: &str, day: &Scenario) -> Result<PathBuf> {
    let top = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let kept = top.join(format!("target/media-{name}"));
    if !kept.join("truth.json").exists() {
        eprintln!("making the media of {}, once …", day.name);
        let fresh = tempfile::tempdir_in(top.join("target"))?;
        metaxis_shoot::shoot(day, &top.join("demo/speech"), fresh.path(), &|_, _| {})?;
        std::fs::rename(fresh.path(), &kept)?;
    }
    Ok(kept)
}

/// Does `work` on a production with that media, with a browser; both end with it, however it goes.
async fn at(media: &Path, work: impl AsyncFnOnce(&Site, &Browser) -> Result<()>) -> Result<()> {
    let site = Site::start(media).await?;
    let result = async {
        site.prepare().await?;
        let browser = Browser::start().await?;
        let result = work(&site, &browser).await;
        browser.close().await?;
        result
    }
    .await;
    site.server.stop().await;
    result
}

#[tokio::main]
async fn main() -> Result<()> {
    let mut args: Vec<String> = std::env::args().skip(1).collect();
    let demo = match args.iter().position(|arg| arg == "--demo") {
        Some(flag) => {
            args.remove(flag);
            anyhow::ensure!(flag < args.len(), "--demo MEDIA");
            Some(args.remove(flag))
        }
        None => None,
    };
    let clips = args.first().map_or(Ok(400), |clips| clips.parse()).context("how many clips?")?;
    if let Some(media) = demo {
        at(Path::new(&media), round).await?;
    }
    at(&media("long-3600", &metaxis_shoot::long_take(3600.0))?, long_clip).await?;
    at(&media(&format!("large-{clips}"), &metaxis_shoot::large_day(clips, 1))?, async |site, browser| {
        sheet(site, browser).await?;
        bench(site, browser).await?;
        groups(site, browser).await?;
        documents(site).await?;
        many(site, browser).await
    })
    .await
}

async fn round(site: &Site, browser: &Browser) -> Result<()> {
    let presses = round_by_keyboard(site, browser).await?;
    println!(
        "the demo from its pass to all checked: {} doubts, {:.1} presses each (asked: 3), {} check points, 1 press each; \
         1 to get there, {} and a name to declare it",
        presses.doubts,
        presses.deciding as f64 / presses.doubts.max(1) as f64,
        presses.points,
        presses.declaring
    );
    Ok(())
}

/// From the key on the Day sheet to the waveforms of an hour.
async fn long_clip(site: &Site, browser: &Browser) -> Result<()> {
    let mut paints = vec![];
    for _ in 0..6 {
        browser.driver.goto(site.url("/day")).await?;
        let camera = "[...document.querySelectorAll('[aria-label=Sheet] button[aria-pressed]')].find(b => b.innerText.includes('A001'))";
        browser.until(&format!("{camera} && document.querySelector('[data-testid=sheet] path')")).await?;
        browser.script(&format!("{camera}.click()")).await?;
        browser.until(&format!("{camera}.ariaPressed === 'true'")).await?;
        paints.push(paint(browser, "b").await?);
    }
    // The first one fetches the place itself, too.
    println!("{:<40} {:>5.0} ms the first time", "a clip of an hour, from the key", paints[0]);
    say("the same, again", &mut paints[1..]);
    let mirror = format!("{MIRROR}.parentElement");
    frames(browser, "a clip of an hour, zooming", &mirror, WHEEL).await
}

fn say(what: &str, paints: &mut [f64]) {
    within(what, paints, 300.0);
}

/// How long each document of the day takes.
async fn documents(site: &Site) -> Result<()> {
    for document in ["day.otio", "clips.csv", "sync.csv", "channels.csv", "report.html", "everything.zip"] {
        let url = site.url(&format!("/api/turnover/{document}"));
        let mut times = vec![];
        let mut bytes = 0;
        for _ in 0..3 {
            let since = std::time::Instant::now();
            bytes = reqwest::get(&url).await?.error_for_status()?.bytes().await?.len();
            times.push(since.elapsed().as_secs_f64());
        }
        times.sort_by(f64::total_cmp);
        println!(
            "{document}: {:.2} s, the first time {:.2} s at most (asked: 1), {} kB",
            times[1],
            times[2],
            bytes / 1000
        );
    }
    Ok(())
}

async fn sheet(site: &Site, browser: &Browser) -> Result<()> {
    let day = site.day().await?;
    println!("{} clips", day["clips"].as_array().map_or(0, Vec::len));
    browser.driver.goto(site.url("/day")).await?;
    scroll_and_zoom(browser, "Day sheet").await
}

async fn scroll_and_zoom(browser: &Browser, what: &str) -> Result<()> {
    browser.until("document.querySelectorAll('[data-testid=sheet] button').length > 5").await?;
    browser.until("document.querySelectorAll('[data-testid=sheet] path').length > 5").await?;
    frames(browser, &format!("{what}, scrolling"), SHEET, "box.scrollTop += 40").await?;
    browser.script(&format!("{SHEET}.scrollTop = {SHEET}.scrollHeight / 2")).await?;
    frames(browser, &format!("{what}, zooming"), SHEET, WHEEL).await
}

async fn bench(site: &Site, browser: &Browser) -> Result<()> {
    browser.driver.goto(site.url("/bench/round")).await?;
    browser.until(&inked()).await?;
    let mut paints = vec![];
    for _ in 0..12 {
        paints.push(paint(browser, "n").await?);
    }
    say("Bench, from the key to a waveform", &mut paints);
    let mirror = format!("{MIRROR}.parentElement");
    frames(browser, "Bench, zooming", &mirror, WHEEL).await?;
    frames(browser, "Bench, moving along", &mirror, ALONG).await
}

/// From the key to the bars of the next group.
const NEXT_GROUP: &str = "
    return new Promise(done => {
      const name = () => document.querySelector('[aria-label=Group] input')?.value;
      const was = name(), from = performance.now();
      dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowDown', code: 'ArrowDown' }));
      const look = () => (name() !== was && document.querySelector('section ol > li')) || performance.now() - from > 5000
        ? done(performance.now() - from) : requestAnimationFrame(look);
      requestAnimationFrame(look); })";

/// One frame on.
const STEP: &str =
    "dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', code: 'ArrowRight', shiftKey: true }))";

async fn groups(site: &Site, browser: &Browser) -> Result<()> {
    let client = reqwest::Client::new();
    let post = async |path: &str, body: Value| -> Result<f64> {
        let begin = Instant::now();
        client.post(site.url(path)).json(&body).send().await?.error_for_status()?.bytes().await?;
        Ok(begin.elapsed().as_secs_f64() * 1000.0)
    };
    for by in ["takes", "scenes", "runs", "day"] {
        let mut took = vec![];
        for _ in 0..5 {
            took.push(post("/api/groups/proposed", json!({ "by": by })).await?);
        }
        within(&format!("groups proposed by {by}"), &mut took, 1000.0);
    }
    let pass = site.get("/api/pass").await?;
    let ids: Vec<i64> =
        pass["groups"].as_array().context("groups")?.iter().filter_map(|own| own["id"].as_i64()).collect();
    println!("{} groups", ids.len());
    let mut opened = vec![];
    for id in &ids {
        let begin = Instant::now();
        site.get(&format!("/api/groups/{id}")).await?;
        opened.push(begin.elapsed().as_secs_f64() * 1000.0);
    }
    say("any group, answered", &mut opened);
    let mut version = pass["groups_turns"]["version"].as_i64().context("a version")?;
    let mut edits = vec![];
    for frame in 1..20 {
        let change = json!({ "do": "trim", "group": ids[0], "window": [frame, frame + 100] });
        edits.push(post("/api/groups/edits", json!({ "version": version, "change": change })).await?);
        version += 1;
    }
    within("a trim, kept", &mut edits, 50.0);
    let day = json!({ "version": version, "by": { "by": "day" }, "only": [0] });
    within("all of the day as one group, made", &mut [post("/api/groups/accept", day).await?], 1000.0);
    let pass = site.get("/api/pass").await?;
    let all = pass["groups"].as_array().context("groups")?.iter();
    let whole = all.max_by_key(|own| own["group"]["frames"].as_i64()).context("a group")?;
    let begin = Instant::now();
    site.get(&format!("/api/groups/{}", whole["id"])).await?;
    say("that one, answered", &mut [begin.elapsed().as_secs_f64() * 1000.0]);
    browser.driver.goto(site.url("/groups")).await?;
    browser.until("document.querySelector('section ol > li')").await?;
    let mut shown = vec![];
    for _ in 0..ids.len().min(12) {
        shown.push(browser.script(NEXT_GROUP).await?.as_f64().context("a time")?);
    }
    say("Groups, from the key to the next group", &mut shown);
    browser.driver.goto(site.url(&format!("/groups/{}", whole["id"]))).await?;
    browser.until("document.querySelector('section ol [data-bars]')").await?;
    const BARS: &str = "document.querySelector('section ol')";
    frames(browser, "Groups, all of the day, zooming", BARS, WHEEL).await?;
    frames(browser, "the same, the playhead moving", BARS, STEP).await?;
    Ok(())
}

fn within(what: &str, took: &mut [f64], asked_ms: f64) {
    took.sort_by(f64::total_cmp);
    let (median, slowest) = (took[took.len() / 2], took[took.len() - 1]);
    println!("{what:<40} median {median:>5.1} ms, slowest {slowest:>5.1} ms (asked: {asked_ms})");
}

/// Makes of the server's answers a production of a thousand clips of sixty hours, as far as the page can tell: the day three
/// times over, each take so much longer; waveforms are those of the real clips, stretched.
const MANY: &str = "
    const COPIES = 3, APART = 100000, DAY = 20 * 3600, WANTED = 60 * 3600;
    const real = window.fetch;
    let longer = 1;
    const answer = (value) => new Response(JSON.stringify(value), { headers: { 'content-type': 'application/json' } });
    window.fetch = async (asked, ...rest) => {
      const url = new URL(typeof asked === 'string' ? asked : asked.url, location.href);
      const own = /^\\/api\\/clips\\/(\\d+)(\\/.*)?$/.exec(url.pathname);
      if (own) {
        url.pathname = `/api/clips/${Number(own[1]) % APART}${own[2] ?? ''}`;
        for (const name of ['from_s', 'to_s']) {
          if (url.searchParams.has(name)) url.searchParams.set(name, Number(url.searchParams.get(name)) / longer);
        }
        const got = await real(url.href, ...rest);
        if (!own[2]?.startsWith('/peaks')) return got;
        const peaks = await got.json();
        return answer({ ...peaks, from_s: peaks.from_s * longer, to_s: peaks.to_s * longer });
      }
      if (url.pathname !== '/api/day' && url.pathname !== '/api/pass') return real(asked, ...rest);
      const got = await (await real(asked, ...rest)).json();
      const copies = (list, make) => Array.from({ length: COPIES }, (_, k) => list.map((one) => make(one, k))).flat();
      if (got.clips) {
        const sum = got.clips.reduce((all, clip) => all + clip.facts.duration_s, 0);
        longer = WANTED / (COPIES * sum);
        got.clips = copies(got.clips, (clip, k) => ({ ...clip, id: clip.id + k * APART,
          facts: { ...clip.facts, duration_s: clip.facts.duration_s * longer } }));
      } else {
        await real('/api/day').then((day) => day.json()).then(({ clips }) => {
          longer = WANTED / (COPIES * clips.reduce((all, clip) => all + clip.facts.duration_s, 0));
        });
        got.placements = copies(got.placements, ({ clip, placement }, k) => ({ clip: clip + k * APART,
          placement: { ...placement, component: placement.component + k * APART,
            stretches: placement.stretches.map((one) => ({ ...one, start_s: one.start_s + k * DAY,
              clip_start_s: one.clip_start_s * longer, clip_end_s: one.clip_end_s * longer })) } }));
      }
      return answer(got);
    };";

async fn many(site: &Site, browser: &Browser) -> Result<()> {
    let tools = ChromeDevTools::new(browser.driver.handle.clone());
    let source = serde_json::json!({ "source": MANY });
    tools.execute_cdp_with_params("Page.addScriptToEvaluateOnNewDocument", source).await?;
    browser.driver.goto(site.url("/day")).await?;
    browser.until("document.querySelectorAll('[data-testid=sheet] button').length > 5").await?;
    let said = browser.script("return fetch('/api/day').then(d => d.json()).then(({ clips }) => [clips.length, clips.reduce((sum, clip) => sum + clip.facts.duration_s, 0) / 3600])").await?;
    println!("{} clips of {:.0} h, as the page is told", said[0], said[1].as_f64().unwrap_or_default());
    scroll_and_zoom(browser, "Day sheet of 60 h").await
}
