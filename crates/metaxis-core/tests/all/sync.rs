//! The engine on arrays whose truth is known.

use crate::hearing::{clip, day, heard, place, scene, stretched};
use metaxis_core::sync::{
    DayError, DayPlan, Effort, LocalOffset, Mode, Placement, Verdict, fit_pieces, pick_reference, place_day,
    place_near,
};
use proptest::prelude::*;
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use std::ops::ControlFlow;

fn check_start(placement: &Placement, truth_s: f64) {
    let start = placement.stretches.first().expect("a place").start_s;
    assert!((start - truth_s).abs() < 0.5e-3, "{start} should be {truth_s}");
}

#[test]
fn clips_are_placed_to_half_a_millisecond_and_a_part_per_million() {
    let scene = scene(150.0, 1);
    let clips = [
        clip(0, heard(&scene, 0.0, 150.0, 0.0, 1.0, 0.001, 10)),
        clip(1, heard(&scene, 7.123_456, 130.0, 41.0, 0.02, 0.0005, 11)),
        clip(2, heard(&scene, 80.5, 20.0, -30.0, -0.5, 0.01, 12)),
    ];
    let result = place(&clips);
    assert_eq!(result.reference, 0);
    for (i, start) in [(1, 7.123_456), (2, 80.5)] {
        assert_eq!(result.placements[i].verdict, Verdict::Solid, "{:?}", result.placements[i].reasons);
        check_start(&result.placements[i], start);
    }
    let rate = result.placements[1].stretches[0].rate_ppm;
    assert!((rate - 41.0).abs() < 1.0, "{rate}");
}

#[test]
fn a_clip_may_begin_before_the_reference_and_end_after_it() {
    let scene = scene(60.0, 2);
    let clips = [
        clip(0, heard(&scene, 20.0, 20.0, 0.0, 1.0, 0.001, 1)),
        clip(1, heard(&scene, 5.0, 50.0, 0.0, 1.0, 0.001, 2)),
    ];
    let result = place(&clips);
    check_start(&result.placements[1], -15.0);
}

#[test]
fn what_belongs_nowhere_stays_unplaced() {
    let clips = [
        clip(0, heard(&scene(60.0, 3), 0.0, 60.0, 0.0, 1.0, 0.001, 1)),
        clip(1, heard(&scene(30.0, 4), 0.0, 30.0, 0.0, 1.0, 0.001, 2)),
        clip(2, vec![0.0; 16_000 * 10]),
    ];
    let result = place(&clips);
    for placement in &result.placements[1..] {
        assert_eq!(placement.verdict, Verdict::Unplaced);
        assert!(placement.stretches.is_empty() && !placement.reasons.is_empty());
    }
}

#[test]
fn lost_samples_are_a_step_not_a_slope() {
    let scene = scene(70.0, 5);
    let mut samples = heard(&scene, 3.0, 30.0, 20.0, 1.0, 0.001, 2);
    samples.extend(heard(&scene, 33.4, 30.0, 20.0, 1.0, 0.001, 3));
    let result = place(&[clip(0, heard(&scene, 0.0, 70.0, 0.0, 1.0, 0.001, 1)), clip(1, samples)]);
    let [before, after] = &result.placements[1].stretches[..] else {
        panic!("two stretches: {:?}", result.placements[1].stretches)
    };
    assert!((after.clip_start_s - 30.0).abs() < 0.5, "{}", after.clip_start_s);
    let lost = 33.4 - (3.0 + 30.0 / (1.0 + 20e-6));
    assert!((after.start_s - before.end_s() - lost).abs() < 0.5e-3, "{}", after.start_s - before.end_s());
    assert!((after.rate_ppm - 20.0).abs() < 2.0, "{}", after.rate_ppm);
}

#[test]
fn a_repeat_is_never_solid() {
    let part = scene(15.0, 6);
    let mut twice = part.clone();
    twice.extend(scene(10.0, 7));
    twice.extend(&part);
    let noise = |seed| heard(&part, 1.0, 12.0, 0.0, 1.0, 0.01, seed);
    let result = place(&[clip(0, heard(&twice, 0.0, 40.0, 0.0, 1.0, 0.01, 1)), clip(1, noise(2))]);
    let placement = &result.placements[1];
    assert_eq!(placement.verdict, Verdict::Check, "{:?}", placement.reasons);
    let other = placement.alternatives.first().expect("the other place").start_s;
    let mut places = [placement.stretches[0].start_s, other];
    places.sort_by(f64::total_cmp);
    assert!((places[0] - 1.0).abs() < 1e-3 && (places[1] - 26.0).abs() < 1e-3, "{places:?}");
}

#[test]
fn one_device_never_records_two_clips_at_once() {
    let scene = scene(40.0, 8);
    let same = || heard(&scene, 5.0, 20.0, 0.0, 1.0, 0.001, 2);
    let result =
        place(&[clip(0, heard(&scene, 0.0, 40.0, 0.0, 1.0, 0.001, 1)), clip(1, same()), clip(1, same())]);
    let placed = result.placements[1..].iter().filter(|p| p.verdict != Verdict::Unplaced).count();
    assert_eq!(placed, 1, "the copy lies over the original");
}

#[test]
fn reference_clips_are_tied_by_their_time_references() {
    let mut clips = [clip(0, scene(20.0, 1)), clip(0, scene(12.0, 2)), clip(0, scene(11.0, 3))];
    clips[0].reference_s = Some(1000.0);
    clips[1].reference_s = Some(940.5);
    let result = place(&clips);
    assert_eq!(result.placements[1].stretches[0].start_s, -59.5);
    assert_eq!(result.placements[1].component, 0);
    assert_ne!(result.placements[2].component, 0, "without a time reference it is an island");
}

#[test]
fn a_stop_is_obeyed_and_silence_is_no_reference() {
    let clips = [clip(0, scene(10.0, 1)), clip(1, scene(10.0, 2))];
    let clips = day(&clips);
    let plan = DayPlan { reference: 0, origin: None, effort: Effort::Normal, mode: Mode::Day };
    assert_eq!(place_day(&clips, plan, &|_| ControlFlow::Break(())), Err(DayError::Stopped));
    let none = DayPlan { reference: 7, ..plan };
    assert_eq!(place_day(&clips, none, &|_| ControlFlow::Continue(())), Err(DayError::NoReference));
    assert_eq!(pick_reference(&[]), None);
}

#[test]
fn a_clip_that_never_hears_the_reference_is_placed_through_another_camera() {
    let scene = scene(160.0, 21);
    let clips = [
        clip(0, heard(&scene, 0.0, 60.0, 0.0, 1.0, 0.001, 1)),
        clip(1, heard(&scene, 40.0, 60.0, 25.0, 1.0, 0.001, 2)),
        clip(2, heard(&scene, 75.0, 50.0, -10.0, 1.0, 0.001, 3)),
        // An island of its own: another world, heard by two.
        clip(1, heard(&self::scene(60.0, 22), 3.0, 40.0, 25.0, 1.0, 0.001, 4)),
        clip(2, heard(&self::scene(60.0, 22), 10.0, 40.0, -10.0, 1.0, 0.001, 5)),
    ];
    let result = place(&clips);
    let placed = &result.placements;
    check_start(&placed[2], 75.0);
    assert_eq!((placed[1].component, placed[2].component), (0, 0));
    assert_ne!(placed[3].component, 0);
    assert_eq!(placed[3].component, placed[4].component, "the island hangs together");
    let apart = placed[4].stretches[0].start_s - placed[3].stretches[0].start_s;
    assert!((apart - 7.0).abs() < 1e-3, "{apart}");
}

#[test]
fn a_wrong_sample_rate_label_is_named() {
    let scene = scene(120.0, 23);
    // Recorded at 44.1 kHz, labelled 48: its own second is 1.088 true seconds.
    let speed = 44.1 / 48.0;
    let ppm = (speed - 1.0) * 1e6;
    let result = place(&[
        clip(0, heard(&scene, 0.0, 120.0, 0.0, 1.0, 0.001, 1)),
        clip(1, heard(&scene, 20.0, 60.0, ppm, 1.0, 0.001, 2)),
    ]);
    let placement = &result.placements[1];
    check_start(placement, 20.0);
    assert!((placement.stretches[0].rate_ppm - ppm).abs() < 2.0, "{}", placement.stretches[0].rate_ppm);
    assert!(placement.reasons.iter().any(|reason| reason.contains("44.1 kHz")), "{:?}", placement.reasons);
}

/// `sound` as it is heard where it was played at `speed`.
fn played_at(sound: &[f32], speed: f64, start_s: f64, seconds: f64, seed: u64) -> Vec<f32> {
    heard(sound, start_s, seconds, (1.0 / speed - 1.0) * 1e6, 0.5, 0.002, seed)
}

#[test]
fn takes_to_a_track_that_was_played_fast_are_found_and_named() {
    let track = scene(160.0, 27);
    let speeds = [1.25, 1.5, 2.0, 25.0 / 24.0, 1.001];
    let mut clips = vec![clip(0, track.clone())];
    clips.extend(
        speeds.iter().zip(1..).map(|(speed, seed)| clip(1, played_at(&track, *speed, 20.0, 40.0, seed))),
    );
    // As fast as it should be, and another performance altogether.
    clips.push(clip(1, played_at(&track, 1.0, 30.0, 40.0, 9)));
    clips.push(clip(1, scene(40.0, 28)));
    let plan = DayPlan { reference: 0, origin: Some(0), effort: Effort::Normal, mode: Mode::Playback };
    let result = place_day(&day(&clips), plan, &|_| ControlFlow::Continue(())).expect("a result");
    let said = [
        "125 % of the track: slow it to 80 %",
        "150 % of the track: slow it to 66.7 %",
        "200 % of the track: slow it to 50 %",
        "25 frames a second where the reference has 24",
        "0.1 % slower than the reference",
    ];
    for (i, (speed, said)) in speeds.iter().zip(said).enumerate() {
        let placement = &result.placements[i + 1];
        let stretch = placement.stretches.first().unwrap_or_else(|| panic!("{speed}: {placement:?}"));
        assert!((stretch.start_s - 20.0).abs() < 1e-3, "{speed}: {stretch:?}");
        let rate = (1.0 + stretch.rate_ppm * 1e-6) * speed - 1.0;
        assert!(rate.abs() < 2e-6, "{speed}: {} ppm off", rate * 1e6);
        assert!(
            placement.reasons.iter().any(|reason| reason.contains(said)),
            "{speed}: {:?}",
            placement.reasons
        );
    }
    assert!(
        result.placements[6].reasons.iter().all(|reason| !reason.contains('%')),
        "{:?}",
        result.placements[6]
    );
    assert_eq!(result.placements[7].verdict, Verdict::Unplaced);
}

#[test]
fn a_track_stretched_with_its_pitch_kept_is_found_by_its_pattern_and_never_sure() {
    let track = scene(200.0, 29);
    let mut clips = vec![clip(0, track.clone())];
    let speeds = [1.25, 1.5];
    for (speed, seed) in speeds.iter().zip(1..) {
        let fast = stretched(&track, *speed);
        clips.push(clip(1, heard(&fast, 40.0 / speed, 60.0, 0.0, 0.5, 0.001, seed)));
    }
    let plan = DayPlan { reference: 0, origin: Some(0), effort: Effort::Normal, mode: Mode::Playback };
    let result = place_day(&day(&clips), plan, &|_| ControlFlow::Continue(())).expect("a result");
    for (speed, placement) in speeds.iter().zip(&result.placements[1..]) {
        assert_eq!(placement.verdict, Verdict::Check, "{speed}: {placement:?}");
        let stretch = placement.stretches[0];
        for clip_s in [0.0, 30.0, 60.0] {
            let off = stretch.axis_s(clip_s) - (40.0 + clip_s * speed);
            assert!(off.abs() < 0.04, "{speed}: {off} s off at {clip_s} s");
        }
        let said = placement.reasons.iter().any(|reason| reason.contains("stretched with its pitch kept"));
        assert!(said, "{:?}", placement.reasons);
    }
}

#[test]
fn takes_to_a_track_lie_above_each_other_and_may_hold_several_stretches() {
    let track = scene(120.0, 24);
    let mut stopped = heard(&track, 20.0, 25.0, 15.0, 0.3, 0.002, 2);
    stopped.extend(heard(&scene(5.0, 25), 0.0, 3.0, 0.0, 0.01, 0.002, 3));
    stopped.extend(heard(&track, 30.0, 30.0, 15.0, 0.3, 0.002, 4));
    let takes =
        [clip(0, track.clone()), clip(1, heard(&track, 10.0, 50.0, 15.0, 0.3, 0.002, 5)), clip(1, stopped)];
    let plan = DayPlan { reference: 0, origin: Some(0), effort: Effort::Normal, mode: Mode::Playback };
    let result = place_day(&day(&takes), plan, &|_| ControlFlow::Continue(())).expect("a result");
    check_start(&result.placements[1], 10.0);
    let stretches = &result.placements[2].stretches;
    assert_eq!(stretches.len(), 2, "{stretches:?}");
    assert!((stretches[0].axis_s(10.0) - 30.0).abs() < 2e-3, "{stretches:?}");
    assert!((stretches[1].axis_s(40.0) - 42.0).abs() < 2e-3, "{stretches:?}");
}

#[test]
fn a_narrow_search_finds_the_place_near_and_says_when_there_is_none() {
    let scene = scene(60.0, 26);
    let takes = [
        clip(0, heard(&scene, 0.0, 60.0, 0.0, 1.0, 0.001, 1)),
        clip(1, heard(&scene, 22.0, 15.0, 0.0, 1.0, 0.01, 2)),
    ];
    let clips = day(&takes);
    let there = place_day(
        &clips,
        DayPlan { reference: 0, origin: None, effort: Effort::Normal, mode: Mode::Day },
        &|_| ControlFlow::Continue(()),
    )
    .expect("a result")
    .placements[0]
        .clone();
    check_start(&place_near(&clips, 1, 0, &there, 21.2, 2.0), 22.0);
    let none = place_near(&clips, 1, 0, &there, 5.0, 2.0);
    assert_ne!(none.verdict, Verdict::Solid, "{:?}", none.reasons);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]
    #[test]
    fn the_robust_line_ignores_a_third_of_wild_windows(
        ppm in -100.0_f64..100.0, offset in -50.0_f64..50.0, seed in 0_u64..1000
    ) {
        let mut rng = ChaCha8Rng::seed_from_u64(seed);
        let windows: Vec<LocalOffset> = (0..60)
            .map(|i| {
                let clip_s = f64::from(i) * 2.0;
                let wild = if rng.random::<f64>() < 0.33 { rng.random::<f64>() - 0.5 } else { 1e-5 * (rng.random::<f64>() - 0.5) };
                LocalOffset { clip_s, offset_s: offset + ppm * 1e-6 * clip_s + wild, weight: 10.0 }
            })
            .collect();
        let fit = fit_pieces(&windows, ppm * 1e-6).expect("a fit");
        prop_assert_eq!(fit.pieces.len(), 1);
        prop_assert!((fit.slope * 1e6 - ppm).abs() < 0.2, "{} for {}", fit.slope * 1e6, ppm);
        prop_assert!((fit.pieces[0].offset_s - offset).abs() < 1e-5);
    }
}
