//! Running ffmpeg and ffprobe: no shell, no standard input, killed when stopped or over time.

use crate::{MediaError, confined::confined};
use nix::fcntl::{FcntlArg, fcntl};
use std::{
    ffi::OsString,
    io::Read,
    os::unix::process::CommandExt,
    path::{Path, PathBuf},
    process::{Child, ChildStdout, Stdio},
    sync::{
        Arc,
        atomic::{AtomicBool, Ordering},
        mpsc::{self, RecvTimeoutError},
    },
    thread::JoinHandle,
    time::{Duration, Instant},
};

/// A flag that stops work; clones share it.
#[derive(Debug, Clone, Default)]
pub struct Stop(Arc<AtomicBool>);

impl Stop {
    /// Asks for the stop.
    pub fn stop(&self) {
        self.0.store(true, Ordering::Relaxed);
    }

    /// Whether a stop was asked for.
    pub fn is_stopped(&self) -> bool {
        self.0.load(Ordering::Relaxed)
    }
}

/// One run of a program on one file.
pub struct Tool {
    name: &'static str,
    args: Vec<OsString>,
    path: PathBuf,
    /// Folder that it writes to.
    writes: Option<PathBuf>,
    limit: Duration,
}

/// Containers that hold their own sound and pictures. The reader has the same list.
const CONTAINERS: &str =
    "mov,matroska,webm,mxf,mpegts,mpeg,avi,wav,w64,flac,mp3,aac,aiff,caf,ogg,png_pipe,jpeg_pipe";

/// What is opened is one file: playlists and descriptions, which lead to other files of the machine or of the network, are
/// refused whatever their names.
fn own_file_only(path: &Path) -> [String; 4] {
    // Single pictures; a name with a percent sign would be taken for a row of them.
    let stills = if path.as_os_str().as_encoded_bytes().contains(&b'%') { "" } else { ",image2" };
    let containers = format!("{CONTAINERS}{stills}");
    ["-format_whitelist".into(), containers, "-protocol_whitelist".into(), "file".into()]
}

/// Bytes that a program may be ahead of its reader.
const PIPE_BYTES: i32 = 1 << 20;
/// The most bytes kept of a program's error output.
const MAX_ERRORS: u64 = 64 * 1024;

impl Tool {
    /// ffmpeg, quiet, on `path` (named in errors).
    pub fn ffmpeg(path: &Path) -> Self {
        Self::new("ffmpeg", path)
            .args(["-hide_banner", "-nostdin", "-loglevel", "error", "-y"])
            .args(own_file_only(path))
    }

    /// ffprobe, quiet, on `path`.
    pub fn ffprobe(path: &Path) -> Self {
        Self::new("ffprobe", path).args(["-hide_banner", "-loglevel", "error"]).args(own_file_only(path))
    }

    fn new(name: &'static str, path: &Path) -> Self {
        Self { name, args: vec![], path: path.to_owned(), writes: None, limit: Duration::from_secs(6 * 3600) }
    }

    /// Adds arguments.
    pub fn args<I, A>(mut self, args: I) -> Self
    where
        I: IntoIterator<Item = A>,
        A: Into<OsString>,
    {
        self.args.extend(args.into_iter().map(Into::into));
        self
    }

    /// Adds a file name so that no name can be taken for an option or another protocol.
    pub fn file(mut self, path: &Path) -> Self {
        let mut name = OsString::from("file:");
        name.push(path);
        self.args.push(name);
        self
    }

    /// Adds the file that it writes.
    pub fn into_file(mut self, path: &Path) -> Self {
        self.writes = path.parent().map(Path::to_owned);
        self.file(path)
    }

    /// Longest run.
    pub fn within(mut self, limit: Duration) -> Self {
        self.limit = limit;
        self
    }

    /// Runs to the end and returns the standard output, at most `most` bytes of it.
    ///
    /// # Errors
    /// [`MediaError::Tool`] where the program fails or is missing, [`MediaError::Stopped`].
    pub fn output(self, most: u64, stop: &Stop) -> Result<Vec<u8>, MediaError> {
        let mut out = vec![];
        self.stream(stop, |stdout| stdout.take(most).read_to_end(&mut out).map(|_| ()))?;
        Ok(out)
    }

    /// Runs and hands the standard output to `read` as it comes.
    ///
    /// # Errors
    /// As [`Tool::output`].
    pub fn stream(
        self,
        stop: &Stop,
        read: impl FnOnce(&mut ChildStdout) -> std::io::Result<()>,
    ) -> Result<(), MediaError> {
        let fail = |detail: String| MediaError::Tool { tool: self.name, path: self.path.clone(), detail };
        let mut child = confined(self.name, &self.path, self.writes.as_deref())
            .args(&self.args)
            // A group of its own: ctrl-C at the terminal reaches the server, which then ends its children.
            .process_group(0)
            .stdin(Stdio::null())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .map_err(|e| fail(format!("cannot be started ({e}); install it with: apt-get install ffmpeg")))?;
        let (Some(mut stdout), Some(stderr)) = (child.stdout.take(), child.stderr.take()) else {
            return Err(fail("no pipes".into()));
        };
        widen(&stdout);
        let errors = std::thread::spawn(move || {
            let mut text = vec![];
            let _ = stderr.take(MAX_ERRORS).read_to_end(&mut text);
            String::from_utf8_lossy(&text).trim().to_owned()
        });
        let guard = Guard::watch(child, stop.clone(), self.limit);
        let outcome = read(&mut stdout);
        drop(stdout);
        let ended = guard.wait();
        let errors = errors.join().unwrap_or_default();
        if stop.is_stopped() {
            return Err(MediaError::Stopped);
        }
        match (ended, outcome) {
            (Ended::Well, Ok(())) => Ok(()),
            (Ended::Well, Err(e)) => Err(fail(e.to_string())),
            (Ended::TooLong, _) => {
                Err(fail(format!("took longer than {} s and was ended", self.limit.as_secs())))
            }
            (Ended::Badly, _) => Err(fail(last_line(&errors))),
        }
    }
}

/// A wide pipe: the program and its reader change places less often. Where it is refused, the usual one does.
pub(crate) fn widen(stdout: &ChildStdout) {
    let _ = fcntl(stdout, FcntlArg::F_SETPIPE_SZ(PIPE_BYTES));
}

fn last_line(text: &str) -> String {
    let line = text.lines().last().unwrap_or("no message");
    line.chars().take(300).collect()
}

enum Ended {
    Well,
    Badly,
    TooLong,
}

/// A thread that ends the child when asked or when its time is up.
struct Guard {
    thread: JoinHandle<Ended>,
    /// Says that the output has ended, and with it most likely the child.
    output_ended: mpsc::Sender<()>,
}

impl Guard {
    fn watch(mut child: Child, stop: Stop, limit: Duration) -> Self {
        let since = Instant::now();
        let (output_ended, at_end) = mpsc::channel();
        let thread = std::thread::spawn(move || {
            let mut pause = Duration::from_millis(50);
            loop {
                match child.try_wait() {
                    Ok(Some(status)) if status.success() => return Ended::Well,
                    Ok(Some(_)) | Err(_) => return Ended::Badly,
                    Ok(None) => {}
                }
                let late = since.elapsed() > limit;
                if late || stop.is_stopped() {
                    let _ = child.kill();
                    let _ = child.wait();
                    return if late { Ended::TooLong } else { Ended::Badly };
                }
                match at_end.recv_timeout(pause) {
                    Err(RecvTimeoutError::Timeout) => pause = (pause * 2).min(Duration::from_millis(50)),
                    Ok(()) => pause = Duration::from_micros(200),
                    Err(RecvTimeoutError::Disconnected) => std::thread::sleep(pause),
                }
            }
        });
        Self { thread, output_ended }
    }

    fn wait(self) -> Ended {
        let _ = self.output_ended.send(());
        self.thread.join().unwrap_or(Ended::Badly)
    }
}
