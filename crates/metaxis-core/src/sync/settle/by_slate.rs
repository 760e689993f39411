//! Slates at work: they place what nothing else does, speak for or against what does, and show how far away a
//! microphone stood.

use super::{ground::Ground, settling::Settling};
use crate::sync::{
    answer::stretch_at,
    labels::{EYE_S, SlatePair},
};

/// Two slates this far apart show the rate of a clip, seconds.
const RATE_BASE_S: f64 = 60.0;
/// Rates beyond this are no clock's: the marks are of other claps, parts per million.
const CLOCK_PPM: f64 = 250.0;

/// A picture mark and where on the axis its sound is heard.
#[derive(Clone, Copy)]
pub(crate) struct Laid {
    pub pair: SlatePair,
    pub axis_s: f64,
}

impl Settling<'_> {
    /// The marks of a clip whose sounds have a place, each against one sound: the nearest where the clip has a place of
    /// its own, else in their order.
    pub fn laid_marks(&self, clip: usize) -> Vec<Laid> {
        self.marks_in(clip, self.layout.component[clip])
    }

    /// Those of them whose sounds lie in a component.
    fn marks_in(&self, clip: usize, component: usize) -> Vec<Laid> {
        let axis_of = |pair: &SlatePair| {
            let map = &self.layout.maps[pair.sound];
            (self.layout.component[pair.sound] == component)
                .then(|| stretch_at(map, pair.sound_s).axis_s(pair.sound_s))
        };
        let laid = |pair: &SlatePair| Some(Laid { pair: *pair, axis_s: axis_of(pair)? });
        let elsewhere = component != self.layout.component[clip];
        if elsewhere || self.grounds[clip].is_slate() {
            let in_order = |pairs: &Vec<SlatePair>| {
                let own = || pairs.iter().filter(|pair| axis_of(pair).is_some());
                own().find(|pair| pair.in_order).or(own().next()).and_then(laid)
            };
            return self.slates[clip].iter().filter_map(in_order).collect();
        }
        let nearest = |pairs: &Vec<SlatePair>| {
            pairs
                .iter()
                .filter_map(laid)
                .min_by(|a, b| self.late_s(clip, a).abs().total_cmp(&self.late_s(clip, b).abs()))
        };
        self.slates[clip].iter().filter_map(nearest).collect()
    }

    /// The component in which the sounds of a clip's slates lie, where that is another than its own: the axis's first.
    fn slated_to(&self, clip: usize) -> Option<usize> {
        let (own, origin) = (self.layout.component[clip], self.layout.component[self.axis.origin]);
        let islands = self.islands();
        let mut sounds = self.slates[clip].iter().flatten().map(|pair| self.layout.component[pair.sound]);
        if sounds.clone().any(|component| component == origin) {
            return Some(origin).filter(|_| own != origin);
        }
        sounds.find(|component| *component != own && islands.contains(component))
    }

    /// How much later a slate puts its clip than it lies.
    pub fn late_s(&self, clip: usize, mark: &Laid) -> f64 {
        let there = stretch_at(&self.layout.maps[clip], mark.pair.picture_s);
        mark.axis_s - there.axis_s(mark.pair.picture_s)
    }

    /// Pictures that nothing else places lie where their slates do; two far apart show how fast they run. An island that
    /// a slate ties to another becomes part of it.
    pub fn place_by_slates(&mut self) {
        let origin = self.layout.component[self.axis.origin];
        for clip in 0..self.clips.len() {
            let own = self.layout.component[clip];
            let Some(target) = self.slated_to(clip).filter(|_| own != origin) else { continue };
            let marks = self.marks_in(clip, target);
            let count = marks.len() as f64;
            if self.layout.members(own).len() > 1 {
                let late_s: f64 = marks.iter().map(|mark| self.late_s(clip, mark)).sum();
                self.layout.merge(own, target, late_s / count);
                continue;
            }
            let stretch = &mut self.layout.maps[clip][0];
            if let Some((rate_ppm, sigma_ppm)) = rate_of(&marks) {
                (stretch.rate_ppm, stretch.rate_sigma_ppm) = (rate_ppm, sigma_ppm);
            }
            let pace = 1.0 + stretch.rate_ppm * 1e-6;
            stretch.start_s =
                marks.iter().map(|mark| mark.axis_s - mark.pair.picture_s / pace).sum::<f64>() / count;
            stretch.start_sigma_s = EYE_S / count.sqrt();
            self.layout.component[clip] = target;
            self.grounds[clip] = Ground::Slate;
        }
    }
}

/// The rate that slates far apart show, and its standard deviation, parts per million.
fn rate_of(marks: &[Laid]) -> Option<(f64, f64)> {
    let (first, last) = (marks.first()?, marks.last()?);
    let (own_s, axis_s) = (last.pair.picture_s - first.pair.picture_s, last.axis_s - first.axis_s);
    if own_s < RATE_BASE_S || axis_s <= 0.0 {
        return None;
    }
    let rate_ppm = (own_s / axis_s - 1.0) * 1e6;
    (rate_ppm.abs() < CLOCK_PPM).then_some((rate_ppm, EYE_S * 2f64.sqrt() / own_s * 1e6))
}
