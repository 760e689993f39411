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

pub(crate) fn migrations() -> Migrations<'static> {
    Migrations::new(vec![M::up(FIRST)])
}

#[cfg(test)]
mod tests {
    #[test]
    fn migrations_are_valid() {
        assert!(super::migrations().validate().is_ok());
    }
}
