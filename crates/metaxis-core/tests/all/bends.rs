//! Clocks that bend, music that repeats itself, and what a long clip's windows cover.

use crate::hearing::{clip, day, heard, place, scene};
use metaxis_core::{
    signal::LISTEN_RATE,
    sync::{DayPlan, Effort, Mode, Placement, Verdict, joined, place_day, runs},
};
use std::ops::ControlFlow;

const RATE: f64 = LISTEN_RATE as f64;

/// `scene` heard by a clock that runs `by_ppm` fast at first and warms up with a time constant.
fn heard_warming(scene: &[f32], start_s: f64, seconds: f64, by_ppm: f64, constant_s: f64) -> Vec<f32> {
    let ahead = |at: f64| by_ppm * 1e-6 * constant_s * (1.0 - (-at / constant_s).exp());
    (0..(seconds * RATE) as usize)
        .map(|i| {
            let own_s = i as f64 / RATE;
            let at = (start_s + own_s - ahead(own_s)) * RATE;
            let (base, blend) = (at.floor() as usize, at.fract() as f32);
            let value = |j: usize| scene.get(j).copied().unwrap_or(0.0);
            value(base) * (1.0 - blend) + value(base + 1) * blend
        })
        .collect()
}

/// The farthest that a placement is from the truth, anywhere along the clip.
fn farthest_s(placement: &Placement, seconds: f64, truth: impl Fn(f64) -> f64) -> f64 {
    let error = |i: i32| {
        let at = seconds * (f64::from(i) + 0.5) / 200.0;
        (placement.axis_s(at).expect("a place") - truth(at)).abs()
    };
    (0..200).map(error).fold(0.0, f64::max)
}

#[test]
fn a_clock_that_warms_up_is_a_curve_without_a_break() {
    let scene = scene(420.0, 31);
    let (by_ppm, constant_s) = (60.0, 120.0);
    let clips = [
        clip(0, heard(&scene, 0.0, 420.0, 0.0, 1.0, 0.001, 1)),
        clip(1, heard_warming(&scene, 5.0, 400.0, by_ppm, constant_s)),
    ];
    // As much as 60 ppm is no crystal: nothing pretends that it is one, and nothing is solid and far off.
    let wild = &place(&clips).placements[1];
    assert!(wild.stretches.windows(2).all(|pair| !joined(&pair[0], &pair[1])), "{:?}", wild.stretches);
    let (by_ppm, constant_s) = (20.0, 200.0);
    let clips = [
        clip(0, heard(&scene, 0.0, 420.0, 0.0, 1.0, 0.001, 1)),
        clip(1, heard_warming(&scene, 5.0, 400.0, by_ppm, constant_s)),
    ];
    let placement = &place(&clips).placements[1];
    assert_eq!(placement.verdict, Verdict::Solid, "{:?}", placement.reasons);
    assert!(placement.stretches.len() > 1, "it bends: {:?}", placement.stretches);
    assert_eq!(runs(&placement.stretches).count(), 1, "and has no break: {:?}", placement.stretches);
    let ahead = |at: f64| by_ppm * 1e-6 * constant_s * (1.0 - (-at / constant_s).exp());
    let error_s = farthest_s(placement, 400.0, |at| 5.0 + at - ahead(at));
    assert!(error_s < 0.3e-3, "{} ms off", error_s * 1e3);
    assert!(placement.reasons.iter().any(|reason| reason.contains("bends")), "{:?}", placement.reasons);
    assert!(placement.covered.expect("a share") > 0.9);
}

#[test]
fn a_steady_clock_stays_a_straight_line() {
    let scene = scene(420.0, 32);
    let clips = [
        clip(0, heard(&scene, 0.0, 420.0, 0.0, 1.0, 0.001, 1)),
        clip(1, heard(&scene, 5.0, 400.0, 33.0, 0.3, 0.01, 2)),
    ];
    let placement = &place(&clips).placements[1];
    assert_eq!(placement.stretches.len(), 1, "{:?}", placement.stretches);
}

/// Talk, then a loop of two seconds, to the sample, for two minutes and a half.
fn talk_and_loop() -> Vec<f32> {
    let mut sound = scene(100.0, 33);
    let bar: Vec<f32> = scene(2.0, 34);
    (0..75).for_each(|_| sound.extend(&bar));
    sound.extend(scene(20.0, 35));
    sound
}

#[test]
fn music_that_repeats_itself_is_no_reason_to_jump() {
    let sound = talk_and_loop();
    let clips = [
        clip(0, heard(&sound, 0.0, 270.0, 0.0, 1.0, 0.002, 1)),
        clip(1, heard(&sound, 3.0, 262.0, 20.0, 0.2, 0.01, 2)),
    ];
    let placement = &place(&clips).placements[1];
    assert_eq!(placement.verdict, Verdict::Solid, "{:?}", placement.reasons);
    assert_eq!(runs(&placement.stretches).count(), 1, "{:?}", placement.stretches);
    let error_s = farthest_s(placement, 262.0, |at| 3.0 + at / (1.0 + 20e-6));
    assert!(error_s < 0.3e-3, "{} ms off", error_s * 1e3);
}

#[test]
fn a_true_loss_within_a_loop_is_found_at_its_own_size() {
    let sound = talk_and_loop();
    let mut samples = heard(&sound, 3.0, 150.0, 0.0, 0.2, 0.01, 2);
    samples.extend(heard(&sound, 153.35, 110.0, 0.0, 0.2, 0.01, 3));
    let clips = [clip(0, heard(&sound, 0.0, 270.0, 0.0, 1.0, 0.002, 1)), clip(1, samples)];
    let placement = &place(&clips).placements[1];
    let all: Vec<_> = runs(&placement.stretches).collect();
    let [before, after] = all[..] else { panic!("two runs: {:?}", placement.stretches) };
    let lost_s = after[0].start_s - before[0].axis_s(after[0].clip_start_s);
    assert!((lost_s - 0.35).abs() < 0.5e-3, "{lost_s}");
    assert!((after[0].clip_start_s - 150.0).abs() < 1.0, "{}", after[0].clip_start_s);
}

#[test]
fn a_take_to_a_looped_track_is_not_solid_at_the_wrong_bar() {
    let bar = scene(2.0, 36);
    let mut track: Vec<f32> = vec![];
    (0..60).for_each(|_| track.extend(&bar));
    // A lead that never repeats tells the bars apart; without it nothing does.
    let lead = scene(120.0, 37);
    let led: Vec<f32> = track.iter().zip(&lead).map(|(a, b)| a + b).collect();
    let plan = DayPlan { reference: 0, origin: Some(0), effort: Effort::Normal, mode: Mode::Playback };
    let run = |track: &[f32]| {
        let takes = [clip(0, track.to_vec()), clip(1, heard(track, 31.0, 40.0, 15.0, 0.3, 0.01, 5))];
        place_day(&day(&takes), plan, &|_| ControlFlow::Continue(())).expect("a result").placements[1].clone()
    };
    let told = run(&led);
    assert_eq!(told.verdict, Verdict::Solid, "{:?}", told.reasons);
    assert!((told.stretches[0].start_s - 31.0).abs() < 0.5e-3, "{:?}", told.stretches);
    assert_ne!(run(&track).verdict, Verdict::Solid, "any bar would do");
}
