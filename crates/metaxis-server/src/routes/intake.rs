//! Folders that may be taken in.

use crate::{
    App,
    error::{ApiError, blocking},
};
use axum::{Json, extract::State};
use metaxis_store::JobKind;
use serde::{Deserialize, Serialize};
use std::{path::PathBuf, sync::Arc};
use ts_rs::TS;

/// An allowed folder and the folders in it.
#[derive(Debug, Serialize, TS)]
pub struct FolderView {
    /// Full path.
    path: String,
    /// Folders directly in it.
    folders: Vec<String>,
}

/// A folder to take in.
#[derive(Debug, Deserialize, TS)]
pub struct TakeIn {
    path: String,
}

/// Most sub-folders listed of one root.
const MOST: usize = 500;

pub async fn folders(State(app): State<Arc<App>>) -> Result<Json<Vec<FolderView>>, ApiError> {
    blocking(move || {
        let view = |root: &PathBuf| {
            let entries = std::fs::read_dir(root).into_iter().flatten().flatten();
            let mut folders: Vec<String> = entries
                .filter(|entry| entry.file_type().is_ok_and(|kind| kind.is_dir()))
                .map(|entry| entry.file_name().to_string_lossy().into_owned())
                .filter(|name| !name.starts_with('.'))
                .take(MOST)
                .collect();
            folders.sort();
            FolderView { path: root.display().to_string(), folders }
        };
        Ok(Json(app.config.roots.iter().map(view).collect()))
    })
    .await
}

pub async fn take_in(State(app): State<Arc<App>>, Json(body): Json<TakeIn>) -> Result<Json<()>, ApiError> {
    blocking(move || {
        let folder =
            app.config.allowed_folder(&PathBuf::from(body.path.trim())).map_err(ApiError::Refused)?;
        let folder = folder
            .into_os_string()
            .into_string()
            .map_err(|_| ApiError::Refused("the folder's name is not valid text; rename it".into()))?;
        app.queue(&JobKind::Intake { folder })?;
        Ok(Json(()))
    })
    .await
}
