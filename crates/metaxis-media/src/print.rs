//! Pages printed as PDF, by a browser of this machine without a window, where there is one.

use crate::{MediaError, Stop, run_to_end};
use nix::unistd::geteuid;
use std::{
    env, fs, io,
    path::{Path, PathBuf},
    process::{Command, Stdio},
    sync::{Mutex, PoisonError},
    time::Duration,
};

/// What the browser's program is called.
const CALLED: [&str; 2] = ["chromium", "chromium-browser"];
/// A page of hundreds of pictures takes some seconds.
const LIMIT: Duration = Duration::from_secs(180);
/// One page at a time.
static ONE: Mutex<()> = Mutex::new(());

/// The program that pages are printed with, where this machine has one.
pub fn printer() -> Option<PathBuf> {
    let path = env::var_os("PATH")?;
    let all = env::split_paths(&path).flat_map(|folder| CALLED.map(|name| folder.join(name)));
    all.into_iter().find(|own| own.is_file())
}

/// A page as PDF. It has to hold all that it shows: nothing is fetched from anywhere. `name` is what errors call it.
///
/// # Errors
/// [`MediaError::Tool`] where there is no program for it or it does not do it, [`MediaError::Stopped`].
pub fn printed(page: &[u8], name: &Path, stop: &Stop) -> Result<Vec<u8>, MediaError> {
    let failed = |detail: String| MediaError::Tool { tool: "the browser", path: name.to_owned(), detail };
    let program = printer().ok_or_else(|| {
        failed(format!("{} is not installed; install it, or print the page yourself", CALLED[0]))
    })?;
    let on_disk = |e: io::Error| failed(format!("{e}; check the disk of temporary files"));
    let folder = tempfile::tempdir().map_err(on_disk)?;
    let [own, out] = ["page.html", "page.pdf"].map(|name| folder.path().join(name));
    fs::write(&own, page).map_err(on_disk)?;
    // Each of them is a browser of its own.
    let _turn = ONE.lock().unwrap_or_else(PoisonError::into_inner);
    match run_to_end(&mut printing(&program, folder.path(), &own, &out), LIMIT, stop) {
        Ok(Some(status)) if status.success() => {
            fs::read(&out).map_err(|_| failed("nothing came of it".into()))
        }
        Ok(Some(status)) => Err(failed(format!("it ended with {status}"))),
        Ok(None) if stop.is_stopped() => Err(MediaError::Stopped),
        Ok(None) => Err(failed(format!("it was not done after {} s", LIMIT.as_secs()))),
        Err(e) => Err(failed(e.to_string())),
    }
}

fn printing(program: &Path, folder: &Path, page: &Path, out: &Path) -> Command {
    let mut command = Command::new(program);
    command.args([
        "--headless=new",
        "--disable-gpu",
        "--disable-quic",
        "--disable-extensions",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
        "--no-first-run",
        "--no-pdf-header-footer",
        // Whatever is in the page, nothing is asked of a net.
        "--host-resolver-rules=MAP * ~NOTFOUND",
    ]);
    if geteuid().is_root() {
        // Its own confinement needs a user of its own.
        command.arg("--no-sandbox");
    }
    let with = |name: &str, path: &Path| {
        let mut own = std::ffi::OsString::from(name);
        own.push(path);
        own
    };
    command
        .arg(with("--user-data-dir=", &folder.join("profile")))
        .arg(with("--print-to-pdf=", out))
        .arg(with("file://", page))
        .current_dir(folder)
        .env("HOME", folder)
        .stdin(Stdio::null())
        .stdout(Stdio::null())
        .stderr(Stdio::null());
    command
}
