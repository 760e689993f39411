//! What speaks for a clip's place, and what for others.

use super::{ground::Ground, settling::Settling};
use crate::sync::{
    answer::Stretch,
    find::{ECHO_S, Link, RIVAL, SAME_PLACE_S},
    solve::compose,
};

/// Log odds below which another position is not worth mentioning.
pub(super) const WORTH_SAYING: f64 = 4.0;
/// A place of this share of the best one's height is taken where it alone keeps the order of the device's clips.
const ORDERED: f64 = 0.45;

impl Settling<'_> {
    /// Whether a clip is the axis by definition.
    pub fn is_axis(&self, clip: usize) -> bool {
        self.axis.holds(clip)
    }

    pub(super) fn tree(&self) -> impl Iterator<Item = usize> {
        self.layout.tree.iter().copied()
    }

    /// Links of a clip that agree with its place, strongest first.
    pub fn support(&self, clip: usize) -> Vec<&Link> {
        let mut own: Vec<&Link> = self
            .links
            .iter()
            .filter(|link| (link.clip == clip || link.against == clip) && self.layout.agrees(link))
            .collect();
        own.sort_by(|a, b| b.height().total_cmp(&a.height()));
        own
    }

    /// The moment of a clip's own time at which its position was measured best.
    pub fn measured_middle_s(&self, clip: usize) -> Option<f64> {
        let link = self.support(clip).into_iter().find(|link| link.clip == clip)?;
        let residuals = &link.alignment.residuals;
        let sum: f64 = residuals.iter().map(|r| r.0).sum();
        Some(if residuals.is_empty() { link.middle_s() } else { sum / residuals.len() as f64 })
    }

    /// Other positions of a clip: the link, where it would begin, its height over the best one's (less where fewer
    /// windows agree), and whether another clip of the device lies there.
    pub fn others(&self, clip: usize, best: &Link) -> Vec<(&Link, f64, f64, bool)> {
        let mut others: Vec<(&Link, f64, f64, bool)> = vec![];
        for link in
            self.links.iter().filter(|link| link.clip == clip && link.alignment.log_odds > WORTH_SAYING)
        {
            let same = self.layout.disagreement_s(link).is_none_or(|by| by.abs() < ECHO_S);
            if same || !self.compares_the_same(link, best) {
                continue;
            }
            let start_s = self.layout.start_by(link, self.clips[clip].duration_s);
            if others.iter().any(|(_, other, ..)| (other - start_s).abs() < SAME_PLACE_S) {
                continue;
            }
            let in_the_way = || {
                let other = self.layout.in_the_way(self.clips, clip, start_s);
                other.is_some_and(|other| !self.is_ambiguous(other))
            };
            let chosen = matches!(self.grounds[clip], Ground::Sound { chosen_by: Some(_), .. });
            let ruled_out = chosen && self.told[clip].iter().any(|label| label.rules_out(start_s));
            let taken = ruled_out || self.layout.apart && in_the_way();
            // A repeat holds the whole of what was compared, not a part of it.
            let whole = (link.alignment.agreeing as f64 / best.alignment.agreeing.max(1) as f64).min(1.0);
            let whole = if link.alignment.fine { whole } else { 1.0 };
            others.push((link, start_s, whole * link.height() / best.height().max(1e-9), taken));
        }
        others.sort_by(|a, b| b.2.total_cmp(&a.2));
        others
    }

    /// Whether the links of a clip hold two positions of nearly equal height.
    pub fn is_ambiguous(&self, clip: usize) -> bool {
        let own = || self.links.iter().filter(move |link| link.clip == clip);
        own().any(|a| own().any(|b| a.rivals(b) && b.height() > RIVAL * a.height()))
    }

    /// In playback a clip may hold several stretches: a link that speaks of another part is no rival.
    fn compares_the_same(&self, link: &Link, best: &Link) -> bool {
        self.layout.apart
            || best.clip != link.clip
            || !best.alignment.stretches.iter().any(|stretch| {
                let at = 0.5 * (stretch.clip_start_s + stretch.clip_end_s);
                (stretch.axis_s(at) - link.there_s(at)).abs() < SAME_PLACE_S
            })
    }

    /// The place a clip has, and the others that fit nearly as well.
    pub fn choices(&self, clip: usize) -> Vec<Vec<Stretch>> {
        let mut all = vec![self.layout.maps[clip].clone()];
        if let Some(best) = self.support(clip).into_iter().find(|link| link.clip == clip) {
            all.extend(
                self.others(clip, best).into_iter().filter(|(_, _, share, _)| *share > ORDERED).take(3).map(
                    |(link, ..)| {
                        let there = &self.layout.maps[link.against];
                        compose(there, &link.alignment.stretches, self.clips[clip].duration_s)
                    },
                ),
            );
        }
        all
    }
}
