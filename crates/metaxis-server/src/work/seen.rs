//! Looking for claps in pictures: where the sticks close that a clip's own sound has.

use super::fingerprint;
use crate::{App, engine, error::ApiError};
use metaxis_core::{
    clip::{ClipId, DeviceId},
    picture::find_strikes,
    signal::Clap,
    sync::{
        DayResult, EvidenceKind, Placement, SOUND_M_PER_S, SeenClap, ShownDistance, Verdict, look_around,
        seen_clap, seen_distance,
    },
};
use metaxis_media::{MediaError, Stop, StoredSamples, grey_frames};
use metaxis_store::{DayView, StoredClip};
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;

/// Claps of a clip that are proposed.
pub const MOST_CLAPS: usize = 8;
/// A clap of less is not looked for in the picture.
const LIKELY: f64 = 0.6;
/// Claps that are looked for in the pictures of a device.
const LOOKS: usize = 4;
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
const LOOK: u32 = 1;

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

/// Distances that pictures show of devices to which none is given and whose marks show none.
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
    let open = |device: DeviceId| {
        let given = day.devices.iter().any(|own| own.id == device && own.distance_m > 0.0);
        let shown = result.distances.iter().any(|shown| shown.device == device.0 as usize);
        // A person who marked both has seen what there is.
        let marked = day.clips.iter().any(|clip| {
            clip.device == device
                && clip.marks.iter().any(|mark| mark.picture_us.is_some() && mark.sound_us.is_some())
        });
        !(given || shown || marked)
    };
    let claps = day_claps(app, clips, &result.placements, day)?;
    let devices: Vec<DeviceId> =
        day.devices.iter().map(|device| device.id).filter(|device| open(*device)).collect();
    let looks: Vec<(&StoredClip, f64)> =
        devices.iter().flat_map(|&device| looks(clips, &result.placements, device, &claps)).collect();
    let seen: Vec<Option<(DeviceId, SeenClap)>> = looks
        .par_iter()
        .map(|(clip, heard_s)| match look(app, clip, *heard_s, stop) {
            Err(ApiError::Media(MediaError::Stopped)) => Err(MediaError::Stopped.into()),
            seen => Ok(seen.ok().flatten().map(|seen| (clip.device, seen))),
        })
        .collect::<Result<_, ApiError>>()?;
    let shown = |device: DeviceId| {
        let own: Vec<SeenClap> =
            seen.iter().flatten().filter(|one| one.0 == device).map(|one| one.1).collect();
        seen_distance(device.0 as usize, &own)
    };
    Ok(devices.into_iter().filter_map(shown).collect())
}

/// The claps of a day on its axis, likeliest first: a near microphone has them clear, and the far ones lie in step with it.
fn day_claps(
    app: &App,
    clips: &[StoredClip],
    placements: &[Placement],
    day: &DayView,
) -> Result<Vec<f64>, ApiError> {
    let found: Vec<Vec<(f64, f64)>> = clips
        .par_iter()
        .zip(placements)
        .filter(|(_, placement)| is_placed(placement))
        .map(|(clip, placement)| {
            let likely = claps_of(app, clip)?.into_iter().filter(|clap| clap.score >= LIKELY);
            let travel_s = travel_s(day, clip.device, placement);
            Ok(likely
                .filter_map(|clap| Some((clap.score, placement.axis_s(clap.at_s)? - travel_s)))
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

/// How much later a clip lies than it hears, since its device was given a distance.
fn travel_s(day: &DayView, device: DeviceId, placement: &Placement) -> f64 {
    let given = day.devices.iter().find(|own| own.id == device).map_or(0.0, |own| own.distance_m);
    if is_heard(placement) { given / SOUND_M_PER_S } else { 0.0 }
}

fn is_placed(placement: &Placement) -> bool {
    matches!(placement.verdict, Verdict::Solid | Verdict::Check)
}

fn is_heard(placement: &Placement) -> bool {
    placement.evidence.iter().any(|evidence| evidence.kind == EvidenceKind::Waveform && evidence.used)
}

/// The clips of a device in whose pictures the likeliest claps are looked for, and when their sound has them.
fn looks<'c>(
    clips: &'c [StoredClip],
    placements: &[Placement],
    device: DeviceId,
    claps: &[f64],
) -> Vec<(&'c StoredClip, f64)> {
    let own: Vec<(&StoredClip, &Placement)> = clips
        .iter()
        .zip(placements)
        // What timecode laid does not lie where its microphone hears.
        .filter(|(clip, placement)| clip.device == device && is_placed(placement) && is_heard(placement))
        .filter(|(clip, _)| clip.facts.picture.as_ref().is_some_and(|picture| !picture.still))
        .collect();
    let covered =
        |&axis_s: &f64| own.iter().find_map(|(clip, placement)| Some((*clip, placement.clip_s(axis_s)?)));
    claps.iter().filter_map(covered).take(LOOKS).collect()
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
            let there = theirs.axis_s(clap.at_s).map(|axis_s| axis_s - travel_s(&day, other.device, theirs));
            let heard_s = |axis_s: f64| own.clip_s(axis_s + travel_s(&day, clip.device, own));
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
pub fn look_at(app: &App, clip: ClipId, heard_s: f64) -> Result<Option<SeenClap>, ApiError> {
    look(app, &app.store.clip(clip)?, heard_s, &Stop::default())
}
