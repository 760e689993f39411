//! From the strength of the evidence to a verdict and a confidence.

use super::{Verdict, link::Link};

/// What speaks for and against a clip's position.
pub(super) struct Case<'a> {
    /// The link that decided.
    pub link: &'a Link,
    /// Other clips that confirm the position.
    pub confirmed: usize,
    /// Height of the best other position that is free, over this one's (0 where there is none).
    pub rival: f64,
}

/// Confidence from which on a position is solid.
const SOLID: f64 = 0.985;
/// Below this it is not reported.
const PLACED: f64 = 0.25;

/// Verdict, confidence, and the sentence for a doubt.
pub(super) fn judge(case: &Case) -> (Verdict, f64, Option<String>) {
    let confidence = confidence(case);
    if confidence < PLACED {
        return (Verdict::Unplaced, confidence, Some("Its sound was found nowhere beyond doubt.".into()));
    }
    if confidence >= SOLID {
        return (Verdict::Solid, confidence, None);
    }
    (Verdict::Check, confidence, Some(doubt(case)))
}

fn confidence(case: &Case) -> f64 {
    let alignment = &case.link.alignment;
    let beside = (alignment.beside / alignment.height.max(1e-9)).clamp(0.0, 1.0);
    let share = alignment.agreeing as f64 / alignment.tried.max(1) as f64;
    // Logistic in the height above chance, how much it stands out from the lags beside it, and how many windows agree.
    let score = 0.75 * (alignment.height - 7.0) - 6.0 * (beside - 0.45).max(0.0)
        + 2.0 * (share - 0.35).min(0.3)
        + 1.5 * (case.confirmed.min(2) as f64);
    let alone = 1.0 / (1.0 + (-score).exp());
    // Equal positions share the probability.
    let shared = 1.0 / (1.0 + case.rival.powi(10));
    (alone * shared).min(0.999)
}

fn doubt(case: &Case) -> String {
    let alignment = &case.link.alignment;
    if case.rival > 0.7 {
        let percent = (case.rival * 100.0).round();
        return format!("Another position fits {percent} % as well: the sound repeats itself.");
    }
    if alignment.beside > 0.6 * alignment.height {
        return "Neighbouring positions fit nearly as well: the sound is a steady tone or a quick repeat.".into();
    }
    format!("Only {} of {} windows agree on this position.", alignment.agreeing, alignment.tried)
}
