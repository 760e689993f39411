//! `metaxis-torture`: does to a running Metaxis what days on a set do to it, and prints what is lost, hung and taken.

use anyhow::{Result, ensure};
use clap::Parser;
use metaxis_torture::{Plan, corpus, full_disks, kills, many, power_cuts, production, slow, soak, stops};
use std::{
    path::{Path, PathBuf},
    time::Duration,
};

/// Kills, power cuts, strange files, slow connections and impatience.
#[derive(Parser)]
struct Args {
    /// The metaxis program.
    metaxis: PathBuf,
    /// Kills while somebody edits.
    #[arg(long, default_value_t = 200)]
    kills: u32,
    /// Power cuts while somebody edits.
    #[arg(long, default_value_t = 100)]
    power_cuts: u32,
    /// Mutated files, beside those that are known to be strange.
    #[arg(long, default_value_t = 500)]
    mutants: usize,
    /// Silent connections at a time.
    #[arg(long, default_value_t = 1000)]
    slow: usize,
    /// Small files at once.
    #[arg(long, default_value_t = 20_000)]
    many: usize,
    /// Disks that fill up.
    #[arg(long, default_value_t = 24)]
    full_disks: u32,
    /// Ends at random moments.
    #[arg(long, default_value_t = 40)]
    stops: u32,
    /// Minutes of a long day.
    #[arg(long, default_value_t = 10.0)]
    soak: f64,
    /// Seed.
    #[arg(long, default_value_t = 13_001)]
    seed: u64,
}

#[tokio::main]
async fn main() -> Result<()> {
    let args = Args::parse();
    let top = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let media = metaxis_shoot::made_once(&top.join("demo/small.json"), &top.join("target"))?;
    let folder = tempfile::tempdir()?;
    let program = args.metaxis.canonicalize()?;
    let plan = Plan { program, data: folder.path().join("production"), media };
    production(&plan).await?;

    let mut lost = 0;
    if args.stops > 0 {
        println!("{}", stops(&plan, args.stops, args.seed).await?);
    }
    if args.slow > 0 {
        println!("{}", slow(&plan, args.slow, 200).await?);
    }
    if args.full_disks > 0 {
        let found = full_disks(&plan, args.full_disks, args.seed).await?;
        println!("{found}");
        lost += u64::from(found.stuck);
    }
    if args.many > 0 {
        println!("{}", many(&plan, args.many).await?);
    }
    if args.power_cuts > 0 {
        let found = power_cuts(&plan, args.power_cuts, args.seed).await?;
        println!("{found}");
        lost += found.lost + u64::from(found.other);
    }
    if args.kills > 0 {
        let found = kills(&plan, args.kills, args.seed).await?;
        println!("{found}");
        lost += found.lost;
    }
    if args.mutants > 0 {
        let found = corpus(&plan, args.mutants, args.seed).await?;
        println!("{found}");
        lost += u64::from(!found.went_on);
    }
    if args.soak > 0.0 {
        let found = soak(&plan, Duration::from_secs_f64(args.soak * 60.0), args.seed).await?;
        println!("{found}");
        lost += found.lost + found.faults;
    }
    ensure!(lost == 0, "something was lost: see above");
    Ok(())
}
