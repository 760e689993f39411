//! From samples to edges: where the signal changes sides of its own middle.

/// Time constant of the envelopes, seconds: long against a bit, short against hum.
const DECAY_S: f64 = 0.006;
/// Share of half the swing that must be passed on the other side before an edge counts.
const HYSTERESIS: f32 = 0.25;
/// Least swing that can carry timecode: below −86 dBFS.
const LEAST: f32 = 1e-4;

#[derive(Debug)]
pub(super) struct Slicer {
    decay: f32,
    high: f32,
    low: f32,
    /// The side the signal is known to be on.
    up: bool,
    last: f32,
    /// Where it last crossed the middle.
    crossed: f64,
    position: u64,
}

impl Slicer {
    pub(super) fn new(rate: u32) -> Self {
        let decay = (1.0 - (-1.0 / (DECAY_S * f64::from(rate.max(1)))).exp()) as f32;
        Self { decay, high: 0.0, low: 0.0, up: false, last: 0.0, crossed: 0.0, position: 0 }
    }

    pub(super) fn skip(&mut self, count: usize) {
        self.position += count as u64;
        (self.high, self.low, self.last) = (0.0, 0.0, 0.0);
    }

    /// Takes a sample; the position of an edge, between samples, where one is complete.
    pub(super) fn push(&mut self, sample: f32) -> Option<f64> {
        let swing = self.high - self.low;
        self.high = (self.high - swing * self.decay).max(sample);
        self.low = (self.low + swing * self.decay).min(sample);
        let middle = 0.5 * (self.high + self.low);
        let (before, now) = (self.last - middle, sample - middle);
        if (before < 0.0) != (now < 0.0) {
            let part = f64::from(before / (before - now));
            self.crossed = self.position as f64 - 1.0 + part.clamp(0.0, 1.0);
        }
        self.last = sample;
        self.position += 1;
        let need = HYSTERESIS * 0.5 * (self.high - self.low);
        let changed = if self.up { now < -need } else { now > need };
        if changed && self.high - self.low > LEAST {
            self.up = !self.up;
            return Some(self.crossed);
        }
        None
    }
}
