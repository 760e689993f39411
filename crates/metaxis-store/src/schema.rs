//! The schema, as an ordered list of changes.

use rusqlite_migration::{M, Migrations};

const FIRST: &str = "
CREATE TABLE production (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    day TEXT NOT NULL,
    current_pass INTEGER
);
CREATE TABLE device (
    id INTEGER PRIMARY KEY,
    folder TEXT NOT NULL UNIQUE,
    letter TEXT NOT NULL,
    name TEXT NOT NULL,
    position INTEGER NOT NULL
);
CREATE TABLE clip (
    id INTEGER PRIMARY KEY,
    device INTEGER NOT NULL REFERENCES device(id),
    root TEXT NOT NULL,
    relative TEXT NOT NULL,
    path BLOB NOT NULL UNIQUE,
    bytes INTEGER NOT NULL,
    fingerprint TEXT NOT NULL,
    facts TEXT NOT NULL,
    part TEXT NOT NULL,
    heard TEXT,
    proxy INTEGER NOT NULL DEFAULT 0
);
CREATE TABLE note (
    id INTEGER PRIMARY KEY,
    path TEXT NOT NULL,
    code TEXT NOT NULL,
    message TEXT NOT NULL,
    UNIQUE (path, code)
);
CREATE TABLE pass (
    id INTEGER PRIMARY KEY,
    number INTEGER NOT NULL,
    reference_device INTEGER NOT NULL REFERENCES device(id),
    origin_clip INTEGER NOT NULL REFERENCES clip(id),
    axis_zero INTEGER NOT NULL,
    took_s REAL NOT NULL
);
CREATE TABLE placement (
    pass INTEGER NOT NULL REFERENCES pass(id),
    clip INTEGER NOT NULL REFERENCES clip(id),
    document TEXT NOT NULL,
    PRIMARY KEY (pass, clip)
);
CREATE TABLE cut_group (
    id INTEGER PRIMARY KEY,
    pass INTEGER NOT NULL REFERENCES pass(id),
    document TEXT NOT NULL,
    line TEXT NOT NULL,
    version INTEGER NOT NULL DEFAULT 0
);
CREATE TABLE line_edit (
    id INTEGER PRIMARY KEY,
    cut_group INTEGER NOT NULL REFERENCES cut_group(id),
    edit TEXT NOT NULL,
    inverse TEXT NOT NULL,
    undone INTEGER NOT NULL DEFAULT 0,
    buried INTEGER NOT NULL DEFAULT 0
);
CREATE TABLE job (
    id INTEGER PRIMARY KEY,
    kind TEXT NOT NULL,
    body TEXT NOT NULL,
    rank INTEGER NOT NULL,
    state TEXT NOT NULL,
    done INTEGER NOT NULL DEFAULT 0,
    total INTEGER NOT NULL DEFAULT 1,
    message TEXT
);
CREATE INDEX job_state ON job (state, rank, id);
INSERT INTO production (id, name, day) VALUES (1, 'Untitled production', '');
";

/// What a person chooses at intake, with its undo; spans, the slate log, notes set aside; what is looked at first.
const INTAKE: &str = "
ALTER TABLE clip ADD COLUMN day TEXT;
ALTER TABLE clip ADD COLUMN scene TEXT;
ALTER TABLE clip ADD COLUMN take TEXT;
ALTER TABLE clip ADD COLUMN notes TEXT;
ALTER TABLE clip ADD COLUMN circled INTEGER;
ALTER TABLE clip ADD COLUMN span INTEGER REFERENCES clip(id);
ALTER TABLE clip ADD COLUMN span_set INTEGER NOT NULL DEFAULT 0;
ALTER TABLE clip ADD COLUMN timing TEXT;
ALTER TABLE note ADD COLUMN root TEXT NOT NULL DEFAULT '';
ALTER TABLE job ADD COLUMN wanted INTEGER NOT NULL DEFAULT 0;
CREATE TABLE set_aside (key TEXT PRIMARY KEY);
CREATE TABLE slate_log (id INTEGER PRIMARY KEY, document TEXT NOT NULL);
CREATE TABLE intake_edit (
    id INTEGER PRIMARY KEY,
    what TEXT NOT NULL,
    before TEXT NOT NULL,
    after TEXT NOT NULL,
    undone INTEGER NOT NULL DEFAULT 0
);
CREATE INDEX clip_fingerprint ON clip (fingerprint);
";

/// What is marked of slates, how far devices stood, and what passes are called and say of their devices.
const MARKS: &str = "
ALTER TABLE clip ADD COLUMN mark_picture_us INTEGER;
ALTER TABLE clip ADD COLUMN mark_sound_us INTEGER;
ALTER TABLE clip ADD COLUMN mark_label TEXT;
ALTER TABLE device ADD COLUMN distance_cm INTEGER NOT NULL DEFAULT 0;
ALTER TABLE device ADD COLUMN take_off INTEGER NOT NULL DEFAULT 0;
ALTER TABLE pass ADD COLUMN name TEXT NOT NULL DEFAULT '';
ALTER TABLE pass ADD COLUMN notes TEXT NOT NULL DEFAULT '[]';
";

/// Several marks a clip; frames taken off each kind of timecode.
const EVERY_CLAP: &str = "
ALTER TABLE clip ADD COLUMN marks TEXT NOT NULL DEFAULT '[]';
UPDATE clip SET marks = json_array(json_object('picture_us', mark_picture_us, 'sound_us', mark_sound_us,
                                               'label', mark_label, 'take', NULL))
    WHERE mark_picture_us IS NOT NULL OR mark_sound_us IS NOT NULL OR mark_label IS NOT NULL;
ALTER TABLE clip DROP COLUMN mark_picture_us;
ALTER TABLE clip DROP COLUMN mark_sound_us;
ALTER TABLE clip DROP COLUMN mark_label;
ALTER TABLE device ADD COLUMN taken_off TEXT NOT NULL DEFAULT '{}';
UPDATE device SET taken_off = json_object('file_timecode', take_off, 'audio_timecode', take_off);
ALTER TABLE device DROP COLUMN take_off;
";

/// A distance for one clip, whatever its device has.
const OWN_DISTANCE: &str = "ALTER TABLE clip ADD COLUMN distance_cm INTEGER;";

/// Where the islands of a pass lie on the day.
const ISLANDS: &str = "ALTER TABLE pass ADD COLUMN islands TEXT NOT NULL DEFAULT '[]';";

/// How often a job was begun without an end; jobs are found by what they do.
const STARTS: &str = "
ALTER TABLE job ADD COLUMN starts INTEGER NOT NULL DEFAULT 0;
CREATE INDEX job_body ON job (body);
CREATE INDEX job_next ON job (state, wanted DESC, rank, id);
";

/// Whether a person named a group, and put its angles in order.
const GIVEN: &str = "
ALTER TABLE cut_group ADD COLUMN named INTEGER NOT NULL DEFAULT 0;
ALTER TABLE cut_group ADD COLUMN ordered INTEGER NOT NULL DEFAULT 0;
CREATE INDEX cut_group_pass ON cut_group (pass);
CREATE INDEX line_edit_group ON line_edit (cut_group);
";

/// One log of edits for every kind of document; recognised spans apart from chosen ones.
const LOG: &str = "
CREATE TABLE edit (
    id INTEGER PRIMARY KEY,
    kind TEXT NOT NULL,
    document INTEGER NOT NULL,
    what TEXT NOT NULL,
    forward TEXT NOT NULL,
    inverse TEXT NOT NULL,
    undone INTEGER NOT NULL DEFAULT 0,
    buried INTEGER NOT NULL DEFAULT 0
);
CREATE INDEX edit_document ON edit (kind, document, id);
CREATE TABLE edited (
    kind TEXT NOT NULL,
    document INTEGER NOT NULL,
    version INTEGER NOT NULL,
    PRIMARY KEY (kind, document)
);
INSERT INTO edit (kind, document, what, forward, inverse, undone, buried)
    SELECT 'line', cut_group, 'a cut', edit, inverse, undone, buried FROM line_edit ORDER BY id;
INSERT INTO edited (kind, document, version) SELECT 'line', id, version FROM cut_group WHERE version > 0;
INSERT INTO edit (kind, document, what, forward, inverse, undone)
    SELECT 'intake', 0, what, after, before, undone FROM intake_edit ORDER BY id;
DROP TABLE line_edit;
DROP TABLE intake_edit;
ALTER TABLE cut_group DROP COLUMN version;
ALTER TABLE clip ADD COLUMN recognised INTEGER REFERENCES clip(id);
UPDATE clip SET recognised = span WHERE span_set = 0;
";

/// Which clips a person looked at, and which passes were declared checked.
const LOOKED: &str = "
CREATE TABLE looked (
    clip INTEGER PRIMARY KEY REFERENCES clip(id),
    finding TEXT NOT NULL,
    start_us INTEGER,
    at INTEGER NOT NULL
);
CREATE TABLE checked (
    pass INTEGER PRIMARY KEY REFERENCES pass(id),
    who TEXT NOT NULL,
    at INTEGER NOT NULL,
    looked INTEGER NOT NULL
);
";

/// What listening found, which a pass and those made from it rest on: it can be weighed again.
const FOUND: &str = "
CREATE TABLE found (id INTEGER PRIMARY KEY, document BLOB NOT NULL);
ALTER TABLE pass ADD COLUMN found INTEGER REFERENCES found(id);
";

/// What was chosen about sound, and the files that were made of it.
const SOUND: &str = "
CREATE TABLE sound_habit (id INTEGER PRIMARY KEY CHECK (id = 1), document TEXT NOT NULL);
CREATE TABLE sound_made (
    folder TEXT NOT NULL,
    path TEXT NOT NULL,
    document TEXT NOT NULL,
    PRIMARY KEY (folder, path)
);
";

/// Groups can go; what was done to each of a pass is one document.
const SHAPING: &str = "
ALTER TABLE cut_group ADD COLUMN gone INTEGER NOT NULL DEFAULT 0;
UPDATE edit SET
    kind = 'groups',
    document = (SELECT pass FROM cut_group WHERE id = edit.document),
    forward = json_object('what', what, 'changes',
        json_array(json_patch(json_object('group', document), json(forward)))),
    inverse = json_object('what', what, 'changes',
        json_array(json_patch(json_object('group', document), json(inverse))))
    WHERE kind = 'group';
INSERT INTO edited (kind, document, version) SELECT kind, document, count(*) FROM edit WHERE kind = 'groups' GROUP BY document;
DELETE FROM edited WHERE kind = 'group';
";

/// Places among the groups, and which a person put together.
const PLACES: &str = "
ALTER TABLE cut_group ADD COLUMN place INTEGER;
ALTER TABLE cut_group ADD COLUMN cast_by_hand INTEGER NOT NULL DEFAULT 0;
";

/// A LUT's key is its table's, so that the same one is kept once.
const LUTS: &str = "
CREATE TABLE viewing_lut (
    key TEXT PRIMARY KEY,
    name TEXT NOT NULL,
    cube TEXT NOT NULL
);
ALTER TABLE device ADD COLUMN lut TEXT;
";

const LINES: &str = "
CREATE TABLE kept_line (
    id INTEGER PRIMARY KEY,
    cut_group INTEGER NOT NULL REFERENCES cut_group(id),
    name TEXT NOT NULL,
    line TEXT NOT NULL,
    reasons TEXT NOT NULL,
    made_at INTEGER NOT NULL
);
CREATE INDEX kept_line_of ON kept_line (cut_group);
CREATE TABLE seats (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    document TEXT NOT NULL
);
";

const ASSEMBLIES: &str = "
CREATE TABLE assembly (
    id INTEGER PRIMARY KEY,
    document TEXT NOT NULL,
    aside INTEGER NOT NULL DEFAULT 0
);
";

const ALL: [&str; 17] = [
    FIRST,
    INTAKE,
    MARKS,
    EVERY_CLAP,
    OWN_DISTANCE,
    ISLANDS,
    STARTS,
    GIVEN,
    LOG,
    LOOKED,
    FOUND,
    SOUND,
    SHAPING,
    PLACES,
    LUTS,
    LINES,
    ASSEMBLIES,
];
/// Version of the newest layout.
pub(crate) const COUNT: i64 = ALL.len() as i64;

pub(crate) fn migrations() -> Migrations<'static> {
    Migrations::new(ALL.into_iter().map(M::up).collect())
}

#[cfg(test)]
mod tests {
    #[test]
    fn migrations_are_valid() {
        assert!(super::migrations().validate().is_ok());
    }

    /// What a person marked, and what was taken off a timecode, outlives the change to several of each.
    #[test]
    fn marks_and_frames_off_of_an_older_file_are_kept() {
        let mut file = rusqlite::Connection::open_in_memory().expect("a file");
        super::migrations().to_version(&mut file, 3).expect("the older schema");
        file.execute_batch(
            "INSERT INTO device (id, folder, letter, name, position, take_off) VALUES (1, 'A', 'A', 'A', 1, 11);
             INSERT INTO clip (id, device, root, relative, path, bytes, fingerprint, facts, part, mark_picture_us, mark_label)
             VALUES (1, 1, '', 'a', x'61', 1, 'f', '{}', 'sync', 2020000, '09:14:02:05'),
                    (2, 1, '', 'b', x'62', 1, 'g', '{}', 'sync', NULL, NULL);",
        )
        .expect("rows");
        super::migrations().to_latest(&mut file).expect("brought up to date");
        let marks = |clip: i64| -> Vec<crate::SlateMarkView> {
            let read = |row: &rusqlite::Row| crate::columns::document(row, 0);
            file.query_row("SELECT marks FROM clip WHERE id = ?1", [clip], read).expect("marks")
        };
        let label = Some("09:14:02:05".to_owned());
        let kept = crate::SlateMarkView { picture_us: Some(2_020_000), sound_us: None, label, take: None };
        assert_eq!((marks(1), marks(2)), (vec![kept], vec![]));
        let read = |row: &rusqlite::Row| crate::columns::document::<metaxis_core::sync::TakenOff>(row, 0);
        let off = file.query_row("SELECT taken_off FROM device", [], read).expect("frames");
        assert_eq!((off.file_timecode, off.audio_timecode, off.slate), (11, 11, 0));
    }

    /// Cuts and choices of an older file can be taken back and made again in the one log.
    #[test]
    fn edits_of_an_older_file_are_in_the_log() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("p.sqlite");
        let mut file = rusqlite::Connection::open(&path).expect("a file");
        super::migrations().to_version(&mut file, 8).expect("the older schema");
        let group = r#"{"name":"1 / 1","start":{"frames":0,"rate":{"num":25,"den":1},"drop":false},"axis_zero":0,
            "frames":100,"width":64,"height":36,"angles":[{"device":1,"parts":[]},{"device":2,"parts":[]}],"sound":null}"#;
        let device = |letter: &str| {
            format!(
                r#"{{"clips":[],"devices":[{{"device":1,"letter":"{letter}","name":"Floor","position":1}}],"aside":[],"log":null}}"#
            )
        };
        file.execute_batch(&format!(
            "INSERT INTO device (id, folder, letter, name, position) VALUES (1, 'A', 'Q', 'Floor', 1);
             INSERT INTO clip (id, device, root, relative, path, bytes, fingerprint, facts, part)
             VALUES (1, 1, '', 'a', x'61', 1, 'f', '{{}}', 'sync');
             INSERT INTO pass (id, number, reference_device, origin_clip, axis_zero, took_s) VALUES (1, 1, 1, 1, 0, 1);
             INSERT INTO cut_group (id, pass, document, line, version)
             VALUES (7, 1, '{group}', '{{\"frames\":100,\"switches\":[{{\"at\":0,\"angle\":1}},{{\"at\":20,\"angle\":2}}]}}', 3);
             INSERT INTO line_edit (cut_group, edit, inverse) VALUES
             (7, '{{\"do\":\"take\",\"at\":20,\"angle\":2}}', '{{\"do\":\"restore\",\"switches\":[{{\"at\":0,\"angle\":1}}]}}');
             INSERT INTO intake_edit (what, before, after) VALUES ('device named', '{}', '{}');",
            device("A"),
            device("Q"),
        ))
        .expect("rows");
        drop(file);
        let store = crate::Store::open(&path).expect("brought up to date");
        let cuts = |view: crate::GroupView| view.line.switches().len();
        assert_eq!(
            store.group(crate::GroupId(7)).map(|view| (view.version, view.can_undo)).expect("the group"),
            (3, true)
        );
        assert_eq!(
            store.turn_line(crate::GroupId(7), 3, crate::Way::Undo, false).map(cuts).expect("undone"),
            1
        );
        assert_eq!(
            store.turn_line(crate::GroupId(7), 4, crate::Way::Redo, false).map(cuts).expect("made again"),
            2
        );
        assert_eq!(store.turn(crate::Edited::Intake, crate::Way::Undo).expect("undone"), "device named");
        let letter = store.transaction(|t| {
            Ok(t.query_row("SELECT letter FROM device", [], |row| row.get::<_, String>(0))?)
        });
        assert_eq!(letter.expect("a letter"), "A");
    }

    /// What was done to single groups is among what was done to the groups of their pass.
    #[test]
    fn edits_of_groups_of_an_older_file_can_be_taken_back() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("p.sqlite");
        let mut file = rusqlite::Connection::open(&path).expect("a file");
        super::migrations().to_version(&mut file, 12).expect("the older schema");
        let group = r#"{"name":"The pour","start":{"frames":0,"rate":{"num":25,"den":1},"drop":false},"axis_zero":0,
            "frames":100,"width":640,"height":360,"angles":[],"sound":null}"#;
        let name = |name: &str, given: bool| format!(r#"{{"do":"name","name":"{name}","given":{given}}}"#);
        file.execute_batch(&format!(
            "INSERT INTO device (id, folder, letter, name, position) VALUES (1, 'A', 'Q', 'Floor', 1);
             INSERT INTO clip (id, device, root, relative, path, bytes, fingerprint, facts, part)
             VALUES (1, 1, '', 'a', x'61', 1, 'f', '{{}}', 'sync');
             INSERT INTO pass (id, number, reference_device, origin_clip, axis_zero, took_s) VALUES (3, 1, 1, 1, 0, 1);
             INSERT INTO cut_group (id, pass, document, line, named)
             VALUES (7, 3, '{group}', '{{\"frames\":100,\"switches\":[{{\"at\":0,\"angle\":1}}]}}', 1);
             INSERT INTO edit (kind, document, what, forward, inverse)
             VALUES ('group', 7, 'group called The pour', '{}', '{}');
             INSERT INTO edited (kind, document, version) VALUES ('group', 7, 1);",
            name("The pour", true),
            name("1 / 1", false),
        ))
        .expect("rows");
        drop(file);
        let store = crate::Store::open(&path).expect("brought up to date");
        let named = || store.group(crate::GroupId(7)).map(|view| view.group.name).expect("the group");
        let turn = |way| store.turn(crate::Edited::Groups(crate::PassId(3)), way).expect("a step");
        assert_eq!((named(), turn(crate::Way::Undo)), ("The pour".into(), "group called The pour".into()));
        assert_eq!(named(), "1 / 1");
        turn(crate::Way::Redo);
        assert_eq!(named(), "The pour");
    }
}
