//! The beginnings and ends of clips that ran while nothing they hang on did: other clips that ran then show whether they
//! go on as they lie.

use super::{compose::compose, layout::Layout};
use crate::sync::{
    answer::{Stretch, stretch_at},
    find::{Coarse, FARTHEST_S, Link, Tools, examine},
    input::{DayClip, Effort},
    pair::{Passage, covered_at},
};
use rayon::prelude::*;
use std::fmt;

/// Ends shorter than this are not looked at, seconds.
const LEAST_S: f64 = 10.0;
/// Windows that lie elsewhere by more than this (an echo's size) show a break, seconds,
const OFF_S: f64 = 0.015;
/// where there are so many,
const SHOWN: usize = 4;
/// of a link with such log odds.
const BELIEVED: f64 = 30.0;
/// Share of the windows of a part that hold, where a link is believed there.
const HOLDS: f64 = 0.5;
/// A link that puts an end within this of where it lies need not be measured again, seconds.
const MEASURED_S: f64 = 10.0;
/// Half a window: where a break is not timed, it lies so far beside the last window that lies elsewhere, seconds.
const BESIDE_S: f64 = 1.0;
/// Clips that an end is compared with at most.
const PARTNERS: usize = 8;

/// An end that another clip heard otherwise, where nothing says which of the two is at fault.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct OpenEnd {
    /// The end, in the clip's own time.
    pub part: Passage,
    /// How much later than it lies the other clip puts it, seconds.
    pub later_s: f64,
}

impl fmt::Display for OpenEnd {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        let way = if self.later_s > 0.0 { "later" } else { "earlier" };
        write!(
            f,
            "From {:.0} s to {:.0} s another clip that ran then puts it {:.3} s {way}: one of the two lost or repeated \
             sound, and nothing says which.",
            self.part.from_s.max(0.0),
            self.part.to_s,
            self.later_s.abs()
        )
    }
}

/// An end, and how another clip that ran then has it.
pub(crate) type End = (Passage, Link);

/// Compares the ends that nothing shows yet with other clips that ran then. `fixed` are the clips that lie where they do by
/// definition.
pub(crate) fn look_at_ends(
    clips: &[DayClip],
    layout: &Layout,
    links: &[Link],
    fixed: &[bool],
    stopped: &(dyn Fn() -> bool + Sync),
) -> Vec<End> {
    let shown = all_shown(clips, layout, links, fixed);
    let looks: Vec<(usize, Passage, usize)> = (0..clips.len())
        .filter(|&clip| clips[clip].is_heard() && !fixed[clip])
        .flat_map(|clip| ends(clips[clip].duration_s, shown[clip]).map(move |end| (clip, end)))
        .flat_map(|(clip, end)| {
            let partners = partners(clips, (layout, fixed), &shown, (clip, end));
            partners.into_iter().map(move |other| (clip, end, other))
        })
        .collect();
    looks
        .into_par_iter()
        .map_init(Tools::default, |tools, (clip, end, other)| {
            let link =
                if stopped() { None } else { compare(clips, (layout, links), (clip, end), other, tools) };
            link.map(|link| (end, link))
        })
        .flatten()
        .collect()
}

/// Follows what was found of ends: a clip that lost samples there gets the stretches they show, where the other clip is
/// itself beyond doubt at that time; else both are left open.
pub(crate) fn mend_ends(
    clips: &[DayClip],
    layout: &mut Layout,
    links: &mut Vec<Link>,
    fixed: &[bool],
    mut found: Vec<End>,
) -> Vec<Option<OpenEnd>> {
    let mut shown = all_shown(clips, layout, links, fixed);
    // Those beyond doubt first, from what is shown outward: each goes on from where the one before it left the clip.
    let away_s =
        |link: &Link| (link.middle_s() - 0.5 * (shown[link.clip].from_s + shown[link.clip].to_s)).abs();
    found.sort_by(|(_, a), (_, b)| {
        let unsure = |link: &Link| !fixed[link.against];
        unsure(a).cmp(&unsure(b)).then(away_s(a).total_cmp(&away_s(b)))
    });
    let mut open = vec![None; clips.len()];
    for (end, link) in found {
        let there = shown[link.against];
        // A window reaches half its length to either side.
        let is_shown = |from_s: f64, to_s: f64| {
            there.from_s <= link.there_s(from_s) + BESIDE_S && link.there_s(to_s) <= there.to_s + BESIDE_S
        };
        if let Some(off) = Off::of(layout, end, &link) {
            if !is_shown(off.first_s, off.last_s) {
                let by = |later_s: f64, part: Passage| Some(OpenEnd { part, later_s });
                open[link.clip] = open[link.clip].or(by(off.later_s, end));
                let part = Passage { from_s: link.there_s(end.from_s), to_s: link.there_s(end.to_s) };
                open[link.against] = open[link.against].or(by(-off.later_s, part));
                continue;
            }
            layout.maps[link.clip] = spliced(layout, end, &link, &off);
        } else {
            let pair = [(link.clip, link.against), (link.against, link.clip)];
            if !links.iter().any(|other| pair.contains(&(other.clip, other.against))) {
                links.push(link.clone());
            }
        }
        let part = link.alignment.part;
        if is_shown(part.from_s.max(end.from_s), part.to_s.min(end.to_s)) {
            let own = &mut shown[link.clip];
            *own = Passage { from_s: own.from_s.min(part.from_s), to_s: own.to_s.max(part.to_s) };
        }
    }
    open
}

fn all_shown(clips: &[DayClip], layout: &Layout, links: &[Link], fixed: &[bool]) -> Vec<Passage> {
    (0..clips.len()).map(|clip| shown(clips, layout, links, fixed, clip)).collect()
}

/// The part of a clip, in its own time, that the links which put it where it lies compared.
fn shown(clips: &[DayClip], layout: &Layout, links: &[Link], fixed: &[bool], clip: usize) -> Passage {
    let whole = Passage { from_s: 0.0, to_s: clips[clip].duration_s };
    let own = layout.tree.iter().map(|&index| &links[index]).filter(|link| link.alignment.fine);
    let parts = own.filter_map(|link| {
        let part = link.alignment.part;
        match clip {
            _ if link.clip == clip => Some(part),
            _ if link.against == clip => {
                Some(Passage { from_s: link.there_s(part.from_s), to_s: link.there_s(part.to_s) })
            }
            _ => None,
        }
    });
    let all = parts.reduce(|a, b| Passage { from_s: a.from_s.min(b.from_s), to_s: a.to_s.max(b.to_s) });
    // What hangs on nothing that was measured has no ends to look at.
    if fixed[clip] { whole } else { all.unwrap_or(whole) }
}

/// What of a clip lies before and after the part that is shown.
fn ends(duration_s: f64, shown: Passage) -> impl Iterator<Item = Passage> {
    let head = Passage { from_s: 0.0, to_s: shown.from_s };
    let tail = Passage { from_s: shown.to_s, to_s: duration_s };
    [head, tail].into_iter().filter(|end| end.to_s - end.from_s >= LEAST_S)
}

/// The clips of other devices that ran during an end: those that lie where they do by definition first, then those that are
/// shown there, the longest first; each of them adds something that those before it did not hear.
fn partners(
    clips: &[DayClip],
    (layout, fixed): (&Layout, &[bool]),
    shown: &[Passage],
    (clip, end): (usize, Passage),
) -> Vec<usize> {
    let axis = |clip: usize, part: Passage| {
        let at = |s: f64| stretch_at(&layout.maps[clip], s).axis_s(s);
        (at(part.from_s), at(part.to_s))
    };
    let own = axis(clip, end);
    let with = |other: usize, part: Passage| {
        let there = axis(other, part);
        (there.0.max(own.0), there.1.min(own.1))
    };
    let length = |span: (f64, f64)| (span.1 - span.0).max(0.0);
    let mut all: Vec<(f64, (f64, f64), usize)> = (0..clips.len())
        .filter(|&other| {
            other != clip
                && clips[other].is_heard()
                && clips[other].device != clips[clip].device
                && layout.component[other] == layout.component[clip]
        })
        .map(|other| {
            let whole = Passage { from_s: 0.0, to_s: clips[other].duration_s };
            (length(with(other, shown[other])), with(other, whole), other)
        })
        .filter(|(_, together, _)| length(*together) >= LEAST_S)
        .collect();
    all.sort_by(|a, b| {
        fixed[b.2]
            .cmp(&fixed[a.2])
            .then(b.0.total_cmp(&a.0))
            .then(length(b.1).total_cmp(&length(a.1)))
            .then(a.2.cmp(&b.2))
    });
    let mut heard = vec![false; (end.to_s - end.from_s).ceil() as usize + 1];
    let adds = |(_, together, _): &(f64, (f64, f64), usize)| {
        let seconds =
            (together.0 - own.0).max(0.0) as usize..((together.1 - own.0) as usize).min(heard.len());
        let fresh = heard.get_mut(seconds).unwrap_or_default();
        let count = fresh.iter().filter(|known| !**known).count();
        fresh.fill(true);
        count as f64 >= LEAST_S
    };
    all.into_iter().filter(adds).map(|(.., other)| other).take(PARTNERS).collect()
}

/// A clip against another during an end: what is measured of the two already, else from where both lie.
fn compare(
    clips: &[DayClip],
    (layout, links): (&Layout, &[Link]),
    (clip, end): (usize, Passage),
    other: usize,
    tools: &mut Tools,
) -> Option<Link> {
    let believed = |link: &&Link| {
        let holds = holding(link, end) >= HOLDS;
        link.alignment.fine && link.alignment.log_odds > BELIEVED && holds
    };
    let middle_s = 0.5 * (end.from_s + end.to_s);
    let axis_s = stretch_at(&layout.maps[clip], middle_s).axis_s(middle_s);
    let map = &layout.maps[other];
    let stretch = map.iter().find(|stretch| axis_s < stretch.end_s()).unwrap_or(&map[map.len() - 1]);
    let start_s = stretch.clip_s(axis_s) - middle_s;
    let near = |link: &&Link| (link.there_s(middle_s) - middle_s - start_s).abs() < MEASURED_S;
    let known = links.iter().filter(|link| (link.clip, link.against) == (clip, other)).filter(believed);
    if let Some(best) = known.filter(near).max_by(|a, b| a.height().total_cmp(&b.height())) {
        return Some(best.clone());
    }
    let place = Coarse { against: (other, 0), sound: 0, start_s, score: 0.0 };
    examine(clips, clip, &[place], Effort::Normal, tools).into_iter().next().filter(|link| believed(&link))
}

/// Where an end lies by another clip, if it is not where the clip's own map puts it.
struct Off {
    first_s: f64,
    last_s: f64,
    later_s: f64,
}

impl Off {
    fn of(layout: &Layout, end: Passage, link: &Link) -> Option<Self> {
        let within = |at: &f64| (end.from_s..=end.to_s).contains(at);
        // Where somebody walked, the link is of one clock and does not tell a small loss from a step aside.
        let least_s = if link.alignment.moves.is_empty() { OFF_S } else { FARTHEST_S };
        let off: Vec<(f64, f64)> = covered_at(&link.alignment)
            .into_iter()
            .filter(within)
            .map(|at| (at, later_s(layout, link, at)))
            .filter(|(_, later_s)| later_s.abs() > least_s)
            .collect();
        let (first_s, last_s) = (off.first()?.0, off.last()?.0);
        let later_s = off.iter().map(|(_, later_s)| *later_s).max_by(|a, b| a.abs().total_cmp(&b.abs()))?;
        let holds = holding(link, Passage { from_s: first_s, to_s: last_s }) >= HOLDS;
        (off.len() >= SHOWN && holds).then_some(Self { first_s, last_s, later_s })
    }
}

/// The share of the windows in a part of a link's clip that agree with the link.
fn holding(link: &Link, part: Passage) -> f64 {
    let within = |at: &f64| (part.from_s..=part.to_s).contains(at);
    let agreeing = covered_at(&link.alignment).into_iter().filter(within).count() as f64;
    let missed = link.alignment.missed.iter().copied().filter(within).count() as f64;
    agreeing / (agreeing + missed).max(1.0)
}

/// How much later than its clip's map a link puts a moment of the clip, seconds.
fn later_s(layout: &Layout, link: &Link, at: f64) -> f64 {
    let there_s = link.there_s(at);
    let by_link = stretch_at(&layout.maps[link.against], there_s).axis_s(there_s);
    by_link - stretch_at(&layout.maps[link.clip], at).axis_s(at)
}

/// The map of a link's clip with an end as the link has it.
fn spliced(layout: &Layout, end: Passage, link: &Link, off: &Off) -> Vec<Stretch> {
    let old = &layout.maps[link.clip];
    let duration_s = old[old.len() - 1].clip_end_s;
    let fresh = compose(&layout.maps[link.against], &link.alignment.stretches, duration_s);
    let is_head = end.from_s == 0.0;
    let borders = link.alignment.stretches.iter().skip(1).map(|stretch| stretch.clip_start_s);
    let (before, after) = if is_head { (fresh, old.clone()) } else { (old.clone(), fresh) };
    // Where the two maps meet: at the break next to what lies elsewhere, else right beside it.
    let at = if is_head {
        let next = borders.filter(|border| *border >= off.last_s).fold(f64::MAX, f64::min);
        if next < f64::MAX { next } else { off.last_s + BESIDE_S }
    } else {
        let last = borders.filter(|border| *border <= off.first_s).fold(f64::MIN, f64::max);
        if last > f64::MIN { last } else { off.first_s - BESIDE_S }
    };
    let kept = before.into_iter().filter(|stretch| stretch.clip_start_s < at);
    let kept = kept.map(|stretch| Stretch { clip_end_s: stretch.clip_end_s.min(at), ..stretch });
    let more = after.into_iter().filter(|stretch| stretch.clip_end_s > at).map(|stretch| {
        let from_s = stretch.clip_start_s.max(at);
        Stretch { clip_start_s: from_s, start_s: stretch.axis_s(from_s), ..stretch }
    });
    kept.chain(more).collect()
}
