//! The journal of a build: appended to in batches that may be sent twice, read in pages, exported and imported.

use crate::compute::Hands;
use crate::problem::{Answer, Problem};
use crate::request::{Body, Id, IdAnd};
use crate::services::Services;
use axum::Json;
use axum::body::Bytes;
use axum::extract::rejection::{BytesRejection, QueryRejection};
use axum::extract::{DefaultBodyLimit, Path, Query, State};
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use orthavis_core::document::{Build, DocumentError, Fault, read_strict};
use orthavis_core::journal::{Event, EventKind, JournalFormat, MAX_BATCH, is_uuid7, parse_event, read_csv, read_lines, to_csv, to_lines};
use orthavis_core::moment::Moment;
use orthavis_core::upkeep::remind::Reminder;
use orthavis_core::upkeep::view::due;
use orthavis_operations::word_of;
use orthavis_store::{MAX_PHOTO, Photo, Store, Wanted};
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// Bytes that a journal may have that is imported at once.
const MAX_IMPORT: usize = 32 << 20;
/// Events that may be taken in at once.
const MOST_IMPORTED: usize = 200_000;
/// Events on a page, unless it is said.
const PAGE: u32 = 200;
/// Events on a page at most.
const MOST: u32 = 2000;

/// The paths of this module.
pub(crate) fn router() -> OpenApiRouter<Services> {
    let import = OpenApiRouter::new().routes(routes!(import_journal)).layer(DefaultBodyLimit::max(MAX_IMPORT));
    let photos = OpenApiRouter::new().routes(routes!(photo, keep_photo)).layer(DefaultBodyLimit::max(MAX_PHOTO + 1024));
    OpenApiRouter::new()
        .routes(routes!(journal_page, append_events))
        .routes(routes!(export_journal))
        .routes(routes!(pack))
        .routes(routes!(due_of_build))
        .merge(import)
        .merge(photos)
}

/// Events to append.
#[derive(Deserialize, ToSchema)]
struct Batch {
    /// At most 10,000.
    #[schema(value_type = Vec<Event>)]
    events: Box<RawValue>,
}

/// What became of events that were sent.
#[derive(Serialize, ToSchema)]
struct Kept {
    /// New here.
    kept: usize,
    /// Here already, word for word.
    known: usize,
}

async fn keep(store: &Store, build: i64, events: Vec<Event>) -> Answer<Json<Kept>> {
    if events.len() > MAX_BATCH {
        let detail = format!("There are {} events; send at most {MAX_BATCH} at once.", events.len());
        return Err(Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "too-large", "Too many events", detail));
    }
    let appended = store.append_events(build, events).await?;
    Ok(Json(Kept { kept: appended.kept, known: appended.known }))
}

/// Appends events to a build's journal, all or none; one that is there already counts for nothing.
#[utoipa::path(post, path = "/api/v1/builds/{id}/journal", params(("id" = i64, Path)), request_body = Batch,
    responses((status = 200, body = Kept), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn append_events(State(store): State<Store>, Id(id): Id, Body(batch): Body<Batch>) -> Answer<Json<Kept>> {
    let events = read_strict(batch.events.get())?;
    let Some(events) = events.as_array() else {
        return Err(Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "events", "No events", "`events` is not a list; give the events in one."));
    };
    let (mut read, mut faults) = (Vec::new(), Vec::new());
    for (index, event) in events.iter().enumerate() {
        match parse_event(event) {
            Ok(event) => match of_other(&event, id) {
                Some((problem, remedy)) => faults.push(Fault { pointer: format!("/events/{index}/build"), problem, remedy }),
                None => read.push(event),
            },
            Err(error) => faults.extend(error.faults.into_iter().map(|fault| Fault { pointer: format!("/events/{index}{}", fault.pointer), ..fault })),
        }
    }
    if !faults.is_empty() {
        return Err(unread(DocumentError { faults }));
    }
    keep(&store, id, read).await
}

/// What is said of an event that is of another build.
fn of_other(event: &Event, build: i64) -> Option<(String, String)> {
    let other = event.build.filter(|other| *other != build)?;
    Some((format!("it is an event of build {other}, and this is the journal of build {build}"), format!("Send it to the journal of build {other}")))
}

fn unread(error: DocumentError) -> Problem {
    let mut problem = Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "events", "The events cannot be read", error.to_string());
    problem.refusal.errors = error.faults;
    problem
}

/// Which events.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Asked {
    /// Of this kind only.
    #[param(inline, value_type = Option<EventKind>)]
    kind: Option<String>,
    /// From this moment on, RFC 3339.
    from: Option<String>,
    /// Before this moment, RFC 3339.
    to: Option<String>,
    /// `next` of the page before; absent: the first.
    after: Option<String>,
    /// Events on it, at most 2000.
    limit: Option<u32>,
}

/// A page of a journal.
#[derive(Serialize, ToSchema)]
struct JournalPage {
    /// In the order in which they happened.
    events: Vec<Event>,
    /// Where the next page begins; absent on the last.
    #[serde(skip_serializing_if = "Option::is_none")]
    next: Option<String>,
}

/// A build's journal, a page at a time.
#[utoipa::path(get, path = "/api/v1/builds/{id}/journal", params(("id" = i64, Path), Asked), responses((status = 200, body = JournalPage), (status = 404, body = Problem)))]
async fn journal_page(State(store): State<Store>, Id(id): Id, asked: Result<Query<Asked>, QueryRejection>) -> Answer<Json<JournalPage>> {
    let bad = |detail: String| Problem::new(StatusCode::BAD_REQUEST, "page", "No such page", detail);
    let Query(asked) = asked.map_err(|error| bad(format!("{}. Give `limit` as a number.", error.body_text())))?;
    let limit = asked.limit.unwrap_or(PAGE);
    if !(1..=MOST).contains(&limit) {
        return Err(bad(format!("`limit` is {limit}. Give 1 to {MOST}.")));
    }
    let after = match &asked.after {
        None => None,
        Some(text) => Some(cursor(text).ok_or_else(|| bad(format!("`{text}` is no `next` of a page. Leave `after` out for the first page.")))?),
    };
    let kind = asked.kind.map(|word| word_of("kind of event", &word, EventKind::WORDS)).transpose()?;
    let wanted = Wanted { kind: kind.map(|kind| kind.word().to_owned()), from: asked.from, to: asked.to, after };
    let page = store.events(id, wanted, limit).await?;
    Ok(Json(JournalPage { events: page.events, next: page.next.map(|(at_ms, id)| format!("{at_ms}_{id}")) }))
}

fn cursor(text: &str) -> Option<(i64, String)> {
    let (at_ms, id) = text.split_once('_')?;
    Some((at_ms.parse().ok()?, id.to_owned()))
}

/// In which format.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Format {
    /// JSON Lines, unless it is said.
    #[param(value_type = Option<JournalFormat>)]
    format: Option<String>,
}

/// A build's whole journal as a file.
#[utoipa::path(get, path = "/api/v1/builds/{id}/journal/export", params(("id" = i64, Path), Format),
    responses((status = 200, content((String = "application/jsonl"), (String = "text/csv"))), (status = 404, body = Problem)))]
async fn export_journal(State(store): State<Store>, Id(id): Id, Query(asked): Query<Format>) -> Answer<Response> {
    let format = word_of("format", asked.format.as_deref().unwrap_or("jsonl"), JournalFormat::WORDS)?;
    let events = store.all_events(id).await?;
    let (kind, text) = match format {
        JournalFormat::Jsonl => ("application/jsonl", to_lines(&events)),
        JournalFormat::Csv => ("text/csv; charset=utf-8", to_csv(&events)),
    };
    let name = format!("attachment; filename=\"journal-{id}.{}\"", format.word());
    Ok(([(header::CONTENT_TYPE, kind.to_owned()), (header::CONTENT_DISPOSITION, name)], text).into_response())
}

/// A journal as a file has it.
#[derive(Deserialize, ToSchema)]
struct JournalFile {
    #[schema(value_type = JournalFormat)]
    format: String,
    /// What is in the file.
    text: String,
}

/// A line that could not be taken in.
#[derive(Serialize, ToSchema)]
struct BadLine {
    /// Which, counted from 1; of a table its head is the first.
    line: usize,
    /// What is wrong with it.
    problem: String,
    /// What to do.
    remedy: String,
}

/// What became of a journal that was taken in.
#[derive(Serialize, ToSchema)]
struct Imported {
    /// New here.
    kept: usize,
    /// Here already, word for word.
    known: usize,
    /// What was not taken, by line.
    bad: Vec<BadLine>,
}

/// Takes a journal in: every line that can be read; those that cannot are named. What is there already counts for nothing.
#[utoipa::path(post, path = "/api/v1/builds/{id}/journal/import", params(("id" = i64, Path)), request_body = JournalFile,
    responses((status = 200, body = Imported), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn import_journal(State(store): State<Store>, Id(id): Id, Body(file): Body<JournalFile>) -> Answer<Json<Imported>> {
    let (events, faults, first) = match word_of("format", &file.format, JournalFormat::WORDS)? {
        JournalFormat::Jsonl => {
            let (events, faults) = read_lines(&file.text);
            (events, faults, 1)
        }
        JournalFormat::Csv => {
            let (events, faults) = read_csv(&file.text).map_err(unread)?;
            (events, faults, 2)
        }
    };
    let line_of = |pointer: &str| pointer.split('/').nth(1).and_then(|line| line.parse::<usize>().ok()).unwrap_or(0) + first;
    let mut bad: Vec<BadLine> =
        faults.into_iter().map(|fault| BadLine { line: line_of(&fault.pointer), problem: fault.problem, remedy: fault.remedy }).collect();
    let (mut good, mut others) = (Vec::new(), Vec::new());
    for (line, event) in events {
        match of_other(&event, id) {
            Some((problem, remedy)) => others.push(BadLine { line: line + first, problem, remedy }),
            None => good.push((line, event)),
        }
    }
    bad.extend(others);
    if good.len() > MOST_IMPORTED {
        let detail = format!("There are {} events; take in at most {MOST_IMPORTED} at once.", good.len());
        return Err(Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "too-large", "Too many events", detail));
    }
    let (appended, refused) = store.import_events(id, good).await?;
    bad.extend(refused.into_iter().map(|(line, error)| BadLine {
        line: line + first,
        problem: error.to_string(),
        remedy: "Mend the line and take the file in again".into(),
    }));
    bad.sort_by_key(|bad| bad.line);
    Ok(Json(Imported { kept: appended.kept, known: appended.known, bad }))
}

/// Keeps the picture of an event: the bytes of a JPEG, PNG or WebP, 2 MB at most. The event may come after it.
#[utoipa::path(put, path = "/api/v1/builds/{id}/photos/{event}", params(("id" = i64, Path), ("event" = String, Path)),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn keep_photo(State(store): State<Store>, IdAnd(id, event): IdAnd, bytes: Result<Bytes, BytesRejection>) -> Answer<StatusCode> {
    if !is_uuid7(&event) {
        let detail = format!("`{event}` is not an id of an event. Give a UUID of version 7.");
        return Err(Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "event", "No such event", detail));
    }
    let bytes = bytes.map_err(|_| Problem::new(StatusCode::PAYLOAD_TOO_LARGE, "too-large", "Too large", "A picture is at most 2 MB. Send a smaller one."))?;
    store.keep_photo(id, event, Photo::of(bytes.into())?).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// The picture of an event.
#[utoipa::path(get, path = "/api/v1/builds/{id}/photos/{event}", params(("id" = i64, Path), ("event" = String, Path)),
    responses((status = 200, content((Vec<u8> = "image/jpeg"), (Vec<u8> = "image/png"), (Vec<u8> = "image/webp"))), (status = 404, body = Problem)))]
async fn photo(State(store): State<Store>, IdAnd(id, event): IdAnd) -> Answer<Response> {
    let photo = store.photo(id, event).await?;
    Ok(([(header::CONTENT_TYPE, photo.media)], photo.bytes).into_response())
}

/// A build that a pack was in, with what its journal says of the battery.
#[derive(Serialize, ToSchema)]
struct PackLived {
    /// Its key.
    id: i64,
    /// Its document as it is kept.
    #[schema(value_type = Build)]
    document: Box<RawValue>,
    /// Rides, charges, readings and parts.
    events: Vec<Event>,
}

/// Every build that a pack of the drawer was in.
#[utoipa::path(get, path = "/api/v1/packs/{pack}", params(("pack" = String, Path)), responses((status = 200, body = Vec<PackLived>), (status = 500, body = Problem)))]
async fn pack(State(store): State<Store>, Path(id): Path<String>) -> Answer<Json<Vec<PackLived>>> {
    let mut all = Vec::new();
    for lived in store.lived(id).await? {
        // One that cannot be read says nothing of the pack; it is opened and mended from the shelf.
        if let Ok(document) = RawValue::from_string(lived.document) {
            all.push(PackLived { id: lived.id, document, events: lived.events });
        }
    }
    Ok(Json(all))
}

/// As of when.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct AsOf {
    /// RFC 3339 with the offset of the place; by default now, by this machine's clock.
    now: Option<String>,
}

/// What is due of a build, soonest first.
#[utoipa::path(get, path = "/api/v1/builds/{id}/due", params(("id" = i64, Path), AsOf),
    responses((status = 200, body = Vec<Reminder>), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn due_of_build(State(store): State<Store>, hands: Hands, Id(id): Id, Query(asked): Query<AsOf>) -> Answer<Json<Vec<Reminder>>> {
    let now = match &asked.now {
        Some(text) => Moment::parse(text).ok_or_else(|| {
            let detail = format!("`now` is `{text}`. Write it as 2026-05-02T18:40:00+02:00.");
            Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "now", "No such moment", detail)
        })?,
        None => {
            let since = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).unwrap_or_default();
            Moment { s: since.as_secs() as i64, offset_s: 0 }
        }
    };
    let build = store.open_build(id).await?.build;
    let events = store.all_events(id).await?;
    Ok(Json(hands.compute(move || Ok(due(&build, &events, now))).await?))
}
