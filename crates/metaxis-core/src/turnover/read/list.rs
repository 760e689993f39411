//! What an edit decision list after SMPTE ST 258 says of pictures.

use super::{First, MOST_SHOTS, Mark, Media, ReadError, Shot, Told, counted};
use crate::time::Timecode;
use percent_encoding::percent_decode_str;
use std::collections::HashMap;

/// An event of a list.
#[derive(Debug, Clone)]
struct Event {
    reel: String,
    /// Frames of a dissolve.
    dissolve: i64,
    first: String,
    drop: bool,
    /// Record frames: from, and up to.
    record: (i64, i64),
    /// Frames a second at which its source goes by, where that is said.
    pace: Option<f64>,
    /// Names by the comments behind it: what it comes to, its file, what it is from.
    names: [Option<String>; 3],
}

/// Reads a list whose record side counts as `start` does.
pub(super) fn told(text: &str, start: Timecode) -> Result<Told, ReadError> {
    let mut reading = Reading::of(start);
    let lines = unfolded(text);
    for line in &lines {
        reading.line(line)?;
    }
    let Reading { events, marks, sounds, wipes, unread, legend, .. } = reading;
    let first = events.iter().map(|own| own.record.0).min().ok_or_else(|| {
        let said = lines.iter().find(|own| !own.trim().is_empty()).map_or("", String::as_str);
        let said: String = said.chars().take(60).collect();
        ReadError::Unknown(format!("no event of pictures is in it; it begins with “{said}”"))
    })?;
    let rate = start.rate.as_f64();
    let shot = |own: Event| {
        let mut names: Vec<String> = own.names.into_iter().flatten().collect();
        for name in &mut names {
            if let Some(whole) = legend.get(name.as_str()) {
                name.clone_from(whole);
            }
        }
        let is_black = own.reel == "BL" && names.is_empty();
        Shot {
            from_s: (own.record.0 - first) as f64 / rate,
            to_s: (own.record.1 - first) as f64 / rate,
            over: false,
            media: (!is_black).then_some(Media {
                names,
                fingerprint: None,
                reel: Some(own.reel),
                first: First::Label(own.first, own.drop),
            }),
            speed: own.pace.map_or(1.0, |own| own / rate),
            dissolve_s: own.dissolve as f64 / rate,
        }
    };
    let mut shots: Vec<Shot> = events.into_iter().map(shot).collect();
    shots.sort_by(|a, b| a.from_s.total_cmp(&b.from_s));
    let said = [
        counted(
            sounds,
            ["event is of sound: what is heard stays", "events are of sound: what is heard stays"],
        ),
        counted(wipes, ["wipe is a dissolve here", "wipes are dissolves here"]),
        counted(unread, ["line looks like an event, unreadable", "lines look like events, unreadable"]),
    ];
    let remarks = said.into_iter().flatten().collect();
    let marks = marks.iter().map(|(at, note)| {
        // Behind midnight it goes on.
        let passed = (at - first).rem_euclid(start.day());
        Mark::new(passed as f64 / rate, note, None)
    });
    Ok(Told { start_s: Some(first as f64 / rate), shots, marks: marks.collect(), remarks })
}

/// Lines, with what is said over several in one.
fn unfolded(text: &str) -> Vec<String> {
    let mut all: Vec<String> = vec![];
    for line in text.lines() {
        match (line.strip_prefix("*  +"), all.last_mut()) {
            (Some(more), Some(last)) => last.push_str(more),
            _ => all.push(line.trim_end().to_owned()),
        }
    }
    all
}

struct Reading {
    start: Timecode,
    drop: bool,
    events: Vec<Event>,
    /// What short names stand for.
    legend: HashMap<String, String>,
    /// Whether what is said belongs to the last of the events.
    is_of_picture: bool,
    sounds: usize,
    wipes: usize,
    unread: usize,
    /// Markers: record frames, and what is said there.
    marks: Vec<(i64, String)>,
}

impl Reading {
    fn of(start: Timecode) -> Self {
        Self {
            start,
            drop: start.drop,
            events: vec![],
            legend: HashMap::new(),
            is_of_picture: false,
            sounds: 0,
            wipes: 0,
            unread: 0,
            marks: vec![],
        }
    }

    fn line(&mut self, line: &str) -> Result<(), ReadError> {
        let upper = line.to_ascii_uppercase();
        if let Some(counting) = upper.strip_prefix("FCM:") {
            self.drop = !counting.trim_start().starts_with("NON") && counting.contains("DROP");
        } else if let Some(comment) = line.strip_prefix('*') {
            self.comment(comment.trim());
        } else if upper.starts_with("M2") {
            let pace = upper.split_whitespace().nth(2).and_then(|own| own.parse::<f64>().ok());
            if let (true, Some(last), Some(pace)) = (self.is_of_picture, self.events.last_mut(), pace) {
                last.pace = Some(pace).filter(|own| own.is_finite());
            }
        } else if line
            .split_whitespace()
            .next()
            .is_some_and(|own| own.bytes().all(|own| own.is_ascii_digit()))
        {
            self.event(line);
            if self.events.len() > MOST_SHOTS {
                return Err(ReadError::Impossible(format!("it has more than {MOST_SHOTS} events")));
            }
        }
        Ok(())
    }

    fn event(&mut self, line: &str) {
        let words: Vec<&str> = line.split_whitespace().collect();
        self.is_of_picture = false;
        let (Some(reel), Some(channels), Some(kind)) = (words.get(1), words.get(2), words.get(3)) else {
            return self.unread += 1;
        };
        let [first, _, begins, ends] = words[words.len().saturating_sub(4)..] else {
            return self.unread += 1;
        };
        if !(channels.contains('V') || *channels == "B") {
            return self.sounds += 1;
        }
        let labels = (self.record(begins), self.record(ends));
        let (Some(from), Some(to), true) = (labels.0, labels.1, words.len() >= 8) else {
            return self.unread += 1;
        };
        // A day ends at midnight, and the next begins there.
        let day = self.start.day();
        let to = if to < from { to + day } else { to };
        self.is_of_picture = true;
        if to == from {
            // What is come out of, and is there already.
            self.is_of_picture = false;
            return;
        }
        let is_wipe = kind.starts_with('W');
        self.wipes += usize::from(is_wipe);
        let dissolve = if *kind == "D" || is_wipe {
            words
                .get(4)
                .and_then(|own| own.parse().ok())
                .filter(|own| (0..100_000).contains(own))
                .unwrap_or(0)
        } else {
            0
        };
        self.events.push(Event {
            reel: reel.to_ascii_uppercase(),
            dissolve,
            first: first.to_owned(),
            drop: self.drop || first.contains(';'),
            record: (from, to),
            pace: None,
            names: [None, None, None],
        });
    }

    /// The frame of a label of the record side, after midnight.
    fn record(&self, label: &str) -> Option<i64> {
        if label.starts_with("24:00:00") {
            return Some(self.start.day());
        }
        Timecode::parse(&marked(label, self.start.drop), self.start.rate).ok().map(|own| own.frames)
    }

    fn comment(&mut self, comment: &str) {
        let decoded = |own: &str| percent_decode_str(own).decode_utf8_lossy().into_owned();
        if let Some((short, whole)) = comment.strip_prefix("FILE ").and_then(|own| own.split_once(" IS ")) {
            self.legend.insert(short.to_owned(), decoded(whole));
            return;
        }
        if let Some(said) = comment.strip_prefix("MARKER ") {
            let (label, note) = said.split_once(' ').unwrap_or((said, ""));
            return self.marks.extend(self.record(label).map(|at| (at, note.to_owned())));
        }
        let said = ["TO CLIP NAME:", "SOURCE FILE:", "FROM CLIP NAME:"]
            .iter()
            .position(|own| comment.to_ascii_uppercase().starts_with(own))
            .zip(comment.split_once(':'));
        if let (Some((which, (_, name))), true, Some(last)) =
            (said, self.is_of_picture, self.events.last_mut())
        {
            last.names[which] = Some(name.trim().to_owned()).filter(|own| !own.is_empty());
        }
    }
}

/// A label with the mark of how it counts before its frames.
pub(super) fn marked(label: &str, drop: bool) -> String {
    match label.rfind([':', ';', '.']) {
        Some(at) => format!("{}{}{}", &label[..at], if drop { ';' } else { ':' }, &label[at + 1..]),
        None => label.to_owned(),
    }
}
