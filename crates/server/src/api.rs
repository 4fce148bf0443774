//! The API. Documents travel as text to the one parser in the core; nothing of the job is decided here.

use crate::problem::Problem;
use axum::extract::{FromRequest, Path, Request, State};
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Response};
use axum::{Json, body::Bytes};
use orthavis_core::document::{Build, Chemistry, VehicleKind, parse, parse_value};
use orthavis_core::effect::{Effect, effect};
use orthavis_core::findings::Severity;
use orthavis_core::picture::{Picture, picture};
use orthavis_core::propose::{self, Wish};
use orthavis_core::report::{Report, judged, report};
use orthavis_core::states::State as SourceState;
use orthavis_store::{Store, Stored};
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use utoipa::{OpenApi, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

#[derive(OpenApi)]
#[openapi(info(title = "Orthavis", description = "Builds of lights on small vehicles: kept, solved and judged."))]
struct Description;

/// All paths with their description.
pub fn router() -> OpenApiRouter<Store> {
    OpenApiRouter::with_openapi(Description::openapi())
        .routes(routes!(list, create))
        .routes(routes!(open, save, remove))
        .routes(routes!(rename))
        .routes(routes!(duplicate))
        .routes(routes!(undelete))
        .routes(routes!(revisions))
        .routes(routes!(restore))
        .routes(routes!(starter))
        .routes(routes!(solve))
        .routes(routes!(apply))
        .routes(routes!(add))
        .route("/api/v1/openapi.json", axum::routing::get(|| async { ([(header::CONTENT_TYPE, "application/json")], crate::openapi()) }))
}

type Answer<T> = Result<T, Problem>;

/// A JSON body; refusals are problems too.
struct Body<T>(T);

impl<S: Send + Sync, T: DeserializeOwned> FromRequest<S> for Body<T> {
    type Rejection = Problem;

    async fn from_request(request: Request, state: &S) -> Result<Self, Problem> {
        let kind = request.headers().get(header::CONTENT_TYPE).and_then(|value| value.to_str().ok()).unwrap_or_default();
        if kind.split(';').next().map(str::trim) != Some("application/json") {
            let detail = "Send the body as application/json.";
            return Err(Problem::new(StatusCode::UNSUPPORTED_MEDIA_TYPE, "media-type", "Not JSON", detail));
        }
        let bytes = Bytes::from_request(request, state)
            .await
            .map_err(|_| Problem::new(StatusCode::PAYLOAD_TOO_LARGE, "too-large", "Too large", "A build is at most 4 MiB. Split it, or shorten its notes."))?;
        let value = serde_json::from_slice(&bytes)
            .map_err(|error| Problem::new(StatusCode::BAD_REQUEST, "request", "The request cannot be read", format!("{error}. Mend the field it names.")))?;
        Ok(Body(value))
    }
}

/// Work that takes a core for a while is kept off the executor.
async fn compute<T: Send + 'static>(work: impl FnOnce() -> Answer<T> + Send + 'static) -> Answer<T> {
    let gone = |_| {
        Problem::new(
            StatusCode::INTERNAL_SERVER_ERROR,
            "internal",
            "Something broke",
            "The computation stopped. Try again, and report the build if it stops again.",
        )
    };
    tokio::task::spawn_blocking(work).await.map_err(gone)?
}

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

/// A build on the shelf.
#[derive(Serialize, ToSchema)]
struct ShelfEntry {
    id: i64,
    revision: i64,
    /// RFC 3339, UTC.
    saved_at: String,
    name: String,
    vehicle: VehicleKind,
    lights: usize,
    /// Findings that forbid building it; absent when it has no steady state.
    stops: Option<usize>,
    /// Findings to mend.
    fixes: Option<usize>,
}

/// The shelf.
#[utoipa::path(get, path = "/api/v1/builds", responses((status = 200, body = Vec<ShelfEntry>), (status = 500, body = Problem)))]
async fn list(State(store): State<Store>) -> Answer<Json<Vec<ShelfEntry>>> {
    let builds = store.list().await?;
    let entries = compute(move || {
        let entry = |stored: Stored| {
            let findings = judged(&stored.build).ok();
            let count = |severity| findings.as_ref().map(|all| all.iter().filter(|f| f.severity == severity).count());
            ShelfEntry {
                id: stored.id,
                revision: stored.revision,
                saved_at: stored.saved_at,
                vehicle: stored.build.vehicle.kind,
                lights: stored.build.lights.len(),
                stops: count(Severity::Stop),
                fixes: count(Severity::Fix),
                name: stored.build.name,
            }
        };
        Ok(builds.into_iter().map(entry).collect())
    });
    Ok(Json(entries.await?))
}

/// A new build, from a document.
#[utoipa::path(post, path = "/api/v1/builds", request_body = Build, responses((status = 201, body = StoredBuild), (status = 422, body = Problem)))]
async fn create(State(store): State<Store>, Body(document): Body<Box<RawValue>>) -> Answer<(StatusCode, StoredBuild)> {
    let build = parse(document.get())?;
    Ok((StatusCode::CREATED, store.create(build).await?.into()))
}

/// A build at its newest revision.
#[utoipa::path(get, path = "/api/v1/builds/{id}", params(("id" = i64, Path)), responses((status = 200, body = StoredBuild), (status = 404, body = Problem)))]
async fn open(State(store): State<Store>, Path(id): Path<i64>) -> Answer<StoredBuild> {
    Ok(store.open_build(id).await?.into())
}

/// The revision that `If-Match` names.
fn expected_revision(headers: &HeaderMap) -> Answer<i64> {
    let tag = headers.get(header::IF_MATCH).and_then(|value| value.to_str().ok());
    tag.and_then(|tag| tag.trim().trim_matches('"').parse().ok()).ok_or_else(|| {
        let detail = "Send If-Match with the revision that the edit was made on.";
        Problem::new(StatusCode::PRECONDITION_REQUIRED, "revision", "Which revision?", detail)
    })
}

/// Saves on top of the revision in `If-Match`; a stale one is refused with the current version.
#[utoipa::path(put, path = "/api/v1/builds/{id}", params(("id" = i64, Path), ("If-Match" = String, Header)), request_body = Build,
    responses((status = 200, body = StoredBuild), (status = 404, body = Problem), (status = 412, body = Problem), (status = 422, body = Problem), (status = 428, body = Problem)))]
async fn save(State(store): State<Store>, Path(id): Path<i64>, headers: HeaderMap, Body(document): Body<Box<RawValue>>) -> Answer<StoredBuild> {
    let revision = expected_revision(&headers)?;
    let build = parse(document.get())?;
    Ok(store.save(id, revision, build).await?.into())
}

/// Takes a build off the shelf; `undelete` puts it back.
#[utoipa::path(delete, path = "/api/v1/builds/{id}", params(("id" = i64, Path)), responses((status = 204), (status = 404, body = Problem)))]
async fn remove(State(store): State<Store>, Path(id): Path<i64>) -> Answer<StatusCode> {
    store.set_deleted(id, true).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Puts a deleted build back.
#[utoipa::path(post, path = "/api/v1/builds/{id}/undelete", params(("id" = i64, Path)), responses((status = 200, body = StoredBuild), (status = 404, body = Problem)))]
async fn undelete(State(store): State<Store>, Path(id): Path<i64>) -> Answer<StoredBuild> {
    store.set_deleted(id, false).await?;
    Ok(store.open_build(id).await?.into())
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
async fn rename(State(store): State<Store>, Path(id): Path<i64>, headers: HeaderMap, Body(new): Body<NewName>) -> Answer<StoredBuild> {
    let revision = expected_revision(&headers)?;
    let mut build = store.open_build(id).await?.build;
    build.name = new.name;
    let build = parse_value(&build.to_value())?;
    Ok(store.save(id, revision, build).await?.into())
}

/// A copy on the shelf.
#[utoipa::path(post, path = "/api/v1/builds/{id}/duplicate", params(("id" = i64, Path)), responses((status = 201, body = StoredBuild), (status = 404, body = Problem)))]
async fn duplicate(State(store): State<Store>, Path(id): Path<i64>) -> Answer<(StatusCode, StoredBuild)> {
    Ok((StatusCode::CREATED, store.duplicate(id).await?.into()))
}

/// One line of a build's history.
#[derive(Serialize, ToSchema)]
struct RevisionEntry {
    revision: i64,
    /// RFC 3339, UTC.
    saved_at: String,
    name: String,
}

/// The history of a build, newest first.
#[utoipa::path(get, path = "/api/v1/builds/{id}/revisions", params(("id" = i64, Path)), responses((status = 200, body = Vec<RevisionEntry>), (status = 404, body = Problem)))]
async fn revisions(State(store): State<Store>, Path(id): Path<i64>) -> Answer<Json<Vec<RevisionEntry>>> {
    let entry = |r: orthavis_store::Revision| RevisionEntry { revision: r.revision, saved_at: r.saved_at, name: r.name };
    Ok(Json(store.revisions(id).await?.into_iter().map(entry).collect()))
}

/// Saves an old revision again as the newest.
#[utoipa::path(post, path = "/api/v1/builds/{id}/revisions/{revision}/restore", params(("id" = i64, Path), ("revision" = i64, Path)),
    responses((status = 200, body = StoredBuild), (status = 404, body = Problem)))]
async fn restore(State(store): State<Store>, Path((id, revision)): Path<(i64, i64)>) -> Answer<StoredBuild> {
    Ok(store.restore(id, revision).await?.into())
}

/// What a new build starts from.
#[derive(Deserialize, ToSchema)]
struct Start {
    name: String,
    #[schema(value_type = VehicleKind)]
    vehicle: String,
    #[schema(value_type = Chemistry)]
    chemistry: String,
    /// Cells in series.
    series: u32,
    /// Capacity of the whole pack, Ah.
    capacity_ah: f64,
}

/// A document with a battery, one scene and nothing lit yet. It is not kept until it is created.
#[utoipa::path(post, path = "/api/v1/starter", request_body = Start, responses((status = 200, body = Build), (status = 422, body = Problem)))]
async fn starter(Body(start): Body<Start>) -> Answer<Json<Build>> {
    let unknown = |field: &str, word: &str| {
        Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "starter", "Unknown word", format!("`{word}` is no {field} known here; see the API's description."))
    };
    let vehicle = VehicleKind::WORDS.iter().find(|(word, _)| *word == start.vehicle).ok_or_else(|| unknown("vehicle", &start.vehicle))?.1;
    let chemistry = Chemistry::WORDS.iter().find(|(word, _)| *word == start.chemistry).ok_or_else(|| unknown("chemistry", &start.chemistry))?.1;
    let build = propose::starter(&start.name, vehicle, chemistry, start.series, start.capacity_ah);
    Ok(Json(parse_value(&build.to_value())?))
}

/// A document to solve.
#[derive(Deserialize, ToSchema)]
struct SolveRequest {
    #[schema(value_type = Build)]
    document: Box<RawValue>,
    /// Scene of the picture; the first one by default.
    scene: Option<String>,
    /// State of the picture; the fullest one by default.
    #[schema(value_type = Option<SourceState>)]
    state: Option<String>,
}

/// A solved document.
#[derive(Serialize, ToSchema)]
struct Solved {
    report: Report,
    /// Absent when the build has no scene.
    picture: Option<Picture>,
}

fn solved(build: &Build, scene: Option<&str>, state: Option<&str>) -> Answer<Solved> {
    let report = report(build)?;
    let states = build.source.states();
    let named = |state: &SourceState| serde_json::to_value(state).ok().and_then(|v| v.as_str().map(str::to_owned));
    let state = states.iter().find(|s| state.is_some() && named(s).as_deref() == state).or(states.first()).copied();
    let scene = build.scenes.iter().find(|s| Some(s.id.as_str()) == scene).or(build.scenes.first());
    let picture = scene.zip(state).and_then(|(scene, state)| picture(build, &report, &scene.id, state));
    Ok(Solved { report, picture })
}

/// Solves a document without keeping it.
#[utoipa::path(post, path = "/api/v1/solve", request_body = SolveRequest, responses((status = 200, body = Solved), (status = 422, body = Problem)))]
async fn solve(Body(request): Body<SolveRequest>) -> Answer<Json<Solved>> {
    compute(move || Ok(Json(solved(&parse(request.document.get())?, request.scene.as_deref(), request.state.as_deref())?))).await
}

/// A document and RFC 6902 changes to it.
#[derive(Deserialize, ToSchema)]
struct ApplyRequest {
    #[schema(value_type = Build)]
    document: Box<RawValue>,
    #[schema(value_type = Vec<Object>)]
    changes: json_patch::Patch,
}

/// A changed document and what the change does.
#[derive(Serialize, ToSchema)]
struct Applied {
    document: Build,
    effect: Effect,
}

/// Applies changes to a document, without keeping it, and says what they do.
#[utoipa::path(post, path = "/api/v1/apply", request_body = ApplyRequest, responses((status = 200, body = Applied), (status = 422, body = Problem)))]
async fn apply(Body(request): Body<ApplyRequest>) -> Answer<Json<Applied>> {
    compute(move || {
        let before = parse(request.document.get())?;
        let mut value = before.to_value();
        json_patch::patch(&mut value, &request.changes).map_err(|error| {
            let detail = format!("{error}. The build has changed since; take the change from a fresh report.");
            Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "changes", "The change does not fit", detail)
        })?;
        let after = parse_value(&value)?;
        let effect = effect(&report(&before)?, &report(&after)?);
        Ok(Json(Applied { document: after, effect }))
    })
    .await
}

/// A part to add.
#[derive(Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
enum Part {
    /// A step-down module.
    StepDown {
        /// Output, V.
        set_v: f64,
    },
    /// Single LEDs, arranged for their supply.
    Leds {
        colour: String,
        count: u32,
        place: String,
        /// `source`, a converter or a junction.
        from: String,
        /// One way, m.
        length_m: f64,
    },
}

/// A document and a part to add to it.
#[derive(Deserialize, ToSchema)]
struct AddRequest {
    #[schema(value_type = Build)]
    document: Box<RawValue>,
    part: Part,
}

/// Adds a part with sensible figures, without keeping the document.
#[utoipa::path(post, path = "/api/v1/add", request_body = AddRequest, responses((status = 200, body = Build), (status = 422, body = Problem)))]
async fn add(Body(request): Body<AddRequest>) -> Answer<Json<Build>> {
    let build = parse(request.document.get())?;
    let wish = match request.part {
        Part::StepDown { set_v } => Wish::StepDown { set_v },
        Part::Leds { colour, count, place, from, length_m } => Wish::Leds { colour, count, place, from, length_m },
    };
    Ok(Json(parse_value(&propose::add(&build, &wish)?.to_value())?))
}
