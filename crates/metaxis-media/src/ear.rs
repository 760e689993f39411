//! Everything that listens to one decode: meters, waveforms, and each channel at the rate at which it is matched.

use crate::{
    CachedClip, MediaError,
    cache::PartFile,
    mark::Mark,
    mixing::make_sounds,
    voice::Voice,
    voices::{Block, Order, Voices},
};
use metaxis_core::{
    clip::SoundFacts,
    signal::{
        BlockStats, Carries, ChannelMeter, ChannelState, Heard, LostSound, PEAK_BIN, PEAK_ZOOMS, PeakReader,
    },
};
use std::io::{self, Write};

/// A channel was left alone that has sound to match.
pub(crate) struct Misled;

/// Everything that listens to one decode.
pub(crate) struct Ear {
    rate: u32,
    channels: usize,
    meters: Vec<ChannelMeter>,
    peaks: PeakReader,
    zooms: Vec<PartFile>,
    /// Samples of each channel that do not fill a block yet.
    planes: Vec<Vec<f32>>,
    /// The channels on their way to the cache, and there.
    voices: Voices,
    written: Vec<Voice>,
    /// Whether channels that carry timecode are left alone, and which are.
    resting: bool,
    rests: Vec<bool>,
    /// Samples a channel so far.
    pub samples: u64,
    /// Of these, measured.
    measured: u64,
    /// What of them was not there.
    lost: Vec<LostSound>,
}

/// Above this a sample of floating point means nothing, and its square is still a number.
const LARGEST: f32 = 1e9;

/// Makes silence of what is no number; returns how many there were.
fn make_numbers(samples: &mut [f32]) -> u64 {
    let mut count = 0;
    for sample in samples {
        if !sample.is_finite() {
            *sample = 0.0;
            count += 1;
        }
        *sample = sample.clamp(-LARGEST, LARGEST);
    }
    count
}

/// Seconds after which a channel that carries timecode is left alone.
const HEAD_S: u64 = 20;

impl Ear {
    pub(crate) fn new(facts: &SoundFacts, cached: &CachedClip, resting: bool) -> Result<Self, MediaError> {
        let (rate, channels) = (facts.rate.0, facts.channels as usize);
        Ok(Self {
            rate,
            channels,
            meters: (0..channels).map(|_| ChannelMeter::new(rate)).collect(),
            peaks: PeakReader::new(channels),
            zooms: (0..PEAK_ZOOMS).map(|zoom| cached.begin(cached.peaks(zoom))).collect::<Result<_, _>>()?,
            planes: vec![vec![]; channels],
            voices: Voices::new(rate, channels, cached)
                .map_err(|source| MediaError::Cache { path: cached.samples(0), source })?,
            written: vec![],
            resting,
            rests: vec![false; channels],
            samples: 0,
            measured: 0,
            lost: vec![],
        })
    }

    /// Takes the next interleaved samples.
    pub(crate) fn hear(&mut self, samples: &[f32]) -> io::Result<()> {
        if let [plane] = &mut self.planes[..] {
            plane.extend_from_slice(samples);
        } else {
            for (channel, plane) in self.planes.iter_mut().enumerate() {
                plane.extend(samples.chunks_exact(self.channels).map(|frame| frame[channel]));
            }
        }
        self.samples += (samples.len() / self.channels) as u64;
        let blocks = self.planes.first().map_or(0, Vec::len) / PEAK_BIN;
        self.measure(blocks * PEAK_BIN)
    }

    /// Makes up for `count` samples of each channel that are not there.
    pub(crate) fn hear_nothing(&mut self, count: u64) -> io::Result<()> {
        LostSound { from: self.samples, count }.add_to(&mut self.lost);
        let silence = vec![0.0; PEAK_BIN * self.channels];
        let mut left = count;
        while left > 0 {
            let now = left.min(PEAK_BIN as u64);
            self.hear(&silence[..now as usize * self.channels])?;
            left -= now;
        }
        Ok(())
    }

    /// Meters, waveforms and listening streams of the next `count` samples of every channel.
    fn measure(&mut self, count: usize) -> io::Result<()> {
        let (zooms, mut failed) = (&mut self.zooms, Ok(()));
        let mut out = |zoom: usize, bytes: &[u8]| {
            if failed.is_ok() {
                failed = zooms[zoom].write_all(bytes);
            }
        };
        let mut stats = vec![BlockStats::default(); self.channels];
        for from in (0..count).step_by(PEAK_BIN) {
            let to = (from + PEAK_BIN).min(count);
            for ((plane, meter), stats) in self.planes.iter_mut().zip(&mut self.meters).zip(&mut stats) {
                *stats = BlockStats::of(&plane[from..to]);
                if !stats.sum_squares.is_finite() {
                    meter.note_no_numbers(make_numbers(&mut plane[from..to]));
                    *stats = BlockStats::of(&plane[from..to]);
                }
                meter.push(&plane[from..to], stats);
            }
            self.peaks.push(&stats, to - from, &mut out);
        }
        failed?;
        if count == 0 {
            return Ok(());
        }
        let orders = (0..self.channels).map(|channel| self.order(channel, count)).collect();
        self.measured += count as u64;
        let left: Vec<Vec<f32>> = self.planes.iter().map(|plane| plane[count..].to_vec()).collect();
        let planes = std::mem::take(&mut self.planes);
        self.planes = self.voices.take(Block { planes, count, orders })?;
        for (plane, left) in self.planes.iter_mut().zip(&left) {
            plane.extend_from_slice(left);
        }
        Ok(())
    }

    /// What becomes of a channel, of which the next `count` samples were measured.
    fn order(&mut self, channel: usize, count: usize) -> Order {
        let head = HEAD_S * u64::from(self.rate);
        let (before, now) = (self.measured, self.measured + count as u64);
        if self.resting && before < head && now >= head {
            self.rests[channel] = self.meters[channel].state().carries == Carries::Timecode;
        }
        if self.rests[channel] {
            Order::Rest
        } else if self.meters[channel].is_dead() {
            Order::Wait
        } else {
            Order::Speak
        }
    }

    pub(crate) fn close(&mut self) -> io::Result<()> {
        let rest = self.planes.first().map_or(0, Vec::len);
        self.measure(rest)?;
        self.written = self.voices.join()?;
        let (zooms, mut failed) = (&mut self.zooms, Ok(()));
        self.peaks.finish(&mut |zoom, bytes| {
            if failed.is_ok() {
                failed = zooms[zoom].write_all(bytes);
            }
        });
        failed
    }

    /// Makes the sounds to match of what was heard, and keeps everything.
    pub(crate) fn finish(
        self,
        cached: &CachedClip,
    ) -> Result<Result<(Heard, Vec<Mark>), Misled>, MediaError> {
        let states: Vec<ChannelState> = self.meters.iter().map(ChannelMeter::state).collect();
        let misled = |(rests, state): (&bool, &ChannelState)| *rests && state.carries != Carries::Timecode;
        if self.rests.iter().zip(&states).any(misled) {
            return Ok(Err(Misled));
        }
        let (mut heard, mut files) = make_sounds(states, self.written, self.samples, cached)?;
        heard.lost = self.lost;
        for zoom in self.zooms {
            files.push(zoom.keep()?);
        }
        Ok(Ok((heard, files)))
    }
}
