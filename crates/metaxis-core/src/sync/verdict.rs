//! From the strength of the evidence to a verdict and a confidence.

use super::{Part, Signs, Verdict, ends::OpenEnd, link::Link};

/// What is believed of a clip's position.
#[derive(Debug, Clone)]
pub(super) struct Judgement {
    pub verdict: Verdict,
    /// Probability that it is right.
    pub confidence: f64,
    /// The sentence for a doubt.
    pub doubt: Option<String>,
    /// What it was reckoned from; `None` for what is right by definition.
    pub signs: Option<Signs>,
}

impl Judgement {
    /// Of a clip that is the axis, or tied to it.
    pub fn axis() -> Self {
        Self { verdict: Verdict::Solid, confidence: 0.999, doubt: None, signs: None }
    }

    /// Of a clip that nothing was found for.
    pub fn nothing() -> Self {
        Self { verdict: Verdict::Unplaced, confidence: 0.0, doubt: None, signs: None }
    }

    /// Of a position that hangs on another clip's, which is right with the probability `other`.
    pub fn hung_on(mut self, other: &Judgement) -> Self {
        self.confidence *= other.confidence;
        if self.verdict == Verdict::Solid && other.verdict == Verdict::Check {
            self.verdict = Verdict::Check;
            self.doubt = Some("It hangs on a clip that is not sure itself.".into());
        }
        if self.confidence < PLACED {
            self.verdict = Verdict::Unplaced;
            self.doubt = Some(NOWHERE.into());
        }
        self
    }

    /// Of a clip of which an end lies elsewhere by another clip that ran then.
    pub fn left_open(mut self, end: OpenEnd) -> Self {
        if self.verdict == Verdict::Solid {
            self.verdict = Verdict::Check;
            self.confidence *= UNFORCED;
            self.doubt = Some(end.to_string());
        }
        self
    }
}

const NOWHERE: &str = "Its sound was found nowhere beyond doubt.";

/// The signs of a link: `confirmed` by that many others, with a free rival of the share `rival` of its height, and a
/// part that is `astray`.
pub(super) fn signs(link: &Link, confirmed: usize, rival: f64, astray: bool) -> Signs {
    let alignment = &link.alignment;
    Signs {
        waves: alignment.fine,
        height: alignment.height,
        beside: alignment.beside / alignment.height.max(1e-9),
        murk: alignment.murk,
        tried: alignment.tried,
        agreeing: alignment.agreeing,
        confirmed,
        rival,
        astray,
        unforced: alignment.unforced.is_some(),
    }
}

// Set from what simulated shoots showed (`metaxis-trials`, seeds 401 to 436); docs/sync-method.md shows what others say.
/// Confidence from which on a position is solid.
pub(super) const SOLID: f64 = 0.985;
/// Below this it is not reported.
const PLACED: f64 = 0.25;
/// Log odds of a position as high as the lowest that is kept, and what each standard deviation more adds.
const LOWEST: (f64, f64) = (5.0, 1.2);
const EACH_HIGHER: f64 = 0.9;
/// What few windows cost, what a clip that confirms adds.
const FEW: f64 = 1.5;
const CONFIRMED: f64 = 0.7;
/// Of the positions with more murk than this, that many lie on an echo half a frame away, however clear the place is (of
/// ten in seeds 1102, 2203, 3001 to 3012 and 5001 to 5004, three did; of eight from 0.13 to there none), and the width
/// of the passage.
const MURKY: (f64, f64) = (0.15, 0.3);
const MURKY_WIDTH: f64 = 0.002;
/// Of the positions whose neighbour within 64 ms is this share as high, that many are not the right one. (Of 133 in
/// seeds 401 to 424 without a rival farther off, none was: the neighbour is nearly always an echo.)
const TWINS: (f64, f64) = (0.9, 0.01);
/// Of the positions with a rival this high, that many are not the right one.
const RIVALS: (f64, f64) = (0.62, 0.45);
/// Share of the positions that are right where a part of the clip fits nowhere.
const ASTRAY: f64 = 0.8;
/// Share of the positions that are right where a jump rests on what repeats.
const UNFORCED: f64 = 0.8;
/// Fewer windows than this, and of those tried fewer than half: this share of such positions is right at most.
const THIN: usize = 4;
const SHOWN_THINLY: f64 = 0.8;
/// Confidence of a position by patterns alone: a tune played again rises and falls as it did before; what scores higher than
/// the last number is more than that. (Of 24 in seeds 3001 to 3012 and 5001 to 5004, 4 of 8 below 13 were right, 3 of 4 to
/// 18, and all 12 above.)
const BY_PATTERN: (f64, f64, f64) = (0.4, 0.5, 19.0);

/// What signs say; `astray` is the longest part of a take that agrees with no place on the track.
pub(super) fn judge(signs: Signs, astray: Option<Part>) -> Judgement {
    let confidence = confidence(&signs);
    let (verdict, doubt) = if confidence < PLACED {
        (Verdict::Unplaced, Some(NOWHERE.into()))
    } else if confidence >= SOLID {
        (Verdict::Solid, None)
    } else {
        (Verdict::Check, Some(doubt(&signs, astray)))
    };
    Judgement { verdict, confidence, doubt, signs: Some(signs) }
}

fn confidence(signs: &Signs) -> f64 {
    let step =
        |value: f64, (from, share): (f64, f64), width: f64| 1.0 - share * logistic((value - from) / width);
    let shared = step(signs.rival, RIVALS, 0.02);
    if !signs.waves {
        let (least, more, from) = BY_PATTERN;
        return (least + more * logistic(signs.height - from)) * shared;
    }
    let score = LOWEST.1 + EACH_HIGHER * (signs.height - LOWEST.0) - if signs.tried < 4 { FEW } else { 0.0 }
        + CONFIRMED * (signs.confirmed.min(2) as f64);
    let thin = signs.agreeing < THIN && 2 * signs.agreeing < signs.tried;
    let whole = if thin { SHOWN_THINLY } else { 1.0 }
        * if signs.astray { ASTRAY } else { 1.0 }
        * if signs.unforced { UNFORCED } else { 1.0 };
    let direct = step(signs.murk, MURKY, MURKY_WIDTH);
    (logistic(score) * shared * whole * direct * step(signs.beside, TWINS, 0.03)).min(0.999)
}

fn logistic(score: f64) -> f64 {
    1.0 / (1.0 + (-score).exp())
}

fn doubt(signs: &Signs, astray: Option<Part>) -> String {
    if signs.rival > RIVALS.0 {
        let percent = (signs.rival * 100.0).round();
        return format!("Another position fits {percent} % as well: the sound repeats itself.");
    }
    if let Some(part) = astray {
        return format!(
            "From {:.0} s to {:.0} s it agrees with no place on the track: the music may have been stopped there.",
            part.from_s.max(0.0),
            part.to_s
        );
    }
    if signs.unforced {
        return "It seems to jump where only what repeats speaks for the jump: it may simply go on.".into();
    }
    if !signs.waves {
        return "Its sound rises and falls with the reference's, but through so much noise or echo that the waves do \
                not agree: placed to about half a frame."
            .into();
    }
    if signs.murk > MURKY.0 - 3.0 * MURKY_WIDTH {
        return "Its microphone heard more echo than direct sound: it may lie a frame off.".into();
    }
    if signs.beside > TWINS.0 - 0.05 {
        return "Neighbouring positions fit nearly as well: the sound is a steady tone or a quick repeat."
            .into();
    }
    format!("Only {} of {} windows agree on this position.", signs.agreeing, signs.tried)
}
