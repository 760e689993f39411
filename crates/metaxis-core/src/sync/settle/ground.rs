//! What each clip stands on.

use super::siblings::Sibling;
use crate::sync::{
    answer::{Alternative, EvidenceKind},
    labels::LabelPlace,
};

/// What the place of a clip stands on, with what decided it.
#[derive(Debug, Clone)]
pub(crate) enum Ground {
    /// It is the axis, or its own time reference ties it to the axis.
    Axis,
    /// It is the axis of its island.
    IslandAxis,
    /// What it has in common with other clips, if anything.
    Sound {
        /// The label that chose between places which fit alike.
        chosen_by: Option<EvidenceKind>,
        /// The label that laid its whole island on the axis.
        island_by: Option<LabelPlace>,
    },
    /// A label, whatever its sound says.
    Label {
        /// Where it says the clip lies.
        place: LabelPlace,
        /// Whether it is the clip's own, not that of another clip of its island.
        own: bool,
        /// The place by sound that it outweighed.
        instead_of: Option<Alternative>,
    },
    /// Its slates.
    Slate,
    /// A take that ran at the same time and was heard.
    Sibling(Sibling),
    /// Nothing: a label puts it where nothing else ran.
    RanAlone(LabelPlace),
}

impl Ground {
    /// Sound alone.
    pub const SOUND: Self = Self::Sound { chosen_by: None, island_by: None };

    /// Whether its slates placed it.
    pub fn is_slate(&self) -> bool {
        matches!(self, Self::Slate)
    }
}
