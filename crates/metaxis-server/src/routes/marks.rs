//! What marking a slate needs: claps in the sound, the samples around a moment; and positions that a person gives.

use crate::samples::{channel_samples, sound};
use crate::{
    App, Event,
    asked::{Json, Path, Query},
    error::{ApiError, blocking},
    work,
};
use axum::extract::State;
use metaxis_core::{
    clip::ClipId,
    signal::{Clap, LISTEN_RATE},
    sync::{BreakEdit, Changed, EvidenceKind, SampleSource, SeenClap, compare},
};
use metaxis_media::Stop;
use metaxis_store::{PassId, PlacementView};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use ts_rs::TS;

type Shared = State<Arc<App>>;

/// A clip laid by hand.
#[derive(Debug, Deserialize, TS)]
pub struct ByHand {
    /// The clip.
    clip: ClipId,
    /// Where it starts on the axis, microseconds.
    #[ts(type = "number")]
    start_us: i64,
}

/// A break of a clip changed by hand.
#[derive(Debug, Deserialize, TS)]
pub struct ChangeBreak {
    /// The clip.
    clip: ClipId,
    /// What is changed.
    edit: BreakEdit,
}

/// A piece of evidence set aside, or taken back.
#[derive(Debug, Deserialize, TS)]
pub struct SetAside {
    /// The clip.
    clip: ClipId,
    /// The kind of evidence.
    kind: EvidenceKind,
    /// The clip it was measured against, as the evidence names it.
    against: Option<ClipId>,
    /// Whether it is to have no say.
    aside: bool,
}

/// A name for a pass.
#[derive(Debug, Deserialize, TS)]
pub struct NamePass {
    /// The name.
    name: String,
}

/// Claps of a clip, best first.
#[derive(Debug, Serialize, TS)]
pub struct ClapView {
    /// The claps.
    claps: Vec<Clap>,
}

/// A moment at which a clip's own sound has a clap.
#[derive(Debug, Deserialize)]
pub struct Heard {
    heard_s: f64,
}

/// Samples from a moment on.
#[derive(Debug, Deserialize)]
pub struct SampleRange {
    from_s: f64,
    count: usize,
    /// Of this channel alone, from 0; else of what is matched.
    channel: Option<usize>,
}

/// Farthest from the axis's zero that a clip can be laid, microseconds: ten days.
const FARTHEST_US: i64 = 864_000_000_000;
/// Longest piece of samples that is sent: a minute.
const MOST_SAMPLES: usize = 60 * LISTEN_RATE as usize;

pub async fn claps(State(app): Shared, Path(id): Path<ClipId>) -> Result<Json<ClapView>, ApiError> {
    blocking(move || {
        // Where there is none yet, the page asks again.
        sound(&app, id)?;
        Ok(Json(ClapView { claps: work::claps_for(&app, id)? }))
    })
    .await
}

/// Whoever asked: the work for them ends when they are gone.
#[derive(Default)]
struct Asker(Stop);

impl Drop for Asker {
    fn drop(&mut self) {
        self.0.stop();
    }
}

/// Where the clip's picture shows the clap that its own sound has at a moment; null where nothing stands out.
pub async fn seen(
    State(app): Shared,
    Path(id): Path<ClipId>,
    Query(heard): Query<Heard>,
) -> Result<Json<Option<SeenClap>>, ApiError> {
    if !(0.0..1e7).contains(&heard.heard_s) {
        return Err(ApiError::Refused("heard_s must be a moment of the clip, in seconds".into()));
    }
    let place = app.place_to_look().await?;
    // Dropped with this answer, also where nobody waits for it any more.
    let asker = Asker::default();
    let stop = asker.0.clone();
    blocking(move || {
        let seen = work::look_at(&app, id, heard.heard_s, &stop)?;
        drop(place);
        Ok(Json(seen))
    })
    .await
}

/// Samples of what is matched, or of one channel, 16 kHz mono, 16 bit, lowest byte first; silence outside the clip.
pub async fn samples(
    State(app): Shared,
    Path(id): Path<ClipId>,
    Query(range): Query<SampleRange>,
) -> Result<Vec<u8>, ApiError> {
    if !range.from_s.is_finite() || range.from_s.abs() > 1e7 {
        return Err(ApiError::Refused("from_s must be a moment of the clip, in seconds".into()));
    }
    let asker = Asker::default();
    let stop = asker.0.clone();
    blocking(move || {
        let from = (range.from_s * f64::from(LISTEN_RATE)).round() as i64;
        let count = range.count.min(MOST_SAMPLES);
        let values = match range.channel {
            Some(channel) => channel_samples(&app, id, channel, (from, count), &stop)?,
            None => {
                let mut values = vec![0.0; count];
                sound(&app, id)?.read(from, &mut values);
                values
            }
        };
        let quantised = |value: &f32| ((value * 32_767.0).clamp(-32_767.0, 32_767.0) as i16).to_le_bytes();
        Ok(values.iter().flat_map(quantised).collect())
    })
    .await
}

/// What changed from one pass to another.
pub async fn changes(
    State(app): Shared,
    Path((from, to)): Path<(PassId, PassId)>,
) -> Result<Json<Vec<Changed>>, ApiError> {
    blocking(move || {
        let side = |id| {
            let (pass, placements) = app.store.pass(id)?;
            let placed =
                placements.into_iter().map(|PlacementView { clip, placement }| (clip, placement)).collect();
            Ok::<(Vec<_>, f64), ApiError>((placed, pass.facts.axis_zero.seconds()))
        };
        let (before, after) = (side(from)?, side(to)?);
        Ok(Json(compare((&before.0, before.1), (&after.0, after.1))))
    })
    .await
}

pub async fn name_pass(
    State(app): Shared,
    Path(id): Path<PassId>,
    Json(body): Json<NamePass>,
) -> Result<Json<()>, ApiError> {
    blocking(move || {
        app.store.name_pass(id, &super::intake::named(&body.name, "a pass's name", 1, 60)?)?;
        app.tell(Event::Pass);
        Ok(Json(()))
    })
    .await
}

/// Lays a clip by hand: a new pass beside the one that is shown, in which nothing else moves.
pub async fn by_hand(State(app): Shared, Json(body): Json<ByHand>) -> Result<Json<()>, ApiError> {
    if !(-FARTHEST_US..=FARTHEST_US).contains(&body.start_us) {
        return Err(ApiError::Refused("a clip lies within ten days of the axis's beginning".into()));
    }
    blocking(move || {
        work::lay_by_hand(&app, body.clip, work::ByHand::Starts(body.start_us as f64 / 1e6))?;
        app.tell(Event::Day);
        Ok(Json(()))
    })
    .await
}

/// Adds, moves or takes out a break of a clip: a new pass, in which nothing else moves.
pub async fn change_break(
    State(app): Shared,
    Json(ChangeBreak { clip, edit }): Json<ChangeBreak>,
) -> Result<Json<()>, ApiError> {
    blocking(move || {
        work::lay_by_hand(&app, clip, work::ByHand::Breaks(edit))?;
        app.tell(Event::Day);
        Ok(Json(()))
    })
    .await
}

/// Sets a piece of evidence aside or takes it back: a new pass, in which that clip lies where everything else puts it.
pub async fn aside(State(app): Shared, Json(body): Json<SetAside>) -> Result<Json<()>, ApiError> {
    let SetAside { clip, kind, against, aside } = body;
    blocking(move || {
        work::set_aside(&app, work::Piece { clip, kind, against }, aside)?;
        app.tell(Event::Day);
        Ok(Json(()))
    })
    .await
}
