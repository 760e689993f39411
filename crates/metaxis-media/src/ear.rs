//! Everything that listens to one decode: meters, waveforms, and each channel at the rate at which it is matched.

use crate::{
    CachedClip, Heard, MediaError,
    cache::PartFile,
    mixing::make_sounds,
    voice::{Speaking, Voice},
};
use metaxis_core::{
    clip::SoundFacts,
    signal::{BlockStats, Carries, ChannelMeter, ChannelState, PEAK_BIN, PEAK_ZOOMS, PeakReader},
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
    /// Each channel on its way to the cache.
    voices: Vec<Voice>,
    /// Whether channels that carry timecode are left alone.
    resting: bool,
    cached: CachedClip,
    /// Samples a channel so far.
    pub samples: u64,
    /// Of these, measured.
    measured: u64,
}

/// Seconds after which a channel that carries timecode is left alone.
const HEAD_S: u64 = 20;
/// Silent samples that are made up for at once.
const PIECE: usize = 1 << 16;

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
            voices: (0..channels).map(|_| Voice::Waits).collect(),
            resting,
            cached: cached.clone(),
            samples: 0,
            measured: 0,
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
            for ((plane, meter), stats) in self.planes.iter().zip(&mut self.meters).zip(&mut stats) {
                *stats = BlockStats::of(&plane[from..to]);
                meter.push(&plane[from..to], stats);
            }
            self.peaks.push(&stats, to - from, &mut out);
        }
        failed?;
        for channel in 0..self.channels {
            self.voice(channel, count)?;
            self.planes[channel].drain(..count);
        }
        self.measured += count as u64;
        Ok(())
    }

    /// Hands the next samples of a channel to its voice, which begins once there is something on it.
    fn voice(&mut self, channel: usize, count: usize) -> io::Result<()> {
        if matches!(self.voices[channel], Voice::Waits) && !self.meters[channel].is_dead() {
            let out = self.cached.begin(self.cached.channel(channel)).map_err(io::Error::other)?;
            let mut speaking = Box::new(Speaking::new(self.rate, out));
            let mut silent = self.measured as usize;
            while silent > 0 {
                let piece = silent.min(PIECE);
                speaking.push(&vec![0.0; piece])?;
                silent -= piece;
            }
            self.voices[channel] = Voice::Speaks(speaking);
        }
        let head = HEAD_S * u64::from(self.rate);
        if self.resting
            && self.measured < head
            && self.measured + count as u64 >= head
            && self.meters[channel].state().carries == Carries::Timecode
        {
            self.voices[channel] = Voice::Rests;
        }
        match &mut self.voices[channel] {
            Voice::Speaks(speaking) => speaking.push(&self.planes[channel][..count]),
            Voice::Waits | Voice::Rests => Ok(()),
        }
    }

    pub(crate) fn close(&mut self) -> io::Result<()> {
        let rest = self.planes.first().map_or(0, Vec::len);
        self.measure(rest)?;
        for voice in &mut self.voices {
            if let Voice::Speaks(speaking) = voice {
                speaking.close()?;
            }
        }
        let (zooms, mut failed) = (&mut self.zooms, Ok(()));
        self.peaks.finish(&mut |zoom, bytes| {
            if failed.is_ok() {
                failed = zooms[zoom].write_all(bytes);
            }
        });
        failed
    }

    /// Makes the sounds to match of what was heard, and keeps everything.
    pub(crate) fn finish(self, cached: &CachedClip) -> Result<Result<Heard, Misled>, MediaError> {
        let states: Vec<ChannelState> = self.meters.iter().map(ChannelMeter::state).collect();
        let misled = |(voice, state): (&Voice, &ChannelState)| {
            matches!(voice, Voice::Rests) && state.carries != Carries::Timecode
        };
        if self.voices.iter().zip(&states).any(misled) {
            return Ok(Err(Misled));
        }
        let heard = make_sounds(states, self.voices, self.samples, cached)?;
        for zoom in self.zooms {
            zoom.keep()?;
        }
        Ok(Ok(heard))
    }
}
