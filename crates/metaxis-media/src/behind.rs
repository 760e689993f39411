//! Bytes on their way into a file: whoever makes them goes on while they are hashed, written, put on the disk and read back.

use std::{
    fs::File,
    io::{self, Write},
    os::unix::fs::FileExt,
    sync::mpsc::{Receiver, Sender, SyncSender, channel, sync_channel},
    thread::{self, JoinHandle},
};

/// Blocks that may wait to be written.
const WAITING: usize = 4;
/// So many bytes are put on the disk and read back at once.
const STEP: u64 = 1 << 25;
/// Bytes that are read back at a time.
const PIECE: usize = 1 << 20;

/// What lies on the disk, read back and found to be what was given.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct OnDisk {
    /// Bytes.
    pub length: u64,
    /// Their BLAKE3 hash.
    pub hash: blake3::Hash,
}

/// A file that threads of their own fill and check.
pub(crate) struct Behind {
    full: Option<SyncSender<Vec<u8>>>,
    empty: Receiver<Vec<u8>>,
    thread: Option<JoinHandle<io::Result<OnDisk>>>,
}

impl Behind {
    /// Begins to fill `file` from where it stands.
    ///
    /// # Errors
    /// Where there are no more threads or files to be had.
    pub(crate) fn begin(file: &File) -> io::Result<Self> {
        let own = file.try_clone()?;
        let (full, coming) = sync_channel(WAITING);
        let (back, empty) = channel();
        let thread = thread::Builder::new().spawn(move || fill(&own, &coming, &back))?;
        Ok(Self { full: Some(full), empty, thread: Some(thread) })
    }

    /// A buffer for what comes next, with whatever it held when it was written; or a new one.
    pub(crate) fn buffer(&self) -> Vec<u8> {
        self.empty.try_recv().unwrap_or_default()
    }

    /// Has these written behind all that were given before.
    ///
    /// # Errors
    /// What writing or checking earlier ones failed with.
    pub(crate) fn put(&mut self, bytes: Vec<u8>) -> io::Result<()> {
        match &self.full {
            Some(full) if full.send(bytes).is_ok() => Ok(()),
            // It has ended before its time.
            _ => self.end().and(Err(io::Error::other("it was given up"))),
        }
    }

    /// Waits until all of it is on the disk.
    ///
    /// # Errors
    /// What writing failed with; where another thing lies on the disk than was given.
    pub(crate) fn finish(mut self) -> io::Result<OnDisk> {
        self.end()
    }

    fn end(&mut self) -> io::Result<OnDisk> {
        self.full = None;
        let ended = self.thread.take().map(JoinHandle::join);
        ended.unwrap_or_else(|| Ok(Err(io::Error::other("it was given up")))).unwrap_or_else(|_| Err(fell()))
    }
}

impl Drop for Behind {
    /// Nothing writes to a file, or holds its lock, that nobody makes any more.
    fn drop(&mut self) {
        let _ = self.end();
    }
}

fn fell() -> io::Error {
    io::Error::other("writing it failed for an unknown reason")
}

/// Writes what is coming, and gives its buffers back.
fn fill(mut file: &File, coming: &Receiver<Vec<u8>>, back: &Sender<Vec<u8>>) -> io::Result<OnDisk> {
    thread::scope(|scope| {
        let (tell, told) = sync_channel(1);
        let check = scope.spawn(move || check(file, &told));
        let (mut hash, mut length, mut asked) = (blake3::Hasher::new(), 0, 0);
        let mut filled = Ok(());
        for bytes in coming {
            filled = file.write_all(&bytes);
            if filled.is_err() {
                break;
            }
            hash.update(&bytes);
            length += bytes.len() as u64;
            if length - asked >= STEP && tell.try_send(length).is_ok() {
                asked = length;
            }
            // Whoever gave it may be done.
            let _ = back.send(bytes);
        }
        let _ = tell.send(length);
        drop(tell);
        let there = check.join().map_err(|_| fell());
        filled?;
        let given = OnDisk { length, hash: hash.finalize() };
        if there?? != given {
            return Err(io::Error::other("what is on the disk is not what was written"));
        }
        Ok(given)
    })
}

/// Puts a file on the disk up to each length that is `told`, and reads it back.
fn check(file: &File, told: &Receiver<u64>) -> io::Result<OnDisk> {
    let (mut hash, mut at) = (blake3::Hasher::new(), 0);
    let mut piece = vec![0; PIECE];
    for length in told {
        file.sync_data()?;
        while at < length {
            let wanted = usize::try_from(length - at).map_or(PIECE, |left| left.min(PIECE));
            let count = file.read_at(&mut piece[..wanted], at)?;
            if count == 0 {
                break;
            }
            hash.update(&piece[..count]);
            at += count as u64;
        }
    }
    Ok(OnDisk { length: at, hash: hash.finalize() })
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::fs::{self, OpenOptions};

    #[test]
    fn what_is_given_is_there_in_its_order() -> io::Result<()> {
        let folder = tempfile::tempdir()?;
        let path = folder.path().join("own");
        let file = OpenOptions::new().read(true).write(true).create_new(true).open(&path)?;
        let mut behind = Behind::begin(&file)?;
        let mut all = vec![];
        for number in 0..200_u32 {
            let mut bytes = behind.buffer();
            bytes.clear();
            // More than one step of what is put on the disk at once.
            bytes.resize(300_000 + number as usize, number as u8);
            all.extend_from_slice(&bytes);
            behind.put(bytes)?;
        }
        let on_disk = behind.finish()?;
        assert_eq!((on_disk.length, on_disk.hash), (all.len() as u64, blake3::hash(&all)));
        assert!(fs::read(&path)? == all);
        Ok(())
    }

    #[test]
    fn a_disk_that_refuses_is_said_to_whoever_goes_on_and_to_whoever_ends() -> io::Result<()> {
        let full = || OpenOptions::new().read(true).write(true).open("/dev/full");
        let mut behind = Behind::begin(&full()?)?;
        let refused = (0..100).find_map(|_| behind.put(vec![1; 4096]).err());
        assert_eq!(refused.map(|e| e.kind()), Some(io::ErrorKind::StorageFull));
        let mut behind = Behind::begin(&full()?)?;
        behind.put(vec![1; 4096])?;
        assert_eq!(behind.finish().map_err(|e| e.kind()), Err(io::ErrorKind::StorageFull));
        Ok(())
    }
}
