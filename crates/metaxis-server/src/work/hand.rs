//! Positions that a person gives.

use super::{outcome::bare, pass::no_reference};
use crate::{
    App,
    error::ApiError,
    heard_day::{self, Listened},
};
use metaxis_core::{
    clip::{ClipId, DeviceId},
    sync::{Evidence, EvidenceKind, Placement, Stretch, Verdict, component_at},
};
use metaxis_store::PassFacts;

/// Lays a clip by hand: a new pass beside the one that is shown, in which nothing else moves.
///
/// # Errors
/// [`ApiError::Refused`] where nothing is placed yet or the clip is the reference.
pub fn lay_by_hand(app: &App, clip: ClipId, start_s: f64) -> Result<(), ApiError> {
    let day = app.store.day()?;
    let shown = app.store.shown()?;
    let Some(pass) = &shown.pass else {
        return Err(ApiError::Refused("nothing is placed yet; sync the day first".into()));
    };
    if pass.facts.origin == clip {
        return Err(ApiError::Refused("this clip's clock is the axis; it lies where it lies".into()));
    }
    let stored = app.store.clip(clip)?;
    let mut placements: Vec<(ClipId, Placement)> =
        shown.placements.iter().map(|view| (view.clip, view.placement.clone())).collect();
    let old = placements.iter().position(|(id, _)| *id == clip);
    let mut moved = by_hand(old.map(|at| &placements[at].1), stored.facts.duration_s, start_s);
    let others = placements.iter().filter(|(id, _)| *id != clip).map(|(_, placement)| placement);
    moved.component = moved.extent_s().map_or(0, |extent| component_at(others, extent));
    match old {
        Some(at) => placements[at].1 = moved,
        None => placements.push((clip, moved)),
    }
    let clips: Vec<Listened> = app.store.stored_clips()?.iter().map(bare).collect();
    let laid: Vec<Placement> = clips
        .iter()
        .map(|own| {
            let found = placements.iter().find(|(id, _)| *id == own.id);
            found.map_or_else(|| Placement::unplaced(""), |(_, placement)| placement.clone())
        })
        .collect();
    let origin = clips.iter().position(|own| own.id == pass.facts.origin).ok_or_else(no_reference)?;
    let order: Vec<DeviceId> = day.devices.iter().map(|device| device.id).collect();
    let (axis_zero, groups) =
        heard_day::groups(&clips, &laid, origin, pass.facts.reference, &pass.facts.islands, &order);
    let name = format!("{} by hand", stored.relative.rsplit('/').next().unwrap_or_default());
    let kept = PassFacts {
        name,
        reference: pass.facts.reference,
        origin: pass.facts.origin,
        axis_zero,
        took_s: 0.0,
        notes: pass.facts.notes.clone(),
        islands: pass.facts.islands.clone(),
    };
    app.store.keep_pass(&kept, &placements, &groups)?;
    Ok(())
}

/// The placement of a clip whose start a person gave: it keeps its rate and its breaks.
fn by_hand(old: Option<&Placement>, duration_s: f64, start_s: f64) -> Placement {
    let mut placement = old.cloned().unwrap_or_else(|| Placement::unplaced(""));
    match placement.stretches.first().map(|first| start_s - first.start_s) {
        Some(by) => placement.stretches.iter_mut().for_each(|stretch| stretch.start_s += by),
        None => placement.stretches.push(Stretch::whole(duration_s, start_s)),
    }
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
    placement.reasons = vec!["Laid by hand: it stays here until it is asked for by name.".into()];
    placement
}
