//! From the channels of a file, each at the rate at which it is matched, to the sounds that are.

use crate::{CachedClip, MediaError, StoredSamples, mark::Mark, stored::quantise, voice::Voice};
use metaxis_core::{
    signal::{
        BandReader, ChannelState, Heard, LISTEN_RATE, LevelReader, Mix, Relation, by_clearness,
        listening_mixes, living, played, relate,
    },
    sync::SampleSource,
};
use std::io::{self, Write};

/// Samples read at once.
const PIECE: usize = 1 << 15;

/// Chooses the sounds by what the channels carry and how they lie to each other, and keeps them with their bands; the
/// first's levels too. `samples` is the length of a channel at the file's own rate.
pub(crate) fn make_sounds(
    mut states: Vec<ChannelState>,
    mut voices: Vec<Voice>,
    samples: u64,
    cached: &CachedClip,
) -> Result<(Heard, Vec<Mark>), MediaError> {
    let lost = |source| MediaError::Cache { path: cached.samples(0), source };
    let mut streams: Vec<Option<StoredSamples>> = vec![];
    for voice in &mut voices {
        streams.push(match voice {
            Voice::Speaks(speaking) => Some(speaking.out.so_far().and_then(StoredSamples::at).map_err(lost)?),
            Voice::Waits | Voice::Rests => None,
        });
    }
    let alive: Vec<usize> = living(&states).into_iter().filter(|&i| streams[i].is_some()).collect();
    let relations = relations(&states, &alive, &streams);
    let used = played(&alive, second_to_first(&alive, &streams).as_ref());
    let mixes = listening_mixes(&states, &alive, &relations);
    if alive.len() > 1 {
        for (channel, late_s) in delays(&alive, &relations) {
            states[channel].late_s = late_s;
        }
    }
    let mut marks = vec![];
    for (i, mix) in mixes.iter().enumerate() {
        match mix.only() {
            Some(channel) => {
                let Some(stream) = &streams[channel] else { continue };
                marks.extend(keep_bands(stream, cached, i)?);
            }
            None => {
                let mut out = cached.begin(cached.samples(i))?;
                mix_down(mix, &streams, &mut out).map_err(lost)?;
                let stream = out.so_far().and_then(StoredSamples::at).map_err(lost)?;
                marks.extend(keep_bands(&stream, cached, i)?);
                marks.push(out.keep()?);
            }
        }
    }
    // The channels themselves last: mixes were read from them.
    for (i, mix) in mixes.iter().enumerate() {
        if let Some(channel) = mix.only()
            && let Voice::Speaks(speaking) = std::mem::replace(&mut voices[channel], Voice::Waits)
        {
            marks.push(speaking.out.keep_as(&cached.samples(i))?);
        }
    }
    if mixes.is_empty() {
        // An empty sound: what is there is complete, and says that there is nothing to match.
        marks.push(cached.begin(cached.samples(0))?.keep()?);
        let stream = StoredSamples::at(&cached.samples(0)).map_err(lost)?;
        marks.extend(keep_bands(&stream, cached, 0)?);
    }
    Ok((Heard { channels: states, used, mixes, samples, lost: vec![] }, marks))
}

fn relations(states: &[ChannelState], alive: &[usize], streams: &[Option<StoredSamples>]) -> Vec<Relation> {
    if alive.len() < 2 {
        return vec![Relation::BASE; alive.len()];
    }
    compared(alive, &by_clearness(states, alive), streams)
}

/// How the second living channel lies to the first.
fn second_to_first(alive: &[usize], streams: &[Option<StoredSamples>]) -> Option<Relation> {
    let pair = alive.get(..2)?;
    compared(pair, &pair[..1], streams).get(1).copied()
}

fn compared(channels: &[usize], bases: &[usize], streams: &[Option<StoredSamples>]) -> Vec<Relation> {
    let read = |channel: usize, from: i64, out: &mut [f32]| match &streams[channel] {
        Some(stream) => stream.read(from, out),
        None => out.fill(0.0),
    };
    let length = |channel: &usize| streams[*channel].as_ref().map_or(0, SampleSource::len);
    relate(channels, bases, channels.iter().map(length).max().unwrap_or(0), &read)
}

/// How late each channel hears against the earliest, where that holds for the whole of it.
fn delays<'a>(
    alive: &'a [usize],
    relations: &'a [Relation],
) -> impl Iterator<Item = (usize, Option<f64>)> + 'a {
    let earliest = relations.iter().filter_map(|own| own.late_s).fold(0.0, f64::min);
    alive
        .iter()
        .zip(relations)
        .map(move |(&channel, own)| (channel, own.late_s.map(|late_s| late_s - earliest)))
}

/// Writes a mix: each of its channels with its gain, read as much further on as it is late.
fn mix_down(mix: &Mix, streams: &[Option<StoredSamples>], out: &mut impl Write) -> io::Result<()> {
    let parts = || mix.parts.iter().filter_map(|part| Some((part, streams[part.channel].as_ref()?)));
    let length = parts().map(|(_, stream)| stream.len()).max().unwrap_or(0);
    let (mut sum, mut own, mut bytes) = (vec![0.0; PIECE], vec![0.0; PIECE], vec![]);
    for from in (0..length).step_by(PIECE) {
        let count = PIECE.min((length - from) as usize);
        sum[..count].fill(0.0);
        for (part, stream) in parts() {
            let late = (part.late_s * f64::from(LISTEN_RATE)).round() as i64;
            stream.read(from as i64 + late, &mut own[..count]);
            for (sum, value) in sum.iter_mut().zip(&own[..count]) {
                *sum += part.gain * value;
            }
        }
        bytes.clear();
        quantise(&sum[..count], &mut bytes);
        out.write_all(&bytes)?;
    }
    Ok(())
}

/// The bands of a sound, and of the first its levels.
fn keep_bands(stream: &StoredSamples, cached: &CachedClip, sound: usize) -> Result<Vec<Mark>, MediaError> {
    let (mut bands, mut levels, mut piece) = (BandReader::new(), LevelReader::default(), vec![0.0; PIECE]);
    for from in (0..stream.len()).step_by(PIECE) {
        let count = PIECE.min((stream.len() - from) as usize);
        stream.read(from as i64, &mut piece[..count]);
        bands.push(&piece[..count]);
        if sound == 0 {
            levels.push(&piece[..count]);
        }
    }
    let put = |target, bytes: &[u8]| {
        let mut part = cached.begin(target)?;
        part.write_all(bytes).map_err(|source| MediaError::Cache { path: cached.bands(sound), source })?;
        part.keep()
    };
    let mut marks = vec![put(cached.bands(sound), &bands.finish().0)?];
    if sound == 0 {
        let levels: Vec<u8> = levels.finish().into_iter().map(|level| level as u8).collect();
        marks.push(put(cached.levels(), &levels)?);
    }
    Ok(marks)
}
