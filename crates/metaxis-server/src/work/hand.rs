//! Positions and breaks that a person gives.

use super::outcome::{Outcome, bare, keep_outcome, no_reference, not_yet};
use crate::{App, error::ApiError, heard_day::Listened};
use metaxis_core::{
    clip::ClipId,
    sync::{BreakEdit, DayResult, Evidence, EvidenceKind, Placement, Stretch, Verdict, component_at},
};

/// What a person says of where a clip lies.
#[derive(Debug, Clone, Copy)]
pub enum ByHand {
    /// It starts there on the axis, seconds.
    Starts(f64),
    /// One of its breaks is another.
    Breaks(BreakEdit),
}

/// Lays a clip by hand: a new pass beside the one that is shown, in which nothing else moves.
///
/// # Errors
/// [`ApiError::Refused`] where nothing is placed yet, the clip is the reference, or a break cannot be changed so.
pub fn lay_by_hand(app: &App, clip: ClipId, hand: ByHand) -> Result<(), ApiError> {
    let day = app.store.day()?;
    let shown = app.store.shown()?;
    let Some(pass) = shown.pass else {
        return Err(ApiError::Refused("nothing is placed yet; sync the day first".into()));
    };
    if pass.facts.origin == clip {
        return Err(ApiError::Refused("this clip's clock is the axis; it lies where it lies".into()));
    }
    let stored = app.store.clip(clip)?;
    let old = shown.placements.iter().find(|view| view.clip == clip).map(|view| &view.placement);
    let mut moved = laid(old, stored.facts.duration_s, hand)?;
    let others = shown.placements.iter().filter(|view| view.clip != clip).map(|view| &view.placement);
    moved.component = moved.extent_s().map_or(0, |extent| component_at(others, extent));
    let clips: Vec<Listened> = app.store.stored_clips()?.iter().map(bare).collect();
    let placements: Vec<Placement> = clips
        .iter()
        .map(|own| {
            let found = shown.placements.iter().find(|view| view.clip == own.id);
            match found {
                _ if own.id == clip => moved.clone(),
                Some(view) => view.placement.clone(),
                None => not_yet(),
            }
        })
        .collect();
    let reference = clips.iter().position(|own| own.id == pass.facts.origin).ok_or_else(no_reference)?;
    let islands = pass.facts.islands;
    let result =
        DayResult { reference, placements, rates: vec![], clocks: vec![], distances: vec![], islands };
    let name = stored.relative.rsplit('/').next().unwrap_or_default();
    let outcome = Outcome {
        name: match hand {
            ByHand::Starts(_) => format!("{name} by hand"),
            ByHand::Breaks(_) => format!("{name}, breaks by hand"),
        },
        reference: pass.facts.reference,
        took_s: 0.0,
        notes: pass.facts.notes,
        result,
    };
    keep_outcome(app, outcome, &clips, &[], &day)?;
    Ok(())
}

/// The placement of a clip as a person gave it: what was not said of it stays.
fn laid(old: Option<&Placement>, duration_s: f64, hand: ByHand) -> Result<Placement, ApiError> {
    let mut placement = old.cloned().unwrap_or_else(|| Placement::unplaced(""));
    match hand {
        ByHand::Starts(start_s) => match placement.stretches.first().map(|first| start_s - first.start_s) {
            Some(by) => placement.stretches.iter_mut().for_each(|stretch| stretch.start_s += by),
            None => placement.stretches.push(Stretch::whole(duration_s, start_s)),
        },
        ByHand::Breaks(edit) => placement.change_break(edit).map_err(|e| ApiError::Refused(e.to_string()))?,
    }
    let start_s = placement.stretches.first().map_or(0.0, |first| first.start_s);
    for evidence in &mut placement.evidence {
        evidence.disagrees_by_s = evidence.start_s - start_s;
        evidence.used = false;
    }
    placement.evidence.retain(|evidence| evidence.kind != EvidenceKind::Hand);
    placement.evidence.insert(
        0,
        Evidence {
            kind: EvidenceKind::Hand,
            against: None,
            start_s,
            sigma_s: 0.0,
            score: 1.0,
            used: true,
            disagrees_by_s: 0.0,
            aside: false,
        },
    );
    placement.verdict = Verdict::ByHand;
    placement.confidence = 1.0;
    placement.reasons = vec![match hand {
        ByHand::Starts(_) => "Laid by hand: it stays here until it is asked for by name.".into(),
        ByHand::Breaks(_) => {
            "Its breaks were set by hand: it stays as it is until it is asked for by name.".into()
        }
    }];
    Ok(placement)
}
