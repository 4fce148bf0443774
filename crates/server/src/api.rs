//! The API. Documents travel as text to the one parser in the core; nothing of the job is decided here.

use crate::compute::{Hands, Pool};
use crate::problem::Problem;
use axum::extract::rejection::PathRejection;
use axum::extract::{FromRef, FromRequest, FromRequestParts, Path, Request, State};
use axum::http::request::Parts;
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Response};
use axum::{Json, body::Bytes};
use orthavis_core::cautions::{Caution, cautions};
use orthavis_core::choose::size::Sized;
use orthavis_core::choose::{self, Choice};
use orthavis_core::document::{
    Build, Chemistry, Fault, Source, VehicleKind, parse, parse_part, parse_part_text, parse_stored, parse_value, patched, read_strict,
};
use orthavis_core::document::{Part, What};
use orthavis_core::effect::{Effect, effect};
use orthavis_core::findings::{Card, Finding, Remedy};
use orthavis_core::glossary::{self, Entry};
use orthavis_core::mend::{MendedAll, everything};
use orthavis_core::parts;
use orthavis_core::picture::{Picture, picture, runs};
use orthavis_core::points::PointReport;
use orthavis_core::practice::{PRACTICE, Practice};
use orthavis_core::propose::{self, LightWish, Wish};
use orthavis_core::report::{Report, report, report_at_once};
use orthavis_core::resistor::Series;
use orthavis_core::sheet::{self, FromLabel, Measured, SourceSheet, source_sheet};
use orthavis_core::states::State as SourceState;
use orthavis_core::vehicle::{self, VehicleSheet};
use orthavis_core::verdict::Verdict;
use orthavis_core::working::Fact;
use orthavis_store::{Store, StoreError, Stored};
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use std::collections::BTreeMap;
use std::sync::Arc;
use utoipa::{OpenApi, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

#[derive(OpenApi)]
#[openapi(info(title = "Orthavis", description = "Builds of lights on small vehicles: kept, solved and judged."))]
struct Description;

/// What every handler may reach.
#[derive(Clone)]
pub(crate) struct Workshop {
    pub(crate) store: Store,
    pub(crate) pool: Arc<Pool>,
}

impl FromRef<Workshop> for Store {
    fn from_ref(workshop: &Workshop) -> Store {
        workshop.store.clone()
    }
}

impl FromRef<Workshop> for Arc<Pool> {
    fn from_ref(workshop: &Workshop) -> Arc<Pool> {
        workshop.pool.clone()
    }
}

/// All paths with their description.
pub(crate) fn router() -> OpenApiRouter<Workshop> {
    OpenApiRouter::with_openapi(Description::openapi())
        .merge(crate::drain::router())
        .routes(routes!(crate::shelf::list, create))
        .routes(routes!(text))
        .routes(routes!(mend))
        .routes(routes!(open, save, remove))
        .routes(routes!(rename))
        .routes(routes!(duplicate))
        .routes(routes!(undelete))
        .routes(routes!(revisions))
        .routes(routes!(restore))
        .routes(routes!(starter))
        .routes(routes!(solve))
        .routes(routes!(remedies))
        .routes(routes!(whole_report))
        .routes(routes!(apply))
        .routes(routes!(add))
        .routes(routes!(choose))
        .routes(routes!(size))
        .routes(routes!(label))
        .routes(routes!(measured))
        .routes(routes!(reference))
        .routes(routes!(own_parts, keep_part))
        .routes(routes!(forget_part))
        .route("/api/v1/openapi.json", axum::routing::get(|| async { ([(header::CONTENT_TYPE, "application/json")], crate::openapi()) }))
}

pub(crate) type Answer<T> = Result<T, Problem>;

/// The number of a build in the path.
pub(crate) struct Id(i64);

impl<S: Send + Sync> FromRequestParts<S> for Id {
    type Rejection = Problem;

    async fn from_request_parts(parts: &mut Parts, state: &S) -> Result<Self, Problem> {
        Path::<i64>::from_request_parts(parts, state).await.map(|Path(id)| Id(id)).map_err(no_number)
    }
}

/// The numbers of a build and of a revision in the path.
pub(crate) struct Ids(i64, i64);

impl<S: Send + Sync> FromRequestParts<S> for Ids {
    type Rejection = Problem;

    async fn from_request_parts(parts: &mut Parts, state: &S) -> Result<Self, Problem> {
        Path::<(i64, i64)>::from_request_parts(parts, state).await.map(|Path((id, revision))| Ids(id, revision)).map_err(no_number)
    }
}

fn no_number(_: PathRejection) -> Problem {
    Problem::new(StatusCode::NOT_FOUND, "not-found", "Not found", "Builds and revisions are numbered; this is no such number. Go back to the shelf.")
}

/// How long a body may take to arrive.
const ARRIVES: std::time::Duration = std::time::Duration::from_secs(30);

/// A JSON body; refusals are problems too.
pub(crate) struct Body<T>(pub(crate) T);

impl<S: Send + Sync, T: DeserializeOwned> FromRequest<S> for Body<T> {
    type Rejection = Problem;

    async fn from_request(request: Request, state: &S) -> Result<Self, Problem> {
        let kind = request.headers().get(header::CONTENT_TYPE).and_then(|value| value.to_str().ok()).unwrap_or_default();
        if kind.split(';').next().map(str::trim) != Some("application/json") {
            let detail = "Send the body as application/json.";
            return Err(Problem::new(StatusCode::UNSUPPORTED_MEDIA_TYPE, "media-type", "Not JSON", detail));
        }
        let late = |_| Problem::new(StatusCode::REQUEST_TIMEOUT, "late", "Too slow", "The request did not arrive in time. Send it again.");
        let bytes = tokio::time::timeout(ARRIVES, Bytes::from_request(request, state)).await.map_err(late)?;
        let bytes = bytes
            .map_err(|_| Problem::new(StatusCode::PAYLOAD_TOO_LARGE, "too-large", "Too large", "A build is at most 4 MiB. Split it, or shorten its notes."))?;
        let value = serde_json::from_slice(&bytes)
            .map_err(|error| Problem::new(StatusCode::BAD_REQUEST, "request", "The request cannot be read", format!("{error}. Mend the field it names.")))?;
        Ok(Body(value))
    }
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

/// A new build, from a document.
#[utoipa::path(post, path = "/api/v1/builds", request_body = Build, responses((status = 201, body = StoredBuild), (status = 422, body = Problem)))]
async fn create(State(store): State<Store>, Body(document): Body<Box<RawValue>>) -> Answer<(StatusCode, StoredBuild)> {
    let build = parse(document.get())?;
    Ok((StatusCode::CREATED, store.create(build).await?.into()))
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
async fn save(State(store): State<Store>, Id(id): Id, headers: HeaderMap, Body(document): Body<Box<RawValue>>) -> Answer<StoredBuild> {
    let revision = expected_revision(&headers)?;
    let build = parse(document.get())?;
    Ok(store.save(id, revision, build).await?.into())
}

/// Takes a build off the shelf; `undelete` puts it back.
#[utoipa::path(delete, path = "/api/v1/builds/{id}", params(("id" = i64, Path)), responses((status = 204), (status = 404, body = Problem)))]
async fn remove(State(store): State<Store>, Id(id): Id) -> Answer<StatusCode> {
    store.set_deleted(id, true).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Puts a deleted build back; without a body where this version cannot read it.
#[utoipa::path(post, path = "/api/v1/builds/{id}/undelete", params(("id" = i64, Path)),
    responses((status = 200, body = StoredBuild), (status = 204), (status = 404, body = Problem)))]
async fn undelete(State(store): State<Store>, Id(id): Id) -> Answer<Response> {
    store.set_deleted(id, false).await?;
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

/// A copy on the shelf.
#[utoipa::path(post, path = "/api/v1/builds/{id}/duplicate", params(("id" = i64, Path)), responses((status = 201, body = StoredBuild), (status = 404, body = Problem)))]
async fn duplicate(State(store): State<Store>, Id(id): Id) -> Answer<(StatusCode, StoredBuild)> {
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
async fn revisions(State(store): State<Store>, Id(id): Id) -> Answer<Json<Vec<RevisionEntry>>> {
    let entry = |r: orthavis_store::Revision| RevisionEntry { revision: r.revision, saved_at: r.saved_at, name: r.name };
    Ok(Json(store.revisions(id).await?.into_iter().map(entry).collect()))
}

/// Saves an old revision again as the newest.
#[utoipa::path(post, path = "/api/v1/builds/{id}/revisions/{revision}/restore", params(("id" = i64, Path), ("revision" = i64, Path)),
    responses((status = 200, body = StoredBuild), (status = 404, body = Problem)))]
async fn restore(State(store): State<Store>, Ids(id, revision): Ids) -> Answer<StoredBuild> {
    Ok(store.restore(id, revision).await?.into())
}

/// The value that a word stands for.
fn word_of<T: Copy>(field: &str, word: &str, words: &[(&'static str, T)]) -> Answer<T> {
    let known = words.iter().find(|(known, _)| *known == word).map(|(_, value)| *value);
    known.ok_or_else(|| {
        let names: Vec<String> = words.iter().map(|(known, _)| format!("`{known}`")).collect();
        let detail = format!("`{word}` is no {field} known here. Use one of {}.", names.join(", "));
        Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "word", "Unknown word", detail)
    })
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
    let vehicle = word_of("vehicle", &start.vehicle, VehicleKind::WORDS)?;
    let chemistry = word_of("chemistry", &start.chemistry, Chemistry::WORDS)?;
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

/// A solved document, as much of it as a person looks at; the whole is at `/api/v1/report`.
#[derive(Serialize, ToSchema)]
struct Solved {
    verdict: Verdict,
    /// Worst first; what mends them is at `/api/v1/remedies`.
    findings: Vec<Finding>,
    /// The findings as a person reads them: one cause, one card.
    cards: Vec<Card>,
    /// The states that this source is solved at, fullest first.
    states: Vec<SourceState>,
    /// Every run in the scene and state of the picture: its current and its drop, each against what it may.
    runs: BTreeMap<String, Vec<Fact>>,
    /// Absent when the build has no scene.
    picture: Option<Picture>,
    /// What to know of the battery or rail.
    source: SourceSheet,
    /// What no figure shows, by step of the job.
    cautions: Vec<Caution>,
}

fn solved(build: &Build, scene: Option<&str>, state: Option<&str>) -> Answer<Solved> {
    let state = state.map(|word| word_of("state", word, SourceState::WORDS)).transpose()?;
    let report = report_at_once(build)?;
    let states = build.source.states().to_vec();
    // A state that this source is not solved at, as after another battery was chosen, is shown as its fullest.
    let state = state.filter(|state| states.contains(state)).or(states.first().copied());
    let scene = build.scenes.iter().find(|s| Some(s.id.as_str()) == scene).or(build.scenes.first());
    let picture = scene.zip(state).and_then(|(scene, state)| picture(build, &report, &scene.id, state));
    let here = |point: &&PointReport| picture.as_ref().is_some_and(|p| p.scene == point.scene && p.state == point.state);
    let runs = report.points.iter().find(here).map(|point| runs(build, point)).unwrap_or_default();
    let Report { verdict, findings, cards, .. } = report;
    Ok(Solved { verdict, findings, cards, states, runs, picture, source: source_sheet(build), cautions: cautions(build) })
}

/// Solves a document without keeping it: what a person looks at, at once.
#[utoipa::path(post, path = "/api/v1/solve", request_body = SolveRequest, responses((status = 200, body = Solved), (status = 422, body = Problem)))]
async fn solve(hands: Hands, Body(request): Body<SolveRequest>) -> Answer<Json<Solved>> {
    hands.compute(move || Ok(Json(solved(&parse(request.document.get())?, request.scene.as_deref(), request.state.as_deref())?))).await
}

/// What mends a card.
#[derive(Serialize, ToSchema)]
struct Mending {
    /// Code of the card.
    code: &'static str,
    /// Subject of its first finding.
    subject: String,
    /// Best first; each was tried, and clears all of it.
    remedies: Vec<Remedy>,
    /// What only the person can do about it.
    advice: Option<String>,
}

/// Tries what could mend a document's findings and says what does, card by card.
#[utoipa::path(post, path = "/api/v1/remedies", request_body = DocumentRequest, responses((status = 200, body = Vec<Mending>), (status = 422, body = Problem)))]
async fn remedies(hands: Hands, Body(request): Body<DocumentRequest>) -> Answer<Json<Vec<Mending>>> {
    hands
        .compute(move || {
            let cards = report(&parse(request.document.get())?)?.cards;
            Ok(Json(cards.into_iter().map(|Card { code, subject, remedies, advice, .. }| Mending { code, subject, remedies, advice }).collect()))
        })
        .await
}

/// A short list of changes after which nothing stands against building it, and what only the person can do for the
/// rest.
#[utoipa::path(post, path = "/api/v1/mend", request_body = DocumentRequest, responses((status = 200, body = MendedAll), (status = 422, body = Problem)))]
async fn mend(hands: Hands, Body(request): Body<DocumentRequest>) -> Answer<Json<MendedAll>> {
    hands.compute(move || Ok(Json(everything(&parse(request.document.get())?)?))).await
}

/// The whole report `orthavis.report/1` of a document.
#[utoipa::path(post, path = "/api/v1/report", request_body = DocumentRequest, responses((status = 200, body = Report), (status = 422, body = Problem)))]
async fn whole_report(hands: Hands, Body(request): Body<DocumentRequest>) -> Answer<Json<Report>> {
    hands.compute(move || Ok(Json(report(&parse(request.document.get())?)?))).await
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
async fn apply(hands: Hands, Body(request): Body<ApplyRequest>) -> Answer<Json<Applied>> {
    hands
        .compute(move || {
            let before = parse(request.document.get())?;
            let value = patched(&before.to_value(), &request.changes)?;
            let after = parse_value(&value)?;
            let effect = effect(&report_at_once(&before)?, &report_at_once(&after)?);
            Ok(Json(Applied { document: after, effect }))
        })
        .await
}

/// A part to add.
#[derive(Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
enum Addition {
    /// A step-down module set to this voltage.
    StepDown {
        /// Output, V.
        set_v: f64,
    },
    /// A converter of the library or of a person's own.
    Converter {
        #[schema(value_type = Part)]
        part: serde_json::Value,
        /// `source`, a converter or a junction.
        from: String,
    },
    /// Single LEDs of a usual colour, arranged for their supply.
    Leds {
        colour: String,
        count: u32,
        place: String,
        /// `source`, a converter or a junction; absent: whatever fits.
        from: Option<String>,
        /// Wire, one way, m.
        length_m: f64,
    },
    /// A light of the library or of a person's own: LEDs, strip, pixels, module or bulb.
    Light {
        #[schema(value_type = Part)]
        part: serde_json::Value,
        /// Single LEDs or pixels: how many.
        count: Option<u32>,
        /// Strip or pixels: how long, m.
        piece_m: Option<f64>,
        place: String,
        /// `source`, a converter or a junction; absent: whatever fits.
        from: Option<String>,
        /// Wire, one way, m.
        length_m: f64,
    },
    /// A copy of a light.
    CopyLight { id: String },
}

fn wish_of(addition: Addition) -> Answer<Wish> {
    let misplaced =
        |wants: &str| Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "part", "Another kind of part", format!("This place is for {wants}; choose one."));
    Ok(match addition {
        Addition::StepDown { set_v } => Wish::StepDown { set_v },
        Addition::CopyLight { id } => Wish::CopyLight { id },
        Addition::Leds { colour, count, place, from, length_m } => {
            Wish::Light { what: LightWish::Leds { led: propose::usual_led(&colour)?, count }, place, from, wire_m: length_m }
        }
        Addition::Converter { part, from } => match parse_part(&part)?.what {
            What::Converter { figures } => Wish::Converter { figures: Box::new(figures), from },
            _ => return Err(misplaced("a converter")),
        },
        Addition::Light { part, count, piece_m, place, from, length_m } => {
            let part = parse_part(&part)?;
            let mass_g = part.mass_g.unwrap_or(0.0);
            let what = match part.what {
                What::Led { led } => LightWish::Leds { led, count: count.unwrap_or(1) },
                What::Light { load, colour } => propose::piece(load, count, piece_m, colour, mass_g),
                What::Bulb { load, .. } => LightWish::Load { load: Box::new(load), colour: Some("warm white".into()), mass_g },
                _ => return Err(misplaced("a light")),
            };
            Wish::Light { what, place, from, wire_m: length_m }
        }
    })
}

/// A document and a part to add to it.
#[derive(Deserialize, ToSchema)]
struct AddRequest {
    #[schema(value_type = Build)]
    document: Box<RawValue>,
    #[schema(value_type = Addition)]
    part: Box<RawValue>,
}

/// Adds a part with sensible figures, without keeping the document.
#[utoipa::path(post, path = "/api/v1/add", request_body = AddRequest, responses((status = 200, body = Build), (status = 422, body = Problem)))]
async fn add(hands: Hands, Body(request): Body<AddRequest>) -> Answer<Json<Build>> {
    hands
        .compute(move || {
            let build = parse(request.document.get())?;
            let unread = |error: serde_json::Error| {
                Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "part", "The part cannot be read", format!("{error}. Mend the field it names."))
            };
            let wish = wish_of(serde_json::from_value(read_strict(request.part.get())?).map_err(unread)?)?;
            Ok(Json(parse_value(&propose::add(&build, &wish)?.to_value())?))
        })
        .await
}

/// What a helper is asked about a part of a document.
#[derive(Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
enum Question {
    /// How to arrange the LEDs of a light.
    Strings {
        light: String,
        /// `e12` or `e24`.
        #[schema(value_type = Series)]
        series: String,
    },
    /// How to power a light.
    Supply { light: String },
    /// How thick a feed's wire has to be.
    Wire { feed: String },
    /// Which fuse a feed wants.
    Fuse { feed: String },
    /// How much strip fits and where to feed it.
    Strip {
        light: String,
        /// What the string along the frame measured, m; absent: as long as it is.
        measured_m: Option<f64>,
    },
    /// How many pixels the supply carries, and how bright.
    Pixels { light: String },
}

/// A document and a question about it.
#[derive(Deserialize, ToSchema)]
struct ChooseRequest {
    #[schema(value_type = Build)]
    document: Box<RawValue>,
    question: Question,
}

/// The ways there are, best first, each with its figures and the change that takes it over.
#[utoipa::path(post, path = "/api/v1/choose", request_body = ChooseRequest, responses((status = 200, body = Vec<Choice>), (status = 422, body = Problem)))]
async fn choose(hands: Hands, Body(request): Body<ChooseRequest>) -> Answer<Json<Vec<Choice>>> {
    hands
        .compute(move || {
            let build = parse(request.document.get())?;
            let choices = match request.question {
                Question::Strings { light, series } => {
                    let series = word_of("series", &series, Series::WORDS)?;
                    choose::strings::for_light(&build, &light, series)
                }
                Question::Supply { light } => choose::supply::for_light(&build, &light),
                Question::Wire { feed } => choose::wire::for_feed(&build, &feed),
                Question::Fuse { feed } => choose::fuse::for_feed(&build, &feed),
                Question::Strip { light, measured_m } => choose::strip::for_light(&build, &light, measured_m),
                Question::Pixels { light } => choose::pixels::for_light(&build, &light),
            };
            Ok(Json(choices?))
        })
        .await
}

/// A document alone.
#[derive(Deserialize, ToSchema)]
pub(crate) struct DocumentRequest {
    #[schema(value_type = Build)]
    pub(crate) document: Box<RawValue>,
}

/// Gauges and fuses for every feed at once.
#[utoipa::path(post, path = "/api/v1/size", request_body = DocumentRequest, responses((status = 200, body = Sized), (status = 422, body = Problem)))]
async fn size(hands: Hands, Body(request): Body<DocumentRequest>) -> Answer<Json<Sized>> {
    hands.compute(move || Ok(Json(choose::size::everything(&parse(request.document.get())?)?))).await
}

/// What is printed on a pack.
#[derive(Deserialize, ToSchema)]
struct LabelRequest {
    #[schema(value_type = Chemistry)]
    chemistry: String,
    /// V.
    volts: f64,
    /// Ah; this or `wh`.
    ah: Option<f64>,
    /// Wh.
    wh: Option<f64>,
}

/// Cells and capacity from a label.
#[utoipa::path(post, path = "/api/v1/label", request_body = LabelRequest, responses((status = 200, body = FromLabel), (status = 422, body = Problem)))]
async fn label(Body(request): Body<LabelRequest>) -> Answer<Json<FromLabel>> {
    let chemistry = word_of("chemistry", &request.chemistry, Chemistry::WORDS)?;
    let read = sheet::from_label(chemistry, request.volts, request.ah, request.wh);
    read.map(Json).ok_or_else(|| {
        let detail = "Give the volts of the label, and either its amp-hours or its watt-hours, all above 0.";
        Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "label", "The label cannot be read", detail)
    })
}

/// A voltage measured at the battery of a document.
#[derive(Deserialize, ToSchema)]
struct MeasuredRequest {
    #[schema(value_type = Build)]
    document: Box<RawValue>,
    /// At rest, V.
    volts: f64,
}

/// How full the battery is, by its resting voltage.
#[utoipa::path(post, path = "/api/v1/measured", request_body = MeasuredRequest, responses((status = 200, body = Measured), (status = 422, body = Problem)))]
async fn measured(Body(request): Body<MeasuredRequest>) -> Answer<Json<Measured>> {
    match parse(request.document.get())?.source {
        Source::Battery(battery) => Ok(Json(sheet::measured(&battery, request.volts))),
        Source::Rail(_) => {
            Err(Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "source", "No battery", "A rail has no state of charge; enter its voltage as measured instead."))
        }
    }
}

/// What ships with the program and never changes while it runs.
#[derive(Serialize, ToSchema)]
struct Reference {
    /// The parts library.
    parts: &'static [Part],
    /// Words of the trade.
    glossary: &'static [Entry],
    /// Kinds of vehicle with their usual places.
    vehicles: Vec<VehicleSheet>,
    /// What some fields stand for while they are empty.
    practice: Practice,
}

/// Parts, words and vehicles.
#[utoipa::path(get, path = "/api/v1/reference", responses((status = 200, body = Reference)))]
async fn reference() -> Json<Reference> {
    Json(Reference { parts: parts::library(), glossary: glossary::entries(), vehicles: vehicle::sheets(), practice: PRACTICE })
}

/// Parts of the person's own.
#[utoipa::path(get, path = "/api/v1/parts", responses((status = 200, body = Vec<Part>), (status = 500, body = Problem)))]
async fn own_parts(State(store): State<Store>) -> Answer<Json<Vec<Part>>> {
    Ok(Json(store.parts().await?))
}

/// Keeps a part; one with the same id is replaced.
#[utoipa::path(post, path = "/api/v1/parts", request_body = Part, responses((status = 200, body = Part), (status = 422, body = Problem)))]
async fn keep_part(State(store): State<Store>, Body(document): Body<Box<RawValue>>) -> Answer<Json<Part>> {
    let part = parse_part_text(document.get())?;
    if parts::find(&part.id).is_some() {
        let detail = format!("`{}` is a part of the library that ships; give yours another id.", part.id);
        return Err(Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "part", "The id is taken", detail));
    }
    store.keep_part(part.clone()).await?;
    Ok(Json(part))
}

/// Forgets a part of the person's own.
#[utoipa::path(delete, path = "/api/v1/parts/{id}", params(("id" = String, Path)), responses((status = 204), (status = 404, body = Problem)))]
async fn forget_part(State(store): State<Store>, Path(id): Path<String>) -> Answer<StatusCode> {
    store.forget_part(id).await?;
    Ok(StatusCode::NO_CONTENT)
}
