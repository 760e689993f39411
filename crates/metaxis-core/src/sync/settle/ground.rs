//! What each clip stands on, and each island.

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

/// A clip that ran with another, by the timecode of both.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Sibling {
    /// The clip that was heard.
    pub with: usize,
    /// Kind of the labels that say so.
    pub kind: EvidenceKind,
    /// Other pairs of these two devices that were heard and say the same.
    pub confirmed: usize,
    /// Standard deviation of the place, seconds.
    pub sigma_s: f64,
}

/// Where an island of the layout lies.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Lies {
    /// The layout's name of it.
    pub component: usize,
    /// What says where, and how exactly in seconds.
    pub by: Option<(EvidenceKind, f64)>,
}
