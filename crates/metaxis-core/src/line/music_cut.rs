//! A cut of music: one angle after the other, on beats or bars.

use super::{Shot, Why, first_cut::until};
use crate::group::{AngleId, Group};

/// Cuts what is shown of a group at these frames: angles in turn, in their order, those only that run from there to the next cut.
/// Where none does, the one before stays.
pub fn music_cut(group: &Group, cuts: &[i64]) -> Vec<Shot> {
    let angles: Vec<AngleId> = group.seen().map(|angle| angle.id).collect();
    let mut at: Vec<i64> = cuts.iter().copied().filter(|own| (1..group.frames).contains(own)).collect();
    at.sort_unstable();
    at.dedup();
    at.insert(0, 0);
    let mut shots: Vec<Shot> = vec![];
    let mut turn = 0;
    for (number, &from) in at.iter().enumerate() {
        let to = at.get(number + 1).copied().unwrap_or(group.frames);
        let runs = |id: AngleId| until(group, id, from).is_some_and(|end| end >= to);
        let last = shots.last().map(|own| own.angle);
        let in_turn = (0..angles.len()).map(|step| (turn + step) % angles.len());
        let next = in_turn.filter(|own| Some(angles[*own]) != last).find(|own| runs(angles[*own]));
        // At the head something is shown.
        let Some(next) = next.or((number == 0 && !angles.is_empty()).then_some(0)) else { continue };
        shots.push(Shot { at: from, angle: angles[next], why: Why::OnBeat { cut: number } });
        turn = next + 1;
    }
    shots
}
