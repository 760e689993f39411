//! The day: what the page shows of it, names, passes, jobs.

use super::intake::named;
use crate::{
    App, Event,
    asked::{Json, Path, Query},
    error::{ApiError, blocking},
};
use axum::extract::State;
use metaxis_core::clip::{ClipId, DeviceId};
use metaxis_store::{
    ClipView, DayView, HealthView, JobKind, JobName, JobSummary, NoteView, PassId, PassPlan, Production,
    ShownPass,
};
use serde::{Deserialize, Serialize};
use std::{collections::HashSet, sync::Arc};
use ts_rs::TS;

type Shared = State<Arc<App>>;

/// Starts a pass.
#[derive(Debug, Deserialize, TS)]
pub struct StartPass {
    reference: Option<DeviceId>,
    /// All clips of a day at normal effort unless given.
    #[serde(default)]
    plan: PassPlan,
}

pub async fn day(State(app): Shared) -> Result<Json<DayView>, ApiError> {
    blocking(move || Ok(Json(app.day()?))).await
}

/// The pass that is shown, and which others there are.
pub async fn shown(State(app): Shared) -> Result<Json<ShownPass>, ApiError> {
    blocking(move || Ok(Json(app.shown()?))).await
}

/// Jobs by kind.
pub async fn jobs(State(app): Shared) -> Result<Json<Vec<JobSummary>>, ApiError> {
    blocking(move || Ok(Json(app.store.job_summaries()?))).await
}

/// Which clips are asked for.
#[derive(Debug, Deserialize)]
pub struct Which {
    /// Their numbers, with commas.
    ids: String,
}

/// Some clips of the day, with all that is remarked of the day: it may follow from them.
#[derive(Debug, Serialize, TS)]
pub struct SomeClips {
    clips: Vec<ClipView>,
    health: Vec<HealthView>,
    notes: Vec<NoteView>,
}

/// Some clips as they are now: what a page asks for that has the rest.
pub async fn some(State(app): Shared, Query(which): Query<Which>) -> Result<Json<SomeClips>, ApiError> {
    let ids: Result<HashSet<ClipId>, _> = which.ids.split(',').map(|id| id.parse().map(ClipId)).collect();
    let ids = ids.map_err(|_| ApiError::Refused("ids must be numbers of clips, with commas".into()))?;
    blocking(move || {
        let DayView { mut clips, health, notes, .. } = app.day()?;
        clips.retain(|clip| ids.contains(&clip.id));
        Ok(Json(SomeClips { clips, health, notes }))
    })
    .await
}

/// Runs a change of the day and tells every page.
async fn change(
    app: Arc<App>,
    work: impl FnOnce(&App) -> Result<(), ApiError> + Send + 'static,
) -> Result<Json<()>, ApiError> {
    blocking(move || {
        work(&app)?;
        app.tell(Event::Day);
        Ok(Json(()))
    })
    .await
}

pub async fn name_production(State(app): Shared, Json(body): Json<Production>) -> Result<Json<()>, ApiError> {
    let name = named(&body.name, "a production's name", 1, 120)?;
    let production = Production { name, day: named(&body.day, "a shoot day", 0, 120)? };
    change(app, move |app| Ok(app.store.name_production(&production)?)).await
}

pub async fn start_pass(State(app): Shared, Json(body): Json<StartPass>) -> Result<Json<()>, ApiError> {
    change(app, move |app| {
        crate::work::check_plan(app, body.reference, &body.plan)?;
        app.queue(&JobKind::Pass { reference: body.reference, plan: body.plan })
    })
    .await
}

pub async fn show_pass(State(app): Shared, Path(id): Path<PassId>) -> Result<Json<()>, ApiError> {
    change(app, move |app| Ok(app.store.show_pass(id)?)).await
}

pub async fn stop_jobs(State(app): Shared, Path(kind): Path<JobName>) -> Result<Json<()>, ApiError> {
    change(app, move |app| {
        app.store.stop_kind(kind)?;
        app.stop_running(kind);
        app.wake();
        Ok(())
    })
    .await
}

pub async fn resume_jobs(State(app): Shared, Path(kind): Path<JobName>) -> Result<Json<()>, ApiError> {
    change(app, move |app| {
        app.store.resume_kind(kind)?;
        app.wake();
        Ok(())
    })
    .await
}
