//! Labels at work: they decide between positions that sound fits equally, place what sound does not, and speak for or
//! against what sound says.

use super::{
    Alternative, DeviceRate, Stretch, Verdict,
    graph::overlap_s,
    outcome::Outcome,
    timed::{Timed, called},
    verdict::{Judgement, SOLID},
};

/// Share of a weak sound's doubt that an agreeing timecode leaves.
const AGREEING: f64 = 0.08;
/// A sound this weak gives way to timecode that was measured.
const WEAK: f64 = 0.6;
impl Outcome<'_> {
    /// The surest label of a clip that may place it.
    fn best_label(&self, clip: usize) -> Option<Timed> {
        self.timed[clip].first().copied()
    }

    /// Sound that found nothing beyond doubt has no vote where timecode says something else: such clips are set apart, for
    /// their labels to place.
    pub fn set_weak_apart(&mut self) {
        let judged = self.judge_all();
        for (clip, own) in judged.iter().enumerate() {
            let start_s = self.layout.maps[clip][0].start_s;
            let mut timecodes = self.timed[clip].iter().filter(|label| label.is_timecode()).peekable();
            let told = timecodes.peek().is_some() && !timecodes.any(|label| label.agrees(start_s));
            let weak = own.verdict == Verdict::Unplaced && !self.support(clip).is_empty();
            if weak && told && !self.is_axis(clip) && !self.is_islands_axis(clip) {
                self.layout.set_apart(clip, self.clips[clip].duration_s, self.links);
            }
        }
    }

    /// Of several positions that sound fits nearly alike, the only one that a measured label does not rule out.
    pub fn choose_by_labels(&mut self) {
        for clip in 0..self.clips.len() {
            let Some(label) = self.best_label(clip).filter(Timed::decides) else { continue };
            if self.is_axis(clip) || !self.is_ambiguous(clip) {
                continue;
            }
            let fitting: Vec<_> =
                self.choices(clip).into_iter().filter(|map| label.agrees(map[0].start_s)).collect();
            if let [only] = &fitting[..] {
                self.layout.maps[clip] = only.clone();
                self.decided[clip] = Some(label.kind);
            }
        }
    }

    /// Lays single clips that sound has not placed by their own labels; each runs as its device does.
    pub fn place_by_labels(&mut self, rates: &[DeviceRate]) {
        let origin = self.layout.component[self.origin];
        for clip in 0..self.clips.len() {
            let island = self.layout.component[clip];
            let alone = self.layout.members(island).len() == 1 && !self.anchors.contains(&clip);
            let Some(label) = self.best_label(clip).filter(|_| alone && island != origin) else { continue };
            if let Some(rate) = rates.iter().find(|rate| rate.device == self.clips[clip].device) {
                for stretch in &mut self.layout.maps[clip] {
                    (stretch.rate_ppm, stretch.rate_sigma_ppm) = (rate.rate_ppm, rate.sigma_ppm);
                }
            }
            if !label.is_timecode() {
                // Where there is sound to find and none was found, a clock's guess is worse than none.
                if !self.clips[clip].is_heard() {
                    self.laid[clip] = Some((clip, label));
                    self.lie_alone(clip, &label);
                }
                continue;
            }
            let start_s = label.start_s;
            let free = self.layout.in_the_way_at(self.clips, clip, start_s, origin).is_none();
            if free && self.timed[clip].iter().all(|other| !other.is_timecode() || other.agrees(start_s)) {
                let by_s = start_s - self.layout.maps[clip][0].start_s;
                self.layout.merge(island, origin, by_s);
                for stretch in &mut self.layout.maps[clip] {
                    stretch.start_sigma_s = stretch.start_sigma_s.hypot(label.sigma_s);
                }
                self.laid[clip] = Some((clip, label));
            }
        }
        self.leave_what_ran_alone();
    }

    /// A clip with sound that a label alone puts where nothing else ran belongs to no take: where it would lie stays
    /// an alternative.
    fn leave_what_ran_alone(&mut self) {
        let by_label_only = |outcome: &Self, clip: usize| {
            outcome.laid[clip].is_some() && outcome.support(clip).is_empty() && outcome.clips[clip].is_heard()
        };
        let only: Vec<usize> = (0..self.clips.len()).filter(|&clip| by_label_only(self, clip)).collect();
        let origin = self.layout.component[self.origin];
        let alone: Vec<usize> = only
            .iter()
            .copied()
            .filter(|&clip| {
                (0..self.clips.len()).all(|other| {
                    only.contains(&other)
                        || self.layout.component[other] != origin
                        || overlap_s(&self.layout.maps[clip], &self.layout.maps[other]) <= 0.0
                })
            })
            .collect();
        for clip in alone {
            self.layout.component[clip] = clip;
            self.ran_alone[clip] = self.laid[clip].take().map(|(_, label)| label);
        }
    }

    /// What labels make of what sound makes a clip's position: `own` with them heard.
    pub fn weigh(&mut self, clip: usize, own: Judgement) -> Judgement {
        if self.slated[clip] {
            return self.by_slate(clip);
        }
        if let Some(sibling) = &self.siblings[clip] {
            return self.by_sibling(sibling);
        }
        if let Some((_, label)) = self.laid[clip] {
            let silent = !self.clips[clip].is_heard();
            let by_label = label.judgement(silent);
            if self.support(clip).is_empty() {
                return by_label;
            }
            // Its island hangs together by sound, and on the axis by timecode.
            return Judgement { confidence: own.confidence.min(by_label.confidence), ..own };
        }
        let Some(label) = self.timed[clip].iter().find(|label| label.is_timecode() && label.measured > 1)
        else {
            return own;
        };
        let label = *label;
        let start_s = self.layout.maps[clip][0].start_s;
        if self.is_axis(clip) || self.support(clip).is_empty() {
            return own;
        }
        if label.agrees(start_s) {
            if own.verdict == Verdict::Unplaced {
                // Each by itself leaves a doubt; that they meet by chance is unlikely.
                let by = label.judgement(false);
                let confidence = by.confidence.max(1.0 - (1.0 - own.confidence) * AGREEING);
                let doubt = format!("Its sound is weak, but lies where its {} says.", called(label.kind));
                return Judgement { verdict: Verdict::Check, confidence, doubt: Some(doubt), ..own };
            }
            let confidence = 1.0 - (1.0 - own.confidence) * AGREEING;
            let sure = own.verdict == Verdict::Check && confidence >= SOLID;
            return Judgement {
                confidence: confidence.min(0.999).max(own.confidence),
                verdict: if sure { Verdict::Solid } else { own.verdict },
                doubt: own.doubt.filter(|_| !sure),
                ..own
            };
        }
        let is_weak = own.verdict != Verdict::Solid && own.confidence < WEAK;
        if is_weak || label.outweighs(start_s, &own) {
            let stretch = self.layout.maps[clip][0];
            // It no longer lies by what it hears.
            let start_s = label.start_s + self.travel_s(clip);
            let end_s = self.clips[clip].duration_s;
            self.layout.maps[clip] = vec![Stretch {
                clip_start_s: 0.0,
                clip_end_s: end_s,
                start_s,
                start_sigma_s: label.sigma_s,
                ..stretch
            }];
            self.layout.component[clip] = self.layout.component[self.origin];
            self.laid[clip] = Some((clip, label));
            self.outweighed[clip] = Some(Alternative { start_s: stretch.start_s, score: own.confidence });
            let by = label.judgement(false);
            let why = format!("Its sound fits too weakly elsewhere: its {} was used.", called(label.kind));
            return Judgement {
                verdict: Verdict::Check,
                doubt: Some(why),
                confidence: by.confidence.min(0.93),
                ..by
            };
        }
        own
    }

    /// What a clip's labels have to say about its place, in sentences.
    pub fn said_of_labels(&self, clip: usize) -> Vec<String> {
        let start_s = self.layout.maps[clip][0].start_s;
        let mut said = vec![];
        if let Some(kind) = self.decided[clip] {
            said.push(format!("The sound repeats itself; its {} decided.", called(kind)));
        }
        if let Some((guide, label)) = self.laid[clip] {
            if guide == clip && self.support(clip).is_empty() {
                let count = label.measured;
                // What is in doubt has said so already.
                if label.judgement(true).doubt.is_none() {
                    let (kind, silent) = (called(label.kind), !self.clips[clip].is_heard());
                    let why = if silent { "It has no sound to match: placed" } else { "Placed" };
                    said.push(format!(
                        "{why} by its {kind}, which agrees with sound in {count} clips of its device."
                    ));
                }
            }
            return said;
        }
        for label in self.timed[clip].iter().filter(|label| label.is_timecode()) {
            let late_s = start_s - label.start_s;
            if label.agrees(start_s) {
                if label.measured > 1 {
                    said.push(format!("Its {} says the same.", called(label.kind)));
                }
            } else {
                let way = if late_s < 0.0 { "ahead of" } else { "behind" };
                said.push(format!(
                    "Its {} is {} {way} its sound: sound was used.",
                    called(label.kind),
                    in_frames(late_s, label.unit_s)
                ));
            }
        }
        said
    }
}

/// A difference in frames of `unit_s`, or in seconds where it is long.
fn in_frames(seconds: f64, unit_s: f64) -> String {
    let frames = (seconds / unit_s).abs();
    if frames < 500.0 { format!("{frames:.1} frames") } else { format!("{:.1} s", seconds.abs()) }
}
