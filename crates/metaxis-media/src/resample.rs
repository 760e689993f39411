//! To the rate at which sounds are matched, without moving them.

use metaxis_core::signal::LISTEN_RATE;
use rubato::{
    Fft, FixedSync, Indexing, Resampler, WindowFunction, audioadapter_buffers::direct::SequentialSlice,
};

/// Streaming mono resampler to [`LISTEN_RATE`]; its delay is taken out, so that output sample 0 lies at
/// input sample 0.
pub struct ToListenRate {
    inner: Option<Fft<f32>>,
    ratio: f64,
    pending: Vec<f32>,
    skip: usize,
    taken: u64,
    given: u64,
}

/// Input samples a block, at the least.
const BLOCK: usize = 1024;

fn gcd(a: u32, b: u32) -> u32 {
    if b == 0 { a } else { gcd(b, a % b) }
}

impl ToListenRate {
    /// From `rate` samples a second.
    pub fn new(rate: u32) -> Self {
        let same = rate == LISTEN_RATE;
        // The rates are above zero and the chunk is not empty: the constructor's only complaints.
        // An even number of input samples a block: the filter's middle then falls on a sample, and its delay
        // is what it says.
        let unit = 2 * (rate / gcd(rate, LISTEN_RATE)).max(1) as usize;
        // Units by powers of two: the transforms then have small factors only.
        let chunk = unit * BLOCK.div_ceil(unit).next_power_of_two();
        let window = WindowFunction::BlackmanHarris2;
        // The rates are above zero and the chunk is not empty: the constructor's only complaints.
        let make = || {
            Fft::new_custom(rate as usize, LISTEN_RATE as usize, chunk, 1, 1, window, FixedSync::Input).ok()
        };
        let inner = if same { None } else { make() };
        Self {
            skip: inner.as_ref().map_or(0, Resampler::output_delay),
            inner,
            ratio: f64::from(LISTEN_RATE) / f64::from(rate.max(1)),
            pending: vec![],
            taken: 0,
            given: 0,
        }
    }

    /// Takes samples, appends what is ready to `out`.
    pub fn push(&mut self, samples: &[f32], out: &mut Vec<f32>) {
        self.taken += samples.len() as u64;
        if self.inner.is_none() {
            out.extend_from_slice(samples);
            self.given += samples.len() as u64;
            return;
        }
        self.pending.extend_from_slice(samples);
        let mut at = 0;
        while let Some(size) = self.inner.as_ref().map(Resampler::input_frames_next)
            && at + size <= self.pending.len()
        {
            let chunk: Vec<f32> = self.pending[at..at + size].to_vec();
            self.convert(&chunk, out);
            at += size;
        }
        self.pending.drain(..at);
    }

    /// The tail: as many samples in all as the length of the input makes.
    pub fn finish(mut self, out: &mut Vec<f32>) {
        let due = (self.taken as f64 * self.ratio).ceil() as u64;
        let mut tail = std::mem::take(&mut self.pending);
        while self.given < due && self.inner.is_some() {
            let size = self.inner.as_ref().map_or(0, Resampler::input_frames_next);
            tail.resize(size, 0.0);
            self.convert(&tail, out);
            tail.clear();
        }
        out.truncate(out.len() - (self.given - due.min(self.given)) as usize);
    }

    fn convert(&mut self, chunk: &[f32], out: &mut Vec<f32>) {
        let Some(inner) = &mut self.inner else { return };
        let mut buffer = vec![0.0; inner.output_frames_next()];
        let frames = buffer.len();
        let (Ok(input), Ok(mut output)) =
            (SequentialSlice::new(chunk, 1, chunk.len()), SequentialSlice::new_mut(&mut buffer, 1, frames))
        else {
            return;
        };
        let made = inner
            .process_into_buffer(&input, &mut output, Some(&Indexing::default()))
            .map_or(0, |(_, made)| made);
        let fresh = &buffer[self.skip.min(made)..made];
        self.skip -= self.skip.min(made);
        self.given += fresh.len() as u64;
        out.extend_from_slice(fresh);
    }
}
