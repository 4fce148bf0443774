//! What a request brings: numbers in its path, a body, the revision it was made on, words; each refusal is a problem.

use crate::problem::{Answer, Problem};
use axum::body::Bytes;
use axum::extract::rejection::PathRejection;
use axum::extract::{FromRequest, FromRequestParts, Path, Request};
use axum::http::request::Parts;
use axum::http::{HeaderMap, StatusCode, header};
use orthavis_operations::Refusal;
use serde::de::DeserializeOwned;

/// The number of a build in the path.
pub(crate) struct Id(pub(crate) i64);

impl<S: Send + Sync> FromRequestParts<S> for Id {
    type Rejection = Problem;

    async fn from_request_parts(parts: &mut Parts, state: &S) -> Result<Self, Problem> {
        Path::<i64>::from_request_parts(parts, state).await.map(|Path(id)| Id(id)).map_err(no_number)
    }
}

/// The numbers of a build and of a revision in the path.
pub(crate) struct Ids(pub(crate) i64, pub(crate) i64);

impl<S: Send + Sync> FromRequestParts<S> for Ids {
    type Rejection = Problem;

    async fn from_request_parts(parts: &mut Parts, state: &S) -> Result<Self, Problem> {
        Path::<(i64, i64)>::from_request_parts(parts, state).await.map(|Path((id, revision))| Ids(id, revision)).map_err(no_number)
    }
}

/// The number of a build in the path, and the word after it.
pub(crate) struct IdAnd(pub(crate) i64, pub(crate) String);

impl<S: Send + Sync> FromRequestParts<S> for IdAnd {
    type Rejection = Problem;

    async fn from_request_parts(parts: &mut Parts, state: &S) -> Result<Self, Problem> {
        Path::<(i64, String)>::from_request_parts(parts, state).await.map(|Path((id, word))| IdAnd(id, word)).map_err(no_number)
    }
}

fn no_number(_: PathRejection) -> Problem {
    Problem::new(StatusCode::NOT_FOUND, "not-found", "Not found", "Builds and revisions are numbered; this is not such a number. Go back to the shelf.")
}

/// How long a body may take to arrive.
const ARRIVES: std::time::Duration = std::time::Duration::from_secs(30);

/// The bytes of a JSON body, not yet read; refusals are problems too.
pub(crate) struct Raw(pub(crate) Vec<u8>);

impl<S: Send + Sync> FromRequest<S> for Raw {
    type Rejection = Problem;

    async fn from_request(request: Request, state: &S) -> Result<Self, Problem> {
        let kind = request.headers().get(header::CONTENT_TYPE).and_then(|value| value.to_str().ok()).unwrap_or_default();
        if kind.split(';').next().map(str::trim) != Some("application/json") {
            let detail = "Send the body as application/json.";
            return Err(Problem::new(StatusCode::UNSUPPORTED_MEDIA_TYPE, "media-type", "Not JSON", detail));
        }
        let late = |_| Problem::new(StatusCode::REQUEST_TIMEOUT, "late", "Too slow", "The request did not arrive in time. Send it again.");
        let bytes = tokio::time::timeout(ARRIVES, Bytes::from_request(request, state)).await.map_err(late)?;
        let large = |_| Problem::new(StatusCode::PAYLOAD_TOO_LARGE, "too-large", "Too large", "A build is at most 4 MiB. Split it, or shorten its notes.");
        Ok(Raw(bytes.map_err(large)?.into()))
    }
}

/// A JSON body, read.
pub(crate) struct Body<T>(pub(crate) T);

impl<S: Send + Sync, T: DeserializeOwned> FromRequest<S> for Body<T> {
    type Rejection = Problem;

    async fn from_request(request: Request, state: &S) -> Result<Self, Problem> {
        let Raw(bytes) = Raw::from_request(request, state).await?;
        serde_json::from_slice(&bytes).map(Body).map_err(|error| Refusal::unreadable(&error).into())
    }
}

/// The revision that `If-Match` names.
pub(crate) fn expected_revision(headers: &HeaderMap) -> Answer<i64> {
    let tag = headers.get(header::IF_MATCH).and_then(|value| value.to_str().ok());
    tag.and_then(|tag| tag.trim().trim_matches('"').parse().ok()).ok_or_else(|| {
        let detail = "Send If-Match with the revision that the edit was made on.";
        Problem::new(StatusCode::PRECONDITION_REQUIRED, "revision", "Which revision?", detail)
    })
}

/// What a request that makes something may be known by, so that sending it again makes no second one.
pub(crate) struct Key(pub(crate) Option<String>);

impl<S: Send + Sync> FromRequestParts<S> for Key {
    type Rejection = Problem;

    async fn from_request_parts(parts: &mut Parts, _: &S) -> Answer<Self> {
        let Some(value) = parts.headers.get("idempotency-key") else { return Ok(Key(None)) };
        let sound = value.to_str().ok().filter(|key| (1..=200).contains(&key.len()));
        let detail = "Give `Idempotency-Key` 1 to 200 plain characters, or leave it out.";
        let key = sound.ok_or_else(|| Problem::new(StatusCode::BAD_REQUEST, "key", "The key cannot be used", detail))?;
        Ok(Key(Some(key.to_owned())))
    }
}
