//! Timecode that devices share: against weak sound, with one clip that slipped, for devices nobody heard, and to a track.

use crate::hearing::{Clip, clip, day, heard, place, says, scene, start};
use metaxis_core::sync::{
    ClockTrust, DayPlan, DayResult, Effort, EvidenceKind, Label, Mode, SlateMark, Verdict, place_day,
};
use std::ops::ControlFlow;

const FRAME: f64 = 0.04;
/// Time of day at which the recorder starts.
const DAY_S: f64 = 33_240.0;

fn signal(s: f64) -> Label {
    Label { kind: EvidenceKind::AudioTimecode, time_s: DAY_S + s, sigma_s: 1e-4, unit_s: FRAME }
}

/// A file timecode: whole frames.
fn framed(s: f64) -> Label {
    let time_s = ((DAY_S + s) / FRAME + 1e-6).floor() * FRAME;
    Label { kind: EvidenceKind::FileTimecode, time_s, sigma_s: 0.289 * FRAME, unit_s: FRAME }
}

fn recorder(scene: &[f32], seconds: f64) -> Clip {
    let time_reference = Label { sigma_s: 5e-5, ..framed(0.0) };
    Clip { labels: vec![time_reference], ..clip(0, heard(scene, 0.0, seconds, 0.0, 1.0, 0.001, 1)) }
}

fn camera(scene: &[f32], device: usize, start_s: f64, seconds: f64, label: Label) -> Clip {
    let seed = 10 * device as u64 + start_s as u64;
    Clip { labels: vec![label], ..clip(device, heard(scene, start_s, seconds, 12.0, 1.0, 0.001, seed)) }
}

fn silent(device: usize, seconds: f64, label: Label) -> Clip {
    Clip { labels: vec![label], silent: true, ..clip(device, vec![0.0; (seconds * 16_000.0) as usize]) }
}

#[test]
fn exact_timecode_outweighs_a_few_windows_of_sound() {
    let sound = scene(160.0, 91);
    // Four seconds of it are heard again from a loudspeaker, minutes later, in a scene the recorder hears nothing of.
    let mut samples = heard(&scene(16.0, 92), 0.0, 16.0, 12.0, 1.0, 0.001, 3);
    for (value, again) in samples[64_000..128_000].iter_mut().zip(&sound[320_000..384_000]) {
        *value = 0.7 * again;
    }
    let astray = Clip { labels: vec![signal(120.0)], ..clip(1, samples) };
    let clips = [
        recorder(&sound, 158.0),
        camera(&sound, 1, 40.0, 20.0, signal(40.0)),
        camera(&sound, 1, 70.0, 20.0, signal(70.0)),
        astray,
    ];
    let result = place(&clips);
    let placement = &result.placements[3];
    assert_eq!(placement.verdict, Verdict::Check, "{:?}", placement.reasons);
    assert!((start(&result, 3) - 120.0).abs() < 2e-3, "{}", start(&result, 3));
    says(&result, 3, "audio timecode was used");
    let other = placement.alternatives.first().expect("where its sound puts it").start_s;
    assert!((other - 16.0).abs() < 0.1, "{other}");
}

#[test]
fn one_clip_that_slipped_is_named_and_its_device_goes_on_counting() {
    let sound = scene(120.0, 93);
    let clips = [
        recorder(&sound, 118.0),
        camera(&sound, 1, 5.0, 20.0, framed(5.0)),
        camera(&sound, 1, 40.0, 20.0, framed(40.0 + 11.0 * FRAME)),
        silent(1, 10.0, framed(80.0)),
    ];
    let result = place(&clips);
    let clock = result.clocks.iter().find(|clock| clock.device == 1).expect("a clock");
    assert_eq!(clock.trust, ClockTrust::Measured(1));
    assert!((start(&result, 2) - 40.0).abs() < 1e-3, "sound was used");
    says(&result, 2, "11.0 frames ahead of its sound");
    assert!((start(&result, 3) - 80.0).abs() < FRAME, "{}", start(&result, 3));
    // One of two slipped: what their timecode alone places may have, too.
    let confidence = result.placements[3].confidence;
    assert!((0.25..0.5).contains(&confidence), "{confidence}");
}

#[test]
fn the_more_devices_are_jammed_alike_the_surer_is_one_that_nobody_heard() {
    let sound = scene(160.0, 94);
    let confidence = |devices: usize| {
        let mut clips = vec![recorder(&sound, 158.0)];
        for device in 1..=devices {
            for s in [5.0, 60.0] {
                let s = s + 3.0 * device as f64;
                clips.push(camera(&sound, device, s, 20.0, signal(s)));
            }
        }
        clips.push(silent(9, 10.0, signal(110.0)));
        let result = place(&clips);
        let last = clips.len() - 1;
        assert!((start(&result, last) - 110.0).abs() < 2e-3);
        assert_eq!(result.placements[last].verdict, Verdict::Check);
        says(&result, last, &format!("{} other devices are jammed alike", devices + 1));
        result.placements[last].confidence
    };
    let [one, three, four] = [1, 3, 4].map(confidence);
    assert!(one < three && three <= four && four > 0.9, "{one} {three} {four}");
}

#[test]
fn a_weak_sound_keeps_no_clip_from_its_timecode() {
    let sound = scene(160.0, 95);
    // Noise with a breath of another place in it.
    let mut samples = heard(&scene(20.0, 96), 0.0, 20.0, 0.0, 0.02, 0.5, 4);
    for (value, again) in samples.iter_mut().zip(&sound[160_000..]) {
        *value += 0.1 * again;
    }
    let clips = [
        recorder(&sound, 158.0),
        camera(&sound, 1, 40.0, 20.0, signal(40.0)),
        camera(&sound, 1, 70.0, 20.0, signal(70.0)),
        Clip { labels: vec![signal(110.0)], ..clip(1, samples) },
    ];
    let result = place(&clips);
    assert!((start(&result, 3) - 110.0).abs() < 2e-3, "{:?}", result.placements[3]);
    assert_ne!(result.placements[3].verdict, Verdict::Unplaced);
}

fn to_track(clips: &[Clip]) -> DayResult {
    let plan = DayPlan { reference: 0, origin: Some(0), effort: Effort::Normal, mode: Mode::Playback };
    place_day(&day(clips), plan, &|_| ControlFlow::Continue(())).expect("a result")
}

#[test]
fn a_take_without_sound_lies_beside_one_that_ran_with_it() {
    let track = scene(120.0, 97);
    // Two takes at different times of day; camera 2 has no sound in the first.
    let take = |device: usize, start_s: f64, seconds: f64, at_s: f64| {
        camera(&track, device, start_s, seconds, signal(at_s))
    };
    let clips = [
        clip(0, track.clone()),
        take(1, 10.0, 60.0, 1_000.0),
        silent(2, 30.0, signal(1_012.5)),
        take(1, 40.0, 50.0, 2_000.0),
        take(2, 45.0, 40.0, 2_005.0),
        take(1, 5.0, 50.0, 3_000.0),
        take(2, 9.0, 40.0, 3_004.0),
    ];
    let result = to_track(&clips);
    assert!((start(&result, 2) - 22.5).abs() < 2e-3, "{}", start(&result, 2));
    let placement = &result.placements[2];
    assert_eq!((placement.verdict, placement.component), (Verdict::Solid, 0), "{:?}", placement.reasons);
    says(&result, 2, "by their audio timecode, which 2 other takes confirm");
    assert_eq!(
        (placement.evidence[0].kind, placement.evidence[0].against),
        (EvidenceKind::AudioTimecode, Some(1))
    );
    // Its timecode may be off all day: what both heard shows by how much.
    let mut off = clips;
    for clip in [2, 4, 6] {
        off[clip].labels[0].time_s += 11.0 * FRAME;
    }
    let moved = to_track(&off);
    assert!((start(&moved, 2) - 22.5).abs() < 2e-3, "{}", start(&moved, 2));
    assert_eq!(moved.placements[2].verdict, Verdict::Solid, "{:?}", moved.placements[2].reasons);
    // With nothing to confirm it, a person should look.
    let clips = off;
    let alone = to_track(&clips[..3]);
    assert_eq!(alone.placements[2].verdict, Verdict::Check);
    // What ran with nothing stays unplaced.
    let far = [clip(0, track.clone()), take(1, 10.0, 60.0, 1_000.0), silent(2, 30.0, signal(5_000.0))];
    assert_eq!(to_track(&far).placements[2].verdict, Verdict::Unplaced);
}

#[test]
fn a_take_without_sound_lies_where_its_slate_does() {
    let track = scene(80.0, 98);
    let mark = |picture_s, sound_s| SlateMark { picture_s, sound_s, take: "1".into() };
    let mut clips = [
        clip(0, track.clone()),
        camera(&track, 1, 10.0, 50.0, signal(1_000.0)),
        silent(2, 30.0, framed(0.0)),
    ];
    clips[1].marks = vec![mark(None, Some(6.0))];
    clips[2].marks = vec![mark(Some(2.0), None)];
    clips[2].labels.clear();
    let result = to_track(&clips);
    assert!((start(&result, 2) - 14.0).abs() < 2e-3, "{}", start(&result, 2));
    assert_eq!(result.placements[2].verdict, Verdict::Solid, "{:?}", result.placements[2].reasons);
}
