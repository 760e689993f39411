//! Files dropped on the page: streamed to disk piece by piece, resumable, within a limit.

use crate::{
    App,
    error::{ApiError, blocking},
};
use axum::{
    Json,
    body::Body,
    extract::{Query, State},
};
use futures::StreamExt;
use metaxis_store::JobKind;
use serde::{Deserialize, Serialize};
use std::{
    fs,
    path::{Component, Path, PathBuf},
    sync::Arc,
};
use tokio::io::AsyncWriteExt;
use ts_rs::TS;

type Shared = State<Arc<App>>;

/// Which file, how long it is, and where this piece belongs.
#[derive(Debug, Deserialize)]
pub struct Piece {
    /// Path below the uploads, forward slashes: the folders of what was dropped.
    path: String,
    /// Bytes of the whole file.
    size: u64,
    /// Where the piece begins.
    #[serde(default)]
    offset: u64,
}

/// How much of a file has arrived.
#[derive(Debug, Serialize, TS)]
pub struct Arrived {
    /// Bytes.
    #[ts(type = "number")]
    have: u64,
    /// All of it is here.
    complete: bool,
}

/// Longest path taken, bytes.
const LONGEST: usize = 900;

struct Place {
    part: PathBuf,
    whole: PathBuf,
}

/// Where a file goes. Only plain names: nothing can leave the uploads folder.
fn place(app: &App, piece: &Piece) -> Result<Place, ApiError> {
    let refuse = |why: &str| ApiError::Refused(format!("{}: {why}", piece.path));
    let relative = Path::new(&piece.path);
    let plain = relative.components().all(|part| match part {
        Component::Normal(name) => !name.to_string_lossy().starts_with('.'),
        _ => false,
    });
    if !plain
        || piece.path.is_empty()
        || piece.path.len() > LONGEST
        || piece.path.chars().any(char::is_control)
    {
        return Err(refuse("this is no name that can be uploaded; rename the file"));
    }
    if piece.size == 0 {
        return Err(refuse("the file is empty (0 bytes); copy it from the card again"));
    }
    let whole = app.uploads().join(relative);
    let (Some(folder), Some(name)) = (whole.parent(), whole.file_name()) else {
        return Err(refuse("this is no name of a file"));
    };
    // Hidden, so that no intake takes half a file in.
    Ok(Place { part: folder.join(format!(".{}.part", name.to_string_lossy())), whole })
}

fn arrived(place: &Place, size: u64) -> Arrived {
    let length = |path: &Path| fs::metadata(path).map_or(0, |data| data.len());
    if place.whole.exists() && length(&place.whole) == size {
        return Arrived { have: size, complete: true };
    }
    Arrived { have: length(&place.part), complete: false }
}

/// How much of a file is here: where to go on after a break.
pub async fn state(State(app): Shared, Query(piece): Query<Piece>) -> Result<Json<Arrived>, ApiError> {
    blocking(move || Ok(Json(arrived(&place(&app, &piece)?, piece.size)))).await
}

/// Bytes of all uploads.
fn taken(folder: &Path) -> u64 {
    let files = walkdir::WalkDir::new(folder).into_iter().flatten();
    files.filter_map(|entry| entry.metadata().ok().filter(fs::Metadata::is_file)).map(|data| data.len()).sum()
}

/// Takes a piece. It must begin where the last one ended.
pub async fn piece(
    State(app): Shared,
    Query(piece): Query<Piece>,
    body: Body,
) -> Result<Json<Arrived>, ApiError> {
    let limit = app.config.limits.upload_bytes;
    let (target, offset, size) = (piece.path.clone(), piece.offset, piece.size);
    let place = blocking(move || {
        let place = place(&app, &piece)?;
        let here = arrived(&place, piece.size);
        if here.complete {
            return Err(ApiError::Refused(format!("{}: it is here already", piece.path)));
        }
        if here.have != piece.offset {
            return Err(ApiError::Refused(format!("{}: go on at byte {}", piece.path, here.have)));
        }
        if place.whole.exists() {
            return Err(ApiError::Refused(format!(
                "{}: another file of this name was uploaded before; rename one of them",
                piece.path
            )));
        }
        let others = taken(&app.uploads()).saturating_sub(here.have);
        if others.saturating_add(piece.size) > limit {
            return Err(ApiError::Refused(format!(
                "{}: uploads are limited to {:.1} GB in all; copy large sets to a media folder and take that in",
                piece.path,
                limit as f64 / 1e9
            )));
        }
        let folder = place.part.parent().unwrap_or(&place.part).to_owned();
        fs::create_dir_all(&folder).map_err(|e| cannot_write(&piece.path, &e))?;
        Ok(place)
    })
    .await?;
    let failed = |e: std::io::Error| cannot_write(&target, &e);
    let mut file =
        tokio::fs::OpenOptions::new().create(true).append(true).open(&place.part).await.map_err(failed)?;
    let mut have = offset;
    let mut stream = body.into_data_stream();
    while let Some(bytes) = stream.next().await {
        // A broken connection: what came is kept, and the page goes on from there.
        let Ok(bytes) = bytes else { break };
        have += bytes.len() as u64;
        if have > size {
            return Err(ApiError::Refused(format!("{target}: more bytes came than the file has")));
        }
        file.write_all(&bytes).await.map_err(failed)?;
    }
    file.flush().await.map_err(failed)?;
    if have == size {
        file.sync_all().await.map_err(failed)?;
        tokio::fs::rename(&place.part, &place.whole).await.map_err(failed)?;
    }
    Ok(Json(Arrived { have, complete: have == size }))
}

fn cannot_write(path: &str, e: &std::io::Error) -> ApiError {
    ApiError::Refused(format!("{path}: cannot be written ({e}); free some space and try again"))
}

/// Takes in what was uploaded.
pub async fn done(State(app): Shared) -> Result<Json<()>, ApiError> {
    blocking(move || {
        let folder = app.uploads().into_os_string().into_string();
        let folder =
            folder.map_err(|_| ApiError::Refused("the data folder's name is not valid text".into()))?;
        app.queue(&JobKind::Intake { folder })?;
        Ok(Json(()))
    })
    .await
}
