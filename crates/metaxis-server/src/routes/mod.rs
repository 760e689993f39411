//! The API. Every route is thin; see the modules for what each does.

mod day;
mod events;
mod groups;
mod intake;
mod media;
mod turnover;

use crate::App;
use axum::{
    Router,
    routing::{get, patch, post},
};
use std::sync::Arc;

pub use day::{NameDevice, SetDevice, SetPart, StartPass};
pub use groups::{EditLine, MoveAngle, RenameGroup, Versioned};
pub use intake::{FolderView, TakeIn};

/// All routes below `/api`.
pub fn routes() -> Router<Arc<App>> {
    Router::new()
        .route("/day", get(day::day))
        .route("/production", patch(day::name_production))
        .route("/devices/{id}", patch(day::name_device))
        .route("/clips/device", post(day::set_device))
        .route("/clips/part", post(day::set_part))
        .route("/passes", post(day::start_pass))
        .route("/passes/{id}/show", post(day::show_pass))
        .route("/jobs/{kind}/stop", post(day::stop_jobs))
        .route("/jobs/{kind}/resume", post(day::resume_jobs))
        .route("/folders", get(intake::folders))
        .route("/intake", post(intake::take_in))
        .route("/groups/{id}", get(groups::group).patch(groups::rename))
        .route("/groups/{id}/angles", post(groups::move_angle))
        .route("/groups/{id}/line", post(groups::edit))
        .route("/groups/{id}/line/undo", post(groups::undo))
        .route("/groups/{id}/line/redo", post(groups::redo))
        .route("/groups/{id}/levels", get(media::group_levels))
        .route("/groups/{id}/turnover/{document}", get(turnover::document))
        .route("/clips/{id}/levels", get(media::clip_levels))
        .route("/clips/{id}/proxy.mp4", get(media::proxy))
        .route("/clips/{id}/playback.wav", get(media::playback))
        .route("/clips/{id}/thumbnail.jpg", get(media::thumbnail))
        .route("/events", get(events::events))
}
