//! The line: the switched programme of a group, and its edits. Every edit yields its inverse.

mod differ;
mod ears;
mod edit;
mod error;
mod first_cut;
mod layer;
mod marker;
mod music_cut;
mod pauses;
mod shown;
mod within;

pub use differ::LineDifference;
pub use ears::{Ear, Earful};
pub use edit::LineEdit;
pub use error::LineError;
pub use first_cut::{FirstCutHabit, Microphone, Shot, Why, first_cut};
pub(crate) use layer::MOST_FRAMES;
pub use layer::{Layer, Speed, SpeedError};
pub(crate) use marker::both;
pub use marker::{MOST_LETTERS, Marker, MarkerColour};
pub use music_cut::music_cut;
pub use pauses::{LEVELS_PER_SECOND, QuietFound, QuietHabit, quiet_passages};

use crate::group::AngleId;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// From frame `at` on, `angle` is on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct Switch {
    /// Group frame.
    #[ts(type = "number")]
    pub at: i64,
    /// The angle; [`AngleId::BLACK`] where nothing is shown.
    pub angle: AngleId,
    /// Over how many frames from there on it comes out of what was on before; 0 of a cut.
    #[serde(default, skip_serializing_if = "is_cut")]
    #[ts(optional, as = "Option<i32>")]
    pub dissolve: i64,
}

fn is_cut(dissolve: &i64) -> bool {
    *dissolve == 0
}

impl Switch {
    /// A cut to an angle.
    pub fn cut(at: i64, angle: AngleId) -> Self {
        Self { at, angle, dissolve: 0 }
    }
}

/// What is on at a frame of a line.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct OnAir {
    /// The angle that is on, or comes.
    pub angle: AngleId,
    /// What it comes out of, and how much of it is there in the middle of the frame, 0 to 1.
    pub coming: Option<(AngleId, f64)>,
}

/// The line of a group. The first switch is at frame 0; the others follow in rising order, and no two
/// neighbours show the same angle.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct Line {
    /// Length in frames.
    #[ts(type = "number")]
    frames: i64,
    switches: Vec<Switch>,
    /// What a person marked, in order, one at a frame.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[ts(optional, as = "Option<Vec<Marker>>")]
    markers: Vec<Marker>,
    /// What lies over it, in order, apart from each other.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[ts(optional, as = "Option<Vec<Layer>>")]
    layers: Vec<Layer>,
    /// What is heard, as a line of its own: an angle's own sound, and what comes out of the group's grid where that is
    /// [`AngleId::BLACK`]. The grid throughout unless given.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    sound: Option<Box<Line>>,
}

impl Line {
    /// A line of `frames` frames that shows `angle` throughout.
    pub fn new(frames: i64, angle: AngleId) -> Self {
        Self {
            frames: frames.max(1),
            switches: vec![Switch::cut(0, angle)],
            markers: vec![],
            layers: vec![],
            sound: None,
        }
    }

    /// The same programme on other angles. Where one has none, the one before runs on; `None` where none has any.
    pub fn translated(&self, of: impl Fn(AngleId) -> Option<AngleId>) -> Option<Self> {
        self.translated_by(&of)
    }

    fn translated_by(&self, given: &dyn Fn(AngleId) -> Option<AngleId>) -> Option<Self> {
        let of = |angle| if angle == AngleId::BLACK { Some(angle) } else { given(angle) };
        let there = self.switches.iter().filter_map(|own| Some(Switch { angle: of(own.angle)?, ..*own }));
        let mut switches: Vec<Switch> = there.collect();
        switches.first_mut()?.at = 0;
        let sound = self.sound.as_ref().and_then(|own| own.translated_by(given)).map(Box::new);
        Some(Self { switches, sound, ..self.clone() }.tidied())
    }

    /// The same programme where frames are counted otherwise: each of its frames is `at` another one of `frames`.
    pub fn retimed(&self, frames: i64, at: impl Fn(i64) -> i64) -> Option<Self> {
        self.retimed_by(frames, &at)
    }

    fn retimed_by(&self, frames: i64, at: &dyn Fn(i64) -> i64) -> Option<Self> {
        let moved = self.switches.iter().map(|own| {
            let (begin, end) = (at(own.at).max(0), at(own.at + own.dissolve).max(0));
            Switch { at: begin, angle: own.angle, dissolve: end - begin }
        });
        let mut switches: Vec<Switch> = vec![];
        for own in moved.filter(|own| own.at < frames) {
            match switches.last_mut() {
                // Of two that fall onto one frame the later is shown.
                Some(last) if last.at >= own.at => last.angle = own.angle,
                _ => switches.push(own),
            }
        }
        switches.first_mut()?.at = 0;
        let markers = self.markers.iter().map(|own| Marker { at: at(own.at), ..own.clone() }).collect();
        let sound = self.sound.as_ref().and_then(|own| own.retimed_by(frames, at)).map(Box::new);
        let layers = self.layers.iter().map(|own| Layer {
            at: at(own.at),
            frames: at(own.end()) - at(own.at),
            skip: at(own.at) - at(own.at - own.skip),
            ..own.clone()
        });
        let layers = layers.filter(|own| own.frames > 0).collect();
        Some(Self { frames: frames.max(1), switches, markers, layers, sound }.tidied())
    }

    /// The same programme in another group: `by` frames later, of `frames` frames and of these angles. What lies outside goes,
    /// and so do switches to angles that are not there: the one before runs on.
    pub fn carried(&self, by: i64, frames: i64, angles: &[AngleId]) -> Option<Self> {
        let is_known = |switch: &&Switch| switch.angle == AngleId::BLACK || angles.contains(&switch.angle);
        let known = || self.switches.iter().filter(is_known);
        let moved = |switch: &Switch| Switch { at: switch.at.saturating_add(by), ..*switch };
        let shown = known().map(moved).rfind(|switch| switch.at <= 0);
        let head = shown.map(|switch| switch.angle).or_else(|| known().next().map(|switch| switch.angle));
        let mut switches = vec![Switch::cut(0, head.or_else(|| angles.first().copied())?)];
        switches.extend(known().map(moved).filter(|switch| (1..frames).contains(&switch.at)));
        let markers = self.markers.iter().map(|own| Marker { at: own.at.saturating_add(by), ..own.clone() });
        // What is not there any more leaves the grid's sound.
        let heard: Vec<AngleId> = [AngleId::BLACK].into_iter().chain(angles.iter().copied()).collect();
        let sound = self.sound.as_ref().and_then(|own| own.carried(by, frames, &heard)).map(Box::new);
        let layers = self.layers.iter().map(|own| own.later(by)).collect();
        Some(Self { frames: frames.max(1), switches, markers: markers.collect(), layers, sound }.tidied())
    }

    /// One line of several, each so many frames later and from and up to frames of the whole: between them the one before runs
    /// on. `None` where there is none.
    pub fn joined(frames: i64, parts: &[(&Self, i64, (i64, i64))]) -> Option<Self> {
        let (mut switches, mut markers): (Vec<Switch>, Vec<Marker>) = (vec![], vec![]);
        let mut layers = vec![];
        for (line, by, (from, to)) in parts {
            for (own, (first, last, angle)) in line.stretches().enumerate() {
                let (first, last) = (if own == 0 { *from } else { first + by }, last + by);
                if last > *from && first < *to {
                    switches.push(Switch { at: first.max(*from), angle, ..line.switches[own] });
                }
            }
            let own = line.markers.iter().map(|own| Marker { at: own.at + by, ..own.clone() });
            markers.extend(own.filter(|own| (*from..*to).contains(&own.at)));
            layers.extend(line.layers.iter().filter_map(|own| own.later(*by).within(*from, *to)));
        }
        if let Some(head) = switches.first_mut() {
            head.at = 0;
        }
        switches.retain(|switch| switch.at < frames);
        let heard: Vec<Self> = parts.iter().map(|(line, ..)| line.heard()).collect();
        let is_switched = parts.iter().any(|(line, ..)| line.sound.is_some());
        let of_sound: Vec<(&Self, i64, (i64, i64))> =
            heard.iter().zip(parts).map(|(own, (_, by, range))| (own, *by, *range)).collect();
        let sound = if is_switched { Self::joined(frames, &of_sound).map(Box::new) } else { None };
        let joined = Self { frames: frames.max(1), switches, markers, layers, sound }.tidied();
        let rising = joined.switches.windows(2).all(|pair| pair[0].at < pair[1].at);
        (rising && !joined.switches.is_empty()).then_some(joined)
    }

    /// Its switches, in order.
    pub fn switches(&self) -> &[Switch] {
        &self.switches
    }

    /// What is heard along it: an angle's own sound, or the grid's where that is [`AngleId::BLACK`].
    pub fn heard(&self) -> Self {
        self.sound.as_ref().map_or_else(|| Self::new(self.frames, AngleId::BLACK), |own| (**own).clone())
    }

    /// What is marked, in order.
    pub fn markers(&self) -> &[Marker] {
        &self.markers
    }

    /// What lies over it, in order.
    pub fn layers(&self) -> &[Layer] {
        &self.layers
    }

    /// The same without what lies over it.
    #[must_use]
    pub fn bare(&self) -> Self {
        Self { layers: vec![], ..self.clone() }
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

    /// What is on at `frame`, with what it comes out of where it dissolves there.
    ///
    /// ```
    /// use metaxis_core::{group::AngleId, line::{Line, LineEdit}};
    ///
    /// let mut line = Line::new(100, AngleId(1));
    /// line.apply(&LineEdit::take(40, AngleId(2)))?;
    /// line.apply(&LineEdit::Dissolve { index: 1, frames: 9 })?;
    /// assert_eq!(line.on_air(39).coming, None);
    /// assert_eq!(line.on_air(44).coming, Some((AngleId(1), 0.5)));
    /// assert_eq!(line.on_air(49).coming, None);
    /// # Ok::<(), metaxis_core::line::LineError>(())
    /// ```
    pub fn on_air(&self, frame: i64) -> OnAir {
        let index = self.stretch_at(frame);
        let Switch { at, angle, dissolve } = self.switches[index];
        let before = index.checked_sub(1).map(|before| self.switches[before].angle);
        let is_coming = (at..at + dissolve).contains(&frame);
        let share = ((frame - at) as f64 + 0.5) / dissolve.max(1) as f64;
        OnAir { angle, coming: before.filter(|_| is_coming).map(|before| (before, share)) }
    }

    /// As a line has to be: neighbours differ, no dissolve is longer than its stretch, none stands at the head; markers lie within it,
    /// one at a frame.
    fn tidied(mut self) -> Self {
        self.switches.dedup_by_key(|switch| switch.angle);
        let ends: Vec<i64> = self.stretches().map(|(_, end, _)| end).collect();
        for (number, (switch, end)) in self.switches.iter_mut().zip(ends).enumerate() {
            let most = if number == 0 { 0 } else { end - switch.at };
            switch.dissolve = switch.dissolve.clamp(0, most.max(0));
        }
        self.markers.retain(|own| (0..self.frames).contains(&own.at));
        self.markers.sort_by_key(|own| own.at);
        self.markers.dedup_by_key(|own| own.at);
        self.layers = layer::tidied(self.layers, self.frames);
        // The grid throughout is said in one way.
        self.sound.take_if(|own| own.switches.len() == 1 && own.switches[0].angle == AngleId::BLACK);
        self
    }
}
