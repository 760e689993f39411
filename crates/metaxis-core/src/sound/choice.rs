//! Which tracks go out, in which order, and what they are called: chosen once, held for every picture and for the next days.

use super::{Laid, Track};
use crate::{
    clip::DeviceId,
    names::{by_pattern, first_free},
};
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use ts_rs::TS;

/// A track wherever it is laid: by its name, or by its channel where files give it none.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize, TS)]
pub struct TrackKey {
    /// Its device; that of every device, and all that lie beside each other, where `None`.
    pub device: Option<DeviceId>,
    /// Its name in the files.
    pub name: Option<String>,
    /// Its channel, from 0; 0 where it has a name.
    #[serde(default)]
    pub channel: usize,
    /// As [`Track::lane`].
    #[serde(default)]
    pub lane: usize,
}

impl TrackKey {
    /// Every track that files call so.
    pub fn named(name: &str) -> Self {
        Self { device: None, name: Some(name.to_owned()), channel: 0, lane: 0 }
    }

    /// Of a track that is laid.
    pub fn of(track: &Track) -> Self {
        Self {
            device: Some(track.device),
            name: track.name.clone(),
            channel: if track.name.is_some() { 0 } else { track.channel },
            lane: track.lane,
        }
    }

    /// Whether it is that track.
    pub fn is(&self, track: &Track) -> bool {
        let named = match (&self.name, &track.name) {
            (None, None) => self.channel == track.channel,
            (own, its) => own == its,
        };
        named && self.device.is_none_or(|device| (device, self.lane) == (track.device, track.lane))
    }
}

/// What was chosen for tracks.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(default)]
pub struct TrackChoice {
    /// What they are called, as [`track_names`] reads it; as the recordings have it where empty.
    pub pattern: String,
    /// Those that come first, in this order; the rest follow as they are laid.
    pub order: Vec<TrackKey>,
    /// Those that are left out.
    pub off: Vec<TrackKey>,
}

impl TrackChoice {
    /// Puts the tracks that are laid into their order. Those that are left out are returned; sounds that nothing else is heard of
    /// go with them.
    pub fn apply(&self, laid: &mut Laid) -> Vec<Track> {
        let place = |track: &Track| self.order.iter().position(|key| key.is(track));
        laid.tracks.sort_by_key(|track| place(track).unwrap_or(self.order.len()));
        let is_off = |track: &mut Track| self.off.iter().any(|key| key.is(track));
        let mut off: Vec<Track> = laid.tracks.extract_if(.., is_off).collect();
        off.iter_mut().for_each(|track| track.parts.clear());
        drop_unheard(laid);
        off
    }
}

/// Leaves out sounds of which no track is made, and the holes of devices that have none: nobody misses them.
fn drop_unheard(laid: &mut Laid) {
    let Laid { sources, tracks, holes } = laid;
    let mut kept = vec![false; sources.len()];
    tracks.iter().flat_map(|track| &track.parts).for_each(|(source, _)| kept[*source] = true);
    let before = |number: usize| kept[..number].iter().filter(|kept| **kept).count();
    let numbers: Vec<usize> = (0..kept.len()).map(before).collect();
    for (source, _) in tracks.iter_mut().flat_map(|track| &mut track.parts) {
        *source = numbers[*source];
    }
    let mut kept = kept.into_iter();
    sources.retain(|_| kept.next().unwrap_or(true));
    holes.retain(|hole| tracks.iter().any(|track| track.device == hole.device));
}

/// What a name may be made of beside the track itself.
#[derive(Debug, Clone, Copy, Default)]
pub struct NamedFor<'a> {
    /// The picture's file name without its extension, or the group's name.
    pub picture: &'a str,
    /// Scene and take, where something says them.
    pub scene: Option<&'a str>,
    /// As `scene`.
    pub take: Option<&'a str>,
}

/// What a pattern may name, each in braces.
pub const PATTERN_WORDS: [&str; 7] = ["track", "device", "channel", "number", "picture", "scene", "take"];

/// The word of a pattern that stands for nothing, where there is one.
///
/// ```
/// use metaxis_core::sound::unknown_word;
///
/// assert_eq!(unknown_word("{picture} {track}"), None);
/// assert_eq!(unknown_word("{picture} {mike}"), Some("mike"));
/// ```
pub fn unknown_word(pattern: &str) -> Option<&str> {
    let words = pattern.split('{').skip(1).filter_map(|rest| rest.split_once('}'));
    words.map(|(word, _)| word).find(|word| !PATTERN_WORDS.contains(word))
}

/// Whether names by a pattern say what they are the sound of: those of one group are not those of another.
///
/// ```
/// use metaxis_core::sound::names_its_own;
///
/// assert!(names_its_own("{scene} {track}"));
/// assert!(!names_its_own("{device} {channel}"));
/// ```
pub fn names_its_own(pattern: &str) -> bool {
    ["{picture}", "{scene}", "{take}"].iter().any(|word| pattern.contains(word))
}

/// What the tracks are called. By the pattern: text in which `{track}` is the name its file gives it or else device and channel,
/// `{device}`, `{channel}` (from 1), `{number}` (its place, from 1), `{picture}`, `{scene}` and `{take}` are put in. Without a
/// pattern as `{track}`, and what several have is told apart by their devices. Names that are still alike are numbered.
///
/// ```
/// use metaxis_core::{clip::DeviceId, sound::{NamedFor, Track, track_names}};
///
/// let track = |channel, name: &str| Track {
///     device: DeviceId(1),
///     channel,
///     name: Some(name.into()),
///     lane: 0,
///     parts: vec![],
/// };
/// let own = NamedFor { picture: "A001", scene: Some("12"), ..NamedFor::default() };
/// let tracks = [track(0, "Mix"), track(1, "Boom")];
/// assert_eq!(track_names(&tracks, "{number} {picture} {track} {take}", &own, |_| "REC"), ["1 A001 Mix", "2 A001 Boom"]);
/// ```
pub fn track_names<'a>(
    tracks: &[Track],
    pattern: &str,
    named_for: &NamedFor,
    device: impl Fn(DeviceId) -> &'a str,
) -> Vec<String> {
    let own = |track: &Track| match &track.name {
        Some(name) => name.clone(),
        None => format!("{} {}", device(track.device), track.channel + 1),
    };
    let mut used: HashMap<String, DeviceId> = HashMap::new();
    let mut shared: Vec<String> = vec![];
    for track in tracks {
        let name = own(track);
        if *used.entry(name.clone()).or_insert(track.device) != track.device {
            shared.push(name);
        }
    }
    let mut names: Vec<String> = vec![];
    for (number, track) in (1..).zip(tracks) {
        let bare = own(track);
        let name = if !pattern.is_empty() {
            by_pattern(pattern, |word| match word {
                "track" => bare.clone(),
                "device" => device(track.device).to_owned(),
                "channel" => (track.channel + 1).to_string(),
                "number" => number.to_string(),
                "picture" => named_for.picture.to_owned(),
                "scene" => named_for.scene.unwrap_or_default().to_owned(),
                "take" => named_for.take.unwrap_or_default().to_owned(),
                _ => String::new(),
            })
        } else if shared.contains(&bare) {
            format!("{} {bare}", device(track.device))
        } else {
            bare.clone()
        };
        let name = if name.is_empty() { bare } else { name };
        names.push(first_free(name, |name| names.iter().any(|own| own == name)));
    }
    names
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sound::{Hole, LaidSource, Rates};
    use proptest::prelude::*;

    fn track(device: i64, channel: usize, name: Option<&str>) -> Track {
        Track { device: DeviceId(device), channel, name: name.map(Into::into), lane: 0, parts: vec![] }
    }

    fn names(tracks: &[Track], pattern: &str) -> Vec<String> {
        let own = NamedFor { picture: "A001", scene: Some("7"), take: None };
        track_names(tracks, pattern, &own, |device| if device == DeviceId(1) { "R1" } else { "R2" })
    }

    #[test]
    fn every_track_has_a_name_of_its_own() {
        let tracks =
            [track(1, 0, Some("Mix")), track(1, 1, None), track(2, 0, Some("Mix")), track(2, 0, Some("Mix"))];
        assert_eq!(names(&tracks, ""), ["R1 Mix", "R1 2", "R2 Mix", "R2 Mix (2)"]);
        assert_eq!(names(&tracks, "{device}/{channel}"), ["R1/1", "R1/2", "R2/1", "R2/1 (2)"]);
        assert_eq!(names(&tracks[..2], "{picture} {take} {track}"), ["A001 Mix", "A001 R1 2"]);
        assert_eq!(names(&tracks[..2], "{take}"), ["Mix", "R1 2"]);
        assert_eq!(names(&tracks[..1], "sc {scene} {open"), ["sc 7 {open"]);
    }

    #[test]
    fn those_named_come_first_those_left_out_are_gone_with_their_holes() {
        let hole = |device| Hole { device: DeviceId(device), from: 0, to: 5 };
        let source = |recording| LaidSource {
            files: vec![(recording, 0)],
            legs: vec![],
            rates: Rates { out: 48_000.0, own: 48_000.0 },
        };
        let heard = |own: Track, source: usize| Track { parts: vec![(source, own.channel)], ..own };
        let mut laid = Laid {
            sources: vec![source(4), source(5)],
            tracks: vec![
                heard(track(2, 0, None), 0),
                heard(track(2, 1, None), 0),
                heard(track(1, 0, Some("Mix")), 1),
                heard(track(1, 1, Some("Boom")), 1),
            ],
            holes: vec![hole(1), hole(2)],
        };
        let choice = TrackChoice {
            pattern: String::new(),
            order: vec![TrackKey::of(&track(2, 1, None)), TrackKey::named("Boom"), TrackKey::named("Nobody")],
            off: vec![
                TrackKey::named("Mix"),
                TrackKey::of(&track(2, 0, None)),
                TrackKey::of(&track(2, 1, None)),
            ],
        };
        let off = choice.apply(&mut laid);
        assert_eq!(laid.tracks, [heard(track(1, 1, Some("Boom")), 0)]);
        assert_eq!((laid.holes, laid.sources), (vec![hole(1)], vec![source(5)]));
        assert_eq!(off, [track(2, 1, None), track(2, 0, None), track(1, 0, Some("Mix"))]);
    }

    proptest! {
        /// Whatever is chosen, every track is either in or out, and names are never alike or empty.
        #[test]
        fn nothing_is_lost(
            channels in proptest::collection::vec((1_i64..3, 0_usize..4, proptest::option::of("[ab]")), 0..12),
            picks in proptest::collection::vec((any::<bool>(), any::<proptest::sample::Index>()), 0..8),
            pattern in "(\\{(track|take|picture|x)\\}|[a ]|\\{){0,4}",
        ) {
            let tracks: Vec<Track> = channels.iter().map(|(device, channel, name)| track(*device, *channel, name.as_deref())).collect();
            let mut choice = TrackChoice::default();
            for (off, pick) in picks.iter().filter(|_| !tracks.is_empty()) {
                let key = TrackKey::of(&tracks[pick.index(tracks.len())]);
                if *off { choice.off.push(key) } else { choice.order.push(key) }
            }
            let mut laid = Laid { tracks: tracks.clone(), ..Laid::default() };
            let off = choice.apply(&mut laid);
            prop_assert_eq!(laid.tracks.len() + off.len(), tracks.len());
            prop_assert!(tracks.iter().all(|own| laid.tracks.contains(own) != off.contains(own)));
            let named = names(&laid.tracks, &pattern);
            let mut apart = named.clone();
            apart.sort();
            apart.dedup();
            prop_assert_eq!(apart.len(), named.len());
            prop_assert!(named.iter().all(|name| !name.trim().is_empty()));
        }
    }
}
