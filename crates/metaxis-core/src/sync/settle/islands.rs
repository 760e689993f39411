//! Islands: components that neither sound nor exact timecode nor slates tie to the axis. Clocks order them and lay them
//! on the day; that says nothing of how well their clips are in step with each other.

use super::{
    ground::{Ground, Lies},
    settling::Settling,
};
use crate::{
    sync::{
        answer::{EvidenceKind, Stretch},
        input::devices,
        judge::SOLID,
        labels::{ClockTrust, DeviceClock, KINDS, LabelPlace, label_of, label_places},
        solve::overlap_s,
    },
    time::wrapped,
};

/// What one device says of where an island lies: so many seconds later than it does, to so many.
#[derive(Debug, Clone, Copy)]
struct Vote {
    by_s: f64,
    sigma_s: f64,
    label: LabelPlace,
    device: usize,
    clip: usize,
}

/// Clocks that nobody has compared part by about this much, seconds.
pub(super) const UNCOMPARED_S: f64 = 60.0;
/// Clocks are never better than this about an island, seconds.
const LEAST_S: f64 = 0.3;
/// Pause between islands of which nothing says when they ran, seconds.
const PAUSE_S: f64 = 60.0;
/// Devices whose timecode agrees are no surer than this.
const AGREED: f64 = 0.99;
/// A position that is right with this probability joins an island to the axis.
const JOINS: f64 = SOLID;

impl Settling<'_> {
    /// The components besides the axis's that are islands: several clips, or one of the reference's.
    pub fn islands(&self) -> Vec<usize> {
        let origin = self.layout.component[self.axis.origin];
        let mut all = self.layout.component.clone();
        all.sort_unstable();
        all.dedup();
        all.retain(|&island| {
            let members = self.layout.members(island);
            island != origin
                && (members.len() > 1 || members.iter().any(|clip| self.axis.anchors.contains(clip)))
        });
        all
    }

    /// The clip whose clock is the axis of a component.
    pub fn base_of(&self, component: usize) -> usize {
        self.bases.iter().find(|(own, _)| *own == component).map_or(component, |(_, base)| *base)
    }

    /// Whether a clip is the axis of its island, being one of the reference's.
    pub fn is_islands_axis(&self, clip: usize) -> bool {
        self.axis.anchors.contains(&clip)
            && !self.is_axis(clip)
            && self.bases.contains(&(self.layout.component[clip], clip))
    }

    /// Islands whose timecode says to half a frame where they lie become part of the axis's component; the others lie
    /// where clocks put them.
    pub fn lay_islands(&mut self, clocks: &[DeviceClock]) {
        let origin = self.layout.component[self.axis.origin];
        for island in self.islands() {
            let votes = self.votes(island, &self.told, LabelPlace::is_timecode);
            let Some((by_s, sigma_s, surest)) = agreed(&votes) else { continue };
            if votes.iter().any(|vote| !within(vote, by_s)) || !self.is_free(island, by_s) {
                continue;
            }
            if joins(&votes, sigma_s, &surest) {
                self.ground_island(island, &surest);
                self.layout.merge(island, origin, by_s);
            } else {
                self.layout.merge(island, island, by_s);
                self.lies.push(Lies { component: island, by: Some((surest.label.kind, sigma_s)) });
            }
        }
        self.lay_by_clocks(clocks.to_vec());
        self.keep_apart();
        self.put_the_rest_behind();
    }

    /// The clips of an island stand on the axis by a label of one of them.
    fn ground_island(&mut self, island: usize, surest: &Vote) {
        for clip in self.layout.members(island) {
            let heard = !self.support(clip).is_empty();
            let own = surest.clip == clip;
            match &mut self.grounds[clip] {
                Ground::Sound { island_by, .. } if heard => *island_by = Some(surest.label),
                ground @ Ground::Sound { .. } => {
                    *ground = Ground::Label { place: surest.label, own, instead_of: None };
                }
                _ => {}
            }
        }
    }

    /// Silent single clips that a clock alone puts somewhere are islands of their own.
    pub fn lie_alone(&mut self, clip: usize, label: &LabelPlace) {
        let by_s = label.start_s - self.layout.maps[clip][0].start_s;
        let own = self.layout.component[clip];
        self.layout.merge(own, own, by_s);
        self.lies.push(Lies { component: own, by: Some((label.kind, label.sigma_s)) });
    }

    fn lies(&self, island: usize) -> Option<&Lies> {
        self.lies.iter().find(|lies| lies.component == island)
    }

    /// What the labels of an island's clips say of it, one vote a device and kind.
    fn votes(
        &self,
        island: usize,
        all: &[Vec<LabelPlace>],
        counts: impl Fn(&LabelPlace) -> bool,
    ) -> Vec<Vote> {
        let mut votes: Vec<Vote> = vec![];
        let members = self.layout.members(island);
        for device in devices(self.clips) {
            let own = members.iter().copied().filter(|&clip| self.clips[clip].device == device);
            let said: Vec<Vote> = own
                .flat_map(|clip| {
                    let start_s = self.layout.maps[clip][0].start_s;
                    let counted = all[clip].iter().filter(|label| counts(label)).copied();
                    counted.map(move |label| Vote {
                        by_s: label.start_s - start_s,
                        sigma_s: label.sigma_s,
                        label,
                        device,
                        clip,
                    })
                })
                .collect();
            for kind in KINDS {
                let mut of_kind: Vec<&Vote> = said.iter().filter(|vote| vote.label.kind == kind).collect();
                of_kind.sort_by(|a, b| a.by_s.total_cmp(&b.by_s));
                // The middle one: a single label may be of another time.
                if let Some(&&middle) = of_kind.get(of_kind.len() / 2) {
                    votes.push(middle);
                }
            }
        }
        votes
    }

    /// Whether an island that began so much later would leave room for the other clips of its devices.
    fn is_free(&self, island: usize, by_s: f64) -> bool {
        let origin = self.layout.component[self.axis.origin];
        self.layout.members(island).into_iter().all(|clip| {
            let start_s = self.layout.maps[clip][0].start_s + by_s;
            self.layout.in_the_way_at(self.clips, clip, start_s, origin).is_none()
        })
    }

    /// Islands by clocks: a clock that was compared with the axis lays an island, which then tells how the clocks lie
    /// that only ran there; and so on.
    fn lay_by_clocks(&mut self, mut clocks: Vec<DeviceClock>) {
        loop {
            let all = label_places(self.clips, &clocks, &|clip| self.travel_s(clip));
            let open: Vec<usize> =
                self.islands().into_iter().filter(|island| self.lies(*island).is_none()).collect();
            let found = open.into_iter().filter_map(|island| {
                let (by_s, sigma_s, surest) =
                    agreed(&self.votes(island, &all, |label| !label.is_timecode()))?;
                Some((island, by_s, sigma_s.max(LEAST_S), surest.label.kind))
            });
            // The surest first: what it teaches may be better than what others were read from.
            let Some((island, by_s, sigma_s, kind)) = found.min_by(|a, b| a.2.total_cmp(&b.2)) else {
                if self.assume_a_clock(&mut clocks) {
                    continue;
                }
                return;
            };
            self.layout.merge(island, island, by_s);
            self.lies.push(Lies { component: island, by: Some((kind, sigma_s)) });
            self.learn_clocks(island, sigma_s, &mut clocks);
        }
    }

    /// Clocks that only ran on an island that lies are read off it.
    fn learn_clocks(&self, island: usize, sigma_s: f64, clocks: &mut [DeviceClock]) {
        for clip in self.layout.members(island) {
            for clock in clocks.iter_mut().filter(|clock| {
                clock.device == self.clips[clip].device
                    && clock.kind == EvidenceKind::DeviceClock
                    && clock.trust == ClockTrust::Unknown
            }) {
                if let Some(label) = label_of(&self.clips[clip], clock.kind) {
                    clock.zero_s = label.time_s;
                    clock.axis_s = self.layout.maps[clip][0].start_s;
                    clock.sigma_s = clock.sigma_s.hypot(sigma_s);
                    clock.trust = ClockTrust::Assumed;
                }
            }
        }
    }

    /// Takes a clock that was compared with none to tell the time of day as the others do; whether there was one.
    fn assume_a_clock(&self, clocks: &mut [DeviceClock]) -> bool {
        let Some((zero_s, _)) = self.day_of_axis(clocks) else { return false };
        let open: Vec<usize> =
            self.islands().into_iter().filter(|island| self.lies(*island).is_none()).collect();
        let ran_there = |device: usize| {
            open.iter().any(|&island| {
                self.layout.members(island).iter().any(|&clip| self.clips[clip].device == device)
            })
        };
        let unknown = clocks.iter_mut().find(|clock| {
            clock.kind == EvidenceKind::DeviceClock
                && clock.trust == ClockTrust::Unknown
                && ran_there(clock.device)
        });
        let Some(clock) = unknown else { return false };
        clock.axis_s = wrapped(clock.zero_s - zero_s);
        clock.sigma_s = clock.sigma_s.hypot(UNCOMPARED_S);
        clock.trust = ClockTrust::Assumed;
        true
    }

    /// Clocks leave open a second or two: islands that would lie over one another with clips of one device move apart as
    /// far as that allows.
    fn keep_apart(&mut self) {
        let mut order: Vec<Lies> = self.lies.clone();
        let from_s = |own: &Lies| self.extent_s(own.component).0;
        order.sort_by(|a, b| from_s(a).total_cmp(&from_s(b)));
        for (at, island) in order.iter().enumerate() {
            let Some((_, sigma_s)) = island.by else { continue };
            let before: Vec<usize> = order[..at].iter().map(|own| own.component).collect();
            let over_s = self
                .layout
                .members(island.component)
                .into_iter()
                .flat_map(|clip| {
                    (0..self.clips.len())
                        .filter(|&other| {
                            self.clips[other].device == self.clips[clip].device
                                && before.contains(&self.layout.component[other])
                        })
                        .map(|other| overlap_s(&self.layout.maps[clip], &self.layout.maps[other]))
                        .collect::<Vec<_>>()
                })
                .fold(0.0, f64::max);
            if over_s > 0.0 && over_s < 3.0 * sigma_s {
                self.layout.merge(island.component, island.component, over_s);
            }
        }
    }

    /// Islands of which nothing says when they ran lie behind everything, in the order of their clips.
    pub fn put_the_rest_behind(&mut self) {
        let rest: Vec<usize> =
            self.islands().into_iter().filter(|island| self.lies(*island).is_none()).collect();
        let mut end_s = self
            .layout
            .component
            .iter()
            .enumerate()
            .filter(|(_, own)| !rest.contains(own) && self.is_shown(**own))
            .filter_map(|(clip, _)| self.layout.maps[clip].last())
            .map(Stretch::end_s)
            .fold(0.0, f64::max);
        for island in rest {
            let (from_s, to_s) = self.extent_s(island);
            let by_s = end_s + PAUSE_S - from_s;
            self.layout.merge(island, island, by_s);
            end_s = to_s + by_s;
            self.lies.push(Lies { component: island, by: None });
        }
    }

    /// Whether a component is the axis's or an island.
    fn is_shown(&self, component: usize) -> bool {
        component == self.layout.component[self.axis.origin] || self.lies(component).is_some()
    }

    pub fn extent_s(&self, component: usize) -> (f64, f64) {
        self.layout
            .members(component)
            .iter()
            .flat_map(|&clip| &self.layout.maps[clip])
            .fold((f64::MAX, f64::MIN), |(from, to), own| (from.min(own.start_s), to.max(own.end_s())))
    }
}

/// Whether a vote allows that an island lies `by_s` later.
fn within(vote: &Vote, by_s: f64) -> bool {
    (vote.by_s - by_s).abs() <= 1.5 * vote.label.unit_s + 3.0 * vote.sigma_s
}

/// What most votes say: the weighted mean of those that the surest of them allows, its sigma, and the surest vote.
fn agreed(votes: &[Vote]) -> Option<(f64, f64, Vote)> {
    let allowed = |about: &Vote| -> Vec<Vote> {
        let near = |own: &&Vote| {
            (own.by_s - about.by_s).abs() <= 3.0 * own.sigma_s.hypot(about.sigma_s) + own.label.unit_s
        };
        votes.iter().filter(near).copied().collect()
    };
    let weight = |own: &Vote| own.sigma_s.max(1e-6).powi(-2);
    let total = |all: &[Vote]| all.iter().map(weight).sum::<f64>();
    let most = votes.iter().map(allowed).max_by(|a, b| total(a).total_cmp(&total(b)))?;
    let by_s = most.iter().map(|own| own.by_s * weight(own)).sum::<f64>() / total(&most);
    let surest = most.iter().copied().min_by(|a, b| a.sigma_s.total_cmp(&b.sigma_s))?;
    let spread = most.iter().map(|own| (own.by_s - by_s).powi(2) * weight(own)).sum::<f64>();
    let stretched = (spread / most.len() as f64).sqrt().max(1.0);
    Some((by_s, stretched / total(&most).sqrt(), surest))
}

/// Whether timecode shows to half a frame where an island lies: that of one device by what its clips showed of it, that
/// of several by how near they are to each other.
fn joins(votes: &[Vote], sigma_s: f64, surest: &Vote) -> bool {
    let measured = votes.iter().filter(|vote| vote.label.measured > 0);
    let mut devices: Vec<usize> = measured.map(|vote| vote.device).collect();
    devices.dedup();
    if devices.len() < 2 {
        return surest.label.judgement(false).confidence >= JOINS;
    }
    let half = 0.5 * surest.label.unit_s / sigma_s;
    within_normal(half).min(AGREED) >= JOINS
}

/// Probability that a normal deviate lies within so many sigmas.
fn within_normal(sigmas: f64) -> f64 {
    libm::erf(sigmas / std::f64::consts::SQRT_2)
}
