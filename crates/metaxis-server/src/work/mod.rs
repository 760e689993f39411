//! Jobs: what takes long, on threads of their own, with progress, stop and pick-up after a restart.

mod intake;
mod pass;

use crate::{App, Event, engine, error::ApiError};
use metaxis_core::clip::ClipId;
use metaxis_media::{Fingerprint, MediaError, Stop, make_playback_sound, make_proxy, make_thumbnail};
use metaxis_store::{Job, JobKind, JobState};
use std::{sync::Arc, thread::JoinHandle};

/// Starts as many workers as there are cores.
pub fn start(app: &Arc<App>) -> Vec<JoinHandle<()>> {
    let count = std::thread::available_parallelism().map_or(2, usize::from).clamp(2, 8);
    (0..count)
        .map(|_| {
            let app = app.clone();
            std::thread::spawn(move || work(&app))
        })
        .collect()
}

fn work(app: &App) {
    while !app.is_closing() {
        let heard = app.rings();
        match app.store.next_job() {
            Ok(Some(job)) => run(app, &job),
            Ok(None) => app.wait(heard),
            Err(e) => {
                tracing::error!("{e}");
                app.wait(heard);
            }
        }
    }
}

fn run(app: &App, job: &Job) {
    let stop = app.begin(job.id, job.kind.name());
    app.tell_jobs();
    let result = match &job.kind {
        JobKind::Intake { folder } => intake::take_in(app, job.id, folder, &stop),
        JobKind::Listen { clip } => listen(app, *clip, &stop),
        JobKind::Proxy { clip } => proxy(app, *clip, &stop),
        JobKind::Pass { reference } => pass::pass(app, job.id, *reference, &stop),
    };
    app.ended(job.id);
    // What ends with the server stays "running" in the store, and waits again at the next start.
    if app.is_closing() && result.is_err() {
        return;
    }
    let ended = match &result {
        Ok(()) => app.store.end_job(job.id, JobState::Done, None),
        Err(ApiError::Media(MediaError::Stopped)) => app.store.end_job(job.id, JobState::Stopped, None),
        Err(e) => app.store.end_job(job.id, JobState::Failed, Some(&e.to_string())),
    };
    if let Err(e) = ended {
        tracing::error!("{e}");
    }
    app.tell_jobs();
    app.tell(Event::Day);
}

fn fingerprint(text: &str) -> Result<Fingerprint, ApiError> {
    Fingerprint::parse(text).ok_or_else(|| ApiError::NotFound("the clip was not read yet".into()))
}

fn listen(app: &App, id: ClipId, stop: &Stop) -> Result<(), ApiError> {
    let clip = app.store.clip(id)?;
    let heard = engine::hear(&clip.path, &fingerprint(&clip.fingerprint)?, &clip.facts, &app.cache, stop)?;
    if let Some(heard) = heard {
        app.store.keep_heard(id, &heard)?;
    }
    Ok(())
}

fn proxy(app: &App, id: ClipId, stop: &Stop) -> Result<(), ApiError> {
    let clip = app.store.clip(id)?;
    let fingerprint = fingerprint(&clip.fingerprint)?;
    let cached = app.cache.clip(&fingerprint);
    if clip.facts.picture.is_some() {
        make_thumbnail(&clip.path, &clip.facts, &cached, stop)?;
        make_proxy(&clip.path, &cached, stop)?;
    }
    if let Some(heard) = engine::hear(&clip.path, &fingerprint, &clip.facts, &app.cache, stop)? {
        make_playback_sound(&clip.path, &heard.used, &cached, stop)?;
        app.store.keep_heard(id, &heard)?;
    }
    Ok(app.store.keep_proxy(id)?)
}
