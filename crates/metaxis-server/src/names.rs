//! Names that leave the program: URLs and file names.

use std::path::Path;

/// An absolute path as a `file://` URL (RFC 8089), every byte that needs it percent-encoded.
pub fn file_url(path: &Path) -> String {
    // What is no absolute path has none; those of files that were taken in are.
    url::Url::from_file_path(path).map(String::from).unwrap_or_default()
}

/// A name that is safe as a file name: no separators, no leading dot or dash.
pub fn file_stem(name: &str) -> String {
    let plain: String = name
        .chars()
        .map(|c| if c.is_alphanumeric() || matches!(c, ' ' | '-' | '_' | '(' | ')' | '.') { c } else { '-' })
        .collect();
    let plain = plain.trim_matches(['.', '-', ' ']).chars().take(80).collect::<String>();
    if plain.is_empty() { "untitled".into() } else { plain }
}
