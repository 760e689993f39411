//! What is said of a device's clocks and timecode, and when nothing is.

use metaxis_core::sync::{ClockNote, ClockTrust, DeviceClock, EvidenceKind, clock_notes};
use proptest::prelude::*;

const FRAME_S: f64 = 0.04;
const FILE: EvidenceKind = EvidenceKind::FileTimecode;
const AUDIO: EvidenceKind = EvidenceKind::AudioTimecode;
const CLOCK: EvidenceKind = EvidenceKind::DeviceClock;

/// A clock measured on eight clips that is so late, to a millisecond.
fn late(kind: EvidenceKind, late_s: f64) -> DeviceClock {
    DeviceClock {
        device: 3,
        kind,
        clips: 8,
        axis_s: 0.0,
        zero_s: 36_000.0,
        slope: 0.0,
        sigma_s: 0.001,
        late_s: Some(late_s),
        late_over_s: Some((late_s, late_s)),
        span_s: (-3600.0, 3600.0),
        unit_s: if kind == CLOCK { 1.0 } else { FRAME_S },
        within_half: 1.0,
        trust: ClockTrust::Measured(8),
        set_anew: false,
    }
}

fn said(clock: DeviceClock) -> Option<ClockNote> {
    let mut notes = clock_notes(&[clock], &[]);
    assert!(notes.len() <= 1, "{notes:?}");
    notes.pop()
}

fn text(clock: DeviceClock) -> String {
    said(clock).map_or_else(String::new, |note| note.text)
}

#[test]
fn what_means_nothing_is_set_aside_with_its_reason() {
    let with = |trust, kind| text(DeviceClock { trust, late_s: None, ..late(kind, 0.0) });
    assert!(
        with(ClockTrust::Standing, FILE)
            .starts_with("Its file timecode is the same at the start of all 8 clips")
    );
    assert!(with(ClockTrust::WholeHour, FILE).contains("is a whole hour"));
    assert!(with(ClockTrust::Wandering, AUDIO).starts_with("Its audio timecode keeps no one distance"));
    // Clocks are coarse: how they stand is no news, and what is not known is not said.
    for silent in [ClockTrust::Standing, ClockTrust::Wandering, ClockTrust::Unknown, ClockTrust::Assumed] {
        assert_eq!(with(silent, CLOCK), "", "{silent:?}");
    }
    assert_eq!(with(ClockTrust::Unknown, FILE) + &with(ClockTrust::Assumed, FILE), "");
}

#[test]
fn timecode_set_anew_is_told_with_the_part_of_the_day_it_holds_for() {
    let anew = |late_s: f64| said(DeviceClock { set_anew: true, ..late(FILE, late_s) });
    let far = anew(4_321.0).expect("a note");
    assert!(far.text.contains("09:00:00 to 11:00:00 are 1 h 12 min 1 s ahead of"), "{}", far.text);
    assert_eq!(far.take_off, None, "what is taken off holds for the whole day");
    assert!(anew(-3.0 * FRAME_S).expect("a note").text.contains("3 frames behind"));
    assert_eq!(anew(0.0), None, "level");
}

#[test]
fn timecode_off_by_whole_frames_is_said_with_its_remedy() {
    let ahead = said(late(FILE, 10.4 * FRAME_S)).expect("a note");
    assert_eq!(
        ahead.text,
        "Its file timecode is 11 frames ahead of the reference's all day: sound was used. Take 11 frames off."
    );
    assert_eq!((ahead.device, ahead.clip, ahead.take_off, ahead.metres), (3, None, Some(11), None));
    let behind = said(late(AUDIO, -FRAME_S)).expect("a note");
    assert!(behind.text.ends_with("is 1 frame behind the reference's all day: sound was used. Add 1 frame."));
    assert_eq!(behind.take_off, Some(-1));
    // A label names a frame, so up to one frame late is as it should be; audio timecode is known to a part of one.
    assert_eq!(said(late(FILE, -0.5 * FRAME_S)), None);
    assert_eq!(said(late(AUDIO, 0.5 * FRAME_S)), None);
    // What may be nothing is not said.
    assert_eq!(said(DeviceClock { sigma_s: 0.2, ..late(AUDIO, 11.0 * FRAME_S) }), None);
}

#[test]
fn timecode_that_drifts_is_said_from_its_first_clip_to_its_last() {
    let drifting = |from: f64, to: f64| {
        let ends = (from * FRAME_S, to * FRAME_S);
        text(DeviceClock { late_over_s: Some(ends), ..late(AUDIO, 0.5 * (ends.0 + ends.1)) })
    };
    assert!(drifting(2.0, 4.0).contains("drifts from 2 to 4 frames ahead of the reference's over the day"));
    assert!(drifting(-4.0, -2.0).contains("drifts from 4 to 2 frames behind the reference's"));
    assert!(drifting(4.0, -1.0).contains("drifts from 4 frames ahead of to 1 frame behind the reference's"));
    assert!(drifting(0.0, 5.0).contains("drifts from level with to 5 frames ahead of the reference's"));
    assert!(
        drifting(2.0, 2.6).contains("is 2 frames ahead of the reference's all day"),
        "{}",
        drifting(2.0, 2.6)
    );
}

#[test]
fn clocks_off_by_whole_hours_are_taken_for_a_zone() {
    assert_eq!(text(late(CLOCK, 40.0)), "", "nobody sets a camera to the second");
    assert!(text(late(CLOCK, 3600.0)).starts_with("Its clock is 1 h fast. That looks like a time zone"));
    assert!(text(late(CLOCK, -7201.0)).starts_with("Its clock is 2 h slow. That looks like a time zone"));
    let both = text(late(CLOCK, 3641.0));
    assert!(both.starts_with("Its clock is 1 h 41 s fast. 1 h of it looks like a time zone"), "{both}");
    assert!(both.contains("the other 41 s like the clock itself"), "{both}");
    let plain = text(late(CLOCK, -700.0));
    assert!(plain.starts_with("Its clock is 11 min 40 s slow. It was only used"), "{plain}");
    assert_eq!(said(late(CLOCK, 3600.0)).and_then(|note| note.take_off), None);
}

proptest! {
    /// Whatever the numbers, a note of timecode names the frames that its button takes off, and a sentence ends.
    #[test]
    fn the_remedy_is_what_the_sentence_says(
        file in any::<bool>(),
        frames in -2000.0..2000.0_f64,
        drift in -6.0..6.0_f64,
        sigma_s in 0.0001..0.05_f64,
    ) {
        let kind = if file { FILE } else { AUDIO };
        let (from, to) = (frames - drift / 2.0, frames + drift / 2.0);
        let clock = DeviceClock { sigma_s, late_over_s: Some((from * FRAME_S, to * FRAME_S)), ..late(kind, frames * FRAME_S) };
        let Some(note) = said(clock) else {
            prop_assert!(frames.abs() < 1.05 || frames.abs() * FRAME_S < 3.0 * sigma_s, "{frames} frames go unsaid");
            return Ok(());
        };
        let off = note.take_off.expect("frames to take off");
        prop_assert!((off as f64 - frames).abs() <= 1.0, "{off} for {frames}");
        let count = if off.abs() == 1 { "1 frame".to_owned() } else { format!("{} frames", off.abs()) };
        let remedy = if off > 0 { format!("Take {count} off.") } else { format!("Add {count}.") };
        prop_assert!(note.text.ends_with(&remedy), "{}", note.text);
        prop_assert!(!note.text.contains("  ") && note.text.starts_with("Its "), "{}", note.text);
    }
}
