//! Groups and their lines.

use crate::{
    App, Event,
    asked::{Json, Path, Query},
    error::{ApiError, blocking},
    work::{
        Beside, FormatGroup, GroupNamed, LookForQuiet, MovedClip, NameGroups, NudgeClip, Proposed, QuietView,
        RelayClips, TakeClip, accept_groups, beside_group, format_group, known, merge_groups, moved_clips,
        name_groups, nudge, proposed_groups, quiet, relay, take_in,
    },
};
use axum::extract::State;
use metaxis_core::{
    group::{Arrange, GroupBy},
    line::LineEdit,
    lut::SeenThrough,
    names::{MOST_LETTERS, readable},
};
use metaxis_media::Stop;
use metaxis_store::{GroupChange, GroupId, GroupView, Way};
use serde::{Deserialize, Serialize};
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
    /// Whether all of a live run goes in one step.
    #[serde(default)]
    whole: bool,
}

/// A change of groups, made on a version of them.
#[derive(Debug, Deserialize, TS)]
pub struct EditGroups {
    #[ts(type = "number")]
    version: i64,
    change: GroupChange,
}

/// Groups that become one.
#[derive(Debug, Deserialize, TS)]
pub struct MergeGroups {
    #[ts(type = "number")]
    version: i64,
    groups: Vec<GroupId>,
}

/// Proposed groups that are wanted.
#[derive(Debug, Deserialize, TS)]
pub struct AcceptGroups {
    #[ts(type = "number")]
    version: i64,
    by: GroupBy,
    /// Their places among those proposed; all where null.
    only: Option<Vec<usize>>,
}

/// What came of it.
#[derive(Debug, Serialize, TS)]
pub struct GroupsMade {
    /// How many are new.
    made: usize,
    /// The one, where it is one.
    group: Option<GroupId>,
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
    change(app, move |app| Ok(app.store.turn_line(id, body.version, Way::Undo, body.whole)?)).await
}

pub async fn redo(State(app): Shared, Path(id): Path<GroupId>, Json(body): Json<Versioned>) -> Answer {
    change(app, move |app| Ok(app.store.turn_line(id, body.version, Way::Redo, body.whole)?)).await
}

pub async fn shape(State(app): Shared, Json(body): Json<EditGroups>) -> Result<Json<()>, ApiError> {
    let EditGroups { version, mut change } = body;
    let named = |name: &str| {
        let refused = || ApiError::Refused(format!("a group's name must have 1 to {MOST_LETTERS} letters"));
        readable(name).ok_or_else(refused)
    };
    match &mut change {
        GroupChange::Rename { name, .. } => *name = named(name)?,
        GroupChange::RenameAll { names } => {
            for (_, name) in names {
                *name = named(name)?;
            }
        }
        _ => {}
    }
    blocking(move || {
        if let GroupChange::Arrange {
            how: Arrange::SeeThrough { through: Some(SeenThrough::Lut(key)), .. },
            ..
        } = &change
        {
            known(&app, Some(key))?;
        }
        app.store.edit_groups(Some(version), &change)?;
        app.tell(Event::Pass);
        Ok(Json(()))
    })
    .await
}

pub async fn quiet_passages(
    State(app): Shared,
    Path(id): Path<GroupId>,
    Query(wanted): Query<LookForQuiet>,
) -> Result<Json<QuietView>, ApiError> {
    blocking(move || Ok(Json(quiet(&app, id, &wanted, &Stop::default())?))).await
}

pub async fn names(
    State(app): Shared,
    Json(body): Json<NameGroups>,
) -> Result<Json<Vec<GroupNamed>>, ApiError> {
    blocking(move || {
        let named = name_groups(&app, &body)?;
        // Looking changes nothing.
        if body.version.is_some() {
            app.tell(Event::Pass);
        }
        Ok(Json(named))
    })
    .await
}

pub async fn beside(State(app): Shared, Path(id): Path<GroupId>) -> Result<Json<Vec<Beside>>, ApiError> {
    blocking(move || Ok(Json(beside_group(&app, id)?))).await
}

/// Changes what is in a group.
async fn cast(
    app: Arc<App>,
    work: impl FnOnce(&App) -> Result<(), ApiError> + Send + 'static,
) -> Result<Json<()>, ApiError> {
    blocking(move || {
        work(&app)?;
        app.tell(Event::Pass);
        Ok(Json(()))
    })
    .await
}

pub async fn take_clip_in(
    State(app): Shared,
    Path(id): Path<GroupId>,
    Json(body): Json<TakeClip>,
) -> Result<Json<()>, ApiError> {
    cast(app, move |app| take_in(app, id, &body)).await
}

pub async fn nudge_clip(
    State(app): Shared,
    Path(id): Path<GroupId>,
    Json(body): Json<NudgeClip>,
) -> Result<Json<()>, ApiError> {
    cast(app, move |app| nudge(app, id, &body)).await
}

pub async fn moved(State(app): Shared, Path(id): Path<GroupId>) -> Result<Json<Vec<MovedClip>>, ApiError> {
    blocking(move || Ok(Json(moved_clips(&app, id)?))).await
}

pub async fn relay_clips(
    State(app): Shared,
    Path(id): Path<GroupId>,
    Json(body): Json<RelayClips>,
) -> Result<Json<()>, ApiError> {
    cast(app, move |app| relay(app, id, &body)).await
}

pub async fn format(
    State(app): Shared,
    Path(id): Path<GroupId>,
    Json(body): Json<FormatGroup>,
) -> Result<Json<GroupsMade>, ApiError> {
    blocking(move || {
        let group = format_group(&app, id, &body)?;
        app.tell(Event::Pass);
        Ok(Json(GroupsMade { made: usize::from(group != id), group: Some(group) }))
    })
    .await
}

pub async fn merge(State(app): Shared, Json(body): Json<MergeGroups>) -> Result<Json<GroupsMade>, ApiError> {
    blocking(move || {
        let group = merge_groups(&app, body.version, &body.groups)?;
        app.tell(Event::Pass);
        Ok(Json(GroupsMade { made: 1, group: Some(group) }))
    })
    .await
}

pub async fn proposed(State(app): Shared, Json(by): Json<GroupBy>) -> Result<Json<Proposed>, ApiError> {
    blocking(move || Ok(Json(proposed_groups(&app, &by)?))).await
}

pub async fn accept(
    State(app): Shared,
    Json(body): Json<AcceptGroups>,
) -> Result<Json<GroupsMade>, ApiError> {
    blocking(move || {
        let made = accept_groups(&app, body.version, &body.by, body.only.as_deref())?;
        app.tell(Event::Pass);
        Ok(Json(GroupsMade { made, group: None }))
    })
    .await
}
