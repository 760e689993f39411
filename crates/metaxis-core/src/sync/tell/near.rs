//! The places of one clip near where a person put it.

use super::{
    evidence::{agreement, covered, residuals},
    placements::{said, step_back},
};
use crate::sync::{
    answer::{Alternative, Evidence, EvidenceKind, Placement, Reason, Stretch, Verdict, axis_to_clip},
    find::{Link, Tools, examine_near},
    input::DayClip,
    judge::{Judgement, judge, signs},
    solve::compose,
};

/// The places of a clip near a rough one: against `against`, which has the place `there`, with the clip's start within
/// `within_s` of `start_s` on the axis. Everything is spent on it. Unplaced where nothing fits.
pub fn place_near(
    clips: &[DayClip],
    clip: usize,
    against: usize,
    there: &Placement,
    start_s: f64,
    within_s: f64,
) -> Placement {
    let (given, map) = (clips[clip].distance_of_picture(), there.heard_at());
    if map.is_empty() {
        return Placement::unplaced(Reason::OtherHasNoPlace);
    }
    let expected_s = axis_to_clip(&map, start_s - given.travel_s());
    let links = examine_near(clips, clip, against, expected_s, within_s, &mut Tools::default());
    let mut placement = near_placement(&links, there, &map, clips[clip].duration_s, within_s);
    step_back(&mut placement, given);
    placement
}

/// What a narrow search says: the best of `links` on the axis where the other clip lies at `map`.
fn near_placement(
    links: &[Link],
    there: &Placement,
    map: &[Stretch],
    duration_s: f64,
    within_s: f64,
) -> Placement {
    let Some(best) = links.first() else {
        return Placement::unplaced(Reason::NothingNear(within_s));
    };
    let others = || links[1..].iter().filter(|link| link.rivals(best));
    let rival = others().map(|link| link.height() / best.height().max(1e-9)).fold(0.0, f64::max);
    let Judgement { verdict, confidence, doubt, signs } = judge(signs(best, 0, rival, false), None);
    // A person pointed there: what fits best is shown, to be looked at.
    let verdict = if verdict == Verdict::Unplaced { Verdict::Check } else { verdict };
    let stretches = compose(map, &best.alignment.stretches, duration_s);
    let start_by = |link: &Link| compose(map, &link.alignment.stretches, duration_s)[0].start_s;
    let (agreeing, tried) = (best.alignment.agreeing, best.alignment.tried);
    let mut reasons: Vec<Reason> = doubt.into_iter().collect();
    reasons.push(Reason::LookedNear { within_s, agreeing, tried });
    Placement {
        verdict,
        confidence,
        component: there.component,
        evidence: vec![Evidence {
            kind: EvidenceKind::Waveform,
            against: Some(best.against),
            start_s: stretches[0].start_s,
            sigma_s: best.alignment.sigma_s,
            score: agreement(best),
            used: true,
            disagrees_by_s: 0.0,
            aside: false,
        }],
        alternatives: others()
            .take(5)
            .map(|link| Alternative {
                start_s: start_by(link),
                score: (link.height() / best.height()).min(1.0),
            })
            .collect(),
        covered: covered(best),
        travel_s: 0.0,
        residuals: residuals(best, best.clip),
        stretches,
        reasons: said(&reasons),
        signs,
    }
}
