//! A prepared production with a browser on it, for one test.

use crate::{Browser, Site, media_of, site::target};
use anyhow::Result;
use metaxis_shoot::folder_of_run;
use std::{collections::HashMap, path::PathBuf, sync::Arc};
use tokio::sync::{Mutex, OnceCell, Semaphore};

/// Browsers at work at once: more only wait for each other on a small machine.
static ROOM: Semaphore = Semaphore::const_new(2);

/// Productions that are taken in and synced, by their scenarios: made once, then every test has a copy of its own.
static KEPT: Mutex<Option<HashMap<String, Arc<OnceCell<PathBuf>>>>> = Mutex::const_new(None);

/// Does `work` on the small shoot, taken in and synced, with a browser; both end with it, however it goes. Where it fails,
/// the last picture of the page is kept in the folder for temporary files.
///
/// # Errors
/// What `work` fails with, and errors of the server and the browser.
pub async fn at_prepared(work: impl AsyncFnOnce(&Site, &Browser) -> Result<()>) -> Result<()> {
    at_prepared_of("small", work).await
}

/// The same on the shoot of a scenario that is shipped with the product.
///
/// # Errors
/// As [`at_prepared`].
pub async fn at_prepared_of(name: &str, work: impl AsyncFnOnce(&Site, &Browser) -> Result<()>) -> Result<()> {
    let _room = ROOM.acquire().await?;
    let site = Site::start_with(&prepared(name).await?, &media_of(name)?).await?;
    let browser = Browser::start().await?;
    let result = work(&site, &browser).await;
    if result.is_err() {
        let _ = browser.picture(&std::env::temp_dir().join("metaxis-failed.png")).await;
    }
    browser.close().await?;
    site.server.stop().await;
    result
}

/// The folder of a production of a scenario in which everything is done; nobody works in it.
async fn prepared(name: &str) -> Result<PathBuf> {
    let cell = KEPT.lock().await.get_or_insert_default().entry(name.into()).or_default().clone();
    let made = cell.get_or_try_init(async || {
        let data = folder_of_run(&target())?.join(name);
        let site = Site::start_in(&data, &media_of(name)?).await?;
        site.prepare().await?;
        site.server.stop().await;
        anyhow::Ok(data)
    });
    Ok(made.await?.clone())
}
