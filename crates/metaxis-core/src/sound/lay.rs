//! Which recordings run under a picture: their channels as tracks over exactly its range.

use super::{
    Rates,
    course::{Leg, course},
};
use crate::{
    clip::{ClipFacts, ClipId, DeviceId, SoundFacts},
    signal::{Carries, ChannelState},
    sync::Stretch,
    time::SampleRate,
};

/// A recording whose sound may lie under pictures.
#[derive(Debug, Clone, Copy)]
pub struct Recording<'a> {
    /// The clip.
    pub clip: ClipId,
    /// Its device.
    pub device: DeviceId,
    /// What its file says.
    pub facts: &'a ClipFacts,
    /// What its channels carry, where it was listened to.
    pub channels: &'a [ChannelState],
    /// Where it lies on the axis.
    pub stretches: &'a [Stretch],
}

/// What sound is laid along: the own time of a leading clip, or the axis itself.
#[derive(Debug, Clone, Copy)]
pub struct Along<'a> {
    /// Where the leading clip lies on the axis.
    pub leading: &'a [Stretch],
    /// The moment of its own time that the first sample is, seconds; also before its beginning.
    pub from_s: f64,
    /// Length in samples.
    pub samples: i64,
    /// Samples a second that are to come out.
    pub rate: SampleRate,
}

/// One sound along the way: a recording, or several that are one (a device that split it into files).
#[derive(Debug, Clone, PartialEq)]
pub struct LaidSource {
    /// Numbers of the recordings, as they were given, each with the sample at which it begins in the whole.
    pub files: Vec<(usize, i64)>,
    /// Its way along the leading clock, in samples of the whole.
    pub legs: Vec<Leg>,
    /// Samples a second out, and its own as labelled.
    pub rates: Rates,
}

impl LaidSource {
    /// The output samples that it reaches over.
    pub fn extent(&self) -> (i64, i64) {
        (self.legs.first().map_or(0, |leg| leg.from), self.legs.last().map_or(0, |leg| leg.to))
    }

    /// Leaves out the files of a chain that none of the legs comes near to.
    fn drop_unused(&mut self) {
        // A second more on both sides, for filters and where a correction moves things.
        let near = self.rates.own;
        let first = self.legs.iter().map(|leg| leg.at).fold(f64::INFINITY, f64::min) - near;
        let last = self.legs.iter().map(|leg| leg.position(leg.to)).fold(f64::NEG_INFINITY, f64::max) + near;
        let begins: Vec<f64> = self.files.iter().map(|(_, at)| *at as f64).collect();
        let mut number = 0;
        self.files.retain(|(_, at)| {
            number += 1;
            *at as f64 <= last && begins.get(number).is_none_or(|next| *next >= first)
        });
    }
}

/// A track under a picture: a channel of a device.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Track {
    /// The device.
    pub device: DeviceId,
    /// Number of the channel in its files, from 0.
    pub channel: usize,
    /// Its name where the files give it one.
    pub name: Option<String>,
    /// 0; more for what the same channel of the device recorded beside it at the same time.
    pub lane: usize,
    /// Numbers of the sources, and of the channel in each, in the order of time.
    pub parts: Vec<(usize, usize)>,
}

/// A passage in which a device that has a track was not running.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Hole {
    /// The device.
    pub device: DeviceId,
    /// First output sample, and the one after the last.
    pub from: i64,
    /// The output sample after the last.
    pub to: i64,
}

/// What lies under a picture.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Laid {
    /// The sounds, device by device.
    pub sources: Vec<LaidSource>,
    /// The tracks: devices in the order in which their recordings were given, channels in the order of their files.
    pub tracks: Vec<Track>,
    /// Where devices did not run, each device's in the order of time.
    pub holes: Vec<Hole>,
}

/// Files that follow each other this closely on the axis are one recording, seconds; where their time references say so, also
/// those that follow as closely as labels and sound agree.
const FOLLOWS_S: f64 = 0.2e-3;
const FOLLOWS_BY_LABEL_S: f64 = 0.02;

/// Lays `recordings` along a clip. Each device's come in the order of time. Channels that carry timecode are left out unless
/// `with_timecode`.
///
/// ```
/// use metaxis_core::{
///     clip::{ClipFacts, ClipId, DeviceId, SoundFacts},
///     sound::{Along, Recording, lay},
///     sync::Stretch,
///     time::SampleRate,
/// };
///
/// let sound = SoundFacts {
///     rate: SampleRate(48_000),
///     channels: 2,
///     channel_names: vec!["Mix".into(), "Boom".into()],
///     codec: "pcm_s24le".into(),
///     start_s: 0.0,
///     duration_s: 60.0,
///     labelled_s: None,
///     streams: vec![],
///     left_out: 0,
/// };
/// let facts = ClipFacts { duration_s: 60.0, sound: Some(sound), ..ClipFacts::default() };
/// // The recorder began four seconds after the camera and ran on.
/// let (recorder, camera) = ([Stretch::whole(60.0, 14.0)], [Stretch::whole(20.0, 10.0)]);
/// let recording =
///     Recording { clip: ClipId(1), device: DeviceId(1), facts: &facts, channels: &[], stretches: &recorder };
/// let along = Along { leading: &camera, from_s: 0.0, samples: 20 * 48_000, rate: SampleRate(48_000) };
/// let laid = lay(&along, &[recording], false);
///
/// assert_eq!(laid.tracks.iter().filter_map(|track| track.name.as_deref()).collect::<Vec<_>>(), ["Mix", "Boom"]);
/// assert_eq!((laid.holes[0].from, laid.holes[0].to), (0, 4 * 48_000));
/// ```
pub fn lay(along: &Along, recordings: &[Recording], with_timecode: bool) -> Laid {
    let reached = reaching(along);
    let mut laid = Laid::default();
    let mut devices: Vec<DeviceId> = vec![];
    for (number, recording) in recordings.iter().enumerate() {
        let Some(sound) = &recording.facts.sound else { continue };
        let rates = Rates { out: f64::from(along.rate.0), own: f64::from(sound.rate.0) };
        if !devices.contains(&recording.device) {
            devices.push(recording.device);
        }
        match laid.sources.iter_mut().find(|whole| is_one(recordings, whole, recording)) {
            Some(last) => go_on(last, number, recordings, &reached, along),
            None => {
                let legs = course(recording.stretches, &reached, along.from_s, along.samples, rates);
                laid.sources.push(LaidSource { files: vec![(number, 0)], legs, rates });
            }
        }
    }
    laid.sources.retain(|source| !source.legs.is_empty());
    laid.sources.iter_mut().for_each(LaidSource::drop_unused);
    for device in devices {
        let own = |source: &LaidSource| recordings[source.files[0].0].device == device;
        let numbers: Vec<usize> = (0..laid.sources.len()).filter(|&i| own(&laid.sources[i])).collect();
        if numbers.is_empty() {
            continue;
        }
        let tracks = tracks(&laid.sources, &numbers, recordings, with_timecode);
        if tracks.is_empty() {
            continue;
        }
        laid.tracks.extend(tracks);
        let legs = numbers.iter().flat_map(|&i| &laid.sources[i].legs);
        laid.holes.extend(holes(legs, along.samples).map(|(from, to)| Hole { device, from, to }));
    }
    laid
}

/// Where the leading clip lies, gone on beyond its ends as far as is asked for: a picture may begin before its sound does.
fn reaching(along: &Along) -> Vec<Stretch> {
    let mut all = along.leading.to_vec();
    let to_s = along.from_s + along.samples as f64 / f64::from(along.rate.0);
    if let Some(first) = all.first_mut()
        && along.from_s < first.clip_start_s
    {
        first.start_s = first.axis_s(along.from_s);
        first.clip_start_s = along.from_s;
    }
    if let Some(last) = all.last_mut() {
        last.clip_end_s = last.clip_end_s.max(to_s);
    }
    all
}

/// Samples of a recording, as its file counts them.
fn samples(sound: &SoundFacts) -> i64 {
    (sound.duration_s * f64::from(sound.rate.0)).round() as i64
}

/// Whether a recording goes on where the files of `whole` end, as if nobody had split them.
fn is_one(all: &[Recording], whole: &LaidSource, next: &Recording) -> bool {
    let Some(&(last, _)) = whole.files.last() else { return false };
    let last = &all[last];
    let (Some(own), Some(sound)) = (&last.facts.sound, &next.facts.sound) else { return false };
    let alike = last.device == next.device
        && (own.rate, own.channels, &own.channel_names) == (sound.rate, sound.channels, &sound.channel_names);
    let (Some(end), Some(begin)) = (last.stretches.last(), next.stretches.first()) else { return false };
    let gap_s = (begin.start_s - end.end_s()).abs();
    let by_label = match (last.facts.time_reference, next.facts.time_reference) {
        (Some(from), Some(to)) => {
            to.checked_sub(from).is_some_and(|all| i64::try_from(all).is_ok_and(|all| all == samples(own)))
        }
        _ => false,
    };
    alike && gap_s < if by_label { FOLLOWS_BY_LABEL_S } else { FOLLOWS_S }
}

/// Takes the next file into a whole.
fn go_on(whole: &mut LaidSource, number: usize, all: &[Recording], reached: &[Stretch], along: &Along) {
    let Some(sound) = whole.files.last().and_then(|(last, _)| all[*last].facts.sound.as_ref()) else {
        return;
    };
    let begins = whole.files.last().map_or(0, |(_, at)| *at) + samples(sound);
    let begins_s = begins as f64 / whole.rates.own;
    let later = |own: &Stretch| Stretch {
        clip_start_s: own.clip_start_s + begins_s,
        clip_end_s: own.clip_end_s + begins_s,
        ..*own
    };
    let stretches: Vec<Stretch> = all[number].stretches.iter().map(later).collect();
    let legs = course(&stretches, reached, along.from_s, along.samples, whole.rates);
    // One begins where the other ends: between them is nothing that was not recorded.
    if let (Some(last), Some(next)) = (whole.legs.last_mut(), legs.first())
        && (next.from - last.to) as f64 <= FOLLOWS_BY_LABEL_S * whole.rates.out
    {
        last.to = next.from;
    }
    whole.files.push((number, begins));
    whole.legs.extend(legs);
    whole.legs.retain(|leg| leg.from < leg.to);
}

/// The tracks of one device.
fn tracks(
    sources: &[LaidSource],
    numbers: &[usize],
    recordings: &[Recording],
    with_timecode: bool,
) -> Vec<Track> {
    let mut tracks: Vec<Track> = vec![];
    for &number in numbers {
        let source = &sources[number];
        let recording = &recordings[source.files[0].0];
        let Some(sound) = &recording.facts.sound else { continue };
        for channel in 0..sound.channels as usize {
            let carries = recording.channels.get(channel).map(|state| state.carries);
            if carries == Some(Carries::Timecode) && !with_timecode {
                continue;
            }
            let name = sound.channel_names.get(channel).filter(|name| !name.is_empty()).cloned();
            let is_same = |track: &Track| match (&track.name, &name) {
                (None, None) => track.channel == channel,
                (one, other) => one == other,
            };
            let free = |track: &Track| {
                let last = track.parts.last().map_or(i64::MIN, |(last, _)| sources[*last].extent().1);
                source.extent().0 >= last
            };
            let lane = tracks.iter().filter(|track| is_same(track)).count();
            match tracks.iter_mut().find(|track| is_same(track) && free(track)) {
                Some(track) => track.parts.push((number, channel)),
                None => tracks.push(Track {
                    device: recording.device,
                    channel,
                    name,
                    lane,
                    parts: vec![(number, channel)],
                }),
            }
        }
    }
    tracks.sort_by_key(|track| (track.lane, track.channel));
    tracks
}

/// What `legs` leave open of so many samples.
fn holes<'a>(legs: impl Iterator<Item = &'a Leg>, samples: i64) -> impl Iterator<Item = (i64, i64)> {
    let mut all: Vec<(i64, i64)> = legs.map(|leg| (leg.from, leg.to)).collect();
    all.push((samples, samples));
    all.sort_unstable();
    let mut at = 0;
    let open = all.into_iter().map(move |(from, to)| {
        let hole = (at, from);
        at = at.max(to);
        hole
    });
    open.filter(|(from, to)| from < to).collect::<Vec<_>>().into_iter()
}

#[cfg(test)]
mod tests {
    use super::*;

    const RATE: SampleRate = SampleRate(48_000);

    fn facts(duration_s: f64, names: &[&str], time_reference: Option<u64>) -> ClipFacts {
        let sound = SoundFacts {
            rate: RATE,
            channels: names.len() as u32,
            channel_names: names.iter().filter(|name| !name.is_empty()).map(ToString::to_string).collect(),
            codec: "pcm_s24le".into(),
            start_s: 0.0,
            duration_s,
            labelled_s: None,
            streams: vec![],
            left_out: 0,
        };
        ClipFacts { duration_s, sound: Some(sound), time_reference, ..ClipFacts::default() }
    }

    fn recording<'a>(device: i64, facts: &'a ClipFacts, stretches: &'a [Stretch]) -> Recording<'a> {
        Recording { clip: ClipId(0), device: DeviceId(device), facts, channels: &[], stretches }
    }

    fn under(leading: &[Stretch], recordings: &[Recording]) -> Laid {
        let length_s: f64 = leading.iter().map(|own| own.clip_end_s - own.clip_start_s).sum();
        let along = Along { leading, from_s: 0.0, samples: (length_s * 48_000.0) as i64, rate: RATE };
        lay(&along, recordings, false)
    }

    #[test]
    fn two_recorders_give_all_their_channels_and_say_where_they_did_not_run() {
        let camera = [Stretch::whole(30.0, 100.0)];
        let (band, boom) = (facts(60.0, &["Keys", "Drums"], None), facts(10.0, &["Boom"], None));
        let (band_at, boom_at) = ([Stretch::whole(60.0, 90.0)], [Stretch::whole(10.0, 105.0)]);
        let laid = under(&camera, &[recording(1, &boom, &boom_at), recording(2, &band, &band_at)]);
        let named: Vec<(i64, &str)> =
            laid.tracks.iter().map(|track| (track.device.0, track.name.as_deref().unwrap_or(""))).collect();
        assert_eq!(named, [(1, "Boom"), (2, "Keys"), (2, "Drums")]);
        let holes: Vec<(i64, i64, i64)> =
            laid.holes.iter().map(|hole| (hole.device.0, hole.from, hole.to)).collect();
        assert_eq!(holes, [(1, 0, 240_000), (1, 720_000, 1_440_000)]);
    }

    #[test]
    fn files_of_a_chain_are_one_sound_and_others_one_track() {
        let camera = [Stretch::whole(60.0, 0.0)];
        let named = ["Mix"];
        let (one, two) = (facts(20.0, &named, Some(480_000)), facts(20.0, &named, Some(480_000 + 960_000)));
        let three = facts(10.0, &named, None);
        // Where they were measured to lie, the second is 3 ms late; the third came seconds later.
        let at = [[Stretch::whole(20.0, 0.0)], [Stretch::whole(20.0, 20.003)], [Stretch::whole(10.0, 45.0)]];
        let all = [recording(1, &one, &at[0]), recording(1, &two, &at[1]), recording(1, &three, &at[2])];
        let laid = under(&camera, &all);
        assert_eq!(laid.sources.len(), 2);
        assert_eq!(laid.sources[0].files, [(0, 0), (1, 960_000)]);
        // Under a clip of the first alone the second is not asked for.
        assert_eq!(under(&[Stretch::whole(5.0, 2.0)], &all).sources[0].files, [(0, 0)]);
        let legs = &laid.sources[0].legs;
        assert_eq!((legs.len(), legs[0].to, legs[1].from), (2, 960_144, 960_144));
        assert!((legs[1].at - 960_000.0).abs() < 1e-3);
        assert_eq!(laid.tracks.len(), 1);
        assert_eq!(laid.tracks[0].parts, [(0, 0), (1, 0)]);
        assert_eq!(laid.holes.len(), 2);
    }

    #[test]
    fn a_file_a_channel_side_by_side_is_a_track_each() {
        let camera = [Stretch::whole(10.0, 5.0)];
        let (mix, boom, bare) =
            (facts(20.0, &["Mix"], None), facts(20.0, &["Boom"], None), facts(20.0, &[""], None));
        let at = [Stretch::whole(20.0, 0.0)];
        let laid = under(&camera, &[recording(1, &mix, &at), recording(1, &boom, &at)]);
        assert_eq!((laid.tracks.len(), laid.sources.len()), (2, 2));
        // Without names they are told apart by lying beside each other.
        let laid = under(&camera, &[recording(1, &bare, &at), recording(1, &bare, &at)]);
        assert_eq!(laid.tracks.iter().map(|track| track.lane).collect::<Vec<_>>(), [0, 1]);
    }

    #[test]
    fn a_picture_that_begins_before_its_sound_is_covered_from_its_first_frame() {
        let camera = [Stretch { rate_ppm: 50.0, ..Stretch::whole(10.0, 20.0) }];
        let sound = facts(60.0, &["Mix"], None);
        let at = [Stretch::whole(60.0, 0.0)];
        let along = Along { leading: &camera, from_s: -0.4, samples: 12 * 48_000, rate: RATE };
        let laid = lay(&along, &[recording(1, &sound, &at)], false);
        assert!(laid.holes.is_empty(), "{:?}", laid.holes);
        let first = laid.sources[0].legs[0];
        assert!((first.at - (20.0 - 0.4 / (1.0 + 50e-6)) * 48_000.0).abs() < 1e-3, "{first:?}");
    }

    #[test]
    fn what_does_not_run_there_and_timecode_make_no_track() {
        let camera = [Stretch::whole(10.0, 0.0)];
        let sound = facts(20.0, &["Mix", "TC"], None);
        let (there, elsewhere) = ([Stretch::whole(20.0, -5.0)], [Stretch::whole(20.0, 500.0)]);
        let state = |carries| ChannelState {
            peak_dbfs: -6.0,
            rms_dbfs: -20.0,
            clipped: 0,
            no_numbers: 0,
            floor_dbfs: -60.0,
            carries,
            late_s: None,
            audio_timecode: None,
        };
        let channels = [state(Carries::Sound), state(Carries::Timecode)];
        let own = Recording { channels: &channels, ..recording(1, &sound, &there) };
        assert_eq!(under(&camera, &[own]).tracks.len(), 1);
        assert_eq!(under(&camera, &[recording(1, &sound, &elsewhere)]), Laid::default());
    }
}
