//! What a list says one after the other: pictures and sounds from one frame to another, each of one source.

use super::super::{
    Sources,
    over::{Over, over_parts},
};
use crate::{
    group::{Angle, AngleId, AnglePart, Group},
    line::{Ear, Earful, Line, Switch},
};

/// What an event is of; pictures come first where both begin.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Of {
    Picture,
    Sound,
}

/// What is written as one event.
#[derive(Debug, Clone)]
pub(super) struct Event {
    pub of: Of,
    /// What is shown or heard, of which angle; nothing where it is black.
    pub part: Option<(Angle, AnglePart)>,
    pub from: i64,
    pub to: i64,
    /// Over how many frames it comes out of the one before.
    pub dissolve: i64,
    /// Its frames in between are blended.
    pub blended: bool,
    /// Which channel it is on, where that is not said by its file, and what is on it.
    pub on: Option<(&'static str, String)>,
    /// It goes on with the clip before it, by a frame more or less: its clock was that much off.
    pub for_clock: bool,
}

impl Event {
    /// What is left of it where something lies over it: before, and behind.
    fn around(&self, from: i64, to: i64) -> impl Iterator<Item = Self> {
        let before = Self {
            to: self.to.min(from),
            dissolve: self.dissolve.min(from.saturating_sub(self.from)),
            ..self.clone()
        };
        let behind = Self { from: self.from.max(to), dissolve: 0, for_clock: false, ..self.clone() };
        // What begins behind it is as it was.
        let behind = if self.from > to { self.clone() } else { behind };
        let apart = self.to <= from || self.from > to;
        let both = if apart { [Some(self.clone()), None] } else { [Some(before), Some(behind)] };
        both.into_iter().flatten().filter(|own| own.from < own.to)
    }

    /// Cut in two at a frame within it.
    pub fn cut(self, at: i64) -> [Self; 2] {
        let behind = Self { from: at, dissolve: 0, for_clock: false, ..self.clone() };
        [Self { to: at, dissolve: self.dissolve.min(at - self.from), ..self }, behind]
    }
}

/// The events of a line between two of its frames, in order.
pub(super) fn events_of(
    group: &Group,
    line: &Line,
    (first, end): (i64, i64),
    sources: &Sources,
) -> Vec<Event> {
    let mut pictures = pictures(group, line, sources);
    for Over { angle, layer, .. } in over_parts(group, line, sources) {
        let (from, to) = (layer.at, layer.end());
        pictures = pictures.iter().flat_map(|own| own.around(from, to)).collect();
        let own = pieces(group, &angle, Of::Picture, (from, to), sources);
        pictures.extend(own.map(|own| Event { blended: layer.blended, ..own }));
    }
    pictures.sort_by_key(|own| own.from);
    let events = blacks_as_one(pictures).into_iter().chain(sounds(group, line, sources));
    // What lies before the first frame, and behind the last.
    let within = |own: Event| {
        let before: Vec<Event> = own.around(i64::MIN, first).collect();
        before.into_iter().flat_map(|own| own.around(end, i64::MAX).collect::<Vec<_>>())
    };
    let mut events: Vec<Event> = events.flat_map(within).collect();
    events.sort_by_key(|own| (own.from, own.of));
    events
}

fn pictures(group: &Group, line: &Line, sources: &Sources) -> Vec<Event> {
    stretches(line, |angle, range| match group.angle(angle) {
        Some(angle) => pieces(group, angle, Of::Picture, range, sources).collect(),
        None => vec![black(Of::Picture, range)],
    })
}

/// What is heard: the reference, or an angle's own where the line says so. Where there is no sound there is no event.
fn sounds(group: &Group, line: &Line, sources: &Sources) -> Vec<Event> {
    let over = over_parts(group, line, sources);
    let one = |own: Earful| -> Vec<Event> {
        let angle = match own.ear {
            Ear::Grid => group.sound.as_ref(),
            Ear::Angle(angle) => group.angle(angle),
            Ear::Layer(number) => over.iter().find(|over| over.number == number).map(|over| &over.angle),
        };
        let Some(angle) = angle else { return vec![] };
        coming(pieces(group, angle, Of::Sound, (own.from, own.to), sources).collect(), own.dissolve)
    };
    let all: Vec<Event> = line.ears().into_iter().flat_map(one).collect();
    let is_heard = |own: &Event| own.part.as_ref().is_some_and(|(_, part)| sources.has_sound(part));
    all.into_iter().filter(is_heard).collect()
}

/// The events of a line's stretches, each coming out of the one before as its switch says.
fn stretches(line: &Line, of: impl Fn(AngleId, (i64, i64)) -> Vec<Event>) -> Vec<Event> {
    let one = |((from, to, angle), switch): ((i64, i64, AngleId), &Switch)| {
        coming(of(angle, (from, to)), switch.dissolve)
    };
    line.stretches().zip(line.switches()).flat_map(one).collect()
}

/// The same, the first of them over some frames: a dissolve goes no further than what it comes to is one piece.
fn coming(mut all: Vec<Event>, dissolve: i64) -> Vec<Event> {
    if let Some(head) = all.first_mut() {
        head.dissolve = dissolve.min(head.to - head.from);
    }
    all
}

pub(super) fn black(of: Of, (from, to): (i64, i64)) -> Event {
    Event { of, part: None, from, to, dissolve: 0, blended: false, on: None, for_clock: false }
}

fn pieces<'a>(
    group: &'a Group,
    angle: &'a Angle,
    of: Of,
    (from, to): (i64, i64),
    sources: &'a Sources,
) -> impl Iterator<Item = Event> {
    let pieces = sources.pieces(group, angle, from, to);
    let before: Vec<Option<(i64, i64)>> = std::iter::once(None)
        .chain(pieces.iter().map(|(part, _, to)| part.map(|own| (own.clip.0, *to))))
        .collect();
    pieces.into_iter().zip(before).map(move |((part, from, to), before)| Event {
        part: part.map(|part| (angle.clone(), part.clone())),
        for_clock: part
            .is_some_and(|own| before == Some((own.clip.0, from)) && own.stretch.retimed().is_none()),
        ..black(of, (from, to))
    })
}

/// Black behind black is one: nobody sees where one ends.
fn blacks_as_one(events: Vec<Event>) -> Vec<Event> {
    let mut out: Vec<Event> = vec![];
    for own in events {
        match out.last_mut() {
            Some(last) if last.part.is_none() && own.part.is_none() && last.to == own.from => {
                last.to = own.to
            }
            _ => out.push(own),
        }
    }
    out
}
