//! What a channel carries: sound to match, nothing, or a timecode signal.

use super::BlockStats;
use crate::ltc::{LtcFound, LtcReader, LtcSummary};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// What was found on one channel.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, TS)]
pub struct ChannelState {
    /// Largest absolute sample, in dB below full scale (−200 for digital silence).
    pub peak_dbfs: f32,
    /// Root mean square level in dB below full scale.
    pub rms_dbfs: f32,
    /// Samples cut off at full scale: those in runs of three or more.
    pub clipped: u32,
    /// Digital silence or next to it.
    pub dead: bool,
    /// Audio timecode, where the channel carries it.
    pub audio_timecode: Option<LtcFound>,
}

impl ChannelState {
    /// Whether there is sound on it to match: neither dead nor timecode.
    pub fn carries_sound(&self) -> bool {
        !self.dead && self.audio_timecode.is_none()
    }
}

/// Streaming meter of one channel, fed with blocks of equal length.
#[derive(Debug)]
pub struct ChannelMeter {
    rate: u32,
    count: u64,
    sum_squares: f64,
    peak: f32,
    clipped: u32,
    /// Full-scale samples at the end of what was fed.
    full_run: u32,
    timecode: LtcReader,
    summary: LtcSummary,
    /// Blocks for which the decoder goes on although one did not look like timecode.
    patience: u32,
    frames: Vec<crate::ltc::LtcFrame>,
}

/// At and above this a sample is taken to be cut off.
const FULL_SCALE: f32 = 0.9995;
/// Blocks that may look otherwise (a dropout, a bump) before the decoder rests.
const PATIENCE: u32 = 8;

impl ChannelMeter {
    /// A meter for samples at `rate` a second.
    pub fn new(rate: u32) -> Self {
        Self {
            rate,
            count: 0,
            sum_squares: 0.0,
            peak: 0.0,
            clipped: 0,
            full_run: 0,
            timecode: LtcReader::new(rate),
            summary: LtcSummary::default(),
            patience: 0,
            frames: vec![],
        }
    }

    /// Takes a block of samples with its statistics.
    pub fn push(&mut self, samples: &[f32], stats: &BlockStats) {
        self.count += samples.len() as u64;
        self.sum_squares += f64::from(stats.sum_squares);
        self.peak = self.peak.max(stats.peak());
        if stats.peak() >= FULL_SCALE {
            self.count_clipped(samples);
        } else {
            self.full_run = 0;
        }
        self.patience = if self.may_be_timecode(samples.len(), stats) {
            PATIENCE
        } else {
            self.patience.saturating_sub(1)
        };
        if self.patience > 0 {
            self.timecode.push(samples, &mut self.frames);
            for frame in self.frames.drain(..) {
                self.summary.add(&frame);
            }
        } else {
            self.timecode.skip(samples.len());
        }
    }

    fn count_clipped(&mut self, samples: &[f32]) {
        for sample in samples {
            if sample.abs() < FULL_SCALE {
                self.full_run = 0;
                continue;
            }
            self.full_run += 1;
            let fresh = match self.full_run {
                0..=2 => 0,
                3 => 3,
                _ => 1,
            };
            self.clipped = self.clipped.saturating_add(fresh);
        }
    }

    /// A cheap gate: timecode changes sides between 960 (24 fps at half speed, all zeros) and 9600 (30 fps at
    /// double speed, all ones) times a second, and its peak is hardly above its level.
    fn may_be_timecode(&self, samples: usize, stats: &BlockStats) -> bool {
        let seconds = samples as f32 / self.rate.max(1) as f32;
        let changes = stats.sign_changes as f32 / seconds.max(1e-6);
        let level = (stats.sum_squares / samples.max(1) as f32).sqrt();
        (700.0..11_000.0).contains(&changes) && level > 1e-4 && stats.peak() < 2.0 * level
    }

    /// What has been found so far.
    pub fn state(&self) -> ChannelState {
        let rms = (self.sum_squares / self.count.max(1) as f64).sqrt() as f32;
        let db = |value: f32| if value > 1e-10 { 20.0 * value.log10() } else { -200.0 };
        ChannelState {
            peak_dbfs: db(self.peak),
            rms_dbfs: db(rms),
            clipped: self.clipped,
            dead: self.peak < 1e-4,
            audio_timecode: self.summary.finish(self.count, self.rate),
        }
    }
}

/// A sound to match: channels and the gain with which each goes into the mix.
pub type Mix = Vec<(usize, f32)>;

/// From this correlation of their first differences on, two channels hear the same: far microphones share little more
/// than the direct sound, and it is just their mix in which that stands out of the echoes.
const ALIKE: f64 = 0.03;
/// From this on downwards one of them is wired inverted.
const INVERTED: f64 = -0.2;

/// The sounds to match, from what was heard of each channel (`planes`) and its state: never timecode, never dead
/// channels. The first two living channels are mixed where they hear the same (recorders put the mix there, cameras a
/// stereo pair), the second turned round where it is wired inverted. Where they do not, the first is one sound and all
/// the others, brought to one level, another: what matches decides. Empty where there is nothing to listen to.
pub fn listening_mixes(states: &[ChannelState], planes: &[Vec<f32>]) -> Vec<Mix> {
    let alive: Vec<usize> = (0..states.len()).filter(|&i| states[i].carries_sound()).collect();
    match alive[..] {
        [] => vec![],
        [only] => vec![vec![(only, 1.0)]],
        [first, second, ..] => {
            let alike = likeness(&planes[first], &planes[second]);
            if !(INVERTED..ALIKE).contains(&alike) {
                return vec![vec![(first, 0.5), (second, 0.5 * alike.signum() as f32)]];
            }
            let level = |i: usize| 10_f32.powf(states[i].rms_dbfs / 20.0).max(1e-5);
            let loudest = alive[1..].iter().map(|&i| level(i)).fold(0.0, f32::max);
            let share = 1.0 / (alive.len() - 1) as f32;
            let rest = alive[1..].iter().map(|&i| (i, (share * loudest / level(i)).min(30.0))).collect();
            vec![vec![(first, 1.0)], rest]
        }
    }
}

/// Correlation of the first differences: rumble and hum, which any two channels share, have no say.
fn likeness(a: &[f32], b: &[f32]) -> f64 {
    let (mut xy, mut xx, mut yy) = (0.0_f64, 1e-12_f64, 1e-12_f64);
    for (a, b) in a.windows(2).zip(b.windows(2)) {
        let (x, y) = (a[1] - a[0], b[1] - b[0]);
        xy += f64::from(x * y);
        xx += f64::from(x * x);
        yy += f64::from(y * y);
    }
    xy / (xx * yy).sqrt()
}
