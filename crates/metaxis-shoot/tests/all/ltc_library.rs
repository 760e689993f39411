//! The decoder against timecode made by the C library libltc, which shares nothing with us, at all its rates.

use metaxis_core::{
    ltc::{LtcFrame, LtcReader, LtcSummary},
    time::FrameRate,
};
use std::{path::PathBuf, process::Command, sync::OnceLock};

const RATE: u32 = 48_000;

/// The little program that makes it, built once.
fn ltc_box() -> &'static PathBuf {
    static MADE: OnceLock<PathBuf> = OnceLock::new();
    MADE.get_or_init(|| {
        let program =
            PathBuf::from(env!("CARGO_TARGET_TMPDIR")).join(format!("ltc_box_{}", std::process::id()));
        let source = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/all/ltc_box.c");
        let built = Command::new("cc").args(["-O1", "-o"]).arg(&program).args([source, "-lltc"]).status();
        assert!(
            built.expect("a C compiler").success(),
            "libltc-dev is missing: run `make test`, which installs it"
        );
        program
    })
}

struct Signal {
    fps: f64,
    standard: &'static str,
    drop: bool,
    label: [u8; 4],
    level_dbfs: f64,
    date: bool,
}

impl Signal {
    fn samples(&self, seconds: f64) -> Vec<f32> {
        let [h, m, s, f] = self.label.map(|part| part.to_string());
        let output = Command::new(ltc_box())
            .args([
                RATE.to_string(),
                self.fps.to_string(),
                self.standard.into(),
                u8::from(self.drop).to_string(),
            ])
            .args([
                seconds.to_string(),
                h,
                m,
                s,
                f,
                self.level_dbfs.to_string(),
                u8::from(self.date).to_string(),
            ])
            .output()
            .expect("the program runs");
        assert!(output.status.success());
        output.stdout.chunks_exact(4).map(|b| f32::from_le_bytes([b[0], b[1], b[2], b[3]])).collect()
    }
}

fn frames(samples: &[f32]) -> Vec<LtcFrame> {
    let mut found = vec![];
    LtcReader::new(RATE).push(samples, &mut found);
    found
}

const KINDS: [(f64, &str, bool, (i64, i64)); 6] = [
    (24.0, "3", false, (24, 1)),
    (24_000.0 / 1001.0, "3", false, (24_000, 1001)),
    (25.0, "1", false, (25, 1)),
    (30_000.0 / 1001.0, "0", false, (30_000, 1001)),
    (30_000.0 / 1001.0, "0", true, (30_000, 1001)),
    (30.0, "2", false, (30, 1)),
];

#[test]
fn every_rate_is_read_to_the_frame_and_to_the_sample_and_its_rate_measured() {
    for (fps, standard, drop, (num, den)) in KINDS {
        for level_dbfs in [-3.0, -18.0] {
            let signal = Signal { fps, standard, drop, label: [9, 58, 59, 20], level_dbfs, date: false };
            let samples = signal.samples(4.0);
            let found = frames(&samples);
            let due = (4.0 * fps) as usize;
            assert!(found.len() + 3 >= due, "{fps}: {} of {due}", found.len());
            let rate = FrameRate::new(num, den).expect("a rate");
            let first = found[0].timecode(rate).expect("a label");
            let begin =
                LtcFrame { label: [9, 58, 59, 20], drop, ..found[0] }.timecode(rate).expect("a label");
            for (i, frame) in found.iter().enumerate() {
                let label = frame.timecode(rate).expect("a label");
                assert_eq!(label, first.plus(i as i64), "{fps}: one after the other, over the minute");
                assert_eq!(label.drop, drop);
                let due = (label.frames - begin.frames) as f64 * f64::from(RATE) / rate.as_f64();
                assert!((frame.start - due).abs() < 1.0, "{fps}: {} should be {due}", frame.start);
            }
            let mut summary = LtcSummary::default();
            found.iter().for_each(|frame| summary.add(frame));
            let summed = summary.finish(samples.len() as u64, RATE).expect("timecode");
            assert_eq!((summed.first.rate, summed.first.drop), (rate, drop), "{fps}: {summed:?}");
            assert!((summed.measured_fps / fps - 1.0).abs() < 50e-6, "{fps}: {}", summed.measured_fps);
            assert_eq!((summed.jumps, summed.standing), (0, 0));
        }
    }
}

#[test]
fn starting_mid_frame_inverted_and_with_the_date_in_its_user_bits() {
    let signal = Signal {
        fps: 25.0,
        standard: "1",
        drop: false,
        label: [23, 59, 58, 0],
        level_dbfs: -18.0,
        date: true,
    };
    let whole = signal.samples(4.0);
    let part: Vec<f32> = whole[1_234..].iter().map(|value| -0.01 * value).collect();
    let (all, some) = (frames(&whole), frames(&part));
    assert!(some.len() + 1 >= all.len());
    let same = all.iter().find(|frame| frame.label == some[0].label).expect("the same frame");
    assert!((same.start - 1_234.0 - some[0].start).abs() < 0.6, "{} {}", same.start, some[0].start);
    let labels: Vec<[u8; 4]> = all.iter().map(|frame| frame.label).collect();
    assert!(
        labels.contains(&[23, 59, 59, 24]) && labels.contains(&[0, 0, 0, 0]),
        "over midnight: {labels:?}"
    );
    assert_eq!(all[3].date(), Some((26, 5, 14)), "{:08x}", all[3].user_bits);
}
