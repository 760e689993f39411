//! Short-time band levels: what survives distance, level and noise.

use super::LISTEN_RATE;
use rustfft::{Fft, FftPlanner, num_complex::Complex};
use std::sync::Arc;

/// Number of bands, spaced evenly in pitch from 120 Hz to 7 kHz.
pub const BANDS: usize = 16;
/// Band frames per second.
pub const BAND_RATE: u32 = 100;

const HOP: usize = (LISTEN_RATE / BAND_RATE) as usize;
const WINDOW: usize = 512;
const LOW_HZ: f64 = 120.0;
const HIGH_HZ: f64 = 7000.0;

/// Band levels of a clip: `BANDS` bytes a frame, half-decibel steps. Frame `i` is centred on
/// sample `i · LISTEN_RATE / BAND_RATE`.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Bands(pub Vec<u8>);

impl Bands {
    /// Number of frames.
    pub fn frames(&self) -> usize {
        self.0.len() / BANDS
    }
}

/// Streaming reader: samples at [`LISTEN_RATE`] in, [`Bands`] out.
pub struct BandReader {
    fft: Arc<dyn Fft<f32>>,
    shape: Vec<f32>,
    edges: [usize; BANDS + 1],
    pending: Vec<f32>,
    /// Two windows, one the real part and one the imaginary.
    spectrum: Vec<Complex<f32>>,
    scratch: Vec<Complex<f32>>,
    bands: Bands,
}

impl Default for BandReader {
    fn default() -> Self {
        Self::new()
    }
}

impl BandReader {
    /// A reader at the start of a clip.
    pub fn new() -> Self {
        let fft = FftPlanner::<f32>::new().plan_fft_forward(WINDOW);
        let shape = (0..WINDOW)
            .map(|i| 0.5 - 0.5 * (std::f32::consts::TAU * (i as f32 + 0.5) / WINDOW as f32).cos())
            .collect();
        let edges = std::array::from_fn(|i| {
            let hz = LOW_HZ * (HIGH_HZ / LOW_HZ).powf(i as f64 / BANDS as f64);
            (hz * WINDOW as f64 / f64::from(LISTEN_RATE)).round() as usize
        });
        Self {
            spectrum: vec![Complex::default(); WINDOW],
            scratch: vec![Complex::default(); fft.get_inplace_scratch_len()],
            fft,
            shape,
            edges: strictly_rising(edges),
            // Half a window of silence first, so that frame 0 is centred on sample 0.
            pending: vec![0.0; WINDOW / 2],
            bands: Bands::default(),
        }
    }

    /// Takes the next samples.
    pub fn push(&mut self, samples: &[f32]) {
        self.pending.extend_from_slice(samples);
        let mut at = 0;
        while at + HOP + WINDOW <= self.pending.len() {
            self.frames(at, true);
            at += 2 * HOP;
        }
        self.pending.drain(..at);
    }

    /// The bands of everything pushed; the tail is filled with silence.
    pub fn finish(mut self) -> Bands {
        self.push(&[0.0; WINDOW / 2]);
        if self.pending.len() >= WINDOW {
            self.pending.resize(WINDOW + HOP, 0.0);
            self.frames(0, false);
        }
        self.bands
    }

    /// The frame at a sample of what is pending, and the next one if there `are_two`.
    fn frames(&mut self, at: usize, are_two: bool) {
        let (first, second) = (&self.pending[at..], &self.pending[at + HOP..]);
        for (((out, re), im), shape) in self.spectrum.iter_mut().zip(first).zip(second).zip(&self.shape) {
            *out = Complex::new(re * shape, im * shape);
        }
        self.fft.process_with_scratch(&mut self.spectrum, &mut self.scratch);
        for second in [false, true].into_iter().take(1 + usize::from(are_two)) {
            for band in self.edges.windows(2) {
                // The spectrum of what is real is its own mirror image, that of what is imaginary the opposite of it.
                let power = |k: usize| {
                    let (own, mirrored) = (self.spectrum[k], self.spectrum[WINDOW - k].conj());
                    (if second { own - mirrored } else { own + mirrored }).norm_sqr()
                };
                let power = 0.25 * (band[0]..band[1]).map(power).sum::<f32>() / (band[1] - band[0]) as f32;
                // Half-decibel steps from -100 dB (re. a full-scale bin) up.
                let level = 10.0 * (power / (WINDOW * WINDOW) as f32 + 1e-12).log10();
                self.bands.0.push(((level + 120.0) * 2.0).clamp(0.0, 255.0) as u8);
            }
        }
    }
}

fn strictly_rising(mut edges: [usize; BANDS + 1]) -> [usize; BANDS + 1] {
    for i in 1..edges.len() {
        edges[i] = edges[i].max(edges[i - 1] + 1);
    }
    edges
}
