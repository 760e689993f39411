//! What lies over a line, as an angle each.

use super::Sources;
use crate::{
    group::{Angle, AngleId, Group},
    line::{Layer, Line},
};

/// A layer, and an angle that has its part and nothing else.
pub(super) struct Over<'a> {
    /// Its number among the layers.
    pub number: usize,
    pub angle: Angle,
    pub layer: &'a Layer,
}

/// The layers of a line, in order, whose clips are known.
pub(super) fn over_parts<'a>(group: &Group, line: &'a Line, sources: &Sources) -> Vec<Over<'a>> {
    let over = |(number, layer): (usize, &'a Layer)| {
        let facts = &sources.clips.get(&layer.clip)?.facts;
        let part = layer.part(group, facts.picture.as_ref()?, facts.picture_delay_s());
        let angle = Angle {
            id: AngleId::BLACK,
            device: None,
            name: None,
            hidden: false,
            through: None,
            parts: vec![part],
        };
        Some(Over { number, angle, layer })
    };
    line.layers().iter().enumerate().filter_map(over).collect()
}
