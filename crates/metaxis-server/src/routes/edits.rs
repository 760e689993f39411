//! Undo and redo of what a person edits, document by document.

use crate::{
    App, Event,
    asked::{Json, Path},
    error::{ApiError, blocking},
};
use axum::extract::State;
use metaxis_store::{Edited, PassId, Way};
use serde::Serialize;
use std::sync::Arc;
use ts_rs::TS;

type Shared = State<Arc<App>>;
type Answer = Result<Json<Turned>, ApiError>;

/// What was taken back or made again.
#[derive(Debug, Serialize, TS)]
pub struct Turned {
    what: String,
}

pub async fn intake(State(app): Shared, Path(way): Path<Way>) -> Answer {
    turn(app, Edited::Intake, way).await
}

pub async fn shown(State(app): Shared, Path(way): Path<Way>) -> Answer {
    turn(app, Edited::Shown, way).await
}

pub async fn round(State(app): Shared, Path(way): Path<Way>) -> Answer {
    turn(app, Edited::Round, way).await
}

pub async fn sound(State(app): Shared, Path(way): Path<Way>) -> Answer {
    turn(app, Edited::Sound, way).await
}

pub async fn pass(State(app): Shared, Path((id, way)): Path<(PassId, Way)>) -> Answer {
    turn(app, Edited::Pass(id), way).await
}

pub async fn groups(State(app): Shared, Path(way): Path<Way>) -> Answer {
    let pass = {
        let app = app.clone();
        blocking(move || Ok(app.store.shown()?.pass.map(|pass| pass.id))).await?
    };
    let none = || ApiError::Refused("there are no groups yet: sync the day first".into());
    turn(app, Edited::Groups(pass.ok_or_else(none)?), way).await
}

async fn turn(app: Arc<App>, document: Edited, way: Way) -> Answer {
    blocking(move || {
        let what = app.store.turn(document, way)?;
        // What is remarked of the day follows from which pass is shown, too.
        app.tell(match document {
            Edited::Intake | Edited::Shown => Event::Day,
            Edited::Sound => Event::Sound,
            _ => Event::Pass,
        });
        Ok(Json(Turned { what }))
    })
    .await
}
