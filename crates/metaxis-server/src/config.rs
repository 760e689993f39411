//! What a server is started with.

use std::{
    collections::HashSet,
    net::SocketAddr,
    path::{Path, PathBuf},
    time::Duration,
};
use thiserror::Error;

/// How much disk a server may take for what it makes itself, and how long it waits.
#[derive(Debug, Clone, Copy)]
pub struct Limits {
    /// Bytes that derived files are kept within, as far as light copies can be dropped.
    pub cache_bytes: u64,
    /// Bytes of all files uploaded from the page.
    pub upload_bytes: u64,
    /// Longest until the head of a request has come, also on a connection on which nothing comes, and longest pause in
    /// its body.
    pub silence: Duration,
}

impl Default for Limits {
    fn default() -> Self {
        Self { cache_bytes: 100_000_000_000, upload_bytes: 20_000_000_000, silence: Duration::from_secs(20) }
    }
}

/// Settings of one server.
#[derive(Debug, Clone)]
pub struct ServeConfig {
    /// Address to listen on.
    pub address: SocketAddr,
    /// Folder of the production file and the cache.
    pub data: PathBuf,
    /// Folders below which media may be taken in.
    pub roots: Vec<PathBuf>,
    /// Folders below which files may be written, beside the one of the production.
    pub out: Vec<PathBuf>,
    /// Access token; needed to listen anywhere but on this machine.
    pub token: Option<String>,
    /// Name and day for a production that has none yet.
    pub production: Option<(String, String)>,
    /// Limits.
    pub limits: Limits,
}

/// Why a configuration is refused.
#[derive(Debug, Error)]
pub enum ConfigError {
    /// Open to the network without a token.
    #[error(
        "refusing to listen on {0}: other machines could reach it. Give an access token with --token, or use 127.0.0.1"
    )]
    OpenWithoutToken(SocketAddr),
    /// A token that can be guessed, or cannot stand in a link.
    #[error(
        "the access token must have at least 16 letters, digits and - . _ ~, eight of them different: it stands in a link"
    )]
    WeakToken,
    /// A root that is no folder.
    #[error("{0} is not a folder; folders that media comes from or files go to must be there")]
    Root(PathBuf),
}

fn is_weak(token: &str) -> bool {
    let plain = |sign: char| sign.is_ascii_alphanumeric() || "-._~".contains(sign);
    token.len() < 16 || !token.chars().all(plain) || token.chars().collect::<HashSet<_>>().len() < 8
}

impl ServeConfig {
    /// Checks the settings and resolves the roots.
    ///
    /// # Errors
    /// A [`ConfigError`].
    pub fn checked(mut self) -> Result<Self, ConfigError> {
        match &self.token {
            None if !self.address.ip().is_loopback() => {
                return Err(ConfigError::OpenWithoutToken(self.address));
            }
            Some(token) if is_weak(token) => return Err(ConfigError::WeakToken),
            _ => {}
        }
        for root in self.roots.iter_mut().chain(&mut self.out) {
            *root = root
                .canonicalize()
                .ok()
                .filter(|path| path.is_dir())
                .ok_or_else(|| ConfigError::Root(root.clone()))?;
        }
        Ok(self)
    }

    /// The folder at `path`, where files may be written there; it need not be there yet.
    ///
    /// # Errors
    /// A sentence for the person who asked.
    pub fn writable_folder(&self, path: &str) -> Result<PathBuf, String> {
        let path = PathBuf::from(path);
        let is_plain = |part: std::path::Component| {
            matches!(part, std::path::Component::Normal(_) | std::path::Component::RootDir)
        };
        let outside = || {
            let shown = path.display();
            format!(
                "{shown} is outside the folders that files may go to; the server is told of those with --out"
            )
        };
        let is_inside = |path: &Path| self.out.iter().any(|root| path.starts_with(root));
        if !path.is_absolute() || !path.components().all(is_plain) || !is_inside(&path) {
            return Err(outside());
        }
        // What is there already may be a link to elsewhere.
        let there = path.ancestors().find_map(|folder| folder.canonicalize().ok());
        if there.is_some_and(|there| is_inside(&there)) { Ok(path) } else { Err(outside()) }
    }

    /// The folder at `path`, where it lies below an allowed root once every link and `..` is resolved.
    ///
    /// # Errors
    /// A sentence for the person who asked.
    pub fn allowed_folder(&self, path: &Path) -> Result<PathBuf, String> {
        let shown = path.display();
        if path.components().any(|part| part == std::path::Component::ParentDir) {
            return Err(format!("{shown}: a path with “..” is not taken; give the folder's full path"));
        }
        if !path.is_absolute() {
            return Err(format!("{shown}: give the folder's full path, from / on"));
        }
        let outside = || {
            format!("{shown} is outside the folders that media may come from; those are listed on the left")
        };
        // Checked before and after resolving: what lies outside is not even looked at.
        if !self.roots.iter().any(|root| path.starts_with(root)) {
            return Err(outside());
        }
        let resolved = path.canonicalize().map_err(|_| format!("{shown}: there is no such folder"))?;
        if !self.roots.iter().any(|root| resolved.starts_with(root)) {
            return Err(outside());
        }
        if !resolved.is_dir() {
            return Err(format!("{shown} is not a folder"));
        }
        Ok(resolved)
    }
}
