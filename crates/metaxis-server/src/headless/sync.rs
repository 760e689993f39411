//! `metaxis sync`: folders in, a sync report out, and the groups as documents.

use super::{
    sound::sound_day,
    synced::{SyncError, SyncPlan, Synced, synced},
    turnover::sources,
};
use crate::{each::Progress, heard_day::Listened, sound::laid};
use metaxis_core::{
    group::Group,
    sync::{
        ClipReport, ComponentReport, DayResult, GroupAngleReport, GroupReport, Mode, REPORT_SCHEMA,
        SyncReport,
    },
    turnover::group_document,
};
use metaxis_store::SoundOrder;
use std::{path::Path, time::Instant};

/// Runs the whole sync. `progress` is called with what is being done, how much of it is done, and of how much.
///
/// # Errors
/// A [`SyncError`] where there can be no report; faults of single files are in the report.
pub fn sync(plan: &SyncPlan, progress: &Progress) -> Result<SyncReport, SyncError> {
    let begin = Instant::now();
    let mut day = synced(plan, progress)?;
    if let Some(folder) = &plan.turnover {
        turn_over(folder, plan, &day)?;
    }
    day.timing.total_s = begin.elapsed().as_secs_f64();
    Ok(report(plan, day))
}

fn turn_over(folder: &Path, plan: &SyncPlan, day: &Synced) -> Result<(), SyncError> {
    let write = |path: &Path, source| SyncError::Write { path: path.to_owned(), source };
    std::fs::create_dir_all(folder).map_err(|e| write(folder, e))?;
    let sources = sources(day);
    let sounds = sound_day(plan, day);
    for (i, group) in day.groups.iter().enumerate() {
        let path = folder.join(format!("{:02} {}.otio", i + 1, crate::file_stem(&group.name)));
        let asked = sounds.for_groups(&[group.clone().into()], &SoundOrder::default());
        let sound = asked.files.first().map(laid);
        let document = group_document(group, &sources, sound.as_ref());
        let text = serde_json::to_string_pretty(&document).unwrap_or_default();
        std::fs::write(&path, text).map_err(|e| write(&path, e))?;
    }
    Ok(())
}

fn report(plan: &SyncPlan, day: Synced) -> SyncReport {
    let Synced { files, clips, devices, day, groups, skipped, warnings, timing, .. } = day;
    let result = &day.result;
    let paths: Vec<String> = files.iter().map(|file| file.relative.clone()).collect();
    let clip = |(i, clip): (usize, &Listened)| {
        let device = devices[clip.device.0 as usize].clone();
        let placement = &result.placements[i];
        let zero_s = zero_s(result, placement.component);
        ClipReport::new(paths[i].clone(), device, clip.facts.duration_s, placement, zero_s, &paths)
    };
    SyncReport {
        schema: REPORT_SCHEMA.into(),
        reference: paths[result.reference].clone(),
        mode: if plan.mode == Mode::Day { "day" } else { "playback" }.into(),
        days: result.islands.iter().map(|island| ComponentReport::new(island, &paths)).collect(),
        clips: clips.iter().enumerate().map(clip).collect(),
        groups: groups
            .iter()
            .map(|group| group_report(group, zero_s(result, group.component), &devices, &paths))
            .collect(),
        skipped,
        warnings,
        timing,
    }
}

/// Where the seconds of a component begin on the axis.
fn zero_s(result: &DayResult, component: u32) -> f64 {
    result.islands.iter().find(|island| island.component == component).map_or(0.0, |island| island.zero_s)
}

fn group_report(group: &Group, zero_s: f64, devices: &[String], paths: &[String]) -> GroupReport {
    GroupReport {
        name: group.name.clone(),
        component: group.component,
        start_s: group.frame_start(0).seconds() - zero_s,
        end_s: group.frame_start(group.frames).seconds() - zero_s,
        angles: group
            .angles
            .iter()
            .map(|angle| {
                let mut clips: Vec<String> =
                    angle.parts.iter().map(|part| paths[part.clip.0 as usize].clone()).collect();
                clips.dedup();
                GroupAngleReport {
                    device: group.angle_name(angle, |device| devices[device.0 as usize].clone()),
                    clips,
                }
            })
            .collect(),
    }
}
