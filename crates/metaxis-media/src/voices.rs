//! All channels of a file on their way to the cache, on a thread beside the one that decodes and measures.

use crate::{
    CachedClip,
    voice::{Speaking, Voice},
};
use std::{
    io,
    sync::mpsc::{Receiver, Sender, SyncSender, channel, sync_channel},
    thread::{self, JoinHandle},
};

/// Blocks that may wait: more would only be memory.
const WAITING: usize = 2;
/// Silent samples that are made up for at once.
const PIECE: usize = 1 << 16;

/// What becomes of a channel.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Order {
    /// Nothing is on it yet.
    Wait,
    /// It is written.
    Speak,
    /// It carries timecode: not from here on.
    Rest,
}

/// The next samples of every channel.
pub(crate) struct Block {
    /// A channel each, at the file's rate.
    pub planes: Vec<Vec<f32>>,
    /// How many of them are meant.
    pub count: usize,
    /// One a channel.
    pub orders: Vec<Order>,
}

/// The thread, and what goes there and back.
pub(crate) struct Voices {
    there: Option<SyncSender<Block>>,
    back: Receiver<Vec<Vec<f32>>>,
    worker: Option<JoinHandle<io::Result<Vec<Voice>>>>,
}

impl Voices {
    /// Begins with `channels` channels at `rate` samples a second.
    pub(crate) fn new(rate: u32, channels: usize, cached: &CachedClip) -> io::Result<Self> {
        let (there, blocks) = sync_channel(WAITING);
        let (done, back) = channel();
        let cached = cached.clone();
        let work = move || write(&blocks, &done, rate, channels, &cached);
        let worker = thread::Builder::new().name("voices".into()).spawn(work)?;
        Ok(Self { there: Some(there), back, worker: Some(worker) })
    }

    /// Hands on a block; empty planes to be filled next come back.
    pub(crate) fn take(&mut self, block: Block) -> io::Result<Vec<Vec<f32>>> {
        let channels = block.planes.len();
        if self.there.as_ref().is_none_or(|there| there.send(block).is_err()) {
            return Err(self.join().err().unwrap_or_else(|| io::ErrorKind::BrokenPipe.into()));
        }
        Ok(self.back.try_recv().unwrap_or_else(|_| vec![vec![]; channels]))
    }

    /// Waits for all that was handed on to be written.
    pub(crate) fn join(&mut self) -> io::Result<Vec<Voice>> {
        self.there = None;
        let Some(worker) = self.worker.take() else { return Ok(vec![]) };
        worker.join().unwrap_or_else(|_| Err(io::Error::other("a channel could not be resampled")))
    }
}

impl Drop for Voices {
    fn drop(&mut self) {
        // What it began is taken away before anybody begins anew.
        let _ = self.join();
    }
}

fn write(
    blocks: &Receiver<Block>,
    done: &Sender<Vec<Vec<f32>>>,
    rate: u32,
    channels: usize,
    cached: &CachedClip,
) -> io::Result<Vec<Voice>> {
    let mut voices: Vec<Voice> = (0..channels).map(|_| Voice::Waits).collect();
    let mut written = 0;
    while let Ok(Block { mut planes, count, orders }) = blocks.recv() {
        for (channel, (voice, order)) in voices.iter_mut().zip(&orders).enumerate() {
            if *order == Order::Rest {
                *voice = Voice::Rests;
            }
            if *order == Order::Speak && matches!(voice, Voice::Waits) {
                *voice = Voice::Speaks(begin(channel, rate, written, cached)?);
            }
            if let Voice::Speaks(speaking) = voice {
                speaking.push(&planes[channel][..count])?;
            }
            planes[channel].clear();
        }
        written += count;
        // Nobody waits for them at the end.
        let _ = done.send(planes);
    }
    for voice in &mut voices {
        if let Voice::Speaks(speaking) = voice {
            speaking.close()?;
        }
    }
    Ok(voices)
}

/// A channel that was silent for so many samples.
fn begin(channel: usize, rate: u32, silent: usize, cached: &CachedClip) -> io::Result<Box<Speaking>> {
    let out = cached.begin(cached.channel(channel)).map_err(io::Error::other)?;
    let mut speaking = Box::new(Speaking::new(rate, out));
    for from in (0..silent).step_by(PIECE) {
        speaking.push(&vec![0.0; PIECE.min(silent - from)])?;
    }
    Ok(speaking)
}
