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

/// A sample as it is stored.
pub(crate) fn quantised(sample: f32) -> [u8; 2] {
    ((sample * STEPS).clamp(-32_767.0, 32_767.0).round_ties_even() as i16).to_le_bytes()
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
