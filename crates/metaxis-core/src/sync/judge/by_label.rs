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
