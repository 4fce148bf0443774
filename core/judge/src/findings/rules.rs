//! The families of findings, and what they find together.

use super::case::*;
use super::{circuit, converter, fixing, follow, frame, fuse, led, light, pins, place, resistor, show, soldered, source, strip, switching, wire};
use orthavis_physics::points::{PointError, solved};

pub(super) const RULES: [Rule; 16] = [
    led::RULE,
    light::RULE,
    resistor::RULE,
    strip::RULE,
    converter::RULE,
    wire::RULE,
    fuse::RULE,
    switching::RULE,
    source::RULE,
    frame::RULE,
    place::RULE,
    circuit::RULE,
    soldered::RULE,
    pins::RULE,
    show::RULE,
    fixing::RULE,
];

/// All findings of a solved build, worst first; remedies are added by [`super::add_remedies`].
pub fn findings(build: &Build, points: &[PointReport]) -> Vec<Finding> {
    find(build, points, false)
}

/// [`findings`] without words.
pub fn brief(build: &Build, points: &[PointReport]) -> Vec<Finding> {
    find(build, points, true)
}

pub(super) fn find(build: &Build, points: &[PointReport], brief: bool) -> Vec<Finding> {
    let mut found = Findings { brief, ..Findings::default() };
    let case = Case { build, solved: points };
    for rule in &RULES {
        (rule.find)(&case, &mut found);
    }
    let mut all: Vec<Finding> = found.found.into_values().collect();
    all.sort_by(|a, b| (a.severity, a.code, &a.subject).cmp(&(b.severity, b.code, &b.subject)));
    follow::trace(&case, &mut all);
    all
}

/// What is wrong with a build, in brief: which findings there are, and how bad.
///
/// # Errors
/// The first scene and state without a steady solution.
pub fn judged(build: &Build) -> Result<Vec<Finding>, PointError> {
    judged_near(build, &[])
}

/// [`judged`] in brief, started from the solutions of a similar build where they fit.
pub fn judged_near(build: &Build, similar: &[Solution]) -> Result<Vec<Finding>, PointError> {
    Ok(brief(build, &solved(build, similar)?.points))
}

/// Points, their solutions and what is wrong in brief, from which the build is mended; `None` where it has no steady
/// state.
pub fn solved_for_mending(build: &Build, similar: &[Solution]) -> Option<(Vec<PointReport>, Vec<Solution>, Vec<Finding>)> {
    let solved = solved(build, similar).ok()?;
    let found = brief(build, &solved.points);
    Some((solved.points, solved.solutions, found))
}
