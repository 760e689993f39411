//! The space that derived files take.

use crate::{
    App, Event,
    asked::Json,
    error::{ApiError, blocking},
    work,
};
use axum::extract::State;
use serde::Serialize;
use std::sync::Arc;
use ts_rs::TS;

/// How much everything derived takes.
#[derive(Debug, Serialize, TS)]
pub struct StorageView {
    /// Bytes taken.
    #[ts(type = "number")]
    bytes: u64,
    /// Bytes that light copies are kept within.
    #[ts(type = "number")]
    limit: u64,
}

pub async fn storage(State(app): State<Arc<App>>) -> Result<Json<StorageView>, ApiError> {
    blocking(move || Ok(Json(StorageView { bytes: app.cache.bytes(), limit: app.config.limits.cache_bytes })))
        .await
}

/// Removes everything derived and makes it again: nothing of a person's is in it.
pub async fn clear(State(app): State<Arc<App>>) -> Result<Json<()>, ApiError> {
    blocking(move || {
        work::clear_cache(&app)?;
        app.tell(Event::Day);
        Ok(Json(()))
    })
    .await
}
