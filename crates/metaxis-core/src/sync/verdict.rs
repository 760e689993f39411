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
/// Where echoes hide the direct sound in every second case.
const MURKY: f64 = 0.13;
/// Confidence of a position by patterns alone.
const BY_PATTERN: f64 = 0.7;
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
    if !alignment.fine {
        return BY_PATTERN / (1.0 + case.rival.powi(10));
    }
    let beside = (alignment.beside / alignment.height.max(1e-9)).clamp(0.0, 1.0);
    let share = alignment.agreeing as f64 / alignment.tried.max(1) as f64;
    // Logistic in the height above chance, how much it stands out from the lags beside it, and how many windows agree.
    let score = 0.75 * (alignment.height - 7.0) - 6.0 * (beside - 0.45).max(0.0)
        + 2.0 * (share - 0.35).min(0.3)
        + 1.5 * (case.confirmed.min(2) as f64);
    let alone = 1.0 / (1.0 + (-score).exp());
    // Equal positions share the probability.
    let shared = 1.0 / (1.0 + case.rival.powi(10));
    // Echoes taken for the direct sound put a clip 20 ms off and more.
    let direct = (1.0 / (1.0 + ((alignment.murk - MURKY) / 0.008).exp())).max(0.6);
    (alone * shared * direct).min(0.999)
}

fn doubt(case: &Case) -> String {
    let alignment = &case.link.alignment;
    if case.rival > 0.7 {
        let percent = (case.rival * 100.0).round();
        return format!("Another position fits {percent} % as well: the sound repeats itself.");
    }
    if !alignment.fine {
        return "Its sound rises and falls with the reference's, but through so much noise or echo that the waves do \
                not agree: placed to about half a frame."
            .into();
    }
    if alignment.beside > 0.6 * alignment.height {
        return "Neighbouring positions fit nearly as well: the sound is a steady tone or a quick repeat."
            .into();
    }
    if alignment.murk > MURKY - 0.03 {
        return "Its microphone heard more echo than direct sound: it may lie a frame off.".into();
    }
    format!("Only {} of {} windows agree on this position.", alignment.agreeing, alignment.tried)
}
