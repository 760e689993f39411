//! Asking `metaxis-reader`, which reads files one after the other without a program being started for each.
//!
//! It is a process of its own: a file that brings it down, or keeps it busy for ever, costs that process and nothing
//! else. Whatever it refuses is left to ffmpeg and ffprobe, which also know how to say what is wrong.

use crate::{
    MediaError, Stop,
    confined::{bare, beside},
};
use metaxis_core::clip::SoundFacts;
use nix::poll::{PollFd, PollFlags, PollTimeout, poll};
use serde::Serialize;
use std::{
    io::{self, Read, Write},
    os::{fd::AsFd, unix::process::CommandExt},
    path::{Path, PathBuf},
    process::{Child, ChildStdin, ChildStdout, Command, Stdio},
    sync::{Mutex, OnceLock, PoisonError},
    time::{Duration, Instant},
};

/// The program's file name; `METAXIS_READER` names another, or none where it is empty.
const PROGRAM: &str = "metaxis-reader";
const VARIABLE: &str = "METAXIS_READER";
/// Longest silence before a reader is given up.
const SILENCE: Duration = Duration::from_secs(60);
/// How often a stop is looked for.
const PAUSE_MS: u16 = 50;
/// Longest message, bytes.
const LONGEST: usize = 16 << 20;

#[derive(Serialize)]
#[serde(tag = "want", rename_all = "snake_case")]
enum Request<'a> {
    Facts { path: &'a str },
    Sound { path: &'a str, stream: u32, channels: u32, rate: u32, from: u64 },
}

impl Request<'_> {
    fn path(&self) -> &Path {
        match self {
            Self::Facts { path } | Self::Sound { path, .. } => Path::new(path),
        }
    }
}

/// What became of a request.
#[derive(Debug)]
pub(crate) enum Answer {
    /// It was answered to the end.
    Whole,
    /// It was refused, or nobody is there to ask: to be asked of ffmpeg. Nothing was handed on, or all of that is to
    /// be forgotten.
    Refused,
}

/// What is told of a sound, piece by piece.
pub(crate) enum Piece<'a> {
    /// Interleaved 32-bit floats, whole frames.
    Samples(&'a [u8]),
    /// So many samples a channel that are damaged or missing; silence belongs there.
    Lost(u64),
}

/// What a file says of itself, as ffprobe's JSON; `None` where ffprobe is to be asked.
///
/// # Errors
/// [`MediaError::Stopped`].
pub(crate) fn facts(path: &Path, stop: &Stop) -> Result<Option<Vec<u8>>, MediaError> {
    let Some(name) = path.to_str() else { return Ok(None) };
    let mut json = vec![];
    let answer = ask(&Request::Facts { path: name }, stop, |piece| {
        if let Piece::Samples(part) = piece {
            json.extend_from_slice(part);
        }
        Ok(())
    })?;
    Ok(matches!(answer, Answer::Whole).then_some(json))
}

/// Hands the sound of a file of one sound stream, from sample `from` on, to `hear`. Where it is refused on the way, what was heard so far is to be
/// forgotten.
///
/// # Errors
/// [`MediaError::Stopped`], or what `hear` said.
pub(crate) fn sound(
    path: &Path,
    facts: &SoundFacts,
    from: u64,
    stop: &Stop,
    mut hear: impl FnMut(Piece) -> Result<(), MediaError>,
) -> Result<Answer, MediaError> {
    let stream = match &facts.streams[..] {
        [] => 0,
        [only] => only.index,
        _ => return Ok(Answer::Refused), // several streams become one: ffmpeg's filters do that
    };
    let Some(name) = path.to_str() else { return Ok(Answer::Refused) };
    // A file may say anything of its times: nothing is missing behind the end that it has.
    let most = (facts.duration_s * f64::from(facts.rate.0)).max(0.0) as u64;
    let frame = 4 * facts.channels.max(1) as usize;
    let mut so_far = from;
    ask(
        &Request::Sound { path: name, stream, channels: facts.channels, rate: facts.rate.0, from },
        stop,
        |piece| match piece {
            Piece::Samples(bytes) => {
                so_far += (bytes.len() / frame) as u64;
                hear(piece)
            }
            Piece::Lost(count) if count <= most.saturating_sub(so_far) => {
                so_far += count;
                hear(piece)
            }
            Piece::Lost(_) => Ok(()),
        },
    )
}

/// Readers that wait for work, the longest waiting first. Each has one folder in reach.
static IDLE: Mutex<Vec<Reader>> = Mutex::new(vec![]);
/// So many may wait; cards with a folder for each clip would leave one behind for each.
const MOST_IDLE: usize = 8;

fn idle(folder: &Path) -> Option<Reader> {
    let mut idle = IDLE.lock().unwrap_or_else(PoisonError::into_inner);
    let at = idle.iter().rposition(|reader| reader.folder == folder)?;
    Some(idle.remove(at))
}

fn rest(reader: Reader) {
    let mut idle = IDLE.lock().unwrap_or_else(PoisonError::into_inner);
    idle.push(reader);
    let gone = (idle.len() > MOST_IDLE).then(|| idle.remove(0));
    drop(idle);
    // Waits for it to end, which nobody else has to.
    drop(gone);
}

fn ask(
    request: &Request,
    stop: &Stop,
    mut each: impl FnMut(Piece) -> Result<(), MediaError>,
) -> Result<Answer, MediaError> {
    let Some(folder) = request.path().parent() else { return Ok(Answer::Refused) };
    let Some(mut reader) = idle(folder).or_else(|| Reader::start(folder)) else {
        return Ok(Answer::Refused);
    };
    let mut line = serde_json::to_vec(request).unwrap_or_default();
    line.push(b'\n');
    if reader.input.write_all(&line).is_err() {
        return Ok(Answer::Refused);
    }
    loop {
        // A reader that is dropped is ended: only those that answered to the end are kept.
        match reader.next(stop) {
            Ok(Message::Part(piece)) => each(piece)?,
            Ok(Message::Last { refused }) => {
                rest(reader);
                return Ok(if refused { Answer::Refused } else { Answer::Whole });
            }
            Err(_) if stop.is_stopped() => return Err(MediaError::Stopped),
            Err(_) => return Ok(Answer::Refused),
        }
    }
}

enum Message<'a> {
    Part(Piece<'a>),
    Last { refused: bool },
}

/// A running program.
struct Reader {
    folder: PathBuf,
    child: Child,
    input: ChildStdin,
    output: ChildStdout,
    message: Vec<u8>,
}

impl Reader {
    fn start(folder: &Path) -> Option<Self> {
        static FOUND: OnceLock<Option<PathBuf>> = OnceLock::new();
        let mut command = Command::new(FOUND.get_or_init(program).as_ref()?);
        bare(&mut command);
        let mut child = command
            .arg(folder)
            // A group of its own, as every child: ctrl-C is the server's business. It ends when its input does.
            .process_group(0)
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .ok()?;
        let (input, output) = (child.stdin.take()?, child.stdout.take()?);
        crate::tool::widen(&output);
        Some(Self { folder: folder.to_owned(), child, input, output, message: vec![] })
    }

    fn next(&mut self, stop: &Stop) -> io::Result<Message<'_>> {
        let mut head = [0; 5];
        self.fill(&mut head, stop)?;
        let [what, length @ ..] = head;
        let length = u32::from_le_bytes(length) as usize;
        if length > LONGEST {
            return Err(io::ErrorKind::InvalidData.into());
        }
        let mut message = std::mem::take(&mut self.message);
        message.resize(length, 0);
        let filled = self.fill(&mut message, stop);
        self.message = message;
        filled?;
        match what {
            b'+' => Ok(Message::Part(Piece::Samples(&self.message))),
            b'~' => match self.message.first_chunk() {
                Some(count) => Ok(Message::Part(Piece::Lost(u64::from_le_bytes(*count)))),
                None => Err(io::ErrorKind::InvalidData.into()),
            },
            b'.' => Ok(Message::Last { refused: false }),
            b'!' => Ok(Message::Last { refused: true }),
            _ => Err(io::ErrorKind::InvalidData.into()),
        }
    }

    /// Reads until `bytes` is full, as long as nobody stops it and something comes.
    fn fill(&mut self, mut bytes: &mut [u8], stop: &Stop) -> io::Result<()> {
        let mut since = Instant::now();
        while !bytes.is_empty() {
            let mut waiting = [PollFd::new(self.output.as_fd(), PollFlags::POLLIN)];
            let ready = poll(&mut waiting, PollTimeout::from(PAUSE_MS))? > 0;
            if stop.is_stopped() {
                return Err(io::ErrorKind::Interrupted.into());
            }
            if !ready {
                if since.elapsed() > SILENCE {
                    return Err(io::ErrorKind::TimedOut.into());
                }
                continue;
            }
            match self.output.read(bytes)? {
                0 => return Err(io::ErrorKind::UnexpectedEof.into()),
                count => bytes = &mut bytes[count..],
            }
            since = Instant::now();
        }
        Ok(())
    }
}

impl Drop for Reader {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// Beside this program, or one folder up (where tests run).
fn program() -> Option<PathBuf> {
    if let Some(named) = std::env::var_os(VARIABLE) {
        return Some(PathBuf::from(named)).filter(|path| path.is_file());
    }
    beside(PROGRAM)
}
