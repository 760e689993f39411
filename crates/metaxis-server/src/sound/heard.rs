//! Sound as it will be written, heard before it is: the same samples, from any moment on.

use super::{
    file::SoundFile,
    mix::Mix,
    write::{Sounds, corrected, said_of_lost},
};
use metaxis_core::{
    sound::{Samples, SoundPlan, Tracks},
    turnover::LaidSound,
};
use metaxis_media::{MediaError, Stop};
use std::{
    collections::VecDeque,
    convert::Infallible,
    sync::{Arc, Mutex, PoisonError},
};

/// A file of sound that is listened to. That a camera had the recorder's signal by cable moves what is written by a few samples,
/// and nobody's ear: it is not looked for here.
pub struct Heard {
    plan: SoundPlan,
    tracks: Tracks,
    sounds: Sounds,
    mix: Option<Mix>,
    buffers: Vec<Vec<f32>>,
    mixed: Vec<Vec<f32>>,
}

impl Heard {
    /// Opens what `file` is made of.
    ///
    /// # Errors
    /// [`MediaError`] naming what cannot be read.
    pub fn open(file: &SoundFile) -> Result<Self, MediaError> {
        Self::corrected(file, false, &Stop::default())
    }

    /// The same, to the sample as it is written.
    ///
    /// # Errors
    /// As [`Heard::open`].
    pub(super) fn as_written(file: &SoundFile, stop: &Stop) -> Result<Self, MediaError> {
        Self::corrected(file, true, stop)
    }

    fn corrected(file: &SoundFile, by_cable: bool, stop: &Stop) -> Result<Self, MediaError> {
        let (plan, sounds) = corrected(file, by_cable, stop)?;
        let buffers = vec![vec![]; plan.laid.tracks.len()];
        let tracks = Tracks::new(&plan.laid);
        Ok(Self { plan, tracks, sounds, mix: file.mix.clone(), buffers, mixed: vec![] })
    }

    /// What of it could not be decoded, in words: of `file`, which it was opened of.
    pub(super) fn lost(&self, file: &SoundFile) -> Option<String> {
        said_of_lost(file, &self.plan, &self.sounds)
    }

    /// At most `count` samples from number `from` on, track after track: what there is of them. Of tracks that come out as they
    /// are laid only those that `wanted` says are read; the others are silent.
    ///
    /// # Errors
    /// [`MediaError`] naming what cannot be read.
    pub fn read(
        &mut self,
        from: i64,
        count: usize,
        wanted: impl Fn(usize) -> bool,
    ) -> Result<&[Vec<f32>], MediaError> {
        let all = self.plan.samples;
        let left = all.saturating_sub(from).clamp(0, all);
        let count = usize::try_from(left).map_or(count, |left| left.min(count));
        self.buffers.iter_mut().for_each(|track| track.resize(count, 0.0));
        let Some(mix) = &self.mix else {
            self.tracks.read_some(&mut self.sounds, from, &mut self.buffers, wanted)?;
            return Ok(&self.buffers);
        };
        // Each output may be made of all.
        self.tracks.read(&mut self.sounds, from, &mut self.buffers)?;
        mix.apply(from, &mut self.buffers, &mut self.mixed);
        Ok(&self.mixed)
    }
}

/// What is listened to at a time: a page or two, and what they had before.
const OPEN: usize = 6;

/// Sounds that are listened to, by what is in them; the one that was not for the longest is closed for another.
#[derive(Default)]
pub struct Listening(Mutex<VecDeque<(String, Arc<Mutex<Heard>>)>>);

impl Listening {
    /// The sound of that name, where it is open.
    pub fn get(&self, name: &str) -> Option<Arc<Mutex<Heard>>> {
        let mut open = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let at = open.iter().position(|(own, _)| own == name)?;
        let found = open.remove(at)?;
        let heard = found.1.clone();
        open.push_front(found);
        Some(heard)
    }

    /// Opens `file` where it is not, and returns its name: what is in it tells it from every other.
    ///
    /// # Errors
    /// Those of [`Heard::open`].
    pub fn open(&self, file: &SoundFile) -> Result<String, MediaError> {
        let name = file.notes_uid().to_owned();
        if self.get(&name).is_none() {
            let heard = Arc::new(Mutex::new(Heard::open(file)?));
            let mut open = self.0.lock().unwrap_or_else(PoisonError::into_inner);
            open.push_front((name.clone(), heard));
            open.truncate(OPEN);
        }
        Ok(name)
    }
}

/// What lies in `file`, as it is corrected. Where what it is made of cannot be read just now, it is cut without listening for
/// pauses.
pub fn laid(file: &SoundFile) -> LaidSound {
    let heard = corrected(file, false, &Stop::default()).map(|(plan, _)| plan);
    LaidSound { plan: heard.unwrap_or_else(|_| unheard(file)), ..file.planned_sound() }
}

fn unheard(file: &SoundFile) -> SoundPlan {
    let mut plan = file.plan.clone();
    for (number, source) in file.plan.laid.sources.iter().enumerate() {
        let facts =
            source.files.first().and_then(|(own, _)| file.ingredients[*own].as_ref()).map(|own| &own.facts);
        let channels =
            facts.and_then(|facts| facts.sound.as_ref()).map_or(0, |sound| sound.channels as usize);
        match plan.correct(number, &mut Silence(channels), None) {
            Ok(()) => {}
            Err(never) => match never {},
        }
    }
    plan
}

/// Nothing on so many channels.
struct Silence(usize);

impl Samples for Silence {
    type Error = Infallible;

    fn channels(&self) -> usize {
        self.0
    }

    fn read(&mut self, _: i64, out: &mut [Vec<f32>]) -> Result<(), Infallible> {
        out.iter_mut().for_each(|channel| channel.fill(0.0));
        Ok(())
    }
}
