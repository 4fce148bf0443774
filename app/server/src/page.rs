//! The page, its scripts, styles and fonts: from inside the binary, or from a folder.
//!
//! A page and the core that answers in it are of one version: a page asks for its core by its own version, and is refused
//! any other. What starts the page without a server ([`worker`]) takes all files of one version or none.

use crate::problem::Problem;
use axum::body::Bytes;
use axum::http::{HeaderName, HeaderValue, Method, StatusCode, Uri, header};
use axum::response::{IntoResponse, Response};
use rust_embed::RustEmbed;
use sha2::{Digest, Sha256};
use std::borrow::Cow;
use std::fmt::Write;
use std::path::{Path, PathBuf};
use std::sync::OnceLock;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
#[allow_missing = true]
struct Embedded;

/// A folder whose page is served in place of the one inside.
static FOLDER: OnceLock<PathBuf> = OnceLock::new();

/// The core for the page, which may come later than the page itself.
const CORE: &str = "core.wasm";
/// What a page is told of its version by, in its own text.
const VERSION: &str = "<meta name=\"orthavis-version\" content=\"\"";
/// Soon enough to look again for a core that is being built, s.
const SOON: HeaderValue = HeaderValue::from_static("15");

/// Serves the page of `folder` in place of the one inside.
///
/// # Errors
/// Where there is no page, in words.
pub fn page_from(folder: &Path) -> Result<(), String> {
    if !folder.join("index.html").is_file() {
        return Err(format!("{} holds no page: there is no index.html. Name the folder that the page was built into.", folder.display()));
    }
    // The first one counts; a process serves one page.
    drop(FOLDER.set(folder.to_path_buf()));
    Ok(())
}

/// Whether the page lies in a folder, where it may change under the server.
fn may_change() -> bool {
    FOLDER.get().is_some() || cfg!(all(debug_assertions, not(feature = "embed")))
}

/// A file of the page.
pub(crate) fn file(path: &str) -> Option<Bytes> {
    if let Some(folder) = FOLDER.get() {
        let inside = Path::new(path).components().all(|part| matches!(part, std::path::Component::Normal(_)));
        return if inside { std::fs::read(folder.join(path)).ok().map(Bytes::from) } else { None };
    }
    // In the binary they lie still: nothing is copied, however many ask and read nothing.
    Some(match Embedded::get(path)?.data {
        Cow::Borrowed(data) => Bytes::from_static(data),
        Cow::Owned(data) => Bytes::from(data),
    })
}

/// Paths of all files below a folder.
fn below(folder: &Path, under: &str, found: &mut Vec<String>) {
    for entry in std::fs::read_dir(folder).into_iter().flatten().flatten() {
        let name = format!("{under}{}", entry.file_name().to_string_lossy());
        if entry.path().is_dir() { below(&entry.path(), &format!("{name}/"), found) } else { found.push(name) }
    }
}

/// Every file that a browser loads, in order.
fn names() -> Vec<String> {
    let mut names = Vec::new();
    match FOLDER.get() {
        Some(folder) => below(folder, "", &mut names),
        None => names.extend(Embedded::iter().map(|name| name.to_string())),
    }
    // What goes into sheets is the server's, and what is not written to its end nobody's.
    names.retain(|name| !name.starts_with("sheet/") && !name.ends_with(".part"));
    names.sort_unstable();
    names
}

/// The first eight bytes of a sum as text: enough to tell one from another.
pub(crate) fn short(sum: &[u8]) -> String {
    sum.iter().take(8).fold(String::new(), |text, byte| text + &format!("{byte:02x}"))
}

/// The version of what is served: of the page alone, or of all that starts it without a server.
fn version(with_core: bool) -> String {
    static PAGE: OnceLock<String> = OnceLock::new();
    static ALL: OnceLock<String> = OnceLock::new();
    let look = || {
        let mut sum = Sha256::new();
        for name in names().iter().filter(|name| with_core || *name != CORE) {
            let Some(data) = file(name) else { continue };
            sum.update(name.as_bytes());
            sum.update([0]);
            sum.update(Sha256::digest(&data));
        }
        short(&sum.finalize())
    };
    if may_change() { look() } else { if with_core { &ALL } else { &PAGE }.get_or_init(look).clone() }
}

/// What starts the page without a server, for browsers that allow it: `worker.js` with what it is to keep.
fn worker() -> String {
    let (all, page) = (version(true), version(false));
    let mut text = format!("const VERSION = \"{all}\";\nconst PAGE = \"{page}\";\nconst FILES = [");
    for name in names() {
        let query = if name == CORE { format!("?page={page}") } else { String::new() };
        let _ = write!(text, "\n  \"/{}{query}\",", if name == "index.html" { "" } else { &name });
    }
    text + "\n];\n" + include_str!("page/worker.js")
}

/// How a file is to be read, by its name.
fn kind(path: &str) -> &'static str {
    match path.rsplit('.').next() {
        Some("html") => "text/html; charset=utf-8",
        Some("js") => "text/javascript; charset=utf-8",
        Some("css") => "text/css; charset=utf-8",
        Some("svg") => "image/svg+xml",
        Some("png") => "image/png",
        Some("wasm") => "application/wasm",
        Some("woff2") => "font/woff2",
        Some("webmanifest") => "application/manifest+json",
        _ => "application/octet-stream",
    }
}

fn not_found(detail: &str) -> Response {
    Problem::new(StatusCode::NOT_FOUND, "not-found", "Not found", detail).into_response()
}

fn answer(path: &str, bytes: impl Into<Bytes>) -> Response {
    // Names in assets/ carry a hash of their contents.
    let cache = if path.starts_with("assets/") { "public, max-age=31536000, immutable" } else { "no-cache" };
    let headers = [(header::CONTENT_TYPE, HeaderValue::from_static(kind(path))), (header::CACHE_CONTROL, HeaderValue::from_static(cache))];
    (headers, axum::body::Body::from(bytes.into())).into_response()
}

/// The core, for a page of its version.
fn core(asked: Option<&str>) -> Response {
    if asked.is_some_and(|asked| asked != version(false)) {
        return not_found("This core is of another version than the page that asks. Open the page anew.");
    }
    match file(CORE) {
        Some(bytes) => answer(CORE, bytes),
        None if may_change() => {
            ([(header::RETRY_AFTER, SOON)], not_found("The core for the page is not built yet; the server answers until it is.")).into_response()
        }
        None => not_found("This binary was built without the core for pages; the server answers."),
    }
}

/// A file of the page; any other path outside the API is a view of it and gets the page itself.
pub async fn serve(method: Method, uri: Uri) -> Response {
    let path = uri.path().trim_start_matches('/').to_owned();
    if path.starts_with("api/") {
        return not_found("The API has no such path; see /api/v1/openapi.json.");
    }
    if method != Method::GET && method != Method::HEAD {
        return not_found("Only the API takes that method.");
    }
    let asked = uri.query().and_then(|query| query.split('&').find_map(|pair| pair.strip_prefix("page="))).map(str::to_owned);
    if may_change() {
        let found = tokio::task::spawn_blocking(move || found(&path, asked.as_deref())).await;
        return found.unwrap_or_else(|_| not_found("The file could not be read. Open the page once more."));
    }
    found(&path, asked.as_deref())
}

fn found(path: &str, asked: Option<&str>) -> Response {
    let is_file = path.rsplit('/').next().is_some_and(|name| name.contains('.'));
    match path {
        CORE => core(asked),
        // It rules over the whole page, and says so itself.
        "worker.js" => ([(HeaderName::from_static("service-worker-allowed"), HeaderValue::from_static("/"))], answer(path, worker())).into_response(),
        _ if is_file && path != "index.html" => file(path).map_or_else(|| not_found("There is no such file."), |bytes| answer(path, bytes)),
        _ => match file("index.html") {
            Some(bytes) => {
                let text = String::from_utf8_lossy(&bytes).replace(VERSION, &VERSION.replace("\"\"", &format!("\"{}\"", version(false))));
                answer("index.html", text)
            }
            None => not_found("This binary was built without its page; build it with `cargo xtask demo`."),
        },
    }
}
