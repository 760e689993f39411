//! A channel of a file, on its way to the cache at the rate at which it is matched.

use crate::{ToListenRate, cache::PartFile, stored::quantise};
use std::io::{self, Write};

/// A channel on its way to the cache.
pub(crate) enum Voice {
    /// Nothing was on it so far.
    Waits,
    /// It is written.
    Speaks(Box<Speaking>),
    /// It carries timecode.
    Rests,
}

/// A channel that is written at the rate at which it is matched.
pub(crate) struct Speaking {
    resampler: Option<ToListenRate>,
    pub out: PartFile,
    ready: Vec<f32>,
    bytes: Vec<u8>,
}

impl Speaking {
    /// Of a channel at `rate` samples a second.
    pub(crate) fn new(rate: u32, out: PartFile) -> Self {
        Self { resampler: Some(ToListenRate::new(rate)), out, ready: vec![], bytes: vec![] }
    }

    /// Takes samples at the file's rate.
    pub(crate) fn push(&mut self, samples: &[f32]) -> io::Result<()> {
        self.ready.clear();
        if let Some(resampler) = &mut self.resampler {
            resampler.push(samples, &mut self.ready);
        }
        self.store()
    }

    pub(crate) fn close(&mut self) -> io::Result<()> {
        self.ready.clear();
        if let Some(resampler) = self.resampler.take() {
            resampler.finish(&mut self.ready);
        }
        self.store()
    }

    fn store(&mut self) -> io::Result<()> {
        self.bytes.clear();
        quantise(&self.ready, &mut self.bytes);
        self.out.write_all(&self.bytes)
    }
}
