//! Every edit there is: made, taken back, made again, over restarts.

use crate::common::Kept;
use metaxis_core::{
    group::{AngleId, Arrange, GroupFormat},
    intake::SlateLog,
    line::LineEdit,
    sound::{Correction, Fill, Handling, SoundChange, SoundForm, TrackKey},
    sync::{EvidenceKind, TakenOff},
    time::{FrameRate, Timecode},
};
use metaxis_store::{
    Edited, GroupChange, IntakeChange, Part, SlateMarkView, Store, StoreError, StoredLog, Way,
};
use rusqlite::Connection;

/// Everything that is kept but the log itself, row by row.
fn state(store: &Store) -> Vec<String> {
    let connection = Connection::open(store.path()).expect("the file");
    let names = "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT IN ('edit', 'edited') ORDER BY name";
    let tables: Vec<String> = connection
        .prepare(names)
        .and_then(|mut all| all.query_map([], |row| row.get(0))?.collect())
        .expect("tables");
    let rows = |table: &String| -> Vec<String> {
        // A group that is gone is as if it had never been.
        let there = if table == "cut_group" { "WHERE gone = 0" } else { "" };
        let mut statement = connection.prepare(&format!("SELECT * FROM {table} {there}")).expect("a table");
        let columns = statement.column_count();
        let row = |row: &rusqlite::Row| -> rusqlite::Result<String> {
            let values: Vec<rusqlite::types::Value> =
                (0..columns).map(|i| row.get(i)).collect::<Result<_, _>>()?;
            // Nothing taken off is written in two ways.
            let nothing = serde_json::to_string(&TakenOff::default()).expect("text");
            let nothing = format!("{:?}", rusqlite::types::Value::Text(nothing));
            Ok(format!("{table} {values:?}").replace(&nothing, "Text(\"{}\")"))
        };
        statement.query_map([], row).and_then(Iterator::collect).expect("rows")
    };
    tables.iter().flat_map(rows).collect()
}

/// Makes an edit, takes it back and makes it again, each time over a restart.
fn there_and_back(kept: Kept, what: &str, document: Edited, edit: &dyn Fn(&Kept)) -> Kept {
    let before = state(&kept.store);
    edit(&kept);
    let after = state(&kept.store);
    assert!(before != after, "{what} changes nothing");
    let mut kept = kept.again();
    for (way, expected) in
        [(Way::Undo, &before), (Way::Redo, &after), (Way::Undo, &before), (Way::Redo, &after)]
    {
        let said = kept.store.turn(document, way).expect("a step");
        assert!(!said.is_empty(), "{what} is not said");
        let now = state(&kept.store);
        let differs: Vec<_> = now.iter().zip(expected).filter(|(now, then)| now != then).collect();
        assert!(differs.is_empty() && now.len() == expected.len(), "{what}, {way:?}: {differs:#?}");
        kept = kept.again();
    }
    assert!(matches!(kept.store.turn(document, Way::Redo), Err(StoreError::NothingTo("redo"))));
    kept
}

#[test]
fn every_edit_can_be_undone_and_redone() {
    let mut kept = Kept::synced();
    let (clips, devices) = (kept.clips.clone(), kept.devices.clone());
    let (one, two) = (vec![clips[0]], vec![clips[0], clips[1]]);
    let text = || Some("4A".to_owned());
    let log = StoredLog { name: "log.csv".into(), log: SlateLog { rows: vec![] } };
    let changes: Vec<IntakeChange> = vec![
        IntakeChange::Device { clips: one.clone(), device: devices[1] },
        IntakeChange::Device { clips: one.clone(), device: devices[0] },
        IntakeChange::Part { clips: two.clone(), part: Part::Wild },
        IntakeChange::Day { clips: two.clone(), day: "Day 2".into() },
        IntakeChange::Slate {
            clips: one.clone(),
            scene: text(),
            take: text(),
            notes: text(),
            circled: Some(true),
        },
        IntakeChange::Mark {
            clips: one.clone(),
            marks: vec![SlateMarkView { picture_us: Some(40_000), ..SlateMarkView::default() }],
        },
        IntakeChange::ClipDistance { clips: one.clone(), distance_cm: Some(1200) },
        IntakeChange::Join { clips: two.clone() },
        IntakeChange::Separate { clips: one },
        IntakeChange::NameDevice { device: devices[0], letter: "Q".into(), name: "Crane".into() },
        IntakeChange::MoveDevice { device: devices[0], by: 1 },
        IntakeChange::Distance { device: devices[0], distance_cm: 900 },
        IntakeChange::TakeOff { device: devices[0], kind: EvidenceKind::FileTimecode, frames: 3 },
        IntakeChange::SetAside { key: "duplicate:1".into(), aside: true },
        IntakeChange::TakeLog { log },
        IntakeChange::DropLog,
    ];
    for change in changes {
        let edit = |kept: &Kept| kept.store.edit_intake(&change).expect("changed");
        kept = there_and_back(kept, &format!("{change:?}"), Edited::Intake, &edit);
    }
    let group = kept.groups()[0];
    let (first, other) = (AngleId(1), AngleId(2));
    for edit in [
        LineEdit::take(20, other),
        LineEdit::take(60, first),
        LineEdit::ChangeAngle { index: 2, angle: other },
        LineEdit::ChangeAngle { index: 0, angle: other },
        LineEdit::take(30, first),
        LineEdit::Roll { index: 1, by: -5 },
        LineEdit::Remove { index: 1 },
        LineEdit::take(70, first),
        LineEdit::ClearAfter { at: 0 },
    ] {
        let make = |kept: &Kept| {
            let version = kept.store.group(group).expect("the group").version;
            // What changes nothing on this line is passed over.
            let _ = kept.store.edit_line(group, version, &edit);
        };
        let before = state(&kept.store);
        make(&kept);
        if state(&kept.store) != before {
            kept.store.turn(Edited::Line(group), Way::Undo).expect("undone");
            kept = there_and_back(kept, &format!("{edit:?}"), Edited::Line(group), &make);
        }
    }
    let name = |kept: &Kept| {
        let name = "The long take".into();
        kept.store.edit_groups(None, &GroupChange::Rename { group, name }).expect("a name");
    };
    let start = Timecode::new(90_000, FrameRate::FPS_25, false);
    let format = GroupFormat { start, width: 1920, height: 1080 };
    let pass = kept.store.shown().expect("a pass").passes[0].id;
    kept = there_and_back(kept, "a group's name", Edited::Groups(pass), &name);
    for change in [
        GroupChange::MoveAngle { group, from: 1, to: 0 },
        GroupChange::Move { group, to: 0 },
        GroupChange::Format { group, format },
        GroupChange::RenameAll { names: vec![(group, "12A".into())] },
        GroupChange::Arrange { group, how: Arrange::Name { angle: first, name: Some("Crane".into()) } },
        GroupChange::Arrange { group, how: Arrange::Hide { angle: other, hidden: true } },
        GroupChange::Arrange { group, how: Arrange::Add { name: None } },
        GroupChange::Arrange { group, how: Arrange::Blank { angle: first, from: 10, to: 20 } },
        GroupChange::Arrange { group, how: Arrange::SetAside { clip: kept.clips[3] } },
        GroupChange::Trim { group, window: Some((10, 80)) },
        GroupChange::Trim { group, window: None },
        GroupChange::Split { group, at: 30 },
        GroupChange::Duplicate { group },
        GroupChange::Delete { groups: vec![group] },
    ] {
        let edit = |kept: &Kept| {
            let version = kept.store.shown().expect("a pass").groups_turns.version;
            kept.store.edit_groups(Some(version), &change).expect("changed");
        };
        kept = there_and_back(kept, &format!("{change:?}"), Edited::Groups(pass), &edit);
    }
    kept.store.turn(Edited::Groups(pass), Way::Undo).expect("it is there again");
    let called = |kept: &Kept| kept.store.name_pass(pass, "Morning").expect("a name");
    kept = there_and_back(kept, "a pass's name", Edited::Pass(pass), &called);
    kept.sync();
    let show = |kept: &Kept| kept.store.show_pass(pass).expect("shown");
    kept = there_and_back(kept, "the pass that is shown", Edited::Shown, &show);
    let leave = Some(Handling { correction: Some(Correction::Leave), fill: Fill::Close });
    let form = SoundForm { handles_ms: 1500, scratch: true, ..SoundForm::default() };
    for change in [
        SoundChange::Form { form },
        SoundChange::Correct { devices: devices.clone(), clips: vec![], handling: leave },
        SoundChange::Correct { devices: vec![], clips: vec![clips[0]], handling: leave },
        SoundChange::Correct { devices: devices[..1].to_vec(), clips: vec![], handling: None },
        SoundChange::Folder { folder: "/elsewhere".into() },
        SoundChange::NameTracks { pattern: "{number} {track}".into() },
        SoundChange::OrderTracks { order: vec![TrackKey::named("Boom")] },
        SoundChange::SwitchTracks { tracks: vec![TrackKey::named("Spare")], off: true },
    ] {
        let edit = |kept: &Kept| {
            let version = kept.store.sound_habit().expect("a habit").1.version;
            kept.store.edit_sound(version, &change).expect("changed");
        };
        kept = there_and_back(kept, &format!("{change:?}"), Edited::Sound, &edit);
    }
    // All of it stays.
    assert_eq!(kept.store.sound_habit().expect("a habit").0.form, form);
    assert_eq!(kept.store.group(group).expect("the group").group.name, "12A");
}

/// What the engine recognised since is not what it was when a person's change was made.
#[test]
fn an_undo_brings_no_span_back_that_was_recognised_anew() {
    let kept = Kept::synced();
    let clips = kept.clips.clone();
    kept.store.keep_spans(&[vec![clips[0], clips[1]]]).expect("kept");
    let change = IntakeChange::Day { clips: clips[..2].to_vec(), day: "Day 2".into() };
    kept.store.edit_intake(&change).expect("changed");
    // More files came: they are no span after all.
    kept.store.keep_spans(&[]).expect("kept");
    kept.store.turn(Edited::Intake, Way::Undo).expect("undone");
    let spans = |kept: &Kept| kept.store.day().expect("a day").spans.len();
    assert_eq!(spans(&kept), 0);
    // What a person joined is theirs, whatever is recognised; taken back, what is recognised counts again.
    kept.store.edit_intake(&IntakeChange::Separate { clips: vec![clips[0]] }).ok();
    kept.store.keep_spans(&[vec![clips[0], clips[1]]]).expect("kept");
    assert_eq!(spans(&kept), 0);
    kept.store.turn(Edited::Intake, Way::Undo).expect("undone");
    kept.store.keep_spans(&[vec![clips[0], clips[1]]]).expect("kept");
    assert_eq!(spans(&kept), 1);
}
