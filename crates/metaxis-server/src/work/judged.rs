//! How loud the sound of a group is, moment by moment.

use crate::{
    App,
    error::ApiError,
    samples::{channel_samples, sound},
};
use metaxis_core::{
    clip::ClipId,
    group::{AnglePart, Group},
    line::LEVELS_PER_SECOND,
    signal::LISTEN_RATE,
    sync::SampleSource,
};
use metaxis_media::Stop;

/// Samples of a level.
const STEP: usize = LISTEN_RATE as usize / LEVELS_PER_SECOND;
/// Seconds of a channel that are read at a time.
const PIECE_S: usize = 30;

/// The names of a clip's channels, by number where they have none.
///
/// # Errors
/// Errors of the store.
pub(super) fn channel_names(app: &App, clip: ClipId) -> Result<Vec<String>, ApiError> {
    let facts = app.store.clip(clip)?.facts.sound;
    Ok(facts.map_or(vec![], |facts| {
        let named = |i: usize| facts.channel_names.get(i).filter(|own| !own.is_empty()).cloned();
        (0..facts.channels as usize)
            .map(|i| named(i).unwrap_or_else(|| format!("channel {}", i + 1)))
            .collect()
    }))
}

/// How loud a sound is, in dBFS, by the mean power of each hundredth of a second.
fn levels(samples: &[f32]) -> impl Iterator<Item = f32> + '_ {
    samples.chunks(STEP).map(|own| {
        let power = own.iter().map(|value| value * value).sum::<f32>() / own.len() as f32;
        10.0 * power.max(1e-10).log10()
    })
}

/// Reads the sound of clips that is judged.
pub(super) struct Judged<'a> {
    pub app: &'a App,
    /// One of their channels; what of them is matched unless given.
    pub channel: Option<usize>,
    pub stop: &'a Stop,
}

impl Judged<'_> {
    /// The levels of a sound in a group, as it is shown, from which frame on: a run for each time that it ran without a hole.
    pub fn runs(&self, group: &Group, parts: &[AnglePart]) -> Result<Vec<(i64, Vec<f32>)>, ApiError> {
        let mut all = vec![];
        for run in parts.chunk_by(|a, b| a.to_frame == b.from_frame) {
            let mut own = vec![];
            for part in run {
                let seconds = (group.passed(part.to_frame) - group.passed(part.from_frame)).seconds();
                let from_s = part.stretch.clip_s(group.frame_start(part.from_frame).seconds());
                let steps = (seconds * LEVELS_PER_SECOND as f64).round() as usize;
                own.extend(self.levels(part.clip, from_s, steps)?);
            }
            all.push((run[0].from_frame, own));
        }
        Ok(all)
    }

    /// Levels of a clip from a moment of its own time on for so many steps.
    fn levels(&self, clip: ClipId, from_s: f64, steps: usize) -> Result<Vec<f32>, ApiError> {
        let first = (from_s * f64::from(LISTEN_RATE)).round() as i64;
        let at_once = PIECE_S * LEVELS_PER_SECOND;
        let mut all = Vec::with_capacity(steps);
        while all.len() < steps {
            let count = (steps - all.len()).min(at_once) * STEP;
            let from = first + (all.len() * STEP) as i64;
            let samples = match self.channel {
                Some(channel) => channel_samples(self.app, clip, channel, (from, count), self.stop)?,
                None => self.matched(clip, from, count)?,
            };
            all.extend(levels(&samples));
        }
        all.truncate(steps);
        Ok(all)
    }

    fn matched(&self, clip: ClipId, from: i64, count: usize) -> Result<Vec<f32>, ApiError> {
        let samples = sound(self.app, clip)?;
        let mut values = vec![0.0; count];
        samples.read(from, &mut values);
        Ok(values)
    }
}
