//! `metaxis turnover`: folders in, every document of the day out.

use super::{
    hand_out::{HandedOut, can_be_written, hand_out},
    sound::sound_day,
    synced::{SyncError, SyncPlan, Synced, synced},
};
use crate::{
    each::Progress,
    heard_day::Listened,
    turnover::{DayReport, DayTurnover, Remark, TurnedGroup},
};
use metaxis_core::{
    clip::DeviceId,
    intake::{name_device, says_letter},
    review::{Reviewed, review},
    sound::SoundHabit,
    sync::Warning,
    turnover::{LoggedClip, Origin, Source, Sources, starts},
};
use serde::Serialize;
use std::{
    io,
    path::{Path, PathBuf},
};
use thiserror::Error;

/// Version of what [`turnover`] tells.
pub const TURNOVER_SCHEMA: &str = "metaxis.turnover-report/1";

/// What was written.
#[derive(Debug, Serialize)]
pub struct TurnoverReport {
    /// [`TURNOVER_SCHEMA`].
    pub schema: String,
    /// The folder.
    pub folder: PathBuf,
    /// Documents, by their names.
    pub written: Vec<String>,
    /// Those of an earlier run that are no longer made, and were taken away.
    pub taken_away: Vec<String>,
    /// What could not be written, and why.
    pub failed: Vec<(String, String)>,
    /// Clips that have a place, and all.
    pub placed: (usize, usize),
    /// What is to be said of single files.
    pub warnings: Vec<Warning>,
}

/// Why nothing was written.
#[derive(Debug, Error)]
pub enum TurnoverError {
    /// The folders could not be synced.
    #[error(transparent)]
    Sync(#[from] SyncError),
    /// There can be no such folder.
    #[error("{0} cannot be written to ({1}); choose another folder with --out")]
    Folder(PathBuf, io::Error),
}

/// Syncs the folders and writes every document of the day; what could not be written is in the report. `progress` as for a sync.
///
/// # Errors
/// A [`TurnoverError`] where nothing can be written; that is found out before the work.
pub fn turnover(plan: &SyncPlan, out: &Path, progress: &Progress) -> Result<TurnoverReport, TurnoverError> {
    can_be_written(out).map_err(|e| TurnoverError::Folder(out.to_owned(), e))?;
    let day = synced(plan, progress)?;
    let placed = day.day.result.placements.iter().filter(|own| !own.stretches.is_empty()).count();
    let all = day.clips.len();
    progress("documents", 0, 1);
    let made = of_synced(plan, &day);
    let HandedOut { written, taken_away, failed } = hand_out(&made.papers(), out);
    progress("documents", 1, 1);
    Ok(TurnoverReport {
        schema: TURNOVER_SCHEMA.into(),
        folder: out.to_owned(),
        written,
        taken_away,
        failed,
        placed: (placed, all),
        warnings: day.warnings,
    })
}

fn of_synced(plan: &SyncPlan, day: &Synced) -> DayTurnover {
    let sources = sources(day);
    let sound = sound_day(plan, day);
    let clips = logged(day, &sources);
    let production = sound.project.clone();
    let groups = day.groups.iter().map(|own| TurnedGroup { group: own.clone(), line: None });
    let reviewed: Vec<Reviewed> = day
        .clips
        .iter()
        .zip(&day.day.result.placements)
        .map(|(clip, placement)| Reviewed {
            id: clip.id,
            device: clip.device,
            picture: clip.facts.picture.as_ref().map(|own| own.rate),
            placement,
        })
        .collect();
    let reference = day.clips[day.day.result.reference].device;
    let warnings = day.warnings.iter().map(|own| Remark {
        weighs: true,
        what: format!("{}: {}", own.path, own.message).trim_start_matches(": ").to_owned(),
        ..Remark::default()
    });
    let skipped = day
        .skipped
        .iter()
        .map(|own| Remark { what: format!("{} {}", own.path, own.why), ..Remark::default() });
    let report = DayReport {
        production,
        reference: day.devices.get(reference.0 as usize).cloned(),
        answers: review(&reviewed, reference).into_iter().map(|own| (own.well, own.text)).collect(),
        remarks: warnings.chain(skipped).collect(),
        groups: day.groups.clone(),
        ..DayReport::default()
    };
    DayTurnover { sources, groups: groups.collect(), sound, clips, report }
}

/// What documents refer to.
pub(super) fn sources(day: &Synced) -> Sources {
    let one = |(number, clip): (usize, &Listened)| {
        let (file, placement) = (&day.files[number], &day.day.result.placements[number]);
        let facts = &clip.facts;
        let origin = Origin {
            scene: facts.scene.clone(),
            take: facts.take.clone(),
            notes: facts.notes.clone(),
            circled: facts.circled,
            placed: (!placement.stretches.is_empty()).then_some((placement.verdict, placement.confidence)),
            fingerprint: Some(day.prints[number].to_string()),
            ..Origin::default()
        };
        let url = crate::file_url(&file.path);
        (clip.id, Source { file_name: file.file_name().to_owned(), url, facts: facts.clone(), origin })
    };
    Sources {
        clips: day.clips.iter().enumerate().map(one).collect(),
        devices: (0..).map(DeviceId).zip(named(&day.devices)).collect(),
        habit: SoundHabit::default(),
    }
}

/// Letters and names of devices as the page gives them: those first that say their letter themselves.
fn named(devices: &[String]) -> Vec<(String, String)> {
    let mut order: Vec<usize> = (0..devices.len()).collect();
    order.sort_by_key(|number| !says_letter(&devices[*number]));
    let mut all = vec![(String::new(), String::new()); devices.len()];
    let mut taken = vec![];
    for number in order {
        let own = name_device(&devices[number], &taken);
        taken.push(own.0.clone());
        all[number] = own;
    }
    all
}

fn logged(day: &Synced, sources: &Sources) -> Vec<LoggedClip> {
    let one = |(number, clip): (usize, &Listened)| {
        let placement = &day.day.result.placements[number];
        let of_file = |own: &&Warning| own.path == day.files[number].relative;
        LoggedClip {
            path: day.files[number].relative.clone(),
            device: sources.device_name(clip.device),
            part: "sync".into(),
            facts: clip.facts.clone(),
            origin: sources.clips.get(&clip.id).map_or_else(Origin::default, |own| own.origin.clone()),
            channels: clip.channels.clone(),
            placement: Some(placement.clone()),
            starts: starts(placement, day.zero, &clip.facts),
            health: day.warnings.iter().filter(of_file).map(|own| own.message.clone()).collect(),
            ..LoggedClip::default()
        }
    };
    day.clips.iter().enumerate().map(one).collect()
}
