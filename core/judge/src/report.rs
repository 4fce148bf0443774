//! The report `orthavis.report/1`: every scene at every state, endurance, findings, verdict.

use crate::findings::{self, Card, Finding};
use crate::verdict::{self, Verdict};
use orthavis_model::document::Build;
use orthavis_physics::endurance::{self, Endurance};
use orthavis_physics::network::Solution;
use orthavis_physics::points::{PointError, PointReport, Solved, finished, solved};
use serde::Serialize;

/// The value of `format` in a report.
pub const FORMAT: &str = "orthavis.report/1";

macro_rules! data {
    ($($item:item)*) => { $(
        #[derive(Clone, Debug, Serialize)]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        $item
    )* };
}

data! {
    /// What became of a build.
    pub struct Report {
        /// Always [`FORMAT`].
        pub format: &'static str,
        /// Every scene at every state, scenes in document order, fullest state first.
        pub points: Vec<PointReport>,
        /// Every scene of a battery, in document order.
        pub endurance: Vec<Endurance>,
        /// Worst first.
        pub findings: Vec<Finding>,
        /// The findings as a person reads them: one cause, one card.
        pub cards: Vec<Card>,
        /// Safe or not, and what it costs the battery.
        pub verdict: Verdict,
    }
}

/// Solves a build and judges it, remedies included.
///
/// # Errors
/// The first scene and state without a steady solution. There is no partial report.
pub fn report(build: &Build) -> Result<Report, PointError> {
    let (mut report, solutions) = without_remedies(build)?;
    findings::add_remedies(build, &report.points, &solutions, &mut report.findings, &mut report.cards);
    Ok(report)
}

/// [`report`] whose findings have no remedies yet: trying those takes most of its time.
///
/// # Errors
/// As [`report`].
pub fn report_at_once(build: &Build) -> Result<Report, PointError> {
    Ok(without_remedies(build)?.0)
}

fn without_remedies(build: &Build) -> Result<(Report, Vec<Solution>), PointError> {
    let Solved { points, mut network, solutions } = solved(build, &[])?;
    let endurance = endurance::endurance(build, &mut network, &solutions);
    finished(build)?;
    let findings = findings::findings(build, &points);
    let cards = findings::cards(build, &findings);
    let verdict = verdict::verdict(build, &findings, &endurance);
    Ok((Report { format: FORMAT, points, endurance, findings, cards, verdict }, solutions))
}
