//! All clips from all links: strongest first, devices apart, islands kept separate.

use super::compose::{compose, overlap_s, turned_round};
use crate::sync::{
    answer::{Stretch, stretch_at},
    find::{Link, RIVAL, SAME_PLACE_S},
    input::DayClip,
};

/// Two clips of one device may touch by this much before they count as overlapping, seconds.
const TOUCH_S: f64 = 0.1;

/// Where every clip lies on the time of its component.
pub(crate) struct Layout {
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
            maps: clips.iter().map(|clip| vec![Stretch::whole(clip.duration_s, 0.0)]).collect(),
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
        self.maps[clip] = vec![Stretch::whole(duration_s, 0.0)];
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
        let map = [Stretch::whole(clips[clip].duration_s, start_s)];
        (0..clips.len()).find(|&other| {
            other != clip
                && self.component[other] == component
                && clips[other].device == clips[clip].device
                && overlap_s(&map, &self.maps[other]) > TOUCH_S
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sync::trial::{Sound, link};

    fn starts(layout: &Layout) -> Vec<f64> {
        layout.maps.iter().map(|map| map[0].start_s).collect()
    }

    #[test]
    fn links_join_clips_whichever_way_round_and_the_origin_takes_all_in() {
        let sound = Sound::some();
        let clips = [sound.clip(0, 100.0), sound.clip(1, 30.0), sound.clip(2, 40.0), sound.clip(3, 10.0)];
        // The origin was looked for in clip 2; clip 1 hangs on that one, and clip 3 on nothing.
        let links = [link(0, 2, -20.0, 100.0), link(1, 2, 5.0, 30.0)];
        let mut layout = Layout::new(&clips, 0, &[]);
        layout.join_all(&clips, &links, 0, &[0], true);
        assert_eq!(starts(&layout), [0.0, 25.0, 20.0, 0.0]);
        assert_eq!(layout.component, [0, 0, 0, 3]);
        assert_eq!(layout.members(0), [0, 1, 2]);
        assert!(links.iter().all(|link| layout.agrees(link)) && layout.refused.is_empty());
    }

    #[test]
    fn one_device_cannot_have_recorded_two_clips_at_once() {
        let sound = Sound::some();
        let clips = [sound.clip(0, 100.0), sound.clip(1, 30.0), sound.clip(1, 30.0)];
        let links = [link(1, 0, 10.0, 30.0), link(2, 0, 20.0, 30.0)];
        let mut layout = Layout::new(&clips, 0, &[]);
        layout.join_all(&clips, &links, 0, &[0], true);
        assert_eq!((layout.component[2], &layout.refused[..]), (2, &[(1, 1)][..]));
        // Takes performed to a track lie over one another.
        let mut takes = Layout::new(&clips, 0, &[]);
        takes.join_all(&clips, &links, 0, &[0], false);
        assert_eq!(starts(&takes), [0.0, 10.0, 20.0]);
    }
}
