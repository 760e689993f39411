//! Memory of a server and of the programs it starts, as the kernel counts it.

use std::{
    fs,
    sync::{
        Arc, Mutex, PoisonError,
        atomic::{AtomicBool, Ordering},
    },
    thread::JoinHandle,
    time::Duration,
};

/// The most that was held at any look, MiB.
#[derive(Debug, Clone, Copy, Default)]
pub struct Peak {
    /// By the server.
    pub server: f64,
    /// By one program that it started.
    pub child: f64,
    /// By all of them together at one moment.
    pub all: f64,
}

/// Looks at a process and its children until it is dropped.
pub(crate) struct Watch {
    ended: Arc<AtomicBool>,
    peak: Arc<Mutex<Peak>>,
    thread: Option<JoinHandle<()>>,
}

impl Watch {
    pub(crate) fn on(id: u32) -> Self {
        let (ended, peak) = (Arc::new(AtomicBool::new(false)), Arc::new(Mutex::new(Peak::default())));
        let (until, kept) = (ended.clone(), peak.clone());
        let thread = std::thread::spawn(move || {
            while !until.load(Ordering::Relaxed) {
                look(id, &mut kept.lock().unwrap_or_else(PoisonError::into_inner));
                std::thread::sleep(Duration::from_millis(20));
            }
        });
        Self { ended, peak, thread: Some(thread) }
    }

    pub(crate) fn peak(mut self) -> Peak {
        self.ended.store(true, Ordering::Relaxed);
        if let Some(thread) = self.thread.take() {
            let _ = thread.join();
        }
        *self.peak.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

/// What a process holds now, MiB.
pub(crate) fn held(id: u32) -> f64 {
    let text = fs::read_to_string(format!("/proc/{id}/status")).unwrap_or_default();
    value(&text, "VmRSS").unwrap_or(0.0) / 1024.0
}

/// A number of a process's status.
fn value(text: &str, name: &str) -> Option<f64> {
    let line = text.lines().find_map(|line| line.strip_prefix(name)?.strip_prefix(':'))?;
    line.split_whitespace().next()?.parse().ok()
}

fn look(id: u32, peak: &mut Peak) {
    let mut all = 0.0;
    for entry in fs::read_dir("/proc").into_iter().flatten().flatten() {
        let Some(own) = entry.file_name().to_str().and_then(|name| name.parse::<u32>().ok()) else {
            continue;
        };
        let Ok(text) = fs::read_to_string(entry.path().join("status")) else { continue };
        let value = |name: &str| value(&text, name);
        let is_child = value("PPid") == Some(f64::from(id));
        if own != id && !is_child {
            continue;
        }
        all += value("VmRSS").unwrap_or(0.0) / 1024.0;
        let most = value("VmHWM").unwrap_or(0.0) / 1024.0;
        let kept = if is_child { &mut peak.child } else { &mut peak.server };
        *kept = kept.max(most);
    }
    peak.all = peak.all.max(all);
}
