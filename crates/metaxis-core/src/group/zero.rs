//! The time of day at the axis's zero: from what the day knows.

use super::PlacedClip;
use crate::time::Tick;

/// Clocks of one day that were set alike differ by no more than this, seconds.
const ALIKE_S: f64 = 1.0;
/// Where nothing says, the first of the day begins at this hour, seconds.
const ROUND_S: f64 = 3600.0;

/// The time of day at the axis's zero. The clip that begins there says it by its count of samples; else `known`, seconds, by which
/// the axis was found to lie on the day; else the timecode that most devices agree on; else everything begins at one o'clock, so
/// that nothing wraps at midnight that was not recorded there.
pub fn day_zero(clips: &[PlacedClip], origin: usize, known: Option<f64>) -> Tick {
    let counted = clips.get(origin).and_then(|clip| clip.facts.time_reference_s());
    if let Some(zero_s) = counted.or(known) {
        return Tick::from_seconds(zero_s);
    }
    let of_axis = || clips.iter().filter(|clip| clip.placement.component == 0);
    let start_s = |clip: &PlacedClip| clip.placement.extent_s().map(|(from_s, _)| from_s);
    // For each device what its first clip says; a device says one thing.
    let mut said: Vec<(i64, f64)> = vec![];
    for clip in of_axis() {
        let Some((label, from_s)) = clip.facts.timecode.zip(start_s(clip)) else { continue };
        if said.iter().all(|(device, _)| *device != clip.device.0) {
            let picture_s = from_s + clip.facts.picture_delay_s();
            said.push((clip.device.0, label.since_midnight().seconds() - picture_s));
        }
    }
    let agree = |zero_s: f64| said.iter().filter(|(_, other_s)| (other_s - zero_s).abs() < ALIKE_S).count();
    let best = said.iter().rev().max_by_key(|(_, zero_s)| agree(*zero_s));
    let first_s = of_axis().filter_map(start_s).fold(f64::INFINITY, f64::min);
    let zero_s =
        best.map_or(ROUND_S - if first_s.is_finite() { first_s } else { 0.0 }, |(_, zero_s)| *zero_s);
    Tick::from_seconds(zero_s)
}
