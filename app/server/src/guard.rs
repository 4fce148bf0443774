//! Who may talk to this server, and what a browser may do with its pages.

use crate::problem::Problem;
use crate::request_id::numbered;
use axum::Router;
use axum::extract::{DefaultBodyLimit, Request, State};
use axum::http::{HeaderMap, HeaderName, HeaderValue, StatusCode, header};
use axum::middleware::{Next, from_fn_with_state};
use axum::response::{IntoResponse, Response};
use orthavis_core::document::MAX_BYTES;
use std::net::SocketAddr;
use std::sync::Arc;
use std::time::Instant;

/// The page needs nothing from elsewhere. The style library puts an empty `<style>` on the page and fills it through
/// the style sheet's own interface; the hash is that of the empty text.
const POLICY: &str = "default-src 'none'; script-src 'self'; style-src 'self' 'sha256-47DEQpj8HBSa+/TImW+5JCeuQeRkm5NMpJWZG3hSuFU='; font-src 'self'; img-src 'self' data: blob:; connect-src 'self'; \
     manifest-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'";

const HEADERS: [(HeaderName, &str); 5] = [
    (header::CONTENT_SECURITY_POLICY, POLICY),
    (header::X_CONTENT_TYPE_OPTIONS, "nosniff"),
    (header::REFERRER_POLICY, "no-referrer"),
    (HeaderName::from_static("cross-origin-opener-policy"), "same-origin"),
    (HeaderName::from_static("cross-origin-resource-policy"), "same-origin"),
];

/// Names under which this server may be addressed, as `host:port`.
fn hosts(address: SocketAddr) -> Vec<String> {
    let port = address.port();
    let mut hosts = vec![format!("127.0.0.1:{port}"), format!("localhost:{port}"), format!("[::1]:{port}")];
    if port == 80 {
        hosts.extend(["127.0.0.1".into(), "localhost".into(), "[::1]".into()]);
    }
    hosts
}

/// Puts the checks and headers around everything.
pub fn guarded(router: Router, address: SocketAddr) -> Router {
    let allowed: Arc<[String]> = hosts(address).into();
    router.layer(DefaultBodyLimit::max(MAX_BYTES + 64 * 1024)).layer(from_fn_with_state(allowed, check))
}

/// The number under which a request stands in the log.
const REQUEST_ID: HeaderName = HeaderName::from_static("x-request-id");
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

async fn check(State(allowed): State<Arc<[String]>>, request: Request, next: Next) -> Response {
    let started = Instant::now();
    let (method, path) = (request.method().clone(), request.uri().path().to_owned());
    let answer = async {
        if is_own(request.headers(), &allowed) {
            return next.run(request).await;
        }
        let detail = "This server answers only its own page. Open the address that it printed when it started.";
        Problem::new(StatusCode::FORBIDDEN, "foreign", "Not from here", detail).into_response()
    };
    let (number, mut response) = numbered(answer).await;
    if path.starts_with("/api/") {
        // What is answered is of this moment, and nobody else's.
        response.headers_mut().entry(header::CACHE_CONTROL).or_insert(HeaderValue::from_static("no-store"));
    }
    for (name, value) in HEADERS {
        response.headers_mut().insert(name, HeaderValue::from_static(value));
    }
    if let Ok(value) = HeaderValue::from_str(&number) {
        response.headers_mut().insert(REQUEST_ID, value);
    }
    let (status, micros) = (response.status().as_u16(), started.elapsed().as_micros());
    if path.starts_with("/api/") {
        tracing::info!(request = number, %method, path, status, micros, "answered");
    } else {
        // The page's own files, a dozen at each opening.
        tracing::debug!(request = number, %method, path, status, micros, "answered");
    }
    response
}
