//! A number for each request, in its answer, in the log, and in the problem that it may end in.

use axum::extract::Request;
use axum::http::HeaderValue;
use axum::middleware::Next;
use axum::response::Response;
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use tower_http::request_id::{MakeRequestId, RequestId};

/// Counts requests of this process.
#[derive(Clone, Default)]
pub struct Numbers(Arc<AtomicU64>);

impl MakeRequestId for Numbers {
    fn make_request_id<B>(&mut self, _: &axum::http::Request<B>) -> Option<RequestId> {
        let number = format!("{}-{}", std::process::id(), self.0.fetch_add(1, Ordering::Relaxed) + 1);
        HeaderValue::from_str(&number).ok().map(RequestId::new)
    }
}

tokio::task_local! {
    static CURRENT: String;
}

/// Answers within the number, which is handed on to everything that is called.
pub async fn within(request: Request, next: Next) -> Response {
    let number = request.extensions().get::<RequestId>().and_then(|id| id.header_value().to_str().ok()).unwrap_or_default().to_owned();
    CURRENT.scope(number, next.run(request)).await
}

/// The number of the request that is being answered.
pub fn current() -> Option<String> {
    CURRENT.try_with(Clone::clone).ok()
}
