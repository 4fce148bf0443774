//! Who may talk to this server, and what a browser may do with its pages.

use crate::devices::{from_here, from_the_network};
use crate::page::short;
use crate::problem::Problem;
use crate::request_id::{Numbers, within};
use crate::seats::Seats;
use axum::Router;
use axum::extract::{DefaultBodyLimit, Request, State};
use axum::http::{HeaderMap, HeaderName, HeaderValue, StatusCode, header};
use axum::middleware::{Next, from_fn, from_fn_with_state};
use axum::response::{IntoResponse, Response};
use orthavis_core::document::MAX_BYTES;
use orthavis_store::Store;
use sha2::{Digest, Sha256};
use std::net::SocketAddr;
use std::path::Path;
use std::sync::Arc;
use std::time::Duration;
use tower_http::request_id::{PropagateRequestIdLayer, SetRequestIdLayer};
use tower_http::set_header::SetResponseHeaderLayer;
use tower_http::trace::TraceLayer;
use tracing::Span;

/// The page needs nothing from elsewhere. The style library puts an empty `<style>` on the page and fills it through
/// the style sheet's own interface; the hash is that of the empty text. The core in the page is WebAssembly.
const POLICY: &str = "default-src 'none'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'sha256-47DEQpj8HBSa+/TImW+5JCeuQeRkm5NMpJWZG3hSuFU='; font-src 'self'; img-src 'self' data: blob:; connect-src 'self'; \
     manifest-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'";

/// What each answer tells the browser.
const HEADERS: [(HeaderName, &str); 5] = [
    (header::CONTENT_SECURITY_POLICY, POLICY),
    (header::X_CONTENT_TYPE_OPTIONS, "nosniff"),
    (header::REFERRER_POLICY, "no-referrer"),
    (HeaderName::from_static("cross-origin-opener-policy"), "same-origin"),
    (HeaderName::from_static("cross-origin-resource-policy"), "same-origin"),
];

/// Where a request may come in.
#[derive(Clone)]
pub enum Side {
    /// A port of this machine alone, whose asker is the owner.
    Near(SocketAddr),
    /// An address on the local network, whose asker has to be let in.
    Garage(SocketAddr, Store, Seats),
}

impl Side {
    /// Names under which this server may be addressed there, as `host:port`.
    fn hosts(&self) -> Vec<String> {
        let (address, mut names) = match self {
            Side::Near(address) => (address, vec!["127.0.0.1".to_owned(), "localhost".into(), "[::1]".into()]),
            Side::Garage(address, ..) => (address, vec![if address.is_ipv6() { format!("[{}]", address.ip()) } else { address.ip().to_string() }]),
        };
        let port = address.port();
        let with_port: Vec<String> = names.iter().map(|name| format!("{name}:{port}")).collect();
        if port != 80 {
            names.clear();
        }
        names.extend(with_port);
        names
    }
}

/// Which workshop answers: two may stand at one address, one after another.
const WORKSHOP: HeaderName = HeaderName::from_static("x-orthavis-workshop");

/// What the API answers is of this moment, of the workshop in this file, and nobody else's.
pub fn of_this_moment<S: Clone + Send + Sync + 'static>(api: Router<S>, file: &Path) -> Router<S> {
    let workshop = HeaderValue::from_str(&short(&Sha256::digest(file.as_os_str().as_encoded_bytes()))).unwrap_or(HeaderValue::from_static("?"));
    api.layer(SetResponseHeaderLayer::if_not_present(header::CACHE_CONTROL, HeaderValue::from_static("no-store")))
        .layer(SetResponseHeaderLayer::overriding(WORKSHOP, workshop))
}

/// Puts the checks and headers around everything; each request gets a number, and a line in the log.
pub fn guarded(router: Router, side: Side) -> Router {
    let allowed: Arc<[String]> = side.hosts().into();
    let router = match side {
        Side::Near(_) => router.layer(from_fn(from_here)),
        Side::Garage(_, store, seats) => router.layer(from_fn_with_state((store, seats), from_the_network)),
    };
    let router = router.layer(DefaultBodyLimit::max(MAX_BYTES + 64 * 1024)).layer(from_fn_with_state(allowed, own_page_only));
    let router =
        HEADERS.into_iter().fold(router, |router, (name, value)| router.layer(SetResponseHeaderLayer::overriding(name, HeaderValue::from_static(value))));
    let log = TraceLayer::new_for_http().make_span_with(span).on_request(()).on_response(answered);
    // Outermost first: the number, then what is said under it.
    router.layer(log).layer(from_fn(within)).layer(PropagateRequestIdLayer::x_request_id()).layer(SetRequestIdLayer::x_request_id(Numbers::default()))
}

fn span(request: &Request) -> Span {
    let number = crate::request_id::current();
    let (method, path) = (request.method(), request.uri().path());
    // The page's own files, a dozen at each opening, are of no interest.
    if path.starts_with("/api/") { tracing::info_span!("request", number, %method, path) } else { tracing::debug_span!("file", number, %method, path) }
}

fn answered(response: &Response, latency: Duration, span: &Span) {
    let (status, micros) = (response.status().as_u16(), latency.as_micros());
    if span.metadata().is_some_and(|known| known.name() == "request") {
        tracing::info!(parent: span, status, micros, "answered");
    } else {
        tracing::debug!(parent: span, status, micros, "answered");
    }
}

/// Says where a request comes from, in browsers that know.
const SEC_FETCH_SITE: HeaderName = HeaderName::from_static("sec-fetch-site");

fn is_own(headers: &HeaderMap, allowed: &[String]) -> bool {
    let single = |name: &HeaderName| headers.get_all(name).iter().count() <= 1;
    let text = |name: &HeaderName| headers.get(name).map(|value: &HeaderValue| value.to_str().unwrap_or("?"));
    let host = text(&header::HOST).is_some_and(|host| allowed.iter().any(|own| own == host));
    let origin = text(&header::ORIGIN).is_none_or(|origin| allowed.iter().any(|own| origin.strip_prefix("http://") == Some(own)));
    let near = text(&SEC_FETCH_SITE).is_none_or(|site| site != "cross-site");
    host && origin && near && [header::HOST, header::ORIGIN, SEC_FETCH_SITE].iter().all(single)
}

async fn own_page_only(State(allowed): State<Arc<[String]>>, request: Request, next: Next) -> Response {
    if is_own(request.headers(), &allowed) {
        return next.run(request).await;
    }
    let detail = "This server answers only its own page. Open the address that it printed when it started.";
    Problem::new(StatusCode::FORBIDDEN, "foreign", "Not from here", detail).into_response()
}
