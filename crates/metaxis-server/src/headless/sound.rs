//! `metaxis sound`: folders in, the recorders' sound under every picture out, as broadcast WAV.

use super::{
    sources::sources,
    synced::{SyncError, SyncPlan, Synced, synced},
};
use crate::{
    each::{Progress, each},
    sound::{Grouped, SoundClip, SoundDay, SoundFile, room_for, write},
};
use metaxis_core::{
    clip::DeviceId,
    sound::{MadeReport, MadeState, SOUND_REPORT_SCHEMA, SoundReport},
    sync::Mode,
};
use metaxis_media::Stop;
use metaxis_store::{SoundFor, SoundOrder};
use std::{
    path::{Path, PathBuf},
    time::Instant,
};
use thiserror::Error;

/// What is to be written.
pub struct SoundAsked {
    /// Where everything lies.
    pub sync: SyncPlan,
    /// Where files go.
    pub out: PathBuf,
    /// What is made, and how.
    pub order: SoundOrder,
}

/// Why nothing was written.
#[derive(Debug, Error)]
pub enum SoundError {
    /// The folders could not be synced.
    #[error(transparent)]
    Sync(#[from] SyncError),
    /// The disk is too small.
    #[error("{0}")]
    Room(String),
}

/// Syncs the folders and writes sound for what is in them; what could not be written is in the report. `progress` as for a sync.
///
/// # Errors
/// A [`SoundError`] where nothing can be written.
pub fn sound(asked: &SoundAsked, progress: &Progress) -> Result<SoundReport, SoundError> {
    let begin = Instant::now();
    let synced = synced(&asked.sync, progress)?;
    let reference = synced.files[synced.day.result.reference].relative.clone();
    let day = sound_day(&asked.sync, &synced);
    let sources = sources(&synced);
    let Synced { groups, skipped, warnings, .. } = synced;
    let sync_s = begin.elapsed().as_secs_f64();

    let phase = Instant::now();
    let wanted = match asked.order.made_for {
        SoundFor::Clips => day.for_clips(|_| true, &asked.order),
        SoundFor::Groups => {
            let groups: Vec<Grouped> = groups.into_iter().map(Into::into).collect();
            let mut wanted = day.for_groups(&groups, &asked.order);
            for file in &mut wanted.files {
                if let Some(number) = file.group() {
                    file.with_documents(&groups[number].group, None, &sources);
                }
            }
            wanted
        }
    };
    room_for(wanted.bytes(), &asked.out).map_err(SoundError::Room)?;
    let stop = Stop::default();
    let one = |file: &SoundFile| write(file, &asked.out, &stop, &|_| {});
    let made: Vec<Vec<MadeReport>> =
        each(&wanted.files, "writing", progress, |file| file.bytes() as f64, one);
    Ok(SoundReport {
        schema: SOUND_REPORT_SCHEMA.into(),
        reference,
        files: made.into_iter().flatten().collect(),
        without: wanted.without,
        skipped,
        warnings,
        sync_s,
        write_s: phase.elapsed().as_secs_f64(),
    })
}

/// What could not be written, in a sentence; `None` where all was.
pub fn not_written(report: &SoundReport) -> Option<String> {
    let failed: Vec<&MadeReport> =
        report.files.iter().filter(|file| file.state == MadeState::Failed).collect();
    let first = failed.first()?;
    let message = first.message.as_deref().unwrap_or_default();
    Some(format!("{} of {} files were not written; the first: {message}", failed.len(), report.files.len()))
}

/// The day that was synced, for what is made of its sound.
pub(super) fn sound_day(plan: &SyncPlan, synced: &Synced) -> SoundDay {
    let Synced { files, prints, clips, devices, day, zero, .. } = synced;
    let first = plan.folders.first().and_then(|folder| folder.canonicalize().ok());
    let project = first.and_then(|folder| Some(folder.file_name()?.to_string_lossy().into_owned()));
    let several = plan.folders.len() > 1;
    let sources = files.iter().map(|file| file.path.clone()).collect();
    let clips = files.iter().zip(prints).zip(clips).zip(&day.result.placements);
    SoundDay {
        project: project.unwrap_or_default(),
        clips: clips
            .map(|(((file, fingerprint), clip), placement)| SoundClip {
                id: clip.id,
                device: clip.device,
                relative: if several { below_root(file) } else { file.relative.clone() },
                path: file.path.clone(),
                fingerprint: fingerprint.clone(),
                facts: clip.facts.clone(),
                channels: clip.channels.clone(),
                stretches: placement.stretches.clone(),
                component: placement.component,
                is_heard: true,
            })
            .collect(),
        devices: (0..).map(DeviceId).zip(devices.iter().cloned()).collect(),
        zero: *zero,
        sources,
        track: (plan.mode == Mode::Playback).then_some(DeviceId(day.choice.reference as i64)),
    }
}

/// A file's path with its root's own name before it: roots may hold files of the same names.
fn below_root(file: &metaxis_media::Entry) -> String {
    let name = file
        .root()
        .and_then(Path::file_name)
        .map_or_else(String::new, |name| name.to_string_lossy().into_owned());
    format!("{name}/{}", file.relative)
}
