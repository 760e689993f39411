//! The Bench: two clips against each other, and the round of doubt.

use super::intake::named;
use crate::samples::sound;
use crate::{
    App, Event,
    asked::{Json, Path, Query},
    error::{ApiError, blocking},
};
use axum::extract::State;
use metaxis_core::{
    clip::ClipId,
    signal::LISTEN_RATE,
    sound::{Proposal, propose},
    sync::{CheckPoint, Needle, Placement, Residual, SampleSource, Stretch, check_points, needle},
};
use metaxis_media::StoredSamples;
use metaxis_store::Finding;
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use ts_rs::TS;

type Shared = State<Arc<App>>;

/// Where two clips meet, and how far about it to look.
#[derive(Debug, Deserialize)]
pub struct Meeting {
    /// The clip's own moment, seconds.
    own_s: f64,
    /// The clip it is laid against.
    against: ClipId,
    /// The moment of that one which now lies there, seconds of its own time.
    there_s: f64,
    /// How far either way to look, seconds.
    within_s: f64,
}

/// What is left to the best match about a moment; null where either is silent there.
pub async fn needle_at(
    State(app): Shared,
    Path(id): Path<ClipId>,
    Query(at): Query<Meeting>,
) -> Result<Json<Option<Needle>>, ApiError> {
    let all = [at.own_s, at.there_s, at.within_s];
    if all.iter().any(|value| !value.is_finite() || value.abs() > 1e7) {
        return Err(ApiError::Refused("own_s, there_s and within_s must be seconds".into()));
    }
    blocking(move || {
        let (own, there) = (sound(&app, id)?, sound(&app, at.against)?);
        Ok(Json(needle(&own, at.own_s, &there, at.there_s, at.within_s)))
    })
    .await
}

/// Against which clip.
#[derive(Debug, Deserialize)]
pub struct Against {
    against: ClipId,
    /// Where on the axis a clip begins that the pass has no place for, seconds.
    start_s: Option<f64>,
}

/// Moments that are sharp to see and hear in both.
pub async fn points(
    State(app): Shared,
    Path(id): Path<ClipId>,
    Query(Against { against, start_s }): Query<Against>,
) -> Result<Json<Vec<CheckPoint>>, ApiError> {
    if start_s.is_some_and(|start_s| !start_s.is_finite() || start_s.abs() > 1e7) {
        return Err(ApiError::Refused("start_s must be a moment of the axis, in seconds".into()));
    }
    blocking(move || {
        let (own, there) = (sound(&app, id)?, sound(&app, against)?);
        let Some(other) = app.store.placement(against)? else { return Ok(Json(vec![])) };
        let mut clip = app.store.placement(id)?.unwrap_or_else(|| Placement::unplaced(""));
        if let (true, Some(start_s)) = (clip.stretches.is_empty(), start_s) {
            clip.stretches.push(Stretch::whole(length_s(&own), start_s));
        }
        // What both heard: from when the later began to when the earlier ended.
        let ends = [0.0, length_s(&there)].map(|there_s| clip.hears_at(&other, there_s));
        let [Some(from_s), Some(to_s)] = ends else { return Ok(Json(vec![])) };
        let offset = |own_s: f64| other.hears_at(&clip, own_s).unwrap_or(own_s) - own_s;
        Ok(Json(check_points(&own, &there, from_s.max(0.0), to_s.min(length_s(&own)), &offset)))
    })
    .await
}

fn length_s(samples: &StoredSamples) -> f64 {
    samples.len() as f64 / f64::from(LISTEN_RATE)
}

/// What is left along a clip after its fit, and what is best done about its clock.
#[derive(Debug, Serialize, TS)]
pub struct DriftView {
    /// Moments of the clip's own time and what is left there.
    residuals: Vec<Residual>,
    /// How its sound is best corrected to the axis's clock; null where it has no place or no sound.
    proposal: Option<Proposal>,
}

/// A frame of what has no pictures, seconds.
const FRAME_S: f64 = 0.04;

/// What is left along a clip where the pass that is shown has it.
pub async fn drift(State(app): Shared, Path(id): Path<ClipId>) -> Result<Json<DriftView>, ApiError> {
    blocking(move || {
        // Refused where there is no such clip.
        let facts = app.store.clip(id)?.facts;
        let placed = app.store.placement(id)?;
        let frame_s = facts.picture.as_ref().map_or(FRAME_S, |picture| 1.0 / picture.rate.as_f64());
        let proposal = placed
            .as_ref()
            .filter(|own| facts.sound.is_some() && !own.stretches.is_empty())
            .map(|own| propose(&own.stretches, frame_s));
        Ok(Json(DriftView { residuals: placed.map_or_else(Vec::new, |own| own.residuals), proposal }))
    })
    .await
}

/// What a person found of clips.
#[derive(Debug, Deserialize, TS)]
pub struct LookAt {
    clips: Vec<ClipId>,
    /// Null asks for another look.
    finding: Option<Finding>,
}

pub async fn look(State(app): Shared, Json(body): Json<LookAt>) -> Result<Json<()>, ApiError> {
    blocking(move || {
        app.store.look(&body.clips, body.finding)?;
        app.tell(Event::Pass);
        Ok(Json(()))
    })
    .await
}

/// The day is declared checked by somebody; by nobody, it no longer is.
#[derive(Debug, Deserialize, TS)]
pub struct Declare {
    who: Option<String>,
}

pub async fn declare(State(app): Shared, Json(body): Json<Declare>) -> Result<Json<()>, ApiError> {
    let who = body.who.map(|who| named(&who, "the name of who checked", 1, 60)).transpose()?;
    blocking(move || {
        app.store.declare(who.as_deref())?;
        app.tell(Event::Pass);
        Ok(Json(()))
    })
    .await
}
