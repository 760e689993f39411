//! Positions and rates of all clips from all links at once: weighted least squares about the layout.
//!
//! Unknown are a shift α and a change of rate β of each clip. A link says that at the middle of what it compared both
//! clips hear the same: `(α + β·t)` of the one and of the other differ by the link's misfit, to its sigma; and its
//! slope says how their β differ. Links that pull far (more than three sigmas) count less, after Huber (1964).

use super::layout::Layout;
use crate::sync::{
    answer::stretch_at,
    find::{Link, SAME_PLACE_S},
};
use nalgebra::{DMatrix, DVector};

/// No link is better than this, seconds: rooms and moving sources.
const FLOOR_S: f64 = 10e-6;
/// Nor its slope better than this.
const FLOOR_SLOPE: f64 = 0.003e-6;
/// Clocks are within this of each other before anything is measured.
const ANY_RATE: f64 = 300e-6;

/// Adjusts `layout` to `links`; clips in `fixed` are the axis and do not move. Clips of the reference device keep its
/// rate.
pub(crate) fn adjust(layout: &mut Layout, links: &[Link], fixed: &[bool], same_clock: &[bool]) {
    let used: Vec<&Link> = links.iter().filter(|link| layout.agrees(link)).collect();
    for members in islands(layout, &used, fixed) {
        let own: Vec<&Link> = used
            .iter()
            .copied()
            .filter(|link| members.contains(&link.clip) || members.contains(&link.against))
            .collect();
        // Three rounds of weights.
        let mut weights = vec![1.0; own.len()];
        for _ in 0..3 {
            let Some(misfits) = solve(layout, &own, &weights, &members, same_clock) else { break };
            for (weight, pull) in weights.iter_mut().zip(misfits) {
                *weight = if pull > 3.0 { 3.0 / pull } else { 1.0 };
            }
        }
    }
}

/// Clips that hang together other than through fixed ones.
fn islands(layout: &Layout, links: &[&Link], fixed: &[bool]) -> Vec<Vec<usize>> {
    let mut island: Vec<usize> = (0..layout.maps.len()).collect();
    fn root(island: &mut [usize], mut i: usize) -> usize {
        while island[i] != i {
            island[i] = island[island[i]];
            i = island[i];
        }
        i
    }
    let mut touched = vec![false; island.len()];
    for link in links {
        touched[link.clip] = true;
        touched[link.against] = true;
        if !fixed[link.clip] && !fixed[link.against] {
            let (a, b) = (root(&mut island, link.clip), root(&mut island, link.against));
            island[a] = b;
        }
    }
    let mut members: Vec<Vec<usize>> = vec![vec![]; island.len()];
    for clip in 0..layout.maps.len() {
        if touched[clip] && !fixed[clip] {
            let root = root(&mut island, clip);
            members[root].push(clip);
        }
    }
    members.retain(|own| !own.is_empty());
    members
}

/// One solution; moves the layout, sets sigmas, and gives each link's pull in sigmas.
fn solve(
    layout: &mut Layout,
    links: &[&Link],
    weights: &[f64],
    members: &[usize],
    same_clock: &[bool],
) -> Option<Vec<f64>> {
    let count = members.len();
    let place = |clip: usize| members.iter().position(|own| *own == clip);
    let mut normal = DMatrix::<f64>::zeros(2 * count, 2 * count);
    let mut right = DVector::<f64>::zeros(2 * count);
    // Scaled so that α in milliseconds and β in ppm are of one size. Times are counted from each clip's middle.
    const MS: f64 = 1e-3;
    const PPM: f64 = 1e-6;
    let middles: Vec<f64> = members
        .iter()
        .map(|&clip| {
            let map = &layout.maps[clip];
            0.5 * (map[0].start_s + map[map.len() - 1].end_s())
        })
        .collect();
    let mut add = |row: &[(usize, f64)], value: f64, sigma: f64| {
        for &(i, a) in row {
            right[i] += a * value / (sigma * sigma);
            for &(j, b) in row {
                normal[(i, j)] += a * b / (sigma * sigma);
            }
        }
    };
    for (link, weight) in links.iter().zip(weights) {
        let at = link.middle_s();
        let there = link.there_s(at);
        let (own, other) =
            (stretch_at(&layout.maps[link.clip], at), stretch_at(&layout.maps[link.against], there));
        let axis = own.axis_s(at);
        let misfit = axis - other.axis_s(there);
        let slope_sigma =
            stretch_at(&link.alignment.stretches, at).rate_sigma_ppm.max(FLOOR_SLOPE / PPM) / weight.sqrt();
        let by_link = stretch_at(&link.alignment.stretches, at).rate_ppm;
        // Rates: own = other + link, to first order; β is −ppm.
        let rate_misfit = -(own.rate_ppm - other.rate_ppm - by_link);
        let (mut row, mut rates) = (vec![], vec![]);
        for (clip, sign) in [(link.clip, 1.0), (link.against, -1.0)] {
            if let Some(i) = place(clip) {
                row.push((2 * i, sign));
                row.push((2 * i + 1, sign * (axis - middles[i]) * PPM / MS));
                rates.push((2 * i + 1, sign));
            }
        }
        add(&row, -misfit / MS, link.alignment.sigma_s.max(FLOOR_S) / MS / weight.sqrt());
        add(&rates, -rate_misfit, slope_sigma);
    }
    // An island of its own has no fixed clip: its first one is held. Crystals are crystals.
    let held = !links.iter().any(|link| place(link.clip).is_none() || place(link.against).is_none());
    for (i, &clip) in members.iter().enumerate() {
        let rate_sigma = if same_clock[clip] || (held && i == 0) { 1e-4 } else { ANY_RATE / PPM };
        let drift_now = if same_clock[clip] { layout.maps[clip][0].rate_ppm } else { 0.0 };
        add(&[(2 * i + 1, 1.0)], drift_now, rate_sigma);
        if held && i == 0 {
            add(&[(0, 1.0)], 0.0, 1e-6);
        }
    }
    let inverse = normal.cholesky()?.inverse();
    let solution = &inverse * right;
    for (i, &clip) in members.iter().enumerate() {
        let (shift, slope) = (solution[2 * i] * MS, solution[2 * i + 1] * PPM);
        let (va, vb, vab) =
            (inverse[(2 * i, 2 * i)], inverse[(2 * i + 1, 2 * i + 1)], inverse[(2 * i, 2 * i + 1)]);
        for stretch in &mut layout.maps[clip] {
            let from_middle = stretch.start_s - middles[i];
            stretch.start_s += shift + slope * from_middle;
            stretch.rate_ppm = ((1.0 + stretch.rate_ppm * 1e-6) / (1.0 + slope) - 1.0) * 1e6;
            let lever = from_middle * PPM / MS;
            stretch.start_sigma_s = (va + 2.0 * lever * vab + lever * lever * vb).max(0.0).sqrt() * MS;
            stretch.rate_sigma_ppm = vb.max(0.0).sqrt();
        }
    }
    Some(
        links
            .iter()
            .map(|link| {
                let misfit = layout.disagreement_s(link).unwrap_or(SAME_PLACE_S).abs();
                misfit / link.alignment.sigma_s.max(0.3e-3)
            })
            .collect(),
    )
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sync::trial::{Sound, link};
    use proptest::prelude::*;

    fn day(starts: &[f64], links: &[Link]) -> Layout {
        let sound = Sound::some();
        let clips: Vec<_> = (0..=starts.len()).map(|device| sound.clip(device, 60.0)).collect();
        let mut layout = Layout::new(&clips, 0, &[]);
        layout.join_all(&clips, links, 0, &[0], true);
        for (map, start_s) in layout.maps[1..].iter_mut().zip(starts) {
            map[0].start_s = *start_s;
        }
        let held: Vec<bool> = (0..clips.len()).map(|clip| clip == 0).collect();
        adjust(&mut layout, links, &held, &held);
        layout
    }

    #[test]
    fn measurements_that_contradict_each_other_share_the_difference() {
        // By way of clip 1, clip 2 would lie 3 ms later than it was measured.
        let links = [link(1, 0, 10.0, 60.0), link(2, 0, 20.0, 60.0), link(2, 1, 10.003, 60.0)];
        let layout = day(&[10.0, 20.0], &links);
        let [one, two] = [1, 2].map(|clip| layout.maps[clip][0].axis_s(30.0) - 30.0);
        assert!((one - 9.999).abs() < 1e-4 && (two - 20.001).abs() < 1e-4, "{one} {two}");
    }

    proptest! {
        /// Whatever the first layout was a little off, links that agree put every clip where they say, and nothing turns.
        #[test]
        fn links_that_agree_are_met(
            truth in prop::collection::vec(-500.0..500.0_f64, 2..6),
            off in prop::collection::vec(-0.004..0.004_f64, 6),
        ) {
            let all = || std::iter::once(0.0).chain(truth.iter().copied()).enumerate();
            let links: Vec<Link> = all()
                .flat_map(|(clip, own)| {
                    let earlier = all().take(clip);
                    earlier.map(move |(against, theirs)| link(clip, against, own - theirs, 60.0))
                })
                .collect();
            let begun: Vec<f64> = truth.iter().zip(&off).map(|(start, off)| start + off).collect();
            let layout = day(&begun, &links);
            for (map, start_s) in layout.maps[1..].iter().zip(&truth) {
                prop_assert!((map[0].start_s - start_s).abs() < 1e-6 && map[0].rate_ppm.abs() < 1e-3, "{map:?} {start_s}");
            }
        }
    }
}
