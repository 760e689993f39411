//! What is told of evidence that was set aside: where it would have put the clip.

use super::result::DayResult;
use crate::sync::{answer::Evidence, input::Aside};

/// Adds to a result what was set aside, as `all`, the day that uses everything, has it.
pub(crate) fn tell_aside(result: &mut DayResult, all: &DayResult, aside: &[Aside]) {
    for clip in 0..result.placements.len() {
        let is_aside = |evidence: &&Evidence| {
            aside.iter().filter(|own| own.kind == evidence.kind).any(|own| {
                // What two clips heard of each other is set aside for both.
                let both = evidence.against.is_some_and(|other| own.is_between(clip, other));
                both || own.clip == clip && own.against == evidence.against
            })
        };
        let by_s = shifted_s(result, all, clip);
        let told: Vec<Evidence> = all.placements[clip].evidence.iter().filter(is_aside).cloned().collect();
        let placement = &mut result.placements[clip];
        let start_s = placement.stretches.first().map(|first| first.start_s);
        placement.evidence.retain(|evidence| !is_aside(&evidence));
        placement
            .evidence
            .extend(told.into_iter().map(|evidence| {
                Evidence { start_s: evidence.start_s + by_s, ..evidence }.set_aside(start_s)
            }));
    }
}

/// How much later the island of a clip lies than in the day that uses everything, seconds: labels lay islands, too.
fn shifted_s(result: &DayResult, all: &DayResult, clip: usize) -> f64 {
    let placement = &result.placements[clip];
    let own = result.islands.iter().find(|island| island.component == placement.component);
    let Some(island) = own.filter(|_| !placement.stretches.is_empty()) else { return 0.0 };
    let start =
        |day: &DayResult| day.placements[island.reference].stretches.first().map(|first| first.start_s);
    start(result).zip(start(all)).map_or(0.0, |(now, then)| now - then)
}
