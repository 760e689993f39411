//! Kills at random moments, while somebody edits.

use crate::{Known, Plan, Served};
use anyhow::Result;
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use std::{fmt, time::Duration};

/// What came of it.
#[derive(Debug, Default)]
pub struct Kills {
    /// How often the server was killed.
    pub kills: u32,
    /// Edits that it had answered.
    pub answered: u64,
    /// Of these, gone afterwards.
    pub lost: u64,
}

impl fmt::Display for Kills {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        write!(f, "kills: {} while editing, {} answered edits, {} lost", self.kills, self.answered, self.lost)
    }
}

/// Kills the server of a production `count` times.
///
/// # Errors
/// Where it does not start again.
pub async fn kills(plan: &Plan, count: u32, seed: u64) -> Result<Kills> {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    let mut found = Kills::default();
    let mut served = Served::start(plan)?;
    let mut known = Known::of(&served).await?;
    for _ in 0..count {
        // Somewhere in the next few dozen edits.
        let moment = Duration::from_micros(rng.random_range(1_000..400_000));
        let mut hand = ChaCha8Rng::seed_from_u64(rng.random());
        // Where it answers no more, nothing more is known.
        let _ = tokio::time::timeout(moment, known.edit(&served, &mut hand)).await;
        served.kill()?;
        served = Served::start(plan)?;
        found.kills += 1;
        found.lost += known.lost(&served).await?;
    }
    found.answered = known.answered;
    Ok(found)
}
