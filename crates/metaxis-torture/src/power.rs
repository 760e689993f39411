//! Power cuts: the file system of a production as it stood on its disk at a moment, without what the system still kept in
//! memory.

use crate::{Known, Plan, Served, disk::run};
use anyhow::{Context, Result, bail};
use nix::sys::signal::Signal;
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use serde_json::{Value, json};
use std::{
    fmt,
    path::{Path, PathBuf},
    process::{Command, Stdio},
    time::Duration,
};

/// What came of it.
#[derive(Debug, Default)]
pub struct PowerCuts {
    /// How often the power was cut.
    pub cuts: u32,
    /// Edits that had been answered.
    pub answered: u64,
    /// Of these, gone afterwards.
    pub lost: u64,
    /// Passes made afterwards, from the derived files that were left.
    pub passes: u32,
    /// Of these, with other places than before.
    pub other: u32,
    /// Why they could not be tried here.
    pub skipped: Option<String>,
}

impl fmt::Display for PowerCuts {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        if let Some(why) = &self.skipped {
            return write!(f, "power cuts: not tried here: {why}");
        }
        let Self { cuts, answered, lost, passes, other, .. } = self;
        write!(
            f,
            "power cuts: {cuts} while editing, {answered} answered edits, {lost} lost; {passes} passes from what was left \
             of the cache, {other} with other places"
        )
    }
}

/// Size of the disk, bytes.
const DISK: u64 = 512 << 20;
/// How often a disk is copied until it stands still.
const TRIES: u32 = 20;
/// A pass is made after each of so many cuts: it reads all that was derived.
const PASS_EACH: u32 = 10;

/// Cuts the power of a production `count` times.
///
/// # Errors
/// Where a server does not start again, or a disk cannot be mounted any more.
pub async fn power_cuts(plan: &Plan, count: u32, seed: u64) -> Result<PowerCuts> {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    let mut found = PowerCuts::default();
    let folder = tempfile::tempdir()?;
    let mut disk = match Disk::new(folder.path()) {
        Ok(disk) => disk,
        Err(e) => return Ok(PowerCuts { skipped: Some(format!("{e:#}")), ..found }),
    };
    run(Command::new("cp").arg("-a").arg(plan.data.join(".")).arg(&disk.mounted))?;
    // What no edit wrote is on the disk before the first cut: the copy is the trial's, not the program's.
    run(Command::new("sync").arg("--file-system").arg(&disk.mounted))?;
    let on = |disk: &Disk| Plan { data: disk.mounted.clone(), ..plan.clone() };
    let mut served = Served::start(&on(&disk))?;
    let mut known = Known::of(&served).await?;
    let places = verdicts(&served.day().await?);
    for cut in 0..count {
        let moment = Duration::from_micros(rng.random_range(1_000..400_000));
        let mut hand = ChaCha8Rng::seed_from_u64(rng.random());
        let _ = tokio::time::timeout(moment, known.edit(&served, &mut hand)).await;
        // Nothing moves while the disk is looked at.
        served.send(Signal::SIGSTOP)?;
        let after = disk.after_a_cut(cut)?;
        served.kill()?;
        disk = after;
        served = Served::start(&on(&disk))?;
        found.cuts += 1;
        found.lost += known.lost(&served).await?;
        if cut % PASS_EACH == 0 {
            served.post("/passes", &json!({ "reference": null })).await?;
            let day = served.idle(Duration::from_secs(120)).await?;
            found.passes += 1;
            found.other += u32::from(verdicts(&day) != places);
            known.go_on_in(&served).await?;
        }
    }
    found.answered = known.answered;
    drop(served);
    Ok(found)
}

/// Where everything lies, to the millisecond.
fn verdicts(day: &Value) -> Vec<(Value, Value, i64)> {
    let placed = day["placements"].as_array().into_iter().flatten();
    placed
        .map(|one| {
            let start_s = one["placement"]["stretches"][0]["start_s"].as_f64().unwrap_or(-1.0);
            (one["clip"].clone(), one["placement"]["verdict"].clone(), (start_s * 1e3).round() as i64)
        })
        .collect()
}

/// A file system in a file; put away when dropped.
struct Disk {
    image: PathBuf,
    mounted: PathBuf,
}

impl Disk {
    fn new(folder: &Path) -> Result<Self> {
        let image = folder.join("disk");
        std::fs::File::create(&image)?.set_len(DISK)?;
        run(Command::new("mkfs.ext4").args(["-q", "-F"]).arg(&image))
            .context("no file system can be made")?;
        Self::mount(image)
    }

    fn mount(image: PathBuf) -> Result<Self> {
        let mounted = image.with_extension("mounted");
        std::fs::create_dir_all(&mounted)?;
        run(Command::new("mount").args(["-o", "loop"]).arg(&image).arg(&mounted))
            .context("mounting is not allowed")?;
        Ok(Self { image, mounted })
    }

    /// The disk as it would be found after the power went now.
    fn after_a_cut(&self, number: u32) -> Result<Self> {
        let image = self.image.with_file_name(format!("disk-{number}"));
        // Where the system wrote meanwhile, the copy is of no one moment.
        for _ in 0..TRIES {
            run(Command::new("cp").arg("--sparse=always").arg(&self.image).arg(&image))?;
            if run(Command::new("cmp").arg(&self.image).arg(&image)).is_ok() {
                return Self::mount(image);
            }
        }
        bail!("the disk is never still")
    }
}

impl Drop for Disk {
    fn drop(&mut self) {
        let _ = Command::new("umount").arg(&self.mounted).stderr(Stdio::null()).status();
        let _ = std::fs::remove_file(&self.image);
    }
}
