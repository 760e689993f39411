//! The one log of edits: what a person changed, document by document, with the way back. Undo and redo hold after a restart.
//!
//! A kind of document is one type and one [`Document`]: what its edits are, how it is read, changed and kept. The log gives
//! it versions, undo and redo.

use crate::{StoreError, Turns};
use rusqlite::{OptionalExtension, Transaction, params};
use serde::{Deserialize, Serialize, de::DeserializeOwned};

/// A document that a person changes.
pub(crate) trait Document: Sized {
    /// Its kind in the log; never renamed.
    const KIND: &'static str;
    /// What numbers it among its kind.
    type Id: Copy + Into<i64>;
    /// A change of it. What takes one back is one too.
    type Edit: Serialize + DeserializeOwned;

    /// Reads it.
    ///
    /// # Errors
    /// [`StoreError::Missing`].
    fn load(t: &Transaction, id: Self::Id) -> Result<Self, StoreError>;

    /// Makes a change; returns the one that takes it back, or `None` where nothing is changed.
    ///
    /// # Errors
    /// Where it cannot be made.
    fn apply(&mut self, t: &Transaction, edit: &Self::Edit) -> Result<Option<Self::Edit>, StoreError>;

    /// Writes it.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    fn keep(&self, t: &Transaction, id: Self::Id) -> Result<(), StoreError>;

    /// A change in a few words.
    fn said(edit: &Self::Edit) -> String;
}

/// Which way along the log.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Way {
    /// Takes the last edit back.
    Undo,
    /// Makes the last edit that was taken back again.
    Redo,
}

impl Way {
    fn next(self) -> &'static str {
        match self {
            Self::Undo => "undone = 0 ORDER BY id DESC LIMIT 1",
            Self::Redo => "undone = 1 AND buried = 0 ORDER BY id LIMIT 1",
        }
    }

    fn word(self) -> &'static str {
        match self {
            Self::Undo => "undo",
            Self::Redo => "redo",
        }
    }
}

/// Makes an edit that was made on a version of its document, where one is given, and keeps it. Nothing is kept where it
/// changes nothing.
///
/// # Errors
/// [`StoreError::Stale`], and what the document refuses; then nothing is changed.
pub(crate) fn edit<D: Document>(
    t: &Transaction,
    id: D::Id,
    made_on: Option<i64>,
    edit: &D::Edit,
) -> Result<D, StoreError> {
    let mut document = D::load(t, id)?;
    fresh::<D>(t, id, made_on)?;
    if let Some(inverse) = document.apply(t, edit)? {
        document.keep(t, id)?;
        // A new edit buries what was undone: it stays on record but can no longer be made again.
        t.execute(
            "UPDATE edit SET buried = 1 WHERE kind = ?1 AND document = ?2 AND undone = 1",
            params![D::KIND, id.into()],
        )?;
        record::<D>(t, id, edit, &inverse)?;
        grow::<D>(t, id)?;
    }
    Ok(document)
}

/// Keeps an edit that was made already, as a step of its own.
///
/// # Errors
/// [`StoreError::Sqlite`].
pub(crate) fn record<D: Document>(
    t: &Transaction,
    id: D::Id,
    edit: &D::Edit,
    inverse: &D::Edit,
) -> Result<(), StoreError> {
    let (forward, inverse) = (serde_json::to_string(edit)?, serde_json::to_string(inverse)?);
    t.execute(
        "INSERT INTO edit (kind, document, what, forward, inverse) VALUES (?1, ?2, ?3, ?4, ?5)",
        params![D::KIND, id.into(), D::said(edit), forward, inverse],
    )?;
    Ok(())
}

/// Goes a step along the log; the document, and what was taken back or made again.
///
/// # Errors
/// As [`edit`], and [`StoreError::NothingTo`].
pub(crate) fn turn<D: Document>(
    t: &Transaction,
    id: D::Id,
    made_on: Option<i64>,
    way: Way,
) -> Result<(D, String), StoreError> {
    let mut document = D::load(t, id)?;
    fresh::<D>(t, id, made_on)?;
    let sql = format!(
        "SELECT id, what, forward, inverse FROM edit WHERE kind = ?1 AND document = ?2 AND {}",
        way.next()
    );
    let read = |row: &rusqlite::Row| Ok((row.get(0)?, row.get(1)?, row.get(2)?, row.get(3)?));
    let found: Option<(i64, String, String, String)> =
        t.query_row(&sql, params![D::KIND, id.into()], read).optional()?;
    let (step, what, forward, inverse) = found.ok_or(StoreError::NothingTo(way.word()))?;
    let text = if way == Way::Undo { inverse } else { forward };
    document.apply(t, &serde_json::from_str(&text)?)?;
    document.keep(t, id)?;
    t.execute("UPDATE edit SET undone = ?2 WHERE id = ?1", params![step, way == Way::Undo])?;
    grow::<D>(t, id)?;
    Ok((document, what))
}

/// The edit that would be taken back or made again next, as it was made.
///
/// # Errors
/// [`StoreError::Sqlite`].
pub(crate) fn coming<D: Document>(
    t: &Transaction,
    id: D::Id,
    way: Way,
) -> Result<Option<D::Edit>, StoreError> {
    let sql = format!("SELECT forward FROM edit WHERE kind = ?1 AND document = ?2 AND {}", way.next());
    let text: Option<String> = t.query_row(&sql, params![D::KIND, id.into()], |row| row.get(0)).optional()?;
    Ok(text.map(|text| serde_json::from_str(&text)).transpose()?)
}

/// The version of a document, and what can be undone and redone of it.
///
/// # Errors
/// [`StoreError::Sqlite`].
pub(crate) fn turns<D: Document>(t: &Transaction, id: D::Id) -> Result<Turns, StoreError> {
    let next = |way: Way| {
        let sql = format!("SELECT what FROM edit WHERE kind = ?1 AND document = ?2 AND {}", way.next());
        t.query_row(&sql, params![D::KIND, id.into()], |row| row.get(0)).optional()
    };
    Ok(Turns { version: version::<D>(t, id)?, undo: next(Way::Undo)?, redo: next(Way::Redo)? })
}

/// Gives a document the edits of another of its kind, as far as they were made and undone.
///
/// # Errors
/// [`StoreError::Sqlite`].
pub(crate) fn take_over<D: Document>(t: &Transaction, id: D::Id, from: D::Id) -> Result<(), StoreError> {
    t.execute(
        "INSERT INTO edit (kind, document, what, forward, inverse, undone, buried)
         SELECT kind, ?3, what, forward, inverse, undone, buried FROM edit WHERE kind = ?1 AND document = ?2
         ORDER BY id",
        params![D::KIND, from.into(), id.into()],
    )?;
    Ok(())
}

fn version<D: Document>(t: &Transaction, id: D::Id) -> Result<i64, StoreError> {
    let sql = "SELECT version FROM edited WHERE kind = ?1 AND document = ?2";
    Ok(t.query_row(sql, params![D::KIND, id.into()], |row| row.get(0)).optional()?.unwrap_or(0))
}

fn grow<D: Document>(t: &Transaction, id: D::Id) -> Result<(), StoreError> {
    t.execute(
        "INSERT INTO edited (kind, document, version) VALUES (?1, ?2, 1)
         ON CONFLICT (kind, document) DO UPDATE SET version = version + 1",
        params![D::KIND, id.into()],
    )?;
    Ok(())
}

fn fresh<D: Document>(t: &Transaction, id: D::Id, made_on: Option<i64>) -> Result<(), StoreError> {
    let newest = version::<D>(t, id)?;
    match made_on {
        Some(given) if given != newest => Err(StoreError::Stale { given, newest }),
        _ => Ok(()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Store;

    /// A kind of document that nothing else knows: a row of numbers.
    struct Numbers(Vec<i64>);

    #[derive(serde::Serialize, serde::Deserialize)]
    enum NumbersEdit {
        Put(i64),
        TakeOut,
    }

    impl Document for Numbers {
        const KIND: &'static str = "toy";
        type Id = i64;
        type Edit = NumbersEdit;

        fn load(t: &Transaction, id: i64) -> Result<Self, StoreError> {
            let text: Option<String> =
                t.query_row("SELECT text FROM toy WHERE id = ?1", [id], |row| row.get(0)).optional()?;
            Ok(Self(serde_json::from_str(&text.ok_or(StoreError::Missing { what: "toy", id })?)?))
        }

        fn apply(&mut self, _: &Transaction, edit: &NumbersEdit) -> Result<Option<NumbersEdit>, StoreError> {
            Ok(match edit {
                NumbersEdit::Put(0) => None,
                NumbersEdit::Put(number) if *number < 0 => {
                    return Err(StoreError::Refused("less than nothing".into()));
                }
                NumbersEdit::Put(number) => {
                    self.0.push(*number);
                    Some(NumbersEdit::TakeOut)
                }
                NumbersEdit::TakeOut => self.0.pop().map(NumbersEdit::Put),
            })
        }

        fn keep(&self, t: &Transaction, id: i64) -> Result<(), StoreError> {
            t.execute(
                "UPDATE toy SET text = ?2 WHERE id = ?1",
                params![id, serde_json::to_string(&self.0)?],
            )?;
            Ok(())
        }

        fn said(edit: &NumbersEdit) -> String {
            match edit {
                NumbersEdit::Put(number) => format!("{number} put"),
                NumbersEdit::TakeOut => "one taken out".into(),
            }
        }
    }

    /// One type and one impl, and a kind has versions, undo and redo that hold after a restart.
    #[test]
    fn a_new_kind_is_one_type_and_one_impl() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("p.sqlite");
        let open = || Store::open(&path).expect("a store");
        let store = open();
        let made = store.transaction(|t| {
            t.execute_batch(
                "CREATE TABLE toy (id INTEGER PRIMARY KEY, text TEXT); INSERT INTO toy VALUES (3, '[]');",
            )?;
            for number in 1..=3 {
                edit::<Numbers>(t, 3, Some(number - 1), &NumbersEdit::Put(number))?;
            }
            // What changes nothing is no step, and what is refused is none either.
            edit::<Numbers>(t, 3, Some(3), &NumbersEdit::Put(0))?;
            assert!(matches!(
                edit::<Numbers>(t, 3, None, &NumbersEdit::Put(-1)),
                Err(StoreError::Refused(_))
            ));
            turns::<Numbers>(t, 3)
        });
        let expected = Turns { version: 3, undo: Some("3 put".into()), redo: None };
        assert_eq!(made.expect("three edits"), expected);
        drop(store);
        let store = open();
        let stale = store.transaction(|t| edit::<Numbers>(t, 3, Some(1), &NumbersEdit::Put(9)).map(|_| ()));
        assert!(matches!(stale, Err(StoreError::Stale { given: 1, newest: 3 })));
        let step = |way: Way| store.transaction(|t| turn::<Numbers>(t, 3, None, way));
        let said = |way: Way| step(way).map(|(numbers, what)| (numbers.0, what)).expect("a step");
        assert_eq!(said(Way::Undo), (vec![1, 2], "3 put".into()));
        assert_eq!(said(Way::Undo), (vec![1], "2 put".into()));
        assert_eq!(said(Way::Redo), (vec![1, 2], "2 put".into()));
        // Another edit buries what could have been made again.
        store.transaction(|t| edit::<Numbers>(t, 3, Some(6), &NumbersEdit::Put(7))).expect("an edit");
        assert!(matches!(step(Way::Redo), Err(StoreError::NothingTo("redo"))));
        for left in [vec![1, 2], vec![1], vec![]] {
            assert_eq!(said(Way::Undo).0, left);
        }
        assert!(matches!(step(Way::Undo), Err(StoreError::NothingTo("undo"))));
        let missing = store.transaction(|t| turn::<Numbers>(t, 4, None, Way::Undo).map(|_| ()));
        assert!(matches!(missing, Err(StoreError::Missing { what: "toy", id: 4 })));
    }
}
