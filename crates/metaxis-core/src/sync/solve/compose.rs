//! One map of time through another.

use crate::sync::{
    answer::{Stretch, stretch_at},
    find::Link,
};

/// Steps below this are no break but the sum of two measurements, seconds.
const NO_STEP_S: f64 = 1.5e-3;
/// Rates nearer than this are one: what they part by in an hour is a fifth of a sample.
const NO_BEND_PPM: f64 = 1e-3;

/// Seconds that two clips share on the axis.
pub(crate) fn overlap_s(a: &[Stretch], b: &[Stretch]) -> f64 {
    let extent = |map: &[Stretch]| Some((map.first()?.start_s, map.last()?.end_s()));
    match (extent(a), extent(b)) {
        (Some(a), Some(b)) => a.1.min(b.1) - a.0.max(b.0),
        _ => 0.0,
    }
}

/// A clip's own time to the axis, through its place on another clip that lies on the axis at `parent`. Breaks of
/// either become breaks of the clip, unless they cancel.
pub(crate) fn compose(parent: &[Stretch], link: &[Stretch], duration_s: f64) -> Vec<Stretch> {
    let mut bounds: Vec<f64> = link.iter().skip(1).map(|stretch| stretch.clip_start_s).collect();
    for border in parent.iter().skip(1).map(|stretch| stretch.clip_start_s) {
        if let Some(own) = link.iter().find(|s| s.start_s <= border && border < s.end_s()) {
            bounds.push(own.clip_s(border));
        }
    }
    bounds.sort_by(f64::total_cmp);
    bounds.insert(0, link.first().map_or(0.0, |stretch| stretch.clip_start_s));
    let mut map: Vec<Stretch> = vec![];
    for (i, &from) in bounds.iter().enumerate() {
        let to = bounds.get(i + 1).copied().unwrap_or(duration_s);
        let middle = 0.5 * (from + to);
        let inner = stretch_at(link, middle);
        let outer = stretch_at(parent, inner.axis_s(middle));
        let rate = (1.0 + inner.rate_ppm * 1e-6) * (1.0 + outer.rate_ppm * 1e-6);
        // A gap between stretches (the music stood still) stays a gap.
        let to = to.min(if inner.clip_end_s > from { inner.clip_end_s } else { to });
        let stretch = Stretch {
            clip_start_s: from,
            clip_end_s: to,
            start_s: outer.axis_s(inner.axis_s(from)),
            rate_ppm: (rate - 1.0) * 1e6,
            start_sigma_s: inner.start_sigma_s.hypot(outer.start_sigma_s),
            rate_sigma_ppm: inner.rate_sigma_ppm.hypot(outer.rate_sigma_ppm),
        };
        match map.last_mut() {
            Some(last) if (last.axis_s(from) - stretch.start_s).abs() < NO_STEP_S => {
                if (last.rate_ppm - stretch.rate_ppm).abs() < NO_BEND_PPM {
                    last.clip_end_s = to;
                } else {
                    // The clock bends: it goes on where it was.
                    let start_s = last.axis_s(from);
                    map.push(Stretch { start_s, ..stretch });
                }
            }
            _ => map.push(stretch),
        }
    }
    cancelled(map)
}

/// A break of the parent is one of the link too, the other way round; between the two moments at which they were found a
/// piece is left that lies elsewhere. Less than this of it is no more than that, seconds.
const BETWEEN_S: f64 = 2.0;

fn cancelled(map: Vec<Stretch>) -> Vec<Stretch> {
    let mut kept: Vec<Stretch> = vec![];
    for stretch in map {
        if let [.., before, between] = &kept[..]
            && stretch.clip_start_s - between.clip_start_s < BETWEEN_S
            && (before.axis_s(stretch.clip_start_s) - stretch.start_s).abs() < NO_STEP_S
            && (before.axis_s(between.clip_start_s) - between.start_s).abs() >= NO_STEP_S
        {
            let end_s = stretch.clip_end_s;
            kept.pop();
            if let Some(before) = kept.last_mut() {
                before.clip_end_s = end_s;
            }
            continue;
        }
        kept.push(stretch);
    }
    kept
}

/// The link seen from the other clip.
pub(super) fn turned_round(link: &Link, duration_s: f64) -> Link {
    let mut turned = link.clone();
    turned.clip = link.against;
    turned.against = link.clip;
    turned.sounds = (link.sounds.1, link.sounds.0);
    let old = &link.alignment.stretches;
    turned.alignment.stretches = old
        .iter()
        .enumerate()
        .map(|(i, stretch)| {
            let from = if i == 0 { 0.0 } else { stretch.start_s };
            Stretch {
                clip_start_s: from,
                clip_end_s: old.get(i + 1).map_or(duration_s, |next| next.start_s),
                start_s: stretch.clip_s(from),
                rate_ppm: (1.0 / (1.0 + stretch.rate_ppm * 1e-6) - 1.0) * 1e6,
                ..*stretch
            }
        })
        .collect();
    let there = |s: f64| stretch_at(old, s).axis_s(s);
    let part = link.alignment.part;
    turned.alignment.part.from_s = there(part.from_s);
    turned.alignment.part.to_s = there(part.to_s);
    for moved in &mut turned.alignment.moves {
        (moved.from_s, moved.to_s) = (there(moved.from_s), there(moved.to_s));
        moved.later_s = -moved.later_s;
    }
    for (time, error) in &mut turned.alignment.residuals {
        *time = there(*time);
        *error = -*error;
    }
    turned
}
