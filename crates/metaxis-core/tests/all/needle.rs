//! What the Bench measures while a clip is laid by hand, on sounds whose truth is known.

use crate::hearing::{heard, scene};
use metaxis_core::sync::{Along, check_points, needle};
use proptest::prelude::*;

/// A scene and what two devices heard of it: the second from 7.25 s on, ten times as soft.
fn two(seed: u64) -> (Vec<f32>, Vec<f32>) {
    let scene = scene(60.0, seed);
    (heard(&scene, 0.0, 60.0, 0.0, 1.0, 0.001, 1), heard(&scene, 7.25, 40.0, 0.0, 0.1, 0.0005, 2))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// However far it is off within reach, what is left is measured to a tenth of a millisecond, at either end too.
    #[test]
    fn what_is_left_is_measured_wherever_one_stands(off_s in -0.9..0.9_f64, own_s in 0.0..40.0_f64) {
        let (there, own) = two(3);
        let found = needle(&own, own_s, &there, own_s + 7.25 + off_s, 1.0).expect("something is heard");
        prop_assert!(found.clear, "{found:?}");
        prop_assert!((found.later_s + off_s).abs() < 1e-4, "{off_s} {found:?}");
    }
}

#[test]
fn three_seconds_off_is_in_reach_where_one_looks_as_far() {
    let (there, own) = two(4);
    let found = needle(&own, 20.0, &there, 30.25, 5.0).expect("something is heard");
    assert!(found.clear && (found.later_s + 3.0).abs() < 1e-4, "{found:?}");
    // Within a second there is nothing, and it says so.
    assert!(needle(&own, 20.0, &there, 30.25, 1.0).is_none_or(|found| !found.clear));
}

#[test]
fn a_reversed_microphone_is_told_and_silence_is_no_match() {
    let (there, own) = two(5);
    let turned: Vec<f32> = own.iter().map(|value| -value).collect();
    let found = needle(&turned, 12.0, &there, 19.26, 0.5).expect("something is heard");
    assert!(found.clear && found.inverted && (found.later_s + 0.01).abs() < 1e-4, "{found:?}");
    assert_eq!(needle(&vec![0.0; 16_000 * 20], 10.0, &there, 10.0, 0.5), None);
    assert_eq!(needle(&vec![0.0_f32; 10], 0.0, &there, 10.0, 0.5), None);
    let strangers = heard(&scene(20.0, 99), 0.0, 20.0, 0.0, 1.0, 0.001, 1);
    assert!(needle(&strangers, 10.0, &there, 10.0, 1.0).is_none_or(|found| !found.clear));
    for odd in [f64::NAN, f64::INFINITY] {
        assert_eq!(needle(&own, odd, &there, 0.0, 1.0), None);
    }
    // Where either did not run there is nothing to be compared.
    for (own_s, there_s) in [(1e6, -1e6), (41.0, 48.25), (-0.5, 6.75), (10.0, 62.0), (10.0, -2.0)] {
        assert_eq!(needle(&own, own_s, &there, there_s, 1.0), None, "{own_s} {there_s}");
    }
}

#[test]
fn check_points_are_sharp_in_both_and_lie_at_the_start_in_the_middle_and_at_the_end() {
    let (there, own) = two(6);
    let found = check_points(&own, &there, 0.0, 40.0, &|_| 7.25);
    assert_eq!(
        found.iter().map(|point| point.along).collect::<Vec<_>>(),
        [Along::Start, Along::Middle, Along::End]
    );
    for (point, part) in found.iter().zip([0.0..11.0, 14.0..26.0, 29.0..40.0]) {
        assert!(part.contains(&point.clip_s), "{point:?}");
        assert!((point.there_s - point.clip_s - 7.25).abs() < 1e-9 && point.sharp_db > 6.0, "{point:?}");
        // It is the beginning of a knock: before it all is quiet, and after it no longer.
        let level = |from_s: f64| {
            let at = (from_s * 16_000.0) as usize;
            own[at..at + 160].iter().map(|v| v * v).sum::<f32>()
        };
        assert!(level(point.clip_s) > 3.0 * level(point.clip_s - 0.04), "{point:?}");
    }
    // Nothing stands out of silence, and of too little nothing is chosen.
    let silence = vec![0.0; 16_000 * 40];
    assert_eq!(check_points(&own, &silence, 0.0, 40.0, &|_| 0.0), []);
    assert_eq!(check_points(&own, &there, 3.0, 3.5, &|_| 7.25), []);
    assert_eq!(check_points(&own, &there, 9.0, 3.0, &|_| 7.25), []);
}
