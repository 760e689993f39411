//! Decoding a file's sound once, streaming, and measuring everything on the way.

use crate::{
    CachedClip, MediaError, Stop, ToListenRate,
    cache::PartFile,
    decode::decoder,
    reader::{self, Answer},
    wav::WavSamples,
};
use metaxis_core::{
    clip::SoundFacts,
    signal::{
        BandReader, Bands, BlockStats, ChannelMeter, ChannelState, LevelReader, Mix, PEAK_BIN, PEAK_ZOOMS,
        PeakReader, listening_mixes,
    },
    sync::SampleSource,
};
use serde::{Deserialize, Serialize};
use std::{
    fs::{self, File},
    io::{self, Read, Write},
    os::unix::fs::FileExt,
    path::Path,
};

/// What listening found.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Heard {
    /// State of each channel.
    pub channels: Vec<ChannelState>,
    /// Channels that take part in matching; empty where there is nothing to match.
    pub used: Vec<usize>,
    /// How many sounds were made of them to match: one mix, or two where the channels hear different things.
    #[serde(default = "one")]
    pub sounds: usize,
    /// Decoded samples a channel, at the file's own rate.
    pub samples: u64,
}

fn one() -> usize {
    1
}

/// Name under which it is kept: written last, so where it is, all is.
const HEARD: &str = "heard";
/// Seconds from the head on which the channels are judged before mixing begins.
const HEAD_S: usize = 20;

/// Listens to `path` and fills `cached`; returns at once what is there already. `progress` is told the samples a
/// channel decoded so far.
///
/// # Errors
/// [`MediaError`] naming the file.
pub fn listen(
    path: &Path,
    facts: &SoundFacts,
    cached: &CachedClip,
    stop: &Stop,
    progress: &dyn Fn(u64),
) -> Result<Heard, MediaError> {
    if let Some(heard) = stored(cached) {
        return Ok(heard);
    }
    let mut ear = hear_all(path, facts, cached, stop, progress, None)?;
    if ear.was_misled() {
        // Timecode that began later, a microphone plugged in late: once more, knowing all of it.
        let states = ear.states();
        drop(ear);
        ear = hear_all(path, facts, cached, stop, progress, Some(states))?;
    }
    let heard =
        Heard { channels: ear.states(), used: ear.used(), sounds: ear.voices.len(), samples: ear.samples };
    let put = |target, bytes: &[u8]| {
        let mut part = cached.begin(target)?;
        part.write_all(bytes).map_err(|source| MediaError::Cache { path: cached.bands(0), source })?;
        part.keep()
    };
    for (i, voice) in ear.voices.into_iter().enumerate() {
        put(cached.bands(i), &voice.bands.finish().0)?;
        voice.out.keep()?;
    }
    let levels: Vec<u8> = ear.levels.finish().into_iter().map(|level| level as u8).collect();
    put(cached.levels(), &levels)?;
    for zoom in ear.zooms {
        zoom.keep()?;
    }
    // Last, so that where it is, all is.
    cached.keep(HEARD, &heard)?;
    Ok(heard)
}

/// Hears all of a file; `known` is what its channels carry, where that was found before.
fn hear_all(
    path: &Path,
    facts: &SoundFacts,
    cached: &CachedClip,
    stop: &Stop,
    progress: &dyn Fn(u64),
    known: Option<Vec<ChannelState>>,
) -> Result<Ear, MediaError> {
    let begin = || Ear::new(facts, cached, known.clone());
    let unreadable = |source| MediaError::Read { path: path.to_owned(), source };
    let kept = |source| MediaError::Cache { path: cached.samples(0), source };
    let Some(mut wav) = WavSamples::open(path, facts).map_err(unreadable)? else {
        return decode(path, facts, cached, stop, progress, &begin);
    };
    let (mut ear, mut samples) = (begin()?, vec![]);
    loop {
        wav.next(&mut samples).map_err(unreadable)?;
        if stop.is_stopped() {
            return Err(MediaError::Stopped);
        }
        if samples.is_empty() {
            ear.close().map_err(kept)?;
            return Ok(ear);
        }
        ear.hear(&samples).map_err(kept)?;
        progress(ear.samples);
    }
}

/// Hears all of a file that has to be decoded: by the reader, or else by ffmpeg from the beginning.
fn decode(
    path: &Path,
    facts: &SoundFacts,
    cached: &CachedClip,
    stop: &Stop,
    progress: &dyn Fn(u64),
    begin: &dyn Fn() -> Result<Ear, MediaError>,
) -> Result<Ear, MediaError> {
    let mut ear = begin()?;
    let channels = facts.channels as usize;
    let mut samples = vec![];
    let mut hear = |ear: &mut Ear, bytes: &[u8]| {
        samples.clear();
        samples.extend(bytes.as_chunks().0.iter().map(|b| f32::from_le_bytes(*b)));
        ear.hear(&samples)?;
        progress(ear.samples);
        io::Result::Ok(())
    };
    let kept = |source| MediaError::Cache { path: cached.samples(0), source };
    let answer = reader::sound(path, facts, stop, |bytes| hear(&mut ear, bytes).map_err(kept))?;
    if matches!(answer, Answer::Whole) {
        ear.close().map_err(kept)?;
        return Ok(ear);
    }
    drop(ear);
    let mut ear = begin()?;
    decoder(path, facts).stream(stop, |stdout| {
        let mut bytes = vec![0_u8; 1 << 18];
        let mut kept = 0;
        loop {
            let count = stdout.read(&mut bytes[kept..])?;
            if count == 0 {
                return ear.close();
            }
            kept += count;
            let whole = kept - kept % (4 * channels);
            hear(&mut ear, &bytes[..whole])?;
            bytes.copy_within(whole..kept, 0);
            kept -= whole;
        }
    })?;
    Ok(ear)
}

/// What was heard before, if all of it is still there: an older release kept it under other names.
fn stored(cached: &CachedClip) -> Option<Heard> {
    let heard: Heard = cached.kept(HEARD)?;
    let whole = |sound| cached.samples(sound).exists() && cached.bands(sound).exists();
    (0..heard.sounds).all(whole).then_some(heard)
}

/// Everything that listens to one decode.
struct Ear {
    rate: u32,
    channels: usize,
    meters: Vec<ChannelMeter>,
    peaks: PeakReader,
    zooms: Vec<PartFile>,
    /// Samples of each channel that do not fill a block yet.
    planes: Vec<Vec<f32>>,
    head: Option<Vec<f32>>,
    /// What the channels carry, where that was found before.
    known: Option<Vec<ChannelState>>,
    /// Channels that carried sound when the sounds were chosen.
    alive: Vec<bool>,
    voices: Vec<Voice>,
    cached: CachedClip,
    levels: LevelReader,
    samples: u64,
}

/// One sound to match, on its way to the cache.
struct Voice {
    mix: Mix,
    resampler: Option<ToListenRate>,
    bands: BandReader,
    out: PartFile,
}

impl Voice {
    /// Takes what is ready and gives it back.
    fn store(&mut self, ready: &[f32]) -> io::Result<()> {
        self.bands.push(ready);
        let quantised =
            |sample: &f32| (sample * 32_000.0).clamp(-32_767.0, 32_767.0).round_ties_even() as i16;
        let bytes: Vec<u8> = ready.iter().flat_map(|sample| quantised(sample).to_le_bytes()).collect();
        self.out.write_all(&bytes)
    }
}

impl Ear {
    fn new(
        facts: &SoundFacts,
        cached: &CachedClip,
        known: Option<Vec<ChannelState>>,
    ) -> Result<Self, MediaError> {
        let (rate, channels) = (facts.rate.0, facts.channels as usize);
        Ok(Self {
            rate,
            channels,
            meters: (0..channels).map(|_| ChannelMeter::new(rate)).collect(),
            peaks: PeakReader::new(channels),
            zooms: (0..PEAK_ZOOMS).map(|zoom| cached.begin(cached.peaks(zoom))).collect::<Result<_, _>>()?,
            planes: vec![vec![]; channels],
            head: Some(vec![]),
            known,
            alive: vec![],
            voices: vec![],
            cached: cached.clone(),
            levels: LevelReader::default(),
            samples: 0,
        })
    }

    fn states(&self) -> Vec<ChannelState> {
        self.meters.iter().map(ChannelMeter::state).collect()
    }

    /// Takes the next interleaved samples.
    fn hear(&mut self, samples: &[f32]) -> io::Result<()> {
        if let [plane] = &mut self.planes[..] {
            plane.extend_from_slice(samples);
        } else {
            for (channel, plane) in self.planes.iter_mut().enumerate() {
                plane.extend(samples.chunks_exact(self.channels).map(|frame| frame[channel]));
            }
        }
        let blocks = self.planes.first().map_or(0, Vec::len) / PEAK_BIN;
        self.measure(blocks * PEAK_BIN)?;
        self.samples += (samples.len() / self.channels) as u64;
        match &mut self.head {
            Some(head) => {
                head.extend_from_slice(samples);
                if head.len() >= HEAD_S * self.rate as usize * self.channels {
                    self.decide()?;
                }
                Ok(())
            }
            None => self.mix(samples),
        }
    }

    /// Meters and waveforms of the next `count` samples of every channel.
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
        for plane in &mut self.planes {
            plane.drain(..count);
        }
        failed
    }

    /// Whether the whole of it shows other channels with sound than its head did.
    fn was_misled(&self) -> bool {
        self.known.is_none()
            && self.meters.iter().map(|meter| meter.state().carries_sound()).ne(self.alive.iter().copied())
    }

    /// Channels that take part.
    fn used(&self) -> Vec<usize> {
        self.voices.iter().flat_map(|voice| voice.mix.iter().map(|(channel, _)| *channel)).collect()
    }

    /// Chooses the sounds from what was heard so far and mixes the head.
    fn decide(&mut self) -> io::Result<()> {
        let head = self.head.take().unwrap_or_default();
        let plane = |channel| head.chunks_exact(self.channels).map(|frame: &[f32]| frame[channel]).collect();
        let planes: Vec<Vec<f32>> = (0..self.channels).map(plane).collect();
        let states = self.known.clone().unwrap_or_else(|| self.states());
        self.alive = states.iter().map(ChannelState::carries_sound).collect();
        let mut mixes = listening_mixes(&states, &planes);
        if mixes.is_empty() {
            // An empty sound: what is there is complete, and says that there is nothing to match.
            mixes.push(vec![]);
        }
        for (i, mix) in mixes.into_iter().enumerate() {
            let out = self.cached.begin(self.cached.samples(i)).map_err(io::Error::other)?;
            let resampler = Some(ToListenRate::new(self.rate));
            self.voices.push(Voice { mix, resampler, bands: BandReader::new(), out });
        }
        self.mix(&head)
    }

    fn mix(&mut self, samples: &[f32]) -> io::Result<()> {
        let frames = || samples.chunks_exact(self.channels);
        for (i, voice) in self.voices.iter_mut().enumerate() {
            let mono: Vec<f32> = match voice.mix[..] {
                [(one, gain)] => frames().map(|frame| gain * frame[one]).collect(),
                [(one, a), (other, b)] => frames().map(|frame| a * frame[one] + b * frame[other]).collect(),
                _ => frames().map(|frame| voice.mix.iter().map(|(k, gain)| gain * frame[*k]).sum()).collect(),
            };
            let mut ready = vec![];
            if let Some(resampler) = &mut voice.resampler {
                resampler.push(&mono, &mut ready);
            }
            voice.store(&ready)?;
            if i == 0 {
                self.levels.push(&ready);
            }
        }
        Ok(())
    }

    fn close(&mut self) -> std::io::Result<()> {
        let rest = self.planes.first().map_or(0, Vec::len);
        self.measure(rest)?;
        if self.head.is_some() {
            self.decide()?;
        }
        for (i, voice) in self.voices.iter_mut().enumerate() {
            let mut tail = vec![];
            if let Some(resampler) = voice.resampler.take() {
                resampler.finish(&mut tail);
            }
            voice.store(&tail)?;
            if i == 0 {
                self.levels.push(&tail);
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
}

/// A listening stream on disk; windows are read as they are needed.
#[derive(Debug)]
pub struct StoredSamples {
    file: File,
    samples: u64,
}

impl StoredSamples {
    /// Opens a clip's listening stream number `sound` and its bands.
    ///
    /// # Errors
    /// [`MediaError::Cache`] where the cache lost them.
    pub fn open(cached: &CachedClip, sound: usize) -> Result<(Self, Bands), MediaError> {
        let path = cached.samples(sound);
        let cache = |source| MediaError::Cache { path: path.clone(), source };
        let file = File::open(&path).map_err(cache)?;
        let samples = file.metadata().map_err(cache)?.len() / 2;
        let bands = Bands(fs::read(cached.bands(sound)).map_err(cache)?);
        Ok((Self { file, samples }, bands))
    }
}

impl SampleSource for StoredSamples {
    fn len(&self) -> u64 {
        self.samples
    }

    fn read(&self, from: i64, out: &mut [f32]) {
        out.fill(0.0);
        let begin = from.clamp(0, self.samples as i64);
        let end = (from + out.len() as i64).clamp(0, self.samples as i64);
        if begin >= end {
            return;
        }
        let mut bytes = vec![0_u8; (end - begin) as usize * 2];
        if self.file.read_exact_at(&mut bytes, begin as u64 * 2).is_err() {
            return; // the cache was cleared under us: silence matches nothing
        }
        let place = (begin - from) as usize;
        for (value, pair) in out[place..].iter_mut().zip(bytes.chunks_exact(2)) {
            *value = f32::from(i16::from_le_bytes([pair[0], pair[1]])) / 32_000.0;
        }
    }
}
