//! Writing the sound of a production.

use crate::{
    App, Event,
    error::ApiError,
    sound::{SoundClip, SoundDay, SoundFile, room_for, write},
};
use metaxis_core::{
    clip::DeviceId,
    sound::{MadeReport, MadeState},
    time::Tick,
};
use metaxis_media::{MediaError, Stop};
use metaxis_store::{JobId, Made, Part, ShownPass, SoundFor, SoundOrder};
use std::{
    collections::HashMap,
    path::PathBuf,
    sync::atomic::{AtomicUsize, Ordering},
};

/// The production's clips, where the pass that is shown has them.
///
/// # Errors
/// Errors of the store.
pub fn sound_day(app: &App, shown: &ShownPass) -> Result<SoundDay, ApiError> {
    let day = app.store.day()?;
    let mut placed: HashMap<_, _> = shown.placements.iter().map(|own| (own.clip, &own.placement)).collect();
    let clips = app.store.stored_clips()?;
    let pass = shown.pass.as_ref().map(|pass| &pass.facts);
    let origin = pass.and_then(|pass| clips.iter().find(|clip| clip.id == pass.origin));
    let is_track = origin.is_some_and(|clip| clip.part == Part::Playback);
    let clips = clips.into_iter().filter_map(|clip| {
        let placement = placed.remove(&clip.id);
        Some(SoundClip {
            id: clip.id,
            device: clip.device,
            fingerprint: super::fingerprint(&clip.fingerprint).ok()?,
            channels: clip.heard.map_or_else(Vec::new, |heard| heard.channels),
            stretches: placement.map_or_else(Vec::new, |own| own.stretches.clone()),
            component: placement.map_or(0, |own| own.component),
            // A track is what everything was made to, or beside the day.
            is_heard: clip.part != Part::NoSync && (is_track || clip.part != Part::Playback),
            path: clip.path,
            relative: clip.relative,
            facts: clip.facts,
        })
    });
    Ok(SoundDay {
        project: day.production.name,
        clips: clips.collect(),
        devices: day.devices.into_iter().map(|device| (device.id, device.name)).collect(),
        zero: pass.map_or(Tick(0), |pass| pass.axis_zero),
        track: pass
            .filter(|_| is_track)
            .map(|pass: &metaxis_store::PassFacts| -> DeviceId { pass.reference }),
    })
}

/// Where files of a folder of that name go.
pub fn sound_folder(app: &App, name: &str) -> PathBuf {
    let folder = app.config.data.join("sound");
    if name.is_empty() { folder } else { folder.join(crate::file_stem(name)) }
}

/// Writes what was ordered; what cannot be written is kept with its reason, and the rest goes on.
pub(super) fn sound(app: &App, job: JobId, order: &SoundOrder, stop: &Stop) -> Result<(), ApiError> {
    let shown = app.store.shown()?;
    let day = sound_day(app, &shown)?;
    let asked = match order.made_for {
        SoundFor::Clips => {
            let wanted = |clip: &SoundClip| order.clips.as_ref().is_none_or(|clips| clips.contains(&clip.id));
            day.for_clips(wanted, order)
        }
        SoundFor::Groups => {
            let groups: Vec<_> = shown.groups.into_iter().map(|own| own.group).collect();
            day.for_groups(&groups, order)
        }
    };
    let folder = sound_folder(app, &order.folder);
    room_for(asked.bytes(), &folder).map_err(ApiError::Refused)?;
    let count = asked.files.len();
    let (next, done) = (AtomicUsize::new(0), AtomicUsize::new(0));
    app.store.job_progress(job, 0, count)?;
    let one = |file: &SoundFile| -> Result<Vec<MadeReport>, ApiError> {
        let made = write(file, &folder, stop, &|_| {});
        if stop.is_stopped() {
            return Ok(vec![]);
        }
        for report in &made {
            app.store.keep_made(&order.folder, &Made { job, report: report.clone() })?;
        }
        app.store.job_progress(job, done.fetch_add(1, Ordering::Relaxed) + 1, count)?;
        app.tell_jobs();
        app.tell(Event::Sound);
        Ok(made)
    };
    let work = || -> Result<Vec<MadeReport>, ApiError> {
        let mut own = vec![];
        while let Some(file) = asked.files.get(next.fetch_add(1, Ordering::Relaxed)) {
            if stop.is_stopped() {
                break;
            }
            own.extend(one(file)?);
        }
        Ok(own)
    };
    let made: Vec<MadeReport> = rayon::broadcast(|_| work())
        .into_iter()
        .collect::<Result<Vec<_>, _>>()?
        .into_iter()
        .flatten()
        .collect();
    if stop.is_stopped() {
        return Err(MediaError::Stopped.into());
    }
    let failed: Vec<&MadeReport> = made.iter().filter(|own| own.state == MadeState::Failed).collect();
    match failed.first() {
        None => Ok(()),
        Some(first) => Err(ApiError::Refused(format!(
            "{} of {} files were not written; the first: {}",
            failed.len(),
            made.len(),
            first.message.as_deref().unwrap_or_default()
        ))),
    }
}
