//! Films of a production: ordered, and made one after the other.

use crate::{
    App, Event,
    error::ApiError,
    film::{FilmPlan, FilmsOf, Wanted, can_be_made, make, told},
    sound::room_for,
    turnover::{DayTurnover, TurnedGroup, turnover_of},
};
use metaxis_core::{clip::ClipId, film::FilmForm};
use metaxis_media::Stop;
use metaxis_store::{AssemblyId, FilmOf, FilmOrder, GroupId, JobId};
use serde::Deserialize;
use std::{path::PathBuf, time::Instant};
use ts_rs::TS;

/// Films that are to be made.
#[derive(Debug, Deserialize, TS)]
pub struct OrderFilms {
    what: FilmsOf,
    /// Only of these groups; of all where null.
    groups: Option<Vec<GroupId>>,
    /// Only of these clips; of all where null.
    clips: Option<Vec<ClipId>>,
    /// Only of these assemblies; of all where it is not given.
    #[ts(optional)]
    assemblies: Option<Vec<AssemblyId>>,
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
    let OrderFilms { what, groups, clips, assemblies, form, folder, replace } = wanted;
    can_be_made(&form).map_err(ApiError::Refused)?;
    if !folder.is_empty() {
        app.config.writable_folder(&folder).map_err(ApiError::Refused)?;
    }
    let ids = app.store.shown()?.groups.into_iter().map(|own| own.id).collect::<Vec<_>>();
    if let Some(missing) = groups.iter().flatten().find(|own| !ids.contains(own)) {
        return Err(ApiError::NotFound(format!("there is no group {missing} in what is shown")));
    }
    app.store.know(clips.as_deref().unwrap_or_default())?;
    let day = turnover_of(app)?;
    let is_wanted = |of: &FilmOf| match of {
        FilmOf::Line { group } | FilmOf::Wall { group } | FilmOf::Angle { group, .. } => {
            groups.as_ref().is_none_or(|all| all.contains(group))
        }
        FilmOf::Clip { clip } => clips.as_ref().is_none_or(|all| all.contains(clip)),
        FilmOf::Assembly { assembly } => assemblies.as_ref().is_none_or(|all| all.contains(assembly)),
    };
    let all = what.all(&day).into_iter().filter_map(|wanted| Some((wanted, kept_of(&day, &ids, wanted)?)));
    let orders = all
        .filter(|(_, of)| is_wanted(of))
        .map(|(wanted, of)| {
            let (stem, frames) = told(&day, wanted).map_err(ApiError::Refused)?;
            let frames = u32::try_from(frames).unwrap_or(u32::MAX);
            Ok((FilmOrder { of, stem, form, folder: folder.clone(), replace }, frames))
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

/// What is wanted, by the numbers that the store has for it; `ids` are those of the day's groups.
fn kept_of(day: &DayTurnover, ids: &[GroupId], wanted: Wanted) -> Option<FilmOf> {
    let group =
        |own: &TurnedGroup| ids.get(day.groups.iter().position(|other| std::ptr::eq(other, own))?).copied();
    Some(match wanted {
        Wanted::Line(own) => FilmOf::Line { group: group(own)? },
        Wanted::Wall(own) => FilmOf::Wall { group: group(own)? },
        Wanted::Angle(own, angle) => FilmOf::Angle { group: group(own)?, angle },
        Wanted::Clip(clip) => FilmOf::Clip { clip },
        Wanted::Assembly(own) => FilmOf::Assembly { assembly: own.id },
    })
}

/// The same the other way round.
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
        FilmOf::Assembly { assembly } => {
            let own = day.assembly(assembly);
            Wanted::Assembly(own.ok_or_else(|| ApiError::Refused("its assembly is not there".into()))?)
        }
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
    app.tell(Event::Films);
    let pace = super::Pace::default();
    let progress = |done: i64| {
        app.film_runs(job, done);
        if pace.is_due() && app.store.job_progress(job, usize::try_from(done).unwrap_or(0), all).is_ok() {
            app.tell_jobs();
            app.tell(Event::Filming { film: job, done, pace: app.film_pace(job) });
        }
    };
    let made = make(&plan, &folder, order.replace, stop, &progress)?;
    app.store.job_progress(job, all, all)?;
    let seconds = plan.film.frames as f64 / plan.film.rate.as_f64();
    let took_s = begin.elapsed().as_secs_f64();
    let said = match &made.written {
        Some(written) => format!(
            "{:.1} MB in {took_s:.0} s, {:.1} × its own length; counted, looked at and compared",
            written.bytes as f64 / 1e6,
            seconds / took_s.max(1e-3)
        ),
        None => "it was there already, made of the same in the same way".into(),
    };
    Ok(std::iter::once(said).chain(made.remarks).collect::<Vec<_>>().join("; "))
}
