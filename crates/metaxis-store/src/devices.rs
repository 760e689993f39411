//! Devices and the production's name.

use crate::{DeviceView, Production, Store, StoreError, columns::document};
use metaxis_core::{clip::DeviceId, intake::name_device, lut::LutKey};
use rusqlite::{OptionalExtension, Transaction, params};

impl Store {
    /// Name and day.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn production(&self) -> Result<Production, StoreError> {
        self.transaction(production)
    }

    /// Names the production and its day.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn name_production(&self, production: &Production) -> Result<(), StoreError> {
        self.transaction(|t| {
            t.execute("UPDATE production SET name = ?1, day = ?2", params![production.name, production.day])?;
            Ok(())
        })
    }

    /// The device of a folder, made with a guessed letter and name where it is new.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn device_of_folder(&self, folder: &str) -> Result<DeviceId, StoreError> {
        self.transaction(|t| {
            let known = t
                .query_row("SELECT id FROM device WHERE folder = ?1", [folder], |row| row.get(0))
                .optional()?;
            if let Some(id) = known {
                return Ok(DeviceId(id));
            }
            let taken: Vec<String> = t
                .prepare("SELECT letter FROM device")?
                .query_map([], |row| row.get(0))?
                .collect::<Result<_, _>>()?;
            let (letter, name) = name_device(folder, &taken);
            t.execute(
                "INSERT INTO device (folder, letter, name, position)
                 VALUES (?1, ?2, ?3, (SELECT COALESCE(MAX(position), 0) + 1 FROM device))",
                params![folder, letter, name],
            )?;
            Ok(DeviceId(t.last_insert_rowid()))
        })
    }
}

pub(crate) fn production(t: &Transaction) -> Result<Production, StoreError> {
    Ok(t.query_row("SELECT name, day FROM production", [], |row| {
        Ok(Production { name: row.get(0)?, day: row.get(1)? })
    })?)
}

pub(crate) fn devices(t: &Transaction) -> Result<Vec<DeviceView>, StoreError> {
    let mut statement = t.prepare(
        "SELECT id, folder, letter, name, (SELECT COUNT(*) FROM clip WHERE clip.device = device.id), distance_cm, taken_off, lut
         FROM device ORDER BY position",
    )?;
    let rows = statement.query_map([], |row| {
        Ok(DeviceView {
            id: DeviceId(row.get(0)?),
            folder: row.get(1)?,
            letter: row.get(2)?,
            name: row.get(3)?,
            clips: row.get(4)?,
            distance_m: row.get::<_, i64>(5)? as f64 / 100.0,
            taken_off: document(row, 6)?,
            lut: row.get::<_, Option<String>>(7)?.map(LutKey),
        })
    })?;
    Ok(rows.collect::<Result<_, _>>()?)
}
