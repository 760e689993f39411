//! A pass: sync everything that takes part.

use crate::{
    App,
    engine::{self, Listened},
    error::ApiError,
};
use metaxis_core::{
    clip::DeviceId,
    sync::{DayError, DayPlan, Mode, Placement, Search, pick_reference, place_day},
};
use metaxis_media::{MediaError, Stop};
use metaxis_store::{JobId, Part, StoredClip};
use rayon::prelude::*;
use std::{
    ops::ControlFlow,
    sync::atomic::{AtomicUsize, Ordering},
    time::Instant,
};

/// Listens to what was not listened to, places every clip, keeps the pass and its groups.
pub fn pass(app: &App, job: JobId, reference: Option<DeviceId>, stop: &Stop) -> Result<(), ApiError> {
    let begin = Instant::now();
    let (taking, resting): (Vec<StoredClip>, Vec<StoredClip>) =
        app.store.stored_clips()?.into_iter().partition(|clip| matches!(clip.part, Part::Sync | Part::Wild));
    let total = taking.len() * 2;
    let done = AtomicUsize::new(0);
    let step = || {
        let count = done.fetch_add(1, Ordering::Relaxed) + 1;
        if app.store.job_progress(job, count, total).is_ok() {
            app.tell_jobs();
        }
    };
    let listened: Vec<(Listened, Option<String>)> = taking
        .par_iter()
        .map(|clip| {
            let heard = hear(app, clip, stop);
            step();
            match heard {
                Ok(listened) => Ok((listened, None)),
                Err(ApiError::Media(MediaError::Stopped)) => Err(MediaError::Stopped.into()),
                // One bad file never stops the rest: it stays unplaced and says why.
                Err(e) => Ok((bare(clip), Some(e.to_string()))),
            }
        })
        .collect::<Result<_, ApiError>>()?;
    let (listened, faults): (Vec<Listened>, Vec<Option<String>>) = listened.into_iter().unzip();

    let clips = engine::day_clips(&listened);
    let reference = match reference {
        Some(device) => device.0 as usize,
        None => pick_reference(&clips).ok_or_else(no_reference)?,
    };
    let plan = DayPlan { reference, origin: None, search: Search::Normal, mode: Mode::Day };
    let flow = |_, _| {
        step();
        if stop.is_stopped() { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
    };
    let result = place_day(&clips, plan, &flow).map_err(|e| match e {
        DayError::Stopped => MediaError::Stopped.into(),
        DayError::NoReference => no_reference(),
    })?;
    drop(clips);

    let device = DeviceId(reference as i64);
    let order: Vec<DeviceId> = app.store.day()?.devices.iter().map(|device| device.id).collect();
    let (axis_zero, groups) = engine::groups(&listened, &result, device, &order);
    let mut placements: Vec<_> = listened.iter().map(|clip| clip.id).zip(result.placements).collect();
    for ((_, placement), fault) in placements.iter_mut().zip(faults) {
        // The engine names clips by their place in its list, the store by their numbers.
        for evidence in &mut placement.evidence {
            evidence.against = evidence.against.and_then(|i| usize::try_from(listened[i].id.0).ok());
        }
        if let Some(fault) = fault {
            *placement = Placement::unplaced(fault);
        }
    }
    placements.extend(resting.iter().map(|clip| (clip.id, Placement::unplaced(why_resting(clip.part)))));
    let origin = listened[result.reference].id;
    app.store.keep_pass(device, origin, axis_zero, begin.elapsed().as_secs_f64(), &placements, &groups)?;
    Ok(())
}

fn no_reference() -> ApiError {
    ApiError::Refused(
        "no clip that takes part has any sound to sync to; take in a folder with sound first".into(),
    )
}

fn why_resting(part: Part) -> &'static str {
    match part {
        Part::Silent => "It has no sound to listen to.",
        Part::Playback => "It is a playback track, not a recording of the day.",
        Part::NoSync | Part::Sync | Part::Wild => "It is set not to take part.",
    }
}

fn bare(clip: &StoredClip) -> Listened {
    Listened { id: clip.id, device: clip.device, facts: clip.facts.clone(), sounds: vec![] }
}

fn hear(app: &App, clip: &StoredClip, stop: &Stop) -> Result<Listened, ApiError> {
    let fingerprint = super::fingerprint(&clip.fingerprint)?;
    let heard = engine::hear(&clip.path, &fingerprint, &clip.facts, &app.cache, stop, &|_| {})?;
    if let Some(heard) = &heard
        && clip.heard.is_none()
    {
        app.store.keep_heard(clip.id, heard)?;
    }
    let sounds = engine::sounds(heard.as_ref(), &fingerprint, &app.cache)?;
    Ok(Listened { sounds, ..bare(clip) })
}
