//! `metaxis-shoot`: writes a simulated shoot.

use anyhow::{Context, Result};
use clap::Parser;
use std::path::PathBuf;

/// Writes the media of a scenario, and the truth beside them.
#[derive(Parser)]
#[command(version)]
struct Args {
    /// Scenario file (JSON).
    scenario: PathBuf,
    /// Folder to write to.
    #[arg(long)]
    out: PathBuf,
    /// Folder of spoken sound files; `speech` beside the scenario unless given.
    #[arg(long)]
    speech: Option<PathBuf>,
}

fn main() -> Result<()> {
    let args = Args::parse();
    let text = std::fs::read_to_string(&args.scenario)
        .with_context(|| format!("{} cannot be read", args.scenario.display()))?;
    let scenario =
        serde_json::from_str(&text).with_context(|| format!("{} is no scenario", args.scenario.display()))?;
    let beside = args.scenario.with_file_name("speech");
    let speech = args.speech.unwrap_or(beside);
    let truth =
        metaxis_shoot::shoot(&scenario, &speech, &args.out, &|done, all| eprintln!("{done} of {all} files"))?;
    println!("{} files in {}", truth.clips.len(), args.out.display());
    Ok(())
}
