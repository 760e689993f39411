//! Writing broadcast WAV: RIFF, or RF64 (EBU Tech 3306) where it is longer than that can say.

use crate::{
    MediaError,
    behind::{Behind, OnDisk},
    find_chunk_in,
    made::Made,
    open::open_file,
    packed::pack,
    parse_ixml,
    riff::walk_chunks,
};
use metaxis_core::sound::Depth;
use std::path::Path;

/// What kind of WAV is written.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct WaveForm {
    /// Samples a second.
    pub rate: u32,
    /// Tracks.
    pub channels: u16,
    /// How samples are written.
    pub depth: Depth,
    /// Samples a track.
    pub samples: u64,
}

impl WaveForm {
    fn frame(self) -> u64 {
        u64::from(self.channels) * u64::from(self.depth.bits() / 8)
    }

    /// Bytes of sound.
    pub fn data_bytes(self) -> u64 {
        self.samples * self.frame()
    }
}

/// What was written.
#[derive(Debug, Clone, PartialEq)]
pub struct WaveWritten {
    /// Length of the file, bytes.
    pub bytes: u64,
    /// The content's BLAKE3 hash.
    pub hash: String,
    /// Largest absolute sample of each track, full scale is 1.
    pub peaks: Vec<f32>,
    /// Samples that were too loud for the form and are cut off.
    pub clipped: u64,
}

/// A WAV being written.
pub struct WaveWriter {
    // Ends before what it writes to is gone.
    behind: Behind,
    made: Made,
    form: WaveForm,
    left: u64,
    peaks: Vec<f32>,
    clipped: u64,
}

impl WaveWriter {
    /// Begins a file at `target`, with its `bext` and iXML chunks.
    ///
    /// # Errors
    /// [`MediaError::Write`], [`MediaError::Taken`].
    pub fn create(
        target: &Path,
        form: WaveForm,
        bext: &[u8],
        ixml: &[u8],
        replace: bool,
    ) -> Result<Self, MediaError> {
        let made = Made::begin(target, replace)?;
        let behind = Behind::begin(&made.file).map_err(|e| made.refused(&e))?;
        let mut own = Self {
            behind,
            made,
            form,
            left: form.samples,
            peaks: vec![0.0; usize::from(form.channels)],
            clipped: 0,
        };
        own.put(wave_head(form, bext, ixml))?;
        Ok(own)
    }

    /// Writes the next samples: one buffer a track, all of one length. What is more than was said is left out.
    ///
    /// # Errors
    /// [`MediaError::Write`].
    pub fn write(&mut self, tracks: &[Vec<f32>]) -> Result<(), MediaError> {
        let count = (tracks.first().map_or(0, Vec::len) as u64).min(self.left) as usize;
        self.left -= count as u64;
        let mut bytes = self.behind.buffer();
        self.clipped += pack(self.form.depth, tracks, count, &mut bytes, &mut self.peaks);
        self.put(bytes)
    }

    fn put(&mut self, bytes: Vec<u8>) -> Result<(), MediaError> {
        self.behind.put(bytes).map_err(|e| self.made.refused(&e))
    }

    /// Ends the file: what is missing of its length is silence. It is read back, and has its name only if it is what was meant.
    ///
    /// # Errors
    /// [`MediaError::Write`], [`MediaError::Taken`].
    pub fn finish(mut self, replace: bool) -> Result<WaveWritten, MediaError> {
        let silence = vec![vec![0.0; 4096]; usize::from(self.form.channels)];
        while self.left > 0 {
            self.write(&silence)?;
        }
        if self.form.data_bytes() % 2 == 1 {
            self.put(vec![0])?;
        }
        let OnDisk { length, hash } = self.behind.finish().map_err(|e| self.made.refused(&e))?;
        self.made.keep(replace)?;
        Ok(WaveWritten {
            bytes: length,
            hash: hash.to_hex()[..32].to_owned(),
            peaks: self.peaks,
            clipped: self.clipped,
        })
    }
}

/// What tells the content of a WAV written by [`WaveWriter`] from any other, where there is one of this form at `path` and it is
/// whole.
pub fn written_uid(path: &Path, form: WaveForm) -> Option<String> {
    let mut file = open_file(path).ok()?;
    let length = file.metadata().ok()?.len();
    let data = walk_chunks(&mut file, |chunk| &chunk.id == b"data").ok()??;
    let whole = data.size == form.data_bytes() && data.at + data.size + data.size % 2 == length;
    let ixml = find_chunk_in(&mut file, *b"iXML", 1 << 20).ok()??;
    parse_ixml(&ixml).uid.filter(|_| whole)
}

/// Bytes that a folder's disk has left for this user; `None` where it does not say.
pub fn free_bytes(folder: &Path) -> Option<u64> {
    let disk = nix::sys::statvfs::statvfs(folder).ok()?;
    Some(disk.blocks_available().saturating_mul(disk.fragment_size()))
}

/// Everything before the first sample of a WAV with these chunks.
pub fn wave_head(form: WaveForm, bext: &[u8], ixml: &[u8]) -> Vec<u8> {
    let (tag, bits) = match form.depth {
        Depth::Pcm24 => (1_u16, 24_u16),
        Depth::Float32 => (3, 32),
    };
    let frame = form.frame() as u16;
    let mut format = vec![];
    format.extend(tag.to_le_bytes());
    format.extend(form.channels.to_le_bytes());
    format.extend(form.rate.to_le_bytes());
    format.extend((form.rate * u32::from(frame)).to_le_bytes());
    format.extend(frame.to_le_bytes());
    format.extend(bits.to_le_bytes());
    let mut chunks = vec![];
    let mut chunk = |id: &[u8; 4], content: &[u8]| {
        if content.is_empty() {
            return;
        }
        chunks.extend(id);
        chunks.extend((content.len() as u32).to_le_bytes());
        chunks.extend(content);
        if content.len() % 2 == 1 {
            chunks.push(0);
        }
    };
    chunk(b"bext", bext);
    chunk(b"fmt ", &format);
    if form.depth == Depth::Float32 {
        chunk(b"fact", &u32::try_from(form.samples).unwrap_or(u32::MAX).to_le_bytes());
    }
    chunk(b"iXML", ixml);
    let data = form.data_bytes();
    let padded = data + data % 2;
    let plain = 4 + chunks.len() as u64 + 8 + padded;
    let mut out = vec![];
    match u32::try_from(plain) {
        Ok(size) if data < u64::from(u32::MAX) => {
            out.extend(b"RIFF");
            out.extend(size.to_le_bytes());
            out.extend(b"WAVE");
            out.extend(&chunks);
            out.extend(b"data");
            out.extend((data as u32).to_le_bytes());
        }
        _ => {
            out.extend(b"RF64\xff\xff\xff\xffWAVEds64");
            out.extend(28_u32.to_le_bytes());
            out.extend((plain + 36).to_le_bytes());
            out.extend(data.to_le_bytes());
            out.extend(form.samples.to_le_bytes());
            out.extend(0_u32.to_le_bytes());
            out.extend(&chunks);
            out.extend(b"data\xff\xff\xff\xff");
        }
    }
    out
}
