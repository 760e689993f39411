//! A cut of a group on the beats of its music.

use super::first_cut::switched;
use crate::{App, error::ApiError, samples::stored};
use metaxis_core::{
    group::{AnglePart, Group},
    line::music_cut,
    signal::{BAND_RATE, BANDS, Bands, BassReader, Beats, LISTEN_RATE},
    sync::SampleSource,
};
use metaxis_store::{GroupId, KeptLineId};
use serde::Deserialize;
use ts_rs::TS;

/// A cut that is to be made on the beats of the group's sound.
#[derive(Debug, Deserialize, TS)]
pub struct MakeMusicCut {
    /// What the line is called that it is kept as.
    pub name: String,
    /// It cuts every so many beats,
    pub every: usize,
    /// or bars.
    pub bars: bool,
}

/// Samples of a step.
const STEP: usize = (LISTEN_RATE / BAND_RATE) as usize;
/// More beats or bars than these nobody waits for.
const MOST: usize = 1000;

/// Makes a cut of a group on beats or bars, kept as a line of its own beside that of the group.
///
/// # Errors
/// Where no beat is found; errors of the store and of media.
pub fn make_music_cut(app: &App, id: GroupId, wanted: &MakeMusicCut) -> Result<KeptLineId, ApiError> {
    let group = app.store.group(id)?.group;
    let parts = group.sound.as_ref().map_or(&[][..], |own| &own.parts);
    if parts.is_empty() {
        return Err(ApiError::Refused("the group has no sound to find beats in".into()));
    }
    let every = wanted.every.clamp(1, MOST);
    let rate = group.rate().as_f64();
    let mut cuts = vec![];
    for run in parts.chunk_by(|a, b| a.to_frame == b.from_frame) {
        let Some(beats) = beats_of(app, &group, run)? else { continue };
        let first = run[0].from_frame;
        cuts.extend(beats.every(every, wanted.bars).map(|at_s| first + (at_s * rate).round() as i64));
    }
    if cuts.is_empty() {
        return Err(ApiError::Refused(
            "no beat was found in the group\u{2019}s sound: it is no music, or it keeps no time".into(),
        ));
    }
    let shots = music_cut(&group, &cuts);
    Ok(app.store.keep_made_line(id, &wanted.name, switched(&shots), &shots)?)
}

/// The beats of a run, from its first frame on.
fn beats_of(app: &App, group: &Group, run: &[AnglePart]) -> Result<Option<Beats>, ApiError> {
    let (mut loud, mut bass) = (vec![], BassReader::default());
    for part in run {
        let (samples, bands) = stored(app, part.clip)?;
        let step = |frame: i64| {
            let clip_s = part.stretch.clip_s(group.frame_start(frame).seconds());
            ((clip_s * f64::from(BAND_RATE)).round().max(0.0) as usize).min(bands.frames())
        };
        let (from, to) = (step(part.from_frame), step(part.to_frame));
        loud.extend_from_slice(&bands.0[from * BANDS..to.max(from) * BANDS]);
        let mut piece = vec![0.0; STEP];
        for own in from..to {
            samples.read((own * STEP) as i64, &mut piece);
            bass.push(&piece);
        }
    }
    Ok(Beats::find(&Bands(loud), &bass.finish()))
}
