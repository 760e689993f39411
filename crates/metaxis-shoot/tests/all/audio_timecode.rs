//! The decoder in the core against the simulator's timecode box, which shares no code with it.

use metaxis_core::{
    ltc::{LtcFrame, LtcReader},
    signal::{BlockStats, ChannelMeter, ChannelState, PEAK_BIN},
};
use metaxis_shoot::{SignalPlan, TimecodeBox};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;

const RATE: u32 = 48_000;

/// Seconds since midnight at which the tests' timecode begins: not on a frame.
const BEGIN_S: f64 = 35_999.013;

/// A box's signal, `speed` times as fast as it should be (negative: backwards).
fn signal(fps: u32, seconds: f64, rate: u32, speed: f64, level: f32) -> Vec<f32> {
    let count = (seconds * f64::from(rate)) as usize;
    let at = |i: usize| BEGIN_S + speed * i as f64 / f64::from(rate);
    let mut source = TimecodeBox::new((i64::from(fps), 1), false);
    (0..count).map(|i| level * source.level(at(i))).collect()
}

fn frames(samples: &[f32], rate: u32) -> Vec<LtcFrame> {
    let mut found = vec![];
    LtcReader::new(rate).push(samples, &mut found);
    found
}

/// Asserts that every frame is labelled and placed as the box made it; returns the largest error in samples.
fn check(found: &[LtcFrame], fps: u32, rate: u32, speed: f64) -> f64 {
    let mut worst = 0.0_f64;
    for frame in found {
        let [h, m, s, f] = frame.label.map(f64::from);
        let label_s = (h * 60.0 + m) * 60.0 + s + f / f64::from(fps);
        let expected = (label_s - BEGIN_S) / speed * f64::from(rate);
        worst = worst.max((frame.start - expected).abs());
        assert_eq!(frame.backwards, speed < 0.0);
    }
    worst
}

#[test]
fn every_rate_speed_and_direction_is_read_to_the_sample() {
    for fps in [24, 25, 30] {
        for speed in [0.5, 0.97, 1.0, 2.0, -1.0, -0.6] {
            let samples = signal(fps, 3.0, RATE, speed, 0.25);
            let found = frames(&samples, RATE);
            let due = (3.0 * f64::from(fps) * f64::abs(speed)) as usize;
            assert!(found.len() + 3 >= due, "{fps} fps at {speed}: {} of {due}", found.len());
            let worst = check(&found, fps, RATE, speed);
            assert!(worst < 0.5, "{fps} fps at {speed}: {worst} samples off");
        }
    }
}

#[test]
fn weak_inverted_clipped_and_noisy_timecode_is_read() {
    let mut chance = ChaCha8Rng::seed_from_u64(5);
    let mut noisy = |level: f32, noise: f32| -> Vec<f32> {
        signal(25, 4.0, RATE, 1.0, level)
            .into_iter()
            .map(|x| (x + noise * chance.random_range(-1.0..1.0)).clamp(-1.0, 1.0))
            .collect()
    };
    let cases = [
        ("at -40 dBFS", noisy(0.01, 0.0)),
        ("at -40 dBFS with noise", noisy(0.01, 0.001)),
        ("inverted", noisy(-0.3, 0.01)),
        ("clipped", noisy(3.0, 0.0)),
        (
            "on top of hum",
            noisy(0.3, 0.0)
                .iter()
                .enumerate()
                .map(|(i, x)| x + 0.15 * (i as f32 * std::f32::consts::TAU * 50.0 / 48_000.0).sin())
                .collect(),
        ),
    ];
    for (name, samples) in cases {
        let found = frames(&samples, RATE);
        assert!(found.len() >= 96, "{name}: {} frames", found.len());
        let worst = check(&found, 25, RATE, 1.0);
        assert!(worst < 1.0, "{name}: {worst} samples off");
    }
}

fn state_of(samples: &[f32], rate: u32) -> ChannelState {
    let mut meter = ChannelMeter::new(rate);
    for block in samples.chunks(PEAK_BIN) {
        meter.push(block, &BlockStats::of(block));
    }
    meter.state()
}

#[test]
fn a_channel_says_which_timecode_it_carries() {
    for (fps, rate) in [(24, 48_000), (25, 44_100), (25, 96_000), (30, 48_000)] {
        let samples = signal(fps, 10.0, rate, 1.0 + 41e-6, 0.2);
        let found = state_of(&samples, rate).audio_timecode.expect("timecode");
        assert_eq!(found.first.rate.nominal(), i64::from(fps), "{found:?}");
        assert_eq!(found.first.rate.den(), 1, "{found:?}");
        assert!(found.share > 0.97 && found.jumps == 0 && found.standing == 0, "{found:?}");
        let ppm = (found.measured_fps / f64::from(fps) - 1.0) * 1e6;
        assert!((ppm - 41.0).abs() < 3.0, "{ppm} ppm");
        let expected = (found.first.since_midnight().seconds() - BEGIN_S) / (1.0 + 41e-6);
        assert!((found.first_s - expected).abs() < 1.0 / f64::from(rate), "{found:?}");
    }
}

#[test]
fn timecode_that_starts_late_jumps_and_stands_is_told() {
    let quiet = vec![0.0_f32; 48_000 * 3];
    let running = signal(25, 5.0, RATE, 1.0, 0.3);
    let late = state_of(&[quiet, running.clone()].concat(), RATE).audio_timecode.expect("timecode");
    assert!((0.58..0.64).contains(&late.share) && late.first_s >= 3.0, "{late:?}");
    let jumping =
        state_of(&[running.clone(), running.clone()].concat(), RATE).audio_timecode.expect("timecode");
    assert!(jumping.jumps >= 1 && jumping.standing == 0, "{jumping:?}");
    // The first whole frame begins 27 ms in.
    let frame: Vec<f32> = running[1296..1296 + 1920].to_vec();
    let standing = state_of(&frame.repeat(50), RATE).audio_timecode.expect("timecode");
    assert!(standing.standing > 40, "{standing:?}");
    // Sound is none, nor is a buzz.
    let buzz: Vec<f32> = (0..240_000).map(|i| if (i / 20) % 2 == 0 { 0.4 } else { -0.4 }).collect();
    assert_eq!(state_of(&buzz, RATE).audio_timecode, None);
}

/// Frames a second, drop-frame, and what a channel is to say of it.
const RATES: [((i64, i64), bool, &str); 6] = [
    ((24_000, 1001), false, "23.976"),
    ((24, 1), false, "24"),
    ((25, 1), false, "25"),
    ((30_000, 1001), false, "29.970"),
    ((30_000, 1001), true, "29.970"),
    ((30, 1), false, "30"),
];

/// The clock of a recorder that is `ppm` fast, over ten minutes' and midnight's change of labels.
#[test]
fn every_rate_is_named_with_its_drop_frame_its_date_and_the_recorders_clock() {
    for (rate, drop, called) in RATES {
        for ppm in [-48.0, 0.0, 35.0] {
            let plan = SignalPlan { rate, drop, date: true, ..SignalPlan::default() };
            let mut source = TimecodeBox::planned(&plan, "2026-05-14");
            let begin_s = 86_400.0 - 7.5;
            let own = |i: usize| i as f64 / f64::from(RATE) / (1.0 + ppm * 1e-6);
            let samples: Vec<f32> =
                (0..15 * RATE as usize).map(|i| 0.2 * source.level(begin_s + own(i))).collect();
            let found = state_of(&samples, RATE).audio_timecode.expect("timecode");
            assert_eq!(
                (found.first.rate.to_string().as_str(), found.first.drop),
                (called, drop),
                "{found:?}"
            );
            assert_eq!(
                (found.jumps, found.standing, found.date),
                (0, 0, Some([26, 5, 14])),
                "{rate:?}: {found:?}"
            );
            assert!(found.steady > 0.99, "over midnight: {found:?}");
            let clock = found.against_box().expect("long enough");
            assert!(
                (clock.rate_ppm - ppm).abs() < 3.0 * clock.sigma_ppm.max(0.1),
                "{rate:?}: {clock:?}, {ppm}"
            );
        }
    }
}

#[test]
fn gaps_and_jumps_leave_the_longest_count() {
    let mut source = TimecodeBox::new((25, 1), false);
    let mut later = TimecodeBox::planned(&SignalPlan { late_frames: 777, ..SignalPlan::default() }, "");
    // Twelve seconds of one count with a gap of three in them, then four seconds of another, from a whole frame on.
    let samples: Vec<f32> = (0..16 * RATE as usize)
        .map(|i| {
            let at_s = i as f64 / f64::from(RATE);
            let level =
                if at_s < 12.027 { source.level(BEGIN_S + at_s) } else { later.level(BEGIN_S + at_s) };
            if (4.0..7.0).contains(&at_s) { 0.0 } else { 0.3 * level }
        })
        .collect();
    let found = state_of(&samples, RATE).audio_timecode.expect("timecode");
    assert_eq!((found.jumps, found.standing), (1, 0), "a gap is no jump: {found:?}");
    assert!((0.66..0.72).contains(&found.steady) && (0.76..0.82).contains(&found.share), "{found:?}");
    let zero_s = found.first.since_midnight().seconds() - found.first_s;
    assert!((zero_s - BEGIN_S).abs() < 1.0 / f64::from(RATE), "{zero_s}");
    // Played at another speed or backwards it tells no clock.
    for speed in [0.5, 0.97, 2.0, -1.0] {
        let found = state_of(&signal(25, 4.0, RATE, speed, 0.3), RATE).audio_timecode.expect("timecode");
        assert_eq!(found.against_box(), None, "{found:?}");
        assert!((found.speed() - speed).abs() < 1e-3, "{speed}: {found:?}");
    }
}
