//! How far a place is to be believed: from its signs, its labels, its slates; nothing here moves a clip.

mod by_label;
mod by_others;
mod confidence;
mod judgement;

pub(crate) use by_others::{by_sibling, by_slates};
pub(crate) use confidence::{judge, signs};
pub(crate) use judgement::{CERTAIN, Judgement, SOLID};
