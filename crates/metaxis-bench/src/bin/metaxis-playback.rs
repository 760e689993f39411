//! Measures playback of four angles of the demo for a minute and prints the figures.

use anyhow::Result;
use metaxis_e2e::{Browser, Site, measure, media_of};
use std::path::PathBuf;

#[tokio::main]
async fn main() -> Result<()> {
    // The demo media made by `make demo`, where they are given; made here otherwise.
    let media =
        std::env::args_os().nth(1).map_or_else(|| media_of("tarn-hollow"), |path| Ok(PathBuf::from(path)))?;
    let site = Site::start(&media).await?;
    site.prepare().await?;
    let browser = Browser::start().await?;
    browser.driver.goto(site.url("/intake")).await?;
    browser.until("document.querySelectorAll('[role=row]').length > 5").await?;
    // Looked at every 20 ms or so: this is the time at which the table was seen, from the request on.
    let usable = browser.script("return performance.now() / 1000").await?;
    println!("first page usable {:.2} s after its request (asked: 1 s)", usable.as_f64().unwrap_or(f64::NAN));
    // From where all four cameras run.
    let figures = measure(&site, &browser, 48.0, 60.0).await;
    browser.close().await?;
    site.server.stop().await;
    print!("{}", figures?);
    Ok(())
}
