//! Columns that hold JSON, or one of a few words.

use rusqlite::{Row, types::Type};
use serde::de::DeserializeOwned;
use std::{error::Error, str::FromStr};

/// Reads the JSON in a column.
///
/// # Errors
/// [`rusqlite::Error`], also where it cannot be read as what it should be.
pub(crate) fn document<T: DeserializeOwned>(row: &Row, column: usize) -> rusqlite::Result<T> {
    let text: String = row.get(column)?;
    serde_json::from_str(&text).map_err(|e| unreadable(column, e))
}

/// Reads the word in a column, as [`name`] wrote it.
///
/// # Errors
/// As [`document`].
pub(crate) fn word<T: FromStr<Err: Error + Send + Sync + 'static>>(
    row: &Row,
    column: usize,
) -> rusqlite::Result<T> {
    let text: String = row.get(column)?;
    text.parse().map_err(|e| unreadable(column, e))
}

/// The word for one of a few.
pub(crate) fn name(one: impl Into<&'static str>) -> &'static str {
    one.into()
}

fn unreadable(column: usize, why: impl Error + Send + Sync + 'static) -> rusqlite::Error {
    rusqlite::Error::FromSqlConversionFailure(column, Type::Text, Box::new(why))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{JobName, JobState, Part};
    use metaxis_core::clip::NoteCode;
    use rusqlite::Connection;
    use strum::IntoEnumIterator;

    /// Every word that is kept is read again as what it was.
    #[test]
    fn words_come_back_as_they_went() {
        fn all<T>()
        where
            T: IntoEnumIterator
                + FromStr<Err: Error + Send + Sync + 'static>
                + Into<&'static str>
                + Copy
                + PartialEq,
            T: std::fmt::Debug,
        {
            let table = Connection::open_in_memory().expect("a database");
            for one in T::iter() {
                let back = table.query_row("SELECT ?1", [name(one)], |row| word::<T>(row, 0));
                assert_eq!(back, Ok(one));
            }
            assert!(table.query_row("SELECT 'nonsense'", [], |row| word::<T>(row, 0)).is_err());
        }
        all::<Part>();
        all::<JobState>();
        all::<JobName>();
        all::<NoteCode>();
    }
}
