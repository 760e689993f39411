//! Decoding a file's sound once, streaming, and measuring everything on the way.

use crate::{
    CachedClip, MediaError, Stop,
    decode::decoder,
    ear::{Ear, Misled},
    mark::Mark,
    reader::{self, Answer, Piece},
    wav::WavSamples,
};
use metaxis_core::{clip::SoundFacts, signal::Heard};
use serde::{Deserialize, Serialize};
use std::{
    io::{self, Read},
    path::Path,
};

/// Name under which it is kept: written last, so where it is, all was.
const HEARD: &str = "heard";

/// What was found, and the files that were made on the way.
#[derive(Serialize, Deserialize)]
struct Kept {
    heard: Heard,
    files: Vec<Mark>,
}

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
    let ear = hear_all(path, facts, cached, stop, progress, true)?;
    let (heard, files) = match ear.finish(cached)? {
        Ok(kept) => kept,
        // What looked like timecode at the head was none: once more, with every channel listened to.
        Err(Misled) => match hear_all(path, facts, cached, stop, progress, false)?.finish(cached)? {
            Ok(kept) => kept,
            Err(Misled) => return Err(MediaError::Stopped),
        },
    };
    // Last, so that where it is, all is.
    cached.keep(HEARD, &Kept { heard: heard.clone(), files })?;
    Ok(heard)
}

/// Hears all of a file; `resting` says whether channels that carry timecode are left alone from then on.
fn hear_all(
    path: &Path,
    facts: &SoundFacts,
    cached: &CachedClip,
    stop: &Stop,
    progress: &dyn Fn(u64),
    resting: bool,
) -> Result<Ear, MediaError> {
    let begin = || Ear::new(facts, cached, resting);
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
    let answer = reader::sound(path, facts, 0, stop, |piece| {
        match piece {
            Piece::Samples(bytes) => hear(&mut ear, bytes),
            Piece::Lost(count) => ear.hear_nothing(count),
        }
        .map_err(kept)
    })?;
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

/// What was heard before, if all of it is still there, by the lengths of its files.
fn stored(cached: &CachedClip) -> Option<Heard> {
    let kept: Kept = cached.kept(HEARD)?;
    cached.are_whole(&kept.files, false).then_some(kept.heard)
}

/// Whether it was listened to before, and all of it is still there.
pub fn is_heard(cached: &CachedClip) -> bool {
    stored(cached).is_some()
}

/// Forgets what was heard: it is listened to again.
pub fn forget_heard(cached: &CachedClip) {
    cached.forget(HEARD);
}

/// Whether the sounds that are matched are what was heard, to the last byte; where they are not, all of it is forgotten
/// and made anew by the next [`listen`]. Waveforms, which only are looked at, are not read.
pub fn still_holds(cached: &CachedClip) -> bool {
    let holds = cached.kept(HEARD).is_some_and(|kept: Kept| {
        let matched: Vec<Mark> =
            kept.files.into_iter().filter(|file| !file.name.starts_with("peaks")).collect();
        cached.are_whole(&matched, true)
    });
    if !holds {
        forget_heard(cached);
    }
    holds
}
