//! The line as an edit decision list after SMPTE ST 258.

use super::{
    Sources,
    assembled::AssembledPart,
    over::{Over, over_parts},
    reels::Reels,
};
use crate::{
    group::{Angle, AnglePart, Group},
    line::Line,
    time::Timecode,
};
use thiserror::Error;

/// Why a line cannot be written as a list.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum CutListError {
    /// The form has three digits for the event number.
    #[error("the line has {0} events; an edit decision list holds 999 at most: split the group")]
    TooMany(usize),
}

/// What is written as one event.
#[derive(Clone)]
struct Event<'a> {
    /// What is shown, of which angle; nothing where it is black.
    part: Option<(&'a Angle, &'a AnglePart)>,
    from: i64,
    to: i64,
    /// Over how many frames it comes out of the one before.
    dissolve: i64,
    /// Its frames in between are blended.
    blended: bool,
}

impl Event<'_> {
    /// What is left of it where something lies over it: before, and behind.
    fn around(&self, from: i64, to: i64) -> impl Iterator<Item = Self> {
        let before = Self {
            to: self.to.min(from),
            dissolve: self.dissolve.min(from.saturating_sub(self.from)),
            ..self.clone()
        };
        let behind = Self { from: self.from.max(to), dissolve: 0, ..self.clone() };
        // What begins behind it is as it was.
        let behind = if self.from > to { self.clone() } else { behind };
        let apart = self.to <= from || self.from > to;
        let both = if apart { [Some(self.clone()), None] } else { [Some(before), Some(behind)] };
        both.into_iter().flatten().filter(|own| own.from < own.to)
    }
}

/// The events of a line between two of its frames, in order; `over` is what lies over it.
fn events_of<'a>(
    group: &'a Group,
    line: &Line,
    over: &'a [Over],
    (first, end): (i64, i64),
    sources: &Sources,
) -> Vec<Event<'a>> {
    let shown = |angle: &'a Angle, from: i64, to: i64, blended: bool| {
        let pieces = sources.pieces(group, angle, from, to).into_iter();
        pieces.map(move |(part, from, to)| Event {
            part: part.map(|part| (angle, part)),
            from,
            to,
            dissolve: 0,
            blended,
        })
    };
    let mut events: Vec<Event> = vec![];
    for ((from, to, angle), switch) in line.stretches().zip(line.switches()) {
        let head = events.len();
        match group.angle(angle) {
            Some(angle) => events.extend(shown(angle, from, to, false)),
            None => events.push(Event { part: None, from, to, dissolve: 0, blended: false }),
        }
        // A dissolve goes no further than what it comes to is one piece.
        if let Some(own) = events.get_mut(head) {
            own.dissolve = switch.dissolve.min(own.to - own.from);
        }
    }
    for Over { angle, layer } in over {
        let (from, to) = (layer.at, layer.end());
        events = events.iter().flat_map(|own| own.around(from, to)).collect();
        events.extend(shown(angle, from, to, layer.blended));
    }
    // What lies before the first frame, and behind the last.
    let events = events.iter().flat_map(|own| own.around(i64::MIN, first));
    let mut events: Vec<Event> =
        events.collect::<Vec<_>>().iter().flat_map(|own| own.around(end, i64::MAX)).collect();
    events.sort_by_key(|own| own.from);
    events
}

/// A line in a list: what is before it there, in frames.
struct Listed<'a> {
    group: &'a Group,
    events: Vec<Event<'a>>,
    /// The record frame of its group's frame 0; may be before the list's first.
    later: i64,
}

/// The list as text, lines ended by CR LF. Sources without timecode count from their first frame; where
/// the angle did not run, the reel is `BL` (black).
///
/// # Errors
/// [`CutListError::TooMany`].
pub fn cut_list(group: &Group, line: &Line, sources: &Sources) -> Result<String, CutListError> {
    let over = over_parts(group, line, sources);
    let events = events_of(group, line, &over, (0, group.frames), sources);
    written(&group.name, group.start, &[Listed { group, events, later: 0 }], sources)
}

/// The same of lines one behind another, of one rate; it begins at `start`.
///
/// # Errors
/// [`CutListError::TooMany`].
pub fn assembly_list(
    name: &str,
    start: Timecode,
    parts: &[AssembledPart],
    sources: &Sources,
) -> Result<String, CutListError> {
    let over: Vec<Vec<Over>> = parts.iter().map(|own| over_parts(&own.group, &own.line, sources)).collect();
    let mut before = 0;
    let listed = parts.iter().zip(&over).map(|(own, over)| {
        let events = events_of(&own.group, &own.line, over, own.range, sources);
        let later = before - own.range.0;
        before += own.range.1 - own.range.0;
        Listed { group: &own.group, events, later }
    });
    let listed: Vec<Listed> = listed.collect();
    written(name, start, &listed, sources)
}

fn written(
    name: &str,
    start: Timecode,
    listed: &[Listed],
    sources: &Sources,
) -> Result<String, CutListError> {
    let count = listed.iter().map(|own| own.events.len()).sum();
    if count > 999 {
        return Err(CutListError::TooMany(count));
    }
    let counting = if start.drop { "DROP FRAME" } else { "NON-DROP FRAME" };
    let mut text = format!("TITLE: {}\r\nFCM: {counting}\r\n\r\n", one_line(name));
    let rate = start.rate;
    let mut number = 0;
    let mut reels = Reels::default();
    for Listed { group, events, later } in listed {
        let record = |frame: i64| start.plus(frame + later);
        // Nothing comes out of another group's line.
        let mut before: Option<(String, Timecode)> = None;
        for Event { part, from: begin, to: end, dissolve, blended } in events.iter().cloned() {
            let speed = part.and_then(|(angle, part)| sources.speed(angle, part));
            let source = part.and_then(|(_, part)| Some((part, sources.clips.get(&part.clip)?)));
            let (reel, first) = match source {
                Some((part, source)) => {
                    // Its own label, as the list counts: what is written on the file, not when it was.
                    let frame = group.clip_frame(part, begin);
                    (reels.of(part.clip, source), source.label(frame, part.rate, rate))
                }
                None => ("BL".to_owned(), Timecode::new(0, rate, start.drop)),
            };
            let length = end - begin;
            // A list says speeds to a tenth of a frame: clocks are no matter for it.
            let speed = speed.filter(|speed| (speed - 1.0).abs() * rate.as_f64() >= 0.05 && source.is_some());
            let taken = speed.map_or(length, |speed| ((length as f64 * speed).round() as i64).max(1));
            number += 1;
            // Letter, blanks, and the three digits of a dissolve's frames.
            let cut = "C        ".to_owned();
            let kind = match &before {
                Some((reel, ends)) if dissolve > 0 => {
                    // What it comes out of, of no length, as the form wants it.
                    text += &format!(
                        "{number:03}  {reel:<8} V     {cut}{ends} {ends} {at} {at}\r\n",
                        at = record(begin)
                    );
                    format!("D    {:03} ", dissolve.min(999))
                }
                _ => cut,
            };
            text += &format!(
                "{number:03}  {reel:<8} V     {kind}{} {} {} {}\r\n",
                first,
                first.plus(taken),
                record(begin),
                record(end),
            );
            before = Some((reel.clone(), first.plus(taken)));
            if let Some(speed) = speed {
                let frames = speed * rate.as_f64();
                text += &format!("M2   {reel:<8} {frames:05.1} {:>27}\r\n", first.to_string());
            }
            if blended {
                text += "* FRAMES IN BETWEEN ARE BLENDED\r\n";
            }
            if let Some((_, source)) = source {
                text += &format!("* SOURCE FILE: {}\r\n", one_line(&source.file_name));
            }
        }
    }
    text += &reels.legend();
    Ok(text)
}

fn one_line(text: &str) -> String {
    text.chars().map(|c| if c.is_control() { ' ' } else { c }).collect()
}
