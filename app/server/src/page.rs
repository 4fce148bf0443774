//! The page, its scripts, styles and fonts, from inside the binary.

use crate::problem::Problem;
use axum::body::Bytes;
use axum::http::{HeaderValue, Method, StatusCode, Uri, header};
use axum::response::{IntoResponse, Response};
use rust_embed::RustEmbed;
use std::borrow::Cow;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
#[allow_missing = true]
pub(crate) struct Files;

/// A file of the page; any other path outside the API is a view of it and gets the page itself.
pub async fn serve(method: Method, uri: Uri) -> Response {
    let path = uri.path().trim_start_matches('/');
    let not_found = |detail: &str| Problem::new(StatusCode::NOT_FOUND, "not-found", "Not found", detail).into_response();
    if path.starts_with("api/") {
        return not_found("The API has no such path; see /api/v1/openapi.json.");
    }
    if method != Method::GET && method != Method::HEAD {
        return not_found("Only the API takes that method.");
    }
    let is_file = path.rsplit('/').next().is_some_and(|name| name.contains('.'));
    let wanted = if is_file { path } else { "index.html" };
    let Some(file) = Files::get(wanted) else {
        return not_found(if is_file { "There is no such file." } else { "This binary was built without its page; build it with `cargo xtask demo`." });
    };
    // In the binary they lie still: nothing is copied, however many ask and read nothing.
    let bytes = match file.data {
        Cow::Borrowed(data) => Bytes::from_static(data),
        Cow::Owned(data) => Bytes::from(data),
    };
    let kind = HeaderValue::from_str(file.metadata.mimetype()).unwrap_or(HeaderValue::from_static("application/octet-stream"));
    // Names in assets/ carry a hash of their contents.
    let cache = if wanted.starts_with("assets/") { "public, max-age=31536000, immutable" } else { "no-cache" };
    ([(header::CONTENT_TYPE, kind), (header::CACHE_CONTROL, HeaderValue::from_static(cache))], bytes).into_response()
}
