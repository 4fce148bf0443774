//! The shelf: builds in pages, each with what its picture and headline were computed to, once a revision.

use crate::compute::Hands;
use crate::problem::{Answer, Problem};
use axum::Json;
use axum::extract::{Query, State};
use axum::http::StatusCode;
use orthavis_core::document::{Build, VehicleKind, parse_stored};
use orthavis_core::picture::{Glow, picture};
use orthavis_core::report::report_at_once;
use orthavis_core::states::State as SourceState;
use orthavis_store::{Cursor, Entry, Store};
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use utoipa::{IntoParams, ToSchema};

/// Which rules the summaries that are kept were computed by; to be raised when those change what the shelf shows.
const RULES: &str = "3";
/// Builds on a page.
const PAGE: u32 = 60;
/// Steps that the summary of one build may take: a fifth of a second.
const STEPS: u64 = orthavis_core::budget::USUAL / 8;
/// Summaries worked out for one page; the others follow when it is asked for again.
const AT_ONCE: usize = 60;

/// What the shelf shows of a build.
#[derive(Serialize, Deserialize, ToSchema)]
struct Summary {
    #[serde(skip_serializing_if = "Option::is_none", default)]
    #[schema(value_type = Option<VehicleKind>)]
    vehicle: Option<String>,
    /// Which form of it; absent: the first.
    #[serde(skip_serializing_if = "Option::is_none", default)]
    variant: Option<String>,
    lights: usize,
    /// The verdict in a few words; absent when it cannot be read or has no steady state.
    #[serde(skip_serializing_if = "Option::is_none", default)]
    headline: Option<String>,
    /// Findings that forbid building it; absent likewise.
    #[serde(skip_serializing_if = "Option::is_none", default)]
    stops: Option<usize>,
    /// Findings to mend.
    #[serde(skip_serializing_if = "Option::is_none", default)]
    fixes: Option<usize>,
    /// Why it has no verdict: it cannot be read, or not be solved.
    #[serde(skip_serializing_if = "Option::is_none", default)]
    trouble: Option<String>,
    /// Whether this version can read it at all; what it cannot is kept as text.
    readable: bool,
    /// What its notes mark by `#`, as in `#parade`: without the sign, in lower case, each once.
    #[serde(skip_serializing_if = "Vec::is_empty", default)]
    tags: Vec<String>,
    /// How its lights look in its first scene, on a full battery.
    #[schema(value_type = Vec<Glow>)]
    glows: Box<RawValue>,
}

/// A build on the shelf.
#[derive(Serialize, ToSchema)]
struct ShelfEntry {
    id: i64,
    revision: i64,
    /// RFC 3339, UTC.
    saved_at: String,
    name: String,
    /// Absent while it is still being worked out.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<Summary>)]
    summary: Option<Box<RawValue>>,
}

/// A page of the shelf.
#[derive(Serialize, ToSchema)]
pub(crate) struct Shelf {
    /// The last saved first.
    builds: Vec<ShelfEntry>,
    /// Where the next page begins; absent on the last.
    #[serde(skip_serializing_if = "Option::is_none")]
    next: Option<String>,
}

/// Which page.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub(crate) struct Page {
    /// `next` of the page before; absent: the first.
    after: Option<String>,
    /// Builds on it, at most 200.
    limit: Option<u32>,
}

/// The shelf, a page at a time.
#[utoipa::path(get, path = "/api/v1/builds", params(Page), responses((status = 200, body = Shelf)))]
pub(crate) async fn list(hands: Hands, State(store): State<Store>, page: Result<Query<Page>, axum::extract::rejection::QueryRejection>) -> Answer<Json<Shelf>> {
    let bad = |detail: String| Problem::new(StatusCode::BAD_REQUEST, "page", "No such page", detail);
    let Query(page) = page.map_err(|error| bad(format!("{}. Give `limit` as a number.", error.body_text())))?;
    let limit = page.limit.unwrap_or(PAGE);
    if !(1..=200).contains(&limit) {
        return Err(bad(format!("`limit` is {limit}. Give 1 to 200.")));
    }
    let after = match &page.after {
        None => None,
        Some(text) => Some(cursor(text).ok_or_else(|| bad(format!("`{text}` is no `next` of a page. Leave `after` out for the first page.")))?),
    };
    let mut entries = store.list(after, limit + 1, RULES).await?;
    let more = entries.len() > limit as usize;
    entries.truncate(limit as usize);
    let next = entries.last().filter(|_| more).map(|last| format!("{}_{}", last.saved_at, last.id));
    let mut worked_out = 0;
    let mut builds = Vec::new();
    for entry in entries {
        let mut summary = entry.summary.clone();
        if summary.is_none() && worked_out < AT_ONCE {
            worked_out += 1;
            summary = work_out(&hands, &store, &entry).await?;
        }
        let summary = summary.and_then(|text| RawValue::from_string(text).ok());
        builds.push(ShelfEntry { id: entry.id, revision: entry.revision, saved_at: entry.saved_at, name: entry.name, summary });
    }
    Ok(Json(Shelf { builds, next }))
}

fn cursor(text: &str) -> Option<Cursor> {
    let (saved_at, id) = text.rsplit_once('_')?;
    Some((saved_at.to_owned(), id.parse().ok()?))
}

/// Computes and keeps what the shelf shows of a build; `None` where it was saved again or taken away meanwhile.
async fn work_out(hands: &Hands, store: &Store, entry: &Entry) -> Answer<Option<String>> {
    let Ok(text) = store.text(entry.id).await else { return Ok(None) };
    if text.revision != entry.revision {
        return Ok(None);
    }
    let summary = hands.compute_within(STEPS, move || Ok(serde_json::to_string(&summary_of(&text.document)).unwrap_or_default())).await?;
    store.keep_summary(entry.id, entry.revision, RULES, summary.clone()).await?;
    Ok(Some(summary))
}

/// Tags of a build at most.
const TAGS: usize = 8;

/// Words that notes mark by `#`.
fn tags_of(notes: &str) -> Vec<String> {
    let mut tags = Vec::new();
    for word in notes.split_whitespace().filter_map(|word| word.strip_prefix('#')) {
        let tag: String = word.chars().take_while(|letter| letter.is_alphanumeric() || *letter == '-').flat_map(char::to_lowercase).collect();
        if !tag.is_empty() && !tags.contains(&tag) && tags.len() < TAGS {
            tags.push(tag);
        }
    }
    tags
}

fn summary_of(document: &str) -> Summary {
    let glows = |glows: &[Glow]| serde_json::value::to_raw_value(glows).unwrap_or_default();
    let mut summary = Summary {
        vehicle: None,
        variant: None,
        lights: 0,
        headline: None,
        stops: None,
        fixes: None,
        trouble: None,
        readable: false,
        tags: Vec::new(),
        glows: glows(&[]),
    };
    let build: Build = match parse_stored(document) {
        Ok(build) => build,
        Err(error) => {
            summary.trouble = Some(format!("cannot be read: {error}").chars().take(500).collect());
            return summary;
        }
    };
    summary.readable = true;
    summary.vehicle = Some(build.vehicle.kind.word().to_owned());
    summary.variant.clone_from(&build.vehicle.variant);
    summary.tags = tags_of(&build.notes);
    summary.lights = build.lights.len();
    match report_at_once(&build) {
        Ok(report) => {
            let full = build.states().into_iter().find(|state| matches!(state, SourceState::Full | SourceState::Rail | SourceState::Track));
            let shown = build.scenes.first().zip(full).and_then(|(scene, state)| picture(&build, &report, &scene.id, state));
            summary.glows = glows(&shown.map(|picture| picture.glows).unwrap_or_default());
            (summary.stops, summary.fixes) = (Some(report.verdict.stops), Some(report.verdict.fixes));
            summary.headline = Some(report.verdict.headline);
        }
        Err(error) => summary.trouble = Some(error.error.to_string()),
    }
    summary
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tags_are_what_notes_mark() {
        for (notes, tags) in [
            ("", &[][..]),
            ("for the #Parade, and #parade again; C# is none, nor is # alone", &["parade"]),
            ("#lent-out #Öl\n#2026.", &["lent-out", "öl", "2026"]),
            ("#a #b #c #d #e #f #g #h #i", &["a", "b", "c", "d", "e", "f", "g", "h"]),
        ] {
            assert_eq!(tags_of(notes), tags, "{notes}");
        }
    }
}
