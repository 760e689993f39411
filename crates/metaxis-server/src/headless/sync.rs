//! `metaxis sync`: folders in, a sync report out, and the groups as documents.

use super::{
    hand_out::{HandedOut, can_be_written, hand_out},
    sound::sound_day,
    sources::sources,
    synced::{SyncError, SyncPlan, Synced, root_of, synced},
};
use crate::{each::Progress, heard_day::Listened, sound::laid, turnover::Paper};
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

/// A sync that was run.
#[derive(Debug)]
pub struct SyncDone {
    /// What it found.
    pub report: SyncReport,
    /// What became of its documents, where some were asked for.
    pub documents: HandedOut,
}

/// Runs the whole sync. `progress` is called with what is being done, how much of it is done, and of how much.
///
/// # Errors
/// A [`SyncError`] where there can be no report; faults of single files are in the report. A folder for documents that cannot be
/// written to is found before the work.
pub fn sync(plan: &SyncPlan, progress: &Progress) -> Result<SyncDone, SyncError> {
    let begin = Instant::now();
    if let Some(folder) = &plan.turnover {
        can_be_written(folder).map_err(|source| SyncError::Write { path: folder.clone(), source })?;
    }
    let mut day = synced(plan, progress)?;
    let documents =
        plan.turnover.as_ref().map_or_else(HandedOut::default, |folder| turn_over(folder, plan, &day));
    day.timing.total_s = begin.elapsed().as_secs_f64();
    Ok(SyncDone { report: report(plan, day), documents })
}

fn turn_over(folder: &Path, plan: &SyncPlan, day: &Synced) -> HandedOut {
    let sources = sources(day);
    let sounds = sound_day(plan, day);
    let one = |(number, group): (usize, &Group)| {
        let asked = sounds.for_groups(&[group.clone().into()], &SoundOrder::default());
        let sound = asked.files.first().map(laid);
        let document = group_document(group, &sources, sound.as_ref());
        Paper::json(format!("{:02} {}.otio", number + 1, crate::file_stem(&group.name)), &document)
    };
    let papers: Vec<Paper> = day.groups.iter().enumerate().map(one).collect();
    hand_out(&papers, folder)
}

fn report(plan: &SyncPlan, day: Synced) -> SyncReport {
    let Synced { files, clips, devices, day, groups, skipped, warnings, timing, .. } = day;
    let result = &day.result;
    let paths: Vec<String> = files.iter().map(|file| file.relative.clone()).collect();
    let clip = |(i, clip): (usize, &Listened)| {
        let device = devices[clip.device.0 as usize].clone();
        let placement = &result.placements[i];
        let zero_s = zero_s(result, placement.component);
        ClipReport {
            root: root_of(plan, &files[i]),
            ..ClipReport::new(paths[i].clone(), device, clip.facts.duration_s, placement, zero_s, &paths)
        }
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
