//! All clips from all links: strongest first, devices apart, islands kept separate.

use super::{
    DayClip, Stretch,
    link::{Link, SAME_PLACE_S, stretch_at},
};

/// Two clips of one device may touch by this much before they count as overlapping, seconds.
const TOUCH_S: f64 = 0.1;
/// A rival of this share of the height makes a link ambiguous.
pub(super) const RIVAL: f64 = 0.65;
/// Steps below this are no break but the sum of two measurements, seconds.
const NO_STEP_S: f64 = 1.5e-3;

/// Rates nearer than this are one: what they part by in an hour is a fifth of a sample.
const NO_BEND_PPM: f64 = 1e-3;

/// Where every clip lies on the time of its component.
pub(super) struct Layout {
    /// Stretches of each clip; a clip on its own lies at zero.
    pub maps: Vec<Vec<Stretch>>,
    /// Component of each clip: the number of one of its clips.
    pub component: Vec<usize>,
    /// The links that joined components, in the order in which they did.
    pub tree: Vec<usize>,
    /// Whether clips of one device never overlap.
    pub apart: bool,
    /// Links refused since two clips of one device would overlap, with the clip in the way.
    pub refused: Vec<(usize, usize)>,
}

impl Layout {
    /// Every clip on its own, but for the reference's clips that are `tied` to the origin (clip, start).
    pub fn new(clips: &[DayClip], origin: usize, tied: &[(usize, f64)]) -> Self {
        let mut layout = Self {
            maps: clips.iter().map(|clip| vec![whole(clip.duration_s)]).collect(),
            component: (0..clips.len()).collect(),
            tree: vec![],
            apart: true,
            refused: vec![],
        };
        for &(clip, start_s) in tied {
            layout.maps[clip][0].start_s = start_s;
            layout.component[clip] = origin;
        }
        layout
    }

    /// Joins components by `links`, the unambiguous and strong ones first. The component of the origin takes others in,
    /// then the one with the longest of the reference's clips (`anchors`), whose clock is then its axis, then the larger.
    pub fn join_all(
        &mut self,
        clips: &[DayClip],
        links: &[Link],
        origin: usize,
        anchors: &[usize],
        apart: bool,
    ) {
        self.apart = apart;
        let ambiguous: Vec<bool> = links
            .iter()
            .map(|link| {
                links.iter().any(|other| link.rivals(other) && other.height() > RIVAL * link.height())
            })
            .collect();
        // A link to a clip that fits in two places may itself compare one passage with its repeat.
        let mut unsure = vec![false; clips.len()];
        for (link, ambiguous) in links.iter().zip(&ambiguous) {
            unsure[link.clip] |= ambiguous;
        }
        let ambiguous: Vec<bool> =
            links.iter().map(|link| unsure[link.clip] || unsure[link.against]).collect();
        let mut order: Vec<usize> = (0..links.len()).collect();
        order.sort_by(|&a, &b| {
            ambiguous[a]
                .cmp(&ambiguous[b])
                .then(links[b].alignment.log_odds.total_cmp(&links[a].alignment.log_odds))
        });
        for index in order {
            let link = &links[index];
            let (a, b) = (self.component[link.against], self.component[link.clip]);
            if a == b {
                continue;
            }
            let [of_a, of_b] = [a, b].map(|component| self.rank(clips, component, origin, anchors));
            let moves_clip = of_a >= of_b;
            let turned;
            let link = if moves_clip {
                link
            } else {
                turned = turned_round(link, clips[link.against].duration_s);
                &turned
            };
            match self.moved(clips, link) {
                Ok(moved) => {
                    let target = self.component[link.against];
                    for (clip, map) in moved {
                        self.maps[clip] = map;
                        self.component[clip] = target;
                    }
                    self.tree.push(index);
                }
                Err(in_the_way) => self.refused.push((index, in_the_way)),
            }
        }
    }

    /// What makes a component take another in: the origin, its longest anchor (seconds), its size.
    fn rank(
        &self,
        clips: &[DayClip],
        component: usize,
        origin: usize,
        anchors: &[usize],
    ) -> (bool, f64, usize) {
        let longest = self.anchor_of(clips, component, anchors).map_or(0.0, |clip| clips[clip].duration_s);
        let size = self.component.iter().filter(|own| **own == component).count();
        (self.component[origin] == component, longest, size)
    }

    /// The longest of the reference's clips in a component: its clock is the component's axis.
    pub fn anchor_of(&self, clips: &[DayClip], component: usize, anchors: &[usize]) -> Option<usize> {
        let own = anchors.iter().copied().filter(|&clip| self.component[clip] == component);
        own.max_by(|&a, &b| clips[a].duration_s.total_cmp(&clips[b].duration_s).then(b.cmp(&a)))
    }

    /// Each component with the clip whose clock is its axis: an anchor, else the one that took the others in.
    pub fn bases(&self, clips: &[DayClip], anchors: &[usize]) -> Vec<(usize, usize)> {
        let mut components = self.component.clone();
        components.sort_unstable();
        components.dedup();
        let lies_at_zero = |clip: &usize| {
            let first = &self.maps[*clip][0];
            first.start_s == 0.0 && first.rate_ppm == 0.0
        };
        let base = |component: usize| {
            let anchor = self.anchor_of(clips, component, anchors);
            let base = anchor.or_else(|| self.members(component).into_iter().find(lies_at_zero))?;
            Some((component, base))
        };
        components.into_iter().filter_map(base).collect()
    }

    /// Takes a clip out of its component, and its links out of what hangs together.
    pub fn set_apart(&mut self, clip: usize, duration_s: f64, links: &[Link]) {
        let others: Vec<usize> =
            self.members(self.component[clip]).into_iter().filter(|other| *other != clip).collect();
        // A component goes by the number of one of its clips.
        if self.component[clip] == clip
            && let Some(&name) = others.first()
        {
            for other in others {
                self.component[other] = name;
            }
        }
        self.component[clip] = clip;
        self.maps[clip] = vec![whole(duration_s)];
        self.tree.retain(|&index| links[index].clip != clip && links[index].against != clip);
    }

    /// The clips of a component.
    pub fn members(&self, component: usize) -> Vec<usize> {
        (0..self.component.len()).filter(|&clip| self.component[clip] == component).collect()
    }

    /// Puts the clips of a component that begins at `component` into `target`, `by_s` later.
    pub fn merge(&mut self, component: usize, target: usize, by_s: f64) {
        for clip in self.members(component) {
            for stretch in &mut self.maps[clip] {
                stretch.start_s += by_s;
            }
            self.component[clip] = target;
        }
    }

    /// The component of `link.clip` on the time of that of `link.against`; the clip in the way where two clips of
    /// one device would overlap.
    fn moved(&self, clips: &[DayClip], link: &Link) -> Result<Vec<(usize, Vec<Stretch>)>, usize> {
        let (from, to) = (self.component[link.clip], self.component[link.against]);
        let composed =
            compose(&self.maps[link.against], &link.alignment.stretches, clips[link.clip].duration_s);
        let at = link.middle_s();
        let (old, new) = (stretch_at(&self.maps[link.clip], at), stretch_at(&composed, at));
        let scale = (1.0 + old.rate_ppm * 1e-6) / (1.0 + new.rate_ppm * 1e-6);
        let (zero, target) = (old.axis_s(at), new.axis_s(at));
        let alone = self.maps[link.clip].len() == 1;
        let moved: Vec<(usize, Vec<Stretch>)> = (0..clips.len())
            .filter(|&clip| self.component[clip] == from)
            .map(|clip| {
                if clip == link.clip && alone {
                    return (clip, composed.clone());
                }
                let map = self.maps[clip]
                    .iter()
                    .map(|stretch| Stretch {
                        start_s: target + (stretch.start_s - zero) * scale,
                        rate_ppm: ((1.0 + stretch.rate_ppm * 1e-6) / scale - 1.0) * 1e6,
                        ..*stretch
                    })
                    .collect();
                (clip, map)
            })
            .collect();
        if self.apart {
            for (clip, map) in &moved {
                let there = (0..clips.len())
                    .filter(|&other| {
                        self.component[other] == to && clips[other].device == clips[*clip].device
                    })
                    .find(|&other| overlap_s(map, &self.maps[other]) > TOUCH_S);
                if let Some(other) = there {
                    return Err(other);
                }
            }
        }
        Ok(moved)
    }

    /// How far the layout puts the middle of a link's clip from where the link does, seconds; `None` between
    /// components.
    pub fn disagreement_s(&self, link: &Link) -> Option<f64> {
        if self.component[link.clip] != self.component[link.against] {
            return None;
        }
        let at = link.middle_s();
        let there = link.there_s(at);
        let by_link = stretch_at(&self.maps[link.against], there).axis_s(there);
        Some(by_link - stretch_at(&self.maps[link.clip], at).axis_s(at))
    }

    /// Where a link would put the start of its clip on the component's time.
    pub fn start_by(&self, link: &Link, duration_s: f64) -> f64 {
        compose(&self.maps[link.against], &link.alignment.stretches, duration_s)[0].start_s
    }

    /// Whether `link` and the place its clip has are one.
    pub fn agrees(&self, link: &Link) -> bool {
        self.disagreement_s(link).is_some_and(|by| by.abs() < SAME_PLACE_S)
    }

    /// A clip of the same device that would overlap `clip` if it began at `start_s`.
    pub fn in_the_way(&self, clips: &[DayClip], clip: usize, start_s: f64) -> Option<usize> {
        self.in_the_way_at(clips, clip, start_s, self.component[clip])
    }

    /// The same on the time of another component.
    pub fn in_the_way_at(
        &self,
        clips: &[DayClip],
        clip: usize,
        start_s: f64,
        component: usize,
    ) -> Option<usize> {
        let map = [Stretch { start_s, ..whole(clips[clip].duration_s) }];
        (0..clips.len()).find(|&other| {
            other != clip
                && self.component[other] == component
                && clips[other].device == clips[clip].device
                && overlap_s(&map, &self.maps[other]) > TOUCH_S
        })
    }
}

fn whole(duration_s: f64) -> Stretch {
    Stretch {
        clip_start_s: 0.0,
        clip_end_s: duration_s,
        start_s: 0.0,
        rate_ppm: 0.0,
        start_sigma_s: 0.0,
        rate_sigma_ppm: 0.0,
    }
}

/// Seconds that two clips share on the axis.
pub(super) fn overlap_s(a: &[Stretch], b: &[Stretch]) -> f64 {
    let extent = |map: &[Stretch]| Some((map.first()?.start_s, map.last()?.end_s()));
    match (extent(a), extent(b)) {
        (Some(a), Some(b)) => a.1.min(b.1) - a.0.max(b.0),
        _ => 0.0,
    }
}

/// A clip's own time to the axis, through its place on another clip that lies on the axis at `parent`. Breaks of
/// either become breaks of the clip, unless they cancel.
pub(super) fn compose(parent: &[Stretch], link: &[Stretch], duration_s: f64) -> Vec<Stretch> {
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
fn turned_round(link: &Link, duration_s: f64) -> Link {
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
