//! Every result of a build as a table.

use orthavis_model::document::Build;
use orthavis_model::table::Table;
use orthavis_physics::points::{PointError, finished};

/// Every table of a build, in the order of the job.
///
/// # Errors
/// The first scene and state without a steady solution.
pub fn tables(build: &Build) -> Result<Vec<Table>, PointError> {
    let mut tables = orthavis_judge::tables::tables(&orthavis_judge::report::report(build)?);
    tables.extend(orthavis_drain::tables::tables(build)?);
    finished(build)?;
    tables.retain(|table| !table.rows.is_empty());
    Ok(tables)
}
