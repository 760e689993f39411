//! Bounds for programs that read files nobody vouches for. A fault in a decoder then reaches the file that has it, and
//! nothing else: no other file, no network, no other program, so much memory and no more.
//!
//! Files by Landlock, the rest by seccomp and resource limits, as far as the kernel has them; [`offered`] says how far.
//! What is set holds for the calling process, for the threads it starts from then on, and for what it turns into.

mod calls;
mod files;

use anyhow::{Context, Result};
use nix::sys::resource::{Resource, setrlimit};
use std::path::PathBuf;

/// What a process may still do.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Bounds {
    /// Files it may read, and folders in which it may read all.
    pub read: Vec<PathBuf>,
    /// Folders in which it may make and write files.
    pub write: Vec<PathBuf>,
    /// The program that it is about to turn into, where it is.
    pub program: Option<PathBuf>,
    /// Bytes of memory it may hold; no limit where 0.
    pub memory: u64,
}

/// What the kernel offers.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Offered {
    /// Files can be put out of reach.
    pub files: bool,
    /// System calls can be refused.
    pub calls: bool,
}

/// Most files open at a time.
const OPEN_FILES: u64 = 256;

/// Confines the calling process. Parts that the kernel does not have are left out.
///
/// # Errors
/// Bounds that name what is not there, or that the kernel has and refuses.
pub fn confine(bounds: &Bounds) -> Result<()> {
    setrlimit(Resource::RLIMIT_CORE, 0, 0).context("core files cannot be forbidden")?;
    setrlimit(Resource::RLIMIT_NOFILE, OPEN_FILES, OPEN_FILES).context("open files cannot be limited")?;
    if bounds.memory > 0 {
        // What is written to counts, not what is only reserved.
        setrlimit(Resource::RLIMIT_DATA, bounds.memory, bounds.memory).context("memory cannot be limited")?;
    }
    files::confine(bounds).context("files cannot be put out of reach")?;
    if calls::are_offered() {
        calls::confine(bounds.program.is_some()).context("system calls cannot be refused")?;
    }
    Ok(())
}

/// What the kernel of this machine offers.
pub fn offered() -> Offered {
    Offered { files: files::are_offered(), calls: calls::are_offered() }
}
