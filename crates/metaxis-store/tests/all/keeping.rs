//! What is kept, across restarts too.

use crate::common::Kept;
use metaxis_core::{
    clip::{ClipFacts, ClipId, NoteCode},
    group::AngleId,
    line::LineEdit,
    sync::Effort,
    time::{FrameRate, Timecode},
};
use metaxis_store::{
    Edited, GroupChange, GroupId, IntakeChange, JobKind, JobName, JobState, Near, NoteView, Part, PassPlan,
    Store, StoreError, Way, back_up, check_in_full,
};
use std::path::PathBuf;

fn floor(kept: &Kept, name: &str) -> ClipId {
    kept.add(&format!("A_FLOOR/{name}"), ClipFacts { duration_s: 4.0, ..ClipFacts::default() })
}

fn pass(kept: &Kept, clip: ClipId) -> GroupId {
    pass_of(kept, clip, 100, 0)
}

/// A pass with one group of so many frames, in which the clip begins at frame `from`; the number of the group.
fn pass_of(kept: &Kept, clip: ClipId, frames: i64, from: i64) -> GroupId {
    kept.pass(&[clip, clip], frames, from);
    kept.groups()[0]
}

fn take(at: i64, angle: i64) -> LineEdit {
    LineEdit::take(at, AngleId(angle))
}

#[test]
fn undo_and_redo_survive_a_restart() {
    let kept = Kept::empty();
    let group = pass(&kept, floor(&kept, "a.mov"));
    kept.store.edit_line(group, 0, &take(20, 2)).expect("an edit");
    kept.store.edit_line(group, 1, &take(60, 1)).expect("an edit");
    let kept = kept.again();
    let view = kept.store.turn_line(group, 2, Way::Undo, false).expect("an undo");
    assert_eq!(view.line.switches().len(), 2);
    assert!(view.can_undo && view.can_redo);
    let kept = kept.again();
    let view = kept.store.turn_line(group, 3, Way::Redo, false).expect("a redo");
    assert_eq!(view.line.switches().len(), 3);
    assert_eq!(view.labels[2].to_string(), Timecode::new(1060, FrameRate::FPS_25, false).to_string());
    kept.store.turn_line(group, 4, Way::Undo, false).expect("an undo");
    kept.store.turn_line(group, 5, Way::Undo, false).expect("an undo");
    assert!(matches!(kept.store.turn_line(group, 6, Way::Undo, false), Err(StoreError::NothingTo("undo"))));
    // A new edit ends what could be redone.
    let view = kept.store.edit_line(group, 6, &take(5, 2)).expect("an edit");
    assert!(!view.can_redo);
    assert!(matches!(kept.store.turn_line(group, 7, Way::Redo, false), Err(StoreError::NothingTo("redo"))));
}

#[test]
fn a_live_run_is_undone_as_a_whole_or_switch_by_switch() {
    let kept = Kept::empty();
    let group = pass(&kept, floor(&kept, "a.mov"));
    kept.store.edit_line(group, 0, &take(10, 2)).expect("an edit");
    let run = |at: i64, angle: i64, since: Option<i64>| LineEdit::Take {
        at,
        angle: AngleId(angle),
        since,
        run: Some(77),
    };
    let mut version = 1;
    let before = kept.store.group(group).expect("a group").line.switches().to_vec();
    let hold = LineEdit::Hold { from: 40, to: 60, run: 77, before };
    for edit in [run(20, 1, None), run(40, 2, Some(20)), hold] {
        // What held to where nothing else was is no step.
        if let Ok(view) = kept.store.edit_line(group, version, &edit) {
            version = view.version;
        }
    }
    let cuts = |view: &metaxis_store::GroupView| view.line.switches().len();
    let kept = kept.again();
    assert_eq!(cuts(&kept.store.group(group).expect("a group")), 4);
    let one = kept.store.turn_line(group, version, Way::Undo, false).expect("one switch back");
    assert_eq!(cuts(&one), 3);
    let none = kept.store.turn_line(group, one.version, Way::Undo, true).expect("the rest of the run");
    assert_eq!((cuts(&none), none.can_undo), (2, true));
    let all = kept.store.turn_line(group, none.version, Way::Redo, true).expect("all of it again");
    assert_eq!(cuts(&all), 4);
    // An edit by itself is one step, whatever is asked for.
    kept.store.turn_line(group, all.version, Way::Undo, true).expect("the run");
    let view = kept.store.group(group).expect("a group");
    let first = kept.store.turn_line(group, view.version, Way::Undo, true).expect("the first");
    assert_eq!((cuts(&first), first.can_undo), (1, false));
}

#[test]
fn a_stale_or_refused_edit_changes_nothing() {
    let kept = Kept::empty();
    let group = pass(&kept, floor(&kept, "a.mov"));
    kept.store.edit_line(group, 0, &take(20, 2)).expect("an edit");
    let stale = kept.store.edit_line(group, 0, &take(30, 1));
    assert!(matches!(stale, Err(StoreError::Stale { given: 0, newest: 1 })));
    assert!(matches!(kept.store.edit_line(group, 1, &take(500, 1)), Err(StoreError::Line(_))));
    let view = kept.store.group(group).expect("a group");
    assert_eq!((view.version, view.line.switches().len()), (1, 2));
    assert!(matches!(kept.store.group(GroupId(99)), Err(StoreError::Missing { .. })));
}

#[test]
fn a_new_pass_keeps_the_old_one_and_carries_the_line_over() {
    let kept = Kept::empty();
    let clip = floor(&kept, "a.mov");
    let first = pass(&kept, clip);
    kept.store.edit_line(first, 0, &take(20, 2)).expect("an edit");
    let second = pass(&kept, clip);
    assert_ne!(first, second);
    let view = kept.store.group(second).expect("a group");
    assert_eq!(view.line.switches().len(), 2);
    let view = kept.store.turn_line(second, view.version, Way::Undo, false).expect("its history came along");
    assert_eq!(view.line.switches().len(), 1);
    let shown = kept.store.shown().expect("a pass");
    assert_eq!(shown.passes.len(), 2);
    kept.store.show_pass(shown.passes[0].id).expect("the first pass");
    assert_eq!(kept.groups()[0], first);
    assert_eq!(kept.store.group(first).expect("a group").line.switches().len(), 2);
}

#[test]
fn a_new_pass_keeps_a_groups_name_and_the_order_of_its_angles_and_the_old_one_leads_on() {
    let kept = Kept::empty();
    let clip = floor(&kept, "a.mov");
    let first = pass(&kept, clip);
    let name = "The long take".into();
    kept.store.edit_groups(None, &GroupChange::Rename { group: first, name }).expect("a name");
    kept.store.edit_groups(None, &GroupChange::MoveAngle { group: first, from: 1, to: 0 }).expect("an order");
    assert_eq!(kept.store.group(first).expect("a group").followed_by, None);
    let second = pass_of(&kept, clip, 120, 0);
    let view = kept.store.group(second).expect("a group");
    let order: Vec<i64> = view.group.angles.iter().map(|angle| angle.id.0).collect();
    assert_eq!((view.group.name.as_str(), &order[..]), ("The long take", &[2, 1][..]));
    assert_eq!(view.followed_by, None);
    let follower = kept.store.group(first).expect("a group").followed_by.expect("it is led on");
    assert_eq!((follower.id, follower.name.as_str()), (second, "The long take"));
    // And on, through a restart, and to a pass with other clips not at all.
    let kept = kept.again();
    let third = pass(&kept, clip);
    assert_eq!(kept.store.group(third).expect("a group").group.name, "The long take");
    let other = pass(&kept, floor(&kept, "b.mov"));
    let view = kept.store.group(other).expect("a group");
    assert_eq!((view.group.name.as_str(), view.group.angles[0].id), ("1 / 1", AngleId(1)));
    assert_eq!(kept.store.group(third).expect("a group").followed_by, None);
}

#[test]
fn cuts_stay_on_their_pictures_where_a_group_begins_earlier() {
    let kept = Kept::empty();
    let clip = floor(&kept, "a.mov");
    let first = pass(&kept, clip);
    kept.store.edit_line(first, 0, &take(20, 2)).expect("an edit");
    kept.store.edit_line(first, 1, &take(60, 1)).expect("an edit");
    // Something that ran before was found: the group begins 30 frames earlier.
    let second = pass_of(&kept, clip, 140, 30);
    let view = kept.store.group(second).expect("a group");
    let cuts: Vec<(i64, i64)> =
        view.line.switches().iter().map(|switch| (switch.at, switch.angle.0)).collect();
    assert_eq!((view.line.frames(), &cuts[..]), (140, &[(0, 1), (50, 2), (90, 1)][..]));
    let view = kept.store.turn_line(second, view.version, Way::Undo, false).expect("it can be taken back");
    assert_eq!((view.line.switches().len(), view.can_undo), (1, false));
    let view = kept.store.turn_line(second, view.version, Way::Redo, false).expect("and made again");
    assert_eq!(view.line.switches().len(), 3);
    // And later: what lies before the group is what it begins with.
    let third = pass_of(&kept, clip, 80, -25);
    let cuts: Vec<i64> =
        kept.store.group(third).expect("a group").line.switches().iter().map(|switch| switch.at).collect();
    assert_eq!(cuts, [0, 35]);
    assert_eq!(
        kept.store.group(first).expect("a group").line.switches().len(),
        3,
        "the old one keeps its own"
    );
}

#[test]
fn one_choice_for_a_whole_group_is_a_line_too_and_none_is_none() {
    let kept = Kept::empty();
    let clip = floor(&kept, "a.mov");
    let first = pass(&kept, clip);
    kept.store.edit_line(first, 0, &take(0, 2)).expect("an edit");
    let view = kept.store.group(pass_of(&kept, clip, 140, 30)).expect("a group");
    assert_eq!((view.line.switches().len(), view.line.switches()[0].angle), (1, AngleId(2)));
    let other = floor(&kept, "b.mov");
    assert!(!kept.store.group(pass(&kept, other)).expect("a group").can_undo);
    let longer = kept.store.group(pass_of(&kept, other, 150, 10)).expect("a group");
    assert!(!longer.can_undo, "nobody cut it");
}

#[test]
fn an_edit_names_only_angles_that_are_there_and_a_clip_named_often_counts_once() {
    let kept = Kept::empty();
    let clip = floor(&kept, "a.mov");
    let group = pass(&kept, clip);
    let elsewhere = kept.store.edit_line(group, 0, &take(20, 7));
    assert!(matches!(elsewhere, Err(StoreError::Refused(_))), "{elsewhere:?}");
    for by in [i64::MIN, i64::MAX] {
        let roll = kept.store.edit_line(group, 0, &LineEdit::Roll { index: 1, by });
        assert!(matches!(roll, Err(StoreError::Line(_))), "{roll:?}");
        assert!(matches!(kept.store.edit_line(group, 0, &take(by, 2)), Err(StoreError::Line(_))));
    }
    let often = IntakeChange::Day { clips: vec![clip; 100_000], day: "2".into() };
    kept.store.edit_intake(&often).expect("an edit");
    assert_eq!(kept.store.turn(Edited::Intake, Way::Undo).expect("an undo"), "shoot day of one clip");
}

#[test]
fn taking_in_again_keeps_what_a_person_decided() {
    let kept = Kept::empty();
    let clip = floor(&kept, "a.mov");
    let other = kept.store.device_of_folder("B_BENCH").expect("a device");
    for change in [
        IntakeChange::Device { clips: vec![clip], device: other },
        IntakeChange::Part { clips: vec![clip], part: Part::NoSync },
        IntakeChange::NameDevice { device: other, letter: "X".into(), name: "Crane".into() },
    ] {
        kept.store.edit_intake(&change).expect("changed");
    }
    assert_eq!(floor(&kept, "a.mov"), clip);
    let kept = kept.again();
    let stored = kept.store.clip(clip).expect("a clip");
    assert_eq!((stored.device, stored.part), (other, Part::NoSync));
    assert_eq!(stored.path, PathBuf::from("/m/A_FLOOR/a.mov"));
    let day = kept.store.day().expect("a day");
    assert_eq!((day.devices[1].letter.as_str(), day.devices[1].name.as_str()), ("X", "Crane"));
    // One unknown clip: nothing of the change is kept.
    let unknown = IntakeChange::Part { clips: vec![clip, ClipId(77)], part: Part::Wild };
    assert!(matches!(kept.store.edit_intake(&unknown), Err(StoreError::Missing { id: 77, .. })));
    assert_eq!(kept.store.clip(clip).expect("a clip").part, Part::NoSync);
}

#[test]
fn jobs_go_on_after_a_kill_and_after_a_stop() {
    let kept = Kept::empty();
    let listen = JobKind::Listen { clip: ClipId(1) };
    kept.store.queue(&JobKind::Proxy { clip: ClipId(1) }).expect("queued");
    kept.store.queue(&listen).expect("queued");
    assert_eq!(kept.store.queue(&listen).expect("queued"), kept.store.queue(&listen).expect("once"));
    let job = kept.store.next_job().expect("a store").expect("a job");
    assert_eq!(job.kind, listen, "what a person waits for comes first");
    let kept = kept.again();
    assert_eq!(kept.store.requeue_running().expect("requeued"), 1);
    let job = kept.store.next_job().expect("a store").expect("a job");
    kept.store.end_job(job.id, JobState::Failed, Some("why")).expect("ended");
    kept.store.stop_kind(JobName::Proxy).expect("stopped");
    assert!(kept.store.next_job().expect("a store").is_none());
    let summaries = kept.store.job_summaries().expect("summaries");
    assert_eq!(summaries.iter().map(|s| (s.failed, s.stopped)).collect::<Vec<_>>(), [(1, 0), (0, 1)]);
    assert_eq!(kept.store.resume_kind(JobName::Proxy).expect("resumed"), 1);
    assert!(kept.store.next_job().expect("a store").is_some());
}

#[test]
fn a_pass_waits_until_every_folder_is_read() {
    let kept = Kept::empty();
    let intake = JobKind::Intake { folder: "/m".into() };
    kept.store.queue(&intake).expect("queued");
    let first = kept.store.next_job().expect("a store").expect("a job");
    kept.store.queue(&JobKind::Pass { reference: None, plan: PassPlan::default() }).expect("queued");
    assert!(kept.store.next_job().expect("a store").is_none(), "the folder is still being read");
    kept.store.end_job(first.id, JobState::Done, None).expect("ended");
    let next = kept.store.next_job().expect("a store").expect("a job");
    assert_eq!(JobName::from(&next.kind), JobName::Pass);
}

#[test]
fn light_copies_wait_for_a_pass_but_not_those_that_are_looked_for() {
    let kept = Kept::empty();
    let (one, other) = (ClipId(1), ClipId(2));
    let all = [JobKind::Proxy { clip: one }, JobKind::Proxy { clip: other }, JobKind::Listen { clip: other }];
    all.iter().for_each(|kind| {
        kept.store.queue(kind).expect("queued");
    });
    kept.store.queue(&JobKind::Pass { reference: None, plan: PassPlan::default() }).expect("queued");
    let next = || kept.store.next_job().expect("a store");
    kept.store.want(&[other]).expect("wanted");
    let mut begun: Vec<JobName> = vec![];
    let mut jobs = vec![];
    while let Some(job) = next() {
        begun.push(JobName::from(&job.kind));
        jobs.push(job);
    }
    begun.sort_by_key(|kind| *kind as u8);
    assert_eq!(
        begun,
        [JobName::Listen, JobName::Proxy, JobName::Pass],
        "the copy that nobody looks for waits"
    );
    let pass = jobs.iter().find(|job| JobName::from(&job.kind) == JobName::Pass).expect("the pass");
    kept.store.end_job(pass.id, JobState::Done, None).expect("ended");
    assert_eq!(next().expect("the other copy").kind, JobKind::Proxy { clip: one });
}

#[test]
fn devices_take_their_letters_from_their_folders() {
    let kept = Kept::empty();
    for folder in ["A_FLOOR", "a-other", "SCREEN", "R RECORDER", "2024"] {
        kept.store.device_of_folder(folder).expect("a device");
    }
    let day = kept.store.day().expect("a day");
    let names: Vec<(&str, &str)> = day.devices.iter().map(|d| (d.letter.as_str(), d.name.as_str())).collect();
    assert_eq!(names, [("A", "Floor"), ("O", "other"), ("S", "SCREEN"), ("R", "Recorder"), ("B", "2024")]);
    kept.store
        .keep_note(&NoteView { path: "x".into(), code: NoteCode::Damaged, message: "one".into() })
        .expect("kept");
    kept.store
        .keep_note(&NoteView { path: "x".into(), code: NoteCode::Damaged, message: "two".into() })
        .expect("kept");
    assert_eq!(kept.store.day().expect("a day").notes.len(), 1);
}

#[test]
fn a_pass_queued_by_an_older_release_is_still_understood() {
    let old: JobKind = serde_json::from_str(r#"{"kind":"pass","reference":null}"#).expect("a job");
    assert_eq!(old, JobKind::Pass { reference: None, plan: PassPlan::default() });
    let near = Near { clip: ClipId(1), against: ClipId(2), start_ms: -1250, within_ms: 40 };
    let plan = PassPlan {
        effort: Effort::Deep,
        clips: Some(vec![ClipId(3)]),
        near: Some(near),
        ..PassPlan::default()
    };
    let job = JobKind::Pass { reference: None, plan };
    let text = serde_json::to_string(&job).expect("text");
    assert_eq!(serde_json::from_str::<JobKind>(&text).expect("a job"), job);
}

#[test]
fn what_the_server_ended_at_twice_waits_for_a_person() {
    let mut kept = Kept::empty();
    let clip = floor(&kept, "A001.mov");
    kept.store.queue(&JobKind::Proxy { clip }).expect("queued");
    kept.store.queue(&JobKind::Intake { folder: "/m".into() }).expect("queued");
    for _ in 0..2 {
        // It takes the server down, which begins with it again.
        assert_eq!(
            kept.store.next_job().expect("asked").map(|job| JobName::from(&job.kind)),
            Some(JobName::Intake)
        );
        kept = kept.again();
        kept.store.requeue_running().expect("asked");
    }
    let failed =
        kept.store.job_summaries().expect("asked").into_iter().find(|job| job.kind == JobName::Intake);
    assert!(
        failed.is_some_and(|job| job.failed == 1 && job.message.is_some_and(|why| why.contains("twice")))
    );
    let next = kept.store.next_job().expect("asked").expect("the other");
    assert_eq!(next.kind, JobKind::Proxy { clip });
    // An end in good order is none of its doing, however often.
    for _ in 0..3 {
        kept.store.put_back(next.id).expect("put back");
        kept = kept.again();
        kept.store.requeue_running().expect("asked");
        assert_eq!(kept.store.next_job().expect("asked").map(|job| job.id), Some(next.id));
    }
    assert_eq!(kept.store.resume_kind(JobName::Intake).expect("asked"), 1);
    assert_eq!(
        kept.store.next_job().expect("asked").map(|job| JobName::from(&job.kind)),
        Some(JobName::Intake)
    );
}

fn refusal(path: &std::path::Path) -> String {
    Store::open(path).err().expect("refused").to_string()
}

#[test]
fn a_damaged_production_is_refused_with_the_copy_to_put_in_its_place() {
    let kept = Kept::empty();
    let folder = kept.folder().to_owned();
    let path = folder.join("p.sqlite");
    for i in 0..300 {
        floor(&kept, &format!("A{i:03}.mov"));
    }
    let copy = back_up(kept.store.path()).expect("copied while it is in use");
    drop(kept.store);
    let whole = std::fs::read(&path).expect("a file");
    let spoil = |bytes: Vec<u8>| {
        for beside in ["p.sqlite-wal", "p.sqlite-shm"] {
            let _ = std::fs::remove_file(folder.join(beside));
        }
        std::fs::write(&path, bytes).expect("written");
    };
    let mut torn = whole.clone();
    let length = torn.len();
    torn[length / 3..2 * length / 3].fill(0x5a);
    for (what, bytes) in [("torn", torn), ("no database", vec![7; 4096]), ("0 bytes", vec![])] {
        spoil(bytes.clone());
        let said = refusal(&path);
        let newest = copy.to_str().expect("a name");
        assert!(said.contains("is damaged") && said.contains(newest), "{what}: {said}");
        assert_eq!(std::fs::read(&path).expect("a file"), bytes, "{what}: it is left as it is");
    }
    spoil(std::fs::read(&copy).expect("the copy"));
    let again = Store::open(&path).expect("the copy is whole");
    assert_eq!(again.day().expect("the day").clips.len(), 300);
    // Only the last few are kept.
    for _ in 0..9 {
        back_up(again.path()).expect("copied");
    }
    let copies = std::fs::read_dir(folder.join("backups")).expect("a folder").count();
    assert!((2..=6).contains(&copies), "{copies}");
}

#[test]
fn damage_that_only_a_full_look_finds_is_found_by_one() {
    let kept = Kept::empty();
    for name in 0..200 {
        floor(&kept, &format!("{name}.mov"));
    }
    // An index that no longer says what its table does: as after a faulty sector.
    let path = kept.folder().join("p.sqlite");
    check_in_full(&path).expect("it is sound");
    let raw = rusqlite::Connection::open(&path).expect("opened");
    raw.execute_batch(
        "PRAGMA writable_schema = ON;
         UPDATE sqlite_schema SET sql = 'CREATE INDEX odd ON clip (relative)' WHERE name = 'odd';
         CREATE INDEX odd ON clip (bytes);
         UPDATE sqlite_schema SET sql = 'CREATE INDEX odd ON clip (relative)' WHERE name = 'odd';",
    )
    .expect("damaged");
    drop(raw);
    let said = check_in_full(&path).expect_err("it is damaged").to_string();
    assert!(said.contains("odd"), "{said}");
    // At a start, it is quick to look: what is read from the table is right.
    kept.again();
}

#[test]
fn a_production_of_a_newer_version_is_refused_with_both_numbers() {
    let kept = Kept::empty();
    let path = kept.folder().join("p.sqlite");
    drop(kept.store);
    let file = rusqlite::Connection::open(&path).expect("a file");
    file.pragma_update(None, "user_version", 900).expect("newer");
    drop(file);
    let said = refusal(&path);
    assert!(said.contains("newer version (its layout is 900, this version knows"), "{said}");
}
