//! How much memory a program holds.

use anyhow::{Result, ensure};
use std::{path::PathBuf, process::Child, time::Duration};

/// Waits for the program; the most memory it held, as the kernel counts it, MiB.
///
/// # Errors
/// Where it fails.
pub fn watch(mut child: Child) -> Result<f64> {
    let status = PathBuf::from(format!("/proc/{}/status", child.id()));
    let mut peak_kib = 0.0_f64;
    loop {
        let text = std::fs::read_to_string(&status).unwrap_or_default();
        let held = text.lines().find_map(|line| line.strip_prefix("VmHWM:"));
        let kib = held.and_then(|held| held.trim().strip_suffix(" kB")?.parse::<f64>().ok());
        peak_kib = peak_kib.max(kib.unwrap_or(0.0));
        if let Some(status) = child.try_wait()? {
            ensure!(status.success(), "metaxis ended with {status}");
            return Ok(peak_kib / 1024.0);
        }
        std::thread::sleep(Duration::from_millis(10));
    }
}
