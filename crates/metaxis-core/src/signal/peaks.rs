//! Waveforms for drawing, at several zooms and for each channel.

use wide::f32x8;

/// Samples of the file in a bin of the finest zoom.
pub const PEAK_BIN: usize = 512;
/// Bins of one zoom in a bin of the next.
pub const PEAK_STEP: usize = 16;
/// Zooms kept: bins of 512, 8192 and 131 072 samples.
pub const PEAK_ZOOMS: usize = 3;

/// What one pass over a block of one channel's samples gives.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct BlockStats {
    /// Lowest sample.
    pub low: f32,
    /// Highest sample.
    pub high: f32,
    /// Sum of squares.
    pub sum_squares: f32,
    /// Times the sign changed from one sample to the next.
    pub sign_changes: u32,
}

impl BlockStats {
    /// Measures a block.
    pub fn of(samples: &[f32]) -> Self {
        let (chunks, rest) = samples.as_chunks::<8>();
        let (mut low, mut high, mut sum) =
            (f32x8::splat(f32::MAX), f32x8::splat(f32::MIN), f32x8::splat(0.0));
        for chunk in chunks {
            let values = f32x8::new(*chunk);
            // What is no number is left out.
            low = low.min(values);
            high = high.max(values);
            sum += values * values;
        }
        let mut stats = Self {
            low: low.to_array().iter().chain(rest).copied().fold(f32::MAX, f32::min),
            high: high.to_array().iter().chain(rest).copied().fold(f32::MIN, f32::max),
            sum_squares: sum.reduce_add() + rest.iter().map(|x| x * x).sum::<f32>(),
            sign_changes: 0,
        };
        if samples.is_empty() {
            return Self::default();
        }
        let after = samples.get(1..).unwrap_or_default();
        stats.sign_changes = samples.iter().zip(after).map(|(a, b)| (a.to_bits() ^ b.to_bits()) >> 31).sum();
        stats
    }

    /// Largest absolute sample.
    pub fn peak(&self) -> f32 {
        self.high.max(-self.low)
    }
}

/// Lowest, highest and root-mean-square sample of a bin, full scale = 32 767.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct PeakBin {
    /// Lowest sample.
    pub low: i16,
    /// Highest sample.
    pub high: i16,
    /// Root mean square.
    pub rms: i16,
}

/// Bytes of a stored bin.
pub const PEAK_BYTES: usize = 6;

impl PeakBin {
    fn of(stats: &BlockStats, samples: f64) -> Self {
        let level = |value: f32| (value * 32_767.0).round().clamp(-32_767.0, 32_767.0) as i16;
        let rms = (f64::from(stats.sum_squares) / samples.max(1.0)).sqrt() as f32;
        Self { low: level(stats.low), high: level(stats.high), rms: level(rms) }
    }

    /// As stored: three little-endian numbers.
    pub fn to_bytes(self) -> [u8; PEAK_BYTES] {
        let ([a, b], [c, d], [e, f]) =
            (self.low.to_le_bytes(), self.high.to_le_bytes(), self.rms.to_le_bytes());
        [a, b, c, d, e, f]
    }

    /// Reads what [`PeakBin::to_bytes`] wrote.
    pub fn from_bytes([a, b, c, d, e, f]: [u8; PEAK_BYTES]) -> Self {
        Self {
            low: i16::from_le_bytes([a, b]),
            high: i16::from_le_bytes([c, d]),
            rms: i16::from_le_bytes([e, f]),
        }
    }
}

/// Builds all zooms of a clip's channels from the statistics of its blocks of [`PEAK_BIN`] samples.
#[derive(Debug)]
pub struct PeakReader {
    /// For each zoom above the finest, for each channel: statistics so far.
    sums: [Vec<BlockStats>; PEAK_ZOOMS],
    /// For each zoom: blocks gathered, and samples in them.
    gathered: [(usize, f64); PEAK_ZOOMS],
}

impl PeakReader {
    /// For `channels` channels.
    pub fn new(channels: usize) -> Self {
        Self {
            sums: std::array::from_fn(|_| vec![BlockStats::default(); channels]),
            gathered: [(0, 0.0); PEAK_ZOOMS],
        }
    }

    /// Takes the statistics of every channel's next block of `samples` samples; hands each finished bin
    /// (zoom, bytes of all channels) to `out`.
    pub fn push(&mut self, blocks: &[BlockStats], samples: usize, out: &mut impl FnMut(usize, &[u8])) {
        self.gather(0, blocks, samples as f64, out);
    }

    fn gather(
        &mut self,
        zoom: usize,
        blocks: &[BlockStats],
        samples: f64,
        out: &mut impl FnMut(usize, &[u8]),
    ) {
        let (count, length) = self.gathered[zoom];
        for (sum, block) in self.sums[zoom].iter_mut().zip(blocks) {
            *sum = if count == 0 { *block } else { joined(sum, block) };
        }
        self.gathered[zoom] = (count + 1, length + samples);
        if count + 1 == if zoom == 0 { 1 } else { PEAK_STEP } {
            self.close(zoom, out);
        }
    }

    fn close(&mut self, zoom: usize, out: &mut impl FnMut(usize, &[u8])) {
        let (_, samples) = std::mem::take(&mut self.gathered[zoom]);
        let bytes: Vec<u8> =
            self.sums[zoom].iter().flat_map(|stats| PeakBin::of(stats, samples).to_bytes()).collect();
        out(zoom, &bytes);
        if zoom + 1 < PEAK_ZOOMS {
            let sums = std::mem::take(&mut self.sums[zoom]);
            self.gather(zoom + 1, &sums, samples, out);
            self.sums[zoom] = sums;
        }
    }

    /// The bins that are not full at the end.
    pub fn finish(&mut self, out: &mut impl FnMut(usize, &[u8])) {
        for zoom in 1..PEAK_ZOOMS {
            if self.gathered[zoom].0 > 0 {
                self.close(zoom, out);
            }
        }
    }
}

fn joined(a: &BlockStats, b: &BlockStats) -> BlockStats {
    BlockStats {
        low: a.low.min(b.low),
        high: a.high.max(b.high),
        sum_squares: a.sum_squares + b.sum_squares,
        sign_changes: a.sign_changes + b.sign_changes,
    }
}

/// The coarsest zoom that still has `wanted` bins in `samples` samples.
pub fn peak_zoom(samples: u64, wanted: usize) -> usize {
    (0..PEAK_ZOOMS)
        .rev()
        .find(|&zoom| samples / (PEAK_BIN * PEAK_STEP.pow(zoom as u32)) as u64 >= wanted as u64)
        .unwrap_or(0)
}

/// `count` bins of one channel between two bins of a stored zoom (`bytes` of `channels` channels).
pub fn peak_bins(
    bytes: &[u8],
    channels: usize,
    channel: usize,
    from: f64,
    to: f64,
    count: usize,
) -> Vec<PeakBin> {
    let stride = PEAK_BYTES * channels.max(1);
    let total = bytes.len() / stride;
    let read = |bin: usize| {
        let at = bin * stride + channel * PEAK_BYTES;
        let bytes = bytes.get(at..at + PEAK_BYTES)?.try_into().ok()?;
        Some(PeakBin::from_bytes(bytes))
    };
    let place =
        |i: usize| ((from + (to - from) * i as f64 / count.max(1) as f64).max(0.0) as usize).min(total);
    (0..count)
        .map(|i| {
            let (first, end) = (place(i), place(i + 1).max(place(i) + 1).min(total));
            let bins: Vec<PeakBin> = (first..end).filter_map(read).collect();
            let squares: f64 = bins.iter().map(|bin| f64::from(bin.rms) * f64::from(bin.rms)).sum();
            PeakBin {
                low: bins.iter().map(|bin| bin.low).min().unwrap_or(0),
                high: bins.iter().map(|bin| bin.high).max().unwrap_or(0),
                rms: (squares / bins.len().max(1) as f64).sqrt() as i16,
            }
        })
        .collect()
}
