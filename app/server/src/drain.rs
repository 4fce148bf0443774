//! What the lights cost the battery, and every result as a table.

use crate::compute::Hands;
use crate::problem::{Answer, Problem};
use crate::request::{Body, DocumentRequest};
use crate::workshop::Workshop;
use axum::Json;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use orthavis_core::document::{Build, parse};
use orthavis_core::drain::audit::{AuditReport, audit};
use orthavis_core::drain::discharge::{Discharge, discharge};
use orthavis_core::drain::tables::what_if as what_if_table;
use orthavis_core::drain::what_if::{Tried, WhatIf, what_if};
use orthavis_core::drain::{Drain, drain};
use orthavis_core::table::Table;
use orthavis_core::tables::tables;
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// The paths of this module.
pub(crate) fn router() -> OpenApiRouter<Workshop> {
    OpenApiRouter::new()
        .routes(routes!(drained))
        .routes(routes!(discharged))
        .routes(routes!(tried))
        .routes(routes!(tried_as_csv))
        .routes(routes!(tabled))
        .routes(routes!(as_csv))
}

/// What the lights cost.
#[derive(Serialize, ToSchema)]
struct Drained {
    drain: Drain,
    /// Absent where the build has no audit.
    audit: Option<AuditReport>,
}

/// What the lights of a document cost its battery, and its audit.
#[utoipa::path(post, path = "/api/v1/drain", request_body = DocumentRequest, responses((status = 200, body = Drained), (status = 422, body = Problem)))]
async fn drained(hands: Hands, Body(request): Body<DocumentRequest>) -> Answer<Json<Drained>> {
    hands
        .compute(move || {
            let build = parse(request.document.get())?;
            Ok(Json(Drained { drain: drain(&build)?, audit: audit(&build)? }))
        })
        .await
}

/// A document and a scene of it.
#[derive(Deserialize, ToSchema)]
struct SceneRequest {
    #[schema(value_type = Build)]
    document: Box<RawValue>,
    /// Scene id.
    scene: String,
}

/// A scene from full to its end; `null` for a rail.
#[utoipa::path(post, path = "/api/v1/discharge", request_body = SceneRequest, responses((status = 200, body = Option<Discharge>), (status = 422, body = Problem)))]
async fn discharged(hands: Hands, Body(request): Body<SceneRequest>) -> Answer<Json<Option<Discharge>>> {
    hands
        .compute(move || {
            let build = parse(request.document.get())?;
            known(&build, &request.scene)?;
            Ok(Json(discharge(&build, &request.scene)?))
        })
        .await
}

fn known(build: &Build, scene: &str) -> Answer<()> {
    if build.scenes.iter().any(|known| known.id == scene) {
        return Ok(());
    }
    let detail = format!("`{scene}` is no scene in this build. Name one that is.");
    Err(Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "scene", "No such scene", detail))
}

/// A change to try on a document.
#[derive(Deserialize, ToSchema)]
struct TryRequest {
    #[schema(value_type = Build)]
    document: Box<RawValue>,
    /// Scene whose time of light is told.
    scene: String,
    change: WhatIf,
}

impl TryRequest {
    fn answer(&self) -> Answer<Tried> {
        let build = parse(self.document.get())?;
        known(&build, &self.scene)?;
        self.change.check(&build).map_err(|fault| Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "change", "The change cannot be tried", fault))?;
        Ok(what_if(&build, &self.scene, &self.change)?)
    }
}

/// The plan and a change of it side by side.
#[utoipa::path(post, path = "/api/v1/what-if", request_body = TryRequest, responses((status = 200, body = Tried), (status = 422, body = Problem)))]
async fn tried(hands: Hands, Body(request): Body<TryRequest>) -> Answer<Json<Tried>> {
    hands.compute(move || Ok(Json(request.answer()?))).await
}

/// The same as a table (RFC 4180, UTF-8).
#[utoipa::path(post, path = "/api/v1/what-if/csv", request_body = TryRequest, responses((status = 200, body = String, content_type = "text/csv"), (status = 422, body = Problem)))]
async fn tried_as_csv(hands: Hands, Body(request): Body<TryRequest>) -> Answer<Response> {
    hands.compute(move || Ok(csv(&what_if_table(&request.answer()?)))).await
}

fn csv(table: &Table) -> Response {
    ([(header::CONTENT_TYPE, "text/csv; charset=utf-8; header=present")], table.csv()).into_response()
}

/// Every result of a document as tables.
#[utoipa::path(post, path = "/api/v1/tables", request_body = DocumentRequest, responses((status = 200, body = Vec<Table>), (status = 422, body = Problem)))]
async fn tabled(hands: Hands, Body(request): Body<DocumentRequest>) -> Answer<Json<Vec<Table>>> {
    hands.compute(move || Ok(Json(tables(&parse(request.document.get())?)?))).await
}

/// A document and a table of it.
#[derive(Deserialize, ToSchema)]
struct TableRequest {
    #[schema(value_type = Build)]
    document: Box<RawValue>,
    /// Name of the table, as in `discharge`.
    table: String,
}

/// One table as CSV (RFC 4180, UTF-8).
#[utoipa::path(post, path = "/api/v1/csv", request_body = TableRequest, responses((status = 200, body = String, content_type = "text/csv"), (status = 422, body = Problem)))]
async fn as_csv(hands: Hands, Body(request): Body<TableRequest>) -> Answer<Response> {
    hands
        .compute(move || {
            let tables = tables(&parse(request.document.get())?)?;
            let Some(table) = tables.iter().find(|table| table.name == request.table) else {
                let names: Vec<&str> = tables.iter().map(|table| table.name).collect();
                let detail = format!("`{}` is no table of this build. It has: {}.", request.table, names.join(", "));
                return Err(Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "table", "No such table", detail));
            };
            Ok(csv(table))
        })
        .await
}
