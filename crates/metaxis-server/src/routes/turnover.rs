//! Documents that go out.

use super::heard::named_of_group;
use crate::{
    App,
    asked::{Json, Path, Query},
    error::{ApiError, blocking},
    sound::laid,
    turnover::{
        Bundle, DayTurnover, Form, Paper, Programmed, TurnedAssembly, TurnedGroup, as_pdf, bundle_of,
        disposition, named, of_group, page_of, sources_of, turnover_of,
    },
};
use axum::{
    body::{Body, Bytes},
    extract::State,
    http::header,
    response::{IntoResponse, Response},
};
use metaxis_core::turnover::assembly_lists;
use metaxis_media::Stop;
use metaxis_store::{AssemblyId, GroupId};
use serde::{Deserialize, Serialize};
use std::{
    io::{self, BufWriter, Write},
    sync::Arc,
};
use tokio::sync::mpsc::{Sender, channel};
use tokio_stream::wrappers::ReceiverStream;
use ts_rs::TS;

/// How a document is asked for.
#[derive(Debug, Deserialize)]
pub struct How {
    /// To be read here, and not kept: several lists one behind the other.
    #[serde(default)]
    shown: bool,
    /// Of a document with its media: only how much that is.
    #[serde(default)]
    told: bool,
}

/// How much a document is with its media.
#[derive(Debug, Serialize, TS)]
pub struct BundleView {
    /// Files of media.
    files: usize,
    /// Bytes of all of it.
    #[ts(type = "number")]
    bytes: u64,
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

/// A document with its media, which goes out while it is read: nothing of it is kept here.
async fn bundled(
    app: Arc<App>,
    told: bool,
    find: impl FnOnce(&App, &DayTurnover) -> Result<Option<Paper>, ApiError> + Send + 'static,
) -> Result<Response, ApiError> {
    let bundle = blocking(move || {
        let day = turnover_of(&app)?;
        let paper =
            find(&app, &day)?.ok_or_else(|| ApiError::NotFound("there is no such document".into()))?;
        let bundle = Bundle::of(&day, &paper).map_err(ApiError::Refused)?;
        if !told {
            bundle.check()?;
        }
        Ok(bundle)
    })
    .await?;
    if told {
        return Ok(Json(BundleView { files: bundle.files(), bytes: bundle.bytes() }).into_response());
    }
    let head = [
        (header::CONTENT_TYPE, "application/zip".to_owned()),
        (header::CONTENT_DISPOSITION, disposition(&bundle.name)),
    ];
    let (sender, receiver) = channel(4);
    tokio::task::spawn_blocking(move || {
        if let Err(e) = bundle.write(BufWriter::with_capacity(1 << 20, Sent(&sender))) {
            tracing::warn!("{} did not go out whole: {e}", bundle.name);
            // What is broken off is seen to be.
            let _ = sender.blocking_send(Err(e));
        }
    });
    Ok((head, Body::from_stream(ReceiverStream::new(receiver))).into_response())
}

/// What is written goes out piece by piece, no faster than it is taken.
struct Sent<'a>(&'a Sender<io::Result<Bytes>>);

impl Write for Sent<'_> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let gone = |_| io::Error::new(io::ErrorKind::BrokenPipe, "nobody takes it any more");
        self.0.blocking_send(Ok(Bytes::copy_from_slice(bytes))).map_err(gone)?;
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}

/// A document of a group.
pub async fn document(
    State(app): State<Arc<App>>,
    Path((id, which)): Path<(GroupId, String)>,
    Query(how): Query<How>,
) -> Result<Response, ApiError> {
    if let Some(own) = bundle_of(&which).map(str::to_owned) {
        return bundled(app, how.told, move |app, day| {
            let view = app.store.group(id)?;
            Ok(day.of_group(&TurnedGroup { group: view.group, line: Some(view.line) }, &own))
        })
        .await;
    }
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

/// What this machine prints pages with.
#[derive(Debug, Serialize, TS)]
pub struct PrinterView {
    /// Its program; null where there is none.
    program: Option<String>,
}

pub async fn printer() -> Json<PrinterView> {
    Json(PrinterView { program: metaxis_media::printer().map(|own| own.display().to_string()) })
}

/// A document of all that is shown.
pub async fn of_day(
    State(app): State<Arc<App>>,
    Path(which): Path<String>,
    Query(how): Query<How>,
) -> Result<Response, ApiError> {
    if let Some(own) = bundle_of(&which).map(str::to_owned) {
        return bundled(app, how.told, move |_, day| Ok(day.paper(&own))).await;
    }
    if let Some(page) = page_of(&which) {
        return blocking(move || {
            let page = turnover_of(&app)?.paper(page).ok_or_else(|| unknown(&which))?;
            let printed = as_pdf(&page, &Stop::default()).map_err(|e| ApiError::Refused(e.to_string()))?;
            Ok(answer(printed, &how))
        })
        .await;
    }
    blocking(move || {
        let paper = turnover_of(&app)?.paper(&which).ok_or_else(|| unknown(&which))?;
        Ok(answer(paper, &how))
    })
    .await
}

/// An assembly of a day, and what it is made of.
///
/// # Errors
/// There is none, or it cannot be one programme.
pub(super) fn assembly_of(
    day: &DayTurnover,
    id: AssemblyId,
) -> Result<(&TurnedAssembly, &Programmed), ApiError> {
    let own = day.assembly(id).ok_or_else(|| ApiError::NotFound(format!("there is no assembly {}", id.0)))?;
    Ok((own, own.programme.as_ref().map_err(|why| ApiError::Refused(why.clone()))?))
}

/// `assembly.otio`, alone or with its media, or `assembly.edl` of an assembly.
pub async fn assembly(
    State(app): State<Arc<App>>,
    Path((id, which)): Path<(AssemblyId, String)>,
    Query(how): Query<How>,
) -> Result<Response, ApiError> {
    if let Some(own) = bundle_of(&which).map(str::to_owned) {
        return bundled(app, how.told, move |_, day| Ok(day.of_assembly(assembly_of(day, id)?.0, &own)))
            .await;
    }
    blocking(move || {
        let day = turnover_of(&app)?;
        let (own, (start, parts)) = assembly_of(&day, id)?;
        if which == "assembly.edl" {
            let all = assembly_lists(&own.name, *start, parts, &day.sources);
            return Ok(answer(lists(&named(&own.name, "assembly"), all, &how), &how));
        }
        let paper = day.of_assembly(own, &which).ok_or_else(|| unknown(&which))?;
        Ok(answer(paper, &how))
    })
    .await
}
