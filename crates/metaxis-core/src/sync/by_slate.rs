//! Slates at work: they place what nothing else does, speak for or against what does, and show how far away a
//! microphone stood.

use super::{
    Evidence, Placement, ShownDistance, Verdict,
    day::devices,
    outcome::Outcome,
    slates::{OTHER_CLAP_S, SOUND_M_PER_S, distance_m},
    verdict::Judgement,
};

/// Confidence of a clip that a person's two marks place.
const BY_SLATE: f64 = 0.99;

impl Outcome<'_> {
    /// Where a clip's slate puts its start, if its sound's clip has a place.
    fn slate_start_s(&self, clip: usize) -> Option<f64> {
        let pair = self.slates[clip]?;
        let there = self.layout.component[pair.sound] == self.layout.component[self.origin];
        there.then(|| pair.start_s(self.layout.maps[pair.sound][0].start_s))
    }

    /// Pictures that nothing else places lie where their slate does.
    pub fn place_by_slates(&mut self) {
        let origin = self.layout.component[self.origin];
        for clip in 0..self.clips.len() {
            let Some(start_s) = self.slate_start_s(clip) else { continue };
            let alone =
                self.layout.component.iter().filter(|other| **other == self.layout.component[clip]).count()
                    == 1;
            if self.layout.component[clip] == origin || !alone {
                continue;
            }
            self.layout.maps[clip][0].start_s = start_s;
            self.layout.maps[clip][0].start_sigma_s = self.slates[clip].map_or(0.01, |pair| pair.sigma_s);
            self.layout.component[clip] = origin;
            self.slated[clip] = true;
        }
    }

    /// What is believed of a clip that its slate alone places.
    pub fn by_slate() -> Judgement {
        Judgement { verdict: Verdict::Solid, confidence: BY_SLATE, doubt: None, signs: None }
    }

    pub fn slate_evidence(&self, clip: usize) -> Option<Evidence> {
        let at_s = self.slate_start_s(clip)?;
        Some(self.slates[clip]?.evidence(at_s, self.layout.maps[clip][0].start_s + self.travel_s(clip)))
    }

    /// What a clip's slate says, in a sentence.
    pub fn said_of_slate(&self, clip: usize) -> Option<String> {
        let at_s = self.slate_start_s(clip)?;
        if self.slated[clip] {
            return Some(
                "Placed by its slate: the frame in which the sticks close against the clap in the sound."
                    .into(),
            );
        }
        let late_s = at_s - self.layout.maps[clip][0].start_s - self.travel_s(clip);
        let ms = late_s * 1e3;
        Some(if late_s.abs() > OTHER_CLAP_S {
            format!("Its slate is {:.1} s off: the marks are of two different claps.", late_s.abs())
        } else if let Some(metres) = distance_m(late_s).filter(|_| !self.slated[clip]) {
            format!(
                "Its slate is seen {ms:.0} ms before its own microphone hears it: that is {metres:.0} m of air."
            )
        } else if late_s.abs() < 0.03 {
            "Its slate says the same.".into()
        } else {
            let way = if late_s > 0.0 { "later" } else { "earlier" };
            format!("Its slate puts it {:.0} ms {way} than its sound: sound was used.", ms.abs())
        })
    }

    /// How much later a clip belongs than its own microphone says, since sound travels.
    fn travel_s(&self, clip: usize) -> f64 {
        if self.support(clip).is_empty() { 0.0 } else { self.clips[clip].distance_m.max(0.0) / SOUND_M_PER_S }
    }

    /// Lays a clip so much later that its picture is right.
    pub fn step_back(&self, clip: usize, placement: &mut Placement) {
        let by = self.travel_s(clip);
        if by <= 0.0 || self.is_axis(clip) || placement.stretches.is_empty() {
            return;
        }
        for stretch in &mut placement.stretches {
            stretch.start_s += by;
        }
        let metres = self.clips[clip].distance_m;
        placement.reasons.push(format!(
            "Its microphone is {metres:.1} m away: it lies {:.0} ms later than it hears.",
            by * 1e3
        ));
    }

    /// How much later a clip's own microphone hears the sticks than its picture shows them: by its own two marks, else
    /// by the mark of another sound against the place its sound gives it.
    fn heard_late_s(&self, clip: usize) -> Option<f64> {
        let own = self.clips[clip].mark.as_ref()?;
        match (own.picture_s, own.sound_s) {
            (Some(seen), Some(heard)) => Some(heard - seen),
            _ if self.slated[clip] || self.support(clip).is_empty() => None,
            _ => Some(self.slate_start_s(clip)? - self.layout.maps[clip][0].start_s),
        }
    }

    /// Distances that slates show on devices to which none is given.
    pub fn shown_distances(&self) -> Vec<ShownDistance> {
        let shown = |device: usize| {
            let mut metres: Vec<f64> = (0..self.clips.len())
                .filter(|&clip| self.clips[clip].device == device && self.clips[clip].distance_m <= 0.0)
                .filter_map(|clip| distance_m(self.heard_late_s(clip)?))
                .collect();
            metres.sort_by(f64::total_cmp);
            let middle = *metres.get(metres.len() / 2)?;
            Some(ShownDistance { device, metres: middle, slates: metres.len(), marked: true })
        };
        devices(self.clips).into_iter().filter_map(shown).collect()
    }
}
