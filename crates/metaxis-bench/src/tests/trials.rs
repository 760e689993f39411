//! The measuring itself: kinds of shoots run, and what is wrong is counted as wrong.

use crate::{KINDS, Shoot, Tally, table};
use metaxis_core::sync::{DayResult, Effort, Verdict};

fn make(name: &str, seed: u64) -> Shoot {
    (KINDS.iter().find(|kind| kind.name == name).expect("a kind").make)(seed)
}

/// One shoot of these kinds, from a seed nobody tuned on: nothing wrong is solid, most of what is due is found.
#[test]
fn nothing_wrong_is_solid_in_a_shoot_of_each_kind() {
    for (name, due) in
        [("clean", 0.7), ("islands", 0.5), ("repeats", 0.5), ("playback", 0.8), ("decoys", 0.0)]
    {
        let shoot = make(name, 77_002);
        let (result, seconds) = shoot.sync();
        let mut tally = Tally::default();
        tally.add(&shoot, &result, seconds, name);
        assert_eq!(tally.wrong_solid, 0, "{:?}", tally.notes);
        assert!(tally.right as f64 >= due * tally.due as f64, "{name}: {} of {}", tally.right, tally.due);
    }
}

/// A shoot whose first engine called whole bars of a loop lost: nothing is invented, and what is wrong is not solid.
#[test]
fn takes_to_loops_hold_no_invented_jump() {
    let shoot = make("looped track", 1_104);
    let (result, seconds) = shoot.sync();
    let mut tally = Tally::default();
    tally.add(&shoot, &result, seconds, "looped track");
    assert_eq!((tally.wrong_solid, tally.invented_solid), (0, 0), "{:?}", tally.notes);
    assert!(tally.right >= 3, "{} of {}: {:?}", tally.right, tally.due, tally.notes);
}

/// A joint of a bending clock is no break; a step that is in no truth is one too many.
#[test]
fn a_step_that_nothing_lost_is_counted_as_invented() {
    let mut shoot = make("breaks", 5);
    shoot.takes.truncate(2);
    let (mut result, seconds) = shoot.sync();
    let count = |result: &DayResult| {
        let mut tally = Tally::default();
        tally.add(&shoot, result, seconds, "");
        (tally.false_breaks, tally.invented_solid)
    };
    assert_eq!(count(&result), (0, 0));
    let stretches = &mut result.placements[1].stretches;
    let mut last = stretches.pop().expect("a stretch");
    let middle = 0.5 * (last.clip_start_s + last.clip_end_s);
    let mut rest = last;
    (rest.clip_start_s, rest.start_s) = (middle, last.axis_s(middle) + 0.002);
    last.clip_end_s = middle;
    stretches.extend([last, rest]);
    let invented = count(&result).0;
    let near_the_gap = (shoot.takes[1].truth.gaps[0].at_s - middle).abs() < 2.0;
    assert_eq!(invented, usize::from(!near_the_gap));
}

#[test]
fn a_moved_clip_is_counted_as_wrong() {
    let shoot = make("playback", 77_002);
    let (result, seconds) = shoot.sync();
    let count = |result| {
        let mut tally = Tally::default();
        tally.add(&shoot, result, seconds, "");
        tally
    };
    let before = count(&result);
    assert!(before.right > 0 && before.brier() < 0.5);
    let mut moved = result.clone();
    let placed =
        moved.placements[1..].iter_mut().find(|p| p.verdict == Verdict::Solid).expect("a solid clip");
    for stretch in &mut placed.stretches {
        stretch.start_s += 0.05;
    }
    let after = count(&moved);
    assert_eq!((after.right, after.wrong_solid), (before.right - 1, before.wrong_solid + 1));
    assert!(after.brier() > before.brier());
    let mut both = before.clone();
    both.merge(after.clone());
    assert_eq!(both.due, 2 * before.due);
    assert_eq!(both.right, before.right + after.right);
}

#[test]
fn a_seed_makes_the_same_shoot_again() {
    let (one, other) = (make("breaks", 5), make("breaks", 5));
    assert!(one.takes.iter().zip(&other.takes).all(|(a, b)| a.samples == b.samples && a.truth == b.truth));
    assert_ne!(one.takes[1].samples, make("breaks", 6).takes[1].samples);
    let broken = &one.takes[1];
    let at_s = broken.truth.gaps[0].at_s;
    let lost_s = broken.truth.at(at_s) - broken.truth.at(at_s - 1e-6);
    assert!(lost_s > 0.0045, "at least 5 ms are lost: {lost_s}");
}

/// A take so deep in noise that its pattern shows nothing: normal effort leaves it, deep effort finds it by its waves.
#[test]
fn deep_effort_finds_by_waves_what_patterns_do_not_show() {
    let mut shoot = make("very noisy", 402);
    let takes = std::mem::take(&mut shoot.takes);
    shoot.takes =
        takes.into_iter().enumerate().filter(|(i, _)| [0, 6].contains(i)).map(|(_, take)| take).collect();
    shoot.effort = Effort::Normal;
    let (left, _) = shoot.sync();
    assert_ne!(left.placements[1].verdict, Verdict::Solid);
    shoot.effort = Effort::Deep;
    let (found, _) = shoot.sync();
    let truth_s = shoot.takes[1].truth.at(0.0) - shoot.takes[0].truth.at(0.0);
    let start_s = found.placements[1].stretches.first().expect("it is placed").start_s;
    assert!((start_s - truth_s).abs() < 0.5e-3, "{start_s}, not {truth_s}");
}

#[test]
fn the_table_sets_what_was_measured_beside_what_is_asked() {
    let tally = Tally {
        due: 8,
        right: 6,
        right_solid: 5,
        wrong_solid: 1,
        start_s: vec![1e-6, 2e-6, 9e-3],
        rate_ppm: vec![(60.0, 3.0), (700.0, 0.05), (3_600.0, 0.01)],
        calibration: vec![(0.9, true), (0.9, false), (1.0, true)],
        breaks: 2,
        found_breaks: vec![(0.25, 1e-4)],
        ..Tally::default()
    };
    let rows = table(&[("clean", tally.clone()), ("very noisy", Tally { wrong_solid: 0, ..tally })]);
    let measured = |what: &str| {
        let row = rows.iter().find(|row| row.starts_with(what)).expect("a row");
        row[73..].trim().to_owned()
    };
    assert_eq!(measured("wrong position called solid"), "1 of 11");
    assert_eq!(measured("right position, at least"), "6 of 8 (75.0 %)");
    assert_eq!(measured("right position, -12 dB"), "6 of 8 (75.0 %)");
    assert_eq!(measured("start error, median"), "0.0020 ms");
    assert_eq!(measured("start error, 99 %"), "9.000 ms of 6");
    assert_eq!(measured("rate error, 10 minutes"), "0.0500 ppm");
    assert_eq!(measured("rate error, an hour"), "0.0100 ppm");
    assert_eq!(measured("breaks found"), "2 of 4 (50.0 %)");
    assert_eq!(measured("of these, time off"), "0.25 s");
    assert_eq!(measured("right of those called"), "2 of 4 (50.0 %)");
    assert!(table(&[]).iter().any(|row| row.contains("NaN")), "nothing measured is no figure");
}
