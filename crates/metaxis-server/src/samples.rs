//! Samples of clips, as they are matched or as their channels have them.

use crate::{App, error::ApiError};
use metaxis_core::{
    clip::ClipId,
    signal::{Bands, LISTEN_RATE},
    sync::SampleSource,
};
use metaxis_media::{CachedClip, Fingerprint, Stop, StoredSamples, channel_piece};

/// What is cached of a clip.
pub(crate) fn cached(app: &App, id: ClipId) -> Result<CachedClip, ApiError> {
    let clip = app.store.clip(id)?;
    let fingerprint = Fingerprint::parse(&clip.fingerprint)
        .ok_or_else(|| ApiError::NotFound("the clip was not read yet".into()))?;
    Ok(app.cache.clip(&fingerprint))
}

/// What is matched of a clip.
pub(crate) fn sound(app: &App, id: ClipId) -> Result<StoredSamples, ApiError> {
    Ok(stored(app, id)?.0)
}

/// What is matched of a clip, and how loud it is, band by band.
pub(crate) fn stored(app: &App, id: ClipId) -> Result<(StoredSamples, Bands), ApiError> {
    let clip = app.store.clip(id)?;
    let name = || clip.relative.rsplit('/').next().unwrap_or_default();
    if clip.facts.sound.is_none() {
        return Err(ApiError::NotFound(format!("{} has no sound", name())));
    }
    StoredSamples::open(&cached(app, id)?, 0).map_err(|_| {
        ApiError::NotFound(format!(
            "the sound of {} is not ready: wait until it was listened to, or have it made again at Intake",
            name()
        ))
    })
}

/// `count` samples of one channel of a clip from sample `from` on, at the rate at which it is matched; from the cache where it
/// is kept by itself, else from the file.
pub(crate) fn channel_samples(
    app: &App,
    id: ClipId,
    channel: usize,
    (from, count): (i64, usize),
    stop: &Stop,
) -> Result<Vec<f32>, ApiError> {
    let clip = app.store.clip(id)?;
    let name = clip.relative.rsplit('/').next().unwrap_or_default();
    let missing = || ApiError::NotFound(format!("{name} has no channel {}", channel + 1));
    let facts = clip.facts.sound.as_ref().ok_or_else(missing)?;
    let mixes = clip.heard.as_ref().map_or(&[][..], |heard| &heard.mixes);
    if let Some(kept) = mixes.iter().position(|mix| mix.only() == Some(channel))
        && let Ok((samples, _)) = StoredSamples::open(&cached(app, id)?, kept)
    {
        let mut values = vec![0.0; count];
        samples.read(from, &mut values);
        return Ok(values);
    }
    let from_s = from as f64 / f64::from(LISTEN_RATE);
    channel_piece(&clip.path, facts, channel, (from_s, count), stop)?.ok_or_else(missing)
}
