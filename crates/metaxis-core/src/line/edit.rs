//! Edits of a line, each with the one that takes it back.

use super::{Layer, Line, LineError, MOST_LETTERS, Marker, Switch, layer};
use crate::group::AngleId;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

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
        /// The frame of the take before in the same live run: what was there between the two is gone.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[ts(optional, as = "Option<i32>")]
        since: Option<i64>,
        /// The live run that it is a part of; those of one run are undone together.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[ts(optional, as = "Option<i32>")]
        run: Option<i64>,
    },
    /// A live run ends: what it took last at `from` holds up to `to`, where what was there goes on; to the end where nobody had cut
    /// behind it.
    Hold {
        /// Frame of the last take.
        #[ts(type = "number")]
        from: i64,
        /// Frame at which the run stood still.
        #[ts(type = "number")]
        to: i64,
        /// The run.
        #[ts(type = "number")]
        run: i64,
        /// The switches before the run.
        before: Vec<Switch>,
    },
    /// The cut at the head of stretch `index` dissolves over so many frames from there on; 0 makes it a cut again.
    Dissolve {
        /// Which stretch, from 1.
        index: usize,
        /// Frames.
        #[ts(type = "number")]
        frames: i64,
    },
    /// The line comes out of black at its head, or goes into it at its tail, over so many frames; 0 takes that out.
    Fade {
        /// At the head, else at the tail.
        head: bool,
        /// Frames.
        #[ts(type = "number")]
        frames: i64,
    },
    /// An edit of what is heard along the line.
    Sound {
        /// What is done.
        edit: Box<LineEdit>,
    },
    /// A marker at a frame, in place of one that is there.
    PutMarker {
        /// It.
        marker: Marker,
    },
    /// The marker at a frame is not wanted.
    TakeMarker {
        /// Group frame.
        #[ts(type = "number")]
        at: i64,
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
    /// Move both cuts of stretch `index` by frames: it is as long as before, of another moment.
    Slip {
        /// Which stretch, neither the first nor the last.
        index: usize,
        /// Frames; later is positive.
        #[ts(type = "number")]
        by: i64,
    },
    /// A layer over the line, in place of what it covers of others.
    Lay {
        /// It.
        layer: Layer,
    },
    /// Another layer in place of one.
    Relay {
        /// Which one, from 0.
        index: usize,
        /// What is there instead.
        layer: Layer,
    },
    /// A layer is not wanted.
    Lift {
        /// Which one, from 0.
        index: usize,
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
    /// An edit of what is shown of the line, on the frames that are.
    Within {
        /// The frames that are shown, from and up to, in order.
        #[ts(type = "Array<[number, number]>")]
        left: Vec<(i64, i64)>,
        /// What is done.
        edit: Box<LineEdit>,
    },
    /// Put these switches in place of all: the inverse of any edit.
    Restore {
        /// The switches to have.
        switches: Vec<Switch>,
        /// The markers to have, where they are others.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[ts(optional)]
        markers: Option<Vec<Marker>>,
        /// The layers to have, where they are others.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[ts(optional)]
        layers: Option<Vec<Layer>>,
        /// The switches of what is heard to have, where they are others.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[ts(optional)]
        sound: Option<Vec<Switch>>,
    },
}

impl LineEdit {
    /// Puts an angle on from a frame to the next switch.
    pub fn take(at: i64, angle: AngleId) -> Self {
        Self::Take { at, angle, since: None, run: None }
    }

    /// The angles that it names.
    pub fn angles(&self) -> Vec<AngleId> {
        match self {
            Self::Take { angle, .. } | Self::ChangeAngle { angle, .. } => vec![*angle],
            Self::Restore { switches, sound, .. } => {
                switches.iter().chain(sound.iter().flatten()).map(|switch| switch.angle).collect()
            }
            Self::Hold { before, .. } => before.iter().map(|switch| switch.angle).collect(),
            Self::Within { edit, .. } | Self::Sound { edit } => edit.angles(),
            _ => vec![],
        }
    }

    /// Switches in place of all; markers, layers and what is heard stay.
    pub fn restore(switches: Vec<Switch>) -> Self {
        Self::Restore { switches, markers: None, layers: None, sound: None }
    }

    /// Whether it ends a live run.
    pub fn is_hold(&self) -> bool {
        match self {
            Self::Hold { .. } => true,
            Self::Within { edit, .. } | Self::Sound { edit } => edit.is_hold(),
            _ => false,
        }
    }

    /// The live run that it is a part of.
    pub fn run(&self) -> Option<i64> {
        match self {
            Self::Take { run, .. } => *run,
            Self::Hold { run, .. } => Some(*run),
            Self::Within { edit, .. } | Self::Sound { edit } => edit.run(),
            _ => None,
        }
    }
}

impl Line {
    /// Applies `edit` and returns the edit that undoes it.
    ///
    /// ```
    /// use metaxis_core::{group::AngleId, line::{Line, LineEdit}};
    ///
    /// let (wide, close) = (AngleId(1), AngleId(2));
    /// let mut line = Line::new(750, wide);
    /// let back = line.apply(&LineEdit::take(100, close))?;
    /// assert_eq!((line.angle_at(99), line.angle_at(100)), (wide, close));
    /// line.apply(&back)?;
    /// assert_eq!(line, Line::new(750, wide));
    /// # Ok::<(), metaxis_core::line::LineError>(())
    /// ```
    ///
    /// # Errors
    /// A [`LineError`]; the line is then unchanged.
    pub fn apply(&mut self, edit: &LineEdit) -> Result<LineEdit, LineError> {
        let mut next = self.clone();
        let switches = &mut next.switches;
        match *edit {
            LineEdit::Take { at, angle, since, .. } => {
                self.inside(at)?;
                let since = since.unwrap_or(at);
                switches.retain(|switch| switch.at <= since || switch.at >= at);
                put(switches, Switch::cut(at, angle));
            }
            LineEdit::Hold { from, to, ref before, .. } => {
                self.inside(from)?;
                let was = Self { switches: before.clone(), ..Self::new(self.frames, AngleId::BLACK) };
                was.can_be()?;
                switches.retain(|switch| switch.at <= from);
                // What nobody cut there has no say: whoever goes on cutting goes on with what was taken.
                let is_cut = was.switches.iter().any(|own| own.at > to);
                if to > from && to < self.frames && is_cut {
                    let at_once = was.switches.iter().find(|own| own.at == to);
                    switches.push(at_once.copied().unwrap_or(Switch::cut(to, was.angle_at(to))));
                    switches.extend(was.switches.iter().filter(|own| own.at > to));
                }
            }
            LineEdit::ChangeAngle { index, angle } => {
                self.stretch(index)?;
                switches[index].angle = angle;
            }
            LineEdit::Roll { index, by } => {
                self.cut(index)?;
                let least = switches[index - 1].at + 1 - switches[index].at;
                let most =
                    switches.get(index + 1).map_or(self.frames, |after| after.at) - 1 - switches[index].at;
                if by < least || by > most {
                    return Err(LineError::RollTooFar { least, most });
                }
                switches[index].at += by;
            }
            LineEdit::Slip { index, by } => {
                self.stretch(index)?;
                let (Some(before), Some(tail)) = (index.checked_sub(1), switches.get(index + 1)) else {
                    return Err(LineError::NoSlip);
                };
                let least = switches[before].at + 1 - switches[index].at;
                let most = switches.get(index + 2).map_or(self.frames, |after| after.at) - 1 - tail.at;
                if by < least || by > most {
                    return Err(LineError::SlipTooFar { least, most });
                }
                switches[index].at += by;
                switches[index + 1].at += by;
            }
            LineEdit::Lay { ref layer } => {
                self.can_lie(layer)?;
                layer::lay(&mut next.layers, layer.clone());
            }
            LineEdit::Relay { index, ref layer } => {
                self.layer(index)?;
                self.can_lie(layer)?;
                next.layers.remove(index);
                layer::lay(&mut next.layers, layer.clone());
            }
            LineEdit::Lift { index } => {
                self.layer(index)?;
                next.layers.remove(index);
            }
            LineEdit::Remove { index } => {
                self.cut(index)?;
                switches.remove(index);
            }
            LineEdit::ClearAfter { at } => {
                self.inside(at)?;
                switches.retain(|switch| switch.at <= at);
            }
            LineEdit::Dissolve { index, frames } => {
                self.cut(index)?;
                let most = switches.get(index + 1).map_or(self.frames, |after| after.at) - switches[index].at;
                if !(0..=most).contains(&frames) {
                    return Err(LineError::DissolveTooLong { most });
                }
                switches[index].dissolve = frames;
            }
            LineEdit::Fade { head, frames } => next.fade(head, frames)?,
            LineEdit::PutMarker { ref marker } => {
                self.inside(marker.at)?;
                if marker.note.chars().count() > MOST_LETTERS {
                    return Err(LineError::Note);
                }
                next.markers.retain(|own| own.at != marker.at);
                next.markers.push(marker.clone());
            }
            LineEdit::TakeMarker { at } => {
                next.markers.retain(|own| own.at != at);
                if next.markers.len() == self.markers.len() {
                    return Err(LineError::NoMarker);
                }
            }
            LineEdit::Sound { ref edit } => {
                // Neither has what is heard markers, layers or a sound of its own.
                if matches!(
                    **edit,
                    LineEdit::Sound { .. }
                        | LineEdit::PutMarker { .. }
                        | LineEdit::Within { .. }
                        | LineEdit::Lay { .. }
                ) {
                    return Err(LineError::NotALine);
                }
                let mut sound = self.heard();
                sound.apply(edit)?;
                next.sound = Some(Box::new(sound.bare()));
            }
            LineEdit::Within { ref left, ref edit } => next = self.edited_within(left, edit)?,
            LineEdit::Restore { ref switches, ref markers, ref layers, ref sound } => {
                Self { switches: switches.clone(), ..self.clone() }.can_be()?;
                next.switches.clone_from(switches);
                if let Some(markers) = markers {
                    next.markers.clone_from(markers);
                }
                if let Some(layers) = layers {
                    layers.iter().try_for_each(|layer| self.can_lie(layer))?;
                    next.layers.clone_from(layers);
                }
                if let Some(switches) = sound {
                    let heard = Self { switches: switches.clone(), ..Self::new(self.frames, AngleId::BLACK) };
                    heard.can_be()?;
                    next.sound = Some(Box::new(heard.tidied()));
                }
            }
        }
        let next = next.tidied();
        if next == *self {
            return Err(LineError::NoChange);
        }
        let was = std::mem::replace(self, next);
        let sound = (was.sound != self.sound).then(|| was.heard().switches);
        let markers = (was.markers != self.markers).then_some(was.markers);
        let layers = (was.layers != self.layers).then_some(was.layers);
        Ok(LineEdit::Restore { switches: was.switches, markers, layers, sound })
    }

    /// Black at the head that what is there comes out of, or at the tail that it goes into, over so many frames.
    fn fade(&mut self, head: bool, frames: i64) -> Result<(), LineError> {
        let switches = &mut self.switches;
        if head {
            let is_black =
                switches[0].angle == AngleId::BLACK && switches.get(1).is_some_and(|own| own.at == 1);
            if is_black {
                switches.remove(0);
                switches[0] = Switch::cut(0, switches[0].angle);
            }
            // A frame of black, and what comes out of it.
            let most = (switches.get(1).map_or(self.frames, |own| own.at) - 1).max(0);
            if !(0..=most).contains(&frames) {
                return Err(LineError::FadeTooLong { most });
            }
            if frames > 0 {
                switches[0] = Switch { at: 1, dissolve: frames, ..switches[0] };
                switches.insert(0, Switch::cut(0, AngleId::BLACK));
            }
            return Ok(());
        }
        let is_black = |own: &Switch| own.angle == AngleId::BLACK && own.dissolve == self.frames - own.at;
        if switches.last().is_some_and(is_black) {
            switches.pop();
        }
        let most = self.frames - switches.last().map_or(0, |own| own.at + own.dissolve) - 1;
        if !(0..=most).contains(&frames) {
            return Err(LineError::FadeTooLong { most: most.max(0) });
        }
        if frames > 0 {
            switches.push(Switch { at: self.frames - frames, angle: AngleId::BLACK, dissolve: frames });
        }
        Ok(())
    }

    /// Whether its switches are a line's.
    fn can_be(&self) -> Result<(), LineError> {
        let rising = self.switches.windows(2).all(|pair| pair[0].at < pair[1].at);
        let inside = self.switches.iter().all(|switch| (0..self.frames).contains(&switch.at));
        if !rising || !inside || self.switches.first().is_none_or(|first| first.at != 0) {
            return Err(LineError::NotALine);
        }
        Ok(())
    }

    fn layer(&self, index: usize) -> Result<(), LineError> {
        let count = self.layers.len();
        if index < count { Ok(()) } else { Err(LineError::NoLayer { index, count }) }
    }

    /// Whether a layer begins on the line and is one.
    fn can_lie(&self, layer: &Layer) -> Result<(), LineError> {
        self.inside(layer.at)?;
        if layer.can_be() { Ok(()) } else { Err(LineError::NotALayer) }
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

/// Puts a switch where it belongs, in place of one that is there.
fn put(switches: &mut Vec<Switch>, own: Switch) {
    match switches.binary_search_by_key(&own.at, |switch| switch.at) {
        Ok(index) => switches[index].angle = own.angle,
        Err(index) => switches.insert(index, own),
    }
}
