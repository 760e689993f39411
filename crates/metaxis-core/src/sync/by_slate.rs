//! Slates at work: they place what nothing else does, speak for or against what does, and show how far away a
//! microphone stood.

use super::{
    Evidence, EvidenceKind, ShownDistance, Verdict,
    distance::{ClipSlates, distance_m, shown_by_slates},
    input::devices,
    link::stretch_at,
    outcome::Outcome,
    slates::{EYE_S, FRAME_S, OTHER_CLAP_S, SlatePair},
    verdict::Judgement,
};

/// Confidence of a clip that a person's two marks place.
const BY_SLATE: f64 = 0.99;
/// The same where its slates contradict each other.
const TORN: f64 = 0.6;
/// Two slates this far apart show the rate of a clip, seconds.
const RATE_BASE_S: f64 = 60.0;
/// Rates beyond this are no clock's: the marks are of other claps, parts per million.
const CLOCK_PPM: f64 = 250.0;

/// A picture mark and where on the axis its sound is heard.
#[derive(Clone, Copy)]
struct Laid {
    pair: SlatePair,
    axis_s: f64,
}

impl Outcome<'_> {
    /// The marks of a clip whose sounds have a place, each against one sound: the nearest where the clip has a place of
    /// its own, else in their order.
    fn laid_marks(&self, clip: usize) -> Vec<Laid> {
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
        if elsewhere || self.slated[clip] {
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
        let (own, origin) = (self.layout.component[clip], self.layout.component[self.origin]);
        let islands = self.islands();
        let mut sounds = self.slates[clip].iter().flatten().map(|pair| self.layout.component[pair.sound]);
        if sounds.clone().any(|component| component == origin) {
            return Some(origin).filter(|_| own != origin);
        }
        sounds.find(|component| *component != own && islands.contains(component))
    }

    /// How much later a slate puts its clip than it lies.
    fn late_s(&self, clip: usize, mark: &Laid) -> f64 {
        let there = stretch_at(&self.layout.maps[clip], mark.pair.picture_s);
        mark.axis_s - there.axis_s(mark.pair.picture_s)
    }

    /// Pictures that nothing else places lie where their slates do; two far apart show how fast they run. An island that
    /// a slate ties to another becomes part of it.
    pub fn place_by_slates(&mut self) {
        let origin = self.layout.component[self.origin];
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
            self.slated[clip] = true;
        }
    }

    /// What is believed of a clip that its slates alone place.
    pub fn by_slate(&self, clip: usize) -> Judgement {
        let marks = self.laid_marks(clip);
        if let Some(worst) = marks.iter().map(|mark| self.late_s(clip, mark).abs()).reduce(f64::max)
            && worst > 1.5 * FRAME_S
        {
            let doubt =
                format!("Its slates contradict each other by {:.0} ms: look at the marks.", 2e3 * worst);
            return Judgement { verdict: Verdict::Check, confidence: TORN, doubt: Some(doubt), signs: None };
        }
        Judgement { verdict: Verdict::Solid, confidence: BY_SLATE, doubt: None, signs: None }
    }

    /// Each mark as evidence of the clip's start.
    pub fn slate_evidence(&self, clip: usize) -> Vec<Evidence> {
        let start_s = self.layout.maps[clip][0].start_s;
        let marks = self.laid_marks(clip);
        let evidence = |mark: &Laid| {
            let by = self.late_s(clip, mark) - self.travel_s(clip);
            Evidence {
                kind: EvidenceKind::Slate,
                against: Some(mark.pair.sound),
                start_s: start_s + self.travel_s(clip) + by,
                sigma_s: EYE_S,
                score: 1.0,
                used: by.abs() < 1.5 * FRAME_S,
                disagrees_by_s: by,
            }
        };
        marks.iter().map(evidence).collect()
    }

    /// What a clip's slates say, in sentences.
    pub fn said_of_slates(&self, clip: usize) -> Vec<String> {
        let marks = self.laid_marks(clip);
        if self.slated[clip] {
            let of = |more: usize| if more > 1 { format!("{more} slates") } else { "slate".into() };
            return vec![format!(
                "Placed by its {}: the frame in which the sticks close against the clap in the sound.",
                of(marks.len())
            )];
        }
        let late: Vec<f64> = marks.iter().map(|mark| self.late_s(clip, mark) - self.travel_s(clip)).collect();
        if late.len() > 1 && late.iter().all(|by| by.abs() < AGREES_S) {
            return vec![format!("Its {} slates say the same.", late.len())];
        }
        let which = |mark: &Laid| {
            if marks.len() > 1 { format!("slate at {:.1} s", mark.pair.picture_s) } else { "slate".into() }
        };
        marks.iter().zip(&late).map(|(mark, &by)| said_of_slate(&which(mark), by)).collect()
    }

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
        if self.slated[clip] || self.support(clip).is_empty() {
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

/// Slates that part by less say the same, seconds.
const AGREES_S: f64 = 0.03;

/// What a slate says that puts its clip so much later than its sound does.
fn said_of_slate(which: &str, late_s: f64) -> String {
    let ms = late_s * 1e3;
    if late_s.abs() > OTHER_CLAP_S {
        format!("Its {which} is {:.1} s off: the marks are of two different claps.", late_s.abs())
    } else if let Some(metres) = distance_m(late_s) {
        format!(
            "Its {which} is seen {ms:.0} ms before its own microphone hears it: that is {metres:.0} m of air."
        )
    } else if late_s.abs() < AGREES_S {
        format!("Its {which} says the same.")
    } else {
        let way = if late_s > 0.0 { "later" } else { "earlier" };
        format!("Its {which} puts it {:.0} ms {way} than its sound: sound was used.", ms.abs())
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
