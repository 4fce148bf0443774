//! Long work: taken in at once, told of as it goes on, and called off when nobody wants it any more.

use crate::compute::Hands;
use crate::job_book::{Job, Jobs, Known, unknown};
use crate::problem::{Answer, Problem};
use crate::request::{Body, Id};
use crate::services::Services;
use axum::Json;
use axum::extract::State;
use axum::http::{StatusCode, header};
use axum::response::sse::{Event, KeepAlive, Sse};
use axum::response::{IntoResponse, Response};
use futures_util::stream::{self, StreamExt};
use orthavis_core::budget::{self, Budget};
use orthavis_core::document::{Build, parse};
use orthavis_core::mend::{Until, everything};
use orthavis_operations::{Refusal, word_of};
use serde::Deserialize;
use serde_json::value::RawValue;
use std::convert::Infallible;
use std::sync::Arc;
use tokio::sync::watch;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// Jobs that are known at a time; the oldest that has ended is forgotten for a new one.
const MOST: usize = 24;

/// The paths of this module.
pub(crate) fn router() -> OpenApiRouter<Services> {
    OpenApiRouter::new().routes(routes!(take_in)).routes(routes!(job_now, call_off)).routes(routes!(follow))
}

/// What can be done.
#[derive(Clone, Copy, ToSchema)]
#[schema(rename_all = "snake_case")]
enum TaskKind {
    /// A short list of changes after which nothing stands against building it, and what only the person can do for the
    /// rest.
    Mend,
}

impl TaskKind {
    const WORDS: &[(&'static str, TaskKind)] = &[("mend", TaskKind::Mend)];
}

/// What is to be done, and with which document.
#[derive(Deserialize, ToSchema)]
struct Task {
    #[schema(value_type = TaskKind)]
    kind: String,
    #[schema(value_type = Build)]
    document: Box<RawValue>,
    /// Mending: whether what is wrong without being a danger is mended too.
    #[serde(default)]
    and_fixes: bool,
}

/// Takes work in; it goes on whether or not anyone looks.
#[utoipa::path(post, path = "/api/v1/jobs", request_body = Task, responses((status = 202, body = Job), (status = 422, body = Problem)))]
async fn take_in(State(jobs): State<Arc<Jobs>>, hands: Hands, Body(task): Body<Task>) -> Answer<Response> {
    let TaskKind::Mend = word_of("kind", &task.kind, TaskKind::WORDS)?;
    let build = parse(task.document.get())?;
    let until = if task.and_fixes { Until::Sound } else { Until::Safe };
    let taken = jobs.book(|book| {
        if book.known.len() >= MOST {
            let ended = book.known.iter().find(|(_, job)| job.state.borrow().has_ended()).map(|(id, _)| *id)?;
            book.known.remove(&ended);
        }
        book.last += 1;
        let id = book.last;
        let (tell, state) = watch::channel(Job::Running { id, done: 0, of: 0 });
        let now = state.borrow().clone();
        let task = tokio::spawn(work(hands, id, build, until, tell)).abort_handle();
        book.known.insert(id, Known { state, task });
        Some(now)
    });
    let Some(job) = taken else {
        return Err(Problem::new(StatusCode::SERVICE_UNAVAILABLE, "busy", "Too much at once", "Too many jobs go on. Wait for one of them, or call it off."));
    };
    let Job::Running { id, .. } = job else { return Err(unknown()) };
    Ok((StatusCode::ACCEPTED, [(header::LOCATION, format!("/api/v1/jobs/{id}"))], Json(job)).into_response())
}

async fn work(hands: Hands, id: i64, build: Build, until: Until, tell: watch::Sender<Job>) {
    let heard = tell.clone();
    let listener = Box::new(move |done, of| drop(heard.send(Job::Running { id, done, of })));
    let outcome = hands.compute_on(Budget::heard(budget::USUAL, listener), move || Ok(everything(&build, until).map_err(Refusal::from)?)).await;
    let ended = match outcome {
        Ok(answer) => Job::Done { id, answer: Arc::new(answer) },
        Err(problem) => Job::Failed { id, problem: Arc::new(problem) },
    };
    drop(tell.send(ended));
}

/// Where a job is, now.
#[utoipa::path(get, path = "/api/v1/jobs/{job}", params(("job" = i64, Path)), responses((status = 200, body = Job), (status = 404, body = Problem)))]
async fn job_now(State(jobs): State<Arc<Jobs>>, Id(id): Id) -> Answer<Json<Job>> {
    let state = jobs.find(id)?;
    let now = state.borrow().clone();
    Ok(Json(now))
}

/// Calls a job off and forgets it.
#[utoipa::path(delete, path = "/api/v1/jobs/{job}", params(("job" = i64, Path)), responses((status = 204), (status = 404, body = Problem)))]
async fn call_off(State(jobs): State<Arc<Jobs>>, Id(id): Id) -> Answer<StatusCode> {
    let known = jobs.book(|book| book.known.remove(&id)).ok_or_else(unknown)?;
    // What waits for the outcome goes, and its budget with it.
    known.task.abort();
    Ok(StatusCode::NO_CONTENT)
}

/// A job as it goes on: server-sent events named `job`, each with its state; the last one says how it ended.
#[utoipa::path(get, path = "/api/v1/jobs/{job}/events", params(("job" = i64, Path)),
    responses((status = 200, body = Job, content_type = "text/event-stream"), (status = 404, body = Problem)))]
async fn follow(State(jobs): State<Arc<Jobs>>, Id(id): Id) -> Answer<impl IntoResponse> {
    let state = jobs.find(id)?;
    let events = stream::unfold((state, true, false), |(mut state, first, ended)| async move {
        // The sender is gone without a last word where the job was called off.
        if ended || (!first && state.changed().await.is_err()) {
            return None;
        }
        let job = state.borrow_and_update().clone();
        let ended = job.has_ended();
        let event = Event::default().event("job").json_data(&job).unwrap_or_default();
        Some((event, (state, false, ended)))
    });
    Ok(([(header::CACHE_CONTROL, "no-store")], Sse::new(events.map(Ok::<_, Infallible>)).keep_alive(KeepAlive::default())))
}
