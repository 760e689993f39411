//! How far microphones stood: what is given, and what slates show.

use super::settling::Settling;
use crate::sync::{
    input::devices,
    labels::{ClipSlates, ShownDistance, shown_by_slates},
};

impl Settling<'_> {
    /// How much later a clip belongs than its own microphone says, since sound travels; nothing where it does not lie by
    /// what it hears.
    pub fn travel_s(&self, clip: usize) -> f64 {
        if self.is_axis(clip) || self.support(clip).is_empty() {
            0.0
        } else {
            self.clips[clip].distance_of_picture().travel_s()
        }
    }

    /// How much later a clip's own microphone hears each clap than its picture shows it: by its own two marks, else by
    /// the mark of another sound against the place its sound gives it.
    fn heard_late_s(&self, clip: usize) -> Vec<f64> {
        let both: Vec<f64> =
            self.clips[clip].marks.iter().filter_map(|mark| Some(mark.sound_s? - mark.picture_s?)).collect();
        if !both.is_empty() {
            return both;
        }
        if self.grounds[clip].is_slate() || self.support(clip).is_empty() {
            return vec![];
        }
        self.laid_marks(clip).iter().map(|mark| self.late_s(clip, mark)).collect()
    }

    /// Distances that slates show and nobody has given.
    pub fn shown_distances(&self) -> Vec<ShownDistance> {
        let shown = |device: usize| {
            let slates = |clip: usize| ClipSlates {
                clip,
                given: self.clips[clip].distance_of_picture(),
                late_s: self.heard_late_s(clip),
            };
            let own = (0..self.clips.len()).filter(|&clip| self.clips[clip].device == device);
            shown_by_slates(device, &own.map(slates).collect::<Vec<_>>())
        };
        devices(self.clips).into_iter().flat_map(shown).collect()
    }
}
