//! Looking for claps in pictures: where the sticks close that a clip's own sound has. Shared by the page and the command.

use metaxis_core::{
    clip::{ClipFacts, DeviceId},
    picture::find_strikes,
    signal::{Clap, ClapFinder, LISTEN_RATE},
    sync::{
        EvidenceKind, GivenDistance, Placement, SampleSource, SeenClap, ShownDistance, Verdict, look_around,
        seen_clap, seen_distances,
    },
};
use metaxis_media::{Cache, Fingerprint, MediaError, Stop, StoredSamples, grey_frames};
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use std::{collections::HashMap, path::Path};

/// A clip whose picture may be looked at.
#[derive(Clone, Copy)]
pub struct Pictured<'a> {
    /// Its device.
    pub device: DeviceId,
    /// Its file.
    pub path: &'a Path,
    /// Fingerprint of its content.
    pub fingerprint: &'a Fingerprint,
    /// What its file says.
    pub facts: &'a ClipFacts,
    /// The distance that is given of its microphone.
    pub distance: GivenDistance,
    /// Whether a person marked a clap in its picture and in its sound.
    pub marked: bool,
}

/// Claps of a clip that are proposed.
pub const MOST_CLAPS: usize = 8;
/// A clap of less is not looked for in the picture.
pub const LIKELY: f64 = 0.6;
/// Claps that are looked for in the pictures of a device,
const LOOKS: usize = 8;
/// and the fewest and most in those of one clip, as its device has many or few.
const A_CLIP: (usize, usize) = (2, 4);
/// Claps of two clips this near each other are one, seconds.
pub const SAME_S: f64 = 0.1;

/// The `most` likeliest claps in a listening stream, best first.
fn claps(samples: &StoredSamples, most: usize) -> Vec<Clap> {
    let (mut finder, mut piece) = (ClapFinder::default(), vec![0.0; LISTEN_RATE as usize]);
    for from in (0..samples.len()).step_by(piece.len()) {
        samples.read(from as i64, &mut piece);
        finder.push(&piece);
    }
    finder.finish(most)
}

/// Grows whenever claps are found otherwise.
const FIND: u32 = 1;

#[derive(Serialize, Deserialize)]
struct Found {
    find: u32,
    claps: Vec<Clap>,
}

/// The claps in a clip's own sound, best first; none where it was not listened to or has no sound. Looked for once for
/// each content.
///
/// # Errors
/// [`MediaError`] naming the cache.
pub fn claps_of(cache: &Cache, clip: &Fingerprint) -> Result<Vec<Clap>, MediaError> {
    let cached = cache.clip(clip);
    let Ok((sound, _)) = StoredSamples::open(&cached, 0) else { return Ok(vec![]) };
    if let Some(Found { find: FIND, claps }) = cached.kept("claps") {
        return Ok(claps);
    }
    let claps = claps(&sound, MOST_CLAPS);
    cached.keep("claps", &Found { find: FIND, claps: claps.clone() })?;
    Ok(claps)
}

/// Grows whenever [`find_strikes`] sees other things, so that older answers are not believed.
const LOOK: u32 = 2;

#[derive(Serialize, Deserialize)]
struct Looked {
    look: u32,
    seen: Option<SeenClap>,
}

/// Where a clip's picture shows the clap that its own sound has at `heard_s`; looked at once for each content.
///
/// # Errors
/// [`MediaError`] naming the file.
pub fn look(
    cache: &Cache,
    clip: &Pictured,
    heard_s: f64,
    stop: &Stop,
) -> Result<Option<SeenClap>, MediaError> {
    let cached = cache.clip(clip.fingerprint);
    let name = format!("seen-{:.0}", heard_s * 1e3);
    if let Some(Looked { look: LOOK, seen }) = cached.kept(&name) {
        return Ok(seen);
    }
    let frames = grey_frames(clip.path, clip.facts, look_around(heard_s), stop)?;
    let seen = seen_clap(&find_strikes(&frames), heard_s);
    cached.keep(&name, &Looked { look: LOOK, seen })?;
    Ok(seen)
}

/// Distances that pictures show of devices and clips to which none is given and whose marks show none; `shown` are those
/// that marks do.
///
/// # Errors
/// [`MediaError::Stopped`]; a picture that cannot be read is passed over.
pub fn distances(
    cache: &Cache,
    clips: &[Pictured],
    placements: &[Placement],
    shown: &[ShownDistance],
    stop: &Stop,
) -> Result<Vec<ShownDistance>, MediaError> {
    // A person who marked both has seen what there is.
    let settled = |device: DeviceId| {
        let is_shown = shown.iter().any(|shown| shown.device == device.0 as usize);
        is_shown || clips.iter().any(|clip| clip.device == device && clip.marked)
    };
    let mut devices: Vec<DeviceId> = clips.iter().map(|clip| clip.device).collect();
    devices.sort_unstable();
    devices.dedup();
    devices.retain(|device| !settled(*device));
    let claps = day_claps(cache, clips, placements)?;
    let looks: Vec<(usize, f64)> =
        devices.iter().flat_map(|device| looks(clips, placements, *device, &claps)).collect();
    let seen: Vec<Option<(usize, SeenClap)>> = looks
        .par_iter()
        .map(|&(clip, heard_s)| match look(cache, &clips[clip], heard_s, stop) {
            Err(MediaError::Stopped) => Err(MediaError::Stopped),
            seen => Ok(seen.ok().flatten().map(|seen| (clip, seen))),
        })
        .collect::<Result<_, MediaError>>()?;
    let shown = |device: &DeviceId| {
        let of = |one: &&(usize, SeenClap)| clips[one.0].device == *device;
        let own: Vec<(usize, SeenClap)> = seen.iter().flatten().filter(of).copied().collect();
        let given = clips.iter().filter(|clip| clip.device == *device).find_map(|clip| match clip.distance {
            GivenDistance::Device(metres) => Some(metres),
            GivenDistance::None | GivenDistance::Clip(_) => None,
        });
        seen_distances(device.0 as usize, given.unwrap_or(0.0), &own)
    };
    Ok(devices.iter().flat_map(shown).collect())
}

/// The claps of a day on its axis, likeliest first: a near microphone has them clear, and the far ones lie in step with it.
fn day_claps(cache: &Cache, clips: &[Pictured], placements: &[Placement]) -> Result<Vec<f64>, MediaError> {
    let found: Vec<Vec<(f64, f64)>> = clips
        .par_iter()
        .zip(placements)
        .filter(|(_, placement)| is_placed(placement))
        .map(|(clip, placement)| {
            let likely = claps_of(cache, clip.fingerprint)?.into_iter().filter(|clap| clap.score >= LIKELY);
            Ok(likely
                .filter_map(|clap| Some((clap.score, placement.axis_s(clap.at_s)? - placement.travel_s)))
                .collect())
        })
        .collect::<Result<_, MediaError>>()?;
    let mut all = found.concat();
    all.sort_by(|a, b| b.0.total_cmp(&a.0));
    let mut kept: Vec<f64> = vec![];
    for (_, at_s) in all {
        if kept.iter().all(|other| (other - at_s).abs() > SAME_S) {
            kept.push(at_s);
        }
    }
    Ok(kept)
}

/// Whether a pass found a place for it.
pub fn is_placed(placement: &Placement) -> bool {
    matches!(placement.verdict, Verdict::Solid | Verdict::Check)
}

fn is_heard(placement: &Placement) -> bool {
    placement.evidence.iter().any(|evidence| evidence.kind == EvidenceKind::Waveform && evidence.used)
}

/// The clips of a device without a distance of their own in whose pictures the likeliest claps are looked for, by their
/// place in the list, and when their sound has them.
fn looks(clips: &[Pictured], placements: &[Placement], device: DeviceId, claps: &[f64]) -> Vec<(usize, f64)> {
    let own: Vec<usize> = (0..clips.len())
        .filter(|&i| clips[i].device == device && !matches!(clips[i].distance, GivenDistance::Clip(_)))
        // What timecode laid does not lie where its microphone hears.
        .filter(|&i| is_placed(&placements[i]) && is_heard(&placements[i]))
        .filter(|&i| clips[i].facts.picture.as_ref().is_some_and(|picture| !picture.still))
        .collect();
    let covered = |&axis_s: &f64| {
        let heard_at = |&i: &usize| Some((i, placements[i].clip_s(axis_s + placements[i].travel_s)?));
        own.iter().find_map(heard_at)
    };
    let most = (LOOKS / own.len().max(1)).clamp(A_CLIP.0, A_CLIP.1);
    let mut taken: HashMap<usize, usize> = HashMap::new();
    let has_room = |&(clip, _): &(usize, f64)| {
        let count = taken.entry(clip).or_default();
        *count += 1;
        *count <= most
    };
    claps.iter().filter_map(covered).filter(has_room).take(LOOKS).collect()
}
