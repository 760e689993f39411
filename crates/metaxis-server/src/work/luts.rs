//! Viewing LUTs by their keys, and how the angles of a group differ as they are seen.

use crate::{App, error::ApiError};
use metaxis_core::{
    group::{Angle, AngleId, AnglePart, Group},
    lut::{Balance, BalanceDifference, Lut, LutKey, Neutral, SeenThrough, neutral},
};
use metaxis_media::{Stop, colours_at};
use metaxis_store::GroupId;
use serde::Serialize;
use std::collections::HashMap;
use ts_rs::TS;

/// A viewing LUT that can be chosen.
#[derive(Debug, Serialize, TS)]
pub struct LutView {
    key: LutKey,
    name: String,
    /// Whether a person brought it.
    own: bool,
}

/// How an angle's pictures differ from those of the first angle of its group.
#[derive(Debug, Serialize, TS)]
pub struct AngleBalance {
    angle: AngleId,
    /// By how much; `None` where the two never run together, or nothing is seen in them.
    differs: Option<BalanceDifference>,
    /// The same in words.
    said: Option<String>,
    /// Moments that were looked at.
    moments: usize,
}

/// Letters of a LUT's name.
const MOST_LETTERS: usize = 80;
/// Samples along an edge of what the page gets.
const SAMPLES: usize = 33;
/// Moments of a group that are looked at.
const MOMENTS: usize = 5;

/// All that can be chosen: those that are shipped, then those that were brought.
///
/// # Errors
/// Errors of the store.
pub fn luts(app: &App) -> Result<Vec<LutView>, ApiError> {
    let shipped = Neutral::all().map(|own| LutView { key: own.key(), name: own.name().into(), own: false });
    let brought = app.store.luts()?.into_iter().map(|(key, name)| LutView { key, name, own: true });
    Ok(shipped.chain(brought).collect())
}

/// A LUT.
///
/// # Errors
/// [`ApiError::NotFound`], and errors of the store.
pub fn lut(app: &App, key: &LutKey) -> Result<Lut, ApiError> {
    if let Some(own) = neutral(key) {
        return Ok(own.lut());
    }
    let missing =
        || ApiError::NotFound("there is no such viewing LUT: choose another, or bring it again".into());
    let text = app.store.lut_text(key)?.ok_or_else(missing)?;
    Lut::parse(&text).map_err(|e| ApiError::Refused(e.to_string()))
}

/// Refuses a key that stands for nothing.
///
/// # Errors
/// As [`lut`].
pub fn known(app: &App, key: Option<&LutKey>) -> Result<(), ApiError> {
    key.map_or(Ok(()), |key| lut(app, key).map(|_| ()))
}

/// Keeps a LUT that a person brought; the same one again is the same. It.
///
/// # Errors
/// Where the text is no LUT, saying why, and errors of the store.
pub fn bring(app: &App, file: &str, text: &str) -> Result<LutView, ApiError> {
    let lut = Lut::parse(text).map_err(|e| ApiError::Refused(format!("{file} cannot be taken: {e}")))?;
    let file = file.rsplit(['/', '\\']).next().unwrap_or_default();
    let stem = file.strip_suffix(".cube").or_else(|| file.strip_suffix(".CUBE")).unwrap_or(file);
    let is_said = |own: &&str| !own.trim().is_empty();
    let name = [stem, lut.title.as_deref().unwrap_or_default()].into_iter().find(is_said).unwrap_or("LUT");
    let name: String = name.chars().filter(|own| !own.is_control()).take(MOST_LETTERS).collect();
    let key = LutKey(format!("own-{}", &blake3::hash(text.as_bytes()).to_hex()[..24]));
    app.store.keep_lut(&key, name.trim(), text)?;
    Ok(LutView { key, name: name.trim().to_owned(), own: true })
}

/// A LUT's samples for colours from 0 to 1, 33 along an edge, red changing fastest: red, green, blue and 255 of each.
///
/// # Errors
/// As [`lut`].
pub fn samples(app: &App, key: &LutKey) -> Result<Vec<u8>, ApiError> {
    let cube = lut(app, key)?.resampled(SAMPLES);
    let byte = |own: f32| (own.clamp(0.0, 1.0) * 255.0).round() as u8;
    let values = cube.cube().unwrap_or_default().iter();
    Ok(values.flat_map(|[r, g, b]| [byte(*r), byte(*g), byte(*b), 255]).collect())
}

/// Frames in which an angle and the first one both run, spread over them.
fn moments(first: &Angle, own: &Angle) -> Vec<i64> {
    let both = first
        .parts
        .iter()
        .flat_map(|a| own.parts.iter().map(|b| (a.from_frame.max(b.from_frame), a.to_frame.min(b.to_frame))));
    let both: Vec<(i64, i64)> = both.filter(|(from, to)| from < to).collect();
    let all: i64 = both.iter().map(|(from, to)| to - from).sum();
    let at = |number: usize| {
        let mut into = all * (2 * number as i64 + 1) / (2 * MOMENTS as i64);
        both.iter().find_map(|(from, to)| {
            let inside = into < to - from;
            let at = inside.then_some(from + into);
            into -= to - from;
            at
        })
    };
    let mut frames: Vec<i64> = (0..MOMENTS).filter_map(at).collect();
    frames.dedup();
    frames
}

/// What pictures are seen at a frame of a group, through what they are seen through.
struct Looking<'a> {
    app: &'a App,
    group: &'a Group,
    luts: HashMap<AngleId, Lut>,
    seen: HashMap<(AngleId, i64), Option<Balance>>,
    stop: &'a Stop,
}

impl Looking<'_> {
    fn at(&mut self, angle: &Angle, frame: i64) -> Result<Option<Balance>, ApiError> {
        if let Some(seen) = self.seen.get(&(angle.id, frame)) {
            return Ok(*seen);
        }
        let part: Option<&AnglePart> = self.group.part_at(angle.id, frame);
        let balance = match part {
            Some(part) => {
                let clip = self.app.store.clip(part.clip)?;
                let cached = super::fingerprint(&clip.fingerprint).map(|own| self.app.cache.clip(&own))?;
                if !cached.is_whole(&cached.proxy()) {
                    self.app.make_again(part.clip)?;
                    return Err(ApiError::NotFound(
                        "light copies are still being made; try again shortly".into(),
                    ));
                }
                let at_s = (self.group.clip_frame(part, frame) as f64 + 0.5) / part.rate.as_f64();
                let mut pixels = colours_at(&cached, at_s, self.stop)?;
                if let Some(lut) = self.luts.get(&angle.id) {
                    for pixel in &mut pixels {
                        let seen = lut.apply(pixel.map(|code| f32::from(code) / 255.0));
                        *pixel = seen.map(|own| (own.clamp(0.0, 1.0) * 255.0).round() as u8);
                    }
                }
                Balance::of(&pixels)
            }
            None => None,
        };
        self.seen.insert((angle.id, frame), balance);
        Ok(balance)
    }
}

/// How the angles of a group differ from its first one in brightness and light, as they are seen.
///
/// # Errors
/// [`ApiError::NotFound`] while light copies are made; errors of the store and of media.
pub fn balances(app: &App, id: GroupId, stop: &Stop) -> Result<Vec<AngleBalance>, ApiError> {
    let group = app.store.group(id)?.group;
    let devices = app.store.day()?.devices;
    let mut luts = HashMap::new();
    for angle in &group.angles {
        let of_device = || devices.iter().find(|own| Some(own.id) == angle.device)?.lut.clone();
        let key = match &angle.through {
            Some(SeenThrough::Nothing) => None,
            Some(SeenThrough::Lut(key)) => Some(key.clone()),
            None => of_device(),
        };
        if let Some(key) = key {
            luts.insert(angle.id, lut(app, &key)?);
        }
    }
    let mut looking = Looking { app, group: &group, luts, seen: HashMap::new(), stop };
    let Some(first) = group.seen().find(|angle| !angle.parts.is_empty()) else { return Ok(vec![]) };
    let mut all = vec![];
    for angle in group.seen() {
        let mut pairs = vec![];
        for frame in moments(first, angle) {
            if let (Some(own), Some(other)) = (looking.at(angle, frame)?, looking.at(first, frame)?) {
                pairs.push((own, other));
            }
        }
        let differs = BalanceDifference::between(&pairs);
        let said = if angle.id == first.id { None } else { differs.map(|own| own.said()) };
        all.push(AngleBalance { angle: angle.id, differs, said, moments: pairs.len() });
    }
    Ok(all)
}
