//! A document as it leaves: a name, a form, and bytes.

use crate::file_stem;
use percent_encoding::{NON_ALPHANUMERIC, utf8_percent_encode};
use std::io::{Cursor, Write};
use zip::{CompressionMethod, ZipWriter, result::ZipResult, write::SimpleFileOptions};

/// What a document is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Form {
    /// OpenTimelineIO, and other JSON.
    Json,
    /// Plain text.
    Text,
    /// Comma-separated values.
    Table,
    /// A page.
    Page,
    /// A page as PDF.
    Print,
    /// Several in one.
    Zip,
}

impl Form {
    /// Its media type.
    pub fn media_type(self) -> &'static str {
        match self {
            Self::Json => "application/json",
            Self::Text => "text/plain; charset=utf-8",
            Self::Table => "text/csv; charset=utf-8",
            Self::Page => "text/html; charset=utf-8",
            Self::Print => "application/pdf",
            Self::Zip => "application/zip",
        }
    }
}

/// A document.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Paper {
    /// Its name, with its ending; safe as a file's.
    pub name: String,
    /// What it is.
    pub form: Form,
    /// What is in it.
    pub bytes: Vec<u8>,
}

impl Paper {
    /// A value as JSON that can be read.
    pub fn json(name: String, value: &serde_json::Value) -> Self {
        Self { name, form: Form::Json, bytes: serde_json::to_vec_pretty(value).unwrap_or_default() }
    }

    /// Text of some form.
    pub fn text(name: String, form: Form, text: String) -> Self {
        Self { name, form, bytes: text.into_bytes() }
    }

    /// Lists that belong together: the one, or all in one archive, numbered.
    pub fn lists(stem: &str, mut lists: Vec<String>) -> Self {
        if lists.len() == 1 {
            return Self::text(format!("{stem}.edl"), Form::Text, lists.remove(0));
        }
        let one = |(number, text)| Self::text(format!("{stem} {number}.edl"), Form::Text, text);
        Self::archive(format!("{stem}.zip"), &(1..).zip(lists).map(one).collect::<Vec<_>>())
    }

    /// Several in one archive, each under its name.
    pub fn archive(name: String, all: &[Self]) -> Self {
        // Nothing can fail in memory but what is larger than it.
        Self { name, form: Form::Zip, bytes: archived(all).unwrap_or_default() }
    }

    /// The header that names it for a browser.
    pub fn disposition(&self) -> String {
        disposition(&self.name)
    }
}

/// The header that names a file for a browser: in ASCII, and where it has other letters, with all of them too (RFC 6266).
pub fn disposition(name: &str) -> String {
    let plain = name.replace(|own: char| !own.is_ascii() || own == '"' || own == '\\', "_");
    let whole = utf8_percent_encode(name, NON_ALPHANUMERIC);
    let rest = if plain == name { String::new() } else { format!("; filename*=UTF-8''{whole}") };
    format!("attachment; filename=\"{plain}\"{rest}")
}

fn archived(all: &[Paper]) -> ZipResult<Vec<u8>> {
    let mut archive = ZipWriter::new(Cursor::new(vec![]));
    let how = SimpleFileOptions::default().compression_method(CompressionMethod::Deflated);
    for own in all {
        archive.start_file(own.name.as_str(), how)?;
        archive.write_all(&own.bytes)?;
    }
    Ok(archive.finish()?.into_inner())
}

/// The name of a document of something that a person named.
pub fn named(what: &str, document: &str) -> String {
    format!("{} {document}", file_stem(what))
}
