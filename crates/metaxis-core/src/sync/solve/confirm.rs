//! Places that are not beyond doubt, measured against other clips that should have heard the same.

use super::{compose::overlap_s, layout::Layout};
use crate::sync::{
    answer::{axis_to_clip, stretch_at},
    find::{Link, Tools},
    input::DayClip,
};
use rayon::prelude::*;

/// Confirmations are looked for where the odds are lower than this.
const SURE: f64 = 100.0;
/// Shortest overlap that can confirm, seconds.
const CONFIRMING_S: f64 = 6.0;

/// Doubtful positions are checked against other clips that should have heard the same.
pub(crate) fn confirm(clips: &[DayClip], layout: &Layout, links: &[Link]) -> Vec<Link> {
    let doubtful: Vec<usize> = (0..clips.len())
        .filter(|&clip| {
            let best = links
                .iter()
                .filter(|link| (link.clip == clip || link.against == clip) && layout.agrees(link))
                .map(|link| link.alignment.log_odds)
                .fold(f64::MIN, f64::max);
            best > f64::MIN && best < SURE
        })
        .collect();
    doubtful
        .par_iter()
        .map_init(Tools::default, |tools, &clip| {
            let known = |other: usize| {
                links
                    .iter()
                    .any(|l| (l.clip == clip && l.against == other) || (l.clip == other && l.against == clip))
            };
            let mut partners: Vec<(f64, usize)> = (0..clips.len())
                .filter(|&other| {
                    other != clip
                        && clips[other].is_heard()
                        && clips[other].device != clips[clip].device
                        && layout.component[other] == layout.component[clip]
                        && !known(other)
                })
                .map(|other| (overlap_s(&layout.maps[clip], &layout.maps[other]), other))
                .filter(|(overlap, _)| *overlap > CONFIRMING_S)
                .collect();
            partners.sort_by(|a, b| b.0.total_cmp(&a.0));
            partners.truncate(3);
            let mut links = vec![];
            for (_, other) in partners {
                let (own, there) = (&layout.maps[clip], &layout.maps[other]);
                let at = 0.5
                    * (own[0].start_s.max(there[0].start_s)
                        + own[own.len() - 1].end_s().min(there[there.len() - 1].end_s()));
                let (mine, theirs) = (axis_to_clip(own, at), axis_to_clip(there, at));
                let slope = (stretch_at(there, theirs).rate_ppm - stretch_at(own, mine).rate_ppm) * 1e-6;
                let offset_s = theirs - mine - slope * mine;
                let alignment =
                    tools.aligner.check(&clips[other].sounds[0], &clips[clip].sounds[0], offset_s, slope);
                links.extend(alignment.filter(|alignment| alignment.log_odds > 6.0).map(|alignment| Link {
                    against: other,
                    clip,
                    sounds: (0, 0),
                    alignment,
                    coarse: 0.0,
                    speed: 1.0,
                }));
            }
            links
        })
        .flatten()
        .collect()
}
