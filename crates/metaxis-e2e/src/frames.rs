//! How long the page takes from frame to frame, and from a key to what it shows.

use crate::Browser;
use anyhow::{Context, Result};
use serde_json::Value;

/// Prints the times between the frames of a run of steps, one step a frame; `step` is a statement that may use `i`, `box` (what
/// the expression `find` finds) and its `edges`.
///
/// # Errors
/// The browser's.
pub async fn frames(browser: &Browser, what: &str, find: &str, step: &str) -> Result<()> {
    let script = format!(
        "return new Promise(done => {{
           const box = {find}, edges = box.getBoundingClientRect(), times = [];
           let i = 0, last = 0;
           const next = now => {{
             if (i > 3) times.push(now - last);
             last = now;
             if (i++ < 160) {{ {step}; requestAnimationFrame(next); }} else done(times);
           }};
           requestAnimationFrame(next);
         }})"
    );
    let times = browser.script(&script).await?;
    let mut times: Vec<f64> = times.as_array().context("times")?.iter().filter_map(Value::as_f64).collect();
    times.sort_by(f64::total_cmp);
    let at = |share: f64| times[((times.len() - 1) as f64 * share) as usize];
    let late = times.iter().filter(|time| **time > 25.0).count();
    println!(
        "{what:<40} median {:>5.1} ms, 95th percentile {:>5.1} ms (asked: 16.7), {} of {} frames late",
        at(0.5),
        at(0.95),
        late,
        times.len()
    );
    Ok(())
}

/// Turns of a wheel that go closer and farther about the same moment.
pub const WHEEL: &str = "box.dispatchEvent(new WheelEvent('wheel', { ctrlKey: true, bubbles: true, cancelable: true, \
     deltaY: (i % 80 < 40 ? -1 : 1) * 50, clientX: edges.left + edges.width / 2, clientY: edges.top + edges.height / 3 }))";

/// Turns of a wheel that move along.
pub const ALONG: &str = "box.dispatchEvent(new WheelEvent('wheel', { bubbles: true, cancelable: true, \
     deltaY: i % 80 < 40 ? 30 : -30 }))";

/// The two clips against each other at the Bench.
pub const MIRROR: &str = "document.querySelector('canvas[aria-label*=above]')";

/// Whether the upper half of the mirror has ink.
pub fn inked() -> String {
    format!(
        "(() => {{ const c = {MIRROR}; if (!c || c.width < 10) return false; \
         const d = c.getContext('2d').getImageData(0, c.height * 0.2, c.width, c.height * 0.25).data; \
         let n = 0; for (let i = 3; i < d.length; i += 4) n += d[i] > 200; return n > 40; }})()"
    )
}

/// Milliseconds from the press of a key to the first ink of other waveforms in the mirror.
///
/// # Errors
/// The browser's.
pub async fn paint(browser: &Browser, key: &str) -> Result<f64> {
    let inked = inked();
    let code = key.to_uppercase();
    let script = format!(
        "return new Promise(done => {{ const was = {MIRROR}?.ariaLabel, from = performance.now();
           dispatchEvent(new KeyboardEvent('keydown', {{ key: '{key}', code: 'Key{code}' }}));
           const look = () => ({MIRROR} && {MIRROR}.ariaLabel !== was && {inked}) || performance.now() - from > 5000
             ? done(performance.now() - from) : requestAnimationFrame(look);
           requestAnimationFrame(look); }})"
    );
    browser.script(&script).await?.as_f64().context("a time")
}
