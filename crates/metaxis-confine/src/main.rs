//! `metaxis-confine [--read PATH]... [--write FOLDER]... [--memory BYTES] PROGRAM [ARGUMENT]...`: turns into a program
//! that has nothing in reach but what is named. `metaxis-confine --offered` says what this machine's kernel has for it.

use anyhow::{Context, Result, bail};
use metaxis_confine::{Bounds, confine, offered};
use std::{
    env,
    ffi::{OsStr, OsString},
    os::unix::process::CommandExt,
    path::{Path, PathBuf},
    process::{Command, ExitCode},
};

fn main() -> ExitCode {
    match run() {
        Ok(()) => ExitCode::SUCCESS,
        Err(e) => {
            eprintln!("metaxis-confine: {e:#}");
            ExitCode::from(126)
        }
    }
}

fn run() -> Result<()> {
    let (mut args, mut bounds) = (env::args_os().skip(1), Bounds::default());
    let program = loop {
        let Some(arg) = args.next() else { bail!("name the program to run") };
        let mut value = || args.next().with_context(|| format!("{} needs a value", arg.to_string_lossy()));
        match arg.to_str() {
            Some("--read") => bounds.read.push(value()?.into()),
            Some("--write") => bounds.write.push(value()?.into()),
            Some("--memory") => {
                bounds.memory =
                    value()?.to_str().and_then(|n| n.parse().ok()).context("--memory needs bytes")?;
            }
            Some("--offered") => {
                let has = |has| if has { "yes" } else { "no" };
                println!("files {}, calls {}", has(offered().files), has(offered().calls));
                return Ok(());
            }
            _ => break arg,
        }
    };
    let path = found(&program).with_context(|| format!("{} is not installed", program.to_string_lossy()))?;
    let path = path.canonicalize().unwrap_or(path);
    bounds.program = Some(path.clone());
    confine(&bounds)?;
    let rest: Vec<OsString> = args.collect();
    Err(Command::new(&path).arg0(&program).args(rest).exec())
        .with_context(|| format!("{} cannot be run", path.display()))
}

/// A program by its path, or by its name where the system looks for programs.
fn found(program: &OsStr) -> Option<PathBuf> {
    if Path::new(program).components().count() > 1 {
        return Some(program.into());
    }
    let folders = env::var_os("PATH")?;
    env::split_paths(&folders).map(|folder| folder.join(program)).find(|path| path.is_file())
}
