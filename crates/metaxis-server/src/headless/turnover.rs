//! `metaxis turnover`: folders in, every document of the day out.

use super::{
    hand_out::{HandedOut, can_be_written, hand_out},
    sound::sound_day,
    sources::sources,
    synced::{SyncError, SyncPlan, Synced, synced},
};
use crate::{
    each::Progress,
    film::{FilmPlan, FilmsOf, Wanted, can_be_made, make},
    heard_day::Listened,
    sound::room_for,
    turnover::{Bundle, DayLuts, DayReport, DayTurnover, PRINTED, Remark, TurnedGroup, as_pdf},
};
use metaxis_core::{
    film::FilmForm,
    lut::{Lut, LutKey},
    review::{Reviewed, review},
    sync::Warning,
    turnover::{LoggedClip, Origin, Sources, starts},
};
use metaxis_media::{Stop, printer};
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
    /// Films, where any were asked for.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub films: Vec<FilmReport>,
    /// The day with its media, where that was asked for.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub with_media: Option<FilmReport>,
    /// Clips that have a place, and all.
    pub placed: (usize, usize),
    /// What is to be said of single files.
    pub warnings: Vec<Warning>,
}

/// What became of a film, or of a document with its media.
#[derive(Debug, Serialize)]
pub struct FilmReport {
    /// Its path below the folder.
    pub path: String,
    /// Its length in bytes; nought where it was not made.
    pub bytes: u64,
    /// Its hash, where it was made by this run.
    pub hash: Option<String>,
    /// What is to be known of it.
    pub remarks: Vec<String>,
    /// Why it was not made.
    pub failed: Option<String>,
}

/// Films that are asked for of folders.
#[derive(Debug, Clone, Default)]
pub struct FilmsAsked {
    /// Each picture clip with its sound.
    pub dailies: bool,
    /// Each angle of each group.
    pub angles: bool,
    /// All angles of each group side by side.
    pub walls: bool,
    /// The day as a document together with the media that it names.
    pub with_media: bool,
    /// Pages as PDF too.
    pub pdf: bool,
    /// How they are made.
    pub form: FilmForm,
    /// Files that are there under their names are replaced.
    pub replace: bool,
    /// What all pictures are seen through.
    pub lut: Option<Lut>,
}

impl FilmsAsked {
    /// Nothing, where they can be made; else why not.
    ///
    /// # Errors
    /// In words.
    pub fn check(&self) -> Result<(), String> {
        if self.pdf && printer().is_none() {
            return Err(
                "this machine has no browser to print with: install chromium, or leave --pdf out".into()
            );
        }
        if self.kinds().is_empty() { self.form.check() } else { can_be_made(&self.form) }
    }

    fn kinds(&self) -> Vec<FilmsOf> {
        let all =
            [(self.dailies, FilmsOf::Clips), (self.angles, FilmsOf::Angles), (self.walls, FilmsOf::Walls)];
        all.into_iter().filter(|(wanted, _)| *wanted).map(|(_, kind)| kind).collect()
    }

    /// What pictures of a day are seen through.
    fn luts(&self, day: &DayTurnover) -> DayLuts {
        let Some(lut) = &self.lut else { return DayLuts::default() };
        let key = LutKey("given".into());
        DayLuts {
            devices: day.sound.clips.iter().map(|own| (own.device, key.clone())).collect(),
            tables: [(key, lut.clone())].into(),
        }
    }

    /// Makes them below `folder`.
    fn made(&self, day: &DayTurnover, folder: &Path, progress: &Progress) -> Vec<FilmReport> {
        let wanted: Vec<Wanted> = self.kinds().into_iter().flat_map(|kind| kind.all(day)).collect();
        let all = wanted.len();
        let mut reports = vec![];
        for (number, own) in wanted.into_iter().enumerate() {
            progress("films", number, all);
            reports.push(self.made_one(day, own, folder));
        }
        if all > 0 {
            progress("films", all, all);
        }
        reports
    }

    fn made_one(&self, day: &DayTurnover, wanted: Wanted, folder: &Path) -> FilmReport {
        let mut report =
            FilmReport { path: String::new(), bytes: 0, hash: None, remarks: vec![], failed: None };
        let plan = match FilmPlan::of(day, wanted, self.form) {
            Ok(plan) => plan,
            Err(why) => return FilmReport { failed: Some(why), ..report },
        };
        report.path = plan.path();
        let made = room_for(plan.bytes(), folder).and_then(|()| {
            make(&plan, folder, self.replace, &Stop::default(), &|_| {}).map_err(|e| e.to_string())
        });
        match made {
            Ok(made) => {
                let there = || folder.join(&report.path).metadata().map_or(0, |own| own.len());
                let bytes = made.written.as_ref().map_or_else(there, |own| own.bytes);
                FilmReport { bytes, hash: made.written.map(|own| own.hash), remarks: made.remarks, ..report }
            }
            Err(why) => FilmReport { failed: Some(why), ..report },
        }
    }
}

/// Writes a document together with its media into `folder`.
fn saved(bundle: Result<Bundle, String>, folder: &Path, replace: bool) -> FilmReport {
    let mut report =
        FilmReport { path: "day.otioz".into(), bytes: 0, hash: None, remarks: vec![], failed: None };
    let saved = bundle.and_then(|own| {
        report.path.clone_from(&own.name);
        room_for(own.bytes(), folder)?;
        own.save(folder, replace).map_err(|e| e.to_string())
    });
    match saved {
        Ok(path) => report.bytes = path.metadata().map_or(0, |own| own.len()),
        Err(why) => report.failed = Some(why),
    }
    report
}

/// Why nothing was written.
#[derive(Debug, Error)]
pub enum TurnoverError {
    /// The folders could not be synced.
    #[error(transparent)]
    Sync(#[from] SyncError),
    /// There can be no such films.
    #[error("{0}")]
    Films(String),
    /// There can be no such folder.
    #[error("{0} cannot be written to ({1}); choose another folder with --out")]
    Folder(PathBuf, io::Error),
}

/// Syncs the folders and writes every document of the day, and films into the folder `films` there; what could not be written is in
/// the report. `progress` as for a sync.
///
/// # Errors
/// A [`TurnoverError`] where nothing can be written; that is found out before the work.
pub fn turnover(
    plan: &SyncPlan,
    films: &FilmsAsked,
    out: &Path,
    progress: &Progress,
) -> Result<TurnoverReport, TurnoverError> {
    films.check().map_err(TurnoverError::Films)?;
    can_be_written(out).map_err(|e| TurnoverError::Folder(out.to_owned(), e))?;
    let day = synced(plan, progress)?;
    let placed = day.day.result.placements.iter().filter(|own| !own.stretches.is_empty()).count();
    let all = day.clips.len();
    progress("documents", 0, 1);
    let made = of_synced(plan, &day);
    let mut papers = made.papers();
    let called = |which: &str| papers.iter().find(|own| own.name.ends_with(which));
    let bundle = films.with_media.then(|| {
        let day = called("day.otio").ok_or_else(|| "there is no document of the day".to_owned());
        day.and_then(|day| Bundle::of(&made, day))
    });
    let mut unprinted = vec![];
    let mut printed = vec![];
    for page in PRINTED.iter().filter(|_| films.pdf).filter_map(|(_, page)| called(page)) {
        match as_pdf(page, &Stop::default()) {
            Ok(own) => printed.push(own),
            Err(e) => unprinted.push((format!("{} as PDF", page.name), e.to_string())),
        }
    }
    papers.extend(printed);
    let HandedOut { written, taken_away, mut failed } = hand_out(&papers, out);
    failed.extend(unprinted);
    progress("documents", 1, 1);
    let with_media = bundle.map(|bundle| {
        progress("media", 0, 1);
        let report = saved(bundle, out, films.replace);
        progress("media", 1, 1);
        report
    });
    let luts = films.luts(&made);
    let films = films.made(&DayTurnover { luts, ..made }, &out.join("films"), progress);
    Ok(TurnoverReport {
        schema: TURNOVER_SCHEMA.into(),
        folder: out.to_owned(),
        written,
        taken_away,
        failed,
        films,
        with_media,
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
    let (assemblies, luts) = (vec![], DayLuts::default());
    DayTurnover { sources, groups: groups.collect(), assemblies, sound, clips, report, luts }
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
