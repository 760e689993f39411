//! Undo and redo of what a person edits, document by document.

use crate::{
    App, Event,
    asked::{Json, Path},
    error::{ApiError, blocking},
};
use axum::extract::State;
use metaxis_store::{Edited, Way};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use ts_rs::TS;

type Shared = State<Arc<App>>;
type Answer = Result<Json<Turned>, ApiError>;

/// What was taken back or made again.
#[derive(Debug, Serialize, TS)]
pub struct Turned {
    what: String,
}

/// Which way.
#[derive(Debug, Clone, Copy, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Turn {
    /// The last edit is taken back.
    Undo,
    /// The last one that was taken back is made again.
    Redo,
}

pub async fn intake(State(app): Shared, Path(way): Path<Turn>) -> Answer {
    turn(app, Edited::Intake, way).await
}

pub async fn shown(State(app): Shared, Path(way): Path<Turn>) -> Answer {
    turn(app, Edited::Shown, way).await
}

pub async fn pass(State(app): Shared, Path((id, way)): Path<(i64, Turn)>) -> Answer {
    turn(app, Edited::Pass(id), way).await
}

pub async fn group(State(app): Shared, Path((id, way)): Path<(i64, Turn)>) -> Answer {
    turn(app, Edited::Group(id), way).await
}

async fn turn(app: Arc<App>, document: Edited, way: Turn) -> Answer {
    blocking(move || {
        let way = match way {
            Turn::Undo => Way::Undo,
            Turn::Redo => Way::Redo,
        };
        let what = app.store.turn(document, way)?;
        app.tell(Event::Day);
        Ok(Json(Turned { what }))
    })
    .await
}
