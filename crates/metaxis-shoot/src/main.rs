//! `metaxis-shoot`: writes a simulated shoot.

use anyhow::{Context, Result};
use clap::Parser;
use std::path::PathBuf;

/// Writes the media of a scenario, and the truth beside them.
#[derive(Parser)]
#[command(version)]
struct Args {
    /// Scenario file (JSON).
    #[arg(required_unless_present = "large")]
    scenario: Option<PathBuf>,
    /// Instead of a scenario, a day of about so many clips over twelve hours.
    #[arg(long, conflicts_with = "scenario")]
    large: Option<usize>,
    /// Folder to write to.
    #[arg(long)]
    out: PathBuf,
    /// Folder of spoken sound files; `speech` beside the scenario, or `demo/speech`, unless given.
    #[arg(long)]
    speech: Option<PathBuf>,
}

fn main() -> Result<()> {
    let args = Args::parse();
    let (scenario, beside) = match (&args.scenario, args.large) {
        (Some(path), _) => {
            let text = std::fs::read_to_string(path)
                .with_context(|| format!("{} cannot be read", path.display()))?;
            let scenario =
                serde_json::from_str(&text).with_context(|| format!("{} is no scenario", path.display()))?;
            (scenario, path.with_file_name("speech"))
        }
        (None, clips) => (metaxis_shoot::large_day(clips.unwrap_or(400), 1), PathBuf::from("demo/speech")),
    };
    let speech = args.speech.unwrap_or(beside);
    let truth =
        metaxis_shoot::shoot(&scenario, &speech, &args.out, &|done, all| eprintln!("{done} of {all} files"))?;
    println!("{} files in {}", truth.clips.len(), args.out.display());
    Ok(())
}
