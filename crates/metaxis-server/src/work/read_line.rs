//! A line that was changed elsewhere, read back.

use crate::{
    App,
    error::ApiError,
    turnover::{sources_of, unbundled},
};
use metaxis_core::turnover::read_line;
use metaxis_store::{GroupId, KeptLineId, KeptLineView};
use serde::Serialize;
use ts_rs::TS;

/// The largest document that is read, bytes.
pub const LARGEST: usize = 64 << 20;

/// A line that was read of a document.
#[derive(Debug, Serialize, TS)]
pub struct LineRead {
    /// The line that it is kept as.
    id: KeptLineId,
    /// The lines that the group keeps, it among them.
    kept: Vec<KeptLineView>,
    /// How many shots of the document are in it.
    shots: usize,
    /// How many of its markers.
    markers: usize,
    /// What of the document is not in it, or otherwise, in sentences.
    remarks: Vec<String>,
}

/// Reads a document as a line of a group, kept under a name beside the group's own, which stays as it is.
///
/// # Errors
/// [`ApiError::Refused`] where it cannot be read as one; errors of the store.
pub fn read_line_back(app: &App, id: GroupId, name: &str, document: &[u8]) -> Result<LineRead, ApiError> {
    let view = app.store.group(id)?;
    let sources = sources_of(app)?;
    let refused = |why: String| ApiError::Refused(format!("{name}: {why}"));
    let unpacked = unbundled(document, LARGEST as u64).transpose().map_err(refused)?;
    let document = unpacked.as_deref().unwrap_or(document);
    let read = read_line(document, &view.group, &view.line, &sources).map_err(|e| refused(e.to_string()))?;
    let line = app.store.keep_made_line(id, name, read.edit, &[])?;
    let (kept, shots, markers) = (app.store.kept_lines(id)?, read.shots, read.markers);
    Ok(LineRead { id: line, kept, shots, markers, remarks: read.remarks })
}
