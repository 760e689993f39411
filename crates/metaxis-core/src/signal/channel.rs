//! What a channel carries: sound to match, nothing, or a timecode signal.

use super::{BlockStats, Carries, carries::LevelHistogram};
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
    /// Samples that are no numbers (not finite): they count as silence.
    #[serde(default)]
    #[ts(type = "number")]
    pub no_numbers: u64,
    /// Level of its quiet tenth in dB below full scale.
    #[serde(default)]
    pub floor_dbfs: f32,
    /// What is on it.
    #[serde(default)]
    pub carries: Carries,
    /// How much later it hears than the earliest channel of the file, seconds, where one delay holds for all of it.
    #[serde(default)]
    pub late_s: Option<f64>,
    /// Audio timecode, where the channel carries it.
    pub audio_timecode: Option<LtcFound>,
}

impl ChannelState {
    /// Digital silence or next to it.
    pub fn is_dead(&self) -> bool {
        self.carries == Carries::Nothing
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
    no_numbers: u64,
    levels: LevelHistogram,
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
            no_numbers: 0,
            levels: LevelHistogram::default(),
            full_run: 0,
            timecode: LtcReader::new(rate),
            summary: LtcSummary::default(),
            patience: 0,
            frames: vec![],
        }
    }

    /// Notes that so many samples were no numbers and were made silence.
    pub fn note_no_numbers(&mut self, count: u64) {
        self.no_numbers += count;
    }

    /// Takes a block of samples with its statistics.
    pub fn push(&mut self, samples: &[f32], stats: &BlockStats) {
        self.count += samples.len() as u64;
        self.sum_squares += f64::from(stats.sum_squares);
        self.peak = self.peak.max(stats.peak());
        self.levels.push(samples.len(), stats, self.rate);
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

    /// Whether nothing was on it so far.
    pub fn is_dead(&self) -> bool {
        self.peak < 1e-4
    }

    /// What has been found so far.
    pub fn state(&self) -> ChannelState {
        let rms = (self.sum_squares / self.count.max(1) as f64).sqrt() as f32;
        let db = |value: f32| if value > 1e-10 { 20.0 * value.log10() } else { -200.0 };
        let audio_timecode = self.summary.finish(self.count, self.rate);
        let carries = if audio_timecode.is_some() {
            Carries::Timecode
        } else if self.is_dead() {
            Carries::Nothing
        } else {
            self.levels.carries(self.rate)
        };
        ChannelState {
            peak_dbfs: db(self.peak),
            rms_dbfs: db(rms),
            clipped: self.clipped,
            no_numbers: self.no_numbers,
            floor_dbfs: self.levels.floor_dbfs(),
            carries,
            late_s: None,
            audio_timecode,
        }
    }
}
