//! From the strength of the evidence to a verdict and a confidence.

use super::{Alignment, Verdict};

/// Below these log odds a position is not reported at all.
const PLACE: f64 = 6.0;
/// From these on, and without a rival, it is solid.
const SOLID: f64 = 14.0;
/// A rival position with this share of the strength makes it doubtful.
const RIVAL: f64 = 0.6;

/// Verdict, confidence and the sentence for a doubt. `rival` is the next best position's strength over
/// this one's (0 where there is none).
pub fn judge(alignment: &Alignment, rival: f64) -> (Verdict, f64, Option<String>) {
    let odds = alignment.log_odds;
    if odds < PLACE {
        return (Verdict::Unplaced, 0.0, Some("Its sound was found nowhere in the reference.".into()));
    }
    let certain = 1.0 / (1.0 + (-(odds - PLACE) / 2.0).exp());
    // Two equal positions share the probability.
    let share = if rival > RIVAL { 1.0 / (1.0 + rival.powi(8)) } else { 1.0 };
    let confidence = (certain * share).min(0.999);
    if rival > RIVAL {
        let percent = (rival * 100.0).round();
        return (
            Verdict::Check,
            confidence,
            Some(format!("Another position fits {percent} % as well: the sound repeats itself.")),
        );
    }
    if odds < SOLID {
        return (
            Verdict::Check,
            confidence,
            Some(format!(
                "Only {} of {} windows agree on this position.",
                alignment.agreeing, alignment.tried
            )),
        );
    }
    (Verdict::Solid, confidence, None)
}
