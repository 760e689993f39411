//! `metaxis-growth`: how the time of a whole `metaxis sync` grows with the material, on files, with its memory, and
//! against plain decoding of the same files in the same run.

use anyhow::{Context, Result, ensure};
use clap::Parser;
use metaxis_bench::{Card, CardPlan, decode_all, make_card, watch};
use metaxis_core::sync::{SyncReport, Verdict};
use std::{
    path::{Path, PathBuf},
    process::{Command, Stdio},
    time::Instant,
};

/// Half a frame at 25 fps.
const RIGHT_S: f64 = 0.02;

/// Syncs simulated cards of growing size and prints times, memory and the exponent.
#[derive(Parser)]
struct Args {
    /// The metaxis program.
    metaxis: PathBuf,
    /// Numbers of clips, smallest first.
    #[arg(long, value_delimiter = ',', default_values_t = [50, 100, 200, 400])]
    clips: Vec<usize>,
    /// Length of a scene in seconds: the recorder runs through it, three cameras come and go.
    #[arg(long, default_value_t = 300.0)]
    scene_s: f64,
    /// Clips of each camera in a scene.
    #[arg(long, default_value_t = 5)]
    each: usize,
    /// Channels of the recorder; of more than one, the time is set beside that of one.
    #[arg(long, default_value_t = 1)]
    channels: usize,
    /// Seed.
    #[arg(long, default_value_t = 7_001)]
    seed: u64,
    /// Where the files go while it runs.
    #[arg(long)]
    folder: Option<PathBuf>,
    /// Leave the files there.
    #[arg(long)]
    keep: bool,
}

struct Run {
    seconds: f64,
    peak_mib: f64,
    report: SyncReport,
}

fn main() -> Result<()> {
    let args = Args::parse();
    let root = args.folder.clone().unwrap_or_else(std::env::temp_dir);
    println!(
        "{:>6} {:>7} {:>8} {:>9} {:>9} {:>6} {:>8} {:>9} {:>12} {:>6}",
        "clips", "hours", "cold s", "matching", "decoding", "ratio", "warm s", "peak MiB", "right", "WRONG"
    );
    let mut points = vec![];
    for &clips in &args.clips {
        let plan =
            |channels| CardPlan { clips, scene_s: args.scene_s, each: args.each, channels, seed: args.seed };
        let point = card(&args, &root, plan(args.channels))?;
        if args.channels > 1 {
            let one = card(&args, &root, plan(1))?;
            println!(
                "{} channels against one: {:.2} x the time (asked: 1.5 at most)",
                args.channels,
                point.cold_s / one.cold_s
            );
        }
        points.push(point);
    }
    if let [first, .., last] = &points[..] {
        let hours = (last.hours / first.hours).ln();
        // Times against plain decoding, which grows as the material does: the machine may slow down on the way.
        let exponent = |of: fn(&Point) -> f64| 1.0 + (of(last) / of(first)).ln() / hours;
        println!(
            "growth from {:.1} to {:.1} h, against decoding: whole sync ∝ hours^{:.2}, matching ∝ hours^{:.2} (asked: 1.05 at most)",
            first.hours,
            last.hours,
            exponent(|point| point.cold_s / point.decoding_s),
            exponent(|point| point.matching_s / point.decoding_s)
        );
    }
    Ok(())
}

/// Writes a card, measures it, and takes it away.
fn card(args: &Args, root: &Path, plan: CardPlan) -> Result<Point> {
    let folder = root.join(format!("metaxis-growth-{}-{}-{}", std::process::id(), plan.clips, plan.channels));
    let card = make_card(&folder.join("media"), plan)?;
    let measured = measure(args, &folder, &card);
    if !args.keep {
        std::fs::remove_dir_all(&folder)?;
    }
    measured
}

/// What one card showed.
struct Point {
    hours: f64,
    cold_s: f64,
    matching_s: f64,
    decoding_s: f64,
}

fn measure(args: &Args, folder: &Path, card: &Card) -> Result<Point> {
    let media = folder.join("media");
    let cold = sync(args, folder)?;
    let warm = sync(args, folder)?;
    ensure!(cold.report.clips == warm.report.clips, "the warm report differs from the cold one");
    let decoding = decode_all(&media, card.files.iter().map(|file| file.path.as_str()))?;
    let (mut right, mut wrong, mut due) = (0, 0, 0);
    for clip in &cold.report.clips {
        let Some(file) = card.files.iter().find(|file| file.path == clip.path) else { continue };
        if file.device == 0 {
            continue;
        }
        due += 1;
        let near = clip.segments.first().is_some_and(|first| (first.start_s - file.start_s).abs() < RIGHT_S);
        right += usize::from(near && clip.status != Verdict::Unplaced);
        wrong += usize::from(!near && clip.status == Verdict::Solid);
    }
    println!(
        "{:>6} {:>7.2} {:>8.2} {:>9.2} {:>9.2} {:>6.2} {:>8.2} {:>9.0} {:>12} {:>6}",
        card.files.len(),
        card.hours,
        cold.seconds,
        cold.report.timing.match_s,
        decoding,
        cold.seconds / decoding,
        warm.seconds,
        cold.peak_mib,
        format!("{right}/{due}"),
        wrong
    );
    Ok(Point {
        hours: card.hours,
        cold_s: cold.seconds,
        matching_s: cold.report.timing.match_s,
        decoding_s: decoding,
    })
}

fn sync(args: &Args, folder: &Path) -> Result<Run> {
    let begin = Instant::now();
    let report = folder.join("report.json");
    let child = Command::new(&args.metaxis)
        .args(["sync", "--reference", "recorder", "--report"])
        .arg(&report)
        .arg(folder.join("media"))
        .env("XDG_CACHE_HOME", folder.join("cache"))
        .stderr(Stdio::null())
        .stdout(Stdio::null())
        .spawn()
        .context("metaxis cannot be started")?;
    let peak_mib = watch(child)?;
    let seconds = begin.elapsed().as_secs_f64();
    Ok(Run { seconds, peak_mib, report: serde_json::from_slice(&std::fs::read(report)?)? })
}
