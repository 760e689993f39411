//! Light copies and waveform levels.

use crate::{
    App,
    asked::{Json, Path, Query},
    error::{ApiError, blocking},
    samples::cached,
};
use axum::{
    body::Body,
    extract::{Request, State},
    http::{HeaderValue, header},
    response::{IntoResponse, Response},
};
use metaxis_core::{clip::ClipId, signal::level_strip};
use metaxis_media::{CachedClip, Stop, make_proxy};
use metaxis_store::GroupId;
use serde::Deserialize;
use std::{path::PathBuf, sync::Arc};
use tower_http::services::ServeFile;

type Shared = State<Arc<App>>;

#[derive(Deserialize)]
pub struct Bins {
    bins: Option<usize>,
}

impl Bins {
    fn count(&self) -> usize {
        self.bins.unwrap_or(200).clamp(1, 4000)
    }
}

/// The light copy of a still: one frame, made when it is asked for. `None` of anything else.
fn still(
    app: &App,
    id: ClipId,
    cached: &CachedClip,
    path: &std::path::Path,
) -> Result<Option<PathBuf>, ApiError> {
    if path != cached.proxy() {
        return Ok(None);
    }
    let clip = app.store.clip(id)?;
    let Some(picture) = clip.facts.picture.as_ref().filter(|picture| picture.still) else { return Ok(None) };
    let _turn = app.making.enter(&clip.fingerprint);
    make_proxy(&clip.path, &picture.colour, cached, &Stop::default())?;
    Ok(Some(path.to_owned()))
}

async fn serve(
    app: Arc<App>,
    id: ClipId,
    which: fn(&CachedClip) -> PathBuf,
    request: Request,
) -> Result<Response, ApiError> {
    let path = blocking(move || {
        let clip = cached(&app, id)?;
        let path = which(&clip);
        if clip.is_whole(&path) {
            Ok(path)
        } else if let Some(path) = still(&app, id, &clip, &path)? {
            Ok(path)
        } else {
            // It may have made room for others: somebody wants it again.
            app.make_again(id)?;
            Err(ApiError::NotFound("it is still being made; try again shortly".into()))
        }
    })
    .await?;
    match ServeFile::new(path).try_call(request).await {
        Ok(response) => {
            let mut response = response.map(Body::new).into_response();
            response
                .headers_mut()
                .insert(header::CACHE_CONTROL, HeaderValue::from_static("private, max-age=3600"));
            Ok(response)
        }
        Err(e) => Err(ApiError::NotFound(format!("the light copy cannot be read ({e}); clear the cache"))),
    }
}

pub async fn proxy(
    State(app): Shared,
    Path(id): Path<ClipId>,
    request: Request,
) -> Result<Response, ApiError> {
    serve(app, id, CachedClip::proxy, request).await
}

/// The smaller light copy; the other where there is none.
pub async fn small(
    State(app): Shared,
    Path(id): Path<ClipId>,
    request: Request,
) -> Result<Response, ApiError> {
    let which = |clip: &CachedClip| if clip.is_whole(&clip.small()) { clip.small() } else { clip.proxy() };
    serve(app, id, which, request).await
}

pub async fn playback(
    State(app): Shared,
    Path(id): Path<ClipId>,
    request: Request,
) -> Result<Response, ApiError> {
    serve(app, id, CachedClip::playback, request).await
}

pub async fn thumbnail(
    State(app): Shared,
    Path(id): Path<ClipId>,
    request: Request,
) -> Result<Response, ApiError> {
    serve(app, id, CachedClip::thumbnail, request).await
}

fn levels(app: &App, id: ClipId) -> Result<Vec<i8>, ApiError> {
    if app.store.clip(id)?.facts.sound.is_none() {
        return Ok(vec![]);
    }
    // Silence where nothing is known would be believed.
    let bytes = std::fs::read(cached(app, id)?.levels())
        .map_err(|_| ApiError::NotFound("it was not listened to yet; try again shortly".into()))?;
    Ok(bytes.into_iter().map(|byte| byte as i8).collect())
}

pub async fn clip_levels(
    State(app): Shared,
    Path(id): Path<ClipId>,
    Query(query): Query<Bins>,
) -> Result<Json<Vec<u8>>, ApiError> {
    blocking(move || {
        let duration_s = app.store.clip(id)?.facts.duration_s;
        Ok(Json(level_strip(&levels(&app, id)?, 0.0, duration_s, query.count())))
    })
    .await
}

/// Levels of a group's sound, of some of its frames.
#[derive(Debug, Deserialize)]
pub struct GroupBins {
    bins: Option<usize>,
    /// First frame, and the first after the last: of the whole group unless given.
    from: Option<i64>,
    to: Option<i64>,
}

pub async fn group_levels(
    State(app): Shared,
    Path(id): Path<GroupId>,
    Query(query): Query<GroupBins>,
) -> Result<Json<Vec<u8>>, ApiError> {
    blocking(move || {
        let group = app.store.group(id)?.group;
        let bins = Bins { bins: query.bins }.count();
        let first = query.from.unwrap_or(0).clamp(0, group.frames);
        let frames = query.to.unwrap_or(group.frames).clamp(first, group.frames) - first;
        let mut strip = vec![0; bins];
        for part in group.sound.iter().flat_map(|sound| &sound.parts) {
            let within = |frame: i64| frame.clamp(first, first + frames);
            let (begin, end) = (within(part.from_frame), within(part.to_frame));
            let bin = |frame: i64| ((frame - first) * bins as i64 / frames.max(1)) as usize;
            if bin(begin) < bin(end) {
                let from_s = part.stretch.clip_s(group.frame_start(begin).seconds());
                let to_s = part.stretch.clip_s(group.frame_end(end - 1).seconds());
                let own = level_strip(&levels(&app, part.clip)?, from_s, to_s, bin(end) - bin(begin));
                strip[bin(begin)..bin(end)].copy_from_slice(&own);
            }
        }
        Ok(Json(strip))
    })
    .await
}
