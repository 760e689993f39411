//! The day: what the page shows of it, names, passes, jobs.

use super::intake::named;
use crate::{
    App, Event,
    asked::{Json, Path},
    error::{ApiError, blocking},
};
use axum::extract::State;
use metaxis_core::clip::DeviceId;
use metaxis_store::{DayView, JobKind, PassPlan, Production};
use serde::Deserialize;
use std::sync::Arc;
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

pub async fn show_pass(State(app): Shared, Path(id): Path<i64>) -> Result<Json<()>, ApiError> {
    change(app, move |app| Ok(app.store.show_pass(id)?)).await
}

pub async fn stop_jobs(State(app): Shared, Path(kind): Path<String>) -> Result<Json<()>, ApiError> {
    change(app, move |app| {
        app.store.stop_kind(&kind)?;
        app.stop_running(&kind);
        app.wake();
        Ok(())
    })
    .await
}

pub async fn resume_jobs(State(app): Shared, Path(kind): Path<String>) -> Result<Json<()>, ApiError> {
    change(app, move |app| {
        app.store.resume_kind(&kind)?;
        app.wake();
        Ok(())
    })
    .await
}
