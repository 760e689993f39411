//! Viewing LUTs, and what differs between the angles of a group.

use crate::{
    App,
    asked::{Json, Path, Query},
    error::{ApiError, blocking},
    work::{self, AngleBalance, LutView},
};
use axum::{
    body::Bytes,
    extract::{State, rejection::BytesRejection},
    http::header,
    response::{IntoResponse, Response},
};
use metaxis_core::lut::LutKey;
use metaxis_media::Stop;
use metaxis_store::GroupId;
use serde::Deserialize;
use std::sync::Arc;

type Shared = State<Arc<App>>;

/// The most bytes that a LUT is brought as.
pub(super) const LARGEST: usize = 16 << 20;

/// The file that a LUT is brought from.
#[derive(Debug, Deserialize)]
pub struct Brought {
    file: String,
}

pub async fn luts(State(app): Shared) -> Result<Json<Vec<LutView>>, ApiError> {
    blocking(move || Ok(Json(work::luts(&app)?))).await
}

pub async fn bring(
    State(app): Shared,
    Query(Brought { file }): Query<Brought>,
    body: Result<Bytes, BytesRejection>,
) -> Result<Json<LutView>, ApiError> {
    let body = body?;
    blocking(move || {
        let text = str::from_utf8(&body)
            .map_err(|_| ApiError::Refused(format!("{file} is no text: a LUT in the cube form is")))?;
        Ok(Json(work::bring(&app, &file, text)?))
    })
    .await
}

/// Its samples, or with `.cube` behind its key its text.
pub async fn one(State(app): Shared, Path(name): Path<String>) -> Result<Response, ApiError> {
    blocking(move || {
        // What a key stands for never changes.
        let kept = (header::CACHE_CONTROL, "private, max-age=31536000, immutable".to_owned());
        Ok(match name.strip_suffix(".cube") {
            Some(key) => {
                let text = work::lut(&app, &LutKey(key.into()))?.to_text();
                let saved = (header::CONTENT_DISPOSITION, "attachment".to_owned());
                ([kept, saved, (header::CONTENT_TYPE, "text/plain; charset=utf-8".to_owned())], text)
                    .into_response()
            }
            None => {
                let samples = work::samples(&app, &LutKey(name))?;
                ([kept, (header::CONTENT_TYPE, "application/octet-stream".to_owned())], samples)
                    .into_response()
            }
        })
    })
    .await
}

pub async fn balance(
    State(app): Shared,
    Path(id): Path<GroupId>,
) -> Result<Json<Vec<AngleBalance>>, ApiError> {
    blocking(move || Ok(Json(work::balances(&app, id, &Stop::default())?))).await
}
