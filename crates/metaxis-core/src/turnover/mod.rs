//! Documents for the cutting room, as values turned into bytes.

mod assembled;
mod cut_list;
mod heard;
mod items;
mod otio;
mod over;
mod recut;
mod reels;
mod sound;
mod synced;
mod wave_notes;

pub use assembled::{AssembledPart, assembly_document};
pub use cut_list::{CutListError, assembly_list, cut_list};
pub use otio::{group_document, line_document};
pub use sound::LaidSound;
pub use synced::{OwnPicture, synced_document};
pub use wave_notes::{FileSet, WaveNotes};

use crate::{
    clip::{ClipFacts, ClipId, DeviceId},
    group::{Angle, AnglePart, Group},
    sound::{Correction, SoundHabit},
    sync::joined,
    time::{FrameRate, Tick, Timecode},
};
use std::collections::HashMap;

/// What a document must know of a source to be linked back to it.
#[derive(Debug, Clone)]
pub struct Source {
    /// File name as it came from the card.
    pub file_name: String,
    /// Where it lies, as a `file://` URL.
    pub url: String,
    /// What its file says.
    pub facts: ClipFacts,
}

/// Everything documents refer to by number.
#[derive(Debug, Clone, Default)]
pub struct Sources {
    /// Clips.
    pub clips: HashMap<ClipId, Source>,
    /// Device letter and name.
    pub devices: HashMap<DeviceId, (String, String)>,
    /// What was chosen about clocks.
    pub habit: SoundHabit,
}

impl Sources {
    fn device_name(&self, device: DeviceId) -> String {
        self.devices.get(&device).map_or_else(String::new, |(letter, name)| format!("{letter} {name}"))
    }

    fn angle_name(&self, group: &Group, angle: &Angle) -> String {
        group.angle_name(angle, |device| self.device_name(device))
    }
}

impl Source {
    /// Label of the source's first frame, as a frame count at `rate`: its file timecode, else its time
    /// reference, else zero.
    fn first_frame(&self, rate: FrameRate) -> i64 {
        if let Some(timecode) = self.facts.timecode {
            return timecode.since_midnight().frame(rate);
        }
        match (&self.facts.sound, self.facts.time_reference) {
            (Some(sound), Some(samples)) => {
                Tick::of_sample(i64::try_from(samples).unwrap_or(0), sound.rate.0).frame(rate)
            }
            _ => 0,
        }
    }

    /// The same for its sound: samples since midnight, else zero.
    fn first_sample(&self) -> i64 {
        let Some(sound) = &self.facts.sound else { return 0 };
        match (self.facts.time_reference, self.facts.timecode) {
            (Some(samples), _) => i64::try_from(samples).unwrap_or(0),
            (None, Some(timecode)) => timecode.since_midnight().sample(sound.rate.0),
            (None, None) => 0,
        }
    }

    /// The label that its file has on one of its frames (`own` a second), as a list of `rate` frames a second writes it; from nought
    /// on where it has none.
    fn label(&self, frame: i64, own: FrameRate, rate: FrameRate) -> Timecode {
        let first = self.facts.timecode.unwrap_or(Timecode::new(0, own, false));
        let passed = if first.rate == own { frame } else { Tick::of_frame(frame, own).frame(first.rate) };
        first.plus(passed).written_at(rate)
    }

    /// The reel: as the file names it, else the file name without its extension.
    fn reel(&self) -> String {
        let stem =
            || self.file_name.rsplit_once('.').map_or(self.file_name.as_str(), |(stem, _)| stem).to_owned();
        self.facts.reel.clone().unwrap_or_else(stem)
    }
}

impl Sources {
    /// What is done about a picture's clock: what was chosen for it, else it is cut anew by whole frames.
    fn correction(&self, angle: &Angle, part: &AnglePart) -> Correction {
        let chosen = angle.device.and_then(|device| self.habit.handling(device, part.clip).correction);
        chosen.unwrap_or(Correction::Recut)
    }

    /// The pieces of an angle within [from, to): a part and its frames, or `None` where the angle did not run, with every
    /// picture corrected as is chosen.
    fn pieces<'a>(
        &self,
        group: &Group,
        angle: &'a Angle,
        from: i64,
        to: i64,
    ) -> Vec<(Option<&'a AnglePart>, i64, i64)> {
        let corrected = |(part, begin, end): (Option<&'a AnglePart>, i64, i64)| match part {
            Some(own)
                if !own.still
                    && own.stretch.retimed().is_none()
                    && self.correction(angle, own) == Correction::Recut =>
            {
                let cut = recut::recut(group, &angle.parts, (own, begin, end));
                cut.into_iter().map(|(part, begin, end)| (Some(part), begin, end)).collect()
            }
            _ => vec![(part, begin, end)],
        };
        pieces(&angle.parts, from, to).into_iter().flat_map(corrected).collect()
    }

    /// How fast a picture is to be played, 1 at its own speed, 0 of one that stands; `None` where it is not to be played otherwise.
    fn speed(&self, angle: &Angle, part: &AnglePart) -> Option<f64> {
        if part.still {
            return Some(0.0);
        }
        let resampled = self.correction(angle, part) == Correction::Resample;
        let speed = 1.0 + part.stretch.rate_ppm * 1e-6;
        part.stretch.retimed().or((resampled && speed != 1.0).then_some(speed))
    }
}

/// The pieces of an angle within [from, to): a part and its frames, or `None` where the angle did not run. Where a
/// clip's clock bends it goes on: that is no cut.
fn pieces(parts: &[AnglePart], from: i64, to: i64) -> Vec<(Option<&AnglePart>, i64, i64)> {
    let mut out: Vec<(Option<&AnglePart>, i64, i64)> = vec![];
    let mut last: Option<&AnglePart> = None;
    let mut at = from;
    for part in parts {
        let (begin, end) = (part.from_frame.max(at), part.to_frame.min(to));
        if begin >= end {
            continue;
        }
        if begin > at {
            out.push((None, at, begin));
        }
        let goes_on = last.is_some_and(|last| last.clip == part.clip && joined(&last.stretch, &part.stretch));
        match out.last_mut() {
            Some((Some(_), _, until)) if goes_on && *until == begin => *until = end,
            _ => out.push((Some(part), begin, end)),
        }
        last = Some(part);
        at = end;
    }
    if at < to {
        out.push((None, at, to));
    }
    out
}
