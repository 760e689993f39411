//! The grid of a group's sound.

use super::heard::{HeardView, file_of, order, view};
use crate::{
    App, Event,
    asked::{Json, Path},
    error::{ApiError, blocking},
    sound::{GridOrigin, grid_of},
    work::sound_day,
};
use axum::extract::State;
use metaxis_core::{
    names::readable,
    sound::{Grid, GridChange, GridError, GroupTracks, NamedGrid, SoundChange, SoundHabit, TrackKey},
};
use metaxis_store::GroupId;
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use ts_rs::TS;

type Shared = State<Arc<App>>;

/// A track that may go to outputs.
#[derive(Debug, Serialize, TS)]
pub struct GridSource {
    /// What it is known by.
    key: TrackKey,
    /// What it is called.
    name: String,
    /// Its device's name.
    device: String,
    /// Whether that takes pictures.
    camera: bool,
}

/// The sound of a group: what it is made of, and what comes out.
#[derive(Debug, Serialize, TS)]
pub struct GridView {
    /// Which tracks go where.
    grid: Grid,
    /// Where it comes from.
    origin: GridOrigin,
    /// The tracks, in the order of those that are heard.
    sources: Vec<GridSource>,
    /// What each is multiplied by, output by output.
    factors: Vec<Vec<f32>>,
    /// The tracks as they are heard.
    heard: HeardView,
    /// Names of the grids that are kept.
    kept: Vec<String>,
    /// The one that groups have unless given another.
    usual: Option<String>,
}

/// What is done about a grid.
#[derive(Debug, Deserialize, TS)]
#[serde(tag = "do", rename_all = "snake_case")]
pub enum GridStep {
    /// The group's own is changed; it has its own from then on.
    Change {
        /// How.
        change: GridChange,
    },
    /// It is that of a name.
    Take {
        /// The name.
        name: String,
    },
    /// It is as that of other groups.
    Usual,
    /// It is kept for others under a name.
    Keep {
        /// The name.
        name: String,
        /// Whether groups have it unless given another.
        usual: bool,
    },
    /// One that is kept is forgotten.
    Drop {
        /// Its name.
        name: String,
    },
}

/// A group's sound by its grid.
struct Found {
    grid: Grid,
    view: GridView,
}

fn find(app: &App, id: GroupId) -> Result<Found, ApiError> {
    let mut order = order(app)?;
    // Everything that there is, as it was recorded: what goes where is heard at once.
    order.habit.form.scratch = true;
    order.habit.form.of_groups = GroupTracks::Recorded;
    let shown = app.store.shown()?;
    let day = sound_day(app, &shown)?;
    let own = shown.groups.iter().find(|own| own.id == id);
    let own = own.ok_or_else(|| ApiError::NotFound("there is no such group in what is shown".into()))?;
    let file = file_of(app, &day, own, &order)?
        .ok_or_else(|| ApiError::Refused("nothing was heard while this group ran".into()))?;
    let tracks = file.laid_tracks();
    let habit = &order.habit;
    let (grid, origin) = grid_of(own.group.grid.as_ref(), habit, tracks, |device| day.is_camera(device));
    let heard = view(app, &file)?;
    let sources = tracks.iter().zip(heard.tracks()).map(|(track, said)| GridSource {
        key: TrackKey::of(track),
        name: said.name.clone(),
        device: said.device.clone(),
        camera: day.is_camera(track.device),
    });
    let view = GridView {
        sources: sources.collect(),
        factors: grid.factors(tracks),
        grid: grid.clone(),
        origin,
        heard,
        kept: habit.grids.iter().map(|own| own.name.clone()).collect(),
        usual: habit.usual_grid.clone(),
    };
    Ok(Found { grid, view })
}

pub async fn grid(State(app): Shared, Path(id): Path<GroupId>) -> Result<Json<GridView>, ApiError> {
    blocking(move || Ok(Json(find(&app, id)?.view))).await
}

/// The grid that is kept under a name.
fn kept(habit: &SoundHabit, name: &str) -> Result<Grid, ApiError> {
    let missing = || ApiError::Refused(format!("no grid is kept as “{name}”"));
    habit.grid(name).cloned().ok_or_else(missing)
}

pub async fn change(
    State(app): Shared,
    Path(id): Path<GroupId>,
    Json(step): Json<GridStep>,
) -> Result<Json<GridView>, ApiError> {
    blocking(move || {
        let (habit, turns) = app.store.sound_habit()?;
        let habit_changed = |change: SoundChange| app.store.edit_sound(turns.version, &change);
        match step {
            GridStep::Change { change } => {
                // What the group has while nobody chose its own, found out before anything waits for it.
                let now = find(&app, id)?.grid;
                app.store.change_grid(id, "sound", |own| own.unwrap_or(&now).changed(&change).map(Some))?;
            }
            GridStep::Take { name } => {
                let grid = kept(&habit, &name)?;
                let what = format!("sound as “{name}”");
                app.store.change_grid(id, &what, |_| Ok::<_, GridError>(Some(grid)))?;
            }
            GridStep::Usual => {
                app.store.change_grid(id, "the usual sound", |_| Ok::<_, GridError>(None))?;
            }
            GridStep::Keep { name, usual } => {
                let name = readable(&name)
                    .ok_or_else(|| ApiError::Refused("a grid's name must have 1 to 80 letters".into()))?;
                let grid = NamedGrid { name, grid: find(&app, id)?.grid };
                habit_changed(SoundChange::KeepGrid { grid, usual: Some(usual) })?;
            }
            GridStep::Drop { name } => {
                kept(&habit, &name)?;
                habit_changed(SoundChange::DropGrid { name })?;
            }
        }
        app.tell(Event::Pass);
        app.tell(Event::Sound);
        Ok(Json(find(&app, id)?.view))
    })
    .await
}
