//! Taking folders in, and every choice a person makes of what came in.

use crate::{
    App, Event,
    asked::{Json, Query},
    error::{ApiError, blocking},
    work,
};
use axum::{body::Bytes, extract::State};
use metaxis_core::{
    clip::ClipId,
    intake::{LogColumn, LogPreview, read_log},
};
use metaxis_store::{IntakeChange, JobKind, SlateMarkView};
use serde::{Deserialize, Serialize};
use std::{path::PathBuf, sync::Arc};
use ts_rs::TS;

type Shared = State<Arc<App>>;

/// An allowed folder and the folders in it.
#[derive(Debug, Serialize, TS)]
pub struct FolderView {
    /// Full path.
    path: String,
    /// Folders directly in it.
    folders: Vec<String>,
}

/// A folder to take in, or to look for moved files in.
#[derive(Debug, Deserialize, TS)]
pub struct TakeIn {
    path: String,
}

/// How a slate log is to be read; what is not given is guessed.
#[derive(Debug, Deserialize, TS)]
pub struct ReadLog {
    /// The columns' meanings, comma-separated.
    columns: Option<String>,
    /// What separates the fields.
    separator: Option<char>,
}

/// Most sub-folders listed of one root.
const MOST: usize = 500;

pub async fn folders(State(app): Shared) -> Result<Json<Vec<FolderView>>, ApiError> {
    blocking(move || {
        let view = |root: &PathBuf| {
            let entries = std::fs::read_dir(root).into_iter().flatten().flatten();
            let mut folders: Vec<String> = entries
                .filter(|entry| entry.file_type().is_ok_and(|kind| kind.is_dir()))
                .map(|entry| entry.file_name().to_string_lossy().into_owned())
                .filter(|name| !name.starts_with('.'))
                .take(MOST)
                .collect();
            folders.sort();
            FolderView { path: root.display().to_string(), folders }
        };
        Ok(Json(app.config.roots.iter().map(view).collect()))
    })
    .await
}

/// The folder as text, where it may be read.
fn allowed(app: &App, path: &str) -> Result<String, ApiError> {
    let folder = app.config.allowed_folder(&PathBuf::from(path.trim())).map_err(ApiError::Refused)?;
    folder
        .into_os_string()
        .into_string()
        .map_err(|_| ApiError::Refused("the folder's name is not valid text; rename it".into()))
}

pub async fn take_in(State(app): Shared, Json(body): Json<TakeIn>) -> Result<Json<()>, ApiError> {
    blocking(move || {
        let folder = allowed(&app, &body.path)?;
        app.queue(&JobKind::Intake { folder })?;
        Ok(Json(()))
    })
    .await
}

pub async fn relink(State(app): Shared, Json(body): Json<TakeIn>) -> Result<Json<()>, ApiError> {
    blocking(move || {
        let folder = allowed(&app, &body.path)?;
        app.queue(&JobKind::Relink { folder })?;
        Ok(Json(()))
    })
    .await
}

/// A text as a person meant it: trimmed, with so many letters and no signs that cannot be seen.
pub(super) fn named(text: &str, what: &str, least: usize, most: usize) -> Result<String, ApiError> {
    let text = text.trim();
    let length = text.chars().count();
    if length < least || length > most || text.chars().any(char::is_control) {
        return Err(ApiError::Refused(format!("{what} must have {least} to {most} letters")));
    }
    Ok(text.to_owned())
}

/// The change with its texts trimmed and within bounds.
fn checked(app: &App, change: IntakeChange) -> Result<IntakeChange, ApiError> {
    if change.clips().len() > MOST_CLIPS {
        return Err(ApiError::Refused(format!("one change can name {MOST_CLIPS} clips at most")));
    }
    let slate =
        |text: Option<String>, what: &str, most| text.map(|text| named(&text, what, 0, most)).transpose();
    Ok(match change {
        IntakeChange::NameDevice { device, letter, name } => IntakeChange::NameDevice {
            device,
            letter: named(&letter, "a device's letter", 1, 2)?.to_uppercase(),
            name: named(&name, "a device's name", 1, 60)?,
        },
        IntakeChange::Day { clips, day } => {
            IntakeChange::Day { clips, day: named(&day, "a shoot day", 0, 40)? }
        }
        IntakeChange::Slate { clips, scene, take, notes, circled } => IntakeChange::Slate {
            clips,
            scene: slate(scene, "a scene", 30)?,
            take: slate(take, "a take", 30)?,
            notes: slate(notes, "a note", 500)?,
            circled,
        },
        IntakeChange::Mark { clips, marks } => {
            let [clip] = clips[..] else {
                return Err(ApiError::Refused("a mark is a moment of one clip".into()));
            };
            if marks.len() > MOST_MARKS {
                return Err(ApiError::Refused(format!("a clip can have {MOST_MARKS} marks")));
            }
            let mut marks =
                marks.into_iter().map(|mark| checked_mark(app, clip, mark)).collect::<Result<Vec<_>, _>>()?;
            marks.sort_by_key(|mark| mark.picture_us.or(mark.sound_us));
            IntakeChange::Mark { clips, marks }
        }
        IntakeChange::Distance { distance_cm, .. }
        | IntakeChange::ClipDistance { distance_cm: Some(distance_cm), .. }
            if !(0..=100_000).contains(&distance_cm) =>
        {
            return Err(ApiError::Refused("a distance is from 0 to 1000 metres".into()));
        }
        IntakeChange::TakeLog { log } if log.name.len() > LONGEST_KEY => {
            return Err(ApiError::Refused("a slate log's name is too long; rename its file".into()));
        }
        IntakeChange::SetAside { key, .. } if key.len() > LONGEST_KEY => {
            return Err(ApiError::Refused("no health note has a key as long as this".into()));
        }
        IntakeChange::SeeThrough { device, lut } => {
            work::known(app, lut.as_ref())?;
            IntakeChange::SeeThrough { device, lut }
        }
        IntakeChange::TakeOff { kind, .. } if !kind.counts_frames() => {
            return Err(ApiError::Refused("only timecode has frames to take off".into()));
        }
        IntakeChange::TakeOff { frames, .. } if !(-MOST_FRAMES..=MOST_FRAMES).contains(&frames) => {
            return Err(ApiError::Refused("so many frames are no fault of a timecode".into()));
        }
        other => other,
    })
}

/// Clips that one change can name, and letters of a note's key.
const MOST_CLIPS: usize = 100_000;
const LONGEST_KEY: usize = 1_000;
/// Frames that can be taken off a timecode.
const MOST_FRAMES: i64 = 100_000;
/// Marks that a clip can have.
const MOST_MARKS: usize = 50;

fn checked_mark(app: &App, clip: ClipId, mark: SlateMarkView) -> Result<SlateMarkView, ApiError> {
    let moment = |us: Option<i64>| us.is_none_or(|us| (0..=86_400_000_000).contains(&us));
    if mark.is_empty() || !moment(mark.picture_us) || !moment(mark.sound_us) {
        return Err(ApiError::Refused("a mark is a moment of one clip".into()));
    }
    let text = |given: Option<String>, what: &str, most: usize| {
        let given = given.map(|text| named(&text, what, 0, most)).transpose()?;
        Ok::<_, ApiError>(given.filter(|text| !text.is_empty()))
    };
    let (label, take) = (text(mark.label, "a timecode", 12)?, text(mark.take, "a scene and take", 30)?);
    if let Some(label) = &label {
        work::read_label(app, clip, label)?;
    }
    Ok(SlateMarkView { label, take, ..mark })
}

pub async fn edit(State(app): Shared, Json(body): Json<IntakeChange>) -> Result<Json<()>, ApiError> {
    blocking(move || {
        app.store.edit_intake(&checked(&app, body)?)?;
        app.tell(Event::Day);
        Ok(Json(()))
    })
    .await
}

/// A name for a device that no folder names.
#[derive(Debug, Deserialize, TS)]
pub struct NewDevice {
    /// Its name.
    name: String,
    /// Clips that are its from now on.
    clips: Vec<metaxis_core::clip::ClipId>,
}

pub async fn new_device(State(app): Shared, Json(body): Json<NewDevice>) -> Result<Json<()>, ApiError> {
    blocking(move || {
        if body.clips.is_empty() || body.clips.len() > MOST_CLIPS {
            return Err(ApiError::Refused("choose the clips that are the new device's".into()));
        }
        // No device is made for clips that are not there.
        app.store.know(&body.clips)?;
        let device = app.store.device_of_folder(&named(&body.name, "a device's name", 1, 60)?)?;
        app.store.edit_intake(&IntakeChange::Device { clips: body.clips, device })?;
        app.tell(Event::Day);
        Ok(Json(()))
    })
    .await
}

/// Shows how a slate log would be read; nothing is kept.
pub async fn preview_log(Query(how): Query<ReadLog>, bytes: Bytes) -> Result<Json<LogPreview>, ApiError> {
    blocking(move || {
        let columns: Option<Vec<LogColumn>> = how.columns.as_deref().map(|names| {
            let column = |name: &str| serde_json::from_value(name.into()).unwrap_or(LogColumn::Ignore);
            names.split(',').map(column).collect()
        });
        let preview = read_log(&bytes, columns.as_deref(), how.separator);
        preview.map(Json).map_err(|e| ApiError::Refused(e.to_string()))
    })
    .await
}
