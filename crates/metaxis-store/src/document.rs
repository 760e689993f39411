//! Columns that hold JSON.

use rusqlite::{Row, types::Type};
use serde::de::DeserializeOwned;

/// Reads the JSON in a column.
///
/// # Errors
/// [`rusqlite::Error`], also where it cannot be read as what it should be.
pub(crate) fn document<T: DeserializeOwned>(row: &Row, column: usize) -> rusqlite::Result<T> {
    let text: String = row.get(column)?;
    serde_json::from_str(&text)
        .map_err(|e| rusqlite::Error::FromSqlConversionFailure(column, Type::Text, Box::new(e)))
}
