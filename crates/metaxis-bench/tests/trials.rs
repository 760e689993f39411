//! The measuring itself: kinds of shoots run, and what is wrong is counted as wrong.

use metaxis_bench::{KINDS, Shoot, Tally};
use metaxis_core::sync::Verdict;

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
    let (own, world) = (broken.truth[1].0 - broken.truth[0].0, broken.truth[1].1 - broken.truth[0].1);
    assert!(world - own > 0.0045, "at least 5 ms are lost: {}", world - own);
}
