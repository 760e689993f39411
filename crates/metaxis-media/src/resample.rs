//! To the rate at which sounds are matched, without moving them.

use metaxis_core::signal::LISTEN_RATE;
use rustfft::{Fft, FftPlanner, num_complex::Complex};
use std::{f64::consts::PI, sync::Arc};

/// Streaming mono resampler to [`LISTEN_RATE`]; its delay is taken out, so that output sample 0 lies at
/// input sample 0.
pub struct ToListenRate {
    blocks: Option<Blocks>,
    ratio: f64,
    pending: Vec<f32>,
    skip: usize,
    taken: u64,
    given: u64,
}

/// Samples of a block at the lower of the two rates, at the least: they say how near to its half the filter may end.
const BLOCK: usize = 512;

fn gcd(a: u32, b: u32) -> u32 {
    if b == 0 { a } else { gcd(b, a % b) }
}

impl ToListenRate {
    /// From `rate` samples a second.
    pub fn new(rate: u32) -> Self {
        let rate = rate.max(1);
        let common = gcd(rate, LISTEN_RATE);
        // Pairs of the shortest block that is whole at both rates, so that the filter's middle falls on a sample, by
        // powers of two, so that the transforms have small factors only.
        let unit = [rate, LISTEN_RATE].map(|rate| 2 * (rate / common) as usize);
        let count = BLOCK.div_ceil(unit[0].min(unit[1])).next_power_of_two();
        let [own, made] = unit.map(|unit| unit * count);
        let blocks = (rate != LISTEN_RATE).then(|| Blocks::new(own, made));
        Self {
            skip: if blocks.is_some() { made / 2 } else { 0 },
            blocks,
            ratio: f64::from(LISTEN_RATE) / f64::from(rate),
            pending: vec![],
            taken: 0,
            given: 0,
        }
    }

    /// Takes samples, appends what is ready to `out`.
    pub fn push(&mut self, samples: &[f32], out: &mut Vec<f32>) {
        self.taken += samples.len() as u64;
        let Some(blocks) = &mut self.blocks else {
            out.extend_from_slice(samples);
            self.given += samples.len() as u64;
            return;
        };
        self.pending.extend_from_slice(samples);
        let whole = self.pending.len() - self.pending.len() % (2 * blocks.own);
        for pair in self.pending[..whole].chunks_exact(2 * blocks.own) {
            let fresh = &blocks.convert(pair)[self.skip..];
            self.skip = 0;
            self.given += fresh.len() as u64;
            out.extend_from_slice(fresh);
        }
        self.pending.drain(..whole);
    }

    /// The tail: as many samples in all as the length of the input makes.
    pub fn finish(mut self, out: &mut Vec<f32>) {
        let due = (self.taken as f64 * self.ratio).ceil() as u64;
        while self.given < due
            && let Some(blocks) = &self.blocks
        {
            let silence = vec![0.0; 2 * blocks.own - self.pending.len()];
            self.push(&silence, out);
        }
        out.truncate(out.len() - (self.given - due.min(self.given)) as usize);
    }
}

/// Blocks are filtered and resampled in their spectra, two at a time: one is the real part and one the imaginary part of
/// what is transformed, and since the filter is real they come out as they went in. What a block leaves for the time after
/// it is added there (overlap-add; Oppenheim and Schafer, Discrete-Time Signal Processing, 8.7).
struct Blocks {
    /// Samples a block.
    own: usize,
    /// Samples made of one.
    made: usize,
    forward: Arc<dyn Fft<f32>>,
    back: Arc<dyn Fft<f32>>,
    /// Transfer function from 0 Hz to where it ends.
    filter: Vec<Complex<f32>>,
    input: Vec<Complex<f32>>,
    output: Vec<Complex<f32>>,
    scratch: Vec<Complex<f32>>,
    /// What the block before left.
    tail: Vec<f32>,
    ready: Vec<f32>,
}

impl Blocks {
    fn new(own: usize, made: usize) -> Self {
        let mut planner = FftPlanner::new();
        let (forward, back) = (planner.plan_fft_forward(2 * own), planner.plan_fft_inverse(2 * made));
        let mut filter: Vec<Complex<f32>> = low_pass(own, made)
            .into_iter()
            .map(|value| Complex::new((value / (2 * own) as f64) as f32, 0.0))
            .collect();
        filter.resize(2 * own, Complex::default());
        forward.process(&mut filter);
        filter.truncate(own.min(made));
        let longest = forward.get_inplace_scratch_len().max(back.get_inplace_scratch_len());
        Self {
            own,
            made,
            filter,
            input: vec![Complex::default(); 2 * own],
            output: vec![Complex::default(); 2 * made],
            scratch: vec![Complex::default(); longest],
            tail: vec![0.0; made],
            ready: vec![0.0; 2 * made],
            forward,
            back,
        }
    }

    /// What two blocks make.
    fn convert(&mut self, pair: &[f32]) -> &[f32] {
        let (own, made) = (self.own, self.made);
        let (first, second) = pair.split_at(own);
        for ((value, re), im) in self.input.iter_mut().zip(first).zip(second) {
            *value = Complex::new(*re, *im);
        }
        self.input[own..].fill(Complex::default());
        self.forward.process_with_scratch(&mut self.input, &mut self.scratch);
        let last = self.filter.len();
        let (low, high) = self.output.split_at_mut(2 * made - last + 1);
        for ((out, value), gain) in low.iter_mut().zip(&self.input).zip(&self.filter) {
            *out = value * gain;
        }
        low[last..].fill(Complex::default());
        // Below zero a real filter is the mirror image of itself.
        let below = &self.input[2 * own - last + 1..];
        for ((out, value), gain) in high.iter_mut().zip(below).zip(self.filter[1..].iter().rev()) {
            *out = value * gain.conj();
        }
        self.back.process_with_scratch(&mut self.output, &mut self.scratch);
        let (now, after) = self.output.split_at(made);
        for i in 0..made {
            self.ready[i] = now[i].re + self.tail[i];
            self.ready[made + i] = now[i].im + after[i].re;
            self.tail[i] = after[i].im;
        }
        &self.ready
    }
}

/// A sinc of `length` taps under the square of a Blackman-Harris window (Harris 1978), its middle at `length / 2`, that
/// ends where the lower of the two rates does. `made` samples are made of `length`.
fn low_pass(length: usize, made: usize) -> Vec<f64> {
    // So far below half the lower rate that the window's main lobe ends there.
    let shorter = length.min(made) as f64;
    let share = shorter / length as f64;
    let cutoff = share / (1.0 + 13.745 / shorter + 121.7 / shorter.powi(2) + 5_964.0 / shorter.powi(3));
    let taps: Vec<f64> = (0..length)
        .map(|i| {
            let turn = 2.0 * PI * i as f64 / length as f64;
            let window =
                0.35875 - 0.48829 * turn.cos() + 0.14128 * (2.0 * turn).cos() - 0.01168 * (3.0 * turn).cos();
            let at = PI * cutoff * (i as f64 - (length / 2) as f64);
            window.powi(2) * if at == 0.0 { 1.0 } else { at.sin() / at }
        })
        .collect();
    let sum: f64 = taps.iter().sum();
    taps.iter().map(|tap| tap / sum).collect()
}
