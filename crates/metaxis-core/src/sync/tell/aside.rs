//! What is told of evidence that was set aside: where it would have put the clip.

use crate::sync::{
    answer::{Evidence, Placement},
    input::Aside,
};

/// Adds to placements what was set aside, as a day that uses everything has it.
pub(crate) fn tell_aside(placements: &mut [Placement], all: &[Placement], aside: &[Aside]) {
    for (clip, placement) in placements.iter_mut().enumerate() {
        let is_aside = |evidence: &&Evidence| {
            aside.iter().filter(|own| own.kind == evidence.kind).any(|own| {
                // What two clips heard of each other is set aside for both.
                let both = evidence.against.is_some_and(|other| own.is_between(clip, other));
                both || own.clip == clip && own.against == evidence.against
            })
        };
        let start_s = placement.stretches.first().map(|first| first.start_s);
        let told = all[clip].evidence.iter().filter(is_aside).cloned();
        placement.evidence.retain(|evidence| !is_aside(&evidence));
        placement.evidence.extend(told.map(|evidence| evidence.set_aside(start_s)));
    }
}
