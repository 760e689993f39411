//! Pages as PDF, for whom a page is not enough.

use super::paper::{Form, Paper};
use metaxis_media::{MediaError, Stop, printed};
use std::path::Path;

/// The pages that are printed, as they are asked for, and what they are.
pub const PRINTED: [(&str, &str); 2] = [("report.pdf", "report.html"), ("contact.pdf", "contact.html")];

/// The page that a document is the print of; `None` of one that is none.
pub fn page_of(which: &str) -> Option<&'static str> {
    PRINTED.iter().find(|(own, _)| *own == which).map(|(_, page)| *page)
}

/// A page as PDF.
///
/// # Errors
/// [`MediaError`] where this machine cannot print it.
pub fn as_pdf(page: &Paper, stop: &Stop) -> Result<Paper, MediaError> {
    let name = format!("{}.pdf", page.name.trim_end_matches(".html"));
    let bytes = printed(&page.bytes, Path::new(&name), stop)?;
    Ok(Paper { name, form: Form::Print, bytes })
}
