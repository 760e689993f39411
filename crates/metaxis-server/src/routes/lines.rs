//! Lines that a group keeps beside its own, and first cuts.

use crate::{
    App, Event,
    asked::{Json, Path, Query},
    error::{ApiError, blocking},
    work::{self, FirstCutView, LineRead, MakeFirstCut, MakeMusicCut},
};
use axum::{body::Bytes, extract::State};
use metaxis_core::names::{MOST_LETTERS, readable};
use metaxis_media::Stop;
use metaxis_store::{GroupId, GroupView, KeptLineId, KeptLineView};
use serde::Deserialize;
use std::sync::Arc;
use ts_rs::TS;

type Shared = State<Arc<App>>;
type Kept = Result<Json<Vec<KeptLineView>>, ApiError>;

/// The name of a line.
#[derive(Debug, Deserialize, TS)]
pub struct NameLine {
    name: String,
}

/// The version of the group's line that another one takes the place of.
#[derive(Debug, Deserialize, TS)]
pub struct GoBack {
    #[ts(type = "number")]
    version: i64,
}

fn named(name: &str) -> Result<String, ApiError> {
    let refused = || ApiError::Refused(format!("a line's name must have 1 to {MOST_LETTERS} letters"));
    readable(name).ok_or_else(refused)
}

pub async fn kept(State(app): Shared, Path(id): Path<GroupId>) -> Kept {
    blocking(move || Ok(Json(app.store.kept_lines(id)?))).await
}

pub async fn keep(State(app): Shared, Path(id): Path<GroupId>, Json(body): Json<NameLine>) -> Kept {
    blocking(move || {
        app.store.keep_line(id, &named(&body.name)?)?;
        Ok(Json(app.store.kept_lines(id)?))
    })
    .await
}

/// Under what name a document is kept.
#[derive(Debug, Deserialize)]
pub struct ReadAs {
    name: String,
}

pub async fn read(
    State(app): Shared,
    Path(id): Path<GroupId>,
    Query(how): Query<ReadAs>,
    document: Bytes,
) -> Result<Json<LineRead>, ApiError> {
    blocking(move || Ok(Json(work::read_line_back(&app, id, &named(&how.name)?, &document)?))).await
}

pub async fn rename(
    State(app): Shared,
    Path((id, line)): Path<(GroupId, KeptLineId)>,
    Json(body): Json<NameLine>,
) -> Kept {
    blocking(move || {
        app.store.name_kept_line(id, line, &named(&body.name)?)?;
        Ok(Json(app.store.kept_lines(id)?))
    })
    .await
}

pub async fn go_back(
    State(app): Shared,
    Path((id, line)): Path<(GroupId, KeptLineId)>,
    Json(body): Json<GoBack>,
) -> Result<Json<GroupView>, ApiError> {
    blocking(move || {
        app.store.go_back_to(id, body.version, line)?;
        let view = app.store.group(id)?;
        app.tell(Event::Line { group: id, version: view.version });
        Ok(Json(view))
    })
    .await
}

pub async fn first_cut(State(app): Shared, Path(id): Path<GroupId>) -> Result<Json<FirstCutView>, ApiError> {
    blocking(move || Ok(Json(work::first_cut_of(&app, id)?))).await
}

pub async fn make_first_cut(
    State(app): Shared,
    Path(id): Path<GroupId>,
    Json(body): Json<MakeFirstCut>,
) -> Kept {
    blocking(move || {
        let wanted = MakeFirstCut { name: named(&body.name)?, ..body };
        work::make_first_cut(&app, id, &wanted, &Stop::default())?;
        Ok(Json(app.store.kept_lines(id)?))
    })
    .await
}

pub async fn make_music_cut(
    State(app): Shared,
    Path(id): Path<GroupId>,
    Json(body): Json<MakeMusicCut>,
) -> Kept {
    blocking(move || {
        let wanted = MakeMusicCut { name: named(&body.name)?, ..body };
        work::make_music_cut(&app, id, &wanted)?;
        Ok(Json(app.store.kept_lines(id)?))
    })
    .await
}
