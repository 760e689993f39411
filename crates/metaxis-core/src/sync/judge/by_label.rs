//! What is believed of a clip that a label places.

use super::judgement::Judgement;
use crate::sync::{
    answer::{EvidenceKind, LabelStands, Reason, Verdict},
    labels::LabelPlace,
};

/// Confidence of a clip placed by audio timecode, and by file timecode, of which this many other clips agree.
const BY_SIGNAL: f64 = 0.99;
const BY_FILE: f64 = 0.985;
const FEW_AGREE: (usize, f64) = (2, 0.93);
/// By timecode that nothing heard confirms.
const UNHEARD: f64 = 0.7;
/// The same where there was sound that ought to have been found.
const UNHEARD_AND_UNLIKE: f64 = 0.5;
/// Timecode this likely to be right to half a frame is exact.
const EXACT: f64 = 0.9;
/// So few windows are weak.
const FEW_WINDOWS: usize = 6;
/// Timecode that is off by a fault is off by less than this, or by hours, seconds.
const SLIPS_S: f64 = 2.0;

impl LabelPlace {
    /// Whether it outweighs a sound that puts the clip at `start_s`: it is exact, and the sound few windows in a place that no
    /// timecode slips to.
    pub fn outweighs(&self, start_s: f64, own: &Judgement) -> bool {
        let few = own.signs.is_none_or(|signs| {
            let doubtful = own.verdict != Verdict::Solid && signs.agreeing < FEW_WINDOWS;
            signs.confirmed == 0 && (doubtful || 2 * signs.agreeing < signs.tried)
        });
        let exact = self.kind == EvidenceKind::AudioTimecode || self.within_half >= EXACT;
        few && exact && (start_s - self.start_s).abs() > SLIPS_S
    }

    /// What is believed of a clip that it alone places.
    pub fn judgement(&self, silent: bool) -> Judgement {
        let (confidence, stands) = match (self.kind, self.measured) {
            (EvidenceKind::DeviceClock, _) => {
                (0.02 / self.sigma_s.max(0.02), LabelStands::About((2.0 * self.sigma_s).ceil()))
            }
            (_, 0) => {
                let alone = if silent { UNHEARD } else { UNHEARD_AND_UNLIKE };
                // The more are jammed alike, the likelier one more is.
                let alike = 2 * self.level.max(1) - 1;
                let confidence = (1.0 - (1.0 - alone) / alike as f64).min(FEW_AGREE.1);
                (confidence, LabelStands::Unconfirmed(self.level))
            }
            (_, count) if count < FEW_AGREE.0 => {
                (FEW_AGREE.1.min(self.within_half), LabelStands::ConfirmedOnce)
            }
            (EvidenceKind::AudioTimecode, count) => (BY_SIGNAL, LabelStands::Firmly(count)),
            (_, count) if self.within_half >= BY_FILE => (BY_FILE, LabelStands::Firmly(count)),
            (_, count) => (self.within_half, LabelStands::ToItsFrame(count)),
        };
        let is_firm = matches!(stands, LabelStands::Firmly(_));
        let doubt = (!is_firm).then_some(Reason::ByLabel { kind: self.kind, silent, stands });
        Judgement::without_sound(confidence, doubt)
    }

    /// What is said of a clip that it alone places, where nothing of that is doubtful.
    pub fn firmly(&self, silent: bool) -> Option<Reason> {
        let stands = LabelStands::Firmly(self.measured);
        let firm = self.judgement(silent).doubt.is_none();
        firm.then_some(Reason::ByLabel { kind: self.kind, silent, stands })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sync::answer::Signs;

    fn place(kind: EvidenceKind, measured: usize) -> LabelPlace {
        LabelPlace { kind, start_s: 10.0, sigma_s: 0.001, unit_s: 0.04, measured, within_half: 1.0, level: 0 }
    }

    #[test]
    fn the_more_clips_confirm_a_label_the_surer_it_is() {
        for kind in [EvidenceKind::AudioTimecode, EvidenceKind::FileTimecode] {
            let sure: Vec<f64> = (0..4).map(|clips| place(kind, clips).judgement(true).confidence).collect();
            assert!(sure.is_sorted(), "{sure:?}");
            assert_eq!(place(kind, 3).judgement(true).verdict, Verdict::Solid);
            assert_eq!(place(kind, 1).judgement(true).verdict, Verdict::Check);
        }
    }

    #[test]
    fn sound_that_was_not_found_makes_a_label_less_sure_and_jammed_devices_more() {
        let label = place(EvidenceKind::FileTimecode, 0);
        assert!(label.judgement(false).confidence < label.judgement(true).confidence);
        let alike = LabelPlace { level: 3, ..label };
        assert!(alike.judgement(false).confidence > label.judgement(false).confidence);
        let said = alike.judgement(true).doubt.expect("a doubt").to_string();
        assert!(said.ends_with("; 3 other devices are jammed alike."), "{said}");
    }

    #[test]
    fn a_clock_is_good_for_its_seconds_only() {
        let clock = LabelPlace { sigma_s: 1.4, ..place(EvidenceKind::DeviceClock, 5) };
        let judged = clock.judgement(true);
        assert!(judged.confidence < 0.05 && clock.firmly(true).is_none());
        let said = judged.doubt.expect("a doubt").to_string();
        assert_eq!(said, "It has no sound to match: placed by its device's clock alone, to about 3 s.");
    }

    #[test]
    fn exact_timecode_outweighs_few_windows_elsewhere_and_no_more() {
        let label = place(EvidenceKind::AudioTimecode, 3);
        let weak = |agreeing: usize, tried: usize| Judgement {
            signs: Some(Signs { agreeing, tried, ..Signs::default() }),
            ..Judgement::without_sound(0.9, Some(Reason::NotFound))
        };
        assert!(label.outweighs(192.0, &weak(3, 8)));
        assert!(!label.outweighs(10.5, &weak(3, 8)), "so near, it may have slipped");
        let strong = Judgement { verdict: Verdict::Solid, ..weak(40, 41) };
        assert!(!label.outweighs(192.0, &strong));
        let coarse = LabelPlace { within_half: 0.7, ..place(EvidenceKind::FileTimecode, 3) };
        assert!(!coarse.outweighs(192.0, &weak(3, 8)));
    }
}
