//! Finding the media of a document among the files of a day.

use super::{First, Media, list::marked};
use crate::{
    clip::ClipId,
    time::{FrameRate, Tick, Timecode},
    turnover::{Source, Sources},
};
use std::collections::HashMap;

/// The files of a day, by what documents call them.
pub(super) struct Files<'a> {
    sources: &'a Sources,
    by_print: HashMap<&'a str, Vec<ClipId>>,
    by_name: HashMap<String, Vec<ClipId>>,
    by_reel: HashMap<String, Vec<ClipId>>,
}

impl<'a> Files<'a> {
    pub fn of(sources: &'a Sources) -> Self {
        let mut own =
            Self { sources, by_print: HashMap::new(), by_name: HashMap::new(), by_reel: HashMap::new() };
        let mut pictures: Vec<(&ClipId, &Source)> =
            sources.clips.iter().filter(|(_, source)| source.facts.picture.is_some()).collect();
        pictures.sort_by_key(|(clip, _)| **clip);
        for (clip, source) in pictures {
            if let Some(print) = &source.origin.fingerprint {
                own.by_print.entry(print).or_default().push(*clip);
            }
            let name = plain(&source.file_name);
            let stem = name.rsplit_once('.').map(|(stem, _)| stem.to_owned());
            for name in [Some(name.clone()), stem].into_iter().flatten() {
                own.by_name.entry(name).or_default().push(*clip);
            }
            own.by_reel.entry(reel(&source.reel())).or_default().push(*clip);
        }
        own
    }

    /// The clip of some media, and which of its frames the first is, counted in those of the clip; of several that are called so the
    /// one that has that frame.
    pub fn find(&self, media: &Media, rate: FrameRate) -> Option<(ClipId, f64)> {
        let by_print = media.fingerprint.as_deref().and_then(|own| self.by_print.get(own));
        let by_name = || media.names.iter().find_map(|own| self.by_name.get(&plain(own)));
        let by_reel = || self.by_reel.get(&reel(media.reel.as_deref()?));
        let clips = by_print.or_else(by_name).or_else(by_reel)?;
        let own =
            |clip: &ClipId| Some((*clip, first_frame(self.sources.clips.get(clip)?, &media.first, rate)?));
        let all: Vec<(ClipId, f64)> = clips.iter().filter_map(own).collect();
        let has = |(clip, frame): &&(ClipId, f64)| {
            let frames = self.sources.clips.get(clip).and_then(Source::frames);
            frames.is_some_and(|all| (-1.0..all as f64 + 1.0).contains(frame))
        };
        all.iter().find(has).or(all.first()).copied()
    }
}

/// A name as it is looked for: letters large and small are alike to some file systems.
fn plain(name: &str) -> String {
    name.trim().to_lowercase()
}

/// A reel as lists have it.
fn reel(name: &str) -> String {
    name.chars().filter(char::is_ascii_alphanumeric).take(8).collect::<String>().to_ascii_uppercase()
}

/// The clip's frame that is the first, in frames of its own rate; `list` is the rate at which a list counts.
fn first_frame(source: &Source, first: &First, list: FrameRate) -> Option<f64> {
    let rate = source.facts.picture.as_ref()?.rate;
    match first {
        First::Passed(own) => Some(own * rate.as_f64()),
        First::Counted(own) => Some(own * rate.as_f64() - source.first_frame(rate) as f64),
        First::Label(text, drop) => labelled(source, text, *drop, rate, list),
    }
}

/// The frame that has a label, as a list writes it: hours, minutes and seconds of the file's own, frames as the list counts them.
fn labelled(source: &Source, text: &str, drop: bool, rate: FrameRate, list: FrameRate) -> Option<f64> {
    let Some(own) = source.facts.timecode else {
        let said = Timecode::parse(&marked(text, drop), list).ok()?;
        let first = if source.has_label() { source.first_frame(list) } else { 0 };
        return Some(Tick::of_frame(said.frames - first, list).seconds() * rate.as_f64());
    };
    let (head, frames) = text.split_at(text.rfind([':', ';', '.'])? + 1);
    let (frames, counted_by, nominal): (i64, i64, i64) =
        (frames.parse().ok()?, nominal(list), nominal(own.rate));
    // The first of its frames that is written so.
    let frames = (frames * nominal + counted_by - 1).div_euclid(counted_by.max(1)).clamp(0, nominal - 1);
    let label = Timecode::parse(&marked(&format!("{head}{frames:02}"), own.drop), own.rate).ok()?;
    Some(label.since(own) as f64 * rate.as_f64() / own.rate.as_f64())
}

fn nominal(rate: FrameRate) -> i64 {
    rate.as_f64().round() as i64
}
