//! What ships with the program, and what a label or a meter says.

use crate::{Answer, Refusal};
#[cfg(feature = "schema")]
use orthavis_core::document::Build;
use orthavis_core::document::{Part, Source, parse};
use orthavis_core::findings::{CHECKS, Check, CheckSaid};
use orthavis_core::glossary::{self, Entry};
use orthavis_core::parts;
use orthavis_core::sheet::{self, Measured};
use orthavis_core::vehicle::{self, VehicleSheet};
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;

/// A voltage measured at the battery of a document.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MeasuredRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// At rest, V.
    pub volts: f64,
}

/// How full the battery is, by its resting voltage.
pub fn measured(request: MeasuredRequest) -> Answer<Measured> {
    match parse(request.document.get())?.source {
        Source::Battery(battery) => Ok(sheet::measured(&battery, request.volts)),
        Source::Rail(_) | Source::Track(_) => {
            Err(Refusal::new("source", "No battery", "A rail or track has no state of charge; enter its voltage as measured instead."))
        }
    }
}

/// A question that needs nothing.
#[derive(Deserialize)]
pub struct Nothing {}

/// What ships with the program and never changes while it runs.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Reference {
    /// The parts library.
    pub parts: &'static [Part],
    /// Words of the trade.
    pub glossary: &'static [Entry],
    /// Kinds of vehicle with their usual places.
    pub vehicles: &'static [VehicleSheet],
    /// Every kind of finding, by code.
    pub checks: Vec<CheckSaid>,
}

/// Parts, words and vehicles.
pub fn reference(_: Nothing) -> Answer<Reference> {
    Ok(Reference { parts: parts::library(), glossary: glossary::entries(), vehicles: vehicle::sheets(), checks: CHECKS.iter().map(Check::said).collect() })
}
