//! Errors as RFC 9457 problem bodies, each with what to do about it.

use crate::stored::StoredBuild;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use orthavis_core::document::DocumentError;
use orthavis_operations::Refusal;
use orthavis_store::StoreError;
use serde::Serialize;
use utoipa::ToSchema;

/// RFC 9457 problem details: what the core says, and what only a server knows.
#[derive(Debug, Serialize, ToSchema)]
pub struct Problem {
    /// What is wrong.
    #[serde(flatten)]
    pub refusal: Refusal,
    /// Number of the request, as the server's log and `X-Request-Id` have it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub request: Option<String>,
    /// The version that a stale save ran into.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub current: Option<Box<StoredBuild>>,
}

/// What a handler gives back.
pub type Answer<T> = Result<T, Problem>;

impl Problem {
    /// A problem of its own kind, with no fields at fault.
    pub fn new(status: StatusCode, kind: &'static str, title: &'static str, detail: impl Into<String>) -> Self {
        Refusal { status: status.as_u16(), ..Refusal::new(kind, title, detail) }.into()
    }

    /// Something that no request should bring about.
    pub fn internal() -> Self {
        let detail = "The computation stopped. Try again, and report the build if it stops again.";
        Problem::new(StatusCode::INTERNAL_SERVER_ERROR, "internal", "Something broke", detail)
    }
}

impl IntoResponse for Problem {
    fn into_response(mut self) -> Response {
        self.request = crate::request_id::current();
        let status = StatusCode::from_u16(self.refusal.status).unwrap_or(StatusCode::INTERNAL_SERVER_ERROR);
        if status.is_server_error() {
            tracing::error!(request = self.request, kind = self.refusal.kind, detail = %self.refusal.detail, "request failed");
        }
        let body = serde_json::to_vec(&self).unwrap_or_default();
        (status, [(header::CONTENT_TYPE, "application/problem+json"), (header::CACHE_CONTROL, "no-store")], body).into_response()
    }
}

impl From<Refusal> for Problem {
    fn from(refusal: Refusal) -> Self {
        Problem { refusal, request: None, current: None }
    }
}

impl From<DocumentError> for Problem {
    fn from(error: DocumentError) -> Self {
        Refusal::from(error).into()
    }
}

impl From<StoreError> for Problem {
    fn from(error: StoreError) -> Self {
        let detail = error.to_string();
        match error {
            StoreError::NotFound => Problem::new(StatusCode::NOT_FOUND, "not-found", "Not found", format!("{detail}. Go back to the shelf.")),
            StoreError::Stale(current) => {
                let mut problem = Problem::new(StatusCode::PRECONDITION_FAILED, "stale", "Saved elsewhere meanwhile", detail);
                problem.current = current.read().ok().map(|current| Box::new(current.into()));
                problem
            }
            StoreError::Damaged(error) => {
                let mut problem = Problem::new(
                    StatusCode::UNPROCESSABLE_ENTITY,
                    "unreadable",
                    "This build cannot be read",
                    format!("{detail} It is kept as it is: look at it as text, export it, or restore an older revision."),
                );
                problem.refusal.errors = error.faults;
                problem
            }
            StoreError::TooLarge(_) => Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "too-large", "Too large", format!("{detail}.")),
            StoreError::Moment(_) => Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "moment", "No such moment", format!("{detail}.")),
            StoreError::Differs(_) => Problem::new(StatusCode::CONFLICT, "differs", "Another event has this id", format!("{detail}.")),
            StoreError::NoPhoto(_) => Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "photo", "No such picture", format!("{detail}.")),
            StoreError::Gone(_) => Problem::new(StatusCode::INSUFFICIENT_STORAGE, "gone", "Nothing is saved any more", format!("{detail}.")),
            _ => Problem::new(StatusCode::INTERNAL_SERVER_ERROR, "store", "The builds could not be reached", detail),
        }
    }
}
