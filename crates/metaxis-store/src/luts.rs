//! Viewing LUTs that a person brought.

use crate::{Store, StoreError};
use metaxis_core::lut::LutKey;
use rusqlite::{OptionalExtension, params};

impl Store {
    /// Keeps a LUT, as the text that it was brought as.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn keep_lut(&self, key: &LutKey, name: &str, cube: &str) -> Result<(), StoreError> {
        self.transaction(|t| {
            t.execute(
                "INSERT INTO viewing_lut (key, name, cube) VALUES (?1, ?2, ?3)
                 ON CONFLICT (key) DO UPDATE SET name = ?2",
                params![key.0, name, cube],
            )?;
            Ok(())
        })
    }

    /// Those that are kept, each with its name, in the order in which they came.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn luts(&self) -> Result<Vec<(LutKey, String)>, StoreError> {
        self.transaction(|t| {
            let mut rows = t.prepare("SELECT key, name FROM viewing_lut ORDER BY rowid")?;
            let all = rows.query_map([], |row| Ok((LutKey(row.get(0)?), row.get(1)?)))?;
            Ok(all.collect::<Result<_, _>>()?)
        })
    }

    /// The text of one; `None` where there is none of this key.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn lut_text(&self, key: &LutKey) -> Result<Option<String>, StoreError> {
        self.transaction(|t| {
            let sql = "SELECT cube FROM viewing_lut WHERE key = ?1";
            Ok(t.query_row(sql, [&key.0], |row| row.get(0)).optional()?)
        })
    }
}
