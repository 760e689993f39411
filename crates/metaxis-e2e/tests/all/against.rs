//! The Bench, two clips against each other: wrong places found again by the needle, and a round of doubt down to none.

use anyhow::{Context, Result, ensure};
use metaxis_e2e::{Browser, Site, at_prepared, round_by_keyboard, start_of};
use serde_json::{Value, json};

const NEEDLE: &str = "document.querySelector('[data-testid=needle]').innerText";

fn clips(day: &Value) -> &[Value] {
    day["clips"].as_array().map_or(&[], Vec::as_slice)
}

/// Whether sound says where a clip lies.
fn is_heard(day: &Value, clip: &Value) -> bool {
    let placed = day["placements"].as_array().and_then(|all| all.iter().find(|one| one["clip"] == *clip));
    let evidence = placed.and_then(|placed| placed["placement"]["evidence"].as_array());
    evidence.is_some_and(|all| all.iter().any(|one| one["kind"] == "waveform" && one["used"] == true))
}

async fn lay(site: &Site, clip: i64, start_s: f64) -> Result<()> {
    let body = json!({ "clip": clip, "start_us": (start_s * 1e6).round() as i64 });
    site.post("/api/placements/hand", body).await
}

#[tokio::test(flavor = "multi_thread")]
async fn wrong_places_are_found_again_by_the_needle() -> Result<()> {
    at_prepared(find_again).await
}

async fn find_again(site: &Site, browser: &Browser) -> Result<()> {
    let day = site.day().await?;
    let reference = &day["pass"]["reference"];
    let heard: Vec<(i64, f64)> = clips(&day)
        .iter()
        .filter(|clip| clip["device"] != *reference && is_heard(&day, &clip["id"]))
        .filter_map(|clip| Some((clip["id"].as_i64()?, start_of(&day, clip["id"].as_i64()?)?)))
        .collect();
    ensure!(heard.len() >= 4, "{heard:?}");
    // A frame, twelve frames, three seconds; earlier and later.
    let wrong = [0.04, -0.48, 3.0, -0.04, 0.48, -3.0, 0.04, -0.48, 3.0, 0.48];
    let (mut found, mut presses) = (0, 0);
    for (&(clip, truth_s), by_s) in heard.iter().cycle().zip(wrong) {
        lay(site, clip, truth_s + by_s).await?;
        browser.driver.goto(site.url(&format!("/bench/{clip}/against"))).await?;
        browser.until(&format!("{NEEDLE}.length > 0")).await?;
        // What lies seconds away is looked for farther.
        if by_s.abs() > 1.0 {
            browser.keys("f").await?;
            presses += 1;
        }
        let left = format!("{:.0} ms", (by_s * 1000.0).abs());
        browser.until(&format!("{NEEDLE}.endsWith('{left}')")).await?;
        browser.keys("t").await?;
        browser
            .until("document.querySelector('[aria-label=\"Moved by\"]').value !== '0.0 f · 0.00 ms'")
            .await?;
        browser.keys("y").await?;
        presses += 2;
        let near = |now: Option<f64>| now.is_some_and(|now| (now - truth_s).abs() < 0.002);
        let now = start_of(&site.until_day(|day| near(start_of(day, clip))).await?, clip);
        ensure!(near(now), "clip {clip} was moved by {by_s} s from {truth_s} and lies at {now:?}");
        found += 1;
    }
    println!("{found} of {} wrong places found again with {presses} presses of keys", wrong.len());
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_round_of_doubt_ends_by_keyboard() -> Result<()> {
    at_prepared(go_round).await
}

async fn go_round(site: &Site, browser: &Browser) -> Result<()> {
    let day = site.day().await?;
    let verdicts = day["placements"].as_array().context("placements")?;
    let due = verdicts
        .iter()
        .filter(|placed| {
            let own = clips(&day).iter().find(|clip| clip["id"] == placed["clip"]);
            let rests = own.is_some_and(|clip| clip["part"] == "no_sync" || clip["part"] == "playback");
            !rests && matches!(placed["placement"]["verdict"].as_str(), Some("check" | "unplaced"))
        })
        .count();
    ensure!(due >= 1, "the small shoot has something to look at");
    browser.driver.goto(site.url("/bench/round")).await?;
    let left = "document.querySelector('[data-testid=left]').innerText";
    browser.until(&format!("{left} === '{due} to look at'")).await?;
    // The day cannot be declared checked before it is looked at.
    let declare =
        "[...document.querySelectorAll('button')].find(b => b.innerText === 'Declare the day checked')";
    browser.until(&format!("{declare}.disabled")).await?;
    // By key neither: it says what is left.
    browser.keys("v").await?;
    browser.until_text("The day can be declared checked when").await?;
    let mut presses = 0;
    for done in 1..=due {
        browser.until("document.querySelector('section[aria-label=Against]')").await?;
        browser.keys("s").await?;
        presses += 1;
        let words = if done == due { "all looked at".into() } else { format!("{} to look at", due - done) };
        browser.until(&format!("{left} === '{words}'")).await?;
    }
    // Taken back and made again, it counts up and down.
    browser.keys_with(thirtyfour::Key::Control, "z").await?;
    browser.until(&format!("{left} === '1 to look at'")).await?;
    let again = format!("{}Z", thirtyfour::Key::Shift.value());
    browser.keys_with(thirtyfour::Key::Control, &again).await?;
    browser.until(&format!("{left} === 'all looked at'")).await?;
    println!("{due} doubts, {presses} presses of keys: {:.1} each", presses as f64 / due as f64);
    browser.keys("v").await?;
    browser.until("document.activeElement.ariaLabel === 'Checked by'").await?;
    browser.keys(format!("Ida Holm{}", thirtyfour::Key::Enter.value())).await?;
    browser.until_text("Checked by Ida Holm").await?;
    let checked = site.day().await?["checked"].clone();
    ensure!(checked["who"] == "Ida Holm" && checked["looked"] == due, "{checked}");
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_day_is_checked_with_the_keyboard_alone() -> Result<()> {
    at_prepared(check_by_keyboard).await
}

async fn check_by_keyboard(site: &Site, browser: &Browser) -> Result<()> {
    let presses = round_by_keyboard(site, browser).await?;
    println!("{presses:?}");
    ensure!(presses.doubts >= 2 && presses.deciding <= 3 * presses.doubts, "{presses:?}");
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn two_clips_are_seen_moved_and_typed() -> Result<()> {
    at_prepared(look_and_type).await
}

async fn look_and_type(site: &Site, browser: &Browser) -> Result<()> {
    let day = site.day().await?;
    let named =
        |name: &str| clips(&day).iter().find(|clip| clip["file_name"] == name).map(|c| c["id"].clone());
    let camera = named("A001.mov").context("a camera")?;
    browser.driver.goto(site.url(&format!("/bench/{camera}/against"))).await?;
    // Both halves are drawn: ink above the middle line, the device's colour below it.
    let inked = |below: bool| {
        let (from, to) = if below { ("0.6", "0.85") } else { ("0.15", "0.4") };
        format!(
            "(() => {{ const c = document.querySelector('canvas[aria-label*=above]'), p = c.getContext('2d'); \
             const d = p.getImageData(0, c.height * {from}, c.width, c.height * ({to} - {from})).data; \
             let n = 0; for (let i = 3; i < d.length; i += 4) n += d[i] > 200; return n > 500; }})()"
        )
    };
    browser.until(&inked(false)).await?;
    browser.until(&inked(true)).await?;
    browser.until(&format!("{NEEDLE}.includes('0.0 f')")).await?;
    let moved = "document.querySelector('[aria-label=\"Moved by\"]')";
    browser.keys("d").await?;
    browser.until(&format!("{moved}.value === '+1.0 f · +40 ms'")).await?;
    browser.until(&format!("{NEEDLE}.includes('−1.0 f')")).await?;
    // What is typed lies there; nonsense is said to be none, and nothing moves.
    for (text, value) in
        [("-12 f", "−12.0 f · −480 ms"), ("nonsense", "−12.0 f · −480 ms"), ("25 ms", "+0.6 f · +25 ms")]
    {
        browser.script(&format!("{moved}.focus()")).await?;
        browser.keys(format!("{text}{}", thirtyfour::Key::Enter.value())).await?;
        if text == "nonsense" {
            browser.until_text("“nonsense” is no offset").await?;
            browser.keys(thirtyfour::Key::Escape.value().to_string()).await?;
        }
        browser.until(&format!("document.activeElement !== {moved} && {moved}.value === '{value}'")).await?;
    }
    browser.keys("0").await?;
    browser.until(&format!("{moved}.value === '0.0 f · 0.00 ms'")).await?;
    // Dragged a little aside the clip goes to what fits best near there, and where that is not wished it stays where it was
    // let go.
    let drag = "return (async () => {
        const box = document.querySelector('canvas[aria-label*=above]').parentElement;
        const edges = box.getBoundingClientRect();
        box.setPointerCapture = () => {};
        for (const [type, x] of [['down', 300], ['move', 306], ['move', 312], ['up', 312]]) {
          box.dispatchEvent(new PointerEvent(`pointer${type}`, { bubbles: true, pointerId: 1, buttons: 1,
              clientX: edges.left + x, clientY: edges.top + 0.8 * edges.height }));
          await new Promise(requestAnimationFrame);
        }
      })()";
    let count = "const ask = window.fetch; window.snaps = 0; window.fetch = async (...with_) => {
        const answer = await ask(...with_);
        if (/needle.*within_s=0\\.[0-9]+$/.test(String(with_[0]))) window.snaps += 1;
        return answer; };";
    browser.script(&format!("{count} {drag}")).await?;
    browser.until(&format!("window.snaps === 1 && {moved}.value.includes('0.0 f')")).await?;
    browser
        .script("[...document.querySelectorAll('label')].find(l => l.innerText === 'Snap').click()")
        .await?;
    browser
        .until("![...document.querySelectorAll('label')].find(l => l.innerText === 'Snap').control.checked")
        .await?;
    browser.script(drag).await?;
    browser.until(&format!("!{moved}.value.includes('0.0 f')")).await?;
    browser.keys("0").await?;
    browser.until(&format!("{moved}.value === '0.0 f · 0.00 ms'")).await?;
    // A check point is looped, and stands where it is when play ends.
    browser.keys("q").await?;
    browser.until_text("Stand").await?;
    browser.keys(" ").await?;
    browser.until("![...document.querySelectorAll('button')].some(b => b.innerText === 'Stand')").await?;
    // Nothing of all this was kept: nobody said that it lies there.
    ensure!(site.day().await?["pass"]["number"] == 1);
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_third_clip_shows_who_is_off_and_a_break_is_made_by_hand() -> Result<()> {
    at_prepared(doubt_and_break).await
}

async fn doubt_and_break(site: &Site, browser: &Browser) -> Result<()> {
    let day = site.day().await?;
    let named =
        |name: &str| clips(&day).iter().find(|clip| clip["file_name"] == name).map(|c| c["id"].clone());
    let camera = named("B001.mov").context("a camera")?;
    browser.driver.goto(site.url(&format!("/bench/{camera}/against"))).await?;
    let moved = "document.querySelector('[aria-label=\"Moved by\"]')";
    browser.until(&format!("{moved} && {moved}.value === '0.0 f · 0.00 ms'")).await?;
    // What is sharp in both is looked for first.
    browser.until_text("Near the start").await?;
    browser.keys("q").await?;
    browser.until_text("Stand").await?;
    browser.keys(" ").await?;
    let third = "(document.querySelector('[data-testid=third]')?.innerText ?? '')";
    browser.keys("h").await?;
    browser.until(&format!("{third}.includes('All three agree here.')")).await?;
    browser.keys("ddddd").await?;
    browser.until(&format!("{third}.includes('B001 is off: the other two agree.')")).await?;
    // Only what follows the playhead lies there now.
    browser.keys("k").await?;
    browser.until_text("break at").await?;
    let stretches = async || {
        let day = site.day().await?;
        let placed =
            day["placements"].as_array().and_then(|all| all.iter().find(|own| own["clip"] == camera));
        let placed = placed.context("a place")?["placement"].clone();
        anyhow::Ok((placed["verdict"].clone(), placed["stretches"].as_array().map_or(0, Vec::len)))
    };
    let (verdict, broken) = stretches().await?;
    ensure!(verdict == "by_hand" && broken > 1, "{verdict} {broken}");
    browser.until(&format!("{moved}.value === '0.0 f · 0.00 ms'")).await?;
    browser.keys_with(thirtyfour::Key::Alt, "k").await?;
    browser.until("![...document.querySelectorAll('section[aria-label=Drift] p')].some(p => p.innerText.includes('break at'))").await?;
    ensure!(stretches().await?.1 == broken - 1);
    // One channel by itself, where there are several.
    let channel = "document.querySelector('select[aria-label^=\"Channel of\"]')";
    browser.until(&format!("{channel}.options.length > 2")).await?;
    Ok(())
}

/// Listens to what goes to the loudspeakers, left and right apart; `later()` is how much later the right ear hears than the
/// left, in milliseconds, and how alike the two are.
const LISTEN: &str = "
    const connect = AudioNode.prototype.connect;
    window.heard = [[], []];
    AudioNode.prototype.connect = function (to, ...rest) {
      if (to === this.context.destination && !this.tap) {
        const { context } = this;
        if (!context.ear) {
          context.ear = context.createScriptProcessor(4096, 2, 1);
          context.ear.tap = true;
          context.ear.onaudioprocess = ({ inputBuffer }) =>
            window.heard.forEach((side, i) => side.push(inputBuffer.getChannelData(i).slice()));
          connect.call(context.ear, context.destination);
          window.rate = context.sampleRate;
        }
        connect.call(this, context.ear);
      }
      return connect.call(this, to, ...rest);
    };
    window.later = () => {
      const [left, right] = window.heard.map((side) => side.flatMap((block) => [...block]));
      const reach = Math.round(0.06 * window.rate), from = reach, to = left.length - reach;
      const energy = (side) => { let sum = 0; for (let i = from; i < to; i += 3) sum += side[i] ** 2; return sum; };
      const norm = Math.sqrt(energy(left) * energy(right));
      let [best, at] = [-1, 0];
      for (let lag = -reach; lag <= reach; lag++) {
        let sum = 0;
        for (let i = from; i < to; i += 3) sum += left[i] * right[i + lag];
        if (Math.abs(sum) > best) [best, at] = [Math.abs(sum), lag];
      }
      return [(1000 * at) / window.rate, best / norm];
    };";

#[tokio::test(flavor = "multi_thread")]
async fn two_sounds_are_heard_in_step() -> Result<()> {
    at_prepared(listen).await
}

async fn listen(site: &Site, browser: &Browser) -> Result<()> {
    browser.driver.goto(site.url("/day")).await?;
    browser.script(LISTEN).await?;
    let slip = "[...document.querySelectorAll('[data-testid=sheet] button')].find(b => b.innerText.includes('A001'))";
    browser.until(slip).await?;
    browser.script(&format!("{slip}.click()")).await?;
    browser.press("Lay it against another").await?;
    browser.until(&format!("{NEEDLE}.includes('0.0 f')")).await?;
    // One in each ear: the reference left, the clip right.
    browser.keys("o").await?;
    let moved = "document.querySelector('[aria-label=\"Moved by\"]')";
    for (typed, by_ms) in [("0 ms", 0.0), ("20 ms", 20.0), ("-15 ms", -15.0)] {
        browser.script(&format!("{moved}.focus()")).await?;
        browser.keys(format!("{typed}{}", thirtyfour::Key::Enter.value())).await?;
        browser.until(&format!("document.activeElement !== {moved}")).await?;
        browser.script("document.activeElement.blur(); window.heard = [[], []]").await?;
        browser.keys(" ").await?;
        // Two seconds of both.
        let both = "window.heard.every((side) => side.filter((block) => block.some((value) => Math.abs(value) > 1e-3)).length > 24)";
        browser.until(both).await?;
        browser.keys(" ").await?;
        let heard = browser.script("return window.later()").await?;
        let (later_ms, alike) = (heard[0].as_f64().context("a time")?, heard[1].as_f64().context("a share")?);
        println!("moved by {by_ms} ms: heard {later_ms:.2} ms later, {alike:.2} alike");
        ensure!((later_ms - by_ms).abs() < 5.0, "moved by {by_ms} ms it is heard {later_ms} ms later");
        ensure!(alike > 0.1, "{alike}");
    }
    Ok(())
}
