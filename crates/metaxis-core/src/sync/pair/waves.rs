//! The search that deep effort adds: the waves themselves over all lags, for sounds so deep in noise that their
//! patterns show nothing.
//!
//! Both sounds are whitened in short frames, so that every moment and every frequency counts alike (the same idea as
//! the phase transform's, for sounds of any length). Windows of two seconds of the clip are correlated with the whole
//! reference, block by block. One window shows nothing at −12 dB; the sum of a dozen along a line does, if the line
//! has the slope of the two clocks: all slopes of crystals are tried.

use super::{line::CRYSTAL_SLOPE, passage::Passage};
use crate::{
    signal::LISTEN_RATE,
    sync::input::{HeardSound, RATE, SampleSource},
};
use realfft::{ComplexToReal, RealFftPlanner, RealToComplex, num_complex::Complex};
use std::{collections::VecDeque, sync::Arc};

/// Samples of a window: 2 s.
const WINDOW: usize = 32_768;
/// Samples of a transform, and the lags that it gives without wrapping around.
const SIZE: usize = 4 * WINDOW;
const BLOCK: usize = SIZE - WINDOW;
/// Windows taken of a clip: 49 s at most, 6 s at least.
const WINDOWS: (usize, usize) = (3, 24);
/// Lags that are looked at as one: the highest of them counts.
const CELL: usize = 2;
/// A place stands this many standard deviations above the highest that chance would show among so many.
const CLEAR: f64 = 1.0;
/// Two places are at least this far apart, seconds.
const APART_S: f64 = 0.3;

/// A place where the waves add up.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct WavePlace {
    /// Start of the clip on the reference's own time, seconds.
    pub start_s: f64,
    /// Height in standard deviations of the block's own lags.
    pub height: f32,
}

/// What is looked for, and where.
pub(crate) struct WaveSearch {
    /// The part of the clip that is looked for.
    pub part: Passage,
    /// Windows taken of it, at most.
    pub windows: usize,
    /// Where the clip may begin on the reference's own time, seconds.
    pub starts: (f64, f64),
}

impl WaveSearch {
    /// A whole clip anywhere.
    pub fn anywhere(reference: &HeardSound, clip: &HeardSound) -> Self {
        let part = Passage { from_s: 0.0, to_s: clip.duration_s() };
        Self { part, windows: WINDOWS.1, starts: (-clip.duration_s(), reference.duration_s()) }
    }

    /// The same with a third of the windows: enough for sounds that patterns find too.
    pub fn lightly(self) -> Self {
        Self { windows: 8, ..self }
    }
}

/// Places of `clip` in `reference` beyond doubt, best first. Gives up where `stopped` says so.
pub(crate) fn search_waves(
    reference: &HeardSound,
    clip: &HeardSound,
    search: &WaveSearch,
    stopped: &dyn Fn() -> bool,
) -> Vec<WavePlace> {
    let sample = |s: f64| (s.max(0.0) * RATE) as usize;
    let (begin, end) =
        (sample(search.part.from_s), sample(search.part.to_s).min(clip.samples.len() as usize));
    let count = (end.saturating_sub(begin) / WINDOW).min(search.windows);
    if count < WINDOWS.0 {
        return vec![];
    }
    let mut tools = Tools::new();
    // From the middle of the clip: its ends are handling and slates.
    let first = begin + (end - begin - count * WINDOW) / 2;
    let sought: Vec<Spectrum> = (0..count).map(|i| tools.sought(clip.samples, first + i * WINDOW)).collect();
    let blocks_of_windows = BLOCK / WINDOW;
    // Blocks of the reference in which the first window may begin.
    let block_of = |start_s: f64| ((start_s * RATE + first as f64) / BLOCK as f64).floor() as i64;
    let before = (count.div_ceil(blocks_of_windows) as i64).min(-block_of(search.starts.0));
    let blocks =
        ((reference.samples.len() as usize).div_ceil(BLOCK) as i64).min(block_of(search.starts.1) + 1);
    if blocks + before <= 0 {
        return vec![];
    }
    // The highest of n independent values of a normal distribution.
    let looked_at = (blocks + before) as f64 * (BLOCK / CELL) as f64 * (4 * steps(count) + 2) as f64;
    let clear = ((2.0 * looked_at.ln()).sqrt() + CLEAR) as f32;
    let mut places: Vec<WavePlace> = vec![];
    // Spectra of the reference from one window's length to the next; those of the present block.
    let mut held: VecDeque<(i64, Spectrum)> = VecDeque::new();
    for block in -before..blocks {
        if stopped() {
            return vec![];
        }
        let from = block * blocks_of_windows as i64;
        while held.front().is_some_and(|(at, _)| *at < from) {
            held.pop_front();
        }
        for at in held.back().map_or(from, |(at, _)| at + 1)..from + count as i64 {
            held.push_back((at, tools.searched(reference.samples, at * WINDOW as i64)));
        }
        let rows: Vec<Row> =
            sought.iter().zip(&held).map(|(own, (_, there))| tools.row(own, there)).collect();
        let (lag, height) = highest(&rows);
        if height > clear {
            let at = block * BLOCK as i64 + lag as i64 - first as i64;
            places.push(WavePlace { start_s: at as f64 / RATE, height });
        }
    }
    places.sort_by(|a, b| b.height.total_cmp(&a.height));
    let mut kept: Vec<WavePlace> = vec![];
    for place in places {
        if kept.iter().all(|other| (other.start_s - place.start_s).abs() > APART_S) {
            kept.push(place);
        }
    }
    kept
}

type Spectrum = Vec<Complex<f32>>;

/// The highest correlation of each cell of lags, for either sign, in standard deviations of the block; `None` where
/// one of the two is silent.
type Row = Option<[Vec<f32>; 2]>;

/// Steps of slope to either side for so many windows: one moves the outermost by a cell.
fn steps(windows: usize) -> i64 {
    let middle = 0.5 * (windows as f64 - 1.0);
    (CRYSTAL_SLOPE * middle * WINDOW as f64 / CELL as f64).ceil() as i64
}

/// Lag (in samples, at the first window) and height of the line along which the rows add up highest.
fn highest(rows: &[Row]) -> (usize, f32) {
    let cells = BLOCK / CELL;
    let middle = 0.5 * (rows.len() as f64 - 1.0);
    let steps = steps(rows.len());
    let mut best = (0, 0.0);
    let mut sum = vec![0.0_f32; cells];
    for sign in 0..2 {
        let signed: Vec<(f64, &Vec<f32>)> = rows
            .iter()
            .enumerate()
            .filter_map(|(i, row)| Some((i as f64 - middle, &row.as_ref()?[sign])))
            .collect();
        if signed.len() < WINDOWS.0 {
            return best;
        }
        for turn in -steps..=steps {
            sum.fill(0.0);
            for (place, row) in &signed {
                let shift = (turn as f64 * place / middle).round() as i64;
                let (from, to) = (shift.max(0) as usize, (-shift).max(0) as usize);
                for (out, value) in sum[to..].iter_mut().zip(&row[from..]) {
                    *out += value;
                }
            }
            let scale = 1.0 / (signed.len() as f32).sqrt();
            for (cell, value) in sum.iter().enumerate() {
                if value * scale > best.1 {
                    // The first window lies `middle` windows before the middle one.
                    let shift = (turn as f64 * -middle / middle).round() as i64;
                    best = (((cell as i64 + shift).max(0) as usize) * CELL + CELL / 2, value * scale);
                }
            }
        }
    }
    best
}

/// Plans and buffers.
struct Tools {
    whitener: Whitener,
    forward: Arc<dyn RealToComplex<f32>>,
    inverse: Arc<dyn ComplexToReal<f32>>,
    input: Vec<f32>,
    product: Spectrum,
    lags: Vec<f32>,
}

impl Tools {
    fn new() -> Self {
        let mut planner = RealFftPlanner::new();
        let (forward, inverse) = (planner.plan_fft_forward(SIZE), planner.plan_fft_inverse(SIZE));
        Self {
            whitener: Whitener::new(&mut planner),
            input: forward.make_input_vec(),
            product: forward.make_output_vec(),
            lags: inverse.make_output_vec(),
            forward,
            inverse,
        }
    }

    fn sought(&mut self, samples: &dyn SampleSource, from: usize) -> Spectrum {
        self.spectrum(samples, from as i64, WINDOW)
    }

    fn searched(&mut self, samples: &dyn SampleSource, from: i64) -> Spectrum {
        self.spectrum(samples, from, SIZE)
    }

    fn spectrum(&mut self, samples: &dyn SampleSource, from: i64, count: usize) -> Spectrum {
        self.input.fill(0.0);
        self.whitener.whiten(samples, from, &mut self.input[..count]);
        let mut spectrum = self.forward.make_output_vec();
        // Lengths are fixed: the transform cannot fail.
        let _ = self.forward.process(&mut self.input, &mut spectrum);
        spectrum
    }

    fn row(&mut self, sought: &Spectrum, searched: &Spectrum) -> Row {
        for ((out, own), there) in self.product.iter_mut().zip(sought).zip(searched) {
            *out = there * own.conj();
        }
        self.product[0].im = 0.0;
        let last = self.product.len() - 1;
        self.product[last].im = 0.0;
        let _ = self.inverse.process(&mut self.product, &mut self.lags);
        let lags = &self.lags[..BLOCK];
        let power = lags.iter().map(|v| f64::from(v * v)).sum::<f64>() / BLOCK as f64;
        let scale = (power > 0.0).then(|| (1.0 / power.sqrt()) as f32)?;
        let cells = |sign: f32| -> Vec<f32> {
            let highest = |cell: &[f32; CELL]| cell.iter().map(|v| v * sign).fold(f32::MIN, f32::max);
            let mut cells: Vec<f32> = lags.as_chunks().0.iter().map(highest).collect();
            let count = cells.len() as f32;
            let mean = cells.iter().sum::<f32>() / count;
            let spread = (cells.iter().map(|v| (v - mean).powi(2)).sum::<f32>() / count).sqrt();
            for value in &mut cells {
                *value = (*value - mean) / spread.max(scale.recip() * 1e-3);
            }
            cells
        };
        Some([cells(1.0), cells(-1.0)])
    }
}

/// Makes every moment and every frequency of a sound count alike.
struct Whitener {
    forward: Arc<dyn RealToComplex<f32>>,
    inverse: Arc<dyn ComplexToReal<f32>>,
    shape: Vec<f32>,
    input: Vec<f32>,
    spectrum: Spectrum,
}

/// Samples of a frame: 64 ms, half overlapping.
const FRAME: usize = 1024;
const HOP: usize = FRAME / 2;
/// Share of a frame's magnitude that is taken away, as in the fine search.
const WHITENING: f32 = 0.8;
/// What devices can be trusted in, hertz.
const TRUSTED_HZ: (usize, usize) = (100, 7200);

impl Whitener {
    fn new(planner: &mut RealFftPlanner<f32>) -> Self {
        let (forward, inverse) = (planner.plan_fft_forward(FRAME), planner.plan_fft_inverse(FRAME));
        // Its square adds up to one where frames overlap by half.
        let shape =
            (0..FRAME).map(|i| (std::f32::consts::PI * (i as f32 + 0.5) / FRAME as f32).sin()).collect();
        Self { input: forward.make_input_vec(), spectrum: forward.make_output_vec(), forward, inverse, shape }
    }

    /// Whitened samples from `from` on, of frames that begin at multiples of [`HOP`] from there.
    fn whiten(&mut self, samples: &dyn SampleSource, from: i64, out: &mut [f32]) {
        let mut heard = vec![0.0; out.len()];
        samples.read(from, &mut heard);
        let bin = |hz: usize| hz * FRAME / LISTEN_RATE as usize;
        let trusted = bin(TRUSTED_HZ.0)..bin(TRUSTED_HZ.1);
        for at in (0..heard.len().saturating_sub(FRAME - 1)).step_by(HOP) {
            for ((value, sample), shape) in self.input.iter_mut().zip(&heard[at..]).zip(&self.shape) {
                *value = sample * shape;
            }
            let _ = self.forward.process(&mut self.input, &mut self.spectrum);
            for (i, value) in self.spectrum.iter_mut().enumerate() {
                let size = value.norm_sqr();
                let keep = trusted.contains(&i) && size > 1e-12;
                *value = if keep { *value * size.powf(-0.5 * WHITENING) } else { Complex::default() };
            }
            let _ = self.inverse.process(&mut self.spectrum, &mut self.input);
            for ((out, value), shape) in out[at..].iter_mut().zip(&self.input).zip(&self.shape) {
                *out += value * shape;
            }
        }
    }
}
