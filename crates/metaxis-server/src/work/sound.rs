//! Writing the sound of a production.

use super::outcome::is_track;
use crate::{
    App, Event,
    each::each,
    error::ApiError,
    sound::{Grouped, SoundClip, SoundDay, SoundFile, room_for, write},
    turnover::sources_of,
};
use metaxis_core::{
    sound::{GroupTracks, MadeReport, MadeState, SoundHabit},
    time::Tick,
};
use metaxis_media::{MediaError, Stop};
use metaxis_store::{GroupId, GroupSummary, JobId, Made, Part, ShownPass, SoundFor, SoundOrder};
use std::{collections::HashMap, path::PathBuf};

/// The production's clips, where the pass that is shown has them.
///
/// # Errors
/// Errors of the store.
pub fn sound_day(app: &App, shown: &ShownPass) -> Result<SoundDay, ApiError> {
    let day = app.store.day()?;
    let mut placed: HashMap<_, _> = shown.placements.iter().map(|own| (own.clip, &own.placement)).collect();
    let clips = app.store.stored_clips()?;
    let sources = clips.iter().map(|clip| clip.path.clone()).collect();
    let pass = shown.pass.as_ref().map(|pass| &pass.facts);
    let is_track = pass.is_some_and(|pass| is_track(&clips, pass.origin));
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
        sources,
        track: pass.filter(|_| is_track).map(|pass| pass.reference),
    })
}

/// Groups with their lines, where what is heard may follow these.
///
/// # Errors
/// Errors of the store.
pub fn with_lines(
    app: &App,
    groups: Vec<GroupSummary>,
    habit: &SoundHabit,
) -> Result<Vec<Grouped>, ApiError> {
    let one = |own: GroupSummary| {
        let follows = habit.form.of_groups != GroupTracks::Recorded;
        let line = if follows { Some(app.store.group(own.id)?.line) } else { None };
        Ok(Grouped::whole(own.group, line))
    };
    groups.into_iter().map(one).collect()
}

/// Where files go: to the folder that is chosen, else the production's own.
pub fn sound_folder(app: &App, chosen: &str) -> PathBuf {
    if chosen.is_empty() { app.config.data.join("sound") } else { PathBuf::from(chosen) }
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
            let ids: Vec<GroupId> = shown.groups.iter().map(|own| own.id).collect();
            let groups = with_lines(app, shown.groups, &order.habit)?;
            let mut asked = day.for_groups(&groups, order);
            let sources = sources_of(app)?;
            for file in &mut asked.files {
                let Some(number) = file.group() else { continue };
                let line = app.store.group(ids[number])?.line;
                file.with_documents(&groups[number].group, Some(&line), &sources);
            }
            asked
        }
    };
    let chosen = &order.habit.folder;
    let folder = sound_folder(app, chosen);
    // The server may have been started otherwise since it was chosen.
    if !chosen.is_empty() {
        app.config.writable_folder(chosen).map_err(ApiError::Refused)?;
    }
    room_for(asked.bytes(), &folder).map_err(ApiError::Refused)?;
    app.store.job_progress(job, 0, asked.files.len())?;
    let one = |file: &SoundFile| -> Result<Vec<MadeReport>, ApiError> {
        if stop.is_stopped() {
            return Ok(vec![]);
        }
        let made = write(file, &folder, stop, &|_| {});
        if !stop.is_stopped() {
            for report in &made {
                app.store.keep_made(chosen, &Made { job, report: report.clone() })?;
            }
            app.tell(Event::Sound);
        }
        Ok(made)
    };
    let progress = |_: &str, done: usize, all: usize| {
        if !stop.is_stopped() && app.store.job_progress(job, done, all).is_ok() {
            app.tell_jobs();
        }
    };
    let made = each(&asked.files, "writing", &progress, |file| file.bytes() as f64, one);
    let made: Vec<MadeReport> =
        made.into_iter().collect::<Result<Vec<_>, _>>()?.into_iter().flatten().collect();
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
