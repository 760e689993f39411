//! Films: what is seen at every frame of a file of pictures that is made of a line, of angles side by side, or of a clip.

mod caption;
mod form;
mod run;

pub use caption::{Caption, Corner, Named};
pub use form::{BurnIn, Codec, FilmForm, FilmSound, Grade, ROWS, Wrapper};
pub use run::Run;

use crate::{
    clip::{ClipFacts, ClipId, PictureFacts},
    group::{AngleId, AnglePart, Group},
    line::{Layer, Line},
    time::{FrameRate, Timecode},
};
use std::collections::HashMap;

/// What a film is made of.
#[derive(Debug, Clone, PartialEq)]
pub enum Programme {
    /// A group's line, with what lies over it.
    Line(Box<Group>, Box<Line>),
    /// Angles of a group side by side; one alone fills the picture.
    Wall(Box<Group>, Vec<AngleId>),
    /// A clip by itself.
    Clip(ClipId),
    /// Films, or pieces of them, one behind another.
    Parts(Vec<Passage>),
}

/// A piece of a film within another.
#[derive(Debug, Clone, PartialEq)]
pub struct Passage {
    /// Where it begins in the other, frames.
    pub at: i64,
    /// The film that it is of,
    pub film: Film,
    /// from and up to which of its frames.
    pub range: (i64, i64),
}

impl Passage {
    /// How many frames it has.
    pub fn frames(&self) -> i64 {
        self.range.1 - self.range.0
    }
}

/// A film: so many frames, each made of pictures of clips.
#[derive(Debug, Clone, PartialEq)]
pub struct Film {
    /// What it is made of.
    pub programme: Programme,
    /// Frames a second.
    pub rate: FrameRate,
    /// How many.
    pub frames: i64,
    /// Width and height in pixels.
    pub size: (u32, u32),
    /// Label of its first frame, where there is one.
    pub start: Option<Timecode>,
    /// What is known of the clips, by number; those that are not here are not seen.
    clips: HashMap<ClipId, Shown>,
}

/// What is known of a clip's pictures.
#[derive(Debug, Clone, PartialEq)]
struct Shown {
    picture: PictureFacts,
    delay_s: f64,
}

/// A picture of a clip within a frame of a film.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Seen {
    /// The clip.
    pub clip: ClipId,
    /// The moment of its picture, seconds after its first.
    pub at_s: f64,
    /// Who shows it: each goes on from frame to frame, whatever the others do.
    pub lane: Lane,
    /// How much of it is there, 0 to 1, over what was there before.
    pub share: f64,
    /// Which of the film's fields it fills.
    pub field: usize,
    /// Which of the parts of the film shows it, from 0.
    pub part: usize,
}

impl Seen {
    /// What it is a picture of.
    pub fn showing(&self) -> Showing {
        Showing { part: self.part, lane: self.lane, clip: self.clip }
    }
}

/// A clip in one place of a film, which goes on there from frame to frame.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Showing {
    /// Which of the parts of the film shows it, from 0.
    pub part: usize,
    /// Who does.
    pub lane: Lane,
    /// The clip.
    pub clip: ClipId,
}

/// Who shows a picture.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Lane {
    /// An angle.
    Angle(AngleId),
    /// What lies over the line, by its number.
    Layer(usize),
    /// The clip itself.
    Clip,
}

/// A part of a film's picture.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Field {
    /// Left edge, pixels.
    pub x: u32,
    /// Upper edge, pixels.
    pub y: u32,
    /// Width, pixels.
    pub width: u32,
    /// Height, pixels.
    pub height: u32,
}

impl Film {
    /// A group's line.
    pub fn of_line<'a>(group: Group, line: Line, facts: impl Fn(ClipId) -> Option<&'a ClipFacts>) -> Self {
        let size = (group.width, group.height);
        let laid = line.layers().iter().map(|own| own.clip);
        let clips = known(clips_of(&group).chain(laid), facts);
        Self {
            rate: group.rate(),
            frames: group.frames,
            size,
            start: Some(group.start),
            clips,
            programme: Programme::Line(group.into(), line.into()),
        }
    }

    /// Angles of a group side by side, as many as are named and there.
    pub fn of_wall<'a>(
        group: Group,
        angles: Vec<AngleId>,
        facts: impl Fn(ClipId) -> Option<&'a ClipFacts>,
    ) -> Self {
        let clips = known(clips_of(&group), facts);
        Self {
            rate: group.rate(),
            frames: group.frames,
            size: (group.width, group.height),
            start: Some(group.start),
            clips,
            programme: Programme::Wall(group.into(), angles),
        }
    }

    /// A clip by itself, at its own rate; `None` where it has no moving pictures.
    pub fn of_clip(clip: ClipId, facts: &ClipFacts) -> Option<Self> {
        let picture = facts.picture.as_ref().filter(|own| !own.still)?;
        let counted = (picture.duration_s * picture.rate.as_f64()).round() as i64;
        Some(Self {
            rate: picture.rate,
            frames: picture.frames.filter(|_| picture.constant_rate).unwrap_or(counted).max(1),
            size: (picture.width, picture.height),
            start: facts.timecode.map(|own| own.at_rate(picture.rate, own.drop)),
            clips: known([clip].into_iter(), |_| Some(facts)),
            programme: Programme::Clip(clip),
        })
    }

    /// Films, or pieces of them, one behind another: each with the frames that are shown of it. It counts as `start` does, and is as
    /// small as the smallest that has a size.
    pub fn of_parts(parts: Vec<(Self, (i64, i64))>, start: Timecode) -> Self {
        let mut at = 0;
        let mut passages = vec![];
        for (film, range) in parts {
            passages.push(Passage { at, film, range });
            at += range.1 - range.0;
        }
        let sizes =
            passages.iter().map(|own| own.film.size).filter(|(width, height)| *width > 0 && *height > 0);
        let clips = passages.iter().flat_map(|own| own.film.clips.clone()).collect();
        Self {
            rate: start.rate,
            frames: at,
            size: sizes
                .min_by_key(|(width, height)| u64::from(*width) * u64::from(*height))
                .unwrap_or((0, 0)),
            start: Some(start),
            clips,
            programme: Programme::Parts(passages),
        }
    }

    /// The clips that are seen in it, in the order of their numbers.
    pub fn clips(&self) -> Vec<ClipId> {
        let mut all: Vec<ClipId> = self.clips.keys().copied().collect();
        all.sort();
        all
    }

    /// What is known of a clip's pictures.
    pub fn picture(&self, clip: ClipId) -> Option<&PictureFacts> {
        self.clips.get(&clip).map(|own| &own.picture)
    }

    /// The parts that its picture is made of, for a picture of this size: side by side in rows that are as long as there are, or
    /// one that fills it.
    pub fn fields(&self, (width, height): (u32, u32)) -> Vec<Field> {
        let count = match &self.programme {
            Programme::Wall(_, angles) => angles.len().max(1) as u32,
            Programme::Line(..) | Programme::Clip(_) | Programme::Parts(_) => 1,
        };
        let columns = (1..).find(|own| own * own >= count).unwrap_or(1);
        let rows = count.div_ceil(columns);
        // Colour is kept for two by two pixels.
        let edge = |number: u32, of: u32, all: u32| all * number / of / 2 * 2;
        let field = |number: u32| {
            let (column, row) = (number % columns, number / columns);
            let (x, y) = (edge(column, columns, width), edge(row, rows, height));
            Field {
                x,
                y,
                width: edge(column + 1, columns, width) - x,
                height: edge(row + 1, rows, height) - y,
            }
        };
        (0..count).map(field).collect()
    }

    /// What a frame is made of, the lowest first; nothing where it is black.
    pub fn seen(&self, frame: i64) -> Vec<Seen> {
        match &self.programme {
            Programme::Line(group, line) => self.on_line(group, line, frame),
            Programme::Wall(group, angles) => {
                let one = |(field, angle): (usize, &AngleId)| self.of_angle(group, *angle, frame, field, 1.0);
                angles.iter().enumerate().filter_map(one).collect()
            }
            Programme::Clip(clip) => {
                let at_s = (frame as f64 + 0.5) / self.rate.as_f64();
                vec![Seen { clip: *clip, at_s, lane: Lane::Clip, share: 1.0, field: 0, part: 0 }]
            }
            Programme::Parts(parts) => {
                let Some(part) = parts.partition_point(|own| own.at <= frame).checked_sub(1) else {
                    return vec![];
                };
                let Passage { at, film, range: (from, to) } = &parts[part];
                let own = frame - at + from;
                if own >= *to {
                    return vec![];
                }
                film.seen(own).into_iter().map(|seen| Seen { part, ..seen }).collect()
            }
        }
    }

    fn on_line(&self, group: &Group, line: &Line, frame: i64) -> Vec<Seen> {
        let covers = |(_, own): &(usize, &Layer)| (own.at..own.end()).contains(&frame);
        let over = line.layers().iter().enumerate().find(covers);
        let over = over.map(|(number, own)| self.of_layer(group, number, own, frame));
        if let Some(seen) = over.filter(|own| !own.is_empty()) {
            return seen;
        }
        let on_air = line.on_air(frame);
        let Some((before, share)) = on_air.coming else {
            return self.of_angle(group, on_air.angle, frame, 0, 1.0).into_iter().collect();
        };
        let before = self.of_angle(group, before, frame, 0, 1.0);
        let coming = self.of_angle(group, on_air.angle, frame, 0, share);
        match (before, coming) {
            // Out of a picture into black.
            (Some(own), None) => vec![Seen { share: 1.0 - share, ..own }],
            (before, coming) => before.into_iter().chain(coming).collect(),
        }
    }

    fn of_angle(&self, group: &Group, angle: AngleId, frame: i64, field: usize, share: f64) -> Option<Seen> {
        let part = group.part_at(angle, frame)?;
        let lane = Lane::Angle(angle);
        Some(Seen { clip: part.clip, at_s: self.moment(group, part, frame)?, lane, share, field, part: 0 })
    }

    /// The moment of a part's picture at a frame: the middle of the clip's frame that is on screen then.
    fn moment(&self, group: &Group, part: &AnglePart, frame: i64) -> Option<f64> {
        let own = self.clips.get(&part.clip)?;
        if !own.picture.constant_rate && !part.still {
            return Some(group.clip_position(part, frame) / part.rate.as_f64());
        }
        Some(middle(group.clip_frame(part, frame), &own.picture))
    }

    fn of_layer(&self, group: &Group, number: usize, layer: &Layer, frame: i64) -> Vec<Seen> {
        let Some(Shown { picture, delay_s }) = self.clips.get(&layer.clip) else { return vec![] };
        let seen = |at_s: f64, share: f64| Seen {
            clip: layer.clip,
            at_s,
            lane: Lane::Layer(number),
            share,
            field: 0,
            part: 0,
        };
        let part = layer.part(group, picture, *delay_s);
        let position = group.clip_position(&part, frame);
        let step = layer.speed.as_f64() * picture.rate.as_f64() / group.rate().as_f64();
        if layer.blended && step < 1.0 && !picture.still {
            // Between the middles of two frames.
            let lower = (position - 0.5).floor();
            let share = position - 0.5 - lower;
            let first = seen(middle(lower as i64, picture), 1.0);
            return if share > 0.0 {
                vec![first, seen(middle(lower as i64 + 1, picture), share)]
            } else {
                vec![first]
            };
        }
        let own = layer.clip_frame(frame, picture.rate, group.rate());
        vec![seen(if picture.still { 0.0 } else { middle(own, picture) }, 1.0)]
    }
}

/// The middle of a clip's frame, seconds after its first began.
fn middle(frame: i64, picture: &PictureFacts) -> f64 {
    (frame.max(0) as f64 + 0.5) / picture.rate.as_f64()
}

fn clips_of(group: &Group) -> impl Iterator<Item = ClipId> {
    group.angles.iter().flat_map(|angle| angle.parts.iter().map(|part| part.clip))
}

fn known<'a>(
    clips: impl Iterator<Item = ClipId>,
    facts: impl Fn(ClipId) -> Option<&'a ClipFacts>,
) -> HashMap<ClipId, Shown> {
    let one = |clip: ClipId| {
        let own = facts(clip)?;
        Some((clip, Shown { picture: own.picture.clone()?, delay_s: own.picture_delay_s() }))
    };
    clips.filter_map(one).collect()
}
