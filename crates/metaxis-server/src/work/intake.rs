//! Taking a folder in.

use super::Pace;
use crate::{App, Event, error::ApiError};
use metaxis_core::{
    clip::{ClipFacts, ClipId, NoteCode},
    intake::{DeviceGuess, SpanClip, find_spans, guess_device, says_letter},
};
use metaxis_media::{Entry, Fingerprint, MediaError, Stop, facts, guarded, walk};
use metaxis_store::{JobId, JobKind, NewClip, NoteView, Part, StoredClip};
use rayon::prelude::*;
use std::{
    os::unix::ffi::OsStrExt,
    path::Path,
    sync::atomic::{AtomicUsize, Ordering},
};

/// Walks `folder`, reads every file, keeps the clips and queues what follows. One bad file is a note.
pub fn take_in(app: &App, job: JobId, folder: &str, stop: &Stop) -> Result<(), ApiError> {
    let root = Path::new(folder);
    let found = walk(root);
    for (path, message) in &found.errors {
        app.store.keep_note(&note(path, NoteCode::Unreadable, message))?;
    }
    if found.media.is_empty() {
        return Err(ApiError::Refused(format!(
            "{folder}: there is no audio or video in this folder; choose the folder the cards were copied to"
        )));
    }
    // Devices first and in order, so that letters are given out the same way every time: to those that say theirs, then to
    // the rest.
    let keys: Vec<String> = found.media.iter().map(|entry| guess(folder, entry).key).collect();
    let (said, others): (Vec<&String>, Vec<&String>) = keys.iter().partition(|key| says_letter(key));
    for key in said.into_iter().chain(others) {
        app.store.device_of_folder(key)?;
    }
    let (done, total, told) = (AtomicUsize::new(0), found.media.len(), Pace::default());
    app.store.job_progress(job, 0, total)?;
    let results: Vec<Result<(), ApiError>> = found
        .media
        .par_iter()
        .map(|entry| {
            if stop.is_stopped() {
                return Err(MediaError::Stopped.into());
            }
            let result = keep(app, folder, entry, stop);
            let count = done.fetch_add(1, Ordering::Relaxed) + 1;
            // With many small files, telling would take longer than reading.
            if told.is_due() {
                app.store.job_progress(job, count, total)?;
                app.tell_jobs();
                app.tell(Event::Day);
            }
            result
        })
        .collect();
    results.into_iter().collect::<Result<Vec<()>, _>>()?;
    for (path, why) in &found.skipped {
        app.store.keep_note(&note(path, NoteCode::Skipped, &format!("{path}: skipped, it {why}")))?;
    }
    recognise_spans(app)?;
    queue_missing(app)
}

fn note(path: &str, code: NoteCode, message: &str) -> NoteView {
    NoteView { path: path.to_owned(), code, message: message.to_owned() }
}

fn keep(app: &App, folder: &str, entry: &Entry, stop: &Stop) -> Result<(), ApiError> {
    let (fingerprint, facts) = match read(app, &entry.path, stop) {
        Ok(read) => read,
        Err(MediaError::Stopped) => return Err(MediaError::Stopped.into()),
        Err(e) => {
            let code =
                if matches!(e, MediaError::Empty { .. }) { NoteCode::Empty } else { NoteCode::Damaged };
            // The page shows the path beside the message; the folder above it says nothing new.
            let message = e.to_string().replace(&format!("{folder}/"), "");
            return Ok(app.store.keep_note(&note(&entry.relative, code, &message))?);
        }
    };
    // A file that only moved is the clip it was.
    for known in app.store.clips_of_content(fingerprint.as_str())? {
        if known.path != entry.path && known.relative.ends_with(entry.file_name()) && !known.path.exists() {
            let path = entry.path.as_os_str().as_bytes();
            return Ok(app.store.relink(known.id, folder, &entry.relative, path)?);
        }
    }
    let guess = guess(folder, entry);
    app.store.keep_clip(&NewClip {
        device: app.store.device_of_folder(&guess.key)?,
        day: guess.day.or_else(|| facts.created_day().map(|day| day.to_string())),
        root: folder.to_owned(),
        relative: entry.relative.clone(),
        path: entry.path.as_os_str().as_bytes().to_vec(),
        bytes: entry.bytes,
        fingerprint: fingerprint.to_string(),
        part: guess_part(&facts, entry),
        facts,
    })?;
    Ok(())
}

/// A clip whose file is not what was taken in is taken in again, and told; one whose file is away stays what it was.
pub(super) fn as_it_is_now(app: &App, clip: &StoredClip, stop: &Stop) -> Result<StoredClip, ApiError> {
    let same = super::fingerprint(&clip.fingerprint)?;
    if !clip.path.exists() || same.still_of(&clip.path).is_ok() {
        return Ok(clip.clone());
    }
    let (fingerprint, facts) = read(app, &clip.path, stop)?;
    app.store.keep_clip(&NewClip {
        device: clip.device,
        day: None,
        root: clip.root.clone(),
        relative: clip.relative.clone(),
        path: clip.path.as_os_str().as_bytes().to_vec(),
        bytes: clip.path.metadata().map_or(clip.bytes, |data| data.len()),
        fingerprint: fingerprint.to_string(),
        part: clip.part,
        facts,
    })?;
    let message = format!(
        "{}: its file changed since it was taken in, and was read again; make sure that it is the one you want",
        clip.relative
    );
    app.store.keep_note(&note(&clip.relative, NoteCode::Changed, &message))?;
    app.queue(&JobKind::Proxy { clip: clip.id })?;
    Ok(app.store.clip(clip.id)?)
}

fn read(app: &App, path: &Path, stop: &Stop) -> Result<(Fingerprint, ClipFacts), MediaError> {
    guarded(path, || {
        let print = Fingerprint::of(path)?;
        let facts = facts(path, &app.cache.clip(&print), stop)?;
        Ok((print, facts))
    })
}

fn guess(folder: &str, entry: &Entry) -> DeviceGuess {
    let taken = Path::new(folder).file_name().unwrap_or_default();
    guess_device(&entry.relative, &taken.to_string_lossy())
}

/// Chains of files among all clips.
fn recognise_spans(app: &App) -> Result<(), ApiError> {
    let clips = app.store.stored_clips()?;
    let known: Vec<SpanClip> = clips
        .iter()
        .map(|clip| SpanClip {
            device: clip.device.0,
            relative: &clip.relative,
            bytes: clip.bytes,
            facts: &clip.facts,
        })
        .collect();
    let spans: Vec<Vec<ClipId>> =
        find_spans(&known).into_iter().map(|span| span.into_iter().map(|i| clips[i].id).collect()).collect();
    Ok(app.store.keep_spans(&spans)?)
}

fn guess_part(facts: &ClipFacts, entry: &Entry) -> Part {
    let folder = entry.device_guess().to_uppercase();
    if facts.picture.as_ref().is_some_and(|picture| picture.still) {
        Part::NoSync
    } else if folder.contains("PLAYBACK") && facts.picture.is_none() {
        Part::Playback
    } else if facts.sound.is_none() {
        Part::Silent
    } else {
        Part::Sync
    }
}

/// Queues everything that is not made yet.
pub fn queue_missing(app: &App) -> Result<(), ApiError> {
    let clips = app.store.stored_clips()?;
    let unheard = clips.iter().filter(|clip| clip.facts.sound.is_some() && clip.heard.is_none());
    let mut jobs: Vec<(JobKind, u32)> =
        unheard.map(|clip| (JobKind::Listen { clip: clip.id }, super::seconds(&clip.facts))).collect();
    let unseen = app.store.day()?.clips.into_iter().filter(|clip| !clip.proxy);
    jobs.extend(unseen.map(|clip| (JobKind::Proxy { clip: clip.id }, 1)));
    app.store.queue_all(&jobs)?;
    app.wake();
    Ok(())
}
