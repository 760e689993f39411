//! One clip: what its file says, its waveforms, what is to be made of it first.

use crate::samples::cached;
use crate::{
    App,
    asked::{Json, Path, Query},
    error::{ApiError, blocking},
    work,
};
use axum::extract::State;
use metaxis_core::{
    clip::ClipId,
    signal::{PEAK_BIN, PEAK_STEP, peak_bins, peak_zoom},
};
use metaxis_store::{ClipDetail, JobKind};
use serde::{Deserialize, Serialize};
use std::{fs::File, os::unix::fs::FileExt, sync::Arc};
use ts_rs::TS;

type Shared = State<Arc<App>>;

/// Which waveforms: between two moments of the clip's own time, in so many bins.
#[derive(Debug, Deserialize)]
pub struct PeakRange {
    from_s: Option<f64>,
    to_s: Option<f64>,
    bins: Option<usize>,
}

/// Waveforms of all channels.
#[derive(Debug, Serialize, TS)]
pub struct PeaksView {
    /// Beginning in the clip's own time, seconds.
    from_s: f64,
    /// End in the clip's own time, seconds.
    to_s: f64,
    /// For each channel: lowest, highest and root-mean-square sample of each bin in turn; 32 767 is full scale.
    channels: Vec<Vec<i16>>,
}

/// Clips that somebody looks at.
#[derive(Debug, Deserialize, TS)]
pub struct Want {
    clips: Vec<ClipId>,
}

pub async fn detail(State(app): Shared, Path(id): Path<ClipId>) -> Result<Json<ClipDetail>, ApiError> {
    blocking(move || {
        let clip = app.store.clip(id)?;
        Ok(Json(ClipDetail {
            clip: clip.id,
            path: clip.path.display().to_string(),
            root: clip.root,
            fingerprint: clip.fingerprint,
            tags: clip.facts.tags,
            container: clip.facts.container,
        }))
    })
    .await
}

pub async fn peaks(
    State(app): Shared,
    Path(id): Path<ClipId>,
    Query(range): Query<PeakRange>,
) -> Result<Json<PeaksView>, ApiError> {
    blocking(move || Ok(Json(read_peaks(&app, id, &range)?))).await
}

fn read_peaks(app: &App, id: ClipId, range: &PeakRange) -> Result<PeaksView, ApiError> {
    let clip = app.store.clip(id)?;
    let (Some(sound), Some(heard)) = (&clip.facts.sound, &clip.heard) else {
        return Err(ApiError::NotFound("it was not listened to yet; try again shortly".into()));
    };
    let rate = f64::from(sound.rate.0);
    let whole_s = heard.samples as f64 / rate;
    if [range.from_s, range.to_s].into_iter().flatten().any(f64::is_nan) {
        return Err(ApiError::Refused("from_s and to_s must be moments of the clip, in seconds".into()));
    }
    let from_s = range.from_s.unwrap_or(0.0).clamp(0.0, whole_s);
    let to_s = range.to_s.unwrap_or(whole_s).clamp(from_s, whole_s);
    let count = range.bins.unwrap_or(600).clamp(1, 4000);
    let zoom = peak_zoom(((to_s - from_s) * rate) as u64, count);
    let (channels, bin) = (heard.channels.len(), (PEAK_BIN * PEAK_STEP.pow(zoom as u32)) as f64);
    // Only the part that is shown is read.
    let stride = (channels * metaxis_core::signal::PEAK_BYTES) as u64;
    let (first, last) = ((from_s * rate / bin).floor(), (to_s * rate / bin).ceil());
    let file = File::open(cached(app, id)?.peaks(zoom))
        .map_err(|_| ApiError::NotFound("its waveform is not there yet; try again shortly".into()))?;
    let mut bytes = vec![0; ((last - first) as u64 * stride) as usize];
    let mut filled = 0;
    while filled < bytes.len() {
        match file.read_at(&mut bytes[filled..], first as u64 * stride + filled as u64) {
            Ok(0) | Err(_) => break,
            Ok(count) => filled += count,
        }
    }
    bytes.truncate(filled);
    let place = |at_s: f64| at_s * rate / bin - first;
    let read = |channel| {
        peak_bins(&bytes, channels, channel, place(from_s), place(to_s), count)
            .into_iter()
            .flat_map(|bin| [bin.low, bin.high, bin.rms])
            .collect()
    };
    Ok(PeaksView { from_s, to_s, channels: (0..channels).map(read).collect() })
}

pub async fn want(State(app): Shared, Json(body): Json<Want>) -> Result<Json<()>, ApiError> {
    blocking(move || {
        app.store.want(body.clips.get(..body.clips.len().min(200)).unwrap_or_default())?;
        Ok(Json(()))
    })
    .await
}

/// Makes what is missing of a clip again: waveform, features, light copies.
pub async fn again(State(app): Shared, Path(id): Path<ClipId>) -> Result<Json<()>, ApiError> {
    blocking(move || {
        let clip = app.store.clip(id)?;
        if clip.facts.sound.is_some() {
            app.queue_of(&JobKind::Listen { clip: clip.id }, work::seconds(&clip.facts))?;
        }
        app.queue(&JobKind::Proxy { clip: clip.id })?;
        Ok(Json(()))
    })
    .await
}
