//! A long day: people look, edit, sync and export without end, and nothing may grow or fail.

use crate::{
    Known, Plan, Served,
    memory::{Peak, Watch, held},
};
use anyhow::Result;
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use reqwest::Method;
use serde_json::{Value, json};
use std::{
    fmt,
    time::{Duration, Instant},
};

/// What came of it.
#[derive(Debug, Default)]
pub struct Soak {
    /// How long it took, seconds.
    pub seconds: f64,
    /// Requests that were answered.
    pub answered: u64,
    /// Of these, with a fault of the server's.
    pub faults: u64,
    /// Answered edits that were not there at the end.
    pub lost: u64,
    /// MiB that the server held when a tenth of it was over, and at the end.
    pub held_mib: (f64, f64),
    /// The most memory.
    pub peak: Peak,
}

impl fmt::Display for Soak {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        let Self { seconds, answered, faults, lost, held_mib: (early, late), peak } = self;
        write!(
            f,
            "soak: {seconds:.0} s, {answered} answers, {faults} faults, {lost} edits lost; the server held {early:.0} MiB \
             early and {late:.0} MiB at the end, at most {:.0}",
            peak.server
        )
    }
}

/// What people look at; `{}` is a group or a clip.
const LOOKS: [&str; 12] = [
    "/day",
    "/groups/{}",
    "/groups/{}/levels?bins=400",
    "/groups/{}/turnover/group.otio",
    "/groups/{}/turnover/line.otio",
    "/groups/{}/turnover/line.edl",
    "/clips/{}",
    "/clips/{}/peaks?bins=600",
    "/clips/{}/levels?bins=300",
    "/clips/{}/thumbnail.jpg",
    "/clips/{}/claps",
    "/storage",
];

/// Works on a production for so long.
///
/// # Errors
/// Where no answer comes.
pub async fn soak(plan: &Plan, length: Duration, seed: u64) -> Result<Soak> {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    let served = Served::start(plan)?;
    let (watch, begin) = (Watch::on(served.id()), Instant::now());
    let mut known = Known::of(&served).await?;
    let mut found = Soak::default();
    while begin.elapsed() < length {
        if found.held_mib.0 == 0.0 && begin.elapsed() > length / 10 {
            found.held_mib.0 = held(served.id());
        }
        match rng.random_range(0..400) {
            0 => {
                served.post("/passes", &json!({ "reference": null })).await?;
                served.idle(Duration::from_secs(120)).await?;
                known.go_on_in(&served).await?;
            }
            1 => drop(served.ask(Method::POST, "/storage/clear", &json!({})).await?),
            2..200 => known.step(&served, &mut rng).await?,
            _ => {
                let path = LOOKS[rng.random_range(0..LOOKS.len())]
                    .replace("{}", &rng.random_range(1..9).to_string());
                let (status, answer) = served.ask(Method::GET, &path, &Value::Null).await?;
                if status >= 500 {
                    eprintln!("{path}: {status} {answer}");
                    found.faults += 1;
                }
            }
        }
        found.answered += 1;
    }
    served.idle(Duration::from_secs(120)).await?;
    found.held_mib.1 = held(served.id());
    found.lost = known.lost(&served).await?;
    (found.seconds, found.peak) = (begin.elapsed().as_secs_f64(), watch.peak());
    Ok(found)
}
