//! Audio timecode: SMPTE ST 12-1 linear timecode on a sound channel.
//!
//! [`LtcReader`] takes samples as they come and gives frames; [`LtcSummary`] says what a channel carried.

mod bits;
mod frame;
mod runs;
mod slicer;
mod summary;

pub use frame::LtcFrame;
pub use summary::{AgainstBox, LtcFound, LtcSummary};

use bits::BitClock;
use frame::FRAME_BITS;
use slicer::Slicer;

/// Streaming decoder of one channel, forwards and backwards, at any speed its bits can be told apart.
#[derive(Debug)]
pub struct LtcReader {
    slicer: Slicer,
    framer: Framer,
}

/// From edges to frames.
#[derive(Debug)]
struct Framer {
    bits: BitClock,
    /// The last 80 bits, the oldest lowest.
    register: u128,
    /// Bits in a row since the clock was last lost.
    run: usize,
    /// Sample positions of the last 81 bit boundaries, as a ring.
    bounds: [f64; FRAME_BITS + 1],
}

impl LtcReader {
    /// A decoder for samples at `rate` a second.
    pub fn new(rate: u32) -> Self {
        let framer = Framer { bits: BitClock::default(), register: 0, run: 0, bounds: [0.0; FRAME_BITS + 1] };
        Self { slicer: Slicer::new(rate), framer }
    }

    /// Takes the next samples and adds the frames that end in them to `found`.
    pub fn push(&mut self, samples: &[f32], found: &mut Vec<LtcFrame>) {
        let Self { slicer, framer } = self;
        slicer.push(samples, |edge| framer.edge(edge, found));
    }

    /// Passes over `count` samples that carry no timecode.
    pub fn skip(&mut self, count: usize) {
        self.slicer.skip(count);
        self.framer.bits = BitClock::default();
        self.framer.run = 0;
    }
}

impl Framer {
    fn edge(&mut self, at: f64, found: &mut Vec<LtcFrame>) {
        match self.bits.edge(at) {
            bits::Step::None => {}
            bits::Step::Lost => self.run = 0,
            bits::Step::Bit { one, from, to } => {
                if self.run == 0 {
                    self.bounds[0] = from;
                }
                self.run += 1;
                self.bounds[self.run % (FRAME_BITS + 1)] = to;
                self.register = (self.register >> 1) | (u128::from(one) << (FRAME_BITS - 1));
                if self.run >= FRAME_BITS
                    && let Some(frame) = LtcFrame::read(self.register, || self.bound_line())
                {
                    found.push(frame);
                }
            }
        }
    }

    /// Least-squares line through the last 81 boundaries: position of the oldest, samples a bit.
    fn bound_line(&self) -> (f64, f64) {
        const N: f64 = (FRAME_BITS + 1) as f64;
        let mid = (N - 1.0) / 2.0;
        let spread = N * (N * N - 1.0) / 12.0;
        let oldest = self.run + 1;
        let at = |i: usize| self.bounds[(oldest + i) % (FRAME_BITS + 1)];
        let mean = (0..=FRAME_BITS).map(at).sum::<f64>() / N;
        let slope = (0..=FRAME_BITS).map(|i| (i as f64 - mid) * (at(i) - mean)).sum::<f64>() / spread;
        (mean - mid * slope, slope)
    }
}
