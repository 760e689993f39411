//! Claps in pictures, as the Bench asks for them.

use super::fingerprint;
use crate::{
    App,
    error::ApiError,
    pictures::{LIKELY, MOST_CLAPS, Pictured, SAME_S, claps_of, is_placed, look},
};
use metaxis_core::{
    clip::ClipId,
    signal::Clap,
    sync::{GivenDistance, Placement, SeenClap},
};
use metaxis_media::Stop;
use metaxis_store::StoredClip;
use std::collections::HashMap;

/// Claps to look for in a clip: its own, and after them those that others have clear while it ran, by the pass that is
/// shown.
///
/// # Errors
/// [`ApiError::NotFound`], [`ApiError::Media`].
pub fn claps_for(app: &App, id: ClipId) -> Result<Vec<Clap>, ApiError> {
    let clip = app.store.clip(id)?;
    let (mut claps, shown) = (own_claps(app, &clip)?, app.store.shown()?);
    let placements: HashMap<ClipId, &Placement> =
        shown.placements.iter().map(|view| (view.clip, &view.placement)).collect();
    let Some(own) = placements.get(&id).filter(|placement| is_placed(placement)) else { return Ok(claps) };
    let mut others: Vec<Clap> = vec![];
    for other in app.store.stored_clips()?.iter().filter(|other| other.id != id) {
        let Some(theirs) = placements.get(&other.id).filter(|placement| is_placed(placement)) else {
            continue;
        };
        for clap in own_claps(app, other)?.into_iter().filter(|clap| clap.score >= LIKELY) {
            let there = theirs.axis_s(clap.at_s).map(|axis_s| axis_s - theirs.travel_s);
            let heard_s = |axis_s: f64| own.clip_s(axis_s + own.travel_s);
            if let Some(at_s) = there.and_then(heard_s) {
                let name = other.relative.rsplit('/').next().unwrap_or_default();
                others.push(Clap {
                    at_s,
                    score: clap.score,
                    why: format!("heard clear in {name}: {}", clap.why),
                });
            }
        }
    }
    others.sort_by(|a, b| b.score.total_cmp(&a.score));
    for other in others {
        // Its own hearing of the same clap is the one to mark.
        match claps.iter_mut().find(|clap| (clap.at_s - other.at_s).abs() < SAME_S) {
            Some(same) => same.score = same.score.max(other.score),
            None => claps.push(other),
        }
    }
    claps.sort_by(|a, b| b.score.total_cmp(&a.score));
    claps.truncate(MOST_CLAPS);
    Ok(claps)
}

/// Where a clip's picture shows a clap, for the page.
///
/// # Errors
/// [`ApiError::NotFound`], [`ApiError::Media`].
pub fn look_at(app: &App, clip: ClipId, heard_s: f64, stop: &Stop) -> Result<Option<SeenClap>, ApiError> {
    let clip = app.store.clip(clip)?;
    let print = fingerprint(&clip.fingerprint)?;
    let pictured = Pictured {
        device: clip.device,
        path: &clip.path,
        fingerprint: &print,
        facts: &clip.facts,
        distance: GivenDistance::None,
        marked: false,
    };
    Ok(look(&app.cache, &pictured, heard_s, stop)?)
}

fn own_claps(app: &App, clip: &StoredClip) -> Result<Vec<Clap>, ApiError> {
    Ok(claps_of(&app.cache, &fingerprint(&clip.fingerprint)?)?)
}
