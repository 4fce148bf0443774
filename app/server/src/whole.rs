//! Everything that is kept, for the page: a backup, a look at what one would change, its way back, and everything in open formats.

use crate::problem::{Answer, Problem};
use crate::request::Raw;
use crate::services::Services;
use axum::Json;
use axum::body::Bytes;
use axum::extract::rejection::BytesRejection;
use axum::extract::{DefaultBodyLimit, Query, State};
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use orthavis_operations::Refusal;
use orthavis_store::Store;
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// Bytes that a backup may have.
const MAX_WHOLE: usize = 512 << 20;

/// The paths of this module.
pub(crate) fn router() -> OpenApiRouter<Services> {
    let large = OpenApiRouter::new()
        .routes(routes!(look_at_backup))
        .routes(routes!(restore_backup))
        .routes(routes!(import_workshop))
        .layer(DefaultBodyLimit::max(MAX_WHOLE));
    OpenApiRouter::new().routes(routes!(backup_workshop)).routes(routes!(export_workshop)).merge(large)
}

/// Everything that is kept as one file, consistent while others write: the SQLite database itself.
#[utoipa::path(get, path = "/api/v1/workshop/backup", responses((status = 200, body = Vec<u8>, content_type = "application/vnd.sqlite3"), (status = 500, body = Problem)))]
async fn backup_workshop(State(store): State<Store>) -> Answer<Response> {
    let bytes = store.backup().await?;
    let head = [(header::CONTENT_TYPE, "application/vnd.sqlite3"), (header::CONTENT_DISPOSITION, "attachment; filename=\"workshop.orthavis\"")];
    Ok((head, bytes).into_response())
}

/// What restoring would do to a build.
#[derive(Serialize, ToSchema)]
struct BuildChange {
    /// Its name.
    name: String,
    /// `same`, `changes`, `comes` or `goes`.
    what: &'static str,
    /// When it was last saved here; absent: it is not here.
    here: Option<String>,
    /// When it was last saved in the backup; absent: it is not in it.
    there: Option<String>,
    /// Events of its journal here.
    events_here: i64,
    /// Events of its journal in the backup.
    events_there: i64,
}

/// What restoring a backup would change.
#[derive(Serialize, ToSchema)]
struct WouldChange {
    /// Build by build.
    builds: Vec<BuildChange>,
    /// Own parts here.
    parts_here: i64,
    /// Own parts in the backup.
    parts_there: i64,
    /// Something here was saved after the backup: restoring it needs `force`.
    newer: bool,
}

fn whole(bytes: Result<Bytes, BytesRejection>) -> Answer<Vec<u8>> {
    let bytes = bytes.map_err(|_| {
        Problem::new(StatusCode::PAYLOAD_TOO_LARGE, "too-large", "Too large", "A backup is at most 512 MB. Restore it with `orthavis restore`.")
    })?;
    Ok(bytes.into())
}

/// A backup that is none is told as such, not as a broken store.
fn no_backup(error: orthavis_store::StoreError) -> Problem {
    use orthavis_store::StoreError::{Broken, Foreign, Migration, Newer};
    let detail = match &error {
        Foreign(_) => "This file is not a backup of Orthavis. Choose one that ends in `.orthavis`, as Backup wrote it.".to_owned(),
        Broken(..) => "This backup is damaged. Nothing was changed; choose another.".to_owned(),
        Migration(_) => "This backup comes from a newer version. Nothing was changed; restore it with that version.".to_owned(),
        Newer { .. } => return Problem::new(StatusCode::CONFLICT, "newer", "What is here is newer", format!("{error}.")),
        _ => return error.into(),
    };
    Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "backup", "No such backup", detail)
}

/// What restoring a backup would change; nothing is changed.
#[utoipa::path(post, path = "/api/v1/workshop/look", request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = WouldChange), (status = 422, body = Problem)))]
async fn look_at_backup(State(store): State<Store>, bytes: Result<Bytes, BytesRejection>) -> Answer<Json<WouldChange>> {
    let looked = store.look(whole(bytes)?).await.map_err(no_backup)?;
    let builds = looked.builds.into_iter().map(|change| BuildChange {
        name: change.name,
        what: change.what,
        here: change.here,
        there: change.there,
        events_here: change.events.0,
        events_there: change.events.1,
    });
    Ok(Json(WouldChange { builds: builds.collect(), parts_here: looked.parts.0, parts_there: looked.parts.1, newer: looked.newer }))
}

/// How it is restored.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct How {
    /// Even where something here was saved after the backup.
    #[serde(default)]
    force: bool,
}

/// What became of what was here.
#[derive(Serialize, ToSchema)]
struct Restored {
    /// The file in which what was here is kept.
    kept: String,
}

/// Puts a backup in the place of what is here, which is kept in a file beside the database.
#[utoipa::path(post, path = "/api/v1/workshop/restore", params(How), request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = Restored), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn restore_backup(State(store): State<Store>, Query(how): Query<How>, bytes: Result<Bytes, BytesRejection>) -> Answer<Json<Restored>> {
    let kept = store.restore_backup(whole(bytes)?, how.force).await.map_err(no_backup)?;
    Ok(Json(Restored { kept: kept.display().to_string() }))
}

/// Every build, journal, picture and own part, and what is in the drawer, in open formats as one JSON text.
#[utoipa::path(get, path = "/api/v1/workshop/export", responses((status = 200, body = Object, content_type = "application/json"), (status = 500, body = Problem)))]
async fn export_workshop(State(store): State<Store>) -> Answer<Response> {
    let text = serde_json::to_vec_pretty(&store.export_whole().await?).unwrap_or_default();
    let head = [(header::CONTENT_TYPE, "application/json"), (header::CONTENT_DISPOSITION, "attachment; filename=\"workshop.json\"")];
    Ok((head, text).into_response())
}

/// How much came in.
#[derive(Serialize, ToSchema)]
struct CameIn {
    /// Builds that are new here.
    builds: usize,
    /// Events that are new here.
    events: usize,
    /// Own parts.
    parts: usize,
    /// Builds that were here already, word for word.
    known: usize,
}

/// Takes in what an export gave: all of it or nothing. A build that is here word for word is left as it is.
#[utoipa::path(post, path = "/api/v1/workshop/import", request_body(content = Object, content_type = "application/json"),
    responses((status = 200, body = CameIn), (status = 422, body = Problem)))]
async fn import_workshop(State(store): State<Store>, Raw(bytes): Raw) -> Answer<Json<CameIn>> {
    let refused = |detail: String| Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "import", "Nothing was taken in", detail);
    let text = String::from_utf8(bytes).map_err(|_| refused("The file is not text. Choose one that Export wrote.".into()))?;
    // What is not JSON at all cannot be read; what is, and is not a workshop, is refused with its place.
    serde_json::from_str::<&RawValue>(&text).map_err(|error| Problem::from(Refusal::unreadable(&error)))?;
    let carried = store.import_whole(&text).await.map_err(|error| match error {
        orthavis_store::StoreError::Import { .. } | orthavis_store::StoreError::Differs(_) | orthavis_store::StoreError::Moment(_) => {
            refused(format!("{error}."))
        }
        other => other.into(),
    })?;
    Ok(Json(CameIn { builds: carried.builds, events: carried.events, parts: carried.parts, known: carried.known }))
}
