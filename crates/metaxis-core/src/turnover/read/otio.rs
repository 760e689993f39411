//! What an OpenTimelineIO document says (schemas Timeline.1, Stack.1, Track.1, Clip.1 and .2, Gap.1, Transition.1, LinearTimeWarp.1).

use super::{First, MOST_S, MOST_SHOTS, Mark, Media, ReadError, Shot, Told, counted};
use crate::line::{MarkerColour, both};
use percent_encoding::percent_decode_str;
use serde_json::Value;

/// Moments that are nearer than this are the same, seconds.
const NEAR_S: f64 = 1e-4;
/// So deep stacks may lie in each other.
const MOST_DEEP: usize = 16;

/// Reads a document.
pub(super) fn told(text: &str) -> Result<Told, ReadError> {
    let document: Value = serde_json::from_str(text).map_err(|e| ReadError::Unknown(e.to_string()))?;
    let timeline = timeline_in(&document)?;
    let mut told = Told { start_s: seconds(&timeline["global_start_time"]), ..Told::default() };
    let mut reading = Reading::default();
    reading.stack(&timeline["tracks"], Placed { from_s: 0.0, cut: None, over: false, deep: 0 })?;
    (told.shots, told.marks) = (reading.shots, reading.marks);
    let said = [
        counted(reading.unsaid, ["item has no length: left out", "items have no length: left out"]),
        counted(
            reading.other,
            ["item is of a kind that is not read", "items are of a kind that is not read"],
        ),
        counted(
            reading.frozen,
            [
                "shot stands still or runs backwards: black stands there",
                "shots stand still or run backwards: black stands there",
            ],
        ),
    ];
    told.remarks.extend(said.into_iter().flatten());
    Ok(told)
}

fn timeline_in(document: &Value) -> Result<&Value, ReadError> {
    match schema(document) {
        "Timeline" => Ok(document),
        "SerializableCollection" => {
            let all: Vec<&Value> =
                children(document).iter().filter(|own| schema(own) == "Timeline").collect();
            match all[..] {
                [one] => Ok(one),
                _ => Err(ReadError::Impossible(format!("it holds {} timelines: give one", all.len()))),
            }
        }
        other => Err(ReadError::Unknown(format!("its schema is “{other}”"))),
    }
}

/// The name of a schema, without its version.
fn schema(value: &Value) -> &str {
    let whole = value["OTIO_SCHEMA"].as_str().unwrap_or_default();
    whole.rsplit_once('.').map_or(whole, |(name, _)| name)
}

fn children(value: &Value) -> &[Value] {
    value["children"].as_array().map_or(&[], Vec::as_slice)
}

/// A time in seconds.
fn seconds(time: &Value) -> Option<f64> {
    let (value, rate) = (time["value"].as_f64()?, time["rate"].as_f64()?);
    let own = value / rate;
    (rate > 0.0 && own.is_finite() && own.abs() < MOST_S).then_some(own)
}

/// A range: from when on, and how long.
fn range(range: &Value) -> Option<(f64, f64)> {
    let own = (seconds(&range["start_time"])?, seconds(&range["duration"])?);
    (own.1 >= 0.0).then_some(own)
}

/// Where something lies.
#[derive(Clone, Copy)]
struct Placed {
    /// When its own beginning is seen.
    from_s: f64,
    /// From and up to when it is seen at all.
    cut: Option<(f64, f64)>,
    over: bool,
    deep: usize,
}

#[derive(Default)]
struct Reading {
    shots: Vec<Shot>,
    unsaid: usize,
    other: usize,
    frozen: usize,
    marks: Vec<Mark>,
}

impl Reading {
    /// What of a stack is seen: its picture tracks, the lowest first.
    fn stack(&mut self, stack: &Value, placed: Placed) -> Result<(), ReadError> {
        if placed.deep > MOST_DEEP {
            return Err(ReadError::Impossible("stacks lie in each other more than 16 deep".into()));
        }
        self.marked(stack, placed.from_s, 1.0, placed.cut);
        let deep = placed.deep + 1;
        let is_seen = |own: &&Value| {
            let of_sound = schema(own) == "Track" && own["kind"] != "Video";
            !of_sound && own["enabled"] != false
        };
        for (number, own) in children(stack).iter().filter(is_seen).enumerate() {
            let placed = Placed { over: placed.over || number > 0, deep, ..placed };
            match schema(own) {
                "Track" => self.track(own, placed)?,
                _ => {
                    self.item(own, placed, 0.0)?;
                }
            }
        }
        Ok(())
    }

    fn track(&mut self, track: &Value, placed: Placed) -> Result<(), ReadError> {
        let mut at_s = placed.from_s;
        let (mut early_s, mut dissolve_s) = (0.0, 0.0);
        // What is left out of its head is before it is seen.
        let mut placed = placed;
        if let Some((first, length)) = range(&track["source_range"]) {
            placed.cut = Some(within(placed.cut, (at_s, at_s + length)));
            at_s -= first;
        }
        self.marked(track, at_s, 1.0, placed.cut);
        for own in children(track) {
            if schema(own) == "Transition" {
                let (before, behind) = (seconds(&own["in_offset"]), seconds(&own["out_offset"]));
                (early_s, dissolve_s) =
                    (before.unwrap_or(0.0).max(0.0), before.unwrap_or(0.0) + behind.unwrap_or(0.0));
                continue;
            }
            let begun = self.shots.len();
            let length = self.item(own, Placed { from_s: at_s, ..placed }, dissolve_s)?;
            // Where what comes is made of several, the first of them comes so.
            if let Some(first) = self.shots.get_mut(begun) {
                first.dissolve_s = first.dissolve_s.max(dissolve_s);
            }
            // It begins to come before where they meet, and what it comes out of ends there.
            if early_s > 0.0
                && let Some(first) = self.shots.get_mut(begun)
            {
                first.begin_earlier(early_s);
                if let Some(before) = begun.checked_sub(1).and_then(|own| self.shots.get_mut(own)) {
                    before.to_s = before.to_s.min(at_s - early_s);
                }
            }
            (early_s, dissolve_s) = (0.0, 0.0);
            at_s += length;
        }
        Ok(())
    }

    /// Reads an item; how long it is.
    fn item(&mut self, own: &Value, placed: Placed, dissolve_s: f64) -> Result<f64, ReadError> {
        let kind = schema(own);
        let media = (kind == "Clip").then(|| reference(own)).flatten();
        let available = media.and_then(|own| range(&own["available_range"]));
        let Some((first_s, length_s)) = range(&own["source_range"]).or(available) else {
            return self.inner_length(own, placed, kind);
        };
        if self.shots.len() >= MOST_SHOTS {
            return Err(ReadError::Impossible(format!("it has more than {MOST_SHOTS} shots")));
        }
        let is_on = own["enabled"] != false;
        match kind {
            "Clip" if is_on => {
                let speed = speed(own);
                let is_moving = speed.is_finite() && speed > 0.0;
                self.frozen += usize::from(!is_moving && media.is_some());
                let media = media.filter(|_| is_moving).map(|media| Media {
                    names: names(own, media),
                    fingerprint: fingerprint(own, media),
                    reel: None,
                    first: match available {
                        Some((begins_s, _)) => First::Passed(first_s - begins_s),
                        None => First::Counted(first_s),
                    },
                });
                let pace = if is_moving { speed } else { 1.0 };
                let seen = within(placed.cut, (placed.from_s, placed.from_s + length_s));
                self.marked(own, placed.from_s - first_s / pace, pace, Some(seen));
                self.shot(placed, length_s, media, speed, dissolve_s);
            }
            "Clip" | "Gap" => {
                let seen = within(placed.cut, (placed.from_s, placed.from_s + length_s));
                self.marked(own, placed.from_s - first_s, 1.0, Some(seen));
                self.shot(placed, length_s, None, 1.0, dissolve_s);
            }
            "Stack" | "Track" if is_on => {
                let cut = within(placed.cut, (placed.from_s, placed.from_s + length_s));
                let inner = Placed { from_s: placed.from_s - first_s, cut: Some(cut), ..placed };
                if kind == "Stack" {
                    self.stack(own, inner)?;
                } else {
                    // Its range is told already.
                    let mut bare = own.clone();
                    bare["source_range"] = Value::Null;
                    self.track(&bare, inner)?;
                }
            }
            "Stack" | "Track" => self.shot(placed, length_s, None, 1.0, 0.0),
            _ => self.other += 1,
        }
        Ok(length_s)
    }

    /// What says no length itself: as long as what is in it.
    fn inner_length(&mut self, own: &Value, placed: Placed, kind: &str) -> Result<f64, ReadError> {
        let begun = self.shots.len();
        match kind {
            "Stack" if own["enabled"] != false => self.stack(own, placed)?,
            "Track" if own["enabled"] != false => self.track(own, placed)?,
            _ => self.unsaid += 1,
        }
        let ends = self.shots[begun..].iter().map(|own| own.to_s);
        Ok(ends.fold(placed.from_s, f64::max) - placed.from_s)
    }

    /// Reads the markers of something whose own time is nought at `zero_s` and goes by at `pace`, as far as it is seen.
    fn marked(&mut self, own: &Value, zero_s: f64, pace: f64, seen: Option<(f64, f64)>) {
        for mark in own["markers"].as_array().map_or(&[][..], Vec::as_slice) {
            // Slates are known.
            let is_known = mark["metadata"]["metaxis"]["of"] == "slate";
            let Some(own_s) = seconds(&mark["marked_range"]["start_time"]).filter(|_| !is_known) else {
                continue;
            };
            let at_s = zero_s + own_s / pace;
            // A moment is rounded where it is written.
            if seen.is_none_or(|(from, to)| (from - NEAR_S..to - NEAR_S).contains(&at_s)) {
                let said = |what: &str| mark[what].as_str().unwrap_or_default();
                let note = both(said("name"), said("comment"));
                self.marks.push(Mark::new(at_s, &note, Some(MarkerColour::of_otio(said("color")))));
            }
        }
    }

    fn shot(&mut self, placed: Placed, length_s: f64, media: Option<Media>, speed: f64, dissolve_s: f64) {
        let Placed { from_s, over, .. } = placed;
        let mut own = Shot { from_s, to_s: from_s + length_s, over, media, speed, dissolve_s };
        if let Some((from_s, to_s)) = placed.cut {
            if own.from_s < from_s {
                own.begin_earlier(own.from_s - from_s);
            }
            own.to_s = own.to_s.min(to_s);
        }
        // Nothing that lies over is nothing.
        if own.to_s > own.from_s && !(over && own.media.is_none()) {
            self.shots.push(own);
        }
    }
}

impl Shot {
    /// It begins so much earlier, with what its media has before; later where that is below nought.
    fn begin_earlier(&mut self, by_s: f64) {
        self.from_s -= by_s;
        if let Some(media) = &mut self.media
            && let First::Passed(own) | First::Counted(own) = &mut media.first
        {
            *own -= by_s * self.speed;
        }
    }
}

fn within(cut: Option<(f64, f64)>, (from, to): (f64, f64)) -> (f64, f64) {
    cut.map_or((from, to), |(first, last)| (first.max(from), last.min(to)))
}

/// The media that is taken: of several the active one.
fn reference(clip: &Value) -> Option<&Value> {
    let key = clip["active_media_reference_key"].as_str().unwrap_or("DEFAULT_MEDIA");
    let own = clip["media_references"].get(key).unwrap_or(&clip["media_reference"]);
    (!own.is_null() && schema(own) != "GeneratorReference").then_some(own)
}

/// What the media may be called: the end of where it lies, its name, the clip's.
fn names(clip: &Value, media: &Value) -> Vec<String> {
    let url = media["target_url"].as_str().unwrap_or_default();
    let end = url.rsplit(['/', '\\']).next().unwrap_or_default();
    let end = percent_decode_str(end).decode_utf8_lossy().into_owned();
    let said = [Some(end.as_str()), media["name"].as_str(), clip["name"].as_str()];
    said.into_iter().flatten().filter(|own| !own.is_empty()).map(str::to_owned).collect()
}

fn fingerprint(clip: &Value, media: &Value) -> Option<String> {
    // What was chosen instead of what was there has its own.
    let own = |of: &Value| of["metadata"]["metaxis"]["fingerprint"].as_str().map(str::to_owned);
    let is_the_same = media["name"].is_null() || media["name"] == "" || media["name"] == clip["name"];
    own(media).or_else(|| own(clip).filter(|_| is_the_same))
}

/// How fast a clip goes: all that is done to its time, one after the other.
fn speed(clip: &Value) -> f64 {
    let effects = clip["effects"].as_array().map_or(&[][..], Vec::as_slice);
    let scalar = |own: &Value| match schema(own) {
        "LinearTimeWarp" => own["time_scalar"].as_f64().unwrap_or(1.0),
        "FreezeFrame" => 0.0,
        _ => 1.0,
    };
    effects.iter().map(scalar).product()
}
