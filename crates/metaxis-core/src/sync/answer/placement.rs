//! Where a clip lies on the axis, why, and how far that is to be trusted.

use super::{
    evidence::{Alternative, Evidence, Residual},
    stretch::{Stretch, axis_to_clip, stretch_at},
    verdict::{Signs, Verdict},
};
use serde::{Deserialize, Serialize};
use std::fmt::Display;
use ts_rs::TS;

/// The engine's answer for one clip.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct Placement {
    /// How far to trust it.
    pub verdict: Verdict,
    /// Estimated probability that the position is right to within half a frame.
    pub confidence: f64,
    /// Island of clips whose positions can be compared.
    pub component: u32,
    /// Where it lies; empty when unplaced.
    pub stretches: Vec<Stretch>,
    /// Why.
    pub evidence: Vec<Evidence>,
    /// What else would fit.
    pub alternatives: Vec<Alternative>,
    /// Share of what sound compared that agreeing windows cover; `None` where it does not lie by its waves.
    #[serde(default)]
    pub covered: Option<f64>,
    /// How much later it was laid than its microphone hears, since that is far from what it shows, seconds.
    #[serde(default)]
    pub travel_s: f64,
    /// What was left along the clip.
    pub residuals: Vec<Residual>,
    /// In sentences: what decided, what is doubtful.
    pub reasons: Vec<String>,
    /// What the confidence was reckoned from; not kept.
    #[serde(skip)]
    #[ts(skip)]
    pub signs: Option<Signs>,
}

impl Placement {
    /// No position, with the sentence that says why.
    pub fn unplaced(reason: impl Display) -> Self {
        Self {
            verdict: Verdict::Unplaced,
            confidence: 0.0,
            component: 0,
            stretches: vec![],
            evidence: vec![],
            alternatives: vec![],
            covered: None,
            travel_s: 0.0,
            residuals: vec![],
            reasons: vec![reason.to_string()],
            signs: None,
        }
    }

    /// Lays it so much later with everything that is said of its place.
    pub(crate) fn shift(&mut self, by_s: f64) {
        self.stretches.iter_mut().for_each(|stretch| stretch.start_s += by_s);
        self.alternatives.iter_mut().for_each(|other| other.start_s += by_s);
        self.evidence.iter_mut().for_each(|evidence| evidence.start_s += by_s);
    }

    /// Where it would lie by what its microphone hears.
    pub(crate) fn heard_at(&self) -> Vec<Stretch> {
        let heard = |own: &Stretch| Stretch { start_s: own.start_s - self.travel_s, ..*own };
        self.stretches.iter().map(heard).collect()
    }

    /// The clip's own moment at which it hears what another hears at its own `there_s`; beyond their ends as their ends go on.
    /// `None` where either has no place.
    pub fn hears_at(&self, other: &Placement, there_s: f64) -> Option<f64> {
        let (own, there) = (self.heard_at(), other.heard_at());
        if own.is_empty() || there.is_empty() {
            return None;
        }
        Some(axis_to_clip(&own, stretch_at(&there, there_s).axis_s(there_s)))
    }

    /// Axis time of a moment of the clip's own time; None where no stretch holds it.
    pub fn axis_s(&self, clip_s: f64) -> Option<f64> {
        let holds = |own: &&Stretch| (own.clip_start_s..=own.clip_end_s).contains(&clip_s);
        self.stretches.iter().find(holds).map(|own| own.axis_s(clip_s))
    }

    /// The clip's own time at an axis time; None where it did not run then.
    pub fn clip_s(&self, axis_s: f64) -> Option<f64> {
        let holds = |own: &&Stretch| (own.start_s..=own.end_s()).contains(&axis_s);
        self.stretches.iter().find(holds).map(|own| own.clip_s(axis_s))
    }

    /// Extent on the axis, seconds; `None` when unplaced.
    pub fn extent_s(&self) -> Option<(f64, f64)> {
        Some((self.stretches.first()?.start_s, self.stretches.last()?.end_s()))
    }
}
