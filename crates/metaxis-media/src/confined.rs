//! Programs that read files are started with nothing in reach but those (see `metaxis-confine`).

use std::{
    env,
    path::{Path, PathBuf},
    process::Command,
    sync::OnceLock,
};

const CONFINE: &str = "metaxis-confine";
/// Memory that a program may hold, bytes: a decoder of 8K holds a dozen pictures.
const MEMORY: u64 = 3 << 30;
/// What of the environment a program is told; the server's token is none of its business.
const TOLD: [&str; 5] = ["PATH", "LANG", "LC_ALL", "TZ", "LD_LIBRARY_PATH"];

/// A program that will read `path` and nothing else but what is in the folder `beside`, in which it is then, and write in the folder
/// `writes`. Without `metaxis-confine` beside
/// this program it runs as any other would.
pub(crate) fn confined(
    program: &str,
    path: &Path,
    beside_it: Option<&Path>,
    writes: Option<&Path>,
) -> Command {
    static FOUND: OnceLock<Option<PathBuf>> = OnceLock::new();
    let mut command = match FOUND.get_or_init(|| beside(CONFINE)) {
        Some(confine) => {
            let mut command = Command::new(confine);
            command.arg("--read").arg(path).arg("--memory").arg(MEMORY.to_string());
            if let Some(folder) = beside_it {
                command.arg("--read").arg(folder);
            }
            if let Some(folder) = writes {
                command.arg("--write").arg(folder);
            }
            command.arg(program);
            command
        }
        None => Command::new(program),
    };
    if let Some(folder) = beside_it {
        command.current_dir(folder);
    }
    bare(&mut command);
    command
}

/// Takes everything out of a program's environment that it does not need.
pub(crate) fn bare(command: &mut Command) {
    // One heap for all threads: each would have its own, mostly empty.
    command
        .env_clear()
        .env("MALLOC_ARENA_MAX", "2")
        .envs(TOLD.iter().filter_map(|name| Some((name, env::var_os(name)?))));
}

/// How far programs that read files are confined on this machine, in words; nothing where they are in full.
pub fn unconfined() -> Option<String> {
    let Some(confine) = beside(CONFINE) else {
        return Some(format!("{CONFINE} is not beside this program: what reads files is not confined"));
    };
    let said = Command::new(confine).arg("--offered").output().ok()?;
    let said = String::from_utf8_lossy(&said.stdout).trim().to_owned();
    said.contains("no").then(|| format!("this system cannot confine what reads files in full ({said})"))
}

/// A program of ours: beside the one that runs, or one folder up (where tests run).
pub(crate) fn beside(name: &str) -> Option<PathBuf> {
    let own = env::current_exe().ok()?;
    own.ancestors().skip(1).take(2).map(|folder| folder.join(name)).find(|path| path.is_file())
}
