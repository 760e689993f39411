//! Documents that go out.

use super::heard::named_of_group;
use crate::{
    App,
    asked::Path,
    error::{ApiError, blocking},
    names::{file_stem, file_url},
    sound::laid,
};
use axum::{
    extract::State,
    http::header,
    response::{IntoResponse, Response},
};
use metaxis_core::turnover::{
    AssembledPart, Source, Sources, assembly_document, assembly_list, cut_list, group_document, line_document,
};
use metaxis_store::{AssemblyId, FoundAssembly, FoundPart, GroupId};
use std::sync::Arc;

/// `group.otio`, `line.otio` or `line.edl` of a group.
pub async fn document(
    State(app): State<Arc<App>>,
    Path((id, which)): Path<(GroupId, String)>,
) -> Result<Response, ApiError> {
    blocking(move || {
        let view = app.store.group(id)?;
        let sources = sources(&app)?;
        let sound = || Ok::<_, ApiError>(named_of_group(&app, id)?.map(|file| laid(&file)));
        let pretty = |value| serde_json::to_string_pretty(&value).unwrap_or_default();
        let (text, kind) = match which.as_str() {
            "group.otio" => {
                (pretty(group_document(&view.group, &sources, sound()?.as_ref())), "application/json")
            }
            "line.otio" => (
                pretty(line_document(&view.group, &view.line, &sources, sound()?.as_ref())),
                "application/json",
            ),
            "line.edl" => {
                let list = cut_list(&view.group, &view.line, &sources)
                    .map_err(|e| ApiError::Refused(e.to_string()))?;
                (list, "text/plain; charset=utf-8")
            }
            _ => return Err(ApiError::NotFound(format!("there is no document “{which}”"))),
        };
        Ok(download(&view.group.name, &which, kind, text))
    })
    .await
}

fn download(name: &str, which: &str, kind: &str, text: String) -> Response {
    let name = format!("{} {which}", file_stem(name)).replace(|c: char| !c.is_ascii(), "_");
    let headers = [
        (header::CONTENT_TYPE, kind.to_owned()),
        (header::CONTENT_DISPOSITION, format!("attachment; filename=\"{name}\"")),
    ];
    (headers, text).into_response()
}

/// `assembly.otio` or `assembly.edl` of an assembly.
pub async fn assembly(
    State(app): State<Arc<App>>,
    Path((id, which)): Path<(AssemblyId, String)>,
) -> Result<Response, ApiError> {
    blocking(move || {
        let FoundAssembly { name, start, parts } = app.store.found_assembly(id)?;
        let sources = sources(&app)?;
        let is_list = which == "assembly.edl";
        let parts = parts.into_iter().map(|part| match part {
            FoundPart::Gap(frames) => Ok(AssembledPart::gap(frames, start.rate)),
            FoundPart::Clip(layer) => Ok(AssembledPart::clip(&layer, start.rate)),
            FoundPart::Line { id, group, line, range } => {
                // A list has pictures only.
                let sound = if is_list { None } else { named_of_group(&app, id)?.map(|file| laid(&file)) };
                Ok(AssembledPart { group: *group, line, range, sound, is_gap: false })
            }
        });
        let parts = parts.collect::<Result<Vec<_>, ApiError>>()?;
        match which.as_str() {
            "assembly.otio" => {
                let own = assembly_document(&name, start, &parts, &sources);
                let text = serde_json::to_string_pretty(&own).unwrap_or_default();
                Ok(download(&name, &which, "application/json", text))
            }
            "assembly.edl" => {
                let list = assembly_list(&name, start, &parts, &sources);
                let list = list.map_err(|e| ApiError::Refused(e.to_string()))?;
                Ok(download(&name, &which, "text/plain; charset=utf-8", list))
            }
            _ => Err(ApiError::NotFound(format!("there is no document “{which}”"))),
        }
    })
    .await
}

fn sources(app: &App) -> Result<Sources, ApiError> {
    let day = app.store.day()?;
    let clips = app.store.stored_clips()?;
    Ok(Sources {
        habit: app.store.sound_habit()?.0,
        clips: clips
            .into_iter()
            .map(|clip| {
                let file_name = clip.path.file_name().unwrap_or_default().to_string_lossy().into_owned();
                (clip.id, Source { file_name, url: file_url(&clip.path), facts: clip.facts })
            })
            .collect(),
        devices: day.devices.into_iter().map(|device| (device.id, (device.letter, device.name))).collect(),
    })
}
