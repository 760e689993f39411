//! Errors as the page gets them: a status and a sentence.

use axum::{
    Json,
    extract::rejection::{BytesRejection, JsonRejection, PathRejection, QueryRejection},
    http::StatusCode,
    response::{IntoResponse, Response},
};
use metaxis_media::{MediaError, said};
use metaxis_store::StoreError;
use serde::Serialize;
use thiserror::Error;
use ts_rs::TS;

/// The body of every refusal.
#[derive(Debug, Serialize, TS)]
pub struct Refusal {
    /// What happened and what to do.
    pub error: String,
}

/// What a handler can fail with.
#[derive(Debug, Error)]
pub enum ApiError {
    /// The request cannot be met as it is.
    #[error("{0}")]
    Refused(String),
    /// The request is not put as the API wants it.
    #[error("{1}")]
    Malformed(StatusCode, String),
    /// There is no such thing.
    #[error("{0}")]
    NotFound(String),
    /// Errors of the store.
    #[error(transparent)]
    Store(#[from] StoreError),
    /// Errors of media files.
    #[error(transparent)]
    Media(#[from] MediaError),
    /// A job failed in a way nobody thought of.
    #[error("the program failed at this ({0}); everything else goes on. Please report it")]
    Panicked(String),
    /// The server is ending.
    #[error("the server is ending; start it again")]
    Closing,
}

impl ApiError {
    fn status(&self) -> StatusCode {
        match self {
            ApiError::Refused(_) => StatusCode::UNPROCESSABLE_ENTITY,
            ApiError::Malformed(status, _) => *status,
            ApiError::NotFound(_) | ApiError::Store(StoreError::Missing { .. }) => StatusCode::NOT_FOUND,
            ApiError::Store(StoreError::Stale { .. }) => StatusCode::CONFLICT,
            ApiError::Store(
                StoreError::Line(_)
                | StoreError::Arrange(_)
                | StoreError::NothingTo(_)
                | StoreError::Refused(_),
            ) => StatusCode::UNPROCESSABLE_ENTITY,
            ApiError::Store(_) | ApiError::Media(_) | ApiError::Panicked(_) => {
                StatusCode::INTERNAL_SERVER_ERROR
            }
            ApiError::Closing => StatusCode::SERVICE_UNAVAILABLE,
        }
    }
}

impl From<JsonRejection> for ApiError {
    fn from(why: JsonRejection) -> Self {
        Self::Malformed(why.status(), why.body_text())
    }
}

impl From<BytesRejection> for ApiError {
    fn from(why: BytesRejection) -> Self {
        Self::Malformed(why.status(), why.body_text())
    }
}

impl From<QueryRejection> for ApiError {
    fn from(why: QueryRejection) -> Self {
        Self::Malformed(why.status(), why.body_text())
    }
}

impl From<PathRejection> for ApiError {
    fn from(why: PathRejection) -> Self {
        Self::Malformed(why.status(), why.body_text())
    }
}

impl IntoResponse for ApiError {
    fn into_response(self) -> Response {
        let status = self.status();
        if status.is_server_error() {
            tracing::error!("{self}");
        }
        (status, Json(Refusal { error: self.to_string() })).into_response()
    }
}

/// Runs blocking work (the store, files) off the async threads.
///
/// # Errors
/// What the work returns; [`ApiError::Closing`] where the runtime ends.
pub async fn blocking<T: Send + 'static>(
    work: impl FnOnce() -> Result<T, ApiError> + Send + 'static,
) -> Result<T, ApiError> {
    tokio::task::spawn_blocking(work).await.map_err(|e| match e.try_into_panic() {
        Ok(panic) => ApiError::Panicked(said(panic.as_ref())),
        Err(_) => ApiError::Closing,
    })?
}
