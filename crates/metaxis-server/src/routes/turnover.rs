//! Documents that go out.

use super::heard::named_of_group;
use crate::{
    App,
    asked::{Path, Query},
    error::{ApiError, blocking},
    sound::laid,
    turnover::{Form, Paper, TurnedGroup, named, of_group, sources_of, turnover_of},
};
use axum::{
    extract::State,
    http::header,
    response::{IntoResponse, Response},
};
use metaxis_core::turnover::{AssembledPart, assembly_document, assembly_lists};
use metaxis_store::{AssemblyId, FoundAssembly, FoundPart, GroupId};
use serde::Deserialize;
use std::sync::Arc;

/// How a document is asked for.
#[derive(Debug, Deserialize)]
pub struct How {
    /// To be read here, and not kept: several lists one behind the other.
    #[serde(default)]
    shown: bool,
}

fn unknown(which: &str) -> ApiError {
    ApiError::NotFound(format!("there is no document “{which}”"))
}

fn answer(paper: Paper, how: &How) -> Response {
    let disposition = if how.shown { "inline".to_owned() } else { paper.disposition() };
    let media_type = paper.form.media_type().to_owned();
    ([(header::CONTENT_TYPE, media_type), (header::CONTENT_DISPOSITION, disposition)], paper.bytes)
        .into_response()
}

/// Lists to be kept, or to be read.
fn lists(stem: &str, lists: Vec<String>, how: &How) -> Paper {
    if how.shown {
        Paper::text(stem.to_owned(), Form::Text, lists.join("\r\n"))
    } else {
        Paper::lists(stem, lists)
    }
}

/// A document of a group.
pub async fn document(
    State(app): State<Arc<App>>,
    Path((id, which)): Path<(GroupId, String)>,
    Query(how): Query<How>,
) -> Result<Response, ApiError> {
    blocking(move || {
        let view = app.store.group(id)?;
        let sources = sources_of(&app)?;
        if which == "line.edl" {
            let all = metaxis_core::turnover::cut_lists(&view.group, &view.line, &sources);
            return Ok(answer(lists(&named(&view.group.name, "line"), all, &how), &how));
        }
        let sound = named_of_group(&app, id)?.map(|file| laid(&file));
        let own = TurnedGroup { group: view.group, line: Some(view.line) };
        let paper = of_group(&own, &sources, sound.as_ref(), &which).ok_or_else(|| unknown(&which))?;
        Ok(answer(paper, &how))
    })
    .await
}

/// A document of all that is shown.
pub async fn of_day(
    State(app): State<Arc<App>>,
    Path(which): Path<String>,
    Query(how): Query<How>,
) -> Result<Response, ApiError> {
    blocking(move || {
        let paper = turnover_of(&app)?.paper(&which).ok_or_else(|| unknown(&which))?;
        Ok(answer(paper, &how))
    })
    .await
}

/// `assembly.otio` or `assembly.edl` of an assembly.
pub async fn assembly(
    State(app): State<Arc<App>>,
    Path((id, which)): Path<(AssemblyId, String)>,
    Query(how): Query<How>,
) -> Result<Response, ApiError> {
    blocking(move || {
        let FoundAssembly { name, start, parts } = app.store.found_assembly(id)?;
        let sources = sources_of(&app)?;
        let is_list = which == "assembly.edl";
        let parts = parts.into_iter().map(|part| match part {
            FoundPart::Gap(frames) => Ok(AssembledPart::gap(frames, start.rate)),
            FoundPart::Clip(layer) => Ok(AssembledPart::clip(&layer, start.rate)),
            FoundPart::Line { id, group, line, range } => {
                // A list names the reference, which is the group's own.
                let sound = if is_list { None } else { named_of_group(&app, id)?.map(|file| laid(&file)) };
                Ok(AssembledPart { group: *group, line, range, sound, is_gap: false })
            }
        });
        let parts = parts.collect::<Result<Vec<_>, ApiError>>()?;
        let paper = match which.as_str() {
            "assembly.otio" => {
                Paper::json(named(&name, &which), &assembly_document(&name, start, &parts, &sources))
            }
            "assembly.edl" => {
                lists(&named(&name, "assembly"), assembly_lists(&name, start, &parts, &sources), &how)
            }
            _ => return Err(unknown(&which)),
        };
        Ok(answer(paper, &how))
    })
    .await
}
