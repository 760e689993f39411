//! Numbers that the store gives, each a type of its own.

use rusqlite::{
    ToSql,
    types::{FromSql, FromSqlResult, ToSqlOutput, ValueRef},
};
use serde::{Deserialize, Serialize};
use std::fmt;
use ts_rs::TS;

macro_rules! id {
    ($(#[$what:meta])* $name:ident) => {
        $(#[$what])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, TS)]
        pub struct $name(#[ts(type = "number")] pub i64);

        impl ToSql for $name {
            fn to_sql(&self) -> rusqlite::Result<ToSqlOutput<'_>> {
                self.0.to_sql()
            }
        }

        impl FromSql for $name {
            fn column_result(value: ValueRef<'_>) -> FromSqlResult<Self> {
                i64::column_result(value).map(Self)
            }
        }

        impl fmt::Display for $name {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                self.0.fmt(f)
            }
        }

        impl From<$name> for i64 {
            fn from(id: $name) -> Self {
                id.0
            }
        }
    };
}

id! {
    /// A pass's number in the store (not its running number).
    PassId
}
id! {
    /// A group's number.
    GroupId
}
id! {
    /// An assembly's number.
    AssemblyId
}
id! {
    /// A job's number.
    JobId
}

/// The number of a document of which there is one.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Only;

impl From<Only> for i64 {
    fn from(_: Only) -> Self {
        0
    }
}
