//! Reading uncompressed WAV without a decoder: most separate sound is this, and nothing is to be decoded.

use crate::{
    open::open_file,
    packed::unpack,
    riff::{Chunk, walk_chunks},
};
use metaxis_core::clip::SoundFacts;
use std::{
    fs::File,
    io::{self, Read, Seek, SeekFrom},
    path::Path,
};

/// How a sample is stored.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Form {
    Int16,
    Int24,
    Int32,
    Float32,
}

impl Form {
    fn bytes(self) -> usize {
        match self {
            Form::Int16 => 2,
            Form::Int24 => 3,
            Form::Int32 | Form::Float32 => 4,
        }
    }

    fn of(format: &[u8]) -> Option<Self> {
        let word = |at: usize| Some(u16::from_le_bytes([*format.get(at)?, *format.get(at + 1)?]));
        // WAVE_FORMAT_EXTENSIBLE names the true form in the first two bytes of its sub-format.
        let tag = if word(0)? == 0xFFFE { word(24)? } else { word(0)? };
        match (tag, word(14)?) {
            (1, 16) => Some(Form::Int16),
            (1, 24) => Some(Form::Int24),
            (1, 32) => Some(Form::Int32),
            (3, 32) => Some(Form::Float32),
            _ => None,
        }
    }

    fn convert(self, bytes: &[u8], out: &mut Vec<f32>) {
        match self {
            Form::Int16 => out.extend(bytes.as_chunks().0.iter().map(|own| int_16(*own))),
            Form::Int24 => out.extend(bytes.as_chunks().0.iter().map(|own| int_24(*own))),
            Form::Int32 => out.extend(bytes.as_chunks().0.iter().map(|own| int_32(*own))),
            Form::Float32 => out.extend(bytes.as_chunks().0.iter().map(|own| f32::from_le_bytes(*own))),
        }
    }
}

/// One over full scale of 32 bits.
const TOP: f32 = 1.0 / 2_147_483_648.0;

fn int_16(own: [u8; 2]) -> f32 {
    f32::from(i16::from_le_bytes(own)) / 32_768.0
}

fn int_24([low, middle, high]: [u8; 3]) -> f32 {
    i32::from_le_bytes([0, low, middle, high]) as f32 * TOP
}

fn int_32(own: [u8; 4]) -> f32 {
    i32::from_le_bytes(own) as f32 * TOP
}

/// The sample, where it is one.
pub(crate) fn finite(value: f32) -> f32 {
    if value.is_finite() { value } else { 0.0 }
}

/// Where the samples of an uncompressed WAV, RF64 or BW64 file lie.
pub(crate) struct WavLayout {
    /// The file.
    pub(crate) file: File,
    /// Its first byte of sound.
    pub(crate) at: u64,
    /// Samples a channel that are there.
    pub(crate) samples: u64,
    form: Form,
    /// Bytes of one sample of every channel.
    pub(crate) frame: usize,
}

impl WavLayout {
    /// Of a file that `facts` describes; `None` where it is no such file, or is in any way unusual: a decoder is asked then.
    pub(crate) fn of(path: &Path, facts: &SoundFacts) -> io::Result<Option<Self>> {
        let mut file = open_file(path)?;
        let mut format = vec![];
        let Some(chunk) = walk_chunks(&mut file, |chunk| &chunk.id == b"fmt ")? else { return Ok(None) };
        if chunk.size > 200 {
            return Ok(None);
        }
        file.seek(SeekFrom::Start(chunk.at))?;
        (&mut file).take(chunk.size).read_to_end(&mut format)?;
        file.seek(SeekFrom::Start(0))?;
        let (Some(form), Some(Chunk { at, size, .. })) =
            (Form::of(&format), walk_chunks(&mut file, |chunk| &chunk.id == b"data")?)
        else {
            return Ok(None);
        };
        let frame = form.bytes() * facts.channels as usize;
        let labelled = |at: usize, bytes: usize| {
            format
                .get(at..at + bytes)
                .map(|part| part.iter().rev().fold(0_u32, |all, b| all << 8 | u32::from(*b)))
        };
        let as_labelled = labelled(2, 2) == Some(facts.channels)
            && labelled(4, 4) == Some(facts.rate.0)
            && labelled(12, 2) == u32::try_from(frame).ok();
        let length = file.metadata()?.len();
        if size == 0 || frame == 0 || !as_labelled {
            return Ok(None);
        }
        let samples = size.min(length.saturating_sub(at)) / frame as u64;
        Ok(Some(Self { file, at, samples, form, frame }))
    }

    /// Samples out of the bytes of whole frames: one buffer a channel, from its sample `from` on.
    pub(crate) fn spread(&self, bytes: &[u8], out: &mut [Vec<f32>], from: usize) {
        let channels = self.frame / self.form.bytes();
        match self.form {
            Form::Int16 => unpack::<2>(bytes, channels, out, from, |word| int_32(word.to_le_bytes())),
            Form::Int24 => unpack::<3>(bytes, channels, out, from, |word| int_32(word.to_le_bytes())),
            Form::Int32 => unpack::<4>(bytes, channels, out, from, |word| int_32(word.to_le_bytes())),
            // A damaged float is silence, not a blow to the ear.
            Form::Float32 => unpack::<4>(bytes, channels, out, from, |word| finite(f32::from_bits(word))),
        }
    }
}

/// The samples of an uncompressed WAV, RF64 or BW64 file, from the first to the last.
pub(crate) struct WavSamples {
    data: io::Take<File>,
    form: Form,
    /// Bytes of one sample of every channel.
    frame: usize,
    bytes: Vec<u8>,
}

/// Bytes read at a time.
const BLOCK: usize = 1 << 18;

impl WavSamples {
    /// Opens a file that `facts` describes; `None` as [`WavLayout::of`] has it.
    pub(crate) fn open(path: &Path, facts: &SoundFacts) -> io::Result<Option<Self>> {
        let Some(WavLayout { mut file, at, samples, form, frame }) = WavLayout::of(path, facts)? else {
            return Ok(None);
        };
        file.seek(SeekFrom::Start(at))?;
        Ok(Some(Self {
            data: file.take(samples * frame as u64),
            form,
            frame,
            bytes: vec![0; BLOCK / frame.min(BLOCK) * frame],
        }))
    }

    /// The next samples, interleaved; none at the end.
    pub(crate) fn next(&mut self, out: &mut Vec<f32>) -> io::Result<()> {
        out.clear();
        let mut filled = 0;
        while filled < self.bytes.len() {
            match self.data.read(&mut self.bytes[filled..])? {
                0 => break,
                count => filled += count,
            }
        }
        self.form.convert(&self.bytes[..filled / self.frame * self.frame], out);
        Ok(())
    }
}
