//! What each clip is believed to be, with its labels heard: the last clips move to where they outweigh their sound.

use super::{ground::Ground, settling::Settling};
use crate::sync::{
    answer::{Alternative, Reason, Stretch, Verdict},
    judge::{CERTAIN, Judgement, SOLID, by_sibling, by_slates},
    labels::LabelPlace,
};

/// Share of a weak sound's doubt that an agreeing timecode leaves.
const AGREEING: f64 = 0.08;
/// A sound this weak gives way to timecode that was measured.
const WEAK: f64 = 0.6;
/// Confidence of a clip whose label outweighed its sound.
const OUTWEIGHED: f64 = 0.93;

impl Settling<'_> {
    /// What is believed of every clip in the end.
    pub fn weigh_all(&mut self) -> Vec<Judgement> {
        for clip in 0..self.clips.len() {
            if self.is_islands_axis(clip) && matches!(self.grounds[clip], Ground::Sound { .. }) {
                self.grounds[clip] = Ground::IslandAxis;
            }
        }
        let by_sound = self.judge_all();
        by_sound.into_iter().enumerate().map(|(clip, own)| self.weigh(clip, own)).collect()
    }

    /// What its ground makes of what sound makes of a clip's position.
    fn weigh(&mut self, clip: usize, own: Judgement) -> Judgement {
        let silent = !self.clips[clip].is_heard();
        match &self.grounds[clip] {
            Ground::Axis | Ground::IslandAxis | Ground::RanAlone(_) => own,
            Ground::Slate => by_slates(self.laid_marks(clip).iter().map(|mark| self.late_s(clip, mark))),
            Ground::Sibling(sibling) => by_sibling(sibling.kind, sibling.confirmed),
            Ground::Label { place, .. } => place.judgement(silent),
            // Its island hangs together by sound, and on the axis by timecode.
            Ground::Sound { island_by: Some(place), .. } => {
                let by_label = place.judgement(silent);
                Judgement { confidence: own.confidence.min(by_label.confidence), ..own }
            }
            Ground::Sound { island_by: None, .. } => self.hear_labels(clip, own),
        }
    }

    /// What a clip's own timecode makes of what sound makes of its position.
    fn hear_labels(&mut self, clip: usize, own: Judgement) -> Judgement {
        let measured = |label: &&LabelPlace| label.is_timecode() && label.measured > 1;
        let Some(label) = self.told[clip].iter().find(measured).copied() else { return own };
        if self.support(clip).is_empty() {
            return own;
        }
        let start_s = self.layout.maps[clip][0].start_s;
        if label.agrees(start_s) {
            return with_agreeing(&label, own);
        }
        let is_weak = own.verdict != Verdict::Solid && own.confidence < WEAK;
        if is_weak || label.outweighs(start_s, &own) { self.outweigh(clip, label, &own) } else { own }
    }

    /// Moves a clip from where its sound fits weakly to where its label says.
    fn outweigh(&mut self, clip: usize, place: LabelPlace, own: &Judgement) -> Judgement {
        let stretch = self.layout.maps[clip][0];
        // It no longer lies by what it hears.
        let start_s = place.start_s + self.travel_s(clip);
        self.layout.maps[clip] = vec![Stretch {
            clip_start_s: 0.0,
            clip_end_s: self.clips[clip].duration_s,
            start_s,
            start_sigma_s: place.sigma_s,
            ..stretch
        }];
        self.layout.component[clip] = self.layout.component[self.axis.origin];
        let instead_of = Some(Alternative { start_s: stretch.start_s, score: own.confidence });
        self.grounds[clip] = Ground::Label { place, own: true, instead_of };
        let confidence = place.judgement(false).confidence.min(OUTWEIGHED);
        Judgement::without_sound(confidence, Some(Reason::LabelOutweighs(place.kind)))
    }
}

/// What a timecode that says the same makes of a clip's sound.
fn with_agreeing(label: &LabelPlace, own: Judgement) -> Judgement {
    let together = 1.0 - (1.0 - own.confidence) * AGREEING;
    if own.verdict == Verdict::Unplaced {
        // Each by itself leaves a doubt; that they meet by chance is unlikely.
        let confidence = label.judgement(false).confidence.max(together);
        let doubt = Some(Reason::WeakButLabelAgrees(label.kind));
        return Judgement { verdict: Verdict::Check, confidence, doubt, ..own };
    }
    let sure = own.verdict == Verdict::Check && together >= SOLID;
    Judgement {
        confidence: together.min(CERTAIN).max(own.confidence),
        verdict: if sure { Verdict::Solid } else { own.verdict },
        doubt: own.doubt.filter(|_| !sure),
        ..own
    }
}
