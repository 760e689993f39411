//! Running ffmpeg and ffprobe: no shell, no standard input, killed when stopped or over time.

use crate::{MediaError, confined::confined};
use nix::fcntl::{FcntlArg, fcntl};
use std::{
    ffi::OsString,
    io::{Read, Write},
    os::{fd::AsFd, unix::process::CommandExt},
    path::{Path, PathBuf},
    process::{Child, ChildStdin, ChildStdout, Stdio},
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
pub struct Stop {
    own: Arc<AtomicBool>,
    /// What this is a part of.
    whole: Option<Arc<Stop>>,
}

impl Stop {
    /// Asks for the stop.
    pub fn stop(&self) {
        self.own.store(true, Ordering::Relaxed);
    }

    /// Whether a stop was asked for.
    pub fn is_stopped(&self) -> bool {
        self.own.load(Ordering::Relaxed) || self.whole.as_ref().is_some_and(|own| own.is_stopped())
    }

    /// That of a part of the work, which stops with all of it, or alone.
    pub(crate) fn part(&self) -> Self {
        Self { own: Arc::default(), whole: Some(Arc::new(self.clone())) }
    }
}

/// One run of a program on one file.
pub struct Tool {
    name: &'static str,
    args: Vec<OsString>,
    path: PathBuf,
    /// Folder that it reads from too, and is in.
    beside: Option<PathBuf>,
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

    /// ffmpeg, quiet, on what this program itself makes at `path` or in that folder.
    pub(crate) fn maker(path: &Path) -> Self {
        Self::new("ffmpeg", path).args(["-hide_banner", "-nostdin", "-loglevel", "error", "-y"])
    }

    fn new(name: &'static str, path: &Path) -> Self {
        Self {
            name,
            args: vec![],
            path: path.to_owned(),
            beside: None,
            writes: None,
            limit: Duration::from_secs(6 * 3600),
        }
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

    /// Lets it read what lies in a folder, by names without folders. Its other files must be named absolutely.
    pub(crate) fn beside(mut self, folder: &Path) -> Self {
        self.beside = Some(folder.to_owned());
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
        let (mut child, errors) = self.spawn(Stdio::null())?;
        let mut stdout = child.stdout.take().ok_or_else(|| self.fail("no pipes".into()))?;
        widen(&stdout);
        let guard = Guard::watch(child, stop.clone(), self.limit);
        let outcome = read(&mut stdout);
        drop(stdout);
        let ended = guard.wait();
        self.ended(ended, outcome, errors, stop)
    }

    /// Starts it with what it is fed.
    fn spawn(&self, stdin: Stdio) -> Result<(Child, JoinHandle<String>), MediaError> {
        let mut child = confined(self.name, &self.path, self.beside.as_deref(), self.writes.as_deref())
            .args(&self.args)
            // A group of its own: ctrl-C at the terminal reaches the server, which then ends its children.
            .process_group(0)
            .stdin(stdin)
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .map_err(|e| {
                self.fail(format!("cannot be started ({e}); install it with: apt-get install ffmpeg"))
            })?;
        let stderr = child.stderr.take();
        let errors = std::thread::spawn(move || {
            let mut text = vec![];
            let _ = stderr.map(|stderr| stderr.take(MAX_ERRORS).read_to_end(&mut text));
            String::from_utf8_lossy(&text).trim().to_owned()
        });
        Ok((child, errors))
    }

    fn fail(&self, detail: String) -> MediaError {
        MediaError::Tool { tool: self.name, path: self.path.clone(), detail }
    }

    /// What its end means, with what came of the work beside it.
    fn ended<T>(
        &self,
        ended: Ended,
        outcome: std::io::Result<T>,
        errors: JoinHandle<String>,
        stop: &Stop,
    ) -> Result<T, MediaError> {
        let errors = errors.join().unwrap_or_default();
        if stop.is_stopped() {
            return Err(MediaError::Stopped);
        }
        match (ended, outcome) {
            (Ended::Well, Ok(done)) => Ok(done),
            (Ended::Well, Err(e)) => Err(self.fail(e.to_string())),
            (Ended::TooLong, _) => {
                Err(self.fail(format!("took longer than {} s and was ended", self.limit.as_secs())))
            }
            (Ended::Badly, _) => Err(self.fail(last_line(&errors))),
        }
    }

    /// Starts it, to be read as it goes.
    ///
    /// # Errors
    /// [`MediaError::Tool`] where the program is missing.
    pub(crate) fn pull(self, stop: &Stop) -> Result<Pulled, MediaError> {
        let (mut child, errors) = self.spawn(Stdio::null())?;
        let stdout = child.stdout.take().ok_or_else(|| self.fail("no pipes".into()))?;
        widen(&stdout);
        let own = stop.part();
        let guard = Guard::watch(child, own.clone(), self.limit);
        Ok(Pulled { tool: self, stdout, guard: Some(guard), errors: Some(errors), stop: stop.clone(), own })
    }

    /// Starts it, to be fed as it goes; its standard output is kept, at most `most` bytes of it.
    ///
    /// # Errors
    /// [`MediaError::Tool`] where the program is missing.
    pub(crate) fn feed(self, most: u64, stop: &Stop) -> Result<Fed, MediaError> {
        let (mut child, errors) = self.spawn(Stdio::piped())?;
        let (stdin, stdout) = (child.stdin.take(), child.stdout.take());
        if let Some(stdin) = &stdin {
            widen(stdin);
        }
        let output = std::thread::spawn(move || {
            let mut out = vec![];
            let read = stdout.map_or(Ok(0), |stdout| stdout.take(most).read_to_end(&mut out));
            read.map(|_| out)
        });
        // Who lets it go before its end wants nothing of it any more.
        let own = stop.part();
        let guard = Guard::watch(child, own.clone(), self.limit);
        Ok(Fed {
            tool: self,
            stdin,
            guard: Some(guard),
            output: Some(output),
            errors: Some(errors),
            stop: stop.clone(),
            own,
        })
    }
}

/// A program that is read as it goes. Dropped before its end, it is ended.
pub(crate) struct Pulled {
    tool: Tool,
    stdout: ChildStdout,
    guard: Option<Guard>,
    errors: Option<JoinHandle<String>>,
    stop: Stop,
    own: Stop,
}

impl Pulled {
    /// What ends it from another thread.
    pub(crate) fn ender(&self) -> Stop {
        self.own.clone()
    }

    /// Fills `out`; false where it has ended before there was so much.
    ///
    /// # Errors
    /// [`MediaError::Tool`] in its own last words where it ended badly, [`MediaError::Stopped`].
    pub(crate) fn fill(&mut self, out: &mut [u8]) -> Result<bool, MediaError> {
        let read = self.stdout.read_exact(out);
        let outcome = match read {
            Ok(()) => return Ok(true),
            Err(e) if e.kind() == std::io::ErrorKind::UnexpectedEof => Ok(false),
            Err(e) => Err(e),
        };
        let (Some(guard), Some(errors)) = (self.guard.take(), self.errors.take()) else { return Ok(false) };
        self.tool.ended(guard.wait(), outcome, errors, &self.stop)
    }
}

impl Drop for Pulled {
    fn drop(&mut self) {
        self.own.stop();
        if let Some(guard) = self.guard.take() {
            guard.wait();
        }
    }
}

/// A program that is fed as it goes. Dropped before its end, it is ended.
pub(crate) struct Fed {
    tool: Tool,
    stdin: Option<ChildStdin>,
    guard: Option<Guard>,
    output: Option<JoinHandle<std::io::Result<Vec<u8>>>>,
    errors: Option<JoinHandle<String>>,
    stop: Stop,
    own: Stop,
}

impl Fed {
    /// Feeds it.
    ///
    /// # Errors
    /// [`MediaError::Tool`] in its own last words where it takes no more, [`MediaError::Stopped`].
    pub(crate) fn write(&mut self, bytes: &[u8]) -> Result<(), MediaError> {
        let taken = self.stdin.as_mut().map_or(Ok(()), |stdin| stdin.write_all(bytes));
        match taken {
            Ok(()) => Ok(()),
            // Why it takes no more, it says at its end.
            Err(e) => self.end().and_then(|_| Err(self.tool.fail(e.to_string()))),
        }
    }

    /// Waits for its end and returns its standard output.
    ///
    /// # Errors
    /// As [`Fed::write`].
    pub(crate) fn finish(mut self) -> Result<Vec<u8>, MediaError> {
        self.end()
    }

    fn end(&mut self) -> Result<Vec<u8>, MediaError> {
        self.stdin = None;
        let (Some(guard), Some(output), Some(errors)) =
            (self.guard.take(), self.output.take(), self.errors.take())
        else {
            return Err(self.tool.fail("it ended before".into()));
        };
        let outcome = output.join().unwrap_or_else(|_| Err(std::io::Error::other("its output is lost")));
        self.tool.ended(guard.wait(), outcome, errors, &self.stop)
    }
}

impl Drop for Fed {
    fn drop(&mut self) {
        self.own.stop();
        if let Some(guard) = self.guard.take() {
            guard.wait();
        }
    }
}

/// A wide pipe: the program and its reader, or its feeder, change places less often. Where it is refused, the usual one does.
pub(crate) fn widen(pipe: impl AsFd) {
    let _ = fcntl(pipe, FcntlArg::F_SETPIPE_SZ(PIPE_BYTES));
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
