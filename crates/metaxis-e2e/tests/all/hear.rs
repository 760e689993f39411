//! What is heard in the page against what the simulator's camera would have heard: a clap at the head, in the middle and at the
//! tail of a long picture whose recorder ran 100 ppm faster.

use anyhow::{Context, Result, ensure};
use metaxis_core::clip::ClipId;
use metaxis_e2e::{Browser, Site, at_prepared_of, clip_of};
use metaxis_shoot::{Scenario, later, true_sound};
use serde_json::{Value, json};
use std::path::Path;

/// Moments of the claps in the camera's own time, seconds, and the keys that play from before each. The camera begins at 5.013 s
/// of a scene that has claps at 8, 157 and 305 s, and its clock is 50 ppm slow.
const CLAPS: [(f64, &str); 3] =
    [(8.0 - 5.013, "Home"), ((157.0 - 5.013) * (1.0 - 50e-6), "m"), ((305.0 - 5.013) * (1.0 - 50e-6), "End")];

/// So often a clap is played until the page keeps up with it: other tests have the machine too.
const TRIES: usize = 5;
/// Two hearings of a clap are of one moment where they are as near as this, milliseconds.
const AGREE_MS: f64 = 2.0;

/// Keeps what goes to the loudspeakers, with pulses beside it that say when by the sound's own clock; `heardAt(axis)` gives the
/// sound half a second around a moment of the pictures' clock, and the moment of its first sample; nothing where the page stood
/// still for so long meanwhile that the two clocks could not be held against each other.
const EAR: &str = "
    const connect = AudioNode.prototype.connect;
    window.ears = [];
    AudioNode.prototype.connect = function (to, ...rest) {
      const { context } = this;
      if (to === context.destination && !this.tap) {
        if (!context.ear) {
          context.ear = context.createChannelMerger(2);
          const tap = context.createScriptProcessor(4096, 2, 1);
          tap.tap = true;
          context.blocks = [];
          tap.onaudioprocess = ({ inputBuffer }) =>
            context.blocks.push([0, 1].map((side) => inputBuffer.getChannelData(side).slice()));
          connect.call(context.ear, tap);
          connect.call(tap, context.destination);
          window.ears.push(context);
        }
        connect.call(this, context.ear, 0, 0);
      }
      return connect.call(this, to, ...rest);
    };
    const clock = () => document.querySelector('[data-testid=listened]')?.dataset.clock;
    window.heardAt = async (axis, key) => {
      const frame = () => new Promise(requestAnimationFrame);
      const context = window.ears.at(-1), rate = context.sampleRate;
      context.blocks.length = 0;
      const pulses = context.createBuffer(1, 8 * rate, rate);
      for (let k = 0; k < 80; k++) pulses.getChannelData(0)[(k * rate) / 10] = (k + 1) / 128;
      const node = context.createBufferSource();
      node.buffer = pulses;
      connect.call(node, context.ear, 0, 1);
      const zero = Math.round((context.currentTime + 0.3) * rate) / rate;
      node.start(zero);
      // From the sound's clock to the pictures', each time that one moves on; the middle of all.
      const offsets = [];
      const before = clock();
      window.dispatchEvent(new KeyboardEvent('keydown', { key, cancelable: true }));
      const due = performance.now() + 5000;
      while ((clock() === before || clock() / 25 >= axis) && performance.now() < due) await frame();
      // Until the first sound is heard the pictures stand.
      const begun = clock() / 25 + 0.2;
      const watch = new MutationObserver(() => {
        const now = clock() / 25;
        const { contextTime, performanceTime } = context.getOutputTimestamp();
        if (now > begun) offsets.push(now - contextTime - (performance.now() - performanceTime) / 1000);
      });
      watch.observe(document.querySelector('[data-testid=listened]'), { attributeFilter: ['data-clock'] });
      while (clock() / 25 < axis + 0.6) await frame();
      watch.disconnect();
      if (offsets.length < 5) return null;
      const offset = offsets.sort((a, b) => a - b)[Math.floor(offsets.length / 2)];
      const [heard, marks] = [0, 1].map((side) => context.blocks.flatMap((block) => [...block[side]]));
      // The last pulse before the moment says where it is in what was kept.
      const mark = marks.flatMap((value, i) => (value > 0.005 ? [[i, zero + (Math.round(128 * value) - 1) / 10]] : []))
        .filter(([, time]) => time + offset < axis).at(-1);
      if (!mark) return null;
      const from = mark[0] + Math.round((axis - 0.25 - mark[1] - offset) * rate);
      return { begins: mark[1] + (from - mark[0]) / rate + offset, samples: heard.slice(from, from + rate / 2) };
    };";

#[tokio::test(flavor = "multi_thread")]
async fn a_clap_is_heard_with_its_picture_from_head_to_tail() -> Result<()> {
    at_prepared_of("long", claps).await
}

/// Plays the picture with its sound and returns how much later than in the picture each clap is heard, milliseconds.
async fn late(site: &Site, browser: &Browser, truth: &[f32]) -> Result<Vec<f64>> {
    browser.driver.goto(site.url("/turnover/sound")).await?;
    browser.script(EAR).await?;
    browser.until_text("Play it with its sound").await?;
    browser.press("Play it with its sound").await?;
    browser.until_text("Heard: Mix").await?;
    // A browser sounds once somebody touched it.
    browser.keys("m").await?;
    browser.until("window.ears.at(-1)?.state === 'running'").await?;
    let mut found = vec![];
    for (clap_s, key) in CLAPS {
        let mut heard: Vec<f64> = vec![];
        // Two that agree: once, the page may not have kept up.
        let agreed = loop {
            ensure!(heard.len() < TRIES, "at {clap_s:.0} s no two agree: {heard:?} ms");
            let own = heard_once(browser, truth, (clap_s, key)).await?;
            if let Some(other) = heard.iter().find(|other| (*other - own).abs() < AGREE_MS) {
                break (own + other) / 2.0;
            }
            heard.push(own);
        };
        found.push(agreed);
    }
    Ok(found)
}

/// Plays one clap; how much later than in the picture it is heard, milliseconds.
async fn heard_once(browser: &Browser, truth: &[f32], (clap_s, key): (f64, &str)) -> Result<f64> {
    let mut heard = Value::Null;
    for _ in 0..TRIES {
        heard = browser.script(&format!("return window.heardAt({clap_s}, '{key}')")).await?;
        if !heard.is_null() {
            break;
        }
    }
    let begins = heard["begins"].as_f64().context("a moment")?;
    let samples = heard["samples"].as_array().context("samples")?;
    let own: Vec<f32> = samples.iter().filter_map(|value| Some(value.as_f64()? as f32)).collect();
    // A tenth of a second about the clap.
    let at = ((clap_s - 0.03) * 48_000.0).round();
    let expected = -begins * 48_000.0;
    let lag = later(&own, truth, at as usize, 4800, expected, 4000).context("the clap is not heard")?;
    Ok((lag - expected) / 48.0)
}

async fn claps(site: &Site, browser: &Browser) -> Result<()> {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    let scenario: Scenario = serde_json::from_str(&std::fs::read_to_string(demo.join("long.json"))?)?;
    let truth =
        true_sound(&scenario, &demo.join("speech"), "R_RECORDER/R001.wav", "A_FLOOR/A001.mov", 48_000)?;

    let corrected = late(site, browser, &truth[0]).await?;
    println!("claps later than their pictures, ms: resampled {corrected:.2?}");
    ensure!(corrected.iter().all(|late| late.abs() < 5.0), "{corrected:?}");

    let recorder = clip_of(&site.day().await?, "R001.wav").context("the recorder")?;
    let left = json!({ "do": "correct", "devices": [], "clips": [ClipId(recorder)], "handling": { "correction": "leave", "fill": "silence" } });
    site.post("/api/sound/edits", json!({ "version": 0, "change": left })).await?;
    let as_it_ran = late(site, browser, &truth[0]).await?;
    println!("left as it ran {as_it_ran:.2?}");
    let apart = as_it_ran[2] - as_it_ran[0];
    // 100 ppm of the five minutes between.
    ensure!((apart - 29.7).abs() < 5.0, "{as_it_ran:?}");
    ensure!(as_it_ran.iter().any(|late| late.abs() > 5.0), "{as_it_ran:?}");

    // By key: played and stopped;
    for word in ["Stand still", "Play"] {
        browser.keys(" ").await?;
        let there = format!("[...document.querySelectorAll('button')].some(b => b.innerText === '{word}')");
        browser.until(&there).await?;
    }
    // one track alone, the next, and those together again.
    let said = |words: &str| format!("document.body.innerText.includes('Heard: {words}')");
    for (key, words) in
        [("2", "Boom alone"), ("2", "Mix"), ("t", "Mix alone"), ("t", "Boom alone"), ("T", "Mix")]
    {
        browser.keys(key).await?;
        browser.until(&format!("{} && !{}", said(words), said(&format!("{words} alone alone")))).await?;
    }
    Ok(())
}
