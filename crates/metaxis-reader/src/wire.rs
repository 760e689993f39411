//! Messages: a byte that says what it is, the length as four bytes (little end first), and so many bytes.

use std::io::{self, Write};

/// Part of an answer.
const PART: u8 = b'+';
/// Sound that is not there, with its samples as eight bytes (little end first).
const LOST: u8 = b'~';
/// The end of an answer.
const END: u8 = b'.';
/// A refusal, with the reason as text.
const REFUSED: u8 = b'!';
/// Bytes gathered before they are sent.
const GATHERED: usize = 1 << 18;

/// Writes messages to `out`.
pub struct Wire<W> {
    out: W,
    gathered: Vec<u8>,
}

impl<W: Write> Wire<W> {
    /// Nothing said yet.
    pub fn new(out: W) -> Self {
        Self { out, gathered: Vec::with_capacity(2 * GATHERED) }
    }

    /// Says `bytes`, now or with what follows.
    pub fn say(&mut self, bytes: &[u8]) -> io::Result<()> {
        self.gathered.extend_from_slice(bytes);
        if self.gathered.len() >= GATHERED { self.send() } else { Ok(()) }
    }

    /// Says that so many samples are not there, between what was said and what follows.
    pub fn lost(&mut self, samples: u64) -> io::Result<()> {
        self.send()?;
        self.message(LOST, &samples.to_le_bytes())
    }

    /// Ends an answer.
    pub fn end(&mut self) -> io::Result<()> {
        self.send()?;
        self.message(END, &[])
    }

    /// Refuses, in place of the rest of an answer.
    pub fn refuse(&mut self, why: &str) -> io::Result<()> {
        self.gathered.clear();
        self.message(REFUSED, why.as_bytes())
    }

    /// Sends what is left.
    pub fn flush(&mut self) -> io::Result<()> {
        self.out.flush()
    }

    fn send(&mut self) -> io::Result<()> {
        let bytes = std::mem::take(&mut self.gathered);
        let sent = if bytes.is_empty() { Ok(()) } else { self.message(PART, &bytes) };
        self.gathered = bytes;
        self.gathered.clear();
        sent
    }

    fn message(&mut self, what: u8, bytes: &[u8]) -> io::Result<()> {
        let length = u32::try_from(bytes.len()).map_err(io::Error::other)?;
        self.out.write_all(&[what])?;
        self.out.write_all(&length.to_le_bytes())?;
        self.out.write_all(bytes)
    }
}
