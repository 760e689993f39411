//! The page, inside the binary.

use axum::{
    body::Body,
    http::{HeaderValue, StatusCode, Uri, header},
    response::{IntoResponse, Response},
};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
#[allow_missing = true]
struct Page;

/// A file of the page; any other path that is not a file's is the page itself, which shows its own places.
pub async fn page(uri: Uri) -> Response {
    let path = uri.path().trim_start_matches('/');
    let is_file = path.starts_with("assets/") || path.contains('.');
    let name = if is_file { path } else { "index.html" };
    let Some(file) = Page::get(name) else {
        return (StatusCode::NOT_FOUND, "there is no such page; was web/ built?").into_response();
    };
    let kind = file.metadata.mimetype().to_owned();
    let mut response = Body::from(file.data).into_response();
    let headers = response.headers_mut();
    if let Ok(kind) = HeaderValue::from_str(&kind) {
        headers.insert(header::CONTENT_TYPE, kind);
    }
    // Names under assets/ carry a hash of their content.
    let keep = if path.starts_with("assets/") { "public, max-age=31536000, immutable" } else { "no-cache" };
    headers.insert(header::CACHE_CONTROL, HeaderValue::from_static(keep));
    response
}
