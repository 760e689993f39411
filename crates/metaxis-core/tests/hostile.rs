//! Readers of our own against text and bytes that mean them ill. `make fuzz` runs a million cases of each.

use metaxis_core::{
    intake::{LogColumn, guess_device, numbered_name, read_log, take_of_name},
    ltc::LtcReader,
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
    fn any_samples_are_survived_by_the_timecode_reader(levels in prop::collection::vec(-2.0_f32..2.0, 0..400), rate in 1..200_000_u32) {
        let mut found = vec![];
        let mut reader = LtcReader::new(rate);
        reader.push(&levels, &mut found);
        reader.skip(levels.len());
        reader.push(&[f32::NAN, f32::INFINITY, 0.0, -1.0], &mut found);
        prop_assert!(found.len() * 80 <= levels.len() + 4);
    }
}
