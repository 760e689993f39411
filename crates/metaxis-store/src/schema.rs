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
ALTER TABLE device ADD COLUMN frames_off INTEGER NOT NULL DEFAULT 0;
ALTER TABLE pass ADD COLUMN name TEXT NOT NULL DEFAULT '';
ALTER TABLE pass ADD COLUMN notes TEXT NOT NULL DEFAULT '[]';
";

pub(crate) fn migrations() -> Migrations<'static> {
    Migrations::new(vec![M::up(FIRST), M::up(INTAKE), M::up(MARKS)])
}

#[cfg(test)]
mod tests {
    #[test]
    fn migrations_are_valid() {
        assert!(super::migrations().validate().is_ok());
    }
}
