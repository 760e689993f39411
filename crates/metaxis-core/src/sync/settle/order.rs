//! The order of a device's clips, where sound fits several places alike.

use super::settling::Settling;
use crate::sync::{answer::Stretch, input::devices};

/// Ambiguous clips of a device that are put in order together.
const MOST_OPEN: usize = 6;

impl Settling<'_> {
    /// Where sound cannot decide between several positions, the order of the device's clips may: of all ways to put
    /// its ambiguous clips, the only one that keeps the order.
    pub fn keep_order(&mut self) {
        for device in devices(self.clips) {
            let open: Vec<usize> = (0..self.clips.len())
                .filter(|&clip| {
                    self.clips[clip].device == device && !self.is_axis(clip) && self.is_ambiguous(clip)
                })
                .take(MOST_OPEN)
                .collect();
            let choices: Vec<Vec<Vec<Stretch>>> = open.iter().map(|&clip| self.choices(clip)).collect();
            let mut fitting = vec![];
            self.orders(&open, &choices, &mut vec![], &mut fitting);
            if let [only] = &fitting[..] {
                for (&clip, map) in open.iter().zip(only) {
                    self.layout.maps[clip] = map.clone();
                }
            }
        }
    }

    /// All ways to choose a place for each of `open` so that the order of the device's clips is kept.
    fn orders(
        &self,
        open: &[usize],
        choices: &[Vec<Vec<Stretch>>],
        chosen: &mut Vec<Vec<Stretch>>,
        fitting: &mut Vec<Vec<Vec<Stretch>>>,
    ) {
        let Some(&clip) = open.get(chosen.len()) else {
            if !open.is_empty() {
                fitting.push(chosen.clone());
            }
            return;
        };
        for map in &choices[chosen.len()] {
            let after_chosen = open.iter().zip(chosen.iter()).all(|(other, theirs)| {
                self.layout.component[*other] != self.layout.component[clip]
                    || theirs[theirs.len() - 1].end_s() <= map[0].start_s + 0.2
            });
            if after_chosen && self.in_order(clip, map[0].start_s, open) {
                chosen.push(map.clone());
                self.orders(open, choices, chosen, fitting);
                chosen.pop();
            }
        }
    }

    /// Whether a clip that began at `start_s` would keep the order of its device's clips, those of `besides` left out.
    pub(super) fn in_order(&self, clip: usize, start_s: f64, besides: &[usize]) -> bool {
        let end_s = start_s + self.clips[clip].duration_s;
        (0..self.clips.len())
            .filter(|&other| {
                other != clip
                    && !besides.contains(&other)
                    && self.clips[other].device == self.clips[clip].device
                    && self.layout.component[other] == self.layout.component[clip]
            })
            .all(|other| {
                let map = &self.layout.maps[other];
                let (from, to) = (map[0].start_s, map[map.len() - 1].end_s());
                if other < clip { to <= start_s + 0.2 } else { end_s <= from + 0.2 }
            })
    }
}
