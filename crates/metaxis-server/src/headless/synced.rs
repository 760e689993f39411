//! Folders in, every clip in its place out: what the commands begin with.

use super::kept::{DayShelf, KeptDay, Known};
use crate::{
    each::{Progress, each},
    heard_day::{self, Listened},
    pictures::{Pictured, distances},
};
use metaxis_core::{
    clip::{ClipFacts, ClipId, DeviceId, NoteCode},
    group::Group,
    signal::Heard,
    sync::{
        DayClip, DayError, DayPlan, Effort, Mode, Skipped, Timing, Warning, clock_notes, pick_reference,
        place_day,
    },
    time::Tick,
};
use metaxis_media::{Cache, Entry, Fingerprint, MediaError, Stop, facts, guarded, walk};
use std::{ops::ControlFlow, path::PathBuf, time::Instant};
use thiserror::Error;

/// What to sync.
pub struct SyncPlan {
    /// Folders; each first-level sub-folder is a device.
    pub folders: Vec<PathBuf>,
    /// A device name or a file's relative path.
    pub reference: Option<String>,
    /// Mode.
    pub mode: Mode,
    /// How much to spend on each clip.
    pub effort: Effort,
    /// Folder for derived files.
    pub cache: PathBuf,
    /// Where to write the groups as OpenTimelineIO.
    pub turnover: Option<PathBuf>,
}

/// Why a sync gave no report.
#[derive(Debug, Error)]
pub enum SyncError {
    /// Not a folder.
    #[error("{0} is not a folder")]
    NotAFolder(PathBuf),
    /// No device or file of that name.
    #[error("there is no device or file called “{0}” to take as reference")]
    UnknownReference(String),
    /// Nothing readable; with the reasons that single files gave.
    #[error("nothing could be read: {0}")]
    Nothing(String),
    /// The engine's refusal.
    #[error(transparent)]
    Day(#[from] DayError),
    /// The cache.
    #[error(transparent)]
    Media(#[from] MediaError),
    /// The turnover folder.
    #[error("{path} cannot be written ({source})")]
    Write {
        /// The file or folder.
        path: PathBuf,
        /// Why.
        source: std::io::Error,
    },
}

/// Folders whose clips have their places.
pub(super) struct Synced {
    /// The files, in the order of their clips.
    pub files: Vec<Entry>,
    /// What their contents are known by.
    pub prints: Vec<Fingerprint>,
    /// The clips.
    pub clips: Vec<Listened>,
    /// The devices' names, by their numbers.
    pub devices: Vec<String>,
    /// How they were placed, and where.
    pub day: KeptDay,
    /// Time of day at the axis's zero.
    pub zero: Tick,
    /// What ran together.
    pub groups: Vec<Group>,
    /// What is no clip.
    pub skipped: Vec<Skipped>,
    /// What is to be said of single files.
    pub warnings: Vec<Warning>,
    /// How long it took.
    pub timing: Timing,
}

/// Places everything that is in the folders.
///
/// # Errors
/// A [`SyncError`] where nothing can be placed; faults of single files are among the warnings.
pub(super) fn synced(plan: &SyncPlan, progress: &Progress) -> Result<Synced, SyncError> {
    let mut timing = Timing::default();
    let mut warnings = vec![];
    let (entries, skipped) = collect(plan, &mut warnings)?;
    if let Some(name) = plan.reference.as_ref().filter(|_| !entries.is_empty()) {
        // Found out before anything is listened to.
        let is_it = |own: &Entry| own.device_guess() == name || own.relative == *name;
        if !entries.iter().any(is_it) {
            return Err(SyncError::UnknownReference(name.clone()));
        }
    }
    let stop = Stop::default();

    let phase = Instant::now();
    let cache = Cache::open(&plan.cache)?;
    let probed = each(&entries, "reading", progress, |_| 0.0, |entry| read(entry, &cache, &stop));
    timing.probe_s = phase.elapsed().as_secs_f64();
    let mut known: Vec<File> = vec![];
    for (entry, result) in entries.into_iter().zip(probed) {
        match result {
            Ok((fingerprint, facts)) => known.push(File { entry, fingerprint, facts }),
            Err(e) => warnings.push(warning(plan, &entry, &e)),
        }
    }
    if known.is_empty() {
        return Err(SyncError::Nothing(nothing(&warnings)));
    }

    let phase = Instant::now();
    let hear = |file: &File| {
        heard_day::hear(&file.entry.path, &file.fingerprint, &file.facts, &cache, &stop, &|_| {})
    };
    let mut full = None;
    let heard: Vec<Option<Heard>> = each(&known, "listening", progress, |file| file.facts.duration_s, hear)
        .into_iter()
        .zip(&known)
        .map(|(heard, file)| {
            heard.unwrap_or_else(|e| {
                warnings.push(warning(plan, &file.entry, &e));
                if matches!(e, MediaError::Cache { .. }) {
                    full = Some(e);
                }
                None
            })
        })
        .collect();
    // Where nothing can be kept, nothing is heard: that is one fault, and not each file's.
    if let Some(full) = full
        && heard.iter().all(Option::is_none)
    {
        return Err(full.into());
    }
    timing.listen_s = phase.elapsed().as_secs_f64();

    let phase = Instant::now();
    let devices = devices(&known);
    let shelf = shelf(plan, &cache, &known, &heard);
    let kept = shelf.kept();
    let mut clips = vec![];
    for (i, (file, heard)) in known.iter().zip(&heard).enumerate() {
        let sounds = match kept {
            Some(_) => vec![],
            None => {
                let (path, print) = (&file.entry.path, &file.fingerprint);
                let sounds = heard_day::sounds(path, print, &file.facts, heard.as_ref(), &cache, &stop);
                sounds.unwrap_or_else(|e| {
                    warnings.push(warning(plan, &file.entry, &e));
                    vec![]
                })
            }
        };
        let device = DeviceId(devices.binary_search(&file.device()).unwrap_or(0) as i64);
        let channels = heard.as_ref().map_or_else(Vec::new, |heard| heard.channels.clone());
        let own = Listened::new(ClipId(i as i64), device, file.facts.clone());
        clips.push(Listened { channels, sounds, ..own });
    }
    let (files, prints): (Vec<Entry>, Vec<Fingerprint>) =
        known.into_iter().map(|file| (file.entry, file.fingerprint)).unzip();
    let day = match kept {
        Some(day) => day,
        None => {
            let mut day = place(plan, &files, &devices, &clips, progress)?;
            let looking = Instant::now();
            let pictured: Vec<Pictured> = clips
                .iter()
                .zip(files.iter().zip(&prints))
                .map(|(clip, (file, fingerprint))| clip.pictured(&file.path, fingerprint))
                .collect();
            let seen = distances(&cache, &pictured, &day.result.placements, &day.result.distances, &stop)?;
            day.result.distances.extend(seen);
            timing.look_s = looking.elapsed().as_secs_f64();
            // A result that cannot be kept is no worse for it.
            if let Err(e) = shelf.keep(&day) {
                warnings.push(Warning {
                    path: String::new(),
                    root: None,
                    code: NoteCode::Cache,
                    message: e.to_string(),
                });
            }
            day
        }
    };
    timing.match_s = phase.elapsed().as_secs_f64() - timing.look_s;
    let phase = Instant::now();
    let order: Vec<DeviceId> = (0..devices.len()).map(|i| DeviceId(i as i64)).collect();
    let KeptDay { choice, result } = &day;
    let (zero, groups) = heard_day::groups(
        &clips,
        &result.placements,
        result.reference,
        DeviceId(choice.reference as i64),
        &result.islands,
        &order,
        plan.mode == Mode::Playback,
    );
    warnings.extend(clock_notes(&result.clocks, &result.distances).into_iter().map(|note| Warning {
        path: note.clip.map_or_else(|| devices[note.device].clone(), |clip| files[clip].relative.clone()),
        root: note.clip.and_then(|clip| root_of(plan, &files[clip])),
        code: NoteCode::Labels,
        message: note.text,
    }));
    timing.solve_s = phase.elapsed().as_secs_f64();
    Ok(Synced { files, prints, clips, devices, day, zero, groups, skipped, warnings, timing })
}

/// Why nothing could be read.
fn nothing(warnings: &[Warning]) -> String {
    match warnings {
        [] => "no media file in the folders given".into(),
        [first, rest @ ..] => {
            let more = if rest.is_empty() { String::new() } else { format!(" (and {} more)", rest.len()) };
            format!("{}: {}{more}", first.path, first.message)
        }
    }
}

fn collect(plan: &SyncPlan, warnings: &mut Vec<Warning>) -> Result<(Vec<Entry>, Vec<Skipped>), SyncError> {
    let (mut entries, mut skipped) = (vec![], vec![]);
    for folder in &plan.folders {
        let absolute = folder.canonicalize().map_err(|_| SyncError::NotAFolder(folder.clone()))?;
        if !absolute.is_dir() {
            return Err(SyncError::NotAFolder(folder.clone()));
        }
        let found = walk(&absolute);
        let (stills, moving): (Vec<Entry>, Vec<Entry>) = found.media.into_iter().partition(Entry::is_still);
        entries.extend(moving);
        let root = (plan.folders.len() > 1).then(|| absolute.display().to_string());
        let left = |path: String, why: String| Skipped { path, root: root.clone(), why };
        skipped.extend(stills.into_iter().map(|own| left(own.relative, "is a still picture".into())));
        skipped.extend(found.skipped.into_iter().map(|(path, why)| left(path, why)));
        warnings.extend(found.errors.into_iter().map(|(path, message)| Warning {
            path,
            root: root.clone(),
            code: NoteCode::Unreadable,
            message,
        }));
    }
    Ok((entries, skipped))
}

/// A file that could be read.
struct File {
    entry: Entry,
    fingerprint: Fingerprint,
    facts: ClipFacts,
}

impl File {
    fn device(&self) -> String {
        self.entry.device_guess().to_owned()
    }
}

fn read(entry: &Entry, cache: &Cache, stop: &Stop) -> Result<(Fingerprint, ClipFacts), MediaError> {
    guarded(&entry.path, || {
        let fingerprint = Fingerprint::of(&entry.path)?;
        let facts = facts(&entry.path, &cache.clip(&fingerprint), stop)?;
        Ok((fingerprint, facts))
    })
}

/// The names of the devices, sorted.
fn devices(files: &[File]) -> Vec<String> {
    let mut devices: Vec<String> = files.iter().map(File::device).collect();
    devices.sort();
    devices.dedup();
    devices
}

fn shelf(plan: &SyncPlan, cache: &Cache, files: &[File], heard: &[Option<Heard>]) -> DayShelf {
    let known: Vec<Known> = files
        .iter()
        .zip(heard)
        .map(|(file, heard)| Known {
            path: &file.entry.relative,
            device: file.entry.device_guess(),
            fingerprint: file.fingerprint.as_str(),
            facts: &file.facts,
            heard: heard.as_ref(),
        })
        .collect();
    DayShelf::new(cache, &known, &(&plan.reference, plan.mode, plan.effort))
}

fn place(
    plan: &SyncPlan,
    files: &[Entry],
    devices: &[String],
    clips: &[Listened],
    progress: &Progress,
) -> Result<KeptDay, SyncError> {
    let day = heard_day::day_clips(clips);
    let choice = choose_reference(plan, files, devices, &day)?;
    let result = place_day(&day, choice, &|step| {
        progress("matching", step.done, step.all);
        ControlFlow::Continue(())
    })?;
    Ok(KeptDay { choice, result })
}

fn choose_reference(
    plan: &SyncPlan,
    files: &[Entry],
    devices: &[String],
    clips: &[DayClip],
) -> Result<DayPlan, SyncError> {
    let of = |reference, origin| DayPlan { reference, origin, effort: plan.effort, mode: plan.mode };
    let Some(name) = &plan.reference else {
        let reference = pick_reference(clips).ok_or(DayError::NoReference)?;
        return Ok(of(reference, None));
    };
    if let Some(reference) = devices.iter().position(|device| device == name) {
        return Ok(of(reference, None));
    }
    files
        .iter()
        .position(|file| &file.relative == name)
        .map(|origin| of(clips[origin].device, Some(origin)))
        .ok_or_else(|| SyncError::UnknownReference(name.clone()))
}

/// The folder that a file was found below, where there are several.
pub(super) fn root_of(plan: &SyncPlan, file: &Entry) -> Option<String> {
    let root = file.root().filter(|_| plan.folders.len() > 1)?;
    Some(root.display().to_string())
}

fn warning(plan: &SyncPlan, file: &Entry, error: &MediaError) -> Warning {
    let code = match error {
        MediaError::Empty { .. } => NoteCode::Empty,
        MediaError::Damaged { .. } => NoteCode::Damaged,
        MediaError::NoMedia { .. } => NoteCode::NoMedia,
        _ => NoteCode::Unreadable,
    };
    Warning { path: file.relative.clone(), root: root_of(plan, file), code, message: error.to_string() }
}
