//! Commands of the system, for disks.

use anyhow::{Result, ensure};
use std::process::{Command, Stdio};

/// Runs a command to its end.
pub(crate) fn run(command: &mut Command) -> Result<()> {
    let done = command.stdout(Stdio::null()).stderr(Stdio::piped()).output()?;
    ensure!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr).trim());
    Ok(())
}
