//! What passes rest on, and how far the one that runs is.

use crate::common::Kept;
use metaxis_core::clip::ClipId;
use metaxis_store::{Edited, JobKind, JobName, JobState, PassPlan, Way};

#[test]
fn what_was_found_is_kept_with_the_newest_passes_and_those_made_of_them() {
    let kept = Kept::new();
    let found = |kept: &Kept| kept.store.found().expect("asked");
    for round in 1..=8 {
        kept.sync();
        let number = kept.store.shown().expect("a pass").pass.expect("one").number;
        kept.store.keep_found(number, &[round]).expect("kept");
        assert_eq!(found(&kept), Some(vec![round]));
    }
    // A pass made of one by hand rests on the same; over restarts, too.
    kept.lay(kept.clips[0], 9.0);
    let kept = kept.again();
    assert_eq!(found(&kept), Some(vec![8]));
    let back = || kept.store.turn(Edited::Shown, Way::Undo).expect("the pass before");
    back();
    for round in (3..=7).rev() {
        back();
        assert_eq!(found(&kept), Some(vec![round]));
    }
    // What is long past is forgotten, and the pass is as good as it was.
    back();
    assert_eq!(found(&kept), None);
    assert_eq!(kept.store.shown().expect("a pass").pass.map(|pass| pass.number), Some(2));
}

#[test]
fn how_far_a_pass_is_does_not_count_those_that_are_through() {
    let kept = Kept::new();
    let pass = |day: Option<&str>| JobKind::Pass {
        reference: None,
        plan: PassPlan { day: day.map(str::to_owned), ..PassPlan::default() },
    };
    let told = || {
        let all = kept.store.job_summaries().expect("asked");
        let own = all.into_iter().find(|job| job.kind == JobName::Pass).expect("passes");
        (own.done, own.total, own.open, own.failed)
    };
    for (day, state) in [(None, JobState::Done), (Some("Day 1"), JobState::Done)] {
        let id = kept.store.queue(&pass(day)).expect("queued");
        kept.store.job_progress(id, 6, 6).expect("told");
        kept.store.end_job(id, state, None).expect("ended");
    }
    let next = kept.store.queue(&pass(Some("Day 2"))).expect("queued");
    kept.store.job_progress(next, 1, 4).expect("told");
    assert_eq!(told(), (1, 4, 1, 0));
    // One that failed says so until it is asked for again.
    kept.store.end_job(next, JobState::Failed, Some("a sentence")).expect("ended");
    kept.store.queue(&pass(None)).expect("queued");
    assert_eq!(told().3, 1);
}

#[test]
fn a_plan_is_for_part_of_a_day_where_it_names_any() {
    let whole = PassPlan::default();
    assert!(!whole.is_part());
    assert!(PassPlan { clips: Some(vec![ClipId(1)]), ..whole.clone() }.is_part());
    assert!(PassPlan { day: Some("Day 1".into()), ..whole }.is_part());
}
