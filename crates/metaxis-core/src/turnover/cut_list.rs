//! The line as an edit decision list after SMPTE ST 258.

use super::{Source, Sources};
use crate::{
    group::{Angle, AnglePart, Group},
    line::Line,
    time::{Tick, Timecode},
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
struct Event<'a> {
    /// What is shown, of which angle; nothing where it is black.
    part: Option<(&'a Angle, &'a AnglePart)>,
    from: i64,
    to: i64,
    /// Over how many frames it comes out of the one before.
    dissolve: i64,
}

/// The list as text, lines ended by CR LF. Sources without timecode count from their first frame; where
/// the angle did not run, the reel is `BL` (black).
///
/// # Errors
/// [`CutListError::TooMany`].
pub fn cut_list(group: &Group, line: &Line, sources: &Sources) -> Result<String, CutListError> {
    let mut events: Vec<Event> = vec![];
    for ((from, to, angle), switch) in line.stretches().zip(line.switches()) {
        let first = events.len();
        match group.angle(angle) {
            Some(angle) => {
                let pieces = sources.pieces(group, angle, from, to).into_iter();
                events.extend(pieces.map(|(part, from, to)| Event {
                    part: part.map(|part| (angle, part)),
                    from,
                    to,
                    dissolve: 0,
                }));
            }
            None => events.push(Event { part: None, from, to, dissolve: 0 }),
        }
        // A dissolve goes no further than what it comes to is one piece.
        if let Some(own) = events.get_mut(first) {
            own.dissolve = switch.dissolve.min(own.to - own.from);
        }
    }
    if events.len() > 999 {
        return Err(CutListError::TooMany(events.len()));
    }
    let counting = if group.start.drop { "DROP FRAME" } else { "NON-DROP FRAME" };
    let mut text = format!("TITLE: {}\r\nFCM: {counting}\r\n\r\n", one_line(&group.name));
    let rate = group.rate();
    let mut before: Option<(String, Timecode)> = None;
    for (i, Event { part, from: begin, to: end, dissolve }) in events.into_iter().enumerate() {
        let speed = part.and_then(|(angle, part)| sources.speed(angle, part));
        let source = part.and_then(|(_, part)| Some((part, sources.clips.get(&part.clip)?)));
        let (reel, first) = match source {
            Some((part, source)) => {
                // The list counts in the group's rate; the source's frames are at its own.
                let own = source.first_frame(part.rate) + group.clip_frame(part, begin);
                (reel_name(source), Tick::of_frame(own, part.rate).frame(rate))
            }
            None => ("BL".to_owned(), 0),
        };
        let length = end - begin;
        let label = |frame: i64| match source {
            Some((_, source)) => source.label(frame, rate),
            None => Timecode::new(frame, rate, group.start.drop),
        };
        // A list says speeds to a tenth of a frame: clocks are no matter for it.
        let speed = speed.filter(|speed| (speed - 1.0).abs() * rate.as_f64() >= 0.05 && source.is_some());
        let taken = speed.map_or(length, |speed| ((length as f64 * speed).round() as i64).max(1));
        let number = i + 1;
        // Letter, blanks, and the three digits of a dissolve's frames.
        let cut = "C        ".to_owned();
        let kind = match &before {
            Some((reel, ends)) if dissolve > 0 => {
                // What it comes out of, of no length, as the form wants it.
                text += &format!(
                    "{number:03}  {reel:<8} V     {cut}{ends} {ends} {at} {at}\r\n",
                    at = group.label(begin)
                );
                format!("D    {:03} ", dissolve.min(999))
            }
            _ => cut,
        };
        text += &format!(
            "{number:03}  {reel:<8} V     {kind}{} {} {} {}\r\n",
            label(first),
            label(first + taken),
            group.label(begin),
            group.label(end),
        );
        before = Some((reel.clone(), label(first + taken)));
        if let Some(speed) = speed {
            let frames = speed * rate.as_f64();
            text += &format!("M2   {reel:<8} {frames:05.1} {:>27}\r\n", label(first).to_string());
        }
        if let Some((_, source)) = source {
            text += &format!("* SOURCE FILE: {}\r\n", one_line(&source.file_name));
        }
    }
    Ok(text)
}

fn one_line(text: &str) -> String {
    text.chars().map(|c| if c.is_control() { ' ' } else { c }).collect()
}

/// Eight letters or digits at most, as the form wants it.
fn reel_name(source: &Source) -> String {
    let name: String = source
        .reel()
        .chars()
        .filter(char::is_ascii_alphanumeric)
        .take(8)
        .collect::<String>()
        .to_ascii_uppercase();
    if name.is_empty() { "AX".to_owned() } else { name }
}
