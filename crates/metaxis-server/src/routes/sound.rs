//! Sound onto pictures: what is chosen, what lies under each picture, and writing it.

use crate::{
    App, Event,
    asked::Json,
    error::{ApiError, blocking},
    sound::{SoundFile, TrackOffered, offered},
    work::{sound_day, sound_folder, with_lines},
};
use axum::extract::State;
use metaxis_core::{
    clip::ClipId,
    sound::{MadeReport, MadeState, PATTERN_WORDS, SoundChange, SoundHabit, unknown_word},
    sync::Skipped,
};
use metaxis_store::{JobKind, SoundFor, SoundOrder, Turns};
use serde::{Deserialize, Serialize};
use std::{collections::HashMap, sync::Arc};
use ts_rs::TS;

type Shared = State<Arc<App>>;

/// A file of sound, as it will be made or was.
#[derive(Debug, Serialize, TS)]
pub struct SoundFileView {
    /// The picture that it lies along; null for a group.
    clip: Option<ClipId>,
    /// What lies in it, and what became of it.
    report: MadeReport,
}

/// The sound of a production.
#[derive(Debug, Serialize, TS)]
pub struct SoundView {
    /// What is chosen.
    habit: SoundHabit,
    /// What of that can be undone and redone.
    turns: Turns,
    /// Folder that files go to.
    folder: String,
    /// Others that they may go to, or below.
    folders: Vec<String>,
    /// The tracks that run under pictures and groups, in the order chosen.
    tracks: Vec<TrackOffered>,
    /// A file for each picture that has sound.
    clips: Vec<SoundFileView>,
    /// A file for each group.
    groups: Vec<SoundFileView>,
    /// What there is no sound for, and why.
    without: Vec<Without>,
}

/// What there is no sound for.
#[derive(Debug, Serialize, TS)]
pub struct Without {
    /// Path of the picture, or name of the group.
    path: String,
    /// Why.
    why: String,
}

pub async fn sound(State(app): Shared) -> Result<Json<SoundView>, ApiError> {
    blocking(move || {
        let (habit, turns) = app.store.sound_habit()?;
        let shown = app.store.shown()?;
        let day = sound_day(&app, &shown)?;
        let order = SoundOrder { habit, ..SoundOrder::default() };
        let folder = sound_folder(&app, &order.habit.folder);
        let groups = with_lines(&app, shown.groups, &order.habit)?;
        let (clips, of_groups) = (day.for_clips(|_| true, &order), day.for_groups(&groups, &order));
        let made: HashMap<String, MadeReport> = app
            .store
            .made(&order.habit.folder)?
            .into_iter()
            .map(|made| (made.report.path.clone(), made.report))
            .collect();
        let view = |file: &SoundFile| {
            let planned = file.planned();
            let report = match made.get(&planned.path) {
                // Of what was made, what became of it; chosen otherwise since, it is yet to be made.
                Some(was) if was.state == MadeState::Failed || was.uid == planned.uid => MadeReport {
                    state: was.state,
                    message: was.message.clone(),
                    hash: was.hash.clone(),
                    clipped: was.clipped,
                    ..planned
                },
                _ => planned,
            };
            SoundFileView { clip: file.clip(), report }
        };
        let every: Vec<&SoundFile> = clips.files.iter().chain(&of_groups.files).collect();
        let without = clips.without.iter().chain(&of_groups.without);
        Ok(Json(SoundView {
            turns,
            folder: folder.display().to_string(),
            folders: app.config.out.iter().map(|folder| folder.display().to_string()).collect(),
            clips: clips.files.iter().map(view).collect(),
            groups: of_groups.files.iter().map(view).collect(),
            tracks: offered(&day, &every, &order.habit.tracks),
            without: without
                .map(|Skipped { path, why, .. }| Without { path: path.clone(), why: why.clone() })
                .collect(),
            habit: order.habit,
        }))
    })
    .await
}

/// A change of what is chosen, made on a version of it.
#[derive(Debug, Deserialize, TS)]
pub struct EditSound {
    #[ts(type = "number")]
    version: i64,
    change: SoundChange,
}

/// Longest handles, and rates that files are written at.
const MOST_HANDLES_MS: u32 = 3_600_000;
const RATES: [u32; 2] = [48_000, 96_000];

/// Longest pattern of names, and most tracks that anything is chosen for.
const MOST_LETTERS: usize = 120;
const MOST_TRACKS: usize = 1000;

fn refuse(change: &SoundChange) -> Result<(), ApiError> {
    let refused = |why: String| Err(ApiError::Refused(why));
    match change {
        SoundChange::Form { form } if form.handles_ms > MOST_HANDLES_MS => {
            refused("handles are an hour at most".into())
        }
        SoundChange::Form { form } if form.rate.is_some_and(|rate| !RATES.contains(&rate)) => {
            refused("files are written at 48000 or 96000 samples a second".into())
        }
        SoundChange::Form { form } if !(1..=1000).contains(&form.recut_ms) => {
            refused("re-cut sound is off by 1 to 1000 ms at most".into())
        }
        SoundChange::NameTracks { pattern } if pattern.chars().count() > MOST_LETTERS => {
            refused(format!("a pattern of names has {MOST_LETTERS} letters at most"))
        }
        SoundChange::NameTracks { pattern } => match unknown_word(pattern) {
            Some(word) => refused(format!(
                "{{{word}}} stands for nothing; there are {{{}}}",
                PATTERN_WORDS.join("}, {")
            )),
            None => Ok(()),
        },
        SoundChange::OrderTracks { order: tracks } | SoundChange::SwitchTracks { tracks, .. }
            if tracks.len() > MOST_TRACKS =>
        {
            refused(format!("{MOST_TRACKS} tracks at most"))
        }
        _ => Ok(()),
    }
}

pub async fn edit(State(app): Shared, Json(body): Json<EditSound>) -> Result<Json<()>, ApiError> {
    refuse(&body.change)?;
    if let SoundChange::Folder { folder } = &body.change
        && !folder.is_empty()
    {
        app.config.writable_folder(folder).map_err(ApiError::Refused)?;
    }
    blocking(move || {
        if let SoundChange::Correct { clips, devices, .. } = &body.change {
            app.store.know(clips)?;
            app.store.know_devices(devices)?;
        }
        app.store.edit_sound(body.version, &body.change)?;
        app.tell(Event::Sound);
        Ok(Json(()))
    })
    .await
}

/// What is to be written.
#[derive(Debug, Deserialize, TS)]
pub struct WriteSound {
    made_for: SoundFor,
    /// Only these pictures; all where null.
    clips: Option<Vec<ClipId>>,
    /// Files that are there under the same names are replaced.
    replace: bool,
}

pub async fn write(State(app): Shared, Json(body): Json<WriteSound>) -> Result<Json<()>, ApiError> {
    blocking(move || {
        let (habit, _) = app.store.sound_habit()?;
        let WriteSound { made_for, clips, replace } = body;
        app.store.know(clips.as_deref().unwrap_or_default())?;
        let order = SoundOrder { made_for, clips, habit, replace };
        app.queue(&JobKind::Sound { order })?;
        app.tell_jobs();
        Ok(Json(()))
    })
    .await
}
