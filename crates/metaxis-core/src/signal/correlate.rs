//! Coarse search: two patterns against each other over all lags.
//!
//! Partitioned correlation in the frequency domain: each pattern is cut into blocks whose spectra are made once, so
//! that a pattern met by many others costs its transforms only once, and one inverse transform gives the lags of a
//! whole diagonal of blocks.

use super::robust::scaled_median;
use super::{BANDS, Pattern, pattern::STEP};
use realfft::{ComplexToReal, RealFftPlanner, RealToComplex, num_complex::Complex};
use std::sync::Arc;

/// A lag at which two clips might belong together.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct CoarseMatch {
    /// Start of the clip on the reference's own time, in pattern frames (may be negative).
    pub lag_frames: i64,
    /// Height above the lags of this pair, in robust standard deviations.
    pub score: f32,
}

/// Frames a block: 41 s at least, 11 minutes at most.
const BLOCKS: (usize, usize) = (1024, 16_384);
/// Frequencies handled together, so that what is multiplied stays in the processor's nearest memory.
const TILE: usize = 256;

/// Spectra of the blocks of a pattern, by tile, block and band.
pub struct Spectra {
    frames: usize,
    block: usize,
    blocks: usize,
    /// Real parts of a tile of one band, then its imaginary parts.
    tiles: Vec<f32>,
}

impl Spectra {
    fn tile(&self, tile: usize, block: usize) -> &[f32] {
        let size = 2 * TILE * BANDS;
        let at = (tile * self.blocks + block) * size;
        &self.tiles[at..at + size]
    }

    /// Bytes held.
    pub fn bytes(&self) -> usize {
        self.tiles.len() * 4
    }
}

/// Plans and buffers for coarse searches with blocks of one length.
pub struct Correlator {
    block: usize,
    forward: Arc<dyn RealToComplex<f32>>,
    inverse: Arc<dyn ComplexToReal<f32>>,
    input: Vec<f32>,
    spectrum: Vec<Complex<f32>>,
    lags: Vec<f32>,
    sums: Vec<f32>,
    scores: Vec<f32>,
}

impl Default for Correlator {
    fn default() -> Self {
        Self::for_frames(BLOCKS.0)
    }
}

impl Correlator {
    /// For patterns that are looked for of about `frames`: with blocks that hold one, looking for it costs what the
    /// searched one is long, however long it is itself.
    pub fn for_frames(frames: usize) -> Self {
        let block = frames.next_power_of_two().clamp(BLOCKS.0, BLOCKS.1);
        let mut planner = RealFftPlanner::new();
        let (forward, inverse) = (planner.plan_fft_forward(2 * block), planner.plan_fft_inverse(2 * block));
        Self {
            block,
            input: forward.make_input_vec(),
            spectrum: forward.make_output_vec(),
            lags: inverse.make_output_vec(),
            forward,
            inverse,
            sums: vec![],
            scores: vec![],
        }
    }

    /// Bytes that the spectra of a searched pattern of `frames` take.
    pub fn bytes_of(&self, frames: usize) -> usize {
        (frames.div_ceil(self.block) + 1) * 2 * self.block * BANDS * 4
    }

    /// Spectra of a pattern that others are looked for in: windows of two blocks, a block apart, from a block before
    /// its beginning on.
    pub fn searched(&mut self, pattern: &Pattern) -> Spectra {
        let length = self.block;
        self.spectra(pattern, pattern.len().div_ceil(length) + 1, |block| {
            ((block as i64 - 1) * length as i64, 2 * length)
        })
    }

    /// Spectra of a pattern that is looked for: single blocks.
    pub fn sought(&mut self, pattern: &Pattern) -> Spectra {
        let length = self.block;
        self.spectra(pattern, pattern.len().div_ceil(length), |block| ((block * length) as i64, length))
    }

    fn spectra(
        &mut self,
        pattern: &Pattern,
        blocks: usize,
        place: impl Fn(usize) -> (i64, usize),
    ) -> Spectra {
        // The last bin (Nyquist) is left out: it holds nothing.
        let count_of_tiles = self.block / TILE;
        let mut tiles = vec![0.0; count_of_tiles * blocks * BANDS * 2 * TILE];
        for block in 0..blocks {
            let (from, count) = place(block);
            let (begin, end) =
                (from.max(0) as usize, ((from + count as i64).max(0) as usize).min(pattern.len()));
            for band in 0..BANDS {
                self.input.fill(0.0);
                if begin < end {
                    let shift = (begin as i64 - from) as usize;
                    for (value, frame) in self.input[shift..].iter_mut().zip(&pattern.frames()[begin..end]) {
                        *value = f32::from(frame[band]) / STEP;
                    }
                    // Lengths are fixed: the transform cannot fail.
                    let _ = self.forward.process(&mut self.input, &mut self.spectrum);
                } else {
                    self.spectrum.fill(Complex::default());
                }
                for tile in 0..count_of_tiles {
                    let at = ((tile * blocks + block) * BANDS + band) * 2 * TILE;
                    for (i, value) in self.spectrum[tile * TILE..(tile + 1) * TILE].iter().enumerate() {
                        tiles[at + i] = value.re;
                        tiles[at + TILE + i] = value.im;
                    }
                }
            }
        }
        Spectra { frames: pattern.len(), block: self.block, blocks, tiles }
    }

    /// The best lags of `sought` in `searched`, best first, at most `most`, each at least `apart` frames from a
    /// better one, over at least `min_overlap` frames.
    ///
    /// The sum of products at a lag is divided by the square root of the overlap: under "nothing in common" whitened
    /// patterns then have one spread at every lag, so long overlaps of noise do not beat short overlaps of signal.
    /// Scores are in units of that spread, taken from this pair's own lags by the median absolute deviation.
    ///
    /// Nothing is found where either was made with blocks of another length.
    pub fn search(
        &mut self,
        searched: &Spectra,
        sought: &Spectra,
        min_overlap: usize,
        apart: usize,
        most: usize,
    ) -> Vec<CoarseMatch> {
        let (n, m) = (searched.frames as i64, sought.frames as i64);
        let min_overlap = (min_overlap as i64).min(n).min(m);
        if min_overlap == 0 || searched.block != self.block || sought.block != self.block {
            return vec![];
        }
        self.products(searched, sought);
        let (first, last) = (min_overlap - m, n - min_overlap);
        // Lag 0 of the sums is the earliest of the first diagonal.
        let base = (sought.blocks * self.block) as i64;
        self.scores.clear();
        self.scores.extend((first..=last).map(|lag| {
            let overlap = n.min(lag + m) - lag.max(0);
            self.sums[(lag + base) as usize] / (overlap as f32).sqrt()
        }));
        let spread = robust_spread(&self.scores);
        if spread <= 0.0 {
            return vec![];
        }
        let mut peaks: Vec<CoarseMatch> = vec![];
        for (i, &score) in self.scores.iter().enumerate() {
            let beats =
                |j: Option<usize>| j.and_then(|j| self.scores.get(j)).is_none_or(|other| *other <= score);
            if score > 3.0 * spread && beats(i.checked_sub(1)) && beats(Some(i + 1)) {
                peaks.push(CoarseMatch { lag_frames: first + i as i64, score: score / spread });
            }
        }
        peaks.sort_unstable_by(|a, b| b.score.total_cmp(&a.score));
        let mut found: Vec<CoarseMatch> = vec![];
        for peak in peaks {
            if found.len() == most {
                break;
            }
            if found.iter().all(|other| other.lag_frames.abs_diff(peak.lag_frames) as usize >= apart) {
                found.push(peak);
            }
        }
        found
    }

    /// Σ over bands of the cross-correlation at every lag, into `self.sums`; index 0 is lag
    /// −`sought.blocks` times the length of a block.
    fn products(&mut self, searched: &Spectra, sought: &Spectra) {
        let length = self.block;
        let diagonals = searched.blocks + sought.blocks - 1;
        self.sums.resize((diagonals + 1) * length, 0.0);
        for diagonal in 0..diagonals {
            // Block i of the sought meets window i + shift of the searched; their lags begin at (shift − 1) blocks.
            let shift = diagonal as i64 - (sought.blocks as i64 - 1);
            self.spectrum.fill(Complex::default());
            for tile in 0..length / TILE {
                let (mut re, mut im) = ([0.0_f32; TILE], [0.0_f32; TILE]);
                for block in 0..sought.blocks {
                    let window = block as i64 + shift;
                    if !(0..searched.blocks as i64).contains(&window) {
                        continue;
                    }
                    let (x, y) = (sought.tile(tile, block), searched.tile(tile, window as usize));
                    for (x, y) in x.chunks_exact(2 * TILE).zip(y.chunks_exact(2 * TILE)) {
                        let ((xr, xi), (yr, yi)) = (x.split_at(TILE), y.split_at(TILE));
                        for i in 0..TILE {
                            re[i] += yr[i] * xr[i] + yi[i] * xi[i];
                            im[i] += yi[i] * xr[i] - yr[i] * xi[i];
                        }
                    }
                }
                for (i, value) in self.spectrum[tile * TILE..(tile + 1) * TILE].iter_mut().enumerate() {
                    *value = Complex::new(re[i], im[i]);
                }
            }
            self.spectrum[0].im = 0.0;
            let _ = self.inverse.process(&mut self.spectrum, &mut self.lags);
            // The lags that do not wrap around are the first block.
            let at = diagonal * length;
            self.sums[at..at + length].copy_from_slice(&self.lags[..length]);
        }
        let end = diagonals * length;
        self.sums[end..].fill(0.0);
    }
}

fn robust_spread(values: &[f32]) -> f32 {
    // A sample of the lags is enough.
    let step = (values.len() / 20_000).max(1);
    let mut sizes: Vec<f32> = values.iter().step_by(step).map(|v| v.abs()).collect();
    scaled_median(&mut sizes).unwrap_or(0.0)
}
