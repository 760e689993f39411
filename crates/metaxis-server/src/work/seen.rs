//! Looking for claps in pictures: where the sticks close that a clip's own sound has.

use super::fingerprint;
use crate::{App, engine, error::ApiError};
use metaxis_core::{
    clip::{ClipId, DeviceId},
    picture::find_strikes,
    signal::Clap,
    sync::{
        DayResult, EvidenceKind, Placement, SeenClap, ShownDistance, Verdict, look_around, seen_clap,
        seen_distances,
    },
};
use metaxis_media::{MediaError, Stop, StoredSamples, grey_frames};
use metaxis_store::{ClipView, DayView, DeviceView, StoredClip};
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;

/// Claps of a clip that are proposed.
pub const MOST_CLAPS: usize = 8;
/// A clap of less is not looked for in the picture.
const LIKELY: f64 = 0.6;
/// Claps that are looked for in the pictures of a device,
const LOOKS: usize = 8;
/// and the fewest and most in those of one clip, as its device has many or few.
const A_CLIP: (usize, usize) = (2, 4);
/// Claps of two clips this near each other are one, seconds.
const SAME_S: f64 = 0.1;

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
/// [`ApiError::Media`].
pub fn claps_of(app: &App, clip: &StoredClip) -> Result<Vec<Clap>, ApiError> {
    let cached = app.cache.clip(&fingerprint(&clip.fingerprint)?);
    let Ok((sound, _)) = StoredSamples::open(&cached, 0) else { return Ok(vec![]) };
    if let Some(Found { find: FIND, claps }) = cached.kept("claps") {
        return Ok(claps);
    }
    let claps = engine::claps(&sound, MOST_CLAPS);
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
/// [`ApiError::Media`] naming the file.
pub fn look(app: &App, clip: &StoredClip, heard_s: f64, stop: &Stop) -> Result<Option<SeenClap>, ApiError> {
    let cached = app.cache.clip(&fingerprint(&clip.fingerprint)?);
    let name = format!("seen-{:.0}", heard_s * 1e3);
    if let Some(Looked { look: LOOK, seen }) = cached.kept(&name) {
        return Ok(seen);
    }
    let frames = grey_frames(&clip.path, &clip.facts, look_around(heard_s), stop)?;
    let seen = seen_clap(&find_strikes(&frames), heard_s);
    cached.keep(&name, &Looked { look: LOOK, seen })?;
    Ok(seen)
}

/// Distances that pictures show of devices and clips to which none is given and whose marks show none.
///
/// # Errors
/// [`MediaError::Stopped`]; a picture that cannot be read is passed over.
pub fn distances(
    app: &App,
    clips: &[StoredClip],
    result: &DayResult,
    day: &DayView,
    stop: &Stop,
) -> Result<Vec<ShownDistance>, ApiError> {
    // A person who marked both has seen what there is.
    let marked =
        |clip: &ClipView| clip.marks.iter().any(|mark| mark.picture_us.is_some() && mark.sound_us.is_some());
    let settled = |device: DeviceId| {
        let shown = result.distances.iter().any(|shown| shown.device == device.0 as usize);
        shown || day.clips.iter().any(|clip| clip.device == device && marked(clip))
    };
    let has_own: Vec<ClipId> =
        day.clips.iter().filter(|clip| clip.distance_m.is_some()).map(|clip| clip.id).collect();
    let claps = day_claps(app, clips, &result.placements)?;
    let devices: Vec<&DeviceView> = day.devices.iter().filter(|device| !settled(device.id)).collect();
    let looks: Vec<(usize, f64)> = devices
        .iter()
        .flat_map(|device| looks(clips, &result.placements, device.id, &has_own, &claps))
        .collect();
    let seen: Vec<Option<(usize, SeenClap)>> = looks
        .par_iter()
        .map(|&(clip, heard_s)| match look(app, &clips[clip], heard_s, stop) {
            Err(ApiError::Media(MediaError::Stopped)) => Err(MediaError::Stopped.into()),
            seen => Ok(seen.ok().flatten().map(|seen| (clip, seen))),
        })
        .collect::<Result<_, ApiError>>()?;
    let shown = |device: &&DeviceView| {
        let of = |one: &&(usize, SeenClap)| clips[one.0].device == device.id;
        let own: Vec<(usize, SeenClap)> = seen.iter().flatten().filter(of).copied().collect();
        seen_distances(device.id.0 as usize, device.distance_m, &own)
    };
    Ok(devices.iter().flat_map(shown).collect())
}

/// The claps of a day on its axis, likeliest first: a near microphone has them clear, and the far ones lie in step with it.
fn day_claps(app: &App, clips: &[StoredClip], placements: &[Placement]) -> Result<Vec<f64>, ApiError> {
    let found: Vec<Vec<(f64, f64)>> = clips
        .par_iter()
        .zip(placements)
        .filter(|(_, placement)| is_placed(placement))
        .map(|(clip, placement)| {
            let likely = claps_of(app, clip)?.into_iter().filter(|clap| clap.score >= LIKELY);
            Ok(likely
                .filter_map(|clap| Some((clap.score, placement.axis_s(clap.at_s)? - placement.travel_s)))
                .collect())
        })
        .collect::<Result<_, ApiError>>()?;
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

fn is_placed(placement: &Placement) -> bool {
    matches!(placement.verdict, Verdict::Solid | Verdict::Check)
}

fn is_heard(placement: &Placement) -> bool {
    placement.evidence.iter().any(|evidence| evidence.kind == EvidenceKind::Waveform && evidence.used)
}

/// The clips of a device without a distance of their own in whose pictures the likeliest claps are looked for, by their
/// place in the list, and when their sound has them.
fn looks(
    clips: &[StoredClip],
    placements: &[Placement],
    device: DeviceId,
    has_own: &[ClipId],
    claps: &[f64],
) -> Vec<(usize, f64)> {
    let own: Vec<usize> = (0..clips.len())
        .filter(|&i| clips[i].device == device && !has_own.contains(&clips[i].id))
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

/// Claps to look for in a clip: its own, and after them those that others have clear while it ran, by the pass that is
/// shown.
///
/// # Errors
/// [`ApiError::NotFound`], [`ApiError::Media`].
pub fn claps_for(app: &App, id: ClipId) -> Result<Vec<Clap>, ApiError> {
    let clip = app.store.clip(id)?;
    let (mut claps, day) = (claps_of(app, &clip)?, app.store.day()?);
    let placements: HashMap<ClipId, &Placement> =
        day.placements.iter().map(|view| (view.clip, &view.placement)).collect();
    let Some(own) = placements.get(&id).filter(|placement| is_placed(placement)) else { return Ok(claps) };
    let mut others: Vec<Clap> = vec![];
    for other in app.store.stored_clips()?.iter().filter(|other| other.id != id) {
        let Some(theirs) = placements.get(&other.id).filter(|placement| is_placed(placement)) else {
            continue;
        };
        for clap in claps_of(app, other)?.into_iter().filter(|clap| clap.score >= LIKELY) {
            let there = theirs.axis_s(clap.at_s).map(|axis_s| axis_s - theirs.travel_s);
            let heard_s = |axis_s: f64| own.clip_s(axis_s + own.travel_s);
            if let Some(at_s) = there.and_then(heard_s) {
                let name = other.relative.rsplit('/').next().unwrap_or_default();
                others.push(Clap {
                    at_s,
                    score: clap.score,
                    why: format!("heard clear in {name}: {}", clap.why),
                });
            }
        }
    }
    others.sort_by(|a, b| b.score.total_cmp(&a.score));
    for other in others {
        // Its own hearing of the same clap is the one to mark.
        match claps.iter_mut().find(|clap| (clap.at_s - other.at_s).abs() < SAME_S) {
            Some(same) => same.score = same.score.max(other.score),
            None => claps.push(other),
        }
    }
    claps.sort_by(|a, b| b.score.total_cmp(&a.score));
    claps.truncate(MOST_CLAPS);
    Ok(claps)
}

/// Where a clip's picture shows a clap, for the page.
///
/// # Errors
/// [`ApiError::NotFound`], [`ApiError::Media`].
pub fn look_at(app: &App, clip: ClipId, heard_s: f64, stop: &Stop) -> Result<Option<SeenClap>, ApiError> {
    look(app, &app.store.clip(clip)?, heard_s, stop)
}
