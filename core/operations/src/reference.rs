//! What ships with the program, and what a label or a meter says.

use crate::{Answer, Refusal, word_of};
#[cfg(feature = "schema")]
use orthavis_core::document::Build;
use orthavis_core::document::{Chemistry, Part, Source, parse};
use orthavis_core::findings::{CHECKS, Check, CheckSaid};
use orthavis_core::glossary::{self, Entry};
use orthavis_core::parts;
use orthavis_core::sheet::{self, FromLabel, Measured};
use orthavis_core::vehicle::{self, VehicleSheet};
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;

/// What is printed on a pack.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LabelRequest {
    /// Chemistry of the battery.
    #[cfg_attr(feature = "schema", schema(value_type = Chemistry))]
    pub chemistry: String,
    /// V.
    pub volts: f64,
    /// Ah; this or `wh`.
    pub ah: Option<f64>,
    /// Wh.
    pub wh: Option<f64>,
}

/// Cells and capacity from a label.
pub fn label(request: LabelRequest) -> Answer<FromLabel> {
    let chemistry = word_of("chemistry", &request.chemistry, Chemistry::WORDS)?;
    let read = sheet::from_label(chemistry, request.volts, request.ah, request.wh);
    read.ok_or_else(|| {
        let detail = "Give the volts of the label, and either its amp-hours or its watt-hours, all above 0.";
        Refusal::new("label", "The label cannot be read", detail)
    })
}

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
