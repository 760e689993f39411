//! Clips that ran while what they hang on did not: other clips that ran then show whether they go on as they lie.

use crate::hearing::{Clip, clip, heard, place, says, scene};
use metaxis_core::sync::{DayResult, Verdict};

const RATE: usize = 16_000;

/// A camera's sound of which `lost_s` seconds are missing from its own time `at_s` on.
fn with_loss(scene: &[f32], device: usize, from_s: f64, seconds: f64, (at_s, lost_s): (f64, f64)) -> Clip {
    let mut samples = heard(scene, from_s, seconds + lost_s, 0.0, 0.5, 0.001, 40 + device as u64);
    let at = (at_s * RATE as f64) as usize;
    samples.drain(at..at + (lost_s * RATE as f64) as usize);
    clip(device, samples)
}

/// Where a moment of a clip lies on the axis.
fn lies(result: &DayResult, clip: usize, at_s: f64) -> f64 {
    let stretches = &result.placements[clip].stretches;
    stretches.iter().find(|stretch| at_s < stretch.clip_end_s).expect("a stretch").axis_s(at_s)
}

fn check(result: &DayResult, clip: usize, at_s: f64, truth_s: f64) {
    let found = lies(result, clip, at_s);
    assert!((found - truth_s).abs() < 1e-3, "clip {clip} at {at_s} lies at {found}, not at {truth_s}");
}

#[test]
fn a_camera_that_ran_through_two_takes_lies_right_in_both() {
    let scene = scene(200.0, 81);
    let take = |from_s: f64, seconds: f64, seed| {
        let samples = heard(&scene, from_s, seconds, 0.0, 1.0, 0.001, seed);
        Clip { reference_s: Some(36_000.0 + from_s), ..clip(0, samples) }
    };
    // 0.4 s are lost in the shorter take, or in the longer one.
    for at_s in [40.0, 150.0] {
        let camera = with_loss(&scene, 1, 5.0, 185.0, (at_s, 0.4));
        let result = place(&[take(0.0, 70.0, 1), take(100.0, 100.0, 2), camera]);
        let zero_s = lies(&result, 0, 0.0);
        assert_eq!(result.placements[2].verdict, Verdict::Solid, "{:?}", result.placements[2].reasons);
        check(&result, 2, 20.0, zero_s + 25.0);
        check(&result, 2, 120.0, zero_s + 125.0 + if at_s < 120.0 { 0.4 } else { 0.0 });
        check(&result, 2, 180.0, zero_s + 185.4);
        says(&result, 2, "0.400 s of sound were lost");
    }
}

#[test]
fn what_two_cameras_show_of_each_other_alone_is_left_open_where_they_disagree() {
    let scene = scene(150.0, 82);
    let recorder = || clip(0, heard(&scene, 60.0, 90.0, 0.0, 1.0, 0.001, 3));
    let whole = || clip(2, heard(&scene, 2.0, 140.0, 0.0, 0.7, 0.001, 4));
    let alike = place(&[recorder(), with_loss(&scene, 1, 0.0, 145.0, (30.0, 0.0)), whole()]);
    let apart = place(&[recorder(), with_loss(&scene, 1, 0.0, 145.0, (30.0, 0.3)), whole()]);
    for clip in [1, 2] {
        assert_eq!(alike.placements[clip].verdict, Verdict::Solid, "{:?}", alike.placements[clip].reasons);
        assert_eq!(apart.placements[clip].verdict, Verdict::Check, "{:?}", apart.placements[clip].reasons);
        says(&apart, clip, "one of the two lost or repeated sound");
    }
    // What ran with the recorder lies right all the same.
    check(&apart, 1, 100.0, 40.3);
    check(&apart, 2, 100.0, 42.0);
}
