//! Evidence that a person sets aside or takes back: the place answers at once, from what listening found before.

use super::{
    chosen::add_choices,
    findings::{Findings, asides},
    outcome::{Outcome, bare, in_store_numbers, keep_outcome, not_yet, taking_part},
    placing::days_of,
};
use crate::{
    App,
    error::ApiError,
    heard_day::{self, Listened, axis_zero},
};
use metaxis_core::{
    clip::ClipId,
    sync::{
        Aside, DayClip, DaysAxis, EvidenceKind, PlacedDay, Placement, Verdict, join_days, keep_beside,
        weigh_day,
    },
};
use metaxis_store::{Part, StoredClip};
use std::time::Instant;

/// A piece of evidence of a clip.
#[derive(Debug, Clone, Copy)]
pub struct Piece {
    /// The clip.
    pub clip: ClipId,
    /// Its kind.
    pub kind: EvidenceKind,
    /// The clip it was measured against.
    pub against: Option<ClipId>,
}

/// Sets a piece of evidence aside, or takes it back: a new pass beside the one that is shown, in which that clip lies where
/// everything else puts it and nothing else moves.
///
/// # Errors
/// [`ApiError::Refused`] where nothing is placed, the clip is the axis, or what was found is not known any more.
pub fn set_aside(app: &App, piece: Piece, aside: bool) -> Result<(), ApiError> {
    let begin = Instant::now();
    let refused = |why: &str| Err(ApiError::Refused(why.to_owned()));
    let (day, before) = (app.store.day()?, app.store.shown()?);
    let Some(pass) = &before.pass else { return refused("nothing is placed yet; sync the day first") };
    if pass.facts.origin == piece.clip {
        return refused("this clip's clock is the axis; it lies where it lies");
    }
    let Some(findings) = Findings::shown(app)? else {
        return refused(
            "what was found in this pass is not kept any more; sync the day again, then set it aside",
        );
    };
    let Some(found) = findings.days.into_iter().find(|day| day.clips.contains(&piece.clip)) else {
        return refused("this clip took no part in this pass; sync the day again, then set it aside");
    };
    let (taking, resting) = taking_part(app, found.plan.mode)?;
    let days = days_of(&taking, &day, found.plan.mode);
    let ids = |own: &[usize]| own.iter().map(|&clip| taking[clip].id).collect::<Vec<_>>();
    let own_day = days.iter().position(|own| ids(own) == found.clips);
    let first = taking.iter().position(|clip| clip.id == pass.facts.origin);
    let first = first.and_then(|origin| days.iter().position(|own| own.contains(&origin)));
    let (Some(own_day), Some(first)) = (own_day, first) else {
        return refused("clips came or went since this pass; sync the day again, then set it aside");
    };
    let mut listened: Vec<Listened> = taking.iter().map(known).collect();
    add_choices(&mut listened, &day);
    let index = |clip: ClipId| found.clips.iter().position(|own| *own == clip);
    let Some(clip) = index(piece.clip) else { return refused("this clip takes no part in the sync") };
    let own = Aside { clip, kind: piece.kind, against: piece.against.and_then(index) };
    let mut all = asides(&found.clips, &before.placements);
    // What two clips heard of each other is set aside for both.
    let turned = Aside { clip: own.against.unwrap_or(clip), against: Some(clip), ..own };
    all.retain(|other| *other != own && *other != turned);
    if aside {
        all.push(own);
    }
    let heard: Vec<_> =
        taking.iter().map(|clip| clip.heard.as_ref().filter(|_| clip.part != Part::Silent)).collect();
    let mut every: Vec<_> = heard_day::known_clips(&listened, &heard).into_iter().map(Some).collect();
    let numbers = &days[own_day];
    let clips: Vec<DayClip> = numbers.iter().filter_map(|&clip| every[clip].take()).collect();
    let result =
        weigh_day(&clips, found.plan, &found.found, &all).map_err(|e| ApiError::Refused(e.to_string()))?;
    drop(clips);
    let zero = axis_zero(&listened[numbers[result.reference]].facts, &result.islands);
    let placed = PlacedDay {
        clips: numbers.clone(),
        after: own_day as i64 - first as i64,
        zero_s: zero.seconds(),
        result,
    };
    let axis = DaysAxis {
        origin: listened.iter().position(|own| own.id == pass.facts.origin),
        zero_s: pass.facts.axis_zero.seconds(),
    };
    let mut result = join_days(vec![placed], axis, listened.len(), |_| not_yet());
    let clip = numbers[clip];
    in_store_numbers(&mut result, &listened);
    let staying: Vec<Option<Placement>> = listened
        .iter()
        .map(|clip| {
            let old = before.placements.iter().find(|old| old.clip == clip.id)?;
            (clip.id != piece.clip).then(|| old.placement.clone())
        })
        .collect();
    keep_beside(&mut result, staying, &pass.facts.islands);
    let placed = &mut result.placements[clip];
    if placed.verdict == Verdict::Unplaced {
        placed.component = 0;
    }
    let name = format!(
        "{} {} {}",
        taking[clip].relative.rsplit('/').next().unwrap_or_default(),
        if aside { "without" } else { "with" },
        said(piece.kind)
    );
    let outcome = Outcome {
        name,
        reference: pass.facts.reference,
        took_s: begin.elapsed().as_secs_f64(),
        notes: pass.facts.notes.clone(),
        result,
    };
    keep_outcome(app, outcome, &listened, &resting, &day)?;
    Ok(())
}

/// A clip with what is known of it, not listened to.
fn known(clip: &StoredClip) -> Listened {
    let channels = clip.heard.as_ref().map_or_else(Vec::new, |heard| heard.channels.clone());
    Listened { channels, ..bare(clip) }
}

fn said(kind: EvidenceKind) -> &'static str {
    match kind {
        EvidenceKind::Waveform => "a sound",
        EvidenceKind::Hand => "the hand",
        EvidenceKind::Slate => "its slate",
        kind => kind.called(),
    }
}
