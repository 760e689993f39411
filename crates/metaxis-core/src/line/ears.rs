//! What is heard along a line: the grid, an angle's own sound, or that of what lies over it.

use super::{Layer, Line, Switch};
use crate::group::AngleId;

/// What is heard.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Ear {
    /// What comes out of the group's grid.
    Grid,
    /// An angle's own sound.
    Angle(AngleId),
    /// The own sound of what lies over the line, at its speed: its number among the layers.
    Layer(usize),
}

/// A stretch in which one thing is heard.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Earful {
    /// Its first frame.
    pub from: i64,
    /// The frame behind its last.
    pub to: i64,
    /// What is heard.
    pub ear: Ear,
    /// Frames in which it comes out of what was heard before.
    pub dissolve: i64,
}

impl Line {
    /// What is heard from the first frame to the last, in order and without a hole; there is always a first.
    ///
    /// ```
    /// use metaxis_core::{clip::ClipId, group::AngleId, line::{Ear, Layer, Line, LineEdit, Speed}};
    ///
    /// let mut line = Line::new(100, AngleId(1));
    /// line.apply(&LineEdit::Sound { edit: Box::new(LineEdit::take(40, AngleId(2))) })?;
    /// let over = Layer {
    ///     at: 30, frames: 20, clip: ClipId(7), from: 0, skip: 0, speed: Speed::OWN, blended: false, own_sound: true,
    /// };
    /// line.apply(&LineEdit::Lay { layer: over })?;
    /// let heard: Vec<_> = line.ears().iter().map(|own| (own.from, own.to, own.ear)).collect();
    /// assert_eq!(heard, [(0, 30, Ear::Grid), (30, 50, Ear::Layer(0)), (50, 100, Ear::Angle(AngleId(2)))]);
    /// # Ok::<(), metaxis_core::line::LineError>(())
    /// ```
    pub fn ears(&self) -> Vec<Earful> {
        let heard = self.heard();
        let own = |((from, to, angle), switch): ((i64, i64, AngleId), &Switch)| Earful {
            from,
            to,
            ear: if angle == AngleId::BLACK { Ear::Grid } else { Ear::Angle(angle) },
            dissolve: switch.dissolve,
        };
        let mut all: Vec<Earful> = heard.stretches().zip(heard.switches()).map(own).collect();
        for (number, layer) in self.layers().iter().enumerate().filter(|(_, own)| own.own_sound) {
            all = all.into_iter().flat_map(|own| around(own, layer)).collect();
            all.push(Earful { from: layer.at, to: layer.end(), ear: Ear::Layer(number), dissolve: 0 });
        }
        all.sort_by_key(|own| own.from);
        all
    }
}

/// What is left of a stretch beside a layer.
fn around(own: Earful, layer: &Layer) -> impl Iterator<Item = Earful> {
    let before = Earful { to: own.to.min(layer.at), ..own };
    let behind = Earful {
        from: own.from.max(layer.end()),
        // What came out of something else comes out of the layer, at once.
        dissolve: if own.from < layer.end() { 0 } else { own.dissolve },
        ..own
    };
    [before, behind].into_iter().filter(|own| own.from < own.to)
}
