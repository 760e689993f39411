//! Films: ordered, looked at while they are made, fetched.

use crate::{
    App, Event,
    asked::{Json, Path},
    error::{ApiError, blocking},
    turnover::disposition,
    work::{OrderFilms, film_folder, order_films},
};
use axum::{
    body::Body,
    extract::{Request, State},
    http::header,
    response::{IntoResponse, Response},
};
use metaxis_core::film::{Codec, Wrapper};
use metaxis_media::{FilmWriter, codecs_offered};
use metaxis_store::{JobId, JobState, QueuedFilm};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use tower_http::services::ServeFile;
use ts_rs::TS;

type Shared = State<Arc<App>>;

/// A codec that this machine has.
#[derive(Debug, Serialize, TS)]
pub struct CodecView {
    codec: Codec,
    /// Its specification.
    name: &'static str,
    /// What can hold it, the usual one first.
    wrappers: &'static [Wrapper],
}

/// A film of the queue.
#[derive(Debug, Serialize, TS)]
pub struct FilmView {
    #[serde(flatten)]
    film: QueuedFilm,
    /// Its file's path below its folder.
    path: String,
    /// Frames a second that are made just now, where it is being made.
    pace: Option<f64>,
    /// Whether its file is there.
    there: bool,
}

/// The films of a production.
#[derive(Debug, Serialize, TS)]
pub struct FilmsView {
    /// In the order of the queue; what is done comes last.
    films: Vec<FilmView>,
    /// What can be chosen.
    codecs: Vec<CodecView>,
    /// The production's own folder.
    own: String,
    /// Others that films may go to, or below.
    folders: Vec<String>,
}

fn path_of(film: &QueuedFilm) -> String {
    format!("{}.{}", film.order.stem, film.order.form.wrapper.extension())
}

pub async fn films(State(app): Shared) -> Result<Json<FilmsView>, ApiError> {
    blocking(move || {
        let view = |film: QueuedFilm| {
            let path = path_of(&film);
            let there =
                film.state == JobState::Done && film_folder(&app, &film.order.folder).join(&path).is_file();
            FilmView { pace: app.film_pace(film.id), path, there, film }
        };
        let codec = |codec: Codec| CodecView { codec, name: codec.name(), wrappers: codec.wrappers() };
        Ok(Json(FilmsView {
            films: app.store.films()?.into_iter().map(view).collect(),
            codecs: codecs_offered().into_iter().map(codec).collect(),
            own: film_folder(&app, "").display().to_string(),
            folders: app.config.out.iter().map(|folder| folder.display().to_string()).collect(),
        }))
    })
    .await
}

/// How many films were ordered.
#[derive(Debug, Serialize, TS)]
pub struct FilmsOrdered {
    films: usize,
}

pub async fn order(State(app): Shared, Json(body): Json<OrderFilms>) -> Result<Json<FilmsOrdered>, ApiError> {
    blocking(move || Ok(Json(FilmsOrdered { films: order_films(&app, body)? }))).await
}

/// What becomes of a film of the queue.
#[derive(Debug, Clone, Copy, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum FilmStep {
    /// It is the next.
    Next,
    /// It rests, with all that was made of it.
    Stop,
    /// It goes on, or is made anew.
    Again,
    /// It goes out of the queue; a file that came of it stays.
    Forget,
}

pub async fn step(
    State(app): Shared,
    Path((id, step)): Path<(JobId, FilmStep)>,
) -> Result<Json<()>, ApiError> {
    blocking(move || {
        match step {
            FilmStep::Next => app.store.film_next(id)?,
            FilmStep::Stop => {
                app.store.stop_film(id)?;
                app.stop_job(id);
            }
            FilmStep::Again => app.store.film_again(id)?,
            FilmStep::Forget => {
                let film = app.store.films()?.into_iter().find(|own| own.id == id);
                app.store.forget_film(id)?;
                if let Some(film) = film {
                    FilmWriter::forget(&film_folder(&app, &film.order.folder).join(path_of(&film)));
                }
            }
        }
        app.wake();
        app.tell(Event::Films);
        Ok(Json(()))
    })
    .await
}

/// All that are done go out of the queue.
pub async fn forget_done(State(app): Shared) -> Result<Json<()>, ApiError> {
    blocking(move || {
        app.store.forget_films_done()?;
        app.tell(Event::Films);
        app.tell_jobs();
        Ok(Json(()))
    })
    .await
}

/// The file that came of a film.
pub async fn file(State(app): Shared, Path(id): Path<JobId>, request: Request) -> Result<Response, ApiError> {
    let (path, name) = blocking(move || {
        let all = app.store.films()?;
        let film = all.into_iter().find(|own| own.id == id && own.state == JobState::Done);
        let film = film.ok_or_else(|| ApiError::NotFound(format!("no film {id} was made")))?;
        let below = path_of(&film);
        let name = below.rsplit('/').next().unwrap_or_default().to_owned();
        Ok((film_folder(&app, &film.order.folder).join(&below), name))
    })
    .await?;
    if !path.is_file() {
        return Err(ApiError::NotFound(format!("{} is not there any more; make it again", path.display())));
    }
    let read = ServeFile::new(&path).try_call(request).await;
    let read = read.map_err(|e| ApiError::NotFound(format!("{} cannot be read ({e})", path.display())))?;
    let mut response = read.map(Body::new).into_response();
    if let Ok(value) = disposition(&name).parse() {
        response.headers_mut().insert(header::CONTENT_DISPOSITION, value);
    }
    Ok(response)
}
