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
use metaxis_core::turnover::{Source, Sources, cut_list, group_document, line_document};
use metaxis_store::GroupId;
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
        let name = format!("{} {which}", file_stem(&view.group.name)).replace(|c: char| !c.is_ascii(), "_");
        let headers = [
            (header::CONTENT_TYPE, kind.to_owned()),
            (header::CONTENT_DISPOSITION, format!("attachment; filename=\"{name}\"")),
        ];
        Ok((headers, text).into_response())
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
