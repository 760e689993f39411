//! What is kept, across restarts too.

use metaxis_core::{
    clip::{ClipFacts, ClipId, DeviceId},
    group::{Angle, AnglePart, Group},
    line::LineEdit,
    sync::{Effort, Placement, Stretch},
    time::{FrameRate, Tick, Timecode},
};
use metaxis_store::{
    Edited, IntakeChange, JobKind, JobState, Near, NewClip, NoteView, Part, PassFacts, PassPlan, Store,
    StoreError, Way, back_up, check_in_full,
};
use std::path::PathBuf;

struct Kept {
    folder: tempfile::TempDir,
    store: Store,
}

impl Kept {
    fn new() -> Self {
        let folder = tempfile::tempdir().expect("a folder");
        let store = Store::open(&folder.path().join("p.sqlite")).expect("a store");
        Self { folder, store }
    }

    /// As after a kill: nothing is closed in an orderly way but the file.
    fn again(self) -> Self {
        drop(self.store);
        let store = Store::open(&self.folder.path().join("p.sqlite")).expect("a store");
        Self { folder: self.folder, store }
    }

    fn clip(&self, name: &str) -> ClipId {
        let device = self.store.device_of_folder("A_FLOOR").expect("a device");
        self.store
            .keep_clip(&NewClip {
                device,
                root: "/m".into(),
                relative: format!("A_FLOOR/{name}"),
                path: format!("/m/A_FLOOR/{name}").into_bytes(),
                bytes: 1,
                fingerprint: "0".repeat(32),
                facts: ClipFacts { duration_s: 4.0, ..ClipFacts::default() },
                part: Part::Sync,
                day: None,
            })
            .expect("kept")
    }

    fn pass(&self, clip: ClipId) -> i64 {
        self.pass_of(clip, 100, 0)
    }

    /// A pass with one group of so many frames, in which the clip begins at frame `from`; the number of the group.
    fn pass_of(&self, clip: ClipId, frames: i64, from: i64) -> i64 {
        let stretch = Stretch {
            clip_start_s: 0.0,
            clip_end_s: 4.0,
            start_s: 0.0,
            rate_ppm: 0.0,
            start_sigma_s: 0.0,
            rate_sigma_ppm: 0.0,
        };
        let angle = |device: i64| Angle {
            device: DeviceId(device),
            parts: vec![AnglePart {
                clip,
                from_frame: from,
                to_frame: from + 100,
                stretch,
                picture_delay_s: 0.0,
                rate: FrameRate::FPS_25,
            }],
        };
        let group = Group {
            name: "1 / 1".into(),
            start: Timecode::new(1000, FrameRate::FPS_25, false),
            axis_zero: Tick(0),
            component: 0,
            frames,
            width: 640,
            height: 360,
            angles: vec![angle(1), angle(2)],
            sound: None,
        };
        let reference = self.store.device_of_folder("A_FLOOR").expect("a device");
        let (name, axis_zero) = ("Whole day".into(), Tick(0));
        let pass = PassFacts {
            name,
            reference,
            origin: clip,
            axis_zero,
            took_s: 1.0,
            notes: vec![],
            islands: vec![],
        };
        self.store.keep_pass(&pass, &[(clip, Placement::unplaced("a test"))], &[group]).expect("a pass");
        self.store.day().expect("a day").groups[0].id
    }
}

fn take(at: i64, angle: i64) -> LineEdit {
    LineEdit::Take { at, angle: DeviceId(angle) }
}

#[test]
fn undo_and_redo_survive_a_restart() {
    let kept = Kept::new();
    let group = kept.pass(kept.clip("a.mov"));
    kept.store.edit_line(group, 0, &take(20, 2)).expect("an edit");
    kept.store.edit_line(group, 1, &take(60, 1)).expect("an edit");
    let kept = kept.again();
    let view = kept.store.undo_line(group, 2).expect("an undo");
    assert_eq!(view.line.switches().len(), 2);
    assert!(view.can_undo && view.can_redo);
    let kept = kept.again();
    let view = kept.store.redo_line(group, 3).expect("a redo");
    assert_eq!(view.line.switches().len(), 3);
    assert_eq!(view.labels[2].to_string(), Timecode::new(1060, FrameRate::FPS_25, false).to_string());
    kept.store.undo_line(group, 4).expect("an undo");
    kept.store.undo_line(group, 5).expect("an undo");
    assert!(matches!(kept.store.undo_line(group, 6), Err(StoreError::NothingTo("undo"))));
    // A new edit ends what could be redone.
    let view = kept.store.edit_line(group, 6, &take(5, 2)).expect("an edit");
    assert!(!view.can_redo);
    assert!(matches!(kept.store.redo_line(group, 7), Err(StoreError::NothingTo("redo"))));
}

#[test]
fn a_stale_or_refused_edit_changes_nothing() {
    let kept = Kept::new();
    let group = kept.pass(kept.clip("a.mov"));
    kept.store.edit_line(group, 0, &take(20, 2)).expect("an edit");
    let stale = kept.store.edit_line(group, 0, &take(30, 1));
    assert!(matches!(stale, Err(StoreError::Stale { given: 0, newest: 1 })));
    assert!(matches!(kept.store.edit_line(group, 1, &take(500, 1)), Err(StoreError::Line(_))));
    let view = kept.store.group(group).expect("a group");
    assert_eq!((view.version, view.line.switches().len()), (1, 2));
    assert!(matches!(kept.store.group(99), Err(StoreError::Missing { .. })));
}

#[test]
fn a_new_pass_keeps_the_old_one_and_carries_the_line_over() {
    let kept = Kept::new();
    let clip = kept.clip("a.mov");
    let first = kept.pass(clip);
    kept.store.edit_line(first, 0, &take(20, 2)).expect("an edit");
    let second = kept.pass(clip);
    assert_ne!(first, second);
    let view = kept.store.group(second).expect("a group");
    assert_eq!(view.line.switches().len(), 2);
    let view = kept.store.undo_line(second, view.version).expect("its history came along");
    assert_eq!(view.line.switches().len(), 1);
    let day = kept.store.day().expect("a day");
    assert_eq!(day.passes.len(), 2);
    kept.store.show_pass(day.passes[0].id).expect("the first pass");
    assert_eq!(kept.store.day().expect("a day").groups[0].id, first);
    assert_eq!(kept.store.group(first).expect("a group").line.switches().len(), 2);
}

#[test]
fn a_new_pass_keeps_a_groups_name_and_the_order_of_its_angles_and_the_old_one_leads_on() {
    let kept = Kept::new();
    let clip = kept.clip("a.mov");
    let first = kept.pass(clip);
    kept.store.rename_group(first, "The long take").expect("a name");
    kept.store.move_angle(first, 1, 0).expect("an order");
    assert_eq!(kept.store.group(first).expect("a group").followed_by, None);
    let second = kept.pass_of(clip, 120, 0);
    let view = kept.store.group(second).expect("a group");
    let order: Vec<i64> = view.group.angles.iter().map(|angle| angle.device.0).collect();
    assert_eq!((view.group.name.as_str(), &order[..]), ("The long take", &[2, 1][..]));
    assert_eq!(view.followed_by, None);
    let follower = kept.store.group(first).expect("a group").followed_by.expect("it is led on");
    assert_eq!((follower.id, follower.name.as_str()), (second, "The long take"));
    // And on, through a restart, and to a pass with other clips not at all.
    let kept = kept.again();
    let third = kept.pass(clip);
    assert_eq!(kept.store.group(third).expect("a group").group.name, "The long take");
    let other = kept.pass(kept.clip("b.mov"));
    let view = kept.store.group(other).expect("a group");
    assert_eq!((view.group.name.as_str(), view.group.angles[0].device), ("1 / 1", DeviceId(1)));
    assert_eq!(kept.store.group(third).expect("a group").followed_by, None);
}

#[test]
fn cuts_stay_on_their_pictures_where_a_group_begins_earlier() {
    let kept = Kept::new();
    let clip = kept.clip("a.mov");
    let first = kept.pass(clip);
    kept.store.edit_line(first, 0, &take(20, 2)).expect("an edit");
    kept.store.edit_line(first, 1, &take(60, 1)).expect("an edit");
    // Something that ran before was found: the group begins 30 frames earlier.
    let second = kept.pass_of(clip, 140, 30);
    let view = kept.store.group(second).expect("a group");
    let cuts: Vec<(i64, i64)> =
        view.line.switches().iter().map(|switch| (switch.at, switch.angle.0)).collect();
    assert_eq!((view.line.frames(), &cuts[..]), (140, &[(0, 1), (50, 2), (90, 1)][..]));
    let view = kept.store.undo_line(second, view.version).expect("it can be taken back");
    assert_eq!((view.line.switches().len(), view.can_undo), (1, false));
    let view = kept.store.redo_line(second, view.version).expect("and made again");
    assert_eq!(view.line.switches().len(), 3);
    // And later: what lies before the group is what it begins with.
    let third = kept.pass_of(clip, 80, -25);
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
    let kept = Kept::new();
    let clip = kept.clip("a.mov");
    let first = kept.pass(clip);
    kept.store.edit_line(first, 0, &take(0, 2)).expect("an edit");
    let view = kept.store.group(kept.pass_of(clip, 140, 30)).expect("a group");
    assert_eq!((view.line.switches().len(), view.line.switches()[0].angle), (1, DeviceId(2)));
    let other = kept.clip("b.mov");
    assert!(!kept.store.group(kept.pass(other)).expect("a group").can_undo);
    let longer = kept.store.group(kept.pass_of(other, 150, 10)).expect("a group");
    assert!(!longer.can_undo, "nobody cut it");
}

#[test]
fn an_edit_names_only_angles_that_are_there_and_a_clip_named_often_counts_once() {
    let kept = Kept::new();
    let clip = kept.clip("a.mov");
    let group = kept.pass(clip);
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
    let kept = Kept::new();
    let clip = kept.clip("a.mov");
    let other = kept.store.device_of_folder("B_BENCH").expect("a device");
    for change in [
        IntakeChange::Device { clips: vec![clip], device: other },
        IntakeChange::Part { clips: vec![clip], part: Part::NoSync },
        IntakeChange::NameDevice { device: other, letter: "X".into(), name: "Crane".into() },
    ] {
        kept.store.edit_intake(&change).expect("changed");
    }
    assert_eq!(kept.clip("a.mov"), clip);
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
    let kept = Kept::new();
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
    kept.store.stop_kind("proxy").expect("stopped");
    assert!(kept.store.next_job().expect("a store").is_none());
    let summaries = kept.store.job_summaries().expect("summaries");
    assert_eq!(summaries.iter().map(|s| (s.failed, s.stopped)).collect::<Vec<_>>(), [(1, 0), (0, 1)]);
    assert_eq!(kept.store.resume_kind("proxy").expect("resumed"), 1);
    assert!(kept.store.next_job().expect("a store").is_some());
}

#[test]
fn a_pass_waits_until_every_folder_is_read() {
    let kept = Kept::new();
    let intake = JobKind::Intake { folder: "/m".into() };
    kept.store.queue(&intake).expect("queued");
    let first = kept.store.next_job().expect("a store").expect("a job");
    kept.store.queue(&JobKind::Pass { reference: None, plan: PassPlan::default() }).expect("queued");
    assert!(kept.store.next_job().expect("a store").is_none(), "the folder is still being read");
    kept.store.end_job(first.id, JobState::Done, None).expect("ended");
    let next = kept.store.next_job().expect("a store").expect("a job");
    assert_eq!(next.kind.name(), "pass");
}

#[test]
fn light_copies_wait_for_a_pass_but_not_those_that_are_looked_for() {
    let kept = Kept::new();
    let (one, other) = (ClipId(1), ClipId(2));
    let all = [JobKind::Proxy { clip: one }, JobKind::Proxy { clip: other }, JobKind::Listen { clip: other }];
    all.iter().for_each(|kind| {
        kept.store.queue(kind).expect("queued");
    });
    kept.store.queue(&JobKind::Pass { reference: None, plan: PassPlan::default() }).expect("queued");
    let next = || kept.store.next_job().expect("a store");
    kept.store.want(&[other]).expect("wanted");
    let mut begun: Vec<&str> = vec![];
    let mut jobs = vec![];
    while let Some(job) = next() {
        begun.push(job.kind.name());
        jobs.push(job);
    }
    begun.sort_unstable();
    assert_eq!(begun, ["listen", "pass", "proxy"], "the copy that nobody looks for waits");
    let pass = jobs.iter().find(|job| job.kind.name() == "pass").expect("the pass");
    kept.store.end_job(pass.id, JobState::Done, None).expect("ended");
    assert_eq!(next().expect("the other copy").kind, JobKind::Proxy { clip: one });
}

#[test]
fn devices_take_their_letters_from_their_folders() {
    let kept = Kept::new();
    for folder in ["A_FLOOR", "a-other", "SCREEN", "R RECORDER", "2024"] {
        kept.store.device_of_folder(folder).expect("a device");
    }
    let day = kept.store.day().expect("a day");
    let names: Vec<(&str, &str)> = day.devices.iter().map(|d| (d.letter.as_str(), d.name.as_str())).collect();
    assert_eq!(names, [("A", "Floor"), ("O", "other"), ("S", "SCREEN"), ("R", "Recorder"), ("B", "2024")]);
    kept.store
        .keep_note(&NoteView { path: "x".into(), code: "damaged".into(), message: "one".into() })
        .expect("kept");
    kept.store
        .keep_note(&NoteView { path: "x".into(), code: "damaged".into(), message: "two".into() })
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
    let mut kept = Kept::new();
    let clip = kept.clip("A001.mov");
    kept.store.queue(&JobKind::Proxy { clip }).expect("queued");
    kept.store.queue(&JobKind::Intake { folder: "/m".into() }).expect("queued");
    for _ in 0..2 {
        // It takes the server down, which begins with it again.
        assert_eq!(kept.store.next_job().expect("asked").map(|job| job.kind.name()), Some("intake"));
        kept = kept.again();
        kept.store.requeue_running().expect("asked");
    }
    let failed = kept.store.job_summaries().expect("asked").into_iter().find(|job| job.kind == "intake");
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
    assert_eq!(kept.store.resume_kind("intake").expect("asked"), 1);
    assert_eq!(kept.store.next_job().expect("asked").map(|job| job.kind.name()), Some("intake"));
}

fn refusal(path: &std::path::Path) -> String {
    Store::open(path).err().expect("refused").to_string()
}

#[test]
fn a_damaged_production_is_refused_with_the_copy_to_put_in_its_place() {
    let kept = Kept::new();
    let path = kept.folder.path().join("p.sqlite");
    for i in 0..300 {
        kept.clip(&format!("A{i:03}.mov"));
    }
    let copy = back_up(kept.store.path()).expect("copied while it is in use");
    drop(kept.store);
    let whole = std::fs::read(&path).expect("a file");
    let spoil = |bytes: Vec<u8>| {
        for beside in ["p.sqlite-wal", "p.sqlite-shm"] {
            let _ = std::fs::remove_file(kept.folder.path().join(beside));
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
    let copies = std::fs::read_dir(kept.folder.path().join("backups")).expect("a folder").count();
    assert!((2..=6).contains(&copies), "{copies}");
}

#[test]
fn damage_that_only_a_full_look_finds_is_found_by_one() {
    let kept = Kept::new();
    for name in 0..200 {
        kept.clip(&format!("{name}.mov"));
    }
    // An index that no longer says what its table does: as after a faulty sector.
    let path = kept.folder.path().join("p.sqlite");
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
    let kept = Kept::new();
    let path = kept.folder.path().join("p.sqlite");
    drop(kept.store);
    let file = rusqlite::Connection::open(&path).expect("a file");
    file.pragma_update(None, "user_version", 900).expect("newer");
    drop(file);
    let said = refusal(&path);
    assert!(said.contains("newer version (its layout is 900, this version knows"), "{said}");
}
