//! What goes wrong outside, and shoots that once came out wrong: nothing is invented, and what is wrong is not solid.

use crate::{KINDS, Shoot, Tally};
use metaxis_core::sync::DayResult;

/// A shoot of a kind, what became of it, and the count.
fn run(name: &str, seed: u64) -> (Shoot, DayResult, Tally) {
    let shoot = (KINDS.iter().find(|kind| kind.name == name).expect("a kind").make)(seed);
    let (result, seconds) = shoot.sync();
    let mut tally = Tally::default();
    tally.add(&shoot, &result, seconds, name);
    (shoot, result, tally)
}

#[test]
fn telephones_wind_and_doors_are_found_and_nothing_is_invented() {
    for (name, share) in [("telephones", 0.8), ("wind and hands", 0.95), ("room changes", 0.95)] {
        let (_, _, tally) = run(name, 77_002);
        assert_eq!((tally.wrong_solid, tally.invented_solid), (0, 0), "{:?}", tally.notes);
        assert!(tally.right as f64 >= share * tally.due as f64, "{name}: {} of {}", tally.right, tally.due);
    }
}

#[test]
fn who_walks_is_heard_later_and_no_sound_was_lost() {
    let (shoot, result, tally) = run("walking", 1_101);
    // Three metres in two seconds and a half, and not back: that may be taken for a loss.
    assert!(tally.wrong_solid == 0 && tally.invented_solid <= 1, "{:?}", tally.notes);
    assert_eq!(tally.right, tally.due, "{:?}", tally.notes);
    let moved = result.placements.iter().filter(|placement| {
        let lost =
            placement.reasons.iter().any(|reason| reason.contains("lost") || reason.contains("repeated"));
        !lost && placement.reasons.iter().any(|reason| reason.contains("than elsewhere: its microphone was"))
    });
    let moved = moved.count();
    assert!(moved >= 3, "{moved} of {} say that somebody moved", shoot.takes.len() - 1);
}

/// Their microphones heard more echo than direct sound, half a frame away: to be looked at.
#[test]
fn an_echo_that_may_be_taken_for_the_direct_sound_is_no_solid_place() {
    for (name, seed) in [("clean", 1_102), ("islands", 2_203)] {
        let (_, _, tally) = run(name, seed);
        assert_eq!((tally.wrong_solid, tally.invented_solid), (0, 0), "{name} {seed}: {:?}", tally.notes);
        assert!(tally.right + tally.wrong_check >= tally.due, "{name} {seed}: {:?}", tally.notes);
    }
}

/// A camera lies by another, which lost samples itself: the two moments at which that loss was found leave nothing between.
#[test]
fn a_loss_of_the_clip_that_another_hangs_on_is_none_of_its_own() {
    let (_, _, tally) = run("breaks", 1_103);
    assert_eq!((tally.false_breaks, tally.wrong_solid), (0, 0), "{:?}", tally.notes);
    assert_eq!(tally.found_breaks.len(), tally.breaks, "{:?}", tally.notes);
}
