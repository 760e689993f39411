//! `metaxis turnover`: folders in, every document of the day out.

use super::{
    sound::sound_day,
    synced::{SyncError, SyncPlan, Synced, synced},
};
use crate::{
    each::Progress,
    heard_day::Listened,
    turnover::{DayReport, DayTurnover, Paper, Remark, TurnedGroup},
};
use metaxis_core::{
    clip::DeviceId,
    review::{Reviewed, review},
    sound::SoundHabit,
    sync::Warning,
    turnover::{LoggedClip, Origin, Source, Sources, starts},
};
use serde::Serialize;
use std::{
    collections::BTreeSet,
    fs, io,
    path::{Path, PathBuf},
};
use thiserror::Error;

/// Version of what [`turnover`] tells.
pub const TURNOVER_SCHEMA: &str = "metaxis.turnover-report/1";
/// The list of what was written, in the folder itself: a later run takes away what it no longer makes, and nothing else.
const WRITTEN: &str = ".metaxis-turnover.json";

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
    let (written, taken_away, failed) = hand_out(&made.papers(), out);
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

/// Finds out whether files can be made in a folder, which is made where it is not there.
fn can_be_written(folder: &Path) -> io::Result<()> {
    fs::create_dir_all(folder)?;
    tempfile::tempfile_in(folder).map(drop)
}

/// Writes documents, each whole or not at all, and takes those away that an earlier run wrote and this one does not.
fn hand_out(papers: &[Paper], folder: &Path) -> (Vec<String>, Vec<String>, Vec<(String, String)>) {
    let list = folder.join(WRITTEN);
    let before: BTreeSet<String> =
        fs::read(&list).ok().and_then(|own| serde_json::from_slice(&own).ok()).unwrap_or_default();
    let (mut written, mut failed) = (vec![], vec![]);
    for paper in papers {
        match crate::whole::write(&folder.join(&paper.name), &paper.bytes) {
            Ok(()) => written.push(paper.name.clone()),
            Err(e) => failed.push((paper.name.clone(), e.to_string())),
        }
    }
    let now: BTreeSet<String> = papers.iter().map(|own| own.name.clone()).collect();
    // Only plain names are taken away: whoever wrote another into the list means another folder.
    let is_plain = |name: &&String| Path::new(name).file_name().is_some_and(|own| own == name.as_str());
    let gone =
        before.difference(&now).filter(is_plain).filter(|name| fs::remove_file(folder.join(name)).is_ok());
    let taken_away = gone.cloned().collect();
    if let Err(e) = crate::whole::write(&list, &serde_json::to_vec(&written).unwrap_or_default()) {
        failed.push((WRITTEN.to_owned(), e.to_string()));
    }
    (written, taken_away, failed)
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
    let devices = (0..).map(DeviceId).zip(&day.devices);
    Sources {
        clips: day.clips.iter().enumerate().map(one).collect(),
        devices: devices.map(|(id, name)| (id, (String::new(), name.clone()))).collect(),
        habit: SoundHabit::default(),
    }
}

fn logged(day: &Synced, sources: &Sources) -> Vec<LoggedClip> {
    let one = |(number, clip): (usize, &Listened)| {
        let placement = &day.day.result.placements[number];
        let of_file = |own: &&Warning| own.path == day.files[number].relative;
        LoggedClip {
            path: day.files[number].relative.clone(),
            device: day.devices[clip.device.0 as usize].clone(),
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
