//! The line: the switched programme of a group, and its edits. Every edit yields its inverse.

mod shown;

use crate::group::AngleId;
use serde::{Deserialize, Serialize};
use thiserror::Error;
use ts_rs::TS;

/// From frame `at` on, `angle` is on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct Switch {
    /// Group frame.
    #[ts(type = "number")]
    pub at: i64,
    /// The angle.
    pub angle: AngleId,
}

/// The line of a group. The first switch is at frame 0; the others follow in rising order, and no two
/// neighbours show the same angle.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct Line {
    /// Length in frames.
    #[ts(type = "number")]
    frames: i64,
    switches: Vec<Switch>,
}

/// A change to a line.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(tag = "do", rename_all = "snake_case")]
pub enum LineEdit {
    /// Put `angle` on from frame `at` to the next switch.
    Take {
        /// Group frame.
        #[ts(type = "number")]
        at: i64,
        /// The angle to take.
        angle: AngleId,
    },
    /// Show another angle in stretch `index`.
    ChangeAngle {
        /// Which stretch, from 0.
        index: usize,
        /// The angle to show.
        angle: AngleId,
    },
    /// Move the cut at the head of stretch `index` by frames.
    Roll {
        /// Which stretch, from 1.
        index: usize,
        /// Frames; later is positive.
        #[ts(type = "number")]
        by: i64,
    },
    /// Take the cut at the head of stretch `index` out; the stretch before runs on.
    Remove {
        /// Which stretch, from 1.
        index: usize,
    },
    /// Take out every cut after frame `at`.
    ClearAfter {
        /// Group frame.
        #[ts(type = "number")]
        at: i64,
    },
    /// Put these switches in place of all: the inverse of any edit.
    Restore {
        /// The switches to have.
        switches: Vec<Switch>,
    },
}

/// Why an edit is refused.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum LineError {
    /// No such frame.
    #[error("frame {at} is outside the line, which has {frames} frames")]
    Outside {
        /// Frame asked for.
        at: i64,
        /// Length of the line.
        frames: i64,
    },
    /// No such stretch.
    #[error("the line has no stretch {index}; it has {count}")]
    NoStretch {
        /// Stretch asked for.
        index: usize,
        /// How many there are.
        count: usize,
    },
    /// The head of the line is not a cut.
    #[error("the head of the line is no cut: it cannot be rolled or removed")]
    Head,
    /// A roll beyond a neighbouring cut.
    #[error("the cut can be rolled only between its neighbours: by {least} to {most} frames")]
    RollTooFar {
        /// Furthest roll to the left.
        least: i64,
        /// Furthest roll to the right.
        most: i64,
    },
    /// The angle is on already.
    #[error("this angle is on already")]
    NoChange,
    /// Switches that are not a line.
    #[error("switches must begin at frame 0 and rise within the line")]
    NotALine,
}

impl LineEdit {
    /// The angles that it names.
    pub fn angles(&self) -> Vec<AngleId> {
        match self {
            Self::Take { angle, .. } | Self::ChangeAngle { angle, .. } => vec![*angle],
            Self::Restore { switches } => switches.iter().map(|switch| switch.angle).collect(),
            Self::Roll { .. } | Self::Remove { .. } | Self::ClearAfter { .. } => vec![],
        }
    }
}

impl LineEdit {
    /// An edit made on a line from its frame `from` and stretch `stretch` on, as one of the whole line.
    pub fn within(self, from: i64, stretch: usize) -> Self {
        match self {
            Self::Take { at, angle } => Self::Take { at: at.saturating_add(from), angle },
            Self::ChangeAngle { index, angle } => {
                Self::ChangeAngle { index: index.saturating_add(stretch), angle }
            }
            Self::Roll { index, by } => Self::Roll { index: index.saturating_add(stretch), by },
            Self::Remove { index } => Self::Remove { index: index.saturating_add(stretch) },
            Self::ClearAfter { at } => Self::ClearAfter { at: at.saturating_add(from) },
            Self::Restore { switches } => Self::Restore {
                switches: switches
                    .iter()
                    .map(|own| Switch { at: own.at.saturating_add(from), ..*own })
                    .collect(),
            },
        }
    }
}

impl Line {
    /// A line of `frames` frames that shows `angle` throughout.
    pub fn new(frames: i64, angle: AngleId) -> Self {
        Self { frames: frames.max(1), switches: vec![Switch { at: 0, angle }] }
    }

    /// The same programme on other angles. Where one has none, the one before runs on; `None` where none has any.
    pub fn translated(&self, of: impl Fn(AngleId) -> Option<AngleId>) -> Option<Self> {
        let there = self.switches.iter().filter_map(|own| Some(Switch { angle: of(own.angle)?, ..*own }));
        let mut switches: Vec<Switch> = there.collect();
        switches.first_mut()?.at = 0;
        switches.dedup_by_key(|switch| switch.angle);
        Some(Self { switches, ..*self })
    }

    /// The same programme where frames are counted otherwise: each of its frames is `at` another one of `frames`.
    pub fn retimed(&self, frames: i64, at: impl Fn(i64) -> i64) -> Option<Self> {
        let moved = self.switches.iter().map(|own| Switch { at: at(own.at).max(0), ..*own });
        let mut switches: Vec<Switch> = vec![];
        for own in moved.filter(|own| own.at < frames) {
            match switches.last_mut() {
                // Of two that fall onto one frame the later is shown.
                Some(last) if last.at >= own.at => last.angle = own.angle,
                _ => switches.push(own),
            }
        }
        switches.first_mut()?.at = 0;
        switches.dedup_by_key(|switch| switch.angle);
        Some(Self { frames: frames.max(1), switches })
    }

    /// The same programme in another group: `by` frames later, of `frames` frames and of these angles. What lies outside goes,
    /// and so do switches to angles that are not there: the one before runs on.
    pub fn carried(&self, by: i64, frames: i64, angles: &[AngleId]) -> Option<Self> {
        let known = || self.switches.iter().filter(|switch| angles.contains(&switch.angle));
        let moved = |switch: &Switch| Switch { at: switch.at.saturating_add(by), ..*switch };
        let shown = known().map(moved).rfind(|switch| switch.at <= 0);
        let head = shown.map(|switch| switch.angle).or_else(|| known().next().map(|switch| switch.angle));
        let mut switches = vec![Switch { at: 0, angle: head.or_else(|| angles.first().copied())? }];
        switches.extend(known().map(moved).filter(|switch| (1..frames).contains(&switch.at)));
        switches.dedup_by_key(|switch| switch.angle);
        Some(Self { frames: frames.max(1), switches })
    }

    /// One line of several, each so many frames later and from and up to frames of the whole: between them the one before runs
    /// on. `None` where there is none.
    pub fn joined(frames: i64, parts: &[(&Self, i64, (i64, i64))]) -> Option<Self> {
        let mut switches: Vec<Switch> = vec![];
        for (line, by, (from, to)) in parts {
            for (own, (first, last, angle)) in line.stretches().enumerate() {
                let (first, last) = (if own == 0 { *from } else { first + by }, last + by);
                if last > *from && first < *to {
                    switches.push(Switch { at: first.max(*from), angle });
                }
            }
        }
        if let Some(head) = switches.first_mut() {
            head.at = 0;
        }
        switches.retain(|switch| switch.at < frames);
        switches.dedup_by_key(|switch| switch.angle);
        let rising = switches.windows(2).all(|pair| pair[0].at < pair[1].at);
        (rising && !switches.is_empty()).then_some(Self { frames: frames.max(1), switches })
    }

    /// Its switches, in order.
    pub fn switches(&self) -> &[Switch] {
        &self.switches
    }

    /// Length in frames.
    pub fn frames(&self) -> i64 {
        self.frames
    }

    /// Stretches as (first frame, frame after the last, angle).
    pub fn stretches(&self) -> impl Iterator<Item = (i64, i64, AngleId)> + '_ {
        self.switches.iter().enumerate().map(|(i, switch)| {
            let end = self.switches.get(i + 1).map_or(self.frames, |next| next.at);
            (switch.at, end, switch.angle)
        })
    }

    /// The angle on at `frame`.
    pub fn angle_at(&self, frame: i64) -> AngleId {
        self.switches[self.stretch_at(frame)].angle
    }

    /// The stretch that runs at `frame`; the first before the head.
    pub fn stretch_at(&self, frame: i64) -> usize {
        self.switches.partition_point(|switch| switch.at <= frame).saturating_sub(1)
    }

    /// Applies `edit` and returns the edit that undoes it.
    ///
    /// ```
    /// use metaxis_core::{group::AngleId, line::{Line, LineEdit}};
    ///
    /// let (wide, close) = (AngleId(1), AngleId(2));
    /// let mut line = Line::new(750, wide);
    /// let back = line.apply(&LineEdit::Take { at: 100, angle: close })?;
    /// assert_eq!((line.angle_at(99), line.angle_at(100)), (wide, close));
    /// line.apply(&back)?;
    /// assert_eq!(line, Line::new(750, wide));
    /// # Ok::<(), metaxis_core::line::LineError>(())
    /// ```
    ///
    /// # Errors
    /// A [`LineError`]; the line is then unchanged.
    pub fn apply(&mut self, edit: &LineEdit) -> Result<LineEdit, LineError> {
        let mut next = self.switches.clone();
        match *edit {
            LineEdit::Take { at, angle } => {
                self.inside(at)?;
                match next.binary_search_by_key(&at, |switch| switch.at) {
                    Ok(index) => next[index].angle = angle,
                    Err(index) => next.insert(index, Switch { at, angle }),
                }
            }
            LineEdit::ChangeAngle { index, angle } => {
                self.stretch(index)?;
                next[index].angle = angle;
            }
            LineEdit::Roll { index, by } => {
                self.cut(index)?;
                let least = next[index - 1].at + 1 - next[index].at;
                let most = next.get(index + 1).map_or(self.frames, |after| after.at) - 1 - next[index].at;
                if by < least || by > most {
                    return Err(LineError::RollTooFar { least, most });
                }
                next[index].at += by;
            }
            LineEdit::Remove { index } => {
                self.cut(index)?;
                next.remove(index);
            }
            LineEdit::ClearAfter { at } => {
                self.inside(at)?;
                next.retain(|switch| switch.at <= at);
            }
            LineEdit::Restore { ref switches } => {
                let rising = switches.windows(2).all(|pair| pair[0].at < pair[1].at);
                let inside = switches.iter().all(|switch| (0..self.frames).contains(&switch.at));
                if !rising || !inside || switches.first().is_none_or(|first| first.at != 0) {
                    return Err(LineError::NotALine);
                }
                next.clone_from(switches);
            }
        }
        next.dedup_by_key(|switch| switch.angle);
        if next == self.switches {
            return Err(LineError::NoChange);
        }
        let switches = std::mem::replace(&mut self.switches, next);
        Ok(LineEdit::Restore { switches })
    }

    fn inside(&self, at: i64) -> Result<(), LineError> {
        if (0..self.frames).contains(&at) {
            Ok(())
        } else {
            Err(LineError::Outside { at, frames: self.frames })
        }
    }

    fn stretch(&self, index: usize) -> Result<(), LineError> {
        let count = self.switches.len();
        if index < count { Ok(()) } else { Err(LineError::NoStretch { index, count }) }
    }

    fn cut(&self, index: usize) -> Result<(), LineError> {
        self.stretch(index)?;
        if index == 0 { Err(LineError::Head) } else { Ok(()) }
    }
}
