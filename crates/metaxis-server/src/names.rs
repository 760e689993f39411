//! Names that leave the program: URLs and file names.

use std::path::Path;

/// A path as a `file://` URL (RFC 8089), every byte that needs it percent-encoded.
pub fn file_url(path: &Path) -> String {
    use std::os::unix::ffi::OsStrExt;
    let encode = |&byte: &u8| match byte {
        b'/' | b'-' | b'_' | b'.' | b'~' => (byte as char).to_string(),
        byte if byte.is_ascii_alphanumeric() => (byte as char).to_string(),
        byte => format!("%{byte:02X}"),
    };
    format!("file://{}", path.as_os_str().as_bytes().iter().map(encode).collect::<String>())
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
