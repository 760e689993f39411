//! Impatience: ctrl-C at any moment of the work.

use crate::{Plan, Served};
use anyhow::Result;
use nix::sys::signal::Signal;
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use serde_json::json;
use std::{fmt, time::Duration};

/// What came of it.
#[derive(Debug, Default)]
pub struct Stops {
    /// How often the server was told to end.
    pub stops: u32,
    /// Longest until it had, seconds.
    pub longest_s: f64,
}

impl fmt::Display for Stops {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        let Self { stops, longest_s } = self;
        write!(
            f,
            "stops: ctrl-C, SIGTERM and SIGHUP {stops} times at work, ended within {longest_s:.2} s (asked: 2 s)"
        )
    }
}

/// Starts on a production's media `count` times and ends it at a random moment of the first seconds.
///
/// # Errors
/// Where it does not start, or not end.
pub async fn stops(plan: &Plan, count: u32, seed: u64) -> Result<Stops> {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    let mut found = Stops::default();
    for _ in 0..count {
        let folder = tempfile::tempdir()?;
        let served = Served::start(&Plan { data: folder.path().to_owned(), ..plan.clone() })?;
        served.take_in(&plan.media).await?;
        // Waits for the folder to be read, and runs until then where there is not one sound yet.
        served.post("/passes", &json!({ "reference": null })).await?;
        tokio::time::sleep(Duration::from_millis(rng.random_range(0..2_500))).await;
        let signal = [Signal::SIGINT, Signal::SIGTERM, Signal::SIGHUP][rng.random_range(0..3)];
        found.longest_s = found.longest_s.max(served.end_by(signal)?.as_secs_f64());
        found.stops += 1;
    }
    Ok(found)
}
