//! From the strength of the evidence to a verdict and a confidence.

use super::{Alignment, Verdict, link::Link};

/// What speaks for and against a clip's position.
pub(super) struct Case<'a> {
    /// The link that decided.
    pub link: &'a Link,
    /// Other clips that confirm the position.
    pub confirmed: usize,
    /// Height of the best other position that is free, over this one's (0 where there is none).
    pub rival: f64,
}

// Set from what simulated shoots showed (`metaxis-trials`, seeds 401 to 436); docs/sync-method.md shows what others say.
/// Confidence from which on a position is solid.
const SOLID: f64 = 0.985;
/// Below this it is not reported.
const PLACED: f64 = 0.25;
/// Log odds of a position as high as the lowest that is kept, and what each standard deviation more adds.
const LOWEST: (f64, f64) = (5.0, 1.2);
const EACH_HIGHER: f64 = 0.9;
/// What few windows cost, what a clip that confirms adds, what murk costs from where on.
const FEW: f64 = 1.5;
const CONFIRMED: f64 = 0.7;
const MURKY: (f64, f64) = (0.11, 50.0);
/// Of the positions whose neighbour within 64 ms is this share as high, that many are not the right one.
const TWINS: (f64, f64) = (0.9, 0.08);
/// Of the positions with a rival this high, that many are not the right one.
const RIVALS: (f64, f64) = (0.62, 0.45);
/// Confidence of a position by patterns alone: a tune played again rises and falls as it did before.
const BY_PATTERN: f64 = 0.42;

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
    let step =
        |value: f64, (from, share): (f64, f64), width: f64| 1.0 - share * logistic((value - from) / width);
    let shared = step(case.rival, RIVALS, 0.02);
    if !alignment.fine {
        return BY_PATTERN * shared;
    }
    let score = LOWEST.1 + EACH_HIGHER * (alignment.height - LOWEST.0)
        - if alignment.tried < 4 { FEW } else { 0.0 }
        - MURKY.1 * (alignment.murk - MURKY.0).max(0.0)
        + CONFIRMED * (case.confirmed.min(2) as f64);
    (logistic(score) * shared * step(beside(alignment), TWINS, 0.03)).min(0.999)
}

fn logistic(score: f64) -> f64 {
    1.0 / (1.0 + (-score).exp())
}

/// Height of the best neighbour over that of the position.
fn beside(alignment: &Alignment) -> f64 {
    alignment.beside / alignment.height.max(1e-9)
}

fn doubt(case: &Case) -> String {
    let alignment = &case.link.alignment;
    if case.rival > RIVALS.0 {
        let percent = (case.rival * 100.0).round();
        return format!("Another position fits {percent} % as well: the sound repeats itself.");
    }
    if !alignment.fine {
        return "Its sound rises and falls with the reference's, but through so much noise or echo that the waves do \
                not agree: placed to about half a frame."
            .into();
    }
    if beside(alignment) > TWINS.0 - 0.05 {
        return "Neighbouring positions fit nearly as well: the sound is a steady tone or a quick repeat."
            .into();
    }
    if alignment.murk > MURKY.0 {
        return "Its microphone heard more echo than direct sound: it may lie a frame off.".into();
    }
    format!("Only {} of {} windows agree on this position.", alignment.agreeing, alignment.tried)
}
