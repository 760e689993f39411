//! From samples to edges: where the signal changes sides of its own middle.

/// Time constant of the envelopes, seconds: long against a bit, short against hum.
const DECAY_S: f64 = 0.006;
/// Share of half the swing that must be passed on the other side before an edge counts.
const HYSTERESIS: f32 = 0.25;
/// Least swing that can carry timecode: below −86 dBFS.
const LEAST: f32 = 1e-4;
/// Blocks a second for which one envelope holds.
const BLOCK_RATE: u32 = 750;
/// Longest block, and samples kept of the one before it to look for the crossing in.
const MOST: usize = 128;
const TAIL: usize = 32;

#[derive(Debug)]
pub(super) struct Slicer {
    block: usize,
    decay: f32,
    high: f32,
    low: f32,
    /// The side the signal is known to be on.
    up: bool,
    /// Samples taken so far.
    position: u64,
    /// The last samples taken, then the block at work on.
    window: [f32; TAIL + MOST],
}

impl Slicer {
    pub(super) fn new(rate: u32) -> Self {
        let block = ((rate / BLOCK_RATE) as usize).clamp(8, MOST);
        let decay = 1.0 - (-(block as f64) / (DECAY_S * f64::from(rate.max(1)))).exp();
        Self {
            block,
            decay: decay as f32,
            high: 0.0,
            low: 0.0,
            up: false,
            position: 0,
            window: [0.0; TAIL + MOST],
        }
    }

    pub(super) fn skip(&mut self, count: usize) {
        self.position += count as u64;
        (self.high, self.low) = (0.0, 0.0);
        self.window = [0.0; TAIL + MOST];
    }

    /// Takes samples; tells `edge` the position, between samples, of each edge that is complete in them.
    pub(super) fn push(&mut self, samples: &[f32], mut edge: impl FnMut(f64)) {
        for block in samples.chunks(self.block) {
            self.take(block, &mut edge);
        }
    }

    fn take(&mut self, block: &[f32], edge: &mut impl FnMut(f64)) {
        let (top, bottom) = block.iter().fold((f32::MIN, f32::MAX), |(a, b), &x| (a.max(x), b.min(x)));
        let swing = self.high - self.low;
        self.high = (self.high - swing * self.decay).max(top);
        self.low = (self.low + swing * self.decay).min(bottom);
        let middle = 0.5 * (self.high + self.low);
        let half = 0.5 * (self.high - self.low);
        self.window[TAIL..TAIL + block.len()].copy_from_slice(block);
        if 2.0 * half > LEAST {
            let (above, below) = (middle + HYSTERESIS * half, middle - HYSTERESIS * half);
            let mut i = 0;
            while let Some(step) = if self.up {
                block[i..].iter().position(|sample| *sample < below)
            } else {
                block[i..].iter().position(|sample| *sample > above)
            } {
                i += step;
                self.up = !self.up;
                edge(self.crossing(i, middle));
            }
        }
        self.position += block.len() as u64;
        self.window.copy_within(block.len()..block.len() + TAIL, 0);
    }

    /// Where the signal last crossed the middle, at or before sample `i` of the block.
    fn crossing(&self, i: usize, middle: f32) -> f64 {
        let at = TAIL + i;
        let side = self.window[at] >= middle;
        let crossed = (1..=TAIL).find(|back| (self.window[at - back] >= middle) != side).unwrap_or(1);
        let (before, after) = (self.window[at - crossed] - middle, self.window[at - crossed + 1] - middle);
        let part = if before == after { 0.0 } else { f64::from(before / (before - after)).clamp(0.0, 1.0) };
        (self.position + i as u64) as f64 - crossed as f64 + part
    }
}
