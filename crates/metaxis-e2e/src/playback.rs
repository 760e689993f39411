//! Measuring playback: which frame each angle shows, read from the number drawn into its picture, against the
//! group clock.

use crate::{
    Browser, Site,
    sound_breaks::{COUNT_BREAKS, Heard, heard},
};
use anyhow::{Context, Result};
use metaxis_shoot::{CodeStrip, Truth, TruthClip};
use serde_json::Value;
use std::{cmp::Ordering, fmt, fs, time::Duration};
use thirtyfour::Key;

/// What was measured.
#[derive(Debug, Default)]
pub struct Figures {
    /// Seconds played.
    pub seconds: f64,
    /// Pictures looked at, over all angles.
    pub pictures: usize,
    /// Pictures within one frame of the group clock.
    pub in_step: usize,
    /// Pictures more than a frame before their time, which no slow machine explains.
    pub early: usize,
    /// Large pictures within one frame of the group clock, and how many were looked at.
    pub large: (usize, usize),
    /// How many angles there were.
    pub angles: usize,
    /// Whether the wall was made lighter.
    pub light: bool,
    /// What was heard meanwhile.
    pub heard: Heard,
    /// What the page held of its memory at the beginning and at the end, without garbage, with what was noted down here, MB.
    pub memory_mb: (f64, f64),
    /// Group frames that came on screen, and how many should have.
    pub frames: (usize, usize),
    /// For each key press: (frame on screen at the press, frame recorded, seconds until the large picture showed it).
    pub presses: Vec<(i64, i64, f64)>,
}

impl Figures {
    /// Share of pictures in step, 0 to 1.
    pub fn share(&self) -> f64 {
        self.in_step as f64 / self.pictures.max(1) as f64
    }
}

impl fmt::Display for Figures {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        writeln!(
            f,
            "playback of {} angles over {:.0} s{}: {:.2} % of {} pictures within one frame of the group clock (asked: 99 %)",
            self.angles,
            self.seconds,
            if self.light { ", a lighter wall" } else { "" },
            100.0 * self.share(),
            self.pictures
        )?;
        writeln!(
            f,
            "the large picture: {:.2} % of {} within one frame",
            100.0 * self.large.0 as f64 / self.large.1.max(1) as f64,
            self.large.1
        )?;
        writeln!(
            f,
            "sound: {} breaks of 5 ms or more in {:.0} s; memory of the page {:.0} MB, then {:.0} MB",
            self.heard.breaks,
            self.heard.samples as f64 / 48_000.0,
            self.memory_mb.0,
            self.memory_mb.1
        )?;
        writeln!(f, "group frames that came on screen: {} of {}", self.frames.0, self.frames.1)?;
        let slowest = self.presses.iter().map(|press| press.2).fold(0.0, f64::max);
        let exact = self.presses.iter().filter(|press| press.0 == press.1).count();
        writeln!(
            f,
            "key presses: {} of {} recorded at the frame on screen; slowest large picture {:.1} frames later (asked: 2)",
            exact,
            self.presses.len(),
            slowest * 25.0
        )
    }
}

/// A script's function that reads the number drawn into a canvas; negative where there is none.
fn reader() -> String {
    let (left, cell, cells) = (CodeStrip::LEFT, CodeStrip::CELL, CodeStrip::CELLS);
    let row = CodeStrip::TOP + CodeStrip::HEIGHT / 2.0;
    format!(
        "(c) => {{
           const d = c.getContext('2d').getImageData(0, Math.round({row} * c.height), c.width, 1).data;
           const bits = [];
           for (let i = 0; i < {cells}; i++) bits.push(d[4 * Math.round(({left} + {cell} * (i + 0.5)) * c.width)] > 128 ? 1 : 0);
           if (!bits[0]) return -1;
           const n = bits.slice(1, -1).reduce((n, b) => n * 2 + b, 0);
           return bits.slice(1).reduce((s, b) => s + b, 0) % 2 ? -2 : n;
         }}"
    )
}

/// A script's expression: the numbers in the small pictures, in the order of the angles.
pub fn read_numbers() -> String {
    format!("[...document.querySelectorAll('[data-testid^=angle-] canvas')].map({})", reader())
}

/// A script's expression: the number in the large picture.
pub fn read_large() -> String {
    format!("({})(document.querySelector('[data-testid=line-picture]'))", reader())
}

/// The numbers that the small pictures must carry at a group frame, by the truth of the shoot.
///
/// # Errors
/// Where a clip is not in the truth.
pub async fn expected_numbers(site: &Site, view: &Value, frame: i64) -> Result<Vec<i64>> {
    let truth: Truth = serde_json::from_slice(&fs::read(site.media.join("truth.json"))?)?;
    let day = site.day().await?;
    let axis = view["axis_start_s"].as_f64().context("no axis")? + (frame as f64 + 0.5) / 25.0;
    let angles = view["group"]["angles"].as_array().context("no angles")?;
    angles
        .iter()
        .map(|angle| {
            let clip = clip_at(angle, frame, &day, &truth).context("the angle does not run there")?;
            let own = own_time(clip, axis).context("not in the truth")?;
            let after = (0..clip.frames as usize).find(|n| frame_time(clip, *n) > own + 1e-4);
            Ok(after.unwrap_or(clip.frames as usize) as i64 - 1)
        })
        .collect()
}

/// Samples every displayed frame: group frame, clock, and the number in each picture.
fn sampler() -> String {
    format!(
        "const large = document.querySelector('[data-testid=line-picture]');
         const small = [...document.querySelectorAll('[data-testid^=angle-] canvas')];
         const read = {};
         window.samples = []; window.presses = [];
         addEventListener('keydown', (e) => presses.push({{ key: e.key, at: performance.now(), frame: Number(large.dataset.frame) }}), true);
         const step = () => {{
           samples.push([performance.now(), Number(large.dataset.frame), Number(large.dataset.clock), Number(large.dataset.angle), read(large), ...small.map(read)]);
           requestAnimationFrame(step);
         }};
         window.sample = () => requestAnimationFrame(step);",
        reader()
    )
}

/// Plays the first group from `from_s` for `seconds`, pressing angle keys on the way, and measures.
///
/// # Errors
/// Where the page or the server does not do its part.
pub async fn measure(site: &Site, browser: &Browser, from_s: f64, seconds: f64) -> Result<Figures> {
    let truth: Truth = serde_json::from_slice(&fs::read(site.media.join("truth.json"))?)?;
    let day: Value = site.day().await?;
    let group_id = day["groups"][0]["id"].as_i64().context("no group")?;
    // By way of Groups, so that what counts is there before anything is heard.
    browser.driver.goto(site.url(&format!("/groups/{group_id}"))).await?;
    browser.until("document.body.innerText.includes('Coverage and angle order')").await?;
    browser.script(COUNT_BREAKS).await?;
    browser.keys(Key::Enter.value().to_string()).await?;
    browser.until("document.querySelector('[data-testid=line-picture]')?.dataset.frame").await?;
    let angles = site.get(&format!("/api/groups/{group_id}")).await?["group"]["angles"].clone();
    let count = angles.as_array().map_or(1, Vec::len);
    let numbered = count.min(if count > 9 { count.div_ceil(2) } else { 9 });
    // Every picture has come once before the clock is started.
    browser.script(&sampler()).await?;
    browser.seek_line((from_s * 25.0) as i64).await?;
    browser.keys(" ").await?;
    browser.until("document.querySelector('[data-testid=line-picture]').dataset.clock").await?;
    browser.script("sample()").await?;
    let (early_mb, _) = browser.held().await?;
    let presses = ((seconds / 2.0) as usize).clamp(2, 20);
    for i in 0..presses {
        tokio::time::sleep(Duration::from_secs_f64(seconds / presses as f64)).await;
        browser.keys(format!("{}", (i + 1) % numbered + 1)).await?;
    }
    let heard = heard(browser).await?;
    let (late_mb, _) = browser.held().await?;
    let light = browser.script("return document.body.innerText.includes('A lighter wall')").await?;
    browser.keys(" ").await?;
    browser.until("document.body.innerText.includes('Play')").await?;
    // Standing still, everything catches up: the pictures and what the last key asked for.
    let frame = browser
        .script("return Number(document.querySelector('[data-testid=line-picture]').dataset.frame)")
        .await?;
    let view: Value = site.get(&format!("/api/groups/{group_id}")).await?;
    let expected = expected_numbers(site, &view, frame.as_i64().context("no frame")?).await?;
    browser
        .until(&format!("JSON.stringify({}) === '{}'", read_numbers(), serde_json::to_string(&expected)?))
        .await?;
    browser.script("samples.settled = samples.length").await?;
    browser.until("samples.length > samples.settled + 1").await?;
    let samples = browser.script("return samples.splice(0)").await?;
    let pressed = browser.script("return presses").await?;
    let found = figures(&samples, &pressed, &view, &day, &truth)?;
    Ok(Figures { angles: count, light: light == true, heard, memory_mb: (early_mb, late_mb), ..found })
}

fn figures(samples: &Value, pressed: &Value, view: &Value, day: &Value, truth: &Truth) -> Result<Figures> {
    let rows: Vec<Vec<f64>> = serde_json::from_value(samples.clone())?;
    let rows: Vec<&Vec<f64>> = rows.iter().filter(|row| row.iter().all(|value| value.is_finite())).collect();
    let mut found = Figures {
        seconds: (rows.last().context("nothing played")?[0] - rows[0][0]) / 1000.0,
        ..Figures::default()
    };
    let axis_start = view["axis_start_s"].as_f64().context("no axis")?;
    let angles = view["group"]["angles"].as_array().context("no angles")?;
    for row in &rows {
        let axis = axis_start + row[2] / 25.0;
        let on_air = angles.iter().find(|own| own["id"].as_f64() == Some(row[3]));
        if let Some(clip) = on_air.and_then(|angle| clip_at(angle, row[1] as i64, day, truth)) {
            found.large.1 += 1;
            found.large.0 += usize::from(against_clock(clip, row[4], axis) == Some(Ordering::Equal));
        }
        for (i, angle) in angles.iter().enumerate() {
            let Some(clip) = clip_at(angle, row[1] as i64, day, truth) else { continue };
            found.pictures += 1;
            let shown = row[5 + i];
            match against_clock(clip, shown, axis) {
                Some(Ordering::Equal) => found.in_step += 1,
                Some(Ordering::Greater) => found.early += 1,
                _ => {}
            }
        }
    }
    let mut shown: Vec<i64> = rows.iter().map(|row| row[1] as i64).collect();
    shown.dedup();
    found.frames = (shown.len(), (shown.last().unwrap_or(&0) - shown.first().unwrap_or(&0) + 1) as usize);
    let switches = view["line"]["switches"].as_array().context("no switches")?;
    for press in pressed.as_array().context("no presses")? {
        let Some(index) = press["key"].as_str().and_then(|key| key.parse::<usize>().ok()) else { continue };
        let device = angles[index - 1]["device"].as_f64().context("no device")?;
        let (at, frame) = (press["at"].as_f64().unwrap_or(0.0), press["frame"].as_i64().unwrap_or(-1));
        // The large picture shows the angle when its number is that of the angle's own picture.
        let seen = rows.iter().find(|row| row[0] >= at && row[3] == device && row[4] == row[4 + index]);
        let recorded = switches
            .iter()
            .filter(|switch| switch["angle"].as_f64() == Some(device))
            .filter_map(|switch| switch["at"].as_i64())
            .min_by_key(|at| (at - frame).abs())
            .unwrap_or(-1);
        let after = seen.map_or(f64::INFINITY, |row| (row[0] - at) / 1000.0);
        found.presses.push((frame, recorded, after));
    }
    Ok(found)
}

fn clip_at<'a>(angle: &Value, frame: i64, day: &Value, truth: &'a Truth) -> Option<&'a TruthClip> {
    let part = angle["parts"].as_array()?.iter().find(|part| {
        part["from_frame"].as_i64().is_some_and(|from| from <= frame)
            && part["to_frame"].as_i64().is_some_and(|to| frame < to)
    })?;
    let clip = day["clips"].as_array()?.iter().find(|clip| clip["id"] == part["clip"])?;
    truth.clip(clip["relative"].as_str()?)
}

/// Frame `shown` of a clip against what the truth has at axis time `axis`, give or take a group frame: equal where
/// it is in step, greater where it came too early. None where no number could be read.
fn against_clock(clip: &TruthClip, shown: f64, axis: f64) -> Option<Ordering> {
    let slack = 1.0 / 25.0 + 1e-6;
    let own = own_time(clip, axis)?;
    let frame = (shown >= 0.0).then_some(shown as usize)?;
    Some(if own < frame_time(clip, frame) - slack {
        Ordering::Greater
    } else if own > frame_time(clip, frame + 1) + slack {
        Ordering::Less
    } else {
        Ordering::Equal
    })
}

/// The clip's own time at an axis time, by the truth.
fn own_time(clip: &TruthClip, axis: f64) -> Option<f64> {
    let segment =
        clip.segments.iter().rev().find(|segment| segment.start_s <= axis).or(clip.segments.first())?;
    Some(segment.clip_start_s + (axis - segment.start_s) * (1.0 + clip.rate_ppm * 1e-6))
}

/// When a frame of the clip begins, in the clip's own time.
fn frame_time(clip: &TruthClip, frame: usize) -> f64 {
    let length: f64 = clip.segments.last().map_or(1.0, |segment| segment.clip_end_s);
    // Frames are whole parts of a second: the count gives the rate.
    let regular = frame as f64 / (clip.frames as f64 / length).round().max(1.0);
    clip.frame_times_s.get(frame).copied().unwrap_or(regular)
}
