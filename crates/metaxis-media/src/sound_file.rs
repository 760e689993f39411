//! A file's sound read from any sample on, all channels, as it was recorded.

use crate::{
    MediaError, Stop, decoder,
    reader::{self, Answer, Piece},
    wav::{WavLayout, finite},
};
use metaxis_core::{clip::SoundFacts, signal::LostSound, sound::Samples};
use std::{
    collections::VecDeque,
    io::{self, Read},
    os::unix::fs::FileExt,
    path::{Path, PathBuf},
    sync::mpsc::{Receiver, SyncSender, sync_channel},
};

/// The sound of a file. Sample 0 is the first that a correct player presents; beyond the ends is silence.
pub struct SoundFile {
    path: PathBuf,
    channels: usize,
    samples: i64,
    kind: Kind,
    interleaved: Vec<f32>,
}

enum Kind {
    /// Uncompressed: read where it lies.
    Plain(WavLayout, Vec<u8>),
    /// Decoded as it is read.
    Coded(Decoding),
}

impl SoundFile {
    /// Opens the sound that `facts` describes.
    ///
    /// # Errors
    /// [`MediaError`] naming the file; [`MediaError::Changed`] where less is there than was.
    pub fn open(path: &Path, facts: &SoundFacts, stop: &Stop) -> Result<Self, MediaError> {
        let unreadable = |source| MediaError::Read { path: path.to_owned(), source };
        let rate = f64::from(facts.rate.0);
        let mut samples = (facts.duration_s * rate).round() as i64;
        let kind = match WavLayout::of(path, facts).map_err(unreadable)? {
            Some(layout) => {
                let there = i64::try_from(layout.samples).unwrap_or(i64::MAX);
                if there < samples {
                    return Err(MediaError::Changed { path: path.to_owned() });
                }
                samples = there;
                Kind::Plain(layout, vec![])
            }
            None => Kind::Coded(Decoding::new(path, facts, stop)),
        };
        Ok(Self {
            path: path.to_owned(),
            channels: facts.channels as usize,
            samples,
            kind,
            interleaved: vec![],
        })
    }

    /// What could not be decoded of what was read so far, in order; silence was given in its place.
    pub fn lost(&self) -> &[LostSound] {
        match &self.kind {
            Kind::Plain(..) => &[],
            Kind::Coded(decoding) => &decoding.lost,
        }
    }

    /// Fills `out` from its sample `place` on with what lies from `begin` to `end`.
    fn fill(&mut self, begin: i64, end: i64, out: &mut [Vec<f32>], place: usize) -> Result<(), MediaError> {
        let Self { path, channels, kind, interleaved, .. } = self;
        match kind {
            Kind::Plain(layout, bytes) => {
                bytes.resize((end - begin) as usize * layout.frame, 0);
                let at = layout.at + begin as u64 * layout.frame as u64;
                layout.file.read_exact_at(bytes, at).map_err(|source| match source.kind() {
                    io::ErrorKind::UnexpectedEof => MediaError::Changed { path: path.clone() },
                    _ => MediaError::Read { path: path.clone(), source },
                })?;
                layout.spread(bytes, out, place);
            }
            Kind::Coded(decoding) => {
                interleaved.clear();
                decoding.read(begin, end, *channels, interleaved)?;
                for (number, channel) in out.iter_mut().enumerate().take(*channels) {
                    let own = interleaved.iter().skip(number).step_by(*channels);
                    channel[place..].iter_mut().zip(own).for_each(|(out, value)| *out = finite(*value));
                }
            }
        }
        Ok(())
    }
}

impl Samples for SoundFile {
    type Error = MediaError;

    fn channels(&self) -> usize {
        self.channels
    }

    fn read(&mut self, from: i64, out: &mut [Vec<f32>]) -> Result<(), MediaError> {
        let length = out.first().map_or(0, Vec::len) as i64;
        let (begin, end) = (from.clamp(0, self.samples), (from + length).clamp(0, self.samples));
        if end - begin < length {
            out.iter_mut().for_each(|channel| channel.fill(0.0));
        }
        if begin < end {
            self.fill(begin, end, out, (begin - from) as usize)?;
        }
        Ok(())
    }
}

/// Seconds kept behind what was read last: cross-fades and filters look back a little.
const KEPT_S: i64 = 1;
/// Blocks that the decoder may be ahead, and their length in bytes.
const AHEAD: usize = 4;
const BLOCK: usize = 1 << 18;

/// Who goes on further than this begins anew there, seconds.
const JUMP_S: i64 = 10;

/// A file that is being decoded, forwards; who goes back, or far on, begins anew.
struct Decoding {
    path: PathBuf,
    facts: SoundFacts,
    stop: Stop,
    coming: Option<Receiver<Result<Block, MediaError>>>,
    /// Interleaved samples from `begins` on.
    kept: VecDeque<f32>,
    begins: i64,
    lost: Vec<LostSound>,
}

/// What a decoder gives.
enum Block {
    /// Interleaved samples.
    Samples(Vec<f32>),
    /// So many samples a channel that are not there.
    Lost(u64),
}

impl Decoding {
    fn new(path: &Path, facts: &SoundFacts, stop: &Stop) -> Self {
        Self {
            path: path.to_owned(),
            facts: facts.clone(),
            stop: stop.clone(),
            coming: None,
            kept: VecDeque::new(),
            begins: 0,
            lost: vec![],
        }
    }

    fn read(&mut self, begin: i64, end: i64, channels: usize, out: &mut Vec<f32>) -> Result<(), MediaError> {
        let rate = i64::from(self.facts.rate.0);
        let keep_from = begin - KEPT_S * rate;
        let there = self.begins + (self.kept.len() / channels) as i64;
        if self.coming.is_none() || begin < self.begins || begin > there + JUMP_S * rate {
            // Near the beginning nothing is gained by going elsewhere.
            let from = if begin > JUMP_S * rate { keep_from } else { 0 };
            self.start(channels, from);
        }
        loop {
            let old = (keep_from - self.begins).clamp(0, (self.kept.len() / channels) as i64);
            self.kept.drain(..old as usize * channels);
            self.begins += old;
            if self.begins + (self.kept.len() / channels) as i64 >= end {
                break;
            }
            match self.coming.as_ref().and_then(|coming| coming.recv().ok()) {
                Some(block) => self.take(block?, channels),
                None => {
                    self.ended(end, channels)?;
                    break;
                }
            }
        }
        let first = (begin - self.begins) as usize * channels;
        out.extend(self.kept.iter().skip(first).take((end - begin) as usize * channels));
        Ok(())
    }

    /// All was decoded; coders may end a block before or behind what the container says, and no more.
    fn ended(&self, end: i64, channels: usize) -> Result<(), MediaError> {
        const SLACK: i64 = 4096;
        let there = self.begins + (self.kept.len() / channels) as i64;
        if there + SLACK >= end {
            return Ok(());
        }
        let at_s = there as f64 / f64::from(self.facts.rate.0);
        Err(MediaError::Damaged {
            path: self.path.clone(),
            detail: format!("its sound ends after {at_s:.1} of {:.1} s", self.facts.duration_s),
        })
    }

    fn take(&mut self, block: Block, channels: usize) {
        match block {
            Block::Samples(samples) => self.kept.extend(samples),
            Block::Lost(count) => {
                let from = (self.begins + (self.kept.len() / channels) as i64) as u64;
                LostSound { from, count }.add_to(&mut self.lost);
                self.kept.extend(std::iter::repeat_n(0.0, count as usize * channels));
            }
        }
    }

    fn start(&mut self, channels: usize, from: i64) {
        let (send, coming) = sync_channel(AHEAD);
        let (path, facts, stop) = (self.path.clone(), self.facts.clone(), self.stop.clone());
        std::thread::spawn(move || {
            if let Err(e) = decode(&path, &facts, (channels, from as u64), &stop, &send) {
                let _ = send.send(Err(e));
            }
        });
        self.coming = Some(coming);
        self.kept.clear();
        // What lies behind is found again.
        self.lost.retain(|own| (own.from as i64) < from);
        self.begins = from;
    }
}

/// Decodes a file from sample `from` on, until nobody listens any more: by the reader, where that finds the sample or from the
/// beginning on; or else by ffmpeg.
fn decode(
    path: &Path,
    facts: &SoundFacts,
    (channels, from): (usize, u64),
    stop: &Stop,
    to: &SyncSender<Result<Block, MediaError>>,
) -> Result<(), MediaError> {
    let whole = 4 * channels;
    // Who listens no more has dropped the other end.
    let send = |block| to.send(Ok(block)).map_err(|_| MediaError::Stopped);
    // Bytes, from the beginning of the file on, that need not be given: nobody wants them, or they were given.
    let mut known = from as usize * whole;
    for begin in [from, 0] {
        let mut at = begin as usize * whole;
        let answer = reader::sound(path, facts, begin, stop, |piece| {
            let length = match piece {
                Piece::Samples(bytes) => bytes.len(),
                Piece::Lost(count) => count as usize * whole,
            };
            let past = known.saturating_sub(at).min(length);
            at += length;
            known = known.max(at);
            match piece {
                _ if past == length => Ok(()),
                Piece::Samples(bytes) => send(Block::Samples(floats(&bytes[past..]))),
                Piece::Lost(count) => send(Block::Lost(count - (past / whole) as u64)),
            }
        })?;
        if matches!(answer, Answer::Whole) {
            return Ok(());
        }
        if from == 0 {
            break;
        }
    }
    let mut given = known;
    decoder(path, facts).stream(stop, |pipe| {
        let mut bytes = vec![0_u8; BLOCK / whole * whole];
        loop {
            let mut filled = 0;
            while filled < bytes.len() {
                match pipe.read(&mut bytes[filled..])? {
                    0 => break,
                    count => filled += count,
                }
            }
            if filled == 0 {
                return Ok(());
            }
            let known = given.min(filled);
            given -= known;
            if known < filled {
                let block = floats(&bytes[known..filled / whole * whole]);
                send(Block::Samples(block)).map_err(|_| io::ErrorKind::BrokenPipe)?;
            }
        }
    })
}

fn floats(bytes: &[u8]) -> Vec<f32> {
    bytes.as_chunks().0.iter().map(|four| f32::from_le_bytes(*four)).collect()
}
