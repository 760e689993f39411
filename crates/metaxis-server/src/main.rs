//! The `metaxis` command.

mod arguments;

use anyhow::{Context, Result};
use arguments::{FilmArgs, SoundArgs, SyncArgs};
use clap::{Parser, Subcommand};
use metaxis_core::sync::Warning;
use metaxis_server::{
    Limits, ServeConfig,
    headless::{
        FilmReport, Progress, SoundError, SyncDone, SyncError, TurnoverError, not_written, sound, sync,
        turnover,
    },
    start,
};
use metaxis_store::JobKind;
use std::{
    fs::Permissions,
    io::{ErrorKind, IsTerminal, Write},
    net::SocketAddr,
    os::unix::fs::PermissionsExt,
    path::{Path, PathBuf},
    process::ExitCode,
};

/// Syncs multi-camera footage with separate sound and builds multicam groups.
#[derive(Parser)]
#[command(name = "metaxis", version)]
struct Args {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// Serves the page.
    Serve {
        /// Address to listen on.
        #[arg(long, default_value = "127.0.0.1:4810")]
        address: SocketAddr,
        /// Folder of the production and its derived files.
        #[arg(long)]
        data: PathBuf,
        /// Folder below which media may be taken in; may be given several times.
        #[arg(long = "root", required = true)]
        roots: Vec<PathBuf>,
        /// Folder below which the page may have files written, beside the one of the production; may be given several times.
        #[arg(long)]
        out: Vec<PathBuf>,
        /// Access token; needed to listen anywhere but on this machine.
        #[arg(long, env = "METAXIS_TOKEN")]
        token: Option<String>,
        /// Name for a new production.
        #[arg(long)]
        name: Option<String>,
        /// Shoot day for a new production.
        #[arg(long, default_value = "Day 1")]
        day: String,
        /// Folder to take in where the production has no clips yet.
        #[arg(long)]
        take_in: Option<PathBuf>,
        /// Gigabytes that light copies may take; the longest unused are dropped beyond.
        #[arg(long, default_value_t = 100.0)]
        cache_limit: f64,
        /// Gigabytes that may be uploaded from the page in all.
        #[arg(long, default_value_t = 20.0)]
        upload_limit: f64,
    },
    /// Syncs folders without the page and writes a report.
    Sync {
        #[command(flatten)]
        sync: SyncArgs,
        /// Folder for the groups as OpenTimelineIO.
        #[arg(long)]
        turnover: Option<PathBuf>,
    },
    /// Syncs folders and writes the recorders' sound for every picture, corrected, as broadcast WAV.
    Sound {
        #[command(flatten)]
        sync: SyncArgs,
        #[command(flatten)]
        sound: SoundArgs,
    },
    /// Syncs folders and writes every document of the day: groups and synced clips as OpenTimelineIO, logs as tables, and the sync
    /// report as a page; films too where they are asked for.
    Turnover {
        #[command(flatten)]
        sync: SyncArgs,
        /// Folder that the documents go to.
        #[arg(long)]
        out: PathBuf,
        #[command(flatten)]
        films: FilmArgs,
    },
}

fn main() -> ExitCode {
    let args = match Args::try_parse() {
        Ok(args) => args,
        Err(e) => {
            let _ = e.print();
            return ExitCode::from(if e.use_stderr() { 2 } else { 0 });
        }
    };
    match run(args.command) {
        Ok(()) => ExitCode::SUCCESS,
        Err(e) => {
            // Whoever read it may be gone.
            let _ = writeln!(std::io::stderr(), "metaxis: {e:#}");
            let of_sound = e.downcast_ref::<SoundError>().and_then(|e| match e {
                SoundError::Sync(e) => Some(e),
                SoundError::Room(_) => None,
            });
            let of_turnover = e.downcast_ref::<TurnoverError>();
            let of_sync = match of_turnover {
                Some(TurnoverError::Sync(e)) => Some(e),
                _ => e.downcast_ref::<SyncError>().or(of_sound),
            };
            let usage = matches!(
                of_sync,
                Some(SyncError::NotAFolder(_) | SyncError::UnknownReference(_) | SyncError::Write { .. })
            ) || matches!(of_turnover, Some(TurnoverError::Folder(..) | TurnoverError::Films(_)));
            ExitCode::from(if usage { 2 } else { 1 })
        }
    }
}

fn run(command: Command) -> Result<()> {
    match command {
        Command::Serve {
            address,
            data,
            roots,
            out,
            token,
            name,
            day,
            take_in,
            cache_limit,
            upload_limit,
        } => {
            let production = name.map(|name| (name, day));
            // Below zero and what is no number become none at all.
            let bytes = |gigabytes: f64| (gigabytes * 1e9) as u64;
            let limits = Limits {
                cache_bytes: bytes(cache_limit),
                upload_bytes: bytes(upload_limit),
                ..Limits::default()
            };
            serve(ServeConfig { address, data, roots, out, token, production, limits }, take_in)
        }
        Command::Sync { sync: args, turnover } => {
            // Gone when dropped, and not before.
            let (plan, report, _fresh) = args.plan(turnover)?;
            let SyncDone { report: result, documents } = with_progress(|progress| sync(&plan, progress))?;
            tell(&result.warnings);
            for name in &documents.taken_away {
                let _ = writeln!(std::io::stderr(), "metaxis: {name} of an earlier run was taken away");
            }
            hand_over(&serde_json::to_string_pretty(&result)?, report.as_deref())?;
            all_written(&documents.failed)
        }
        Command::Sound { sync: args, sound: wanted } => {
            let (plan, report, _fresh) = args.plan(None)?;
            let asked = wanted.asked(plan);
            let result = with_progress(|progress| sound(&asked, progress))?;
            hand_over(&serde_json::to_string_pretty(&result)?, report.as_deref())?;
            not_written(&result).map_or(Ok(()), |why| Err(anyhow::Error::msg(why)))
        }
        Command::Turnover { sync: args, out, films } => {
            let (plan, report, _fresh) = args.plan(None)?;
            let asked = films.asked()?;
            let result = with_progress(|progress| turnover(&plan, &asked, &out, progress))?;
            tell(&result.warnings);
            hand_over(&serde_json::to_string_pretty(&result)?, report.as_deref())?;
            all_written(&result.failed)?;
            let not_made = |own: &FilmReport| Some((own.path.clone(), own.failed.clone()?));
            all_made(&result.films.iter().chain(&result.with_media).filter_map(not_made).collect::<Vec<_>>())
        }
    }
}

/// Says what is to be said of single files.
fn tell(warnings: &[Warning]) {
    for Warning { path, message, .. } in warnings {
        let file = if path.is_empty() { String::new() } else { format!("{path}: ") };
        // Whoever listened may be gone.
        let _ = writeln!(std::io::stderr(), "metaxis: {file}{message}");
    }
}

/// Nothing, where all documents were written; else which were not, and why.
fn all_written(failed: &[(String, String)]) -> Result<()> {
    match failed {
        [] => Ok(()),
        [(name, why)] => anyhow::bail!("{name} was not written: {why}"),
        [(name, why), ..] => {
            anyhow::bail!("{} documents were not written; the first: {name}: {why}", failed.len())
        }
    }
}

/// Nothing, where all films and media were made; else which were not, and why.
fn all_made(failed: &[(String, String)]) -> Result<()> {
    match failed {
        [] => Ok(()),
        [(name, why)] => anyhow::bail!("{name} was not made: {why}"),
        [(name, why), ..] => anyhow::bail!("{} files were not made; the first: {name}: {why}", failed.len()),
    }
}

/// Gives a report to the file that was named, or to the standard output.
fn hand_over(json: &str, report: Option<&Path>) -> Result<()> {
    match report {
        Some(path) => {
            write_whole(path, json).with_context(|| format!("{} cannot be written", path.display()))
        }
        None => match writeln!(std::io::stdout(), "{json}") {
            // Whoever read it has read enough.
            Err(e) if e.kind() == ErrorKind::BrokenPipe => Ok(()),
            written => written.context("the report cannot be written"),
        },
    }
}

/// Serves until ctrl-C or a polite request to end.
fn serve(config: ServeConfig, take_in: Option<PathBuf>) -> Result<()> {
    tracing_subscriber::fmt()
        .with_env_filter(
            tracing_subscriber::EnvFilter::try_from_default_env().unwrap_or_else(|_| "warn".into()),
        )
        .with_writer(std::io::stderr)
        .init();
    tokio::runtime::Runtime::new()?.block_on(async move {
        use tokio::signal::unix::{SignalKind, signal};
        let mut interrupt = signal(SignalKind::interrupt())?;
        let mut terminate = signal(SignalKind::terminate())?;
        // Nobody sits at the terminal any more.
        let mut hang_up = signal(SignalKind::hangup())?;
        let server = start(config).await?;
        if let Some(why) = metaxis_media::unconfined() {
            tracing::warn!("{why}");
        }
        if let Some(folder) = take_in
            && server.app.store.stored_clips()?.is_empty()
        {
            let folder =
                folder.canonicalize().with_context(|| format!("{} is not a folder", folder.display()))?;
            let folder = server.app.config.allowed_folder(&folder).map_err(anyhow::Error::msg)?;
            server.app.store.queue(&JobKind::Intake { folder: folder.display().to_string() })?;
            server.app.wake();
        }
        println!("http://{}", server.address);
        tokio::select! {
            _ = interrupt.recv() => {}
            _ = terminate.recv() => {}
            _ = hang_up.recv() => {}
        }
        server.stop().await;
        Ok(())
    })
}

/// A progress bar on a terminal, plain lines otherwise.
fn with_progress<T>(work: impl FnOnce(&Progress) -> T) -> T {
    if std::io::stderr().is_terminal() {
        let bar = indicatif::ProgressBar::new(1);
        if let Ok(style) = indicatif::ProgressStyle::with_template("{msg} {wide_bar} {pos} of {len}") {
            bar.set_style(style);
        }
        let result = work(&|what, done, all| {
            bar.set_length(all as u64);
            bar.set_position(done as u64);
            bar.set_message(what.to_owned());
        });
        bar.finish_and_clear();
        return result;
    }
    work(&|what, done, all| {
        // Whoever listened may be gone.
        let _ = writeln!(std::io::stderr(), "{what} {done} of {all}");
    })
}

/// A file that is whole or not there: a report cut off by a full disk would be read as one.
fn write_whole(path: &Path, text: &str) -> std::io::Result<()> {
    // What is no file (a terminal, a pipe) is written to as it is.
    if path.metadata().is_ok_and(|data| !data.is_file()) {
        return std::fs::write(path, text);
    }
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty());
    let mut aside = tempfile::Builder::new()
        .permissions(Permissions::from_mode(0o644))
        .tempfile_in(folder.unwrap_or_else(|| Path::new(".")))?;
    aside.write_all(text.as_bytes())?;
    aside.persist(path)?;
    Ok(())
}
