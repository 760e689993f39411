//! Decoding a file's sound once, streaming, and measuring everything on the way.

use crate::{CachedClip, MediaError, Stop, ToListenRate, Tool};
use metaxis_core::{
    clip::SoundFacts,
    signal::{BandReader, Bands, ChannelMeter, ChannelState, LevelReader, listening_channels},
    sync::SampleSource,
};
use serde::{Deserialize, Serialize};
use std::{
    fs::{self, File},
    io::{BufWriter, Read, Write},
    os::unix::fs::FileExt,
    path::Path,
};

/// What listening found.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Heard {
    /// State of each channel.
    pub channels: Vec<ChannelState>,
    /// Channels that were mixed for matching; empty where there is nothing to match.
    pub used: Vec<usize>,
    /// Decoded samples a channel, at the file's own rate.
    pub samples: u64,
}

/// Seconds from the head on which the channels are judged before mixing begins.
const HEAD_S: usize = 20;

/// Listens to `path` and fills `cached`; returns at once what is there already.
///
/// # Errors
/// [`MediaError`] naming the file.
pub fn listen(
    path: &Path,
    facts: &SoundFacts,
    cached: &CachedClip,
    stop: &Stop,
) -> Result<Heard, MediaError> {
    if let Some(heard) = stored(cached) {
        return Ok(heard);
    }
    let channels = facts.channels as usize;
    let mut result = None;
    cached.write(&cached.samples(), |part| {
        let cache = |source| MediaError::Cache { path: part.to_owned(), source };
        let mut ear = Ear::new(facts.rate.0, channels, BufWriter::new(File::create(part).map_err(cache)?));
        Tool::ffmpeg(path)
            .arg_input(path)
            .args(["-vn", "-sn", "-dn", "-map", "0:a:0", "-c:a", "pcm_f32le", "-f", "f32le", "pipe:1"])
            .stream(stop, |stdout| {
                let mut bytes = vec![0_u8; 1 << 18];
                let mut kept = 0;
                loop {
                    let count = stdout.read(&mut bytes[kept..])?;
                    if count == 0 {
                        return ear.close();
                    }
                    kept += count;
                    let whole = kept - kept % (4 * channels);
                    ear.hear(&bytes[..whole])?;
                    bytes.copy_within(whole..kept, 0);
                    kept -= whole;
                }
            })?;
        result = Some(ear);
        Ok(())
    })?;
    let Some(ear) = result else { return Err(MediaError::Stopped) };
    let heard = Heard { channels: ear.states(), used: ear.used, samples: ear.samples };
    let put = |target: &Path, bytes: &[u8]| {
        cached.write(target, |part| {
            fs::write(part, bytes).map_err(|source| MediaError::Cache { path: part.to_owned(), source })
        })
    };
    put(&cached.bands(), &ear.bands.finish().0)?;
    let levels: Vec<u8> = ear.levels.finish().into_iter().map(|level| level as u8).collect();
    put(&cached.levels(), &levels)?;
    put(&cached.heard(), &serde_json::to_vec(&heard).unwrap_or_default())?;
    Ok(heard)
}

fn stored(cached: &CachedClip) -> Option<Heard> {
    serde_json::from_slice(&fs::read(cached.heard()).ok()?).ok()
}

impl Tool {
    fn arg_input(self, path: &Path) -> Self {
        self.args(["-i"]).file(path)
    }
}

/// Everything that listens to one decode.
struct Ear {
    rate: u32,
    channels: usize,
    meters: Vec<ChannelMeter>,
    head: Option<Vec<f32>>,
    used: Vec<usize>,
    resampler: Option<ToListenRate>,
    bands: BandReader,
    levels: LevelReader,
    out: BufWriter<File>,
    samples: u64,
}

impl Ear {
    fn new(rate: u32, channels: usize, out: BufWriter<File>) -> Self {
        Self {
            rate,
            channels,
            meters: (0..channels).map(|_| ChannelMeter::new(rate)).collect(),
            head: Some(vec![]),
            used: vec![],
            resampler: Some(ToListenRate::new(rate)),
            bands: BandReader::new(),
            levels: LevelReader::default(),
            out,
            samples: 0,
        }
    }

    fn states(&self) -> Vec<ChannelState> {
        self.meters.iter().map(ChannelMeter::state).collect()
    }

    fn hear(&mut self, bytes: &[u8]) -> std::io::Result<()> {
        let samples: Vec<f32> =
            bytes.chunks_exact(4).map(|b| f32::from_le_bytes([b[0], b[1], b[2], b[3]])).collect();
        for frame in samples.chunks_exact(self.channels) {
            for (meter, &sample) in self.meters.iter_mut().zip(frame) {
                meter.push(sample);
            }
        }
        self.samples += (samples.len() / self.channels) as u64;
        match &mut self.head {
            Some(head) => {
                head.extend_from_slice(&samples);
                if head.len() >= HEAD_S * self.rate as usize * self.channels {
                    self.decide()?;
                }
                Ok(())
            }
            None => self.mix(&samples),
        }
    }

    /// Chooses the channels from what was heard so far and mixes the head.
    fn decide(&mut self) -> std::io::Result<()> {
        self.used = listening_channels(&self.states());
        let head = self.head.take().unwrap_or_default();
        self.mix(&head)
    }

    fn mix(&mut self, samples: &[f32]) -> std::io::Result<()> {
        let share = 1.0 / self.used.len().max(1) as f32;
        let mono: Vec<f32> = samples
            .chunks_exact(self.channels)
            .map(|frame| self.used.iter().map(|&channel| frame[channel]).sum::<f32>() * share)
            .collect();
        let mut ready = vec![];
        if let Some(resampler) = &mut self.resampler {
            resampler.push(&mono, &mut ready);
        }
        self.store(&ready)
    }

    fn store(&mut self, ready: &[f32]) -> std::io::Result<()> {
        self.bands.push(ready);
        self.levels.push(ready);
        for sample in ready {
            let value = (sample * 32_000.0).round().clamp(-32_767.0, 32_767.0) as i16;
            self.out.write_all(&value.to_le_bytes())?;
        }
        Ok(())
    }

    fn close(&mut self) -> std::io::Result<()> {
        if self.head.is_some() {
            self.decide()?;
        }
        let mut tail = vec![];
        if let Some(resampler) = self.resampler.take() {
            resampler.finish(&mut tail);
        }
        self.store(&tail)?;
        self.out.flush()
    }
}

/// A listening stream on disk; windows are read as they are needed.
#[derive(Debug)]
pub struct StoredSamples {
    file: File,
    samples: u64,
}

impl StoredSamples {
    /// Opens a clip's listening stream and its bands.
    ///
    /// # Errors
    /// [`MediaError::Cache`] where the cache lost them.
    pub fn open(cached: &CachedClip) -> Result<(Self, Bands), MediaError> {
        let path = cached.samples();
        let cache = |source| MediaError::Cache { path: path.clone(), source };
        let file = File::open(&path).map_err(cache)?;
        let samples = file.metadata().map_err(cache)?.len() / 2;
        let bands = Bands(fs::read(cached.bands()).map_err(cache)?);
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
