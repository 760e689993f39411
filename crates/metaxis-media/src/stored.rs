//! Listening streams on disk.

use crate::{CachedClip, MediaError};
use metaxis_core::{signal::Bands, sync::SampleSource};
use std::{
    fs::{self, File},
    io,
    os::unix::fs::FileExt,
    path::Path,
};

/// Steps of the stored samples in one.
const STEPS: f32 = 32_000.0;

/// Added and taken off again it leaves no room below one: numbers are rounded, ties to even.
const ROUNDING: f32 = 12_582_912.0;

/// Appends samples as they are stored.
pub(crate) fn quantise(samples: &[f32], out: &mut Vec<u8>) {
    let begin = out.len();
    out.resize(begin + 2 * samples.len(), 0);
    for (bytes, sample) in out[begin..].as_chunks_mut().0.iter_mut().zip(samples) {
        let steps = (sample * STEPS).clamp(-32_767.0, 32_767.0);
        *bytes = (((steps + ROUNDING) - ROUNDING) as i16).to_le_bytes();
    }
}

/// A listening stream on disk; windows are read as they are needed.
#[derive(Debug)]
pub struct StoredSamples {
    file: File,
    samples: u64,
}

impl StoredSamples {
    /// Opens a clip's listening stream number `sound` and its bands.
    ///
    /// # Errors
    /// [`MediaError::Cache`] where the cache lost them.
    pub fn open(cached: &CachedClip, sound: usize) -> Result<(Self, Bands), MediaError> {
        let path = cached.samples(sound);
        let cache = |source| MediaError::Cache { path: path.clone(), source };
        let own = Self::at(&path).map_err(cache)?;
        let bands = Bands(fs::read(cached.bands(sound)).map_err(cache)?);
        Ok((own, bands))
    }

    /// Opens a stream that is whole.
    pub(crate) fn at(path: &Path) -> io::Result<Self> {
        let file = File::open(path)?;
        let samples = file.metadata()?.len() / 2;
        Ok(Self { file, samples })
    }
}

impl SampleSource for StoredSamples {
    fn len(&self) -> u64 {
        self.samples
    }

    fn read(&self, from: i64, out: &mut [f32]) {
        out.fill(0.0);
        let begin = from.clamp(0, self.samples as i64);
        let end = (from + out.len() as i64).clamp(0, self.samples as i64);
        if begin >= end {
            return;
        }
        let mut bytes = vec![0_u8; (end - begin) as usize * 2];
        if self.file.read_exact_at(&mut bytes, begin as u64 * 2).is_err() {
            return; // the cache was cleared under us: silence matches nothing
        }
        let place = (begin - from) as usize;
        for (value, pair) in out[place..].iter_mut().zip(bytes.chunks_exact(2)) {
            *value = f32::from(i16::from_le_bytes([pair[0], pair[1]])) / STEPS;
        }
    }
}
