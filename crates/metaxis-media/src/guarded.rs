//! Work on one file that may fail in a way nobody thought of.

use crate::MediaError;
use std::{
    any::Any,
    panic::{AssertUnwindSafe, catch_unwind},
    path::Path,
};

/// Does `work` on the file at `path`; a panic in it is an error of that file and of nothing else.
///
/// # Errors
/// What `work` returns, or [`MediaError::Failed`].
pub fn guarded<T>(path: &Path, work: impl FnOnce() -> Result<T, MediaError>) -> Result<T, MediaError> {
    // What it was at is dropped with it: nothing half done is seen by others.
    catch_unwind(AssertUnwindSafe(work)).unwrap_or_else(|panic| {
        Err(MediaError::Failed { path: path.to_owned(), detail: said(panic.as_ref()) })
    })
}

/// What a panic said.
pub fn said(panic: &(dyn Any + Send)) -> String {
    let text = panic.downcast_ref::<&str>().map(|text| (*text).to_owned());
    text.or_else(|| panic.downcast_ref::<String>().cloned()).unwrap_or_else(|| "no message".into())
}
