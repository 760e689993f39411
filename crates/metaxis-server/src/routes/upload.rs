//! Files dropped on the page: streamed to disk piece by piece, resumable, within a limit.

use crate::{
    App,
    asked::{Json, Query},
    error::{ApiError, blocking},
    uploads::{Arrived, Piece},
};
use axum::{
    body::{Body, Bytes},
    extract::State,
};
use futures::StreamExt;
use metaxis_store::JobKind;
use std::sync::Arc;
use tokio::sync::mpsc;

type Shared = State<Arc<App>>;

/// Blocks of a piece that wait to be written.
const WAITING: usize = 4;
/// Of a piece that is refused so much is read all the same: a sender that is cut off does not hear why.
const HEARD_OUT: usize = 16 << 20;

/// How much of a file is here: where to go on after a break.
pub async fn state(State(app): Shared, Query(piece): Query<Piece>) -> Result<Json<Arrived>, ApiError> {
    blocking(move || app.uploads.state(&piece).map(Json).map_err(ApiError::Refused)).await
}

/// Takes a piece. It must begin where the last one ended.
pub async fn piece(
    State(app): Shared,
    Query(piece): Query<Piece>,
    body: Body,
) -> Result<Json<Arrived>, ApiError> {
    let (blocks, mut coming) = mpsc::channel::<Bytes>(WAITING);
    let writing = tokio::spawn(blocking(move || {
        let blocks = std::iter::from_fn(|| coming.blocking_recv());
        app.uploads.take(&piece, blocks).map(Json).map_err(ApiError::Refused)
    }));
    let (mut stream, mut heard_out) = (body.into_data_stream(), 0);
    // A broken connection: what came is kept, and the page goes on from there.
    while let Some(Ok(bytes)) = stream.next().await {
        let count = bytes.len();
        if blocks.send(bytes).await.is_err() {
            heard_out += count;
            if heard_out > HEARD_OUT {
                break;
            }
        }
    }
    drop(blocks);
    writing.await.map_err(|_| ApiError::Closing)?
}

/// Takes in what was uploaded.
pub async fn done(State(app): Shared) -> Result<Json<()>, ApiError> {
    blocking(move || {
        let folder = app.uploads.folder().to_str().map(str::to_owned);
        let folder =
            folder.ok_or_else(|| ApiError::Refused("the data folder's name is not valid text".into()))?;
        app.queue(&JobKind::Intake { folder })?;
        Ok(Json(()))
    })
    .await
}
