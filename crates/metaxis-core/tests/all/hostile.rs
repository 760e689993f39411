//! Readers of our own against text and bytes that mean them ill. `make fuzz` runs a million cases of each.

use metaxis_core::{
    intake::{LogColumn, guess_device, numbered_name, read_log, take_of_name},
    ltc::{LtcFrame, LtcReader, LtcSummary},
    picture::{GreyFrames, find_strikes},
    time::{FrameRate, Timecode},
};
use proptest::prelude::*;

proptest! {
    #[test]
    fn no_bytes_break_the_log_reader(bytes in prop::collection::vec(any::<u8>(), 0..600), separator in prop::option::of(any::<char>())) {
        let _ = read_log(&bytes, None, separator);
        let _ = read_log(&bytes, Some(&[LogColumn::Scene, LogColumn::Take, LogColumn::Sound]), separator);
    }

    #[test]
    fn near_csv_breaks_nothing_and_keeps_every_take(fields in prop::collection::vec("[a-z0-9 ]{1,6}", 2..40)) {
        let mut text = String::from("scene,take\n");
        for pair in fields.chunks_exact(2) {
            text += &format!("\"{}\",{}\n", pair[0], pair[1]);
        }
        let rows = read_log(text.as_bytes(), None, None).expect("a log").log.rows;
        let kept = fields.chunks_exact(2).filter(|pair| pair.iter().any(|field| !field.trim().is_empty()));
        prop_assert_eq!(rows.len(), kept.count());
    }

    #[test]
    fn any_path_has_a_device(path in "[A-Za-z0-9_/. -]{0,40}", taken in "[A-Za-z0-9_. -]{0,10}") {
        prop_assert!(!guess_device(&path, &taken).key.is_empty());
        let _ = (numbered_name(&path), take_of_name(&path));
    }

    #[test]
    fn any_text_is_a_label_or_a_reason(text in "[0-9:;. +-]{0,14}", num in 1..130_000_i64, pulled in any::<bool>()) {
        let rate = FrameRate::new(num, if pulled { 1001 } else { 1 }).expect("a rate");
        match Timecode::parse(&text, rate) {
            Ok(label) => prop_assert_eq!(Timecode::parse(&label.to_string(), rate), Ok(label)),
            Err(reason) => prop_assert!(!reason.to_string().is_empty()),
        }
    }

    #[test]
    fn any_pictures_are_survived_by_the_finder_of_strikes(
        (width, height) in (0..50_usize, 0..50_usize),
        mut times_s in prop::collection::vec(-1e3_f64..1e3, 0..12),
        pixels in prop::collection::vec(any::<u8>(), 0..8_000),
    ) {
        times_s.sort_by(f64::total_cmp);
        let (first, last) = (times_s.first().copied(), times_s.last().copied());
        for strike in find_strikes(&GreyFrames { width, height, times_s, pixels }) {
            prop_assert!((0.0..=1.0).contains(&strike.score) && strike.sigma_s >= 0.0);
            prop_assert!(Some(strike.at_s) >= first && Some(strike.at_s) <= last);
        }
    }

    /// Frames of one count with others strewn in, a part of them missing: the count is found, and where it began.
    #[test]
    fn the_count_that_most_frames_have_is_found_among_others(
        from in 0..80_000_i64,
        strays in prop::collection::btree_map(0..200_usize, 1..80_000_i64, 0..60),
        missing in prop::collection::btree_set(0..200_usize, 0..40),
    ) {
        const LENGTH: f64 = 1920.0;
        let label = |count: i64| {
            let (count, pair) = (count.rem_euclid(86_400 * 25), |value: i64| value as u8);
            [pair(count / 90_000), pair(count / 1_500 % 60), pair(count / 25 % 60), pair(count % 25)]
        };
        // That a second has 25 labels has to be seen.
        let whole = |i: usize| !missing.contains(&i) && !strays.contains_key(&i) && (from + i as i64) % 25 == 24;
        prop_assume!((0..60).any(whole));
        let mut summary = LtcSummary::default();
        let (mut kept, mut all) = (0, 0);
        for i in (0..200).filter(|i| !missing.contains(i)) {
            let stray = strays.get(&i).copied();
            let count = from + i as i64 + stray.unwrap_or(0);
            (kept, all) = (kept + usize::from(stray.is_none()), all + 1);
            summary.add(&LtcFrame {
                label: label(count),
                drop: false,
                user_bits: 0,
                start: 100.0 + i as f64 * LENGTH,
                length: LENGTH,
                backwards: false,
            });
        }
        let found = summary.finish(200 * 1920, 48_000).expect("timecode");
        // Strays may by chance go on with it.
        prop_assert!(found.steady >= kept as f64 / all as f64 - 1e-9, "{:?}", found);
        let begun = (found.first_s * 48_000.0 - 100.0) / LENGTH;
        let label = found.first.frames - begun.round() as i64;
        prop_assert_eq!(label.rem_euclid(86_400 * 25), from);
        prop_assert!((found.measured_fps - 25.0).abs() < 1e-6);
    }

    #[test]
    fn any_samples_are_survived_by_the_timecode_reader(levels in prop::collection::vec(-2.0_f32..2.0, 0..400), rate in 1..200_000_u32) {
        let mut found = vec![];
        let mut reader = LtcReader::new(rate);
        reader.push(&levels, &mut found);
        reader.skip(levels.len());
        reader.push(&[f32::NAN, f32::INFINITY, 0.0, -1.0], &mut found);
        prop_assert!(found.len() * 80 <= levels.len() + 4);
    }
}
