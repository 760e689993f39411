//! `metaxis-trials`: the engine on many simulated shoots in memory, figures printed.

use clap::Parser;
use metaxis_bench::{KINDS, Tally, table};

/// Runs the engine on simulated shoots and prints what became of them.
#[derive(Parser)]
struct Args {
    /// First seed.
    #[arg(long, default_value_t = 5_000)]
    seed: u64,
    /// Shoots of each kind.
    #[arg(long, default_value_t = 10)]
    shoots: u64,
    /// Only kinds whose names hold this.
    #[arg(long)]
    only: Option<String>,
    /// Print what went wrong, clip by clip.
    #[arg(long)]
    verbose: bool,
    /// Print of everything placed its confidence, whether it is right, and what that was reckoned from.
    #[arg(long)]
    confidences: bool,
}

fn main() {
    let args = Args::parse();
    let mut tallies: Vec<(&str, Tally)> = vec![];
    println!(
        "{:15} {:>9} {:>6} {:>6} {:>6} {:>9} {:>9} {:>9} {:>8} {:>7} {:>8} {:>7} {:>6}",
        "kind",
        "right",
        "solid",
        "WRONG",
        "check-",
        "median ms",
        "99 % ms",
        "along ms",
        "breaks",
        "false",
        "in solid",
        "2 sigma",
        "s/h"
    );
    for kind in KINDS.iter().filter(|kind| args.only.as_ref().is_none_or(|only| kind.name.contains(only))) {
        let mut tally = Tally::default();
        for seed in args.seed..args.seed + args.shoots.div_ceil(kind.worth) {
            let shoot = (kind.make)(seed);
            let (result, seconds) = shoot.sync();
            tally.add(&shoot, &result, seconds, &format!("{} {seed}", kind.name));
        }
        tally.start_s.sort_by(f64::total_cmp);
        let at = |share: f64| {
            tally
                .start_s
                .get(((tally.start_s.len() as f64 * share) as usize).min(tally.start_s.len().max(1) - 1))
                .map_or(f64::NAN, |s| s * 1e3)
        };
        println!(
            "{:15} {:>4}/{:<4} {:>6} {:>6} {:>6} {:>9.4} {:>9.3} {:>9.3} {:>4}/{:<3} {:>7} {:>8} {:>6.0}% {:>6.1}",
            kind.name,
            tally.right,
            tally.due,
            tally.right_solid,
            tally.wrong_solid,
            tally.wrong_check,
            at(0.5),
            at(0.99),
            tally.along_s.iter().copied().fold(f64::NAN, f64::max) * 1e3,
            tally.found_breaks.len(),
            tally.breaks,
            tally.false_breaks,
            tally.invented_solid,
            100.0 * tally.within_two_sigma.0 as f64 / tally.within_two_sigma.1.max(1) as f64,
            tally.seconds / tally.sound_s * 3600.0
        );
        if args.verbose {
            println!("    {}", kind.about);
            for note in &tally.notes {
                println!("    {note}");
            }
        }
        if args.confidences {
            for ((p, right), signs) in tally.calibration.iter().zip(&tally.signs) {
                println!("c {} {p:.4} {} {signs:?}", kind.name.replace(' ', "-"), u8::from(*right));
            }
        }
        tallies.push((kind.name, tally));
    }
    for row in table(&tallies) {
        println!("{row}");
    }
}
