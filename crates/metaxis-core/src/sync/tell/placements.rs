//! What is said of each clip in the end: place, verdict, evidence, alternatives, reasons.

use super::{
    evidence::{alternatives, covered, evidence, residuals},
    faults::said_of_faults,
    islands::component_numbers,
    labels::said_of_labels,
    slates::said_of_slates,
};
use crate::sync::{
    answer::{Alternative, Evidence, EvidenceKind, Heard, Placement, Reason, Verdict},
    find::Link,
    input::{GivenDistance, HeardSound},
    judge::{CERTAIN, Judgement},
    settle::{Ground, Settling},
};

/// One placement a clip, as it is believed.
pub(crate) fn placements(day: &Settling, judged: &[Judgement]) -> Vec<Placement> {
    let numbers = component_numbers(day);
    let placed = |(clip, own): (usize, &Judgement)| {
        let mut placement = placement(day, clip, own);
        if !placement.stretches.is_empty() {
            placement.component = numbers[clip];
        }
        if day.travel_s(clip) > 0.0 {
            step_back(&mut placement, day.clips[clip].distance_of_picture());
        }
        placement
    };
    judged.iter().enumerate().map(placed).collect()
}

/// Lays a clip that was placed by its sound so much later that its picture is right.
pub(super) fn step_back(placement: &mut Placement, given: GivenDistance) {
    let later_s = given.travel_s();
    if later_s <= 0.0 || placement.stretches.is_empty() {
        return;
    }
    placement.stretches.iter_mut().for_each(|stretch| stretch.start_s += later_s);
    placement.alternatives.iter_mut().for_each(|other| other.start_s += later_s);
    placement.travel_s = later_s;
    placement.reasons.push(Reason::Distance { metres: given.metres(), later_s }.to_string());
}

fn placement(day: &Settling, clip: usize, judged: &Judgement) -> Placement {
    match &day.grounds[clip] {
        Ground::Axis => on_axis(day, clip),
        Ground::IslandAxis if day.support(clip).is_empty() => {
            by_definition(day, clip, vec![], Reason::IslandAlone)
        }
        Ground::IslandAxis => by_definition(day, clip, evidence(day, clip), Reason::IslandAxis),
        Ground::Label { instead_of, .. } => without_sound(day, clip, judged, *instead_of),
        Ground::Slate | Ground::Sibling(_) => without_sound(day, clip, judged, None),
        Ground::RanAlone(label) => Placement {
            alternatives: vec![Alternative { start_s: label.start_s, score: 0.5 }],
            ..Placement::unplaced(Reason::RanAlone(label.kind))
        },
        Ground::Sound { .. } => by_sound(day, clip, judged),
    }
}

fn by_sound(day: &Settling, clip: usize, judged: &Judgement) -> Placement {
    if !day.clips[clip].is_heard() {
        return Placement::unplaced(Reason::Silent);
    }
    let support = day.support(clip);
    let Some(best) = support.iter().find(|link| link.clip == clip).or(support.first()).copied() else {
        let taken = day.layout.refused.iter().any(|(index, _)| day.links[*index].clip == clip);
        return Placement::unplaced(if taken { Reason::Taken } else { Reason::NotFound });
    };
    let confidence = judged.confidence;
    if judged.verdict == Verdict::Unplaced {
        let why = judged.doubt.unwrap_or(Reason::NotBeyondDoubt);
        return Placement { confidence, ..Placement::unplaced(why) };
    }
    let (agreeing, tried) = (best.alignment.agreeing, best.alignment.tried);
    let mut reasons: Vec<Reason> = judged.doubt.into_iter().collect();
    reasons.extend((tried > 0).then_some(Reason::Agrees { agreeing, tried }));
    reasons.extend(channels(day, clip, best));
    reasons.extend((support.len() > 1).then_some(Reason::SaidBy(support.len())));
    reasons.extend(said_of_labels(day, clip));
    reasons.extend(said_of_slates(day, clip));
    reasons.extend(said_of_faults(day, clip, best));
    Placement {
        verdict: judged.verdict,
        confidence,
        component: 0,
        evidence: evidence(day, clip),
        alternatives: alternatives(day, clip, best),
        covered: covered(best),
        travel_s: 0.0,
        residuals: residuals(best, clip),
        stretches: day.layout.maps[clip].clone(),
        reasons: said(&reasons),
        signs: judged.signs,
    }
}

/// A clip that something else than its sound places.
fn without_sound(
    day: &Settling,
    clip: usize,
    judged: &Judgement,
    instead_of: Option<Alternative>,
) -> Placement {
    let mut reasons: Vec<Reason> = judged.doubt.into_iter().collect();
    reasons.extend(said_of_labels(day, clip));
    reasons.extend(said_of_slates(day, clip));
    Placement {
        verdict: judged.verdict,
        confidence: judged.confidence,
        component: 0,
        stretches: day.layout.maps[clip].clone(),
        evidence: evidence(day, clip),
        alternatives: instead_of.into_iter().collect(),
        covered: None,
        travel_s: 0.0,
        residuals: vec![],
        reasons: said(&reasons),
        signs: None,
    }
}

fn on_axis(day: &Settling, clip: usize) -> Placement {
    if clip == day.axis.origin {
        return by_definition(day, clip, vec![], Reason::Axis);
    }
    let evidence = Evidence {
        kind: EvidenceKind::FileTimecode,
        against: Some(day.axis.origin),
        start_s: day.layout.maps[clip][0].start_s,
        sigma_s: 1e-3,
        score: 1.0,
        used: true,
        disagrees_by_s: 0.0,
        aside: false,
    };
    by_definition(day, clip, vec![evidence], Reason::TiedToAxis)
}

/// A clip that lies where it does by definition.
fn by_definition(day: &Settling, clip: usize, evidence: Vec<Evidence>, why: Reason) -> Placement {
    Placement {
        verdict: Verdict::Solid,
        confidence: CERTAIN,
        stretches: day.layout.maps[clip].clone(),
        evidence,
        ..Placement::unplaced(why)
    }
}

/// On which channels a position was measured, where there are several.
fn channels(day: &Settling, clip: usize, best: &Link) -> Option<Reason> {
    let sounds = [&day.clips[best.clip].sounds, &day.clips[best.against].sounds];
    if sounds[0].len() * sounds[1].len() < 2 {
        return None;
    }
    let heard = |sounds: &[HeardSound], at: usize| match sounds[at].channel {
        _ if sounds.len() == 1 => Heard::Only,
        Some(channel) => Heard::Channel(channel),
        None => Heard::Together,
    };
    let (own, other) = (heard(sounds[0], best.sounds.0), heard(sounds[1], best.sounds.1));
    Some(match best.clip == clip {
        true => Reason::Channels { own, other },
        false => Reason::Channels { own: other, other: own },
    })
}

/// Reasons in sentences.
pub(super) fn said(reasons: &[Reason]) -> Vec<String> {
    reasons.iter().map(Reason::to_string).collect()
}
