//! What the lights cost the battery, and every result as a table.

use crate::{Answer, DocumentRequest, Refusal};
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

/// What the lights cost.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Drained {
    /// What the lights cost.
    pub drain: Drain,
    /// Absent where the build has no audit.
    pub audit: Option<AuditReport>,
}

/// What the lights of a document cost its battery, and its audit.
pub fn drained(request: DocumentRequest) -> Answer<Drained> {
    let build = parse(request.document.get())?;
    Ok(Drained { drain: drain(&build)?, audit: audit(&build)? })
}

/// A document and a scene of it.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SceneRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// Scene id.
    pub scene: String,
}

/// A scene from full to its end; `null` for a rail.
pub fn discharged(request: SceneRequest) -> Answer<Option<Discharge>> {
    let build = parse(request.document.get())?;
    known(&build, &request.scene)?;
    Ok(discharge(&build, &request.scene)?)
}

pub(crate) fn known(build: &Build, scene: &str) -> Answer<()> {
    if build.scenes.iter().any(|known| known.id == scene) {
        return Ok(());
    }
    let detail = format!("`{scene}` is not a scene in this build. Name one that is.");
    Err(Refusal::new("scene", "No such scene", detail))
}

/// A change to try on a document.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TryRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// Scene whose time of light is told.
    pub scene: String,
    /// What is tried.
    pub change: WhatIf,
}

impl TryRequest {
    fn answer(&self) -> Answer<Tried> {
        let build = parse(self.document.get())?;
        known(&build, &self.scene)?;
        self.change.check(&build).map_err(|fault| Refusal::new("change", "The change cannot be tried", fault))?;
        Ok(what_if(&build, &self.scene, &self.change)?)
    }
}

/// The plan and a change of it side by side.
pub fn tried(request: TryRequest) -> Answer<Tried> {
    request.answer()
}

/// The same as a table (RFC 4180, UTF-8).
pub fn tried_as_csv(request: TryRequest) -> Answer<String> {
    Ok(what_if_table(&request.answer()?).csv())
}

/// Every result of a document as tables.
pub fn tabled(request: DocumentRequest) -> Answer<Vec<Table>> {
    Ok(tables(&parse(request.document.get())?)?)
}

/// A document and a table of it.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TableRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// Name of the table, as in `discharge`.
    pub table: String,
}

/// One table as CSV (RFC 4180, UTF-8).
pub fn as_csv(request: TableRequest) -> Answer<String> {
    let tables = tables(&parse(request.document.get())?)?;
    let Some(table) = tables.iter().find(|table| table.name == request.table) else {
        let names: Vec<&str> = tables.iter().map(|table| table.name).collect();
        let detail = format!("`{}` is not a table of this build. It has: {}.", request.table, names.join(", "));
        return Err(Refusal::new("table", "No such table", detail));
    };
    Ok(table.csv())
}
