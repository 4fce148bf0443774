//! A build as it is kept, in an answer.

use axum::Json;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use orthavis_core::document::Build;
use orthavis_store::Stored;
use serde::Serialize;
use utoipa::ToSchema;

/// A build as it is kept.
#[derive(Debug, Serialize, ToSchema)]
pub struct StoredBuild {
    /// Key.
    id: i64,
    /// Counts up from 1.
    revision: i64,
    /// RFC 3339, UTC.
    saved_at: String,
    /// The document.
    document: Build,
}

impl StoredBuild {
    pub(crate) fn id(&self) -> i64 {
        self.id
    }
}

impl From<Stored> for StoredBuild {
    fn from(stored: Stored) -> Self {
        StoredBuild { id: stored.id, revision: stored.revision, saved_at: stored.saved_at, document: stored.build }
    }
}

impl IntoResponse for StoredBuild {
    fn into_response(self) -> Response {
        ([(header::ETAG, format!("\"{}\"", self.revision))], Json(self)).into_response()
    }
}
