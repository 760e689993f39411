//! Placements of some clips beside those of others that stay as they are: what belongs to one component stays together.

use super::result::DayResult;
use crate::sync::answer::{Island, Placement};

/// Puts `kept` in the places of a result, clip by clip, and fits what is new to it: clips of a component of which some
/// are kept move with these, others are components of their own. `islands` are where the kept components lie.
pub fn keep_beside(result: &mut DayResult, kept: Vec<Option<Placement>>, islands: &[Island]) {
    let fresh = std::mem::take(&mut result.islands);
    let numbers: Vec<u32> = result.placements.iter().map(|placement| placement.component).collect();
    // The axis stays what it was.
    let mut laid: Vec<Island> =
        if islands.is_empty() { fresh[..1.min(fresh.len())].to_vec() } else { islands.to_vec() };
    for island in fresh.iter().filter(|island| island.component != 0) {
        let members: Vec<usize> = (0..kept.len())
            .filter(|&clip| {
                numbers[clip] == island.component && !result.placements[clip].stretches.is_empty()
            })
            .collect();
        let stays = members.iter().find_map(|&clip| {
            let old = kept[clip].as_ref().filter(|old| !old.stretches.is_empty())?;
            Some((old.component, old.stretches[0].start_s - result.placements[clip].stretches[0].start_s))
        });
        let moves = || members.iter().copied().filter(|&clip| kept[clip].is_none());
        let (component, by_s) = stays.unwrap_or_else(|| {
            let free = laid.iter().map(|own| own.component + 1).max().unwrap_or(0);
            if moves().next().is_some() {
                laid.push(Island { component: free, ..*island });
            }
            (free, 0.0)
        });
        for clip in moves() {
            let placement = &mut result.placements[clip];
            placement.component = component;
            placement.shift(by_s);
        }
    }
    for (placement, kept) in result.placements.iter_mut().zip(kept) {
        if let Some(kept) = kept {
            *placement = kept;
        }
    }
    result.islands = laid;
}

/// The component of the clips that a place on the axis shares most time with; the axis's own where it shares none.
pub fn component_at<'a>(placed: impl IntoIterator<Item = &'a Placement>, (from_s, to_s): (f64, f64)) -> u32 {
    let mut shared: Vec<(u32, f64)> = vec![];
    for placement in placed {
        let Some((from, to)) = placement.extent_s() else { continue };
        let own_s = to_s.min(to) - from_s.max(from);
        if own_s > 0.0 {
            match shared.iter_mut().find(|(component, _)| *component == placement.component) {
                Some((_, sum_s)) => *sum_s += own_s,
                None => shared.push((placement.component, own_s)),
            }
        }
    }
    shared.into_iter().max_by(|a, b| a.1.total_cmp(&b.1)).map_or(0, |(component, _)| component)
}
