//! Builds: kept, saved, renamed, copied, taken off the shelf and put back, with their history.

use crate::problem::{Answer, Problem};
use crate::request::{Body, Id, Ids, Key, expected_revision};
use crate::services::Services;
use crate::stored::StoredBuild;
use axum::Json;
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Response};
use orthavis_core::document::{Build, Fault, parse, parse_stored, parse_value};
use orthavis_store::{Store, StoreError};
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// The paths of this module.
pub(crate) fn router() -> OpenApiRouter<Services> {
    OpenApiRouter::new()
        .routes(routes!(crate::shelf::list, create))
        .routes(routes!(samples))
        .routes(routes!(text))
        .routes(routes!(open, save, remove))
        .routes(routes!(rename))
        .routes(routes!(duplicate))
        .routes(routes!(undelete))
        .routes(routes!(revisions))
        .routes(routes!(restore))
        .routes(routes!(name_revision))
}

/// A new build, from a document. Asked again under the same `Idempotency-Key`, it is the one that was made.
#[utoipa::path(post, path = "/api/v1/builds", params(("Idempotency-Key" = Option<String>, Header)), request_body = Build, responses((status = 201, body = StoredBuild), (status = 422, body = Problem)))]
async fn create(State(store): State<Store>, key: Key, Body(document): Body<Box<RawValue>>) -> Answer<Response> {
    let build = parse(document.get())?;
    let stored = match key.0 {
        Some(key) => store.create_as(build, key).await,
        None => store.create(build).await,
    };
    Ok(made(stored?.into()))
}

/// The sample builds that ship with the program, to look at and to copy.
#[utoipa::path(get, path = "/api/v1/samples", responses((status = 200, body = Vec<Build>)))]
async fn samples() -> Answer<Json<Vec<serde_json::Value>>> {
    // As a build is written: with what a file may leave out.
    let whole = |text: &str| parse(text).map(|build| build.to_value());
    Ok(Json(orthavis_core::demo::BUILDS.iter().map(|text| whole(text)).collect::<Result<_, _>>()?))
}

/// A new build, with where it is.
fn made(build: StoredBuild) -> Response {
    let location = format!("/api/v1/builds/{}", build.id());
    (StatusCode::CREATED, [(header::LOCATION, location)], build).into_response()
}

/// A build at its newest revision.
#[utoipa::path(get, path = "/api/v1/builds/{id}", params(("id" = i64, Path)), responses((status = 200, body = StoredBuild), (status = 404, body = Problem)))]
async fn open(State(store): State<Store>, Id(id): Id) -> Answer<StoredBuild> {
    Ok(store.open_build(id).await?.into())
}

/// A build as it is kept, to be read by people where this version cannot.
#[derive(Serialize, ToSchema)]
struct TextOfBuild {
    id: i64,
    revision: i64,
    /// RFC 3339, UTC.
    saved_at: String,
    name: String,
    /// The document, as it is kept.
    text: String,
    /// What this version cannot read; empty where it can.
    errors: Vec<Fault>,
}

/// A build's document as text, whether or not this version can read it.
#[utoipa::path(get, path = "/api/v1/builds/{id}/text", params(("id" = i64, Path)), responses((status = 200, body = TextOfBuild), (status = 404, body = Problem)))]
async fn text(State(store): State<Store>, Id(id): Id) -> Answer<Response> {
    let kept = store.text(id).await?;
    let errors = parse_stored(&kept.document).err().map(|error| error.faults).unwrap_or_default();
    let tag = format!("\"{}\"", kept.revision);
    let text = TextOfBuild { id: kept.id, revision: kept.revision, saved_at: kept.saved_at, name: kept.name, text: kept.document, errors };
    Ok(([(header::ETAG, tag)], Json(text)).into_response())
}

/// Saves on top of the revision in `If-Match`; a stale one is refused with the current version.
#[utoipa::path(put, path = "/api/v1/builds/{id}", params(("id" = i64, Path), ("If-Match" = String, Header)), request_body = Build,
    responses((status = 200, body = StoredBuild), (status = 404, body = Problem), (status = 412, body = Problem), (status = 422, body = Problem), (status = 428, body = Problem)))]
async fn save(State(store): State<Store>, Id(id): Id, headers: HeaderMap, Body(document): Body<Box<RawValue>>) -> Answer<StoredBuild> {
    let revision = expected_revision(&headers)?;
    let build = parse(document.get())?;
    Ok(store.save(id, revision, build).await?.into())
}

/// Takes a build off the shelf; `undelete` puts it back.
#[utoipa::path(delete, path = "/api/v1/builds/{id}", params(("id" = i64, Path), ("If-Match" = String, Header)),
    responses((status = 204), (status = 404, body = Problem), (status = 412, body = Problem)))]
async fn remove(State(store): State<Store>, Id(id): Id, headers: HeaderMap) -> Answer<StatusCode> {
    store.set_deleted(id, Some(expected_revision(&headers)?), true).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Puts a deleted build back; without a body where this version cannot read it.
#[utoipa::path(post, path = "/api/v1/builds/{id}/undelete", params(("id" = i64, Path), ("If-Match" = String, Header)),
    responses((status = 200, body = StoredBuild), (status = 204), (status = 404, body = Problem), (status = 412, body = Problem)))]
async fn undelete(State(store): State<Store>, Id(id): Id, headers: HeaderMap) -> Answer<Response> {
    store.set_deleted(id, Some(expected_revision(&headers)?), false).await?;
    match store.open_build(id).await {
        Err(StoreError::Damaged(_)) => Ok(StatusCode::NO_CONTENT.into_response()),
        opened => Ok(StoredBuild::from(opened?).into_response()),
    }
}

/// A new name.
#[derive(Deserialize, ToSchema)]
struct NewName {
    /// At most 200 characters.
    name: String,
}

/// Renames on top of the revision in `If-Match`.
#[utoipa::path(post, path = "/api/v1/builds/{id}/rename", params(("id" = i64, Path), ("If-Match" = String, Header)), request_body = NewName,
    responses((status = 200, body = StoredBuild), (status = 404, body = Problem), (status = 412, body = Problem), (status = 422, body = Problem)))]
async fn rename(State(store): State<Store>, Id(id): Id, headers: HeaderMap, Body(new): Body<NewName>) -> Answer<StoredBuild> {
    let revision = expected_revision(&headers)?;
    let mut build = store.open_build(id).await?.build;
    build.name = new.name;
    let build = parse_value(&build.to_value())?;
    Ok(store.save(id, revision, build).await?.into())
}

/// A copy on the shelf; under the same `Idempotency-Key` only one.
#[utoipa::path(post, path = "/api/v1/builds/{id}/duplicate", params(("id" = i64, Path), ("Idempotency-Key" = Option<String>, Header)), responses((status = 201, body = StoredBuild), (status = 404, body = Problem)))]
async fn duplicate(State(store): State<Store>, Id(id): Id, key: Key) -> Answer<Response> {
    let stored = match key.0 {
        Some(key) => store.duplicate_as(id, key).await,
        None => store.duplicate(id).await,
    };
    Ok(made(stored?.into()))
}

/// One line of a build's history.
#[derive(Serialize, ToSchema)]
struct RevisionEntry {
    /// What a person called it; such a revision is kept for good.
    #[serde(skip_serializing_if = "Option::is_none")]
    label: Option<String>,
    revision: i64,
    /// RFC 3339, UTC.
    saved_at: String,
    name: String,
}

/// The history of a build, newest first.
#[utoipa::path(get, path = "/api/v1/builds/{id}/revisions", params(("id" = i64, Path)), responses((status = 200, body = Vec<RevisionEntry>), (status = 404, body = Problem)))]
async fn revisions(State(store): State<Store>, Id(id): Id) -> Answer<Json<Vec<RevisionEntry>>> {
    let entry = |r: orthavis_store::Revision| RevisionEntry { label: r.label, revision: r.revision, saved_at: r.saved_at, name: r.name };
    Ok(Json(store.revisions(id).await?.into_iter().map(entry).collect()))
}

/// What to call a revision.
#[derive(Deserialize, ToSchema)]
struct RevisionName {
    /// At most 100 characters; empty takes the name away.
    label: String,
}

/// Names a revision, so that it is kept for good while others are thinned out.
#[utoipa::path(put, path = "/api/v1/builds/{id}/revisions/{revision}/label", params(("id" = i64, Path), ("revision" = i64, Path), ("If-Match" = String, Header)), request_body = RevisionName,
    responses((status = 204), (status = 404, body = Problem), (status = 412, body = Problem), (status = 422, body = Problem)))]
async fn name_revision(State(store): State<Store>, Ids(id, revision): Ids, headers: HeaderMap, Body(new): Body<RevisionName>) -> Answer<StatusCode> {
    let label = Some(new.label.trim().to_owned()).filter(|label| !label.is_empty());
    if let Some(long) = label.as_ref().map(|label| label.chars().count()).filter(|length| *length > 100) {
        let detail = format!("It is {long} characters long; give it at most 100.");
        return Err(Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "label", "The name is too long", detail));
    }
    store.label(id, Some(expected_revision(&headers)?), revision, label).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Saves an old revision again as the newest.
#[utoipa::path(post, path = "/api/v1/builds/{id}/revisions/{revision}/restore", params(("id" = i64, Path), ("revision" = i64, Path), ("If-Match" = String, Header)),
    responses((status = 200, body = StoredBuild), (status = 404, body = Problem), (status = 412, body = Problem)))]
async fn restore(State(store): State<Store>, Ids(id, revision): Ids, headers: HeaderMap) -> Answer<StoredBuild> {
    Ok(store.restore(id, Some(expected_revision(&headers)?), revision).await?.into())
}
