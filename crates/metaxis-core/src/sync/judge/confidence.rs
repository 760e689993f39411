//! From the strength of the evidence to a verdict and a confidence.

use super::judgement::{CERTAIN, Judgement, PLACED, SOLID, UNFORCED};
use crate::sync::{
    answer::{Reason, Signs, Verdict},
    find::{Link, RIVAL},
    pair::Passage,
};

/// The signs of a link: `confirmed` by that many others, with a free rival of the share `rival` of its height, and a
/// part that is `astray`.
pub(crate) fn signs(link: &Link, confirmed: usize, rival: f64, astray: bool) -> Signs {
    let alignment = &link.alignment;
    Signs {
        waves: alignment.fine,
        height: alignment.height,
        runner_up: alignment.runner_up / alignment.height.max(1e-9),
        murk: alignment.murk,
        tried: alignment.tried,
        agreeing: alignment.agreeing,
        confirmed,
        rival,
        astray,
        unforced: alignment.unforced.is_some(),
    }
}

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
/// Of the positions with a rival a little less high than makes a link ambiguous, that many are not the right one.
const RIVALS: (f64, f64) = (RIVAL - 0.03, 0.45);
/// Share of the positions that are right where a part of the clip fits nowhere.
const ASTRAY: f64 = 0.8;
/// Fewer windows than this, and of those tried fewer than half: this share of such positions is right at most.
const THIN: usize = 4;
const SHOWN_THINLY: f64 = 0.8;
/// Confidence of a position by patterns alone: a tune played again rises and falls as it did before; what scores higher than
/// the last number is more than that. (Of 24 in seeds 3001 to 3012 and 5001 to 5004, 4 of 8 below 13 were right, 3 of 4 to
/// 18, and all 12 above.)
const BY_PATTERN: (f64, f64, f64) = (0.4, 0.5, 19.0);

/// What signs say; `astray` is the longest part of a take that agrees with no place on the track.
pub(crate) fn judge(signs: Signs, astray: Option<Passage>) -> Judgement {
    let confidence = confidence(&signs);
    let (verdict, doubt) = if confidence < PLACED {
        (Verdict::Unplaced, Some(Reason::NotBeyondDoubt))
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
    (logistic(score) * shared * whole * direct * step(signs.runner_up, TWINS, 0.03)).min(CERTAIN)
}

fn logistic(score: f64) -> f64 {
    1.0 / (1.0 + (-score).exp())
}

/// What is doubtful about a place of such signs, the worst first.
fn doubt(signs: &Signs, astray: Option<Passage>) -> Reason {
    match astray {
        _ if signs.rival > RIVALS.0 => Reason::Rival(signs.rival),
        Some(part) => Reason::Astray { from_s: part.from_s, to_s: part.to_s },
        None if signs.unforced => Reason::Unforced,
        None if !signs.waves => Reason::PatternOnly,
        None if signs.murk > MURKY.0 - 3.0 * MURKY_WIDTH => Reason::Echo,
        None if signs.runner_up > TWINS.0 - 0.05 => Reason::Twins,
        None => Reason::FewAgree { agreeing: signs.agreeing, tried: signs.tried },
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn plain(height: f64) -> Signs {
        Signs { waves: true, height, tried: 40, agreeing: 40, ..Signs::default() }
    }

    #[test]
    fn a_clear_place_is_solid_and_says_nothing_doubtful() {
        let judged = judge(plain(30.0), None);
        assert_eq!((judged.verdict, judged.doubt), (Verdict::Solid, None));
        assert!(judged.confidence >= SOLID);
    }

    #[test]
    fn what_is_doubtful_is_named_the_worst_first() {
        let clear = plain(30.0);
        let astray = Passage { from_s: 3.0, to_s: 12.0 };
        let doubt = |signs: Signs, astray: Option<Passage>| judge(signs, astray).doubt;
        assert_eq!(doubt(Signs { rival: 0.9, unforced: true, ..clear }, None), Some(Reason::Rival(0.9)));
        let lost = Some(Reason::Astray { from_s: 3.0, to_s: 12.0 });
        assert_eq!(doubt(Signs { astray: true, ..clear }, Some(astray)), lost);
        assert_eq!(doubt(Signs { unforced: true, ..clear }, None), Some(Reason::Unforced));
        assert_eq!(doubt(Signs { murk: 0.3, ..clear }, None), Some(Reason::Echo));
        assert_eq!(doubt(Signs { waves: false, ..plain(25.0) }, None), Some(Reason::PatternOnly));
        assert_eq!(doubt(plain(0.0), None), Some(Reason::NotBeyondDoubt));
    }

    proptest! {
        #[test]
        fn more_for_a_place_never_makes_it_less_sure(
            height in 0.0..40.0_f64, more in 0.0..10.0_f64, rival in 0.0..1.0_f64, murk in 0.0..0.5_f64, confirmed in 0..3_usize,
        ) {
            let signs = Signs { rival, murk, confirmed, ..plain(height) };
            let sure = |signs: Signs| judge(signs, None).confidence;
            prop_assert!((0.0..=CERTAIN).contains(&sure(signs)));
            let higher = sure(Signs { height: height + more, ..signs });
            let confirmed = sure(Signs { confirmed: confirmed + 1, ..signs });
            let rivalled = sure(Signs { rival: (rival + 0.1).min(1.0), ..signs });
            let murkier = sure(Signs { murk: murk + 0.1, ..signs });
            prop_assert!(higher >= sure(signs) && confirmed >= sure(signs));
            prop_assert!(rivalled <= sure(signs) && murkier <= sure(signs));
        }

        #[test]
        fn what_hangs_on_another_is_no_surer_than_it(height in 0.0..40.0_f64, other in 0.0..40.0_f64) {
            let (own, other) = (judge(plain(height), None), judge(plain(other), None));
            let hung = own.clone().hung_on(&other);
            prop_assert!(hung.confidence <= own.confidence.min(other.confidence));
            prop_assert!(hung.verdict != Verdict::Solid || other.verdict != Verdict::Check);
        }
    }
}
