//! What a person chooses at intake: kept, undone, redone, also after a kill.

use crate::common::Kept;
use metaxis_core::{
    clip::ClipId,
    intake::{HealthKind, SlateLog, SlateRow},
    sync::EvidenceKind,
};
use metaxis_store::{
    DayView, Edited, IntakeChange, JobKind, NoteView, Part, SlateMarkView, SlateSource, StoreError,
    StoredLog, Turns, Way,
};
use proptest::prelude::*;

/// A day but for how often it was edited.
fn without_turns(day: DayView) -> DayView {
    DayView { intake: Turns::default(), ..day }
}

#[test]
fn every_change_can_be_taken_back_and_made_again_also_after_a_kill() {
    let kept = Kept::new();
    let before = kept.day();
    let all = kept.clips.clone();
    kept.edit(IntakeChange::Device { clips: all[..2].to_vec(), device: kept.devices[1] });
    kept.edit(IntakeChange::Part { clips: all[1..4].to_vec(), part: Part::Wild });
    kept.edit(IntakeChange::Day { clips: all.clone(), day: "Day 2".into() });
    kept.edit(kept.slate(0, "4A", "7"));
    kept.edit(IntakeChange::NameDevice { device: kept.devices[0], letter: "X".into(), name: "Crane".into() });
    kept.edit(IntakeChange::MoveDevice { device: kept.devices[0], by: 1 });
    kept.edit(IntakeChange::Join { clips: all[3..].to_vec() });
    kept.edit(IntakeChange::SetAside { key: "duplicate:1".into(), aside: true });
    let kept = kept.again();
    let after = kept.day();
    assert_eq!(after.devices[1].name, "Crane", "moved behind the other");
    assert_eq!(
        (kept.clip(0).scene.as_deref(), kept.clip(0).slate_source),
        (Some("4A"), Some(SlateSource::Hand))
    );
    assert_eq!(after.spans.len(), 1);
    assert_eq!(after.spans[0].clips, all[3..]);
    assert_eq!(after.intake.undo.as_deref(), Some("health note set aside"));
    for _ in 0..8 {
        kept.store.turn(Edited::Intake, Way::Undo).expect("undone");
    }
    assert!(matches!(kept.store.turn(Edited::Intake, Way::Undo), Err(StoreError::NothingTo("undo"))));
    let kept = kept.again();
    assert_eq!(without_turns(kept.day()), without_turns(before));
    for _ in 0..8 {
        kept.store.turn(Edited::Intake, Way::Redo).expect("made again");
    }
    assert_eq!(without_turns(kept.day()), without_turns(after));
    // A new change after an undo is a new way; the old one is left.
    kept.store.turn(Edited::Intake, Way::Undo).expect("undone");
    kept.edit(IntakeChange::Part { clips: vec![all[0]], part: Part::NoSync });
    assert!(matches!(kept.store.turn(Edited::Intake, Way::Redo), Err(StoreError::NothingTo("redo"))));
    // What changes nothing is no change.
    kept.edit(IntakeChange::Part { clips: vec![all[0]], part: Part::NoSync });
    kept.store.turn(Edited::Intake, Way::Undo).expect("undone");
    assert_eq!(kept.clip(0).part, Part::Sync);
}

#[test]
fn a_slate_is_by_hand_else_by_the_log_else_by_the_file() {
    let kept = Kept::new();
    assert_eq!(kept.clip(0).slate_source, Some(SlateSource::File));
    let row = |line, take: &str, file: &str| SlateRow {
        line,
        scene: "12".into(),
        take: take.into(),
        pictures: vec![file.into()],
        circled: true,
        ..SlateRow::default()
    };
    let log = SlateLog { rows: vec![row(2, "1", "A001"), row(3, "9", "a002.MOV"), row(4, "5", "A777")] };
    kept.edit(IntakeChange::TakeLog { log: StoredLog { name: "log.csv".into(), log } });
    let first = kept.clip(0);
    assert_eq!((first.scene.as_deref(), first.slate_source), (Some("12"), Some(SlateSource::Log)));
    assert!(first.circled);
    let day = kept.day();
    assert_eq!(day.log_missing, ["A777 (line 4)"]);
    let clashes: Vec<_> = day.health.iter().filter(|h| h.note.kind == HealthKind::SlateClash).collect();
    assert_eq!(clashes.len(), 2, "both say another scene in their iXML: {clashes:?}");
    kept.edit(kept.slate(0, "3", "2"));
    assert_eq!((kept.clip(0).scene.as_deref(), kept.clip(0).take.as_deref()), (Some("3"), Some("2")));
    kept.edit(kept.slate(0, "", ""));
    assert_eq!(kept.clip(0).scene.as_deref(), Some("12"), "emptied: the log speaks again");
    kept.edit(IntakeChange::DropLog);
    assert_eq!(kept.clip(0).scene.as_deref(), Some("1"));
    assert!(kept.day().log_missing.is_empty());
    kept.store.turn(Edited::Intake, Way::Undo).expect("undone");
    assert_eq!(kept.clip(0).scene.as_deref(), Some("12"), "the log is back");
    while kept.store.turn(Edited::Intake, Way::Undo).is_ok() {}
    assert_eq!(kept.day().slate_log, None, "and it was not there at first");
}

#[test]
fn spans_are_recognised_unless_a_person_decided() {
    let kept = Kept::new();
    let all = kept.clips.clone();
    kept.store.keep_spans(&[all[..3].to_vec()]).expect("kept");
    assert_eq!(kept.day().spans[0].clips, all[..3]);
    kept.edit(IntakeChange::Separate { clips: vec![all[2]] });
    assert_eq!(kept.day().spans[0].clips, all[..2]);
    kept.store.keep_spans(&[all[..3].to_vec()]).expect("kept");
    assert!(kept.day().spans.iter().all(|span| !span.clips.contains(&all[2])), "it stays by itself");
    kept.edit(IntakeChange::Separate { clips: vec![all[0]] });
    assert!(kept.day().spans.is_empty(), "one clip alone is no span");
    for wrong in [vec![all[0]], vec![all[0], all[3]]] {
        assert!(matches!(
            kept.store.edit_intake(&IntakeChange::Join { clips: wrong }),
            Err(StoreError::Refused(_))
        ));
    }
}

#[test]
fn notes_are_set_aside_and_brought_back() {
    let kept = Kept::new();
    let message = "C/x.mp4: damaged or not a media file (moov atom not found); copy it from the card again";
    kept.store
        .keep_note(&NoteView {
            path: "C/x.mp4".into(),
            code: metaxis_core::clip::NoteCode::Damaged,
            message: message.into(),
        })
        .expect("kept");
    let damaged = |day: &DayView| {
        day.health.iter().find(|h| h.note.kind == HealthKind::Damaged).cloned().expect("a note")
    };
    let note = damaged(&kept.day());
    assert_eq!(note.note.todo, "Copy it from the card again.");
    assert!(!note.aside && note.note.what.contains("x.mp4"));
    kept.edit(IntakeChange::SetAside { key: note.note.key.clone(), aside: true });
    assert!(damaged(&kept.day()).aside);
    kept.edit(IntakeChange::SetAside { key: note.note.key, aside: false });
    assert!(!damaged(&kept.day()).aside);
}

#[test]
fn what_somebody_looks_at_is_made_first() {
    let kept = Kept::new();
    for clip in &kept.clips {
        kept.store.queue(&JobKind::Proxy { clip: *clip }).expect("queued");
    }
    kept.store.want(&kept.clips[4..5]).expect("wanted");
    let next = kept.store.next_job().expect("a store").expect("a job");
    assert_eq!(next.kind, JobKind::Proxy { clip: kept.clips[4] });
    kept.store.want(&kept.clips[2..3]).expect("wanted");
    kept.store.want(&kept.clips[1..2]).expect("wanted");
    let next = kept.store.next_job().expect("a store").expect("a job");
    assert_eq!(next.kind, JobKind::Proxy { clip: kept.clips[1] }, "only the last wish counts");
}

#[test]
fn a_file_that_moved_stays_the_clip_it_was() {
    let kept = Kept::new();
    kept.edit(kept.slate(0, "9", "9"));
    kept.store.relink(kept.clips[0], "/n", "X/A001.mov", b"/n/X/A001.mov").expect("relinked");
    let clip = kept.store.clip(kept.clips[0]).expect("a clip");
    assert_eq!((clip.path.to_str(), clip.root.as_str()), (Some("/n/X/A001.mov"), "/n"));
    assert_eq!(kept.clip(0).scene.as_deref(), Some("9"));
    assert_eq!(kept.store.clips_of_content(&clip.fingerprint).expect("clips").len(), 1);
}

/// One of the changes a person can make.
fn any_change() -> impl Strategy<Value = (u8, Vec<usize>, usize, String)> {
    (0..12_u8, prop::collection::vec(0..6_usize, 1..5), 0..2_usize, "[A-Z0-9 ]{0,3}")
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, ..ProptestConfig::default() })]

    #[test]
    fn undo_goes_all_the_way_back_whatever_was_done(changes in prop::collection::vec(any_change(), 1..12)) {
        let kept = Kept::new();
        let before = kept.day();
        for (kind, clips, device, text) in changes {
            let clips: Vec<ClipId> = clips.into_iter().map(|i| kept.clips[i]).collect();
            let device = kept.devices[device];
            let change = match kind {
                0 => IntakeChange::Device { clips, device },
                1 => IntakeChange::Part { clips, part: Part::Silent },
                2 => IntakeChange::Day { clips, day: text },
                3 => IntakeChange::Slate { clips, scene: Some(text.clone()), take: None, notes: Some(text), circled: Some(true) },
                4 => IntakeChange::Join { clips },
                5 => IntakeChange::Separate { clips },
                6 => IntakeChange::NameDevice { device, letter: "Q".into(), name: format!("n{text}") },
                7 => IntakeChange::Distance { device, distance_cm: 250 * text.len() as i64 },
                8 => IntakeChange::ClipDistance { clips, distance_cm: (!text.is_empty()).then_some(1200) },
                9 => IntakeChange::TakeOff { device, kind: EvidenceKind::AudioTimecode, frames: text.len() as i64 },
                10 => IntakeChange::Mark {
                    clips,
                    marks: vec![SlateMarkView { picture_us: Some(40_000), take: Some(text), ..SlateMarkView::default() }],
                },
                _ => IntakeChange::MoveDevice { device, by: text.len() as i32 - 1 },
            };
            // A refused change changes nothing, so it needs no undo.
            let _ = kept.store.edit_intake(&change);
        }
        while kept.store.turn(Edited::Intake, Way::Undo).is_ok() {}
        prop_assert_eq!(without_turns(kept.day()), without_turns(before));
    }
}

#[test]
fn a_clip_has_its_own_distance_until_it_is_given_none() {
    let kept = Kept::new();
    let of = |kept: &Kept, i: usize| {
        let day = kept.day();
        day.clips.iter().find(|clip| clip.id == kept.clips[i]).expect("the clip").distance_m
    };
    let give = |clips: &[usize], distance_cm| {
        let clips = clips.iter().map(|&i| kept.clips[i]).collect();
        kept.store.edit_intake(&IntakeChange::ClipDistance { clips, distance_cm }).expect("changed");
    };
    give(&[0, 1], Some(4150));
    // No distance of its own and a distance of nothing are two things.
    give(&[2], Some(0));
    assert_eq!(
        [of(&kept, 0), of(&kept, 1), of(&kept, 2), of(&kept, 3)],
        [Some(41.5), Some(41.5), Some(0.0), None]
    );
    give(&[1], None);
    assert_eq!(kept.day().intake.undo.as_deref(), Some("distance of one clip"));
    let kept = kept.again();
    assert_eq!([of(&kept, 0), of(&kept, 1)], [Some(41.5), None], "it outlives the program");
    assert_eq!(kept.store.turn(Edited::Intake, Way::Undo).expect("undone"), "distance of one clip");
    assert_eq!(of(&kept, 1), Some(41.5));
    kept.store.turn(Edited::Intake, Way::Undo).expect("undone");
    assert_eq!(kept.store.turn(Edited::Intake, Way::Undo).expect("undone"), "distance of 2 clips");
    assert_eq!([of(&kept, 0), of(&kept, 1), of(&kept, 2)], [None; 3]);
    let missing =
        IntakeChange::ClipDistance { clips: vec![kept.clips[0], ClipId(999)], distance_cm: Some(1) };
    assert!(matches!(kept.store.edit_intake(&missing), Err(StoreError::Missing { .. })));
    assert_eq!(of(&kept, 0), None, "nothing is changed where any part cannot be");
}
