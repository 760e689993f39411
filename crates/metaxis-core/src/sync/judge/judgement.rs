//! What is believed of a clip's place.

use crate::sync::{
    answer::{Reason, Signs, Verdict},
    solve::OpenEnd,
};

/// What is believed of a clip's position.
#[derive(Debug, Clone)]
pub(crate) struct Judgement {
    pub verdict: Verdict,
    /// Probability that it is right.
    pub confidence: f64,
    /// What is doubtful about it.
    pub doubt: Option<Reason>,
    /// What it was reckoned from; `None` for what does not rest on sound.
    pub signs: Option<Signs>,
}

// Set from what simulated shoots showed (`metaxis-trials`, seeds 401 to 436); docs/sync-method.md shows what others say.
/// Confidence from which on a position is solid.
pub(crate) const SOLID: f64 = 0.985;
/// Below this it is not reported.
pub(super) const PLACED: f64 = 0.25;
/// Share of the positions that are right where a jump rests on what repeats.
pub(super) const UNFORCED: f64 = 0.8;
/// What is right by definition.
pub(crate) const CERTAIN: f64 = 0.999;

impl Judgement {
    /// Of a clip that is the axis, or tied to it.
    pub fn axis() -> Self {
        Self { verdict: Verdict::Solid, confidence: CERTAIN, doubt: None, signs: None }
    }

    /// Of a clip that nothing was found for.
    pub fn nothing() -> Self {
        Self { verdict: Verdict::Unplaced, confidence: 0.0, doubt: None, signs: None }
    }

    /// Of a clip that something else than sound places: solid where nothing is doubtful about it.
    pub fn without_sound(confidence: f64, doubt: Option<Reason>) -> Self {
        let verdict = if doubt.is_none() { Verdict::Solid } else { Verdict::Check };
        Self { verdict, confidence, doubt, signs: None }
    }

    /// Of a position that hangs on another clip's.
    pub fn hung_on(mut self, other: &Judgement) -> Self {
        self.confidence *= other.confidence;
        if self.verdict == Verdict::Solid && other.verdict == Verdict::Check {
            self.verdict = Verdict::Check;
            self.doubt = Some(Reason::HangsOnDoubt);
        }
        if self.confidence < PLACED {
            self.verdict = Verdict::Unplaced;
            self.doubt = Some(Reason::NotBeyondDoubt);
        }
        self
    }

    /// Of a clip of which an end lies elsewhere by another clip that ran then.
    pub fn left_open(mut self, end: OpenEnd) -> Self {
        if self.verdict == Verdict::Solid {
            self.verdict = Verdict::Check;
            self.confidence *= UNFORCED;
            let OpenEnd { part, later_s } = end;
            self.doubt = Some(Reason::OpenEnd { from_s: part.from_s, to_s: part.to_s, later_s });
        }
        self
    }
}
