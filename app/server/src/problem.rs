//! Errors as RFC 9457 problem bodies, each with what to do about it.

use crate::stored::StoredBuild;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use orthavis_core::document::{DocumentError, Fault, PatchError};
use orthavis_core::network::SolveError;
use orthavis_core::points::PointError;
use orthavis_core::propose::WishError;
use orthavis_core::remove::RemovalError;
use orthavis_store::StoreError;
use serde::Serialize;
use utoipa::ToSchema;

/// RFC 9457 problem details.
#[derive(Debug, Serialize, ToSchema)]
pub struct Problem {
    /// A name for this kind of problem.
    #[serde(rename = "type")]
    pub kind: &'static str,
    /// The kind in a few words.
    pub title: &'static str,
    /// HTTP status.
    pub status: u16,
    /// What happened and what to do.
    pub detail: String,
    /// Fields at fault.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub errors: Vec<Fault>,
    /// Number of the request, as the server's log and `X-Request-Id` have it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub request: Option<String>,
    /// The version that a stale save ran into.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub current: Option<Box<StoredBuild>>,
}

/// What a handler gives back.
pub(crate) type Answer<T> = Result<T, Problem>;

impl Problem {
    pub fn new(status: StatusCode, kind: &'static str, title: &'static str, detail: impl Into<String>) -> Self {
        Problem { kind, title, status: status.as_u16(), detail: detail.into(), errors: Vec::new(), request: None, current: None }
    }
}

impl IntoResponse for Problem {
    fn into_response(mut self) -> Response {
        self.request = crate::request_id::current();
        let status = StatusCode::from_u16(self.status).unwrap_or(StatusCode::INTERNAL_SERVER_ERROR);
        if status.is_server_error() {
            tracing::error!(request = self.request, kind = self.kind, detail = %self.detail, "request failed");
        }
        let body = serde_json::to_vec(&self).unwrap_or_default();
        (status, [(header::CONTENT_TYPE, "application/problem+json"), (header::CACHE_CONTROL, "no-store")], body).into_response()
    }
}

impl From<DocumentError> for Problem {
    fn from(error: DocumentError) -> Self {
        let mut problem = Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "document", "The build cannot be read", error.to_string());
        problem.errors = error.faults;
        problem
    }
}

impl From<PatchError> for Problem {
    fn from(error: PatchError) -> Self {
        Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "changes", "The change does not fit", format!("{error}."))
    }
}

impl From<PointError> for Problem {
    fn from(error: PointError) -> Self {
        match &error.error {
            SolveError::CalledOff => return Problem::new(StatusCode::SERVICE_UNAVAILABLE, "busy", "Called off", "The computation was called off. Ask again."),
            SolveError::TooMuch { size } => {
                let detail = format!("The build is too large to be computed: {size}. Make it smaller: fewer scenes, shorter strips, or two builds.");
                return Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "too-large", "Too large to compute", detail);
            }
            _ => {}
        }
        let detail = format!("{error}. Give it a supply that can carry it, a thicker wire, or less light.");
        Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "no-steady-state", "The build has no steady state", detail)
    }
}

impl From<WishError> for Problem {
    fn from(error: WishError) -> Self {
        Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "wish", "The part cannot be added like this", error.to_string())
    }
}

impl From<RemovalError> for Problem {
    fn from(error: RemovalError) -> Self {
        Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "removal", "It cannot be taken out", error.to_string())
    }
}

impl From<orthavis_core::choose::ChooseError> for Problem {
    fn from(error: orthavis_core::choose::ChooseError) -> Self {
        Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "choose", "There is nothing to choose from", error.to_string())
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
                problem.errors = error.faults;
                problem
            }
            StoreError::TooLarge(_) => Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "too-large", "Too large", format!("{detail}.")),
            StoreError::Moment(_) => Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "moment", "No such moment", format!("{detail}.")),
            StoreError::Differs(_) => Problem::new(StatusCode::CONFLICT, "differs", "Another event has this id", format!("{detail}.")),
            StoreError::Gone(_) => Problem::new(StatusCode::INSUFFICIENT_STORAGE, "gone", "Nothing is saved any more", format!("{detail}.")),
            _ => Problem::new(StatusCode::INTERNAL_SERVER_ERROR, "store", "The builds could not be reached", detail),
        }
    }
}
