//! The report `orthavis.report/1`: every scene at every state, endurance, findings, verdict.

use crate::findings::{self, Card, Finding};
use crate::verdict::{self, Verdict};
use orthavis_model::data;
use orthavis_model::document::Build;
use orthavis_physics::endurance::{self, Endurance};
use orthavis_physics::points::{PointError, PointReport, SolvedBuild, finished, solved};

/// The value of `format` in a report.
pub const FORMAT: &str = "orthavis.report/1";

data! {
    /// What became of a build.
    pub struct Report {
        /// Always [`FORMAT`].
        pub format: &'static str,
        /// Every scene at every state that has a steady solution, scenes in document order, fullest state first.
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

/// Solves a build and judges it, remedies included. A scene and state without a steady solution has no point, and a
/// finding of its own.
///
/// # Errors
/// When work was stopped. There is no partial report.
pub fn report(build: &Build) -> Result<Report, PointError> {
    let Judged { solved, endurance, mut findings, mut cards, verdict } = without_remedies(build)?;
    findings::add_remedies(build, &solved, &mut findings, &mut cards);
    Ok(Report { format: FORMAT, points: solved.points, endurance, findings, cards, verdict })
}

/// [`report`] whose findings have no remedies yet: trying those takes most of its time.
///
/// # Errors
/// As [`report`].
pub fn report_at_once(build: &Build) -> Result<Report, PointError> {
    let Judged { solved, endurance, findings, cards, verdict } = without_remedies(build)?;
    Ok(Report { format: FORMAT, points: solved.points, endurance, findings, cards, verdict })
}

struct Judged {
    solved: SolvedBuild,
    endurance: Vec<Endurance>,
    findings: Vec<Finding>,
    cards: Vec<Card>,
    verdict: Verdict,
}

fn without_remedies(build: &Build) -> Result<Judged, PointError> {
    let mut solved = solved(build, &[])?;
    // Where a point is missing, solutions are no longer in the order of scenes and states.
    let known = if solved.collapsed.is_empty() { &solved.solutions[..] } else { &[] };
    let endurance = endurance::endurance(build, &mut solved.network, known);
    finished(build)?;
    let findings = findings::findings(build, &solved.points, &solved.collapsed);
    let cards = findings::cards(build, &findings);
    let verdict = verdict::verdict(build, &findings, &endurance);
    Ok(Judged { solved, endurance, findings, cards, verdict })
}
