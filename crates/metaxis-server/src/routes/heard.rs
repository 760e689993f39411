//! Sound onto pictures, heard as it will be written.

use crate::{
    App,
    asked::{Json, Path, Query},
    error::{ApiError, blocking},
    sound::SoundFile,
    work::sound_day,
};
use axum::extract::State;
use metaxis_core::{
    clip::ClipId,
    sound::{Layout, TrackReport},
};
use metaxis_store::{GroupId, SoundOrder};
use serde::{Deserialize, Serialize};
use std::sync::{Arc, PoisonError};
use ts_rs::TS;

type Shared = State<Arc<App>>;

/// Sound that can be listened to.
#[derive(Debug, Serialize, TS)]
pub struct HeardView {
    /// What it is asked for by; another where anything in it is another.
    name: String,
    /// Samples a second.
    rate: u32,
    /// Length in samples.
    #[ts(type = "number")]
    samples: i64,
    /// The moment at its first sample: of the picture clip's own time; 0, the beginning, for a group.
    begins_s: f64,
    /// Its tracks, in the order of the samples.
    tracks: Vec<TrackReport>,
}

/// What is chosen, without what only files have.
fn order(app: &App) -> Result<SoundOrder, ApiError> {
    let (mut habit, _) = app.store.sound_habit()?;
    habit.form.handles_ms = 0;
    habit.form.layout = Layout::Poly;
    Ok(SoundOrder { habit, ..SoundOrder::default() })
}

fn view(app: &App, file: &SoundFile) -> Result<Json<HeardView>, ApiError> {
    let planned = file.planned();
    Ok(Json(HeardView {
        name: app.listening.open(file)?,
        rate: planned.sample_rate,
        samples: planned.samples,
        begins_s: file.begins_s(),
        tracks: planned.tracks,
    }))
}

pub async fn of_clip(State(app): Shared, Path(id): Path<ClipId>) -> Result<Json<HeardView>, ApiError> {
    blocking(move || {
        app.store.know(&[id])?;
        let day = sound_day(&app, &app.store.shown()?)?;
        let asked = day.for_clips(|clip| clip.id == id, &order(&app)?);
        match (asked.files.first(), asked.without.first()) {
            (Some(file), _) => view(&app, file),
            (None, Some(without)) => Err(ApiError::Refused(format!("{}: {}", without.path, without.why))),
            (None, None) => Err(ApiError::Refused("this clip has no picture".into())),
        }
    })
    .await
}

pub async fn of_group(State(app): Shared, Path(id): Path<GroupId>) -> Result<Json<HeardView>, ApiError> {
    blocking(move || {
        if app.store.shown()?.groups.iter().all(|own| own.id != id) {
            return Err(ApiError::NotFound("there is no such group in what is shown".into()));
        }
        match file_of_group(&app, id)? {
            Some(file) => view(&app, &file),
            None => Err(ApiError::Refused("no recorder ran with this group".into())),
        }
    })
    .await
}

/// The sound of a group of the pass that is shown, as it would be written whole; `None` where no recorder ran with it.
pub(super) fn file_of_group(app: &App, id: GroupId) -> Result<Option<SoundFile>, ApiError> {
    let shown = app.store.shown()?;
    let day = sound_day(app, &shown)?;
    let group: Vec<_> = shown.groups.into_iter().filter(|own| own.id == id).map(|own| own.group).collect();
    Ok(day.for_groups(&group, &order(app)?).files.into_iter().next())
}

/// A piece of sound that is listened to.
#[derive(Debug, Deserialize)]
pub struct Piece {
    /// Its first sample.
    from: i64,
    /// How many.
    count: usize,
}

/// Most samples a track in one answer.
const MOST: usize = 96_000;

/// 32-bit floats, little-endian, track after track; less than was asked for where it ends.
pub async fn piece(
    State(app): Shared,
    Path(name): Path<String>,
    Query(Piece { from, count }): Query<Piece>,
) -> Result<Vec<u8>, ApiError> {
    if from < 0 {
        return Err(ApiError::Refused("samples are counted from 0".into()));
    }
    let heard = app.listening.get(&name);
    let heard = heard.ok_or_else(|| ApiError::NotFound("this sound was closed; open it again".into()))?;
    blocking(move || {
        let mut heard = heard.lock().unwrap_or_else(PoisonError::into_inner);
        let tracks = heard.read(from, count.min(MOST))?;
        Ok(tracks.iter().flatten().flat_map(|value| value.to_le_bytes()).collect())
    })
    .await
}
