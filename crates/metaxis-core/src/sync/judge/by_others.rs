//! What is believed of a clip that its slates place, or a take that ran with it.

use super::judgement::{Judgement, SOLID};
use crate::sync::{
    answer::{EvidenceKind, Reason, Verdict},
    labels::FRAME_S,
};

/// Confidence of a clip that a person's two marks place.
const BY_SLATE: f64 = 0.99;
/// The same where its slates contradict each other.
const TORN: f64 = 0.6;
/// Confidence where nothing, one and several pairs of the devices confirm their timecodes.
const CONFIRMED: [f64; 3] = [0.7, 0.93, 0.985];

/// What is believed of a clip that its slates alone place; `late_s` is how much later each puts it than it lies.
pub(crate) fn by_slates(late_s: impl Iterator<Item = f64>) -> Judgement {
    match late_s.map(f64::abs).reduce(f64::max) {
        Some(worst) if worst > 1.5 * FRAME_S => {
            Judgement::without_sound(TORN, Some(Reason::SlatesPart(worst)))
        }
        _ => Judgement::without_sound(BY_SLATE, None),
    }
}

/// What is believed of a clip that lies beside a take by labels of a kind, which so many other takes confirm.
pub(crate) fn by_sibling(kind: EvidenceKind, confirmed: usize) -> Judgement {
    let confidence = CONFIRMED[confirmed.min(2)];
    let solid = confidence >= SOLID && kind == EvidenceKind::AudioTimecode;
    Judgement {
        verdict: if solid { Verdict::Solid } else { Verdict::Check },
        ..Judgement::without_sound(confidence, Some(Reason::BesideTake { kind, confirmed }))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn slates_that_contradict_each_other_are_to_be_looked_at() {
        assert_eq!(by_slates([0.01, -0.02].into_iter()).verdict, Verdict::Solid);
        let torn = by_slates([0.01, -0.2].into_iter());
        assert_eq!((torn.verdict, torn.doubt), (Verdict::Check, Some(Reason::SlatesPart(0.2))));
    }

    #[test]
    fn only_audio_timecode_that_other_takes_confirm_makes_a_silent_take_solid() {
        let verdict = |kind, confirmed| by_sibling(kind, confirmed).verdict;
        assert_eq!(verdict(EvidenceKind::AudioTimecode, 2), Verdict::Solid);
        assert_eq!(verdict(EvidenceKind::AudioTimecode, 1), Verdict::Check);
        assert_eq!(verdict(EvidenceKind::FileTimecode, 9), Verdict::Check);
        assert!(by_sibling(EvidenceKind::AudioTimecode, 0).confidence < 0.9);
    }
}
