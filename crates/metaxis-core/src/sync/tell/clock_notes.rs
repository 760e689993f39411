//! What is said once for a device of its labels: what was set aside and why, and how far the rest is off.

use crate::{
    sync::{
        answer::EvidenceKind,
        input::SOUND_M_PER_S,
        labels::{ClockTrust, DeviceClock, ShownDistance},
    },
    time::span_in_words,
};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A sentence about one kind of label of one device.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct ClockNote {
    /// Device, as the caller names it.
    #[ts(type = "number")]
    pub device: usize,
    /// The clip, where this is said of it alone, as the caller names it.
    #[serde(default)]
    #[ts(type = "number | null")]
    pub clip: Option<usize>,
    /// Kind of label.
    pub kind: EvidenceKind,
    /// What was found and what to do, without the device's name.
    pub text: String,
    /// Frames to take off its labels so that they agree with the reference's; negative ones are to be added.
    #[serde(alias = "frames_off")]
    #[ts(type = "number | null")]
    pub take_off: Option<i64>,
    /// Frames that are then taken off them in all, with those that were off already; filled in by who knows of these.
    #[serde(default)]
    #[ts(type = "number | null")]
    pub frames_in_all: Option<i64>,
    /// Distance of its microphone that its slates show, metres.
    pub metres: Option<f64>,
}

/// A clock off by less is not worth a word, seconds.
const CLOCK_S: f64 = 45.0;
/// A clock within this of whole hours is set to another zone, seconds.
const ZONE_S: f64 = 300.0;
/// So near whole hours it is nothing but the zone, seconds.
const WHOLE_S: f64 = 2.5;
const HOUR_S: f64 = 3600.0;
/// What timecode is off by is told in frames below this, seconds.
const IN_FRAMES_S: f64 = 10.0;

/// Seconds of the day as a clock shows them.
fn time_of_day(seconds: f64) -> String {
    let whole = seconds.rem_euclid(86_400.0) as u32;
    format!("{:02}:{:02}:{:02}", whole / 3600, whole / 60 % 60, whole % 60)
}

/// What is to be said of the devices' labels, and of distances that their slates show.
pub fn clock_notes(clocks: &[DeviceClock], distances: &[ShownDistance]) -> Vec<ClockNote> {
    clocks.iter().filter_map(note).chain(distances.iter().map(distance_note)).collect()
}

fn distance_note(shown: &ShownDistance) -> ClockNote {
    let of = match (shown.marked, shown.slates) {
        (true, 1) => "One slate shows".to_owned(),
        (true, count) => format!("{count} slates show"),
        (false, 1) => "One clap seems".to_owned(),
        (false, count) => format!("{count} claps seem"),
    };
    let ms = shown.metres / SOUND_M_PER_S * 1e3;
    let seen = match (shown.marked, shown.metres > 0.0) {
        (true, true) => format!(
            "{of} its picture {ms:.0} ms before its own microphone hears it: {:.0} m of air.",
            shown.metres
        ),
        (true, false) => format!("{of} its picture as its own microphone hears it."),
        (false, true) => format!(
            "{of} to strike in its picture {ms:.0} ms before its own microphone hears it: about {:.0} m of air.",
            shown.metres
        ),
        (false, false) => format!("{of} to strike in its picture as its own microphone hears it."),
    };
    let given =
        if shown.given_m > 0.0 { format!(" {:.1} m is given.", shown.given_m) } else { String::new() };
    let look = if shown.marked { "Give" } else { "Look at one at the Bench, then give" };
    let distance = if shown.metres > 0.0 { "that" } else { "no" };
    let whom = if shown.clip.is_some() { "this clip" } else { "it" };
    ClockNote {
        device: shown.device,
        clip: shown.clip,
        kind: EvidenceKind::Slate,
        text: format!("{seen}{given} {look} {whom} {distance} distance to lay its picture right."),
        take_off: None,
        frames_in_all: None,
        metres: Some(shown.metres),
    }
}

/// A label names the frame in which a clip began, so labels lie up to a frame early: what is left after whole frames
/// is that.
fn whole_frames(clock: &DeviceClock, late_s: f64) -> i64 {
    const LOCKED: f64 = 0.05;
    // Half a frame is what clocks part by in a day, not a fault.
    const LEAST: f64 = 0.75;
    let frames = late_s / clock.unit_s;
    if clock.kind == EvidenceKind::FileTimecode {
        (frames - LOCKED).ceil() as i64
    } else {
        if frames.abs() < LEAST { 0 } else { frames.round() as i64 }
    }
}

fn many(frames: i64) -> String {
    if frames.abs() == 1 { "1 frame".into() } else { format!("{} frames", frames.abs()) }
}

/// How a timecode lies to the reference's that is so many frames late in the middle of the day.
fn how_late(clock: &DeviceClock, frames: i64) -> String {
    // Less than this is where labels happen to change.
    const DRIFTS: f64 = 0.75;
    let way = |frames: i64| if frames > 0 { "ahead of" } else { "behind" };
    let ends = clock.late_over_s.filter(|(from, to)| (from - to).abs() > DRIFTS * clock.unit_s);
    let ends = ends.map(|(from, to)| (whole_frames(clock, from), whole_frames(clock, to)));
    let Some((from, to)) = ends.filter(|(from, to)| from != to) else {
        return format!("is {} {} the reference's all day: sound was used", many(frames), way(frames));
    };
    if from.signum() == to.signum() {
        let (from, to, way) = (from.abs(), to.abs(), way(frames));
        return format!(
            "drifts from {from} to {to} frames {way} the reference's over the day: sound was used"
        );
    }
    let place = |frames: i64| match frames {
        0 => "level with".to_owned(),
        _ => format!("{} {}", many(frames), way(frames)),
    };
    let (from, to) = (place(from), place(to));
    format!("drifts from {from} to {to} the reference's over the day: sound was used")
}

fn note(clock: &DeviceClock) -> Option<ClockNote> {
    let kind = clock.kind.called();
    let timecode = clock.kind != EvidenceKind::DeviceClock;
    let say = |text: String, take_off| {
        let (device, kind) = (clock.device, clock.kind);
        Some(ClockNote { device, clip: None, kind, text, take_off, frames_in_all: None, metres: None })
    };
    match clock.trust {
        ClockTrust::Standing if timecode => say(
            format!(
                "Its {kind} is the same at the start of all {} clips: it says nothing of when they were shot and was set aside.",
                clock.clips
            ),
            None,
        ),
        ClockTrust::WholeHour => say(
            format!(
                "Its only {kind} is a whole hour, where counters are set and not when clips are shot: it was set aside."
            ),
            None,
        ),
        ClockTrust::Wandering if timecode => say(
            format!(
                "Its {kind} keeps no one distance from its sound: it counts only while recording, was set anew, or its microphone was moved. It was set aside."
            ),
            None,
        ),
        ClockTrust::Measured(_) => {
            let late_s = clock.late_s?;
            if timecode {
                let frames = whole_frames(clock, late_s);
                if frames == 0 || late_s.abs() < 3.0 * clock.sigma_s {
                    return None;
                }
                if clock.set_anew {
                    let (from, to) = (clock.zero_s + clock.span_s.0, clock.zero_s + clock.span_s.1);
                    let way = if frames > 0 { "ahead of" } else { "behind" };
                    let by =
                        if late_s.abs() < IN_FRAMES_S { many(frames) } else { span_in_words(late_s.abs()) };
                    return say(
                        format!(
                            "Its {kind} was set anew during the day: clips that say {} to {} are {by} {way} the reference's. Sound was used, and silent clips go by the heard clip with the nearest timecode.",
                            time_of_day(from),
                            time_of_day(to)
                        ),
                        None,
                    );
                }
                let how = how_late(clock, frames);
                let remedy = if frames > 0 { "Take" } else { "Add" };
                let end = if frames > 0 { " off" } else { "" };
                return say(format!("Its {kind} {how}. {remedy} {}{end}.", many(frames)), Some(frames));
            }
            if late_s.abs() < CLOCK_S {
                return None;
            }
            let way = if late_s > 0.0 { "fast" } else { "slow" };
            let hours = (late_s / HOUR_S).round();
            let rest = late_s - hours * HOUR_S;
            // Creation times are written in whole seconds.
            let whole = hours != 0.0 && rest.abs() < WHOLE_S;
            let late_s = if whole { hours * HOUR_S } else { late_s };
            let zone = if whole {
                " That looks like a time zone or summer time.".into()
            } else if hours != 0.0 && rest.abs() < ZONE_S {
                format!(
                    " {} h of it looks like a time zone or summer time, the other {} like the clock itself.",
                    hours.abs(),
                    span_in_words(rest.abs())
                )
            } else {
                String::new()
            };
            say(
                format!(
                    "Its clock is {} {way}.{zone} It was only used for the order of its clips.",
                    span_in_words(late_s.abs())
                ),
                None,
            )
        }
        _ => None,
    }
}
