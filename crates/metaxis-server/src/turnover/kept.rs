//! What is handed on of the production that is kept.

use super::{
    day::{DayLuts, DayTurnover, TurnedAssembly, TurnedGroup},
    report::{DayReport, Remark},
};
use crate::{
    App,
    error::ApiError,
    file_url,
    work::{lut, sound_day},
};
use metaxis_core::{
    clip::{ClipId, DeviceId},
    intake::Weight,
    lut::{LutKey, SeenThrough},
    time::{Tick, Timecode},
    turnover::{AssembledPart, LoggedClip, Origin, Source, Sources, starts},
};
use metaxis_media::Fingerprint;
use metaxis_store::{
    AssemblySummary, ClipView, DayView, Finding, FoundAssembly, FoundPart, HealthView, Part, PlacementView,
    ShownPass, StoreError, StoredClip,
};
use std::{collections::HashMap, path::PathBuf};

/// A note about no more clips is said at each of them.
const FEW: usize = 2;

/// What documents refer to.
///
/// # Errors
/// Errors of the store.
pub fn sources_of(app: &App) -> Result<Sources, ApiError> {
    let (day, shown) = (app.store.day()?, app.store.shown()?);
    made(app, &day, &shown, &app.store.stored_clips()?)
}

fn made(app: &App, day: &DayView, shown: &ShownPass, clips: &[StoredClip]) -> Result<Sources, ApiError> {
    let views: HashMap<ClipId, &ClipView> = day.clips.iter().map(|own| (own.id, own)).collect();
    let placed: HashMap<ClipId, &PlacementView> =
        shown.placements.iter().map(|own| (own.clip, own)).collect();
    let one = |clip: &StoredClip| {
        let origin = views.get(&clip.id).map_or_else(Origin::default, |view| {
            let placed =
                placed.get(&clip.id).map(|own| &own.placement).filter(|own| !own.stretches.is_empty());
            Origin {
                scene: view.scene.clone(),
                take: view.take.clone(),
                notes: view.notes.clone(),
                circled: view.circled,
                placed: placed.map(|own| (own.verdict, own.confidence)),
                fingerprint: Some(clip.fingerprint.clone()),
                distance_m: view.distance_m.or_else(|| distance_of(day, clip.device)),
                marks: marks(view),
            }
        });
        let file_name = clip.path.file_name().unwrap_or_default().to_string_lossy().into_owned();
        (clip.id, Source { file_name, url: file_url(&clip.path), facts: clip.facts.clone(), origin })
    };
    Ok(Sources {
        habit: app.store.sound_habit()?.0,
        clips: clips.iter().map(one).collect(),
        devices: day.devices.iter().map(|own| (own.id, (own.letter.clone(), own.name.clone()))).collect(),
    })
}

fn distance_of(day: &DayView, device: DeviceId) -> Option<f64> {
    // Nought is what nobody set.
    day.devices.iter().find(|own| own.id == device).map(|own| own.distance_m).filter(|own| *own > 0.0)
}

/// Its slates: where the sticks close, by picture or by ear.
fn marks(view: &ClipView) -> Vec<(f64, String)> {
    let one = |own: &metaxis_store::SlateMarkView| {
        let at_s = own.picture_us.or(own.sound_us)? as f64 * 1e-6;
        let take =
            own.take.clone().or_else(|| Some(format!("{} / {}", view.scene.as_ref()?, view.take.as_ref()?)));
        Some((at_s, format!("Slate {}", take.unwrap_or_default()).trim_end().to_owned()))
    };
    view.marks.iter().filter_map(one).collect()
}

/// All that is handed on of what is shown.
///
/// # Errors
/// Errors of the store.
pub fn turnover_of(app: &App) -> Result<DayTurnover, ApiError> {
    let (day, shown) = (app.store.day()?, app.store.shown()?);
    let stored = app.store.stored_clips()?;
    let sources = made(app, &day, &shown, &stored)?;
    let groups = shown
        .groups
        .iter()
        .map(|own| Ok(TurnedGroup { group: own.group.clone(), line: Some(app.store.group(own.id)?.line) }));
    let groups = groups.collect::<Result<_, ApiError>>()?;
    let luts = luts(app, &day, &shown);
    let clips = logged(&day, &shown, &sources);
    let report = report(app, &day, &shown, &stored);
    let assemblies = app.store.assemblies()?.into_iter().map(|own| turned_assembly(app, own));
    let assemblies = assemblies.collect::<Result<_, _>>()?;
    Ok(DayTurnover { sound: sound_day(app, &shown)?, sources, groups, assemblies, clips, report, luts })
}

/// An assembly with all that is in it.
fn turned_assembly(app: &App, own: AssemblySummary) -> Result<TurnedAssembly, ApiError> {
    let AssemblySummary { id, name, aside, .. } = own;
    let programme = match app.store.found_assembly(id) {
        Ok(FoundAssembly { start, parts, .. }) => {
            Ok((start, parts.into_iter().map(|part| assembled(part, start)).collect()))
        }
        Err(StoreError::Refused(why)) => Err(why),
        Err(e) => return Err(e.into()),
    };
    Ok(TurnedAssembly { id, name, aside, programme })
}

fn assembled(part: FoundPart, start: Timecode) -> AssembledPart {
    match part {
        FoundPart::Gap(frames) => AssembledPart::gap(frames, start.rate),
        FoundPart::Clip(layer) => AssembledPart::clip(&layer, start.rate),
        FoundPart::Line { group, line, range } => {
            AssembledPart { group: *group, line, range, sound: None, is_gap: false }
        }
    }
}

/// What is chosen for devices and angles; what is not there any more is nothing.
fn luts(app: &App, day: &DayView, shown: &ShownPass) -> DayLuts {
    let devices: HashMap<DeviceId, LutKey> =
        day.devices.iter().filter_map(|own| Some((own.id, own.lut.clone()?))).collect();
    let all = shown.groups.iter().flat_map(|own| &own.group.angles);
    let angles = all.filter_map(|angle| match &angle.through {
        Some(SeenThrough::Lut(key)) => Some(key),
        _ => None,
    });
    let tables = devices.values().chain(angles).filter_map(|key| Some((key.clone(), lut(app, key).ok()?)));
    DayLuts { tables: tables.collect(), devices }
}

fn logged(day: &DayView, shown: &ShownPass, sources: &Sources) -> Vec<LoggedClip> {
    let zero = shown.pass.as_ref().map_or(Tick(0), |pass| pass.facts.axis_zero);
    let one = |clip: &ClipView| {
        // What is left out on purpose misses no place.
        let takes_part = !matches!(clip.part, Part::NoSync | Part::Playback);
        let placed = shown.placements.iter().find(|own| takes_part && own.clip == clip.id);
        let placement = placed.map(|own| own.placement.clone());
        let looked = shown.looks.iter().find(|own| own.clip == clip.id).map(|own| match own.finding {
            Finding::Right => "found right".to_owned(),
            Finding::Aside => "set aside".to_owned(),
        });
        // What is about many of them is said once, of the day.
        let is_its = |own: &&HealthView| {
            !own.aside && own.note.clips.len() <= FEW && own.note.clips.contains(&clip.id)
        };
        let health = day.health.iter().filter(is_its);
        LoggedClip {
            path: clip.relative.clone(),
            device: sources.device_name(clip.device),
            day: clip.day.clone(),
            part: part_word(clip.part).to_owned(),
            facts: clip.facts.clone(),
            origin: sources.clips.get(&clip.id).map_or_else(Origin::default, |own| own.origin.clone()),
            channels: clip.channels.clone().unwrap_or_default(),
            placement,
            starts: placed.and_then(|own| starts(&own.placement, zero, &clip.facts)),
            looked,
            health: health.map(|own| format!("{}.", own.note.what.trim_end_matches('.'))).collect(),
        }
    };
    day.clips.iter().map(one).collect()
}

fn part_word(part: Part) -> &'static str {
    match part {
        Part::Sync => "sync",
        Part::NoSync => "no sync",
        Part::Silent => "silent",
        Part::Wild => "wild",
        Part::Playback => "playback track",
    }
}

fn report(app: &App, day: &DayView, shown: &ShownPass, stored: &[StoredClip]) -> DayReport {
    let picture = |clip: &StoredClip| {
        Some((clip.id, app.cache.clip(&Fingerprint::parse(&clip.fingerprint)?).thumbnail()))
    };
    let pictures: HashMap<ClipId, PathBuf> = stored.iter().filter_map(picture).collect();
    let health = day.health.iter().filter(|own| !own.aside);
    DayReport {
        production: day.production.name.clone(),
        day: day.production.day.clone(),
        pass: shown.pass.as_ref().map(|own| own.facts.name.clone()),
        reference: shown.pass.as_ref().and_then(|own| {
            Some(day.devices.iter().find(|device| device.id == own.facts.reference)?.name.clone())
        }),
        checked: shown.checked.as_ref().map(|own| format!("declared checked by {}", own.who)),
        answers: shown.review.iter().map(|own| (own.well, own.text.clone())).collect(),
        remarks: health
            .map(|own| Remark {
                weighs: own.note.weight != Weight::Know,
                what: own.note.what.clone(),
                means: own.note.means.clone(),
                todo: own.note.todo.clone(),
            })
            .collect(),
        groups: shown.groups.iter().map(|own| own.group.clone()).collect(),
        pictures: day.clips.iter().map(|clip| pictures.get(&clip.id).cloned()).collect(),
    }
}
