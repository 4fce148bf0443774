//! The journal of a build: appended to in batches that may be sent twice, read in pages, exported and imported.

use crate::problem::{Answer, Problem};
use crate::request::{Body, Id};
use crate::workshop::Workshop;
use axum::Json;
use axum::extract::rejection::QueryRejection;
use axum::extract::{DefaultBodyLimit, Query, State};
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use orthavis_core::document::{DocumentError, Fault, read_strict};
use orthavis_core::journal::{Event, EventKind, JournalFormat, MAX_BATCH, from_csv, from_lines, parse_event, to_csv, to_lines};
use orthavis_operations::word_of;
use orthavis_store::{Store, Wanted};
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// Bytes that a journal may have that is imported at once.
const MAX_IMPORT: usize = 32 << 20;
/// Events on a page, unless it is said.
const PAGE: u32 = 200;
/// Events on a page at most.
const MOST: u32 = 2000;

/// The paths of this module.
pub(crate) fn router() -> OpenApiRouter<Workshop> {
    let import = OpenApiRouter::new().routes(routes!(import_journal)).layer(DefaultBodyLimit::max(MAX_IMPORT));
    OpenApiRouter::new().routes(routes!(journal_page, append_events)).routes(routes!(export_journal)).merge(import)
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
        return Err(Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "events", "No events", "`events` is no list; give the events in one."));
    };
    let (mut read, mut faults) = (Vec::new(), Vec::new());
    for (index, event) in events.iter().enumerate() {
        match parse_event(event) {
            Ok(event) => read.push(event),
            Err(error) => faults.extend(error.faults.into_iter().map(|fault| Fault { pointer: format!("/events/{index}{}", fault.pointer), ..fault })),
        }
    }
    if !faults.is_empty() {
        return Err(unread(DocumentError { faults }));
    }
    keep(&store, id, read).await
}

fn unread(error: DocumentError) -> Problem {
    let mut problem = Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "events", "The events cannot be read", error.to_string());
    problem.errors = error.faults;
    problem
}

/// Which events.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Asked {
    /// Of this kind only.
    #[param(value_type = Option<EventKind>)]
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

/// Takes a journal in, all of it or nothing; what is there already counts for nothing.
#[utoipa::path(post, path = "/api/v1/builds/{id}/journal/import", params(("id" = i64, Path)), request_body = JournalFile,
    responses((status = 200, body = Kept), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn import_journal(State(store): State<Store>, Id(id): Id, Body(file): Body<JournalFile>) -> Answer<Json<Kept>> {
    let events = match word_of("format", &file.format, JournalFormat::WORDS)? {
        JournalFormat::Jsonl => from_lines(&file.text),
        JournalFormat::Csv => from_csv(&file.text),
    };
    keep(&store, id, events.map_err(unread)?).await
}
