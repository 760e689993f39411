//! Assemblies: lines of several groups one behind another.

use super::{
    heard::{HeardView, view},
    turnover::assembly_of,
};
use crate::{
    App, Event,
    asked::{Json, Path},
    error::{ApiError, blocking},
    film::sound_of_part,
    turnover::turnover_of,
};
use axum::extract::State;
use metaxis_core::assembly::AssemblyEdit;
use metaxis_store::{AssemblyId, AssemblySummary, AssemblyView, GroupId, Way};
use serde::Deserialize;
use std::sync::Arc;
use ts_rs::TS;

type Shared = State<Arc<App>>;
type Answer = Result<Json<AssemblyView>, ApiError>;
type All = Result<Json<Vec<AssemblySummary>>, ApiError>;

/// An assembly that is to be made of the lines of these groups.
#[derive(Debug, Deserialize, TS)]
pub struct MakeAssembly {
    name: String,
    groups: Vec<GroupId>,
}

/// An edit of an assembly, and the version that it was made on.
#[derive(Debug, Deserialize, TS)]
pub struct EditAssembly {
    #[ts(type = "number")]
    version: i64,
    edit: AssemblyEdit,
}

/// The version that a step back or again was made on.
#[derive(Debug, Deserialize, TS)]
pub struct TurnAssembly {
    #[ts(type = "number")]
    version: i64,
    #[ts(type = "\"undo\" | \"redo\"")]
    way: Way,
}

/// Whether an assembly is put aside.
#[derive(Debug, Deserialize, TS)]
pub struct PutAside {
    aside: bool,
}

pub async fn all(State(app): Shared) -> All {
    blocking(move || Ok(Json(app.store.assemblies()?))).await
}

pub async fn make(State(app): Shared, Json(body): Json<MakeAssembly>) -> Answer {
    blocking(move || {
        let id = app.store.make_assembly(&body.name, &body.groups)?;
        told(&app, app.store.assembly(id)?)
    })
    .await
}

pub async fn one(State(app): Shared, Path(id): Path<AssemblyId>) -> Answer {
    blocking(move || Ok(Json(app.store.assembly(id)?))).await
}

pub async fn edit(State(app): Shared, Path(id): Path<AssemblyId>, Json(body): Json<EditAssembly>) -> Answer {
    blocking(move || told(&app, app.store.edit_assembly(id, body.version, &body.edit)?)).await
}

pub async fn turn(State(app): Shared, Path(id): Path<AssemblyId>, Json(body): Json<TurnAssembly>) -> Answer {
    blocking(move || told(&app, app.store.turn_assembly(id, body.version, body.way)?)).await
}

pub async fn aside(State(app): Shared, Path(id): Path<AssemblyId>, Json(body): Json<PutAside>) -> All {
    blocking(move || {
        app.store.put_assembly_aside(id, body.aside)?;
        let version = app.store.assembly(id)?.turns.version;
        app.tell(Event::Assembly { assembly: id, version });
        Ok(Json(app.store.assemblies()?))
    })
    .await
}

/// The own sound of a clip that is a part of an assembly, from its first frame on.
pub async fn heard(
    State(app): Shared,
    Path((id, part)): Path<(AssemblyId, usize)>,
) -> Result<Json<HeardView>, ApiError> {
    blocking(move || {
        let day = turnover_of(&app)?;
        let (own, (_, parts)) = assembly_of(&day, id)?;
        let refused = |why: &str| ApiError::Refused(format!("“{}”: {why}", own.name));
        let part = parts.get(part).ok_or_else(|| refused("it has no such part"))?;
        let file = sound_of_part(&day, part).ok_or_else(|| refused("nothing is heard in this part"))?;
        Ok(Json(view(&app, &file)?))
    })
    .await
}

/// Who else looks at it sees it, too.
fn told(app: &App, view: AssemblyView) -> Answer {
    app.tell(Event::Assembly { assembly: view.id, version: view.turns.version });
    Ok(Json(view))
}
