//! A pass: sync everything that takes part.

use super::{
    chosen::add_choices,
    findings::{Findings, FoundDay},
    intake::as_it_is_now,
    outcome::{Outcome, bare, in_store_numbers, keep_outcome, no_reference, not_yet, taking_part},
    placing::{ToPlace, days_of},
};
use crate::{
    App, ArrivingClip, Event,
    error::ApiError,
    heard_day::{self, Listened},
    pictures::{Pictured, distances},
};
use metaxis_core::{
    clip::{ClipId, DeviceId},
    sync::{
        ClockNote, DayClip, DayResult, DaysAxis, Effort, Mode, Placement, ShownDistance, Step, Verdict,
        clock_notes, component_at, join_days, keep_beside, place_near,
    },
};
use metaxis_media::{MediaError, Stop};
use metaxis_store::{DayView, JobId, Near, Part, PassPlan, StoredClip};
use rayon::prelude::*;
use std::{
    collections::{HashMap, HashSet},
    ops::ControlFlow,
    sync::atomic::{AtomicUsize, Ordering},
    time::Instant,
};

/// Refuses a plan that names what is not there, before it is queued.
pub fn check_plan(app: &App, reference: Option<DeviceId>, plan: &PassPlan) -> Result<(), ApiError> {
    let day = app.store.day()?;
    if let Some(missing) = reference.filter(|id| day.devices.iter().all(|device| device.id != *id)) {
        return Err(ApiError::Refused(format!("there is no device {}; reload the page", missing.0)));
    }
    let known = |clip: ClipId| day.clips.iter().any(|own| own.id == clip);
    let named =
        plan.clips.iter().flatten().copied().chain(plan.near.iter().flat_map(|n| [n.clip, n.against]));
    if let Some(missing) = named.into_iter().find(|clip| !known(*clip)) {
        return Err(ApiError::Refused(format!("there is no clip {}; reload the page", missing.0)));
    }
    let shown = app.store.shown()?;
    if let Some(missing) = plan.day.as_ref()
        && day.clips.iter().all(|clip| clip.day.as_ref() != Some(missing))
    {
        return Err(ApiError::Refused(format!("no clip is of the shoot day “{missing}”; reload the page")));
    }
    if (plan.clips.is_some() || plan.near.is_some()) && shown.pass.is_none() {
        return Err(ApiError::Refused("nothing is placed yet; sync the day first".into()));
    }
    if let Some(near) = plan.near {
        if near.clip == near.against {
            return Err(ApiError::Refused("a clip cannot be laid against itself; choose another".into()));
        }
        if !(1..=600_000).contains(&near.within_ms) {
            return Err(ApiError::Refused("look within 1 ms to 10 minutes of the place".into()));
        }
        let placed =
            shown.placements.iter().any(|p| p.clip == near.against && !p.placement.stretches.is_empty());
        if !placed {
            return Err(ApiError::Refused(
                "the clip to lay it against has no place itself; choose another".into(),
            ));
        }
    }
    Ok(())
}

/// Listens to what was not listened to, places what the plan asks for, keeps the pass and its groups.
pub fn pass(
    app: &App,
    job: JobId,
    reference: Option<DeviceId>,
    plan: &PassPlan,
    stop: &Stop,
) -> Result<(), ApiError> {
    let begin = Instant::now();
    let (taking, resting) = taking_part(app, plan.mode)?;
    let (day, before) = (app.store.day()?, app.store.shown()?);
    let days = days_of(&taking, &day, plan.mode);
    let asked = Asked { plan, day: &day };
    // A day of which nothing is asked for is left alone.
    let runs: Vec<bool> =
        days.iter().map(|own| own.iter().any(|&clip| asked.needs(taking[clip].id))).collect();
    let needed: HashSet<ClipId> = days
        .iter()
        .zip(&runs)
        .filter(|(_, runs)| **runs)
        .flat_map(|(own, _)| own.iter().map(|&clip| taking[clip].id))
        .collect();
    let done = AtomicUsize::new(0);
    // A clip is listened to and looked for: two steps.
    let tell = |steps: usize| {
        if app.store.job_progress(job, steps / 2, needed.len()).is_ok() {
            app.tell_jobs();
        }
    };
    let step = || tell(done.fetch_add(1, Ordering::Relaxed) + 1);
    tell(0);
    let listened: Vec<(Listened, Option<String>)> = taking
        .par_iter()
        .map(|clip| {
            if !needed.contains(&clip.id) {
                return Ok((bare(clip), None));
            }
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
    let (mut listened, faults): (Vec<Listened>, Vec<Option<String>>) = listened.into_iter().unzip();
    add_choices(&mut listened, &day);

    let index = |clip: ClipId| listened.iter().position(|own| own.id == clip);
    let kept: HashMap<ClipId, Placement> =
        before.placements.iter().map(|p| (p.clip, p.placement.clone())).collect();
    // Part of a pass keeps its axis.
    let axis = before.pass.as_ref().filter(|_| plan.is_part());
    let origin = axis.and_then(|pass| index(pass.facts.origin));
    let mut findings = None;
    let (reference, mut result) = if let Some(near) = plan.near {
        let axis = axis.ok_or_else(no_reference)?;
        let clips = heard_day::day_clips(&listened);
        (axis.facts.reference, near_result(&listened, &clips, &kept, origin.ok_or_else(no_reference)?, near)?)
    } else {
        let asked = match (reference, axis) {
            (Some(device), _) => Some(device),
            (None, Some(pass)) => Some(pass.facts.reference),
            (None, None) if plan.mode == Mode::Playback => Some(track_device(&taking)?),
            (None, None) => None,
        };
        let of_axis = origin.and_then(|origin| days.iter().position(|own| own.contains(&origin)));
        let first = of_axis.or_else(|| runs.iter().position(|runs| *runs)).unwrap_or(0);
        let flow = |at: Step, zero_s: Option<f64>| {
            step();
            if let Some(news) = at.news {
                let clip = ArrivingClip {
                    clip: listened[news.clip].id,
                    start_s: news.start_s,
                    at_s: zero_s.map(|zero_s| zero_s + news.start_s),
                    sure: news.sure,
                };
                app.tell(Event::Arriving { clips: vec![clip] });
            }
            if stop.is_stopped() { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
        };
        let mut clips: Vec<Option<DayClip>> = heard_day::day_clips(&listened).into_iter().map(Some).collect();
        let mut placed = vec![];
        for (number, own) in days.iter().enumerate().filter(|(number, _)| runs[*number]) {
            let clips: Vec<DayClip> = own.iter().filter_map(|&clip| clips[clip].take()).collect();
            let to_place = ToPlace {
                numbers: own,
                clips: &clips,
                listened: &listened,
                after: number as i64 - first as i64,
                reference: asked,
                any: days.len() > 1,
            };
            match to_place.place(plan, &before.placements, &flow) {
                Ok(day) => placed.push(day),
                // A day without any sound does not keep the others from theirs.
                Err(ApiError::Refused(_)) if days.len() > 1 => {}
                Err(e) => return Err(e),
            }
        }
        let leading = placed.iter().min_by_key(|own| (own.day.after != 0, own.day.after));
        let (lead, zero_s) = match (axis, leading) {
            (Some(pass), _) => (pass.facts.reference, pass.facts.axis_zero.seconds()),
            (None, Some(own)) => (own.reference, own.day.zero_s),
            (None, None) => return Err(no_reference()),
        };
        let old = Findings::shown(app)?.unwrap_or_default();
        let (placed, mut found): (Vec<_>, Vec<_>) =
            placed.into_iter().map(|own| (own.day, own.found)).unzip();
        // What was found on days that were left alone is as true as it was.
        let is_old = |own: &FoundDay| !own.clips.iter().any(|clip| needed.contains(clip));
        found.extend(old.days.into_iter().filter(is_old));
        findings = Some(Findings { days: found });
        let why = |clip: usize| {
            let runs = needed.contains(&listened[clip].id);
            if runs { Placement::unplaced(NO_SOUND_THAT_DAY) } else { not_yet() }
        };
        (lead, join_days(placed, DaysAxis { origin, zero_s }, listened.len(), why))
    };
    let mut shown = result.distances.clone();
    if !plan.is_part() {
        shown.extend(seen(app, &taking, &listened, &result, stop)?);
    }
    let mut notes: Vec<ClockNote> = vec![];
    for note in clock_notes(&result.clocks, &shown) {
        let note = known(note, &taking, &day);
        // What several shoot days say alike is said once.
        if !notes.contains(&note) {
            notes.push(note);
        }
    }

    in_store_numbers(&mut result, &listened);
    for (placement, fault) in result.placements.iter_mut().zip(faults) {
        if let Some(fault) = fault {
            *placement = Placement::unplaced(fault);
        }
    }
    let stays = |clip: &Listened| {
        // What a person laid stays until it is asked for by name.
        let by_hand =
            |old: &&Placement| old.verdict == Verdict::ByHand && plan.clips.is_none() && plan.near.is_none();
        kept.get(&clip.id).filter(|old| !asked.for_clip(clip.id) || by_hand(old)).cloned()
    };
    let staying: Vec<Option<Placement>> = listened.iter().map(stays).collect();
    if plan.is_part() {
        let islands = before.pass.as_ref().map_or(&[][..], |pass| &pass.facts.islands);
        keep_beside(&mut result, staying, islands);
    } else {
        lay_back(&mut result, staying);
    }
    let outcome = Outcome {
        name: name_of(plan, &day),
        reference,
        took_s: begin.elapsed().as_secs_f64(),
        notes,
        result,
    };
    let number = keep_outcome(app, outcome, &listened, &resting, &day)?;
    if let Some(findings) = findings {
        findings.keep(app, number)?;
    }
    Ok(())
}

/// What is said of clips whose day has no place.
const NO_SOUND_THAT_DAY: &str = "Nothing that takes part on its shoot day has any sound to sync to.";

/// What a pass is asked for.
struct Asked<'a> {
    plan: &'a PassPlan,
    day: &'a DayView,
}

impl Asked<'_> {
    /// Whether a clip is to be placed anew.
    fn for_clip(&self, clip: ClipId) -> bool {
        let of_day = |wanted: &String| {
            let own = self.day.clips.iter().find(|own| own.id == clip);
            own.and_then(|own| own.day.as_ref()) == Some(wanted)
        };
        match (&self.plan.clips, self.plan.near, &self.plan.day) {
            (_, Some(near), _) => near.clip == clip,
            (Some(clips), None, _) => clips.contains(&clip),
            (None, None, Some(wanted)) => of_day(wanted),
            (None, None, None) => true,
        }
    }

    /// Whether a clip's day has to be listened to.
    fn needs(&self, clip: ClipId) -> bool {
        self.for_clip(clip) || self.plan.near.is_some_and(|near| near.against == clip)
    }
}

/// Distances that pictures show.
fn seen(
    app: &App,
    clips: &[StoredClip],
    listened: &[Listened],
    result: &DayResult,
    stop: &Stop,
) -> Result<Vec<ShownDistance>, ApiError> {
    let prints =
        clips.iter().map(|clip| super::fingerprint(&clip.fingerprint)).collect::<Result<Vec<_>, _>>()?;
    let pictured: Vec<Pictured> = clips
        .iter()
        .zip(&prints)
        .zip(listened)
        .map(|((clip, fingerprint), own)| own.pictured(&clip.path, fingerprint))
        .collect();
    Ok(distances(&app.cache, &pictured, &result.placements, &result.distances, stop)?)
}

/// A note with the store's number of its clip, and with the frames that were off its device's timecode already.
fn known(note: ClockNote, clips: &[StoredClip], day: &DayView) -> ClockNote {
    let clip = note.clip.and_then(|at| usize::try_from(clips[at].id.0).ok());
    let device = day.devices.iter().find(|device| device.id.0 as usize == note.device);
    let off = device.map_or(0, |device| device.taken_off.of(note.kind));
    ClockNote { clip, frames_in_all: note.take_off.map(|frames| frames + off), ..note }
}

/// What a person laid stays where it is in a whole new day, and belongs to the component that lies there now.
fn lay_back(result: &mut DayResult, staying: Vec<Option<Placement>>) {
    let is_free = |(i, _): &(usize, &Placement)| staying[*i].is_none();
    let others: Vec<Placement> =
        result.placements.iter().enumerate().filter(is_free).map(|(_, own)| own.clone()).collect();
    for (placement, old) in result.placements.iter_mut().zip(staying) {
        if let Some(old) = old {
            let component = old.extent_s().map_or(0, |extent| component_at(&others, extent));
            *placement = Placement { component, ..old };
        }
    }
}

/// What a pass is called until a person names it: what was asked for.
fn name_of(plan: &PassPlan, day: &DayView) -> String {
    let name = |id: ClipId| {
        let clip = day.clips.iter().find(|clip| clip.id == id);
        clip.map_or_else(String::new, |clip| clip.file_name.clone())
    };
    let effort = if plan.effort == Effort::Deep { ", deep" } else { "" };
    match (&plan.near, plan.clips.as_deref()) {
        (Some(near), _) => format!("{} near a place", name(near.clip)),
        (None, Some([one])) => format!("{}{effort}", name(*one)),
        (None, Some(some)) => format!("{} clips{effort}", some.len()),
        (None, None) if plan.mode == Mode::Playback => format!("To the track{effort}"),
        (None, None) => format!("{}{effort}", plan.day.as_deref().unwrap_or("Whole day")),
    }
}

/// The shown pass with one clip looked for near a place.
fn near_result(
    listened: &[Listened],
    clips: &[DayClip],
    kept: &HashMap<ClipId, Placement>,
    origin: usize,
    near: Near,
) -> Result<DayResult, ApiError> {
    let index = |clip: ClipId| {
        listened.iter().position(|own| own.id == clip).filter(|&at| clips[at].is_heard()).ok_or_else(|| {
            ApiError::Refused("one of the two clips takes no part or has no sound to listen to".into())
        })
    };
    let (clip, against) = (index(near.clip)?, index(near.against)?);
    let there = kept.get(&near.against).filter(|there| !there.stretches.is_empty());
    let there =
        there.ok_or_else(|| ApiError::Refused("the clip to lay it against has no place itself".into()))?;
    let (start_s, within_s) = (near.start_ms as f64 / 1e3, near.within_ms as f64 / 1e3);
    let found = place_near(clips, clip, against, there, start_s, within_s);
    let placement = |i: usize| if i == clip { found.clone() } else { Placement::unplaced("") };
    Ok(DayResult {
        reference: origin,
        placements: (0..clips.len()).map(placement).collect(),
        rates: vec![],
        clocks: vec![],
        distances: vec![],
        islands: vec![],
    })
}

/// The device of the playback track.
fn track_device(clips: &[StoredClip]) -> Result<DeviceId, ApiError> {
    let track = clips.iter().find(|clip| clip.part == Part::Playback);
    track.map(|clip| clip.device).ok_or_else(|| {
        ApiError::Refused(
            "no clip is marked as the playback track; mark it at Intake, or choose a reference".into(),
        )
    })
}

fn hear(app: &App, clip: &StoredClip, stop: &Stop) -> Result<Listened, ApiError> {
    let clip = &as_it_is_now(app, clip, stop)?;
    let fingerprint = super::fingerprint(&clip.fingerprint)?;
    let heard = heard_day::hear(&clip.path, &fingerprint, &clip.facts, &app.cache, stop, &|_| {})?;
    if let Some(heard) = &heard
        && clip.heard.is_none()
    {
        app.store.keep_heard(clip.id, heard)?;
    }
    let sounds = heard_day::sounds(&clip.path, &fingerprint, &clip.facts, heard.as_ref(), &app.cache, stop)?;
    let channels = heard.map_or_else(Vec::new, |heard| heard.channels);
    Ok(Listened { channels, sounds, ..bare(clip) })
}
