//! Sound onto pictures, heard as it will be written.

use crate::{
    App,
    asked::{Json, Path, Query},
    error::{ApiError, blocking},
    sound::{Grouped, SoundDay, SoundFile},
    work::sound_day,
};
use axum::extract::State;
use metaxis_core::{
    clip::ClipId,
    sound::{GroupTracks, TrackReport},
};
use metaxis_store::{GroupId, GroupSummary, SoundOrder};
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

impl HeardView {
    /// Its tracks, in the order of the samples.
    pub(super) fn tracks(&self) -> &[TrackReport] {
        &self.tracks
    }
}

/// What is chosen, without what only files have.
pub(super) fn order(app: &App) -> Result<SoundOrder, ApiError> {
    let (habit, _) = app.store.sound_habit()?;
    Ok(SoundOrder { habit: habit.together(), ..SoundOrder::default() })
}

/// Opens a sound to be listened to.
pub(super) fn view(app: &App, file: &SoundFile) -> Result<HeardView, ApiError> {
    let planned = file.planned();
    Ok(HeardView {
        name: app.listening.open(file)?,
        rate: planned.sample_rate,
        samples: planned.samples,
        begins_s: file.begins_s(),
        tracks: planned.tracks,
    })
}

pub async fn of_clip(State(app): Shared, Path(id): Path<ClipId>) -> Result<Json<HeardView>, ApiError> {
    blocking(move || {
        app.store.know(&[id])?;
        let day = sound_day(&app, &app.store.shown()?)?;
        let asked = day.for_clips(|clip| clip.id == id, &order(&app)?);
        match (asked.files.first(), asked.without.first()) {
            (Some(file), _) => Ok(Json(view(&app, file)?)),
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
        match file_of_group(&app, id, &order(&app)?)? {
            Some(file) => Ok(Json(view(&app, &file)?)),
            None => Err(ApiError::Refused("no recorder ran with this group".into())),
        }
    })
    .await
}

/// The tracks that documents of a group of the pass that is shown name: the recorders', and what else its grid lets out; `None`
/// where there are none.
pub(super) fn named_of_group(app: &App, id: GroupId) -> Result<Option<SoundFile>, ApiError> {
    let mut order = order(app)?;
    order.habit.form.of_groups = GroupTracks::Both;
    file_of_group(app, id, &order)
}

/// The sound of a group of the pass that is shown, as it would be written whole; `None` where there is nothing to write.
pub(super) fn file_of_group(
    app: &App,
    id: GroupId,
    order: &SoundOrder,
) -> Result<Option<SoundFile>, ApiError> {
    let shown = app.store.shown()?;
    let day = sound_day(app, &shown)?;
    let own = shown.groups.into_iter().find(|own| own.id == id);
    own.map_or(Ok(None), |own| file_of(app, &day, &own, order))
}

/// The same of a day that is there already.
pub(super) fn file_of(
    app: &App,
    day: &SoundDay,
    own: &GroupSummary,
    order: &SoundOrder,
) -> Result<Option<SoundFile>, ApiError> {
    let grouped = Grouped::whole(own.group.clone(), Some(app.store.group(own.id)?.line));
    Ok(day.for_groups(&[grouped], order).files.into_iter().next())
}

/// A piece of sound that is listened to.
#[derive(Debug, Deserialize)]
pub struct Piece {
    /// Its first sample.
    from: i64,
    /// How many.
    count: usize,
    /// Numbers of the tracks that are wanted, with commas; all where it is not given.
    tracks: Option<String>,
}

/// Most samples a track in one answer.
const MOST: usize = 96_000;

/// 32-bit floats, little-endian, track after track of those that are wanted, in that order; less than was asked for where it ends.
pub async fn piece(
    State(app): Shared,
    Path(name): Path<String>,
    Query(Piece { from, count, tracks }): Query<Piece>,
) -> Result<Vec<u8>, ApiError> {
    if from < 0 {
        return Err(ApiError::Refused("samples are counted from 0".into()));
    }
    let wanted: Option<Vec<usize>> = match tracks {
        Some(text) => {
            let numbers = text.split(',').filter(|part| !part.is_empty()).map(str::parse);
            let refused = |_| ApiError::Refused(format!("“{text}” are no numbers of tracks"));
            Some(numbers.collect::<Result<_, _>>().map_err(refused)?)
        }
        None => None,
    };
    let heard = app.listening.get(&name);
    let heard = heard.ok_or_else(|| ApiError::NotFound("this sound was closed; open it again".into()))?;
    blocking(move || {
        let mut heard = heard.lock().unwrap_or_else(PoisonError::into_inner);
        let is_wanted = |track| wanted.as_ref().is_none_or(|wanted| wanted.contains(&track));
        let tracks = heard.read(from, count.min(MOST), is_wanted)?;
        let numbers = wanted.clone().unwrap_or_else(|| (0..tracks.len()).collect());
        let own = numbers.iter().filter_map(|number| tracks.get(*number));
        Ok(own.flatten().flat_map(|value| value.to_le_bytes()).collect())
    })
    .await
}
