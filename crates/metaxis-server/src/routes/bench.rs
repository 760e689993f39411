//! The Bench: two clips against each other, and the round of doubt.

use super::{intake::named, media::cached};
use crate::{
    App, Event,
    asked::{Json, Path, Query},
    error::{ApiError, blocking},
};
use axum::extract::State;
use metaxis_core::{
    clip::ClipId,
    sync::{CheckPoint, Needle, Placement, Residual, SampleSource, check_points, needle},
};
use metaxis_media::StoredSamples;
use metaxis_store::{Finding, StoredClip};
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

fn sound(app: &App, id: ClipId) -> Result<StoredSamples, ApiError> {
    let clip = app.store.clip(id)?;
    let name = || clip.relative.rsplit('/').next().unwrap_or_default();
    if clip.facts.sound.is_none() {
        return Err(ApiError::NotFound(format!("{} has no sound to lay against", name())));
    }
    let (samples, _) = StoredSamples::open(&cached(app, id)?, 0).map_err(|_| {
        ApiError::NotFound(format!(
            "the sound of {} is not ready: wait until it was listened to, or let it be made again at Intake",
            name()
        ))
    })?;
    Ok(samples)
}

/// Against which clip, and how the clip is moved from where the pass has it.
#[derive(Debug, Deserialize)]
pub struct Against {
    against: ClipId,
    /// How much later it lies, seconds.
    #[serde(default)]
    shift_s: f64,
}

/// Moments that are sharp to see and hear in both.
pub async fn points(
    State(app): Shared,
    Path(id): Path<ClipId>,
    Query(Against { against, shift_s }): Query<Against>,
) -> Result<Json<Vec<CheckPoint>>, ApiError> {
    if !shift_s.is_finite() || shift_s.abs() > 1e7 {
        return Err(ApiError::Refused("shift_s must be seconds".into()));
    }
    blocking(move || {
        let (own, there) = (sound(&app, id)?, sound(&app, against)?);
        let shown = app.store.shown()?;
        let place = |clip: ClipId| shown.placements.iter().find(|placed| placed.clip == clip);
        let (Some(clip), Some(other)) = (place(id), place(against)) else { return Ok(Json(vec![])) };
        let (clip, other) = (&clip.placement, &other.placement);
        let offset = |own_s: f64| heard_in(other, heard_axis(clip, own_s) + shift_s) - own_s;
        // What both heard: from when the later began to when the earlier ended.
        let (own_s, there_s) = (length_s(&own), length_s(&there));
        let from_s = own_at(0.0, &offset, own_s);
        let to_s = own_at(there_s, &offset, own_s);
        Ok(Json(check_points(&own, &there, from_s.max(0.0), to_s.min(own_s), &offset)))
    })
    .await
}

fn length_s(samples: &StoredSamples) -> f64 {
    samples.len() as f64 / f64::from(metaxis_core::signal::LISTEN_RATE)
}

/// The axis at which a clip's own moment is heard; a clip without a place lies at the axis's zero.
fn heard_axis(placement: &Placement, own_s: f64) -> f64 {
    let stretches = &placement.stretches;
    let own = stretches.iter().find(|own| own_s < own.clip_end_s).or(stretches.last());
    own.map_or(own_s, |own| own.axis_s(own_s)) - placement.travel_s
}

/// The clip's own moment that is heard at a moment of the axis.
fn heard_in(placement: &Placement, axis_s: f64) -> f64 {
    let (stretches, at_s) = (&placement.stretches, axis_s + placement.travel_s);
    let own = stretches.iter().find(|own| at_s < own.end_s()).or(stretches.last());
    own.map_or(at_s, |own| own.clip_s(at_s))
}

/// The clip's own moment at which the other is at `there_s`, to a hundredth of a second: `offset` hardly changes along it.
fn own_at(there_s: f64, offset: &dyn Fn(f64) -> f64, length_s: f64) -> f64 {
    let mut own_s = 0.5 * length_s;
    for _ in 0..4 {
        own_s = there_s - offset(own_s.clamp(0.0, length_s));
    }
    own_s
}

/// What is left along a clip after its fit.
#[derive(Debug, Serialize, TS)]
pub struct DriftView {
    /// Moments of the clip's own time and what is left there.
    residuals: Vec<Residual>,
}

/// What is left along a clip where the pass that is shown has it.
pub async fn drift(State(app): Shared, Path(id): Path<ClipId>) -> Result<Json<DriftView>, ApiError> {
    blocking(move || {
        let StoredClip { id, .. } = app.store.clip(id)?;
        let shown = app.store.shown()?;
        let placed = shown.placements.into_iter().find(|placed| placed.clip == id);
        Ok(Json(DriftView { residuals: placed.map_or_else(Vec::new, |own| own.placement.residuals) }))
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
