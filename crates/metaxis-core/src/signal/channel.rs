//! What a channel carries: sound to match, nothing, or a timecode signal.

use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// What was found on one channel.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, TS)]
pub struct ChannelState {
    /// Largest absolute sample, in dB below full scale (−200 for digital silence).
    pub peak_dbfs: f32,
    /// Root mean square level in dB below full scale.
    pub rms_dbfs: f32,
    /// Carries audio timecode: its edges come at one or two half-bit lengths and nowhere else.
    pub audio_timecode: bool,
    /// Digital silence or next to it.
    pub dead: bool,
}

/// Streaming meter of one channel.
#[derive(Debug)]
pub struct ChannelMeter {
    rate: f32,
    count: u64,
    sum_squares: f64,
    peak: f32,
    high: bool,
    since_edge: u32,
    intervals: Vec<u32>,
}

/// Edges kept for recognising timecode: two seconds at the densest.
const MAX_INTERVALS: usize = 10_000;

impl ChannelMeter {
    /// A meter for samples at `rate` a second.
    pub fn new(rate: u32) -> Self {
        Self {
            rate: rate as f32,
            count: 0,
            sum_squares: 0.0,
            peak: 0.0,
            high: false,
            since_edge: 0,
            intervals: vec![],
        }
    }

    /// Takes one sample.
    pub fn push(&mut self, sample: f32) {
        self.count += 1;
        self.sum_squares += f64::from(sample) * f64::from(sample);
        self.peak = self.peak.max(sample.abs());
        self.since_edge += 1;
        // Hysteresis of a tenth of the peak keeps hiss from making edges.
        let threshold = self.peak * 0.1;
        if (self.high && sample < -threshold) || (!self.high && sample > threshold) {
            self.high = !self.high;
            if self.intervals.len() < MAX_INTERVALS {
                self.intervals.push(self.since_edge);
            }
            self.since_edge = 0;
        }
    }

    /// What has been found so far.
    pub fn state(&self) -> ChannelState {
        let rms = (self.sum_squares / self.count.max(1) as f64).sqrt() as f32;
        let db = |value: f32| if value > 1e-10 { 20.0 * value.log10() } else { -200.0 };
        ChannelState {
            peak_dbfs: db(self.peak),
            rms_dbfs: db(rms),
            audio_timecode: self.looks_like_timecode(),
            dead: self.peak < 1e-4,
        }
    }

    /// Biphase mark (SMPTE ST 12-1): every interval between edges is half a bit or a whole bit.
    fn looks_like_timecode(&self) -> bool {
        if self.intervals.len() < 400 {
            return false;
        }
        let mut sorted = self.intervals.clone();
        sorted.sort_unstable();
        let half = sorted[sorted.len() / 10] as f32;
        let half_seconds = half / self.rate;
        if !(0.00008..0.0012).contains(&half_seconds) {
            return false;
        }
        let near = |target: f32| {
            let hits = self.intervals.iter().filter(|&&i| (i as f32 / target - 1.0).abs() < 0.2).count();
            hits as f32 / self.intervals.len() as f32
        };
        let (halves, wholes) = (near(half), near(2.0 * half));
        halves + wholes > 0.85 && halves > 0.1 && wholes > 0.1
    }
}

/// Which channels to mix for matching: never timecode, never dead ones. Where the first two of several
/// are alive they are the mix (recorders put it there); a stereo pair is mixed; else what is left.
/// Empty where there is nothing to listen to.
pub fn listening_channels(states: &[ChannelState]) -> Vec<usize> {
    let alive: Vec<usize> =
        (0..states.len()).filter(|&i| !states[i].dead && !states[i].audio_timecode).collect();
    if alive.starts_with(&[0, 1]) { vec![0, 1] } else { alive }
}
