//! What ships with the program, and what a label or a meter says.

use crate::problem::{Answer, Problem};
use crate::request::{Body, word_of};
use crate::workshop::Workshop;
use axum::Json;
use axum::http::StatusCode;
use orthavis_core::document::{Build, Chemistry, Part, Source, parse};
use orthavis_core::findings::{CHECKS, Check};
use orthavis_core::glossary::{self, Entry};
use orthavis_core::parts;
use orthavis_core::sheet::{self, FromLabel, Measured};
use orthavis_core::vehicle::{self, VehicleSheet};
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// The paths of this module.
pub(crate) fn router() -> OpenApiRouter<Workshop> {
    OpenApiRouter::new().routes(routes!(label)).routes(routes!(measured)).routes(routes!(reference))
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
    vehicles: &'static [VehicleSheet],
    /// Every kind of finding, by code.
    checks: &'static [Check],
}

/// Parts, words and vehicles.
#[utoipa::path(get, path = "/api/v1/reference", responses((status = 200, body = Reference)))]
async fn reference() -> Json<Reference> {
    Json(Reference { parts: parts::library(), glossary: glossary::entries(), vehicles: vehicle::sheets(), checks: &CHECKS })
}
