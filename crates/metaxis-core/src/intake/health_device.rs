//! Notes that only a device's clips, or the whole day's, give together.

use super::{
    HealthClip, HealthDevice, HealthKind, HealthNote, Weight,
    health_clip::{channel_name, with_timecode},
};
use crate::{
    clip::{ClipId, DeviceId},
    time::{FrameRate, span_in_words, wrapped},
};
use std::collections::{BTreeMap, BTreeSet};

/// A clock further off than this is told, seconds.
const CLOCK_S: f64 = 45.0;
/// File timecode and clock that part by more than this between two clips, seconds.
const JUMP_S: f64 = 5.0;

pub(super) fn device_notes(clips: &[HealthClip], devices: &[HealthDevice]) -> Vec<HealthNote> {
    let taking: Vec<&HealthClip> = clips.iter().filter(|clip| clip.takes_part).collect();
    let mut notes = duplicates(clips);
    notes.extend(mixed_rates(&taking, devices));
    notes.extend(mixed_counting(&taking, devices));
    notes.extend(odd_sample_rates(&taking, devices));
    notes.extend(timecode_rates(&taking, devices));
    for device in devices {
        let own: Vec<&HealthClip> = taking.iter().filter(|clip| clip.device == device.id).copied().collect();
        notes.extend(standing_timecode(device, &own).or_else(|| jumping_timecode(device, &own)));
        notes.extend(clock_off(device, &own, &taking));
        notes.extend(audio_timecode(device, &own));
        notes.extend(timecode_beside_picture(device, &own));
    }
    notes
}

pub(super) fn ids(clips: &[&HealthClip]) -> Vec<ClipId> {
    clips.iter().map(|clip| clip.id).collect()
}

pub(super) fn called(devices: &[HealthDevice], id: DeviceId) -> &str {
    devices.iter().find(|device| device.id == id).map_or("a device", |device| &device.called)
}

/// `a`, `a and b`, `a, b and c`.
pub(super) fn listed(names: &[String]) -> String {
    match names {
        [] => String::new(),
        [one] => one.clone(),
        [most @ .., last] => format!("{} and {last}", most.join(", ")),
    }
}

fn duplicates(clips: &[HealthClip]) -> Vec<HealthNote> {
    let mut same: BTreeMap<&str, Vec<&HealthClip>> = BTreeMap::new();
    for clip in clips.iter().filter(|clip| !clip.fingerprint.is_empty()) {
        same.entry(clip.fingerprint).or_default().push(clip);
    }
    let mut notes = vec![];
    for (fingerprint, same) in same.into_iter().filter(|(_, same)| same.len() > 1) {
        let names: Vec<String> = same.iter().map(|clip| clip.name.to_owned()).collect();
        notes.push(HealthNote::new(
            HealthKind::Duplicate,
            Weight::Hurts,
            fingerprint,
            &ids(&same),
            [
                format!("{} are the same recording", listed(&names)),
                "It would stand in the groups twice, and one device cannot record two clips at once.".into(),
                "Set all but one to “no sync”.".into(),
            ],
        ));
    }
    notes
}

/// Clips by device, for the sentence that names devices and what they have.
fn by_device<'a, K: Ord>(
    clips: &[&'a HealthClip<'a>],
    key: impl Fn(&HealthClip) -> Option<K>,
) -> BTreeMap<K, BTreeMap<DeviceId, Vec<&'a HealthClip<'a>>>> {
    let mut sorted: BTreeMap<K, BTreeMap<DeviceId, Vec<&HealthClip>>> = BTreeMap::new();
    for clip in clips {
        if let Some(key) = key(clip) {
            sorted.entry(key).or_default().entry(clip.device).or_default().push(clip);
        }
    }
    sorted
}

fn mixed_rates(clips: &[&HealthClip], devices: &[HealthDevice]) -> Option<HealthNote> {
    let rate_of = |clip: &HealthClip| {
        let picture = clip.facts.picture.as_ref().filter(|picture| !picture.still)?;
        // A varying rate has a note of its own.
        picture.constant_rate.then(|| (picture.rate.num(), picture.rate.den()))
    };
    let rates = by_device(clips, rate_of);
    if rates.len() < 2 {
        return None;
    }
    let said: Vec<String> = rates
        .iter()
        .map(|((num, den), devices_at)| {
            let rate = FrameRate::new(*num, *den).map(|rate| rate.to_string()).unwrap_or_default();
            let names: Vec<String> = devices_at.keys().map(|id| called(devices, *id).to_owned()).collect();
            format!("{} at {rate}", listed(&names))
        })
        .collect();
    let clips: Vec<&HealthClip> = rates.values().flat_map(|of| of.values().flatten().copied()).collect();
    Some(HealthNote::new(
        HealthKind::MixedRates,
        Weight::Hurts,
        "day",
        &ids(&clips),
        [
            format!("the cameras run at different frame rates: {}", listed(&said)),
            "A group has one frame rate: the others' frames are dropped or shown twice.".into(),
            "Choose the group's rate before you cut, and tell the editor.".into(),
        ],
    ))
}

fn mixed_counting(clips: &[&HealthClip], devices: &[HealthDevice]) -> Option<HealthNote> {
    let counting = by_device(clips, |clip| {
        let label = clip.facts.timecode.filter(|label| label.rate.can_drop())?;
        clip.facts.picture.is_some().then_some(!label.drop)
    });
    let [dropping, other] = [false, true].map(|way| counting.get(&way));
    let names = |of: &BTreeMap<DeviceId, Vec<&HealthClip>>| {
        listed(&of.keys().map(|id| called(devices, *id).to_owned()).collect::<Vec<_>>())
    };
    let (dropping, other) = (dropping?, other?);
    let clips: Vec<&HealthClip> =
        [dropping, other].iter().flat_map(|of| of.values().flatten().copied()).collect();
    Some(HealthNote::new(
        HealthKind::MixedCounting,
        Weight::Hurts,
        "day",
        &ids(&clips),
        [
            format!(
                "{} drop-frame, {} non-drop-frame",
                counts(&names(dropping), dropping.len()),
                counts(&names(other), other.len())
            ),
            "The same moment has two labels, which part by 3.6 s an hour; lists show both.".into(),
            "Groups count as most of their pictures do: tell the editor which, and set the cameras alike."
                .into(),
        ],
    ))
}

fn counts(names: &str, devices: usize) -> String {
    format!("{names} {}", if devices == 1 { "counts" } else { "count" })
}

fn odd_sample_rates(clips: &[&HealthClip], devices: &[HealthDevice]) -> Vec<HealthNote> {
    let rates = by_device(clips, |clip| clip.facts.sound.as_ref().map(|sound| sound.rate.0));
    let count = |of: &BTreeMap<DeviceId, Vec<&HealthClip>>| of.values().map(Vec::len).sum::<usize>();
    let Some((&most, _)) = rates.iter().max_by_key(|(_, of)| count(of)) else { return vec![] };
    let khz = |rate: u32| format!("{} kHz", f64::from(rate) / 1000.0);
    let mut notes = vec![];
    for (&rate, of) in rates.iter().filter(|(rate, _)| **rate != most) {
        for (device, own) in of {
            notes.push(HealthNote::new(
                HealthKind::OddSampleRate,
                Weight::Hurts,
                &format!("{}/{rate}", device.0),
                &ids(own),
                [
                    format!(
                        "{} records at {}, the rest of the day at {}",
                        called(devices, *device),
                        khz(rate),
                        khz(most)
                    ),
                    "Where a program takes it for the other rate, it runs 8.8 % off in no time.".into(),
                    "Keep the label as it is; the sync and the turnover convert it.".into(),
                ],
            ));
        }
    }
    notes
}

fn timecode_rates(clips: &[&HealthClip], devices: &[HealthDevice]) -> Vec<HealthNote> {
    let cameras = by_device(clips, |clip| {
        let picture =
            clip.facts.picture.as_ref().filter(|picture| picture.constant_rate && !picture.still)?;
        Some((picture.rate.num(), picture.rate.den()))
    });
    let mut notes = vec![];
    let labelled =
        by_device(clips, |clip| clip.facts.speed.timecode_rate.map(|rate| (rate.num(), rate.den())));
    for ((num, den), of) in labelled {
        // Twice the rate counts the same seconds.
        let fits = |(n, d): &(i64, i64)| n * den == num * d || n * den == 2 * num * d;
        if cameras.is_empty() || cameras.keys().any(fits) {
            continue;
        }
        let rate = FrameRate::new(num, den).map(|rate| rate.to_string()).unwrap_or_default();
        for (device, own) in of {
            notes.push(HealthNote::new(
                HealthKind::TimecodeRate,
                Weight::Hurts,
                &format!("{}/{rate}", device.0),
                &ids(&own),
                [
                    format!(
                        "{} counts timecode at {rate} fps, and no camera runs at that rate",
                        called(devices, device)
                    ),
                    "Its labels and the cameras' part by a little more every minute.".into(),
                    "Sync by sound, and set the recorder's timecode rate before the next day.".into(),
                ],
            ));
        }
    }
    notes
}

/// A device whose files count timecode at another rate than their pictures run.
fn timecode_beside_picture(device: &HealthDevice, clips: &[&HealthClip]) -> Option<HealthNote> {
    let rates = |clip: &&HealthClip| {
        let picture =
            clip.facts.picture.as_ref().filter(|picture| picture.constant_rate && !picture.still)?;
        let label = clip.facts.timecode?.rate;
        let fits = |n: i64| label.num() * picture.rate.den() * n == picture.rate.num() * label.den();
        (!fits(1)).then_some((label, picture.rate, fits(2)))
    };
    let own: Vec<&HealthClip> = clips.iter().copied().filter(|clip| rates(clip).is_some()).collect();
    let (label, picture, half) = rates(own.first()?)?;
    let (weight, means, todo) = if half {
        (
            Weight::Know,
            "A label stands for two pictures: it says when a clip began to two frames, not to one.",
            "Nothing: its labels are counted at their own rate. Tell the editor.",
        )
    } else {
        (
            Weight::Hurts,
            "Labels and pictures part by a little more every minute: a label says when a clip began, and no more.",
            "Sync by sound, and set the camera's timecode to its picture's rate before the next day.",
        )
    };
    Some(HealthNote::new(
        HealthKind::TimecodeRate,
        weight,
        &format!("{}/picture", device.id.0),
        &ids(&own),
        [
            format!("{} counts timecode at {label} fps over pictures at {picture}", device.called),
            means.into(),
            todo.into(),
        ],
    ))
}

/// Said once for each channel and rate: a device carries it all day.
fn audio_timecode(device: &HealthDevice, clips: &[&HealthClip]) -> Vec<HealthNote> {
    let mut carried: BTreeMap<(String, String), Vec<(&HealthClip, f64)>> = BTreeMap::new();
    for clip in clips {
        if let Some((channel, found)) = with_timecode(clip) {
            let key = (channel_name(clip, channel), found.first.rate.to_string());
            carried.entry(key).or_default().push((clip, found.share * 100.0));
        }
    }
    let mut notes = vec![];
    for ((channel, rate), of) in carried {
        let least = of.iter().map(|(_, share)| *share).fold(100.0, f64::min);
        let where_ = match of.len() {
            1 => of[0].0.name.to_owned(),
            count if count == clips.len() => format!("all {count} clips"),
            count => format!("{count} clips"),
        };
        let own: Vec<&HealthClip> = of.iter().map(|(clip, _)| *clip).collect();
        let clock = clock_by_box(&own).map_or_else(String::new, |ppm| {
            format!(
                "; its clock runs {:.1} ppm {} against it",
                ppm.abs(),
                if ppm < 0.0 { "slow" } else { "fast" }
            )
        });
        notes.push(HealthNote::new(
            HealthKind::AudioTimecode,
            Weight::Know,
            &format!("{}/{channel}/{rate}", device.id.0),
            &ids(&own),
            [
                format!(
                    "{}: {channel} carries audio timecode at {rate} fps on {where_}, at least {least:.0} % of it readable{clock}",
                    device.called
                ),
                "It says when a clip was shot, to the frame; it is no sound to listen to.".into(),
                "Nothing: it is kept out of listening and out of the groups' sound.".into(),
            ],
        ));
    }
    notes
}

/// The middle of what a device's clips say of its clock against the box that made their timecode, parts per million.
fn clock_by_box(clips: &[&HealthClip]) -> Option<f64> {
    let found = clips.iter().filter_map(|clip| with_timecode(clip)?.1.against_box());
    let mut measured: Vec<f64> = found.map(|clock| clock.rate_ppm).collect();
    measured.sort_by(f64::total_cmp);
    measured.get(measured.len() / 2).copied()
}

fn standing_timecode(device: &HealthDevice, clips: &[&HealthClip]) -> Option<HealthNote> {
    // Copies of one file have one label.
    let mut contents = BTreeSet::new();
    let own =
        |clip: &&&HealthClip| clip.facts.timecode.is_some() && contents.insert(clip.fingerprint.to_owned());
    let labelled: Vec<&HealthClip> = clips.iter().filter(own).copied().collect();
    let first = labelled.first()?.facts.timecode?;
    if labelled.len() < 2 || !labelled.iter().all(|clip| clip.facts.timecode == Some(first)) {
        return None;
    }
    Some(HealthNote::new(
        HealthKind::TimecodeStands,
        Weight::Hurts,
        &device.id.0.to_string(),
        &ids(&labelled),
        [
            format!(
                "{}: the file timecode is {first} at the start of all {} clips",
                device.called,
                labelled.len()
            ),
            "It says nothing about when a clip was shot.".into(),
            "Sync this device by its sound or its audio timecode; its file timecode is left aside.".into(),
        ],
    ))
}

fn jumping_timecode(device: &HealthDevice, clips: &[&HealthClip]) -> Option<HealthNote> {
    let mut timed: Vec<(f64, f64, &HealthClip)> = clips
        .iter()
        .filter_map(|clip| {
            Some((clip.facts.created_clock_s()?, clip.facts.timecode?.since_midnight().seconds(), *clip))
        })
        .collect();
    timed.sort_by(|a, b| a.0.total_cmp(&b.0));
    let (before, after) = timed.windows(2).find_map(|pair| {
        let apart = (pair[1].1 - pair[0].1) - (pair[1].0 - pair[0].0);
        (apart.abs() > JUMP_S).then_some((&pair[0], &pair[1]))
    })?;
    let moved = |seconds: f64| span_in_words(seconds);
    Some(HealthNote::new(
        HealthKind::TimecodeJumps,
        Weight::Hurts,
        &device.id.0.to_string(),
        &[before.2.id, after.2.id],
        [
            format!(
                "{}: from {} to {} the file timecode moves on by {}, the camera's clock by {}",
                device.called, before.2.name, after.2.name, moved(after.1 - before.1), moved(after.0 - before.0)
            ),
            "The timecode was set anew, or counts only while recording: one offset does not hold for the day.".into(),
            "Sync this device by its sound; do not trust its timecode across these clips.".into(),
        ],
    ))
}

/// By a pass, where there is one; else only where a device shares no minute with any other.
fn clock_off(device: &HealthDevice, own: &[&HealthClip], all: &[&HealthClip]) -> Option<HealthNote> {
    // Within half a day: a later shoot day begins anew at midnight.
    let mut errors: Vec<f64> = own
        .iter()
        .filter_map(|clip| Some(wrapped(clip.facts.created_clock_s()? - clip.placed_clock_s?)))
        .collect();
    errors.sort_by(f64::total_cmp);
    let what = if let Some(error) = errors.get(errors.len() / 2) {
        if error.abs() < CLOCK_S {
            return None;
        }
        let way = if *error > 0.0 { "fast" } else { "slow" };
        format!("{}: its clock is {} {way}", device.called, span_in_words(error.abs()))
    } else {
        let range = |clips: &[&HealthClip], keep: &dyn Fn(&HealthClip) -> bool| {
            let times: Vec<(f64, f64)> = clips
                .iter()
                .filter(|clip| keep(clip))
                .filter_map(|clip| clip.facts.own_clock_s().map(|from| (from, from + clip.facts.duration_s)))
                .collect();
            let from = times.iter().map(|time| time.0).reduce(f64::min)?;
            Some((from, times.iter().map(|time| time.1).reduce(f64::max)?))
        };
        let mine = range(own, &|_| true)?;
        let others = range(all, &|clip| clip.device != device.id)?;
        // A device whose every clip lies outside the others' day.
        if mine.0 < others.1 + 1800.0 && others.0 < mine.1 + 1800.0 {
            return None;
        }
        format!(
            "{}: by its clock it ran from {} to {}, everything else from {} to {}",
            device.called,
            clock(mine.0),
            clock(mine.1),
            clock(others.0),
            clock(others.1)
        )
    };
    Some(HealthNote::new(
        HealthKind::ClockOff,
        Weight::Hurts,
        &device.id.0.to_string(),
        &ids(own),
        [
            what,
            "Its creation times cannot be used to find its clips, and they sort wrongly.".into(),
            "Nothing for the sync: it does not lean on the clock. Set the clock before the next day.".into(),
        ],
    ))
}

fn clock(seconds: f64) -> String {
    let whole = seconds.max(0.0) as i64;
    format!("{:02}:{:02}", whole / 3600 % 24, whole / 60 % 60)
}
