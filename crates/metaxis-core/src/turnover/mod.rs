//! Documents for the cutting room, as values turned into bytes.

mod assembled;
mod bundle;
mod choices;
mod day;
mod heard;
mod items;
mod list;
mod logs;
mod made;
mod otio;
mod over;
mod read;
mod recut;
mod sound;
mod source;
mod synced;
mod wave_notes;

pub use assembled::{AssembledPart, assembly_document};
pub use bundle::{BUNDLE_VERSION, BUNDLE_VERSION_FILE, BUNDLED_DOCUMENT, BUNDLED_MEDIA, bundled, escaped};
pub use choices::choices_document;
pub use day::day_document;
pub use list::{assembly_lists, cut_lists};
pub use logs::{LoggedClip, channels_log, clips_log, starts, sync_log, takes_log, verdict_word};
pub use made::{MadeSound, made_document, made_lists};
pub use otio::{group_document, line_document, nested_document};
pub use read::{ReadBack, ReadError, read_line};
pub use sound::LaidSound;
pub use source::{Origin, Source};
pub use synced::{OwnPicture, synced_document};
pub use wave_notes::{FileSet, WaveNotes};

use crate::{
    clip::{ClipId, DeviceId},
    group::{Angle, AnglePart, Group},
    sound::{Correction, SoundHabit},
    sync::joined,
};
use std::collections::HashMap;

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
    /// Its letter and its name.
    pub fn device_name(&self, device: DeviceId) -> String {
        let own = self.devices.get(&device);
        own.map_or_else(String::new, |(letter, name)| format!("{letter} {name}").trim().to_owned())
    }

    /// Whether there is sound in the clip of a part.
    fn has_sound(&self, part: &AnglePart) -> bool {
        self.clips.get(&part.clip).is_some_and(|own| own.facts.sound.is_some())
    }

    fn angle_name(&self, group: &Group, angle: &Angle) -> String {
        group.angle_name(angle, |device| self.device_name(device))
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
        let all = pieces(&angle.parts, from, to).into_iter().flat_map(corrected);
        let mut out: Vec<(Option<&AnglePart>, i64, i64)> = vec![];
        for own in all.flat_map(|own| self.as_far_as_there_is(group, own)) {
            // Nothing behind nothing is one.
            match out.last_mut() {
                Some((None, _, until)) if own.0.is_none() => *until = own.2,
                _ => out.push(own),
            }
        }
        out
    }

    /// A piece as far as its file has frames for all of it; behind that nothing.
    fn as_far_as_there_is<'a>(
        &self,
        group: &Group,
        (part, begin, end): (Option<&'a AnglePart>, i64, i64),
    ) -> impl Iterator<Item = (Option<&'a AnglePart>, i64, i64)> {
        let there_is = |own: &AnglePart| {
            let frames = self.clips.get(&own.clip)?.frames().filter(|_| !own.still)?;
            let speed = own.stretch.retimed().unwrap_or(1.0);
            let a_frame = own.rate.as_f64() / group.rate().as_f64() * speed;
            let left = (frames - group.clip_frame(own, begin)) as f64;
            // To the end of its last frame and no further: other programs ask for what is not there.
            Some(begin + (left / a_frame + 1e-9).floor() as i64)
        };
        let until = part.and_then(there_is).map_or(end, |own| own.clamp(begin, end));
        [(part, begin, until), (None, until, end)].into_iter().filter(|(_, begin, end)| begin < end)
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
