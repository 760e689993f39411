//! Notes that one clip gives alone.

use super::{HealthClip, HealthKind, HealthNote, Weight};
use crate::signal::{Carries, lost_sound};

/// Samples in runs at full scale from which on sound counts as clipped.
const CLIPPED: u32 = 30;
/// Peak below which a channel carries hardly anything, dBFS.
const QUIET_DBFS: f32 = -60.0;
/// Missing sound that no rounding of a header explains, seconds.
const SHORT_S: f64 = 0.1;
/// Ends of sound and picture further apart than this are told, seconds.
const ENDS_S: f64 = 0.5;

pub(super) fn clip_notes(clip: &HealthClip) -> Vec<HealthNote> {
    let mut notes = vec![];
    let rules = [
        shorter,
        sound_lost,
        varying_rate,
        rate_outside,
        wrong_speed,
        left_out,
        uneven_ends,
        jumping_audio_timecode,
    ];
    notes.extend(rules.iter().filter_map(|rule| rule(clip)));
    notes.extend(channels(clip));
    notes
}

fn note(
    clip: &HealthClip,
    kind: HealthKind,
    weight: Weight,
    what: String,
    means: &str,
    todo: &str,
) -> HealthNote {
    HealthNote::new(kind, weight, &clip.id.0.to_string(), &[clip.id], [what, means.into(), todo.into()])
}

fn shorter(clip: &HealthClip) -> Option<HealthNote> {
    let sound = clip.facts.sound.as_ref().zip(clip.heard).map(|(sound, (_, samples))| {
        let heard_s = samples as f64 / f64::from(sound.rate.0);
        let label_s = sound.labelled_s.unwrap_or(sound.duration_s);
        (label_s - heard_s, heard_s, label_s, "sound")
    });
    let picture = clip.facts.picture.as_ref().zip(clip.timing).and_then(|(picture, timing)| {
        let labelled = picture.frames? as f64 / picture.rate.as_f64();
        let seen_s = timing.frames as f64 / picture.rate.as_f64();
        (picture.constant_rate).then_some((labelled - seen_s, seen_s, labelled, "picture"))
    });
    let least = |what: &str| if what == "sound" { SHORT_S } else { 2.5 / 25.0 };
    let (missing, has_s, label_s, what) =
        [sound, picture].into_iter().flatten().find(|(missing, _, _, what)| *missing > least(what))?;
    Some(note(
        clip,
        HealthKind::ShorterThanLabel,
        Weight::Fault,
        format!(
            "{}: its {what} ends after {has_s:.1} s, but the file says {label_s:.1} s ({missing:.1} s missing)",
            clip.name
        ),
        "The copy broke off or the card was pulled: the end of the take is not there.",
        "Copy the file from the card again while you still have it.",
    ))
}

fn sound_lost(clip: &HealthClip) -> Option<HealthNote> {
    let sound = clip.facts.sound.as_ref()?;
    let what = lost_sound(clip.lost, f64::from(sound.rate.0))?;
    Some(note(
        clip,
        HealthKind::SoundLost,
        Weight::Fault,
        format!("{}: {what}", clip.name),
        "The file is damaged on the way or on its card: silence is in its place, and what follows stays in step.",
        "Copy the file from the card again; the cameras' own sound covers the place if the card has nothing better.",
    ))
}

/// A rate at which nothing can be cut.
fn rate_outside(clip: &HealthClip) -> Option<HealthNote> {
    let picture =
        clip.facts.picture.as_ref().filter(|picture| !picture.still && !picture.rate.can_be_cut())?;
    Some(note(
        clip,
        HealthKind::RateOutside,
        Weight::Know,
        format!("{}: {} frames a second", clip.name, picture.rate),
        "A time-lapse or a rate written wrongly: it lies in its group, which counts at the rate of the others.",
        "Nothing, if it is meant; else convert it to the rate of the day.",
    ))
}

fn varying_rate(clip: &HealthClip) -> Option<HealthNote> {
    let picture = clip.facts.picture.as_ref().filter(|picture| !picture.still)?;
    let (what, varies) = match clip.timing {
        Some(timing) if timing.frames > 2 => {
            let (short, long) = (timing.shortest_s, timing.longest_s);
            (
                format!("frames last from {:.1} to {:.1} ms", short * 1000.0, long * 1000.0),
                timing.varies(picture.rate),
            )
        }
        _ => (format!("{} frames a second on average", picture.rate), !picture.constant_rate),
    };
    varies.then(|| {
        note(
            clip,
            HealthKind::VaryingRate,
            Weight::Hurts,
            format!("{}: the frame rate varies ({what})", clip.name),
            "Cutting programs count its frames as if they were even: picture and sound part company along the clip.",
            "Sync and cut it here by its true frame times; turn it over as rendered dailies at a constant rate.",
        )
    })
}

/// Ratios at which sound is played too fast or slow, and what they are called.
const SPEEDS: [(f64, &str); 4] = [
    (48_000.0 / 44_100.0, "48 kHz played as 44.1 kHz"),
    (44_100.0 / 48_000.0, "44.1 kHz played as 48 kHz"),
    (1.001, "pulled down by 0.1 %"),
    (1.0 / 1.001, "pulled up by 0.1 %"),
];

/// The name of a ratio of speeds that is known to happen; `slack` is how far it may be off.
fn named_ratio(ratio: f64, slack: f64) -> Option<&'static str> {
    SPEEDS.iter().find(|(known, _)| (ratio / known - 1.0).abs() < slack).map(|(_, name)| *name)
}

fn wrong_speed(clip: &HealthClip) -> Option<HealthNote> {
    let sound = clip.facts.sound.as_ref()?;
    let by_picture = clip.facts.picture.as_ref().filter(|picture| !picture.still).and_then(|picture| {
        let length = picture.duration_s;
        // A frame either way is how files end; what is left must be more than that.
        let ratio = sound.duration_s / length;
        let clear = (ratio - 1.0).abs() * length > 0.1;
        let name = named_ratio(ratio, 0.04 / length).filter(|_| clear && length > 8.0)?;
        Some(format!("its sound lasts {:.2} s, its picture {length:.2} s: {name}", sound.duration_s))
    });
    let label = f64::from(sound.rate.0);
    let by_recorder = [clip.facts.speed.digitizer_sample_rate, clip.facts.speed.file_sample_rate]
        .into_iter()
        .flatten()
        .find_map(|rate| {
            let name = named_ratio(f64::from(rate) / label, 1e-4)?;
            Some(format!("its iXML says {rate} samples a second, its header {}: {name}", sound.rate.0))
        });
    let found = by_picture.or(by_recorder)?;
    Some(note(
        clip,
        HealthKind::WrongSpeed,
        Weight::Hurts,
        format!("{}: {found}", clip.name),
        "The sound runs at another speed than its label and drifts away from everything else.",
        "Sync it: the pass measures the true speed and corrects it on the way out.",
    ))
}

fn left_out(clip: &HealthClip) -> Option<HealthNote> {
    let sound = clip.facts.sound.as_ref().filter(|sound| sound.left_out > 0)?;
    let streams = if sound.left_out == 1 {
        "one sound stream is".into()
    } else {
        format!("{} sound streams are", sound.left_out)
    };
    Some(note(
        clip,
        HealthKind::StreamLeftOut,
        Weight::Hurts,
        format!("{}: {streams} at another rate than {} Hz and left out", clip.name, sound.rate.0),
        "Only streams of one rate can be joined into one set of channels.",
        "Convert the stream to a file of its own beside the clip if you need it.",
    ))
}

fn uneven_ends(clip: &HealthClip) -> Option<HealthNote> {
    let picture = clip.facts.picture.as_ref().filter(|picture| !picture.still)?;
    let sound = clip.facts.sound.as_ref()?;
    let apart = (picture.start_s + picture.duration_s) - (sound.start_s + sound.duration_s);
    if apart.abs() < ENDS_S || wrong_speed(clip).is_some() {
        return None;
    }
    let (first, then) = if apart > 0.0 { ("sound", "picture") } else { ("picture", "sound") };
    Some(note(
        clip,
        HealthKind::UnevenEnds,
        Weight::Know,
        format!("{}: its {first} ends {:.1} s before its {then}", clip.name, apart.abs()),
        "The end of the take has only one of the two.",
        "Look at the end of the clip before you rely on it.",
    ))
}

pub(super) fn channel_name(clip: &HealthClip, index: usize) -> String {
    let names = clip.facts.sound.as_ref().map(|sound| sound.channel_names.as_slice()).unwrap_or_default();
    names
        .get(index)
        .map_or_else(|| format!("channel {}", index + 1), |name| format!("channel {} ({name})", index + 1))
}

pub(super) fn with_timecode<'a>(clip: &HealthClip<'a>) -> Option<(usize, &'a crate::ltc::LtcFound)> {
    let (states, _) = clip.heard?;
    states.iter().enumerate().find_map(|(i, state)| Some((i, state.audio_timecode.as_ref()?)))
}

fn jumping_audio_timecode(clip: &HealthClip) -> Option<HealthNote> {
    let (channel, found) = with_timecode(clip)?;
    let stands = found.standing * 2 > found.frames;
    let said = if stands {
        "stands still".to_owned()
    } else if found.jumps > 0 {
        format!("jumps {} time{}", found.jumps, if found.jumps == 1 { "" } else { "s" })
    } else {
        return None;
    };
    Some(note(
        clip,
        HealthKind::TimecodeJumps,
        Weight::Hurts,
        format!("{}: the audio timecode on {} {said}", clip.name, channel_name(clip, channel)),
        "One label no longer says where the whole clip belongs.",
        "Let the sound decide, and check the clip at its start and at its end.",
    ))
}

fn channels(clip: &HealthClip) -> Vec<HealthNote> {
    let Some((states, _)) = clip.heard else { return vec![] };
    let sounding = states.iter().filter(|state| !state.is_dead() && state.audio_timecode.is_none()).count();
    if sounding == 0 {
        return vec![note(
            clip,
            HealthKind::SilentClip,
            Weight::Hurts,
            format!("{}: no channel carries any sound", clip.name),
            "It cannot be placed by its sound.",
            "Place it by timecode or slate, or set it to “silent”.",
        )];
    }
    let mut notes = vec![];
    for (i, state) in states.iter().enumerate() {
        let mut tell = |kind, weight, what: String, means, todo| {
            let about = format!("{}/{}", clip.id.0, i + 1);
            let text = [
                format!("{}: {} {what}", clip.name, channel_name(clip, i)),
                String::from(means),
                String::from(todo),
            ];
            notes.push(HealthNote::new(kind, weight, &about, &[clip.id], text));
        };
        if state.is_dead() {
            tell(
                HealthKind::DeadChannel,
                Weight::Know,
                "is digital silence".into(),
                "Nothing was plugged in, or the input was off.",
                "Leave it out of the group's sound.",
            );
        } else if state.audio_timecode.is_none() && state.peak_dbfs < QUIET_DBFS {
            tell(
                HealthKind::QuietChannel,
                Weight::Know,
                format!("never rises above {:.0} dBFS", state.peak_dbfs),
                "A microphone that was not open, or a gain left at zero.",
                "Listen to it once before the recorder's cards are wiped.",
            );
        } else if let Some(steady) = steady(state.carries) {
            tell(
                HealthKind::SteadyChannel,
                Weight::Know,
                format!("carries nothing but {steady}"),
                "It says nothing of the scene: the sync does without it.",
                "Leave it out of the group's sound.",
            );
        } else if state.no_numbers > 0 {
            tell(
                HealthKind::NoNumbers,
                Weight::Hurts,
                format!("holds {} samples that are no numbers", state.no_numbers),
                "A program that wrote the file failed there: they are taken for silence.",
                "Copy the file from the card again, or ask whoever converted it.",
            );
        } else if state.audio_timecode.is_none() && state.clipped >= CLIPPED {
            tell(
                HealthKind::Clipped,
                Weight::Hurts,
                format!("is clipped ({} samples at full scale)", state.clipped),
                "What was cut off cannot be brought back; the sync itself bears it.",
                "Use another channel for these passages.",
            );
        }
    }
    notes
}

/// What a channel carries that neither rises nor falls.
fn steady(carries: Carries) -> Option<&'static str> {
    match carries {
        Carries::Hum => Some("hum"),
        Carries::Tone => Some("a steady tone"),
        Carries::Noise => Some("steady noise"),
        Carries::Sound | Carries::Nothing | Carries::Timecode => None,
    }
}
