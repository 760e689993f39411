//! Disks that fill up somewhere in the work.

use crate::{Plan, Served, disk::run};
use anyhow::Result;
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use serde_json::{Value, json};
use std::{fmt, path::Path, process::Command, time::Duration};

/// What came of it.
#[derive(Debug, Default)]
pub struct FullDisks {
    /// Disks that were too small, each by another measure.
    pub disks: u32,
    /// Of these, on which no production could be begun, which was said.
    pub refused: u32,
    /// Of the others, on which all was made once there was room.
    pub went_on: u32,
    /// On which something hung, or was missing then.
    pub stuck: u32,
    /// Why they could not be tried here.
    pub skipped: Option<String>,
}

impl fmt::Display for FullDisks {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        if let Some(why) = &self.skipped {
            return write!(f, "full disks: not tried here: {why}");
        }
        let Self { disks, refused, went_on, stuck, .. } = self;
        write!(
            f,
            "full disks: {disks}, {refused} too small for a production, which was said; {went_on} went on when there was \
             room, {stuck} stuck"
        )
    }
}

/// Sizes that are tried, KiB: from no room for the production to nearly enough for all that is derived of the small shoot.
const SIZES: std::ops::Range<u64> = 200..14_000;
/// How long a full disk stays full: where not even the end of a job can be written, it is written when there is room.
const FULL: Duration = Duration::from_secs(5);
/// Longest until all jobs have ended, one way or another.
const MOST: Duration = Duration::from_secs(180);

/// Takes the media in and syncs on `count` disks that are too small, and again when they have grown.
///
/// # Errors
/// Where the disks cannot be made.
pub async fn full_disks(plan: &Plan, count: u32, seed: u64) -> Result<FullDisks> {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    let mut found = FullDisks::default();
    let due = {
        let served = Served::start(plan)?;
        solid(&served.day().await?)
    };
    for _ in 0..count {
        let folder = tempfile::tempdir()?;
        let size = rng.random_range(SIZES);
        let disk = match Small::new(folder.path(), size) {
            Ok(disk) => disk,
            Err(e) => return Ok(FullDisks { skipped: Some(format!("{e:#}")), ..found }),
        };
        found.disks += 1;
        let own = Plan { data: folder.path().to_owned(), ..plan.clone() };
        let Ok(served) = Served::start(&own) else {
            found.refused += 1;
            continue;
        };
        match filled_and_grown(&own, &served, &disk).await {
            Ok(solid) if solid == due => found.went_on += 1,
            Ok(solid) => {
                eprintln!("{size} KiB: {solid} solid of {due}");
                found.stuck += 1;
            }
            Err(e) => {
                eprintln!("{size} KiB: {e:#}");
                found.stuck += 1;
            }
        }
    }
    Ok(found)
}

/// Works until the disk is full, grows it, and works again; how many clips are solid then.
async fn filled_and_grown(plan: &Plan, served: &Served, disk: &Small<'_>) -> Result<usize> {
    // What is asked of a full disk may be refused.
    let _ = served.take_in(&plan.media).await;
    let _ = served.idle(FULL).await;
    let _ = served.post("/passes", &json!({ "reference": null })).await;
    let _ = served.idle(FULL).await;
    disk.grow()?;
    served.take_in(&plan.media).await?;
    served.idle(MOST).await?;
    for kind in ["listen", "proxy", "pass"] {
        served.post(&format!("/jobs/{kind}/resume"), &json!({})).await?;
    }
    served.idle(MOST).await?;
    served.post("/passes", &json!({ "reference": null })).await?;
    Ok(solid(&served.idle(MOST).await?))
}

fn solid(day: &Value) -> usize {
    let placed = day["placements"].as_array().into_iter().flatten();
    placed.filter(|one| one["placement"]["verdict"] == "solid").count()
}

/// A small disk in memory; put away when dropped.
struct Small<'a>(&'a Path);

impl<'a> Small<'a> {
    fn new(at: &'a Path, kib: u64) -> Result<Self> {
        run(Command::new("mount").args(["-t", "tmpfs", "-o", &format!("size={kib}k"), "tmpfs"]).arg(at))?;
        Ok(Self(at))
    }

    fn grow(&self) -> Result<()> {
        run(Command::new("mount").args(["-o", "remount,size=2g"]).arg(self.0))
    }
}

impl Drop for Small<'_> {
    fn drop(&mut self) {
        // Also while a server that is being ended still has it.
        let _ = run(Command::new("umount").arg("-l").arg(self.0));
    }
}
