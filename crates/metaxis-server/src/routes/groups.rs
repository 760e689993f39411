//! Groups and their lines.

use crate::{
    App, Event,
    asked::{Json, Path},
    error::{ApiError, blocking},
};
use axum::extract::State;
use metaxis_core::line::LineEdit;
use metaxis_store::{GroupId, GroupView};
use serde::Deserialize;
use std::sync::Arc;
use ts_rs::TS;

type Shared = State<Arc<App>>;
type Answer = Result<Json<GroupView>, ApiError>;

/// An edit and the version it was made on.
#[derive(Debug, Deserialize, TS)]
pub struct EditLine {
    #[ts(type = "number")]
    version: i64,
    edit: LineEdit,
}

/// A version.
#[derive(Debug, Deserialize, TS)]
pub struct Versioned {
    #[ts(type = "number")]
    version: i64,
}

/// A new name.
#[derive(Debug, Deserialize, TS)]
pub struct RenameGroup {
    name: String,
}

/// Another place in the order of angles.
#[derive(Debug, Deserialize, TS)]
pub struct MoveAngle {
    from: usize,
    to: usize,
}

pub async fn group(State(app): Shared, Path(id): Path<GroupId>) -> Answer {
    blocking(move || Ok(Json(app.store.group(id)?))).await
}

async fn change(
    app: Arc<App>,
    work: impl FnOnce(&App) -> Result<GroupView, ApiError> + Send + 'static,
) -> Answer {
    blocking(move || {
        let view = work(&app)?;
        app.tell(Event::Line { group: view.id, version: view.version });
        Ok(Json(view))
    })
    .await
}

pub async fn edit(State(app): Shared, Path(id): Path<GroupId>, Json(body): Json<EditLine>) -> Answer {
    change(app, move |app| Ok(app.store.edit_line(id, body.version, &body.edit)?)).await
}

pub async fn undo(State(app): Shared, Path(id): Path<GroupId>, Json(body): Json<Versioned>) -> Answer {
    change(app, move |app| Ok(app.store.undo_line(id, body.version)?)).await
}

pub async fn redo(State(app): Shared, Path(id): Path<GroupId>, Json(body): Json<Versioned>) -> Answer {
    change(app, move |app| Ok(app.store.redo_line(id, body.version)?)).await
}

pub async fn rename(State(app): Shared, Path(id): Path<GroupId>, Json(body): Json<RenameGroup>) -> Answer {
    let name = body.name.trim().to_owned();
    if name.is_empty() || name.chars().count() > 80 || name.chars().any(char::is_control) {
        return Err(ApiError::Refused("a group's name must have 1 to 80 letters".into()));
    }
    change(app, move |app| {
        let view = app.store.rename_group(id, &name)?;
        app.tell(Event::Pass);
        Ok(view)
    })
    .await
}

pub async fn move_angle(State(app): Shared, Path(id): Path<GroupId>, Json(body): Json<MoveAngle>) -> Answer {
    change(app, move |app| {
        let view = app.store.move_angle(id, body.from, body.to)?;
        app.tell(Event::Pass);
        Ok(view)
    })
    .await
}
