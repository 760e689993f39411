//! The round of doubt: what was looked at, where it lay, and who declared the day checked.

use crate::common::Kept;
use metaxis_core::clip::ClipId;
use metaxis_store::{Edited, Finding, StoreError, Way};

fn found(kept: &Kept) -> Vec<(ClipId, Finding)> {
    kept.store.shown().expect("a pass").looks.iter().map(|look| (look.clip, look.finding)).collect()
}

#[test]
fn a_look_counts_until_the_clip_lies_elsewhere_and_can_be_taken_back() {
    let kept = Kept::synced();
    let [one, two, ..] = kept.clips[..] else { panic!("clips") };
    kept.store.look(&[one], Some(Finding::Right)).expect("a look");
    kept.store.look(&[two, two], Some(Finding::Aside)).expect("a look");
    assert_eq!(found(&kept), [(one, Finding::Right), (two, Finding::Aside)]);
    // It outlives a restart, and a pass that has the clips where they were.
    let kept = kept.again();
    kept.sync();
    assert_eq!(found(&kept), [(one, Finding::Right), (two, Finding::Aside)]);
    let step = |way| kept.store.turn(Edited::Round, way).expect("a step");
    assert_eq!(step(Way::Undo), "a clip set aside");
    assert_eq!(found(&kept), [(one, Finding::Right)]);
    assert_eq!(step(Way::Redo), "a clip set aside");
    kept.store.look(&[one, two], None).expect("looked at again");
    assert_eq!(found(&kept), []);
    assert_eq!(step(Way::Undo), "2 clips to be looked at again");
    assert_eq!(found(&kept).len(), 2);
    // Where it lies elsewhere, it needs another look; where it comes back, none.
    kept.lay(one, 12.5);
    assert_eq!(found(&kept), [(two, Finding::Aside)]);
    kept.store.turn(Edited::Shown, Way::Undo).expect("the pass before");
    assert_eq!(found(&kept).len(), 2);
}

#[test]
fn a_day_is_declared_checked_by_somebody_for_the_pass_that_was_looked_at() {
    let kept = Kept::synced();
    kept.store.look(&kept.clips[..3], Some(Finding::Right)).expect("a look");
    kept.store.declare(Some("Ida")).expect("declared");
    let checked = kept.store.shown().expect("a pass").checked.expect("it is");
    assert_eq!((checked.who.as_str(), checked.looked), ("Ida", 3));
    kept.sync();
    assert_eq!(kept.store.shown().expect("a pass").checked, None, "nobody looked at this one");
    kept.store.turn(Edited::Shown, Way::Undo).expect("the pass before");
    assert!(kept.store.shown().expect("a pass").checked.is_some());
    assert_eq!(kept.store.turn(Edited::Round, Way::Undo).expect("a step"), "the day declared checked by Ida");
    assert_eq!(kept.store.shown().expect("a pass").checked, None);
}

#[test]
fn before_a_pass_and_of_unknown_clips_nothing_is_noted() {
    let kept = Kept::new();
    let refused = kept.store.look(&kept.clips[..1], Some(Finding::Right));
    assert!(matches!(refused, Err(StoreError::Refused(_))), "{refused:?}");
    assert!(matches!(kept.store.declare(Some("Ida")), Err(StoreError::Refused(_))));
    kept.sync();
    let unknown = kept.store.look(&[kept.clips[0], ClipId(77)], Some(Finding::Right));
    assert!(matches!(unknown, Err(StoreError::Missing { id: 77, .. })), "{unknown:?}");
    assert_eq!(found(&kept), [], "all of it or nothing");
}
