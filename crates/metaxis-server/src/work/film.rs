//! Films of a production: ordered, and made one after the other.

use crate::{
    App, Event,
    error::ApiError,
    film::{FilmPlan, Wanted, make},
    sound::room_for,
    turnover::{DayTurnover, TurnedGroup, turnover_of},
};
use metaxis_core::{clip::ClipId, film::FilmForm};
use metaxis_media::{Stop, codecs_offered};
use metaxis_store::{FilmOf, FilmOrder, GroupId, JobId};
use serde::Deserialize;
use std::{path::PathBuf, time::Instant};
use ts_rs::TS;

/// What films are to be made of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum FilmsOf {
    /// The line of each group.
    Lines,
    /// All angles of each group side by side.
    Walls,
    /// Each angle of each group.
    Angles,
    /// Each picture clip.
    Clips,
}

/// Films that are to be made.
#[derive(Debug, Deserialize, TS)]
pub struct OrderFilms {
    what: FilmsOf,
    /// Only of these groups; of all where null.
    groups: Option<Vec<GroupId>>,
    /// Only of these clips; of all where null.
    clips: Option<Vec<ClipId>>,
    form: FilmForm,
    /// Where they go: the production's own folder where empty.
    folder: String,
    /// Files that are there under their names are replaced.
    replace: bool,
}

/// Where films go: to the folder that is chosen, else the production's own.
pub fn film_folder(app: &App, chosen: &str) -> PathBuf {
    if chosen.is_empty() { app.config.data.join("films") } else { PathBuf::from(chosen) }
}

/// Queues films. What cannot be made at all is said now, and then none is queued.
///
/// # Errors
/// [`ApiError::Refused`], and errors of the store.
pub fn order_films(app: &App, wanted: OrderFilms) -> Result<usize, ApiError> {
    let OrderFilms { what, groups, clips, form, folder, replace } = wanted;
    form.check().map_err(ApiError::Refused)?;
    if !codecs_offered().contains(&form.codec) {
        let name = form.codec.name();
        return Err(ApiError::Refused(format!(
            "this machine’s ffmpeg does not code {name}: choose another codec"
        )));
    }
    if !folder.is_empty() {
        app.config.writable_folder(&folder).map_err(ApiError::Refused)?;
    }
    let ids = app.store.shown()?.groups.into_iter().map(|own| own.id).collect::<Vec<_>>();
    if let Some(missing) = groups.iter().flatten().find(|own| !ids.contains(own)) {
        return Err(ApiError::NotFound(format!("there is no group {missing} in what is shown")));
    }
    app.store.know(clips.as_deref().unwrap_or_default())?;
    let day = turnover_of(app)?;
    let of_groups = || {
        let is_wanted = |id: &GroupId| groups.as_ref().is_none_or(|all| all.contains(id));
        ids.iter().zip(&day.groups).filter(move |(id, _)| is_wanted(id))
    };
    let all: Vec<FilmOf> = match what {
        FilmsOf::Lines => of_groups().map(|(id, _)| FilmOf::Line { group: *id }).collect(),
        FilmsOf::Walls => of_groups().map(|(id, _)| FilmOf::Wall { group: *id }).collect(),
        FilmsOf::Angles => of_groups()
            .flat_map(|(id, own)| own.group.seen().map(|angle| FilmOf::Angle { group: *id, angle: angle.id }))
            .collect(),
        FilmsOf::Clips => {
            let is_wanted = |id: ClipId| clips.as_ref().is_none_or(|all| all.contains(&id));
            let moves = |own: &&crate::sound::SoundClip| {
                own.facts.picture.as_ref().is_some_and(|picture| !picture.still) && is_wanted(own.id)
            };
            day.sound.clips.iter().filter(moves).map(|own| FilmOf::Clip { clip: own.id }).collect()
        }
    };
    let orders = all
        .into_iter()
        .map(|of| {
            let plan = FilmPlan::of(&day, wanted_of(&day, &ids, of)?, form).map_err(ApiError::Refused)?;
            let frames = u32::try_from(plan.film.frames).unwrap_or(u32::MAX);
            Ok((FilmOrder { of, stem: plan.stem, form, folder: folder.clone(), replace }, frames))
        })
        .collect::<Result<Vec<_>, ApiError>>()?;
    if orders.is_empty() {
        return Err(ApiError::Refused("there is nothing of the kind to make a film of".into()));
    }
    let count = orders.len();
    app.store.queue_films(orders)?;
    app.wake();
    app.tell(Event::Films);
    Ok(count)
}

fn wanted_of<'a>(day: &'a DayTurnover, ids: &[GroupId], of: FilmOf) -> Result<Wanted<'a>, ApiError> {
    let group = |id: GroupId| -> Result<&'a TurnedGroup, ApiError> {
        let at = ids.iter().position(|own| *own == id);
        at.and_then(|at| day.groups.get(at))
            .ok_or_else(|| ApiError::Refused("its group is not there any more: order it anew".into()))
    };
    Ok(match of {
        FilmOf::Line { group: id } => Wanted::Line(group(id)?),
        FilmOf::Wall { group: id } => Wanted::Wall(group(id)?),
        FilmOf::Angle { group: id, angle } => Wanted::Angle(group(id)?, angle),
        FilmOf::Clip { clip } => Wanted::Clip(clip),
    })
}

/// Makes a film; returns what is to be known of it.
pub(super) fn film(app: &App, job: JobId, order: &FilmOrder, stop: &Stop) -> Result<String, ApiError> {
    let begin = Instant::now();
    let ids: Vec<GroupId> = app.store.shown()?.groups.into_iter().map(|own| own.id).collect();
    let day = turnover_of(app)?;
    let mut plan =
        FilmPlan::of(&day, wanted_of(&day, &ids, order.of)?, order.form).map_err(ApiError::Refused)?;
    // It is called as it was when it was ordered.
    plan.stem.clone_from(&order.stem);
    let folder = film_folder(app, &order.folder);
    if !order.folder.is_empty() {
        app.config.writable_folder(&order.folder).map_err(ApiError::Refused)?;
    }
    room_for(plan.bytes(), &folder).map_err(ApiError::Refused)?;
    let all = usize::try_from(plan.film.frames).unwrap_or(1);
    app.store.job_progress(job, 0, all)?;
    let told = super::Pace::default();
    let progress = |done: i64| {
        app.film_runs(job, done);
        if told.is_due() && app.store.job_progress(job, usize::try_from(done).unwrap_or(0), all).is_ok() {
            app.tell_jobs();
            app.tell(Event::Films);
        }
    };
    let made = make(&plan, &folder, order.replace, stop, &progress)?;
    app.store.job_progress(job, all, all)?;
    let seconds = plan.film.frames as f64 / plan.film.rate.as_f64();
    let pace = seconds / begin.elapsed().as_secs_f64().max(1e-3);
    let said = match &made.written {
        Some(written) => format!(
            "{:.1} MB in {:.0} s, {pace:.1} × its own length; counted, looked at and compared",
            written.bytes as f64 / 1e6,
            begin.elapsed().as_secs_f64()
        ),
        None => "it was there already, made of the same in the same way".into(),
    };
    Ok(std::iter::once(said).chain(made.remarks).collect::<Vec<_>>().join("; "))
}
