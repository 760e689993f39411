//! Rates, ticks and timecode labels by the book.

use metaxis_core::time::{FrameRate, TICKS_PER_SECOND, Tick, Timecode, TimecodeError};
use proptest::prelude::*;
use std::cmp::Ordering;

fn rate(num: i64, den: i64) -> FrameRate {
    FrameRate::new(num, den).expect("a rate")
}

const RATES: [(i64, i64, bool); 15] = [
    (24_000, 1001, false),
    (24, 1, false),
    (25, 1, false),
    (30_000, 1001, false),
    (30_000, 1001, true),
    (30, 1, false),
    (48_000, 1001, false),
    (50, 1, false),
    (60_000, 1001, false),
    (60_000, 1001, true),
    (60, 1, false),
    (100, 1, false),
    (120_000, 1001, false),
    (120_000, 1001, true),
    (120, 1, false),
];

proptest! {
    #[test]
    fn adding_and_taking_away_is_one(which in 0..RATES.len(), frames in 0_i64..10_000_000, by in -20_000_000_i64..20_000_000) {
        let (num, den, drop) = RATES[which];
        let label = Timecode::new(frames, rate(num, den), drop);
        prop_assert_eq!(label.plus(by).plus(-by), label);
        let near = by % 1_000_000;
        prop_assert_eq!(label.plus(near).since(label), near, "also over midnight");
    }

    #[test]
    fn another_rate_counts_the_same_moment(one in 0..RATES.len(), other in 0..RATES.len(), share in 0.0_f64..0.98) {
        let ((num, den, drop), (to_num, to_den, to_drop)) = (RATES[one], RATES[other]);
        let label = Timecode::new((share * 86_400.0 * num as f64 / den as f64) as i64, rate(num, den), drop);
        let there = label.at_rate(rate(to_num, to_den), to_drop);
        let late_s = label.since_midnight().seconds() - there.since_midnight().seconds();
        prop_assert!((0.0..to_den as f64 / to_num as f64).contains(&late_s), "{} is {}: {}", label, there, late_s);
        let order = label.compare(there);
        prop_assert_ne!(order, Ordering::Less, "a frame that runs has begun");
        prop_assert_eq!(order, there.compare(label).reverse());
        prop_assert_eq!(order == Ordering::Equal, late_s < 1e-9);
    }

    #[test]
    fn ticks_hold_frames_exactly(which in 0..RATES.len(), frame in -10_000_000_i64..10_000_000) {
        let (num, den, _) = RATES[which];
        let rate = rate(num, den);
        let start = Tick::of_frame(frame, rate);
        prop_assert_eq!(start.frame(rate), frame);
        prop_assert_eq!(Tick(start.0 - 1).frame(rate), frame - 1);
        // A standard frame is a whole number of ticks: nothing is rounded.
        prop_assert_eq!(i128::from(start.0) * i128::from(num), i128::from(frame) * i128::from(den) * i128::from(TICKS_PER_SECOND));
    }

    #[test]
    fn no_text_makes_a_panic(text in "\\PC{0,20}") {
        let _ = Timecode::parse(&text, rate(25, 1));
        let _ = text.parse::<FrameRate>();
    }
}

/// All 24 hours of labels of each rate, in strides that meet every second, minute and hour: read back they are the same
/// frame, and each label comes once and in order.
#[test]
fn the_labels_of_a_whole_day_are_read_back_at_every_rate() {
    for (num, den, drop) in RATES {
        let rate = rate(num, den);
        let zero = Timecode::new(0, rate, drop);
        let day = zero.plus(-1).frames + 1;
        let labelled = 24 * 3600 * rate.nominal();
        assert!(day <= labelled && (drop || day == labelled), "{num}/{den}: {day}");
        let mut last = String::new();
        // Prime to every count; and the frames about each minute, where labels are left out.
        let around = (0..24 * 60).flat_map(|minute| (-3..4).map(move |by| (minute, by)));
        let minute = 60 * num / den;
        let strided = (0..day).step_by(29);
        let mut frames: Vec<i64> =
            strided.chain(around.map(|(m, by)| (m * minute + by).rem_euclid(day))).collect();
        frames.sort_unstable();
        frames.dedup();
        for frames in frames {
            let text = Timecode::new(frames, rate, drop).to_string();
            let again = Timecode::parse(&text, rate).unwrap_or_else(|e| panic!("{num}/{den}: {e}"));
            assert_eq!((again.frames, again.drop), (frames, drop), "{text}");
            assert!(text.replace(';', ":") > last.replace(';', ":"), "{text} after {last}");
            last = text;
        }
    }
}

#[test]
fn drop_frame_skips_two_labels_a_minute_but_every_tenth() {
    let ntsc = rate(30_000, 1001);
    let next = |text: &str| Timecode::parse(text, ntsc).expect(text).plus(1).to_string();
    assert_eq!(next("00:00:59;29"), "00:01:00;02");
    assert_eq!(next("00:09:59;29"), "00:10:00;00");
    assert_eq!(next("23:59:59;29"), "00:00:00;00");
    assert_eq!(Timecode::parse("00:01:00;00", ntsc), Err(TimecodeError::Dropped("00:01:00;00".into())));
    // An hour of drop-frame labels is an hour of real time to a few milliseconds.
    let hour = Timecode::parse("01:00:00;00", ntsc).expect("a label").since_midnight().seconds();
    assert!((hour - 3600.0).abs() < 0.005, "{hour}");
}

#[test]
fn an_hour_of_labels_at_23_976_is_3603_6_seconds() {
    let label = Timecode::parse("01:00:00:00", rate(24_000, 1001)).expect("a label");
    assert_eq!(label.since_midnight(), Tick::of_frame(86_400, rate(24_000, 1001)));
    assert!((label.since_midnight().seconds() - 3603.6).abs() < 1e-9);
}

#[test]
fn wrong_labels_are_refused_with_a_reason() {
    let pal = rate(25, 1);
    for (text, part) in [
        ("09:14:02:25", "frames"),
        ("24:00:00:00", "hours"),
        ("00:60:00:00", "minutes"),
        ("00:00:60:00", "seconds"),
    ] {
        let error = Timecode::parse(text, pal).expect_err(text).to_string();
        assert!(error.contains(part), "{error}");
    }
    for text in ["", "09:14:02", "a:b:c:d", "09:14:02:-1", "1:2:3:4:5"] {
        assert!(matches!(Timecode::parse(text, pal), Err(TimecodeError::Form(_))), "{text}");
    }
    assert!(matches!(Timecode::parse("00:00:00;00", pal), Err(TimecodeError::NoDrop(_))));
}

#[test]
fn rates_are_read_and_snapped() {
    let read = |text: &str| text.parse::<FrameRate>().expect(text);
    assert_eq!(read("23.976"), rate(24_000, 1001));
    assert_eq!(read("30000/1001"), rate(30_000, 1001));
    assert_eq!(read("50/2"), rate(25, 1));
    assert_eq!(rate(2_997, 100).snapped(), rate(30_000, 1001));
    assert_eq!(rate(17, 1).snapped(), rate(17, 1));
    for text in ["0", "0/1", "25/0", "-25", "x", "1/0", "inf"] {
        assert!(text.parse::<FrameRate>().is_err(), "{text}");
    }
}
