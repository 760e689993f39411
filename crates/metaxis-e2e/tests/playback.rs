//! Four angles play in step, and a key records the frame that was on screen.
//!
//! The figures are printed; `make bench` measures a whole minute of the demo. What a slow machine cannot spoil is
//! asserted: exact records, no picture before its time, and the exact frame of every angle when play ends.

use anyhow::{Result, ensure};
use metaxis_e2e::{Browser, Site, measure, media_of};

#[tokio::test(flavor = "multi_thread")]
async fn angles_play_in_step_and_keys_record_the_frame_on_screen() -> Result<()> {
    let site = Site::start(&media_of("small")?).await?;
    site.prepare().await?;
    let browser = Browser::start().await?;
    let figures = measure(&site, &browser, 4.0, 8.0).await;
    browser.close().await?;
    site.server.stop().await;
    let figures = figures?;
    println!("{figures}");
    ensure!(figures.seconds > 7.0, "{figures}");
    ensure!(
        figures.in_step > 0 && figures.early == 0,
        "{} pictures came before their time: {figures}",
        figures.early
    );
    ensure!(figures.presses.len() >= 3, "{figures}");
    for (pressed, recorded, _) in &figures.presses {
        ensure!(pressed == recorded, "pressed at frame {pressed}, recorded at {recorded}");
    }
    let last = figures.presses.last().map_or(f64::INFINITY, |press| press.2);
    ensure!(last.is_finite(), "the large picture never showed what the last key asked for: {figures}");
    Ok(())
}
