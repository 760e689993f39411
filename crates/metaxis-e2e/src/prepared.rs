//! A prepared production with a browser on it, for one test.

use crate::{Browser, Site, media_of};
use anyhow::Result;
use tokio::sync::Semaphore;

/// Browsers at work at once: more only wait for each other on a small machine.
static ROOM: Semaphore = Semaphore::const_new(2);

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
    let site = Site::start(&media_of(name)?).await?;
    site.prepare().await?;
    let browser = Browser::start().await?;
    let result = work(&site, &browser).await;
    if result.is_err() {
        let _ = browser.picture(&std::env::temp_dir().join("metaxis-failed.png")).await;
    }
    browser.close().await?;
    site.server.stop().await;
    result
}
