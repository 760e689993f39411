//! Programs that are neither ffmpeg nor ffprobe: waited for, and ended where they take too long.

use crate::Stop;
use nix::{
    sys::signal::{Signal, killpg},
    unistd::Pid,
};
use std::{
    io,
    os::unix::process::CommandExt,
    process::{Command, ExitStatus},
    thread::sleep,
    time::{Duration, Instant},
};

const PAUSE: Duration = Duration::from_millis(20);

/// Runs a program, with all that it starts, to its end; `None` where it was ended, since it was stopped or took longer than `limit`.
/// What it says goes where `command` has it go, which is no pipe: nobody reads it meanwhile.
///
/// # Errors
/// It cannot be started, or waited for.
pub fn run_to_end(command: &mut Command, limit: Duration, stop: &Stop) -> io::Result<Option<ExitStatus>> {
    let mut child = command.process_group(0).spawn()?;
    let since = Instant::now();
    let status = loop {
        if let Some(status) = child.try_wait()? {
            break Some(status);
        }
        if stop.is_stopped() || since.elapsed() > limit {
            break None;
        }
        sleep(PAUSE);
    };
    let _ = killpg(Pid::from_raw(child.id().cast_signed()), Signal::SIGKILL);
    if status.is_none() {
        child.wait()?;
    }
    Ok(status)
}
