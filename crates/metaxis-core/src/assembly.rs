//! An assembly: lines of several groups one behind another, in any order, with gaps and clips between them.

use crate::{
    line::{Layer, MOST_FRAMES},
    names::readable,
    time::FrameRate,
};
use serde::{Deserialize, Serialize};
use thiserror::Error;
use ts_rs::TS;

/// What an assembly is made of, in the order in which it is seen.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(tag = "is", rename_all = "snake_case")]
pub enum AssemblyPart {
    /// The line of a group as it is at the time, from and up to a frame of what is shown of it; all of it unless given.
    Line {
        /// The group's number.
        #[ts(type = "number")]
        group: i64,
        /// Those frames.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[ts(type = "[number, number]", optional)]
        range: Option<(i64, i64)>,
    },
    /// Nothing for so many frames.
    Gap {
        /// How many.
        #[ts(type = "number")]
        frames: i64,
    },
    /// A clip's pictures at a speed, without sound: slow motion that is put in. Where the layer lies says nothing.
    Clip {
        /// Which frames of it, and how fast.
        layer: Layer,
    },
}

/// Lines one behind another.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct Assembly {
    /// Its name.
    pub name: String,
    /// What it is made of.
    pub parts: Vec<AssemblyPart>,
}

/// A change of an assembly.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(tag = "do", rename_all = "snake_case")]
pub enum AssemblyEdit {
    /// It is called otherwise.
    Name {
        /// Its name.
        name: String,
    },
    /// Parts are put in front of part `at`, or at the end.
    Put {
        /// Which part, from 0.
        at: usize,
        /// They.
        parts: Vec<AssemblyPart>,
    },
    /// A part goes to another place.
    Move {
        /// Where it is,
        from: usize,
        /// and where it is then.
        to: usize,
    },
    /// Another part in place of one.
    Change {
        /// Which one.
        at: usize,
        /// What is there instead.
        part: AssemblyPart,
    },
    /// A part is not wanted.
    Take {
        /// Which one.
        at: usize,
    },
    /// All of it as it was: the inverse of any edit.
    Restore {
        /// As it was.
        was: Assembly,
    },
}

/// Why an edit is refused.
#[derive(Debug, Error, PartialEq, Eq)]
#[non_exhaustive]
pub enum AssemblyError {
    /// No such part.
    #[error("the assembly has no part {at}; it has {count}")]
    NoPart {
        /// Part asked for, from 1.
        at: usize,
        /// How many there are.
        count: usize,
    },
    /// A part of no frames, or of frames that are none.
    #[error("a part has one frame at least, and begins before it ends")]
    NoFrames,
    /// More than anybody assembles.
    #[error("an assembly has {MOST_PARTS} parts at most")]
    TooMany,
    /// A name that cannot be read.
    #[error("an assembly's name has between 1 and {} letters", crate::names::MOST_LETTERS)]
    Name,
    /// It is so already.
    #[error("it is so already")]
    NoChange,
}

/// The most parts.
pub const MOST_PARTS: usize = 2000;

impl AssemblyPart {
    fn can_be(&self) -> Result<(), AssemblyError> {
        let is_length = |own: i64| (1..MOST_FRAMES).contains(&own);
        let can = match self {
            Self::Line { range: Some((from, to)), .. } => *from >= 0 && from < to && is_length(*to),
            Self::Line { range: None, .. } => true,
            Self::Gap { frames } => is_length(*frames),
            Self::Clip { layer } => layer.can_be(),
        };
        if can { Ok(()) } else { Err(AssemblyError::NoFrames) }
    }
}

impl Assembly {
    /// One of nothing.
    ///
    /// # Errors
    /// [`AssemblyError::Name`].
    pub fn new(name: &str) -> Result<Self, AssemblyError> {
        Ok(Self { name: readable(name).ok_or(AssemblyError::Name)?, parts: vec![] })
    }

    /// Applies `edit` and returns the edit that undoes it.
    ///
    /// ```
    /// use metaxis_core::assembly::{Assembly, AssemblyEdit, AssemblyPart};
    ///
    /// let line = |group| AssemblyPart::Line { group, range: None };
    /// let mut own = Assembly::new("Day 1")?;
    /// own.apply(&AssemblyEdit::Put { at: 0, parts: vec![line(1), line(2), line(3)] })?;
    /// let back = own.apply(&AssemblyEdit::Move { from: 2, to: 0 })?;
    /// assert_eq!(own.parts, [line(3), line(1), line(2)]);
    /// own.apply(&back)?;
    /// assert_eq!(own.parts, [line(1), line(2), line(3)]);
    /// # Ok::<(), metaxis_core::assembly::AssemblyError>(())
    /// ```
    ///
    /// # Errors
    /// [`AssemblyError`]; then it is unchanged.
    pub fn apply(&mut self, edit: &AssemblyEdit) -> Result<AssemblyEdit, AssemblyError> {
        let mut next = self.clone();
        let count = self.parts.len();
        let there =
            |at: usize| if at < count { Ok(()) } else { Err(AssemblyError::NoPart { at: at + 1, count }) };
        match edit {
            AssemblyEdit::Name { name } => next.name = readable(name).ok_or(AssemblyError::Name)?,
            AssemblyEdit::Put { at, parts } => {
                parts.iter().try_for_each(AssemblyPart::can_be)?;
                let at = (*at).min(count);
                next.parts.splice(at..at, parts.iter().cloned());
            }
            AssemblyEdit::Move { from, to } => {
                there(*from)?;
                there(*to)?;
                let part = next.parts.remove(*from);
                next.parts.insert(*to, part);
            }
            AssemblyEdit::Change { at, part } => {
                there(*at)?;
                part.can_be()?;
                next.parts[*at] = part.clone();
            }
            AssemblyEdit::Take { at } => {
                there(*at)?;
                next.parts.remove(*at);
            }
            AssemblyEdit::Restore { was } => {
                was.parts.iter().try_for_each(AssemblyPart::can_be)?;
                next.clone_from(was);
            }
        }
        if next.parts.len() > MOST_PARTS {
            return Err(AssemblyError::TooMany);
        }
        if next == *self {
            return Err(AssemblyError::NoChange);
        }
        Ok(AssemblyEdit::Restore { was: std::mem::replace(self, next) })
    }
}

/// Lines that count frames at different rates cannot follow each other.
#[derive(Debug, Error, PartialEq, Eq)]
#[error("{first} counts {} frames a second and {other} {}: give both groups one rate", first_rate.as_f64(), other_rate.as_f64())]
#[non_exhaustive]
pub struct RatesDiffer {
    first: String,
    first_rate: FrameRate,
    other: String,
    other_rate: FrameRate,
}

/// The one rate of groups by their names; `None` of no groups.
///
/// # Errors
/// [`RatesDiffer`].
pub fn one_rate<'a>(
    groups: impl IntoIterator<Item = (&'a str, FrameRate)>,
) -> Result<Option<FrameRate>, RatesDiffer> {
    let mut groups = groups.into_iter();
    let Some((first, first_rate)) = groups.next() else { return Ok(None) };
    match groups.find(|(_, rate)| *rate != first_rate) {
        Some((other, other_rate)) => {
            Err(RatesDiffer { first: first.into(), first_rate, other: other.into(), other_rate })
        }
        None => Ok(Some(first_rate)),
    }
}
