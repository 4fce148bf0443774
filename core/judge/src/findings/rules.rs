//! The families of findings, and what they find together.

use super::case::*;
use super::{
    circuit, collapse, converter, dimmer, fixing, follow, frame, fuse, heat, led, light, near, pins, place, polarity, resistor, shared, shine, show, sleeps,
    soldered, source, strip, surge, switching, track, wet, wire,
};
use orthavis_model::topology::Topology;
use orthavis_physics::points::{PointError, SolvedBuild, solved};

pub(super) const FAMILIES: [Family; 27] = [
    led::FAMILY,
    light::FAMILY,
    resistor::FAMILY,
    strip::FAMILY,
    converter::FAMILY,
    wire::FAMILY,
    fuse::FAMILY,
    switching::FAMILY,
    source::FAMILY,
    collapse::FAMILY,
    frame::FAMILY,
    place::FAMILY,
    circuit::FAMILY,
    track::FAMILY,
    soldered::FAMILY,
    pins::FAMILY,
    show::FAMILY,
    fixing::FAMILY,
    shine::FAMILY,
    polarity::FAMILY,
    shared::FAMILY,
    heat::FAMILY,
    wet::FAMILY,
    sleeps::FAMILY,
    dimmer::FAMILY,
    surge::FAMILY,
    near::FAMILY,
];

/// All findings of a solved build, worst first; remedies are added by [`super::add_remedies`].
pub fn findings(build: &Build, points: &[PointReport], collapsed: &[PointError]) -> Vec<Finding> {
    find(build, points, collapsed, false)
}

/// [`findings`] without words.
pub fn brief(build: &Build, points: &[PointReport], collapsed: &[PointError]) -> Vec<Finding> {
    find(build, points, collapsed, true)
}

pub(super) fn find(build: &Build, points: &[PointReport], collapsed: &[PointError], brief: bool) -> Vec<Finding> {
    let mut found = Findings { brief, ..Findings::default() };
    let case = Case { build, graph: Topology::of(build), solved: points, collapsed };
    for rule in &FAMILIES {
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
/// When work was stopped.
pub fn judged(build: &Build) -> Result<Vec<Finding>, PointError> {
    judged_near(build, &[])
}

/// [`judged`] in brief, started from the solutions of a similar build where they fit.
pub fn judged_near(build: &Build, similar: &[Solution]) -> Result<Vec<Finding>, PointError> {
    let solved = solved(build, similar)?;
    Ok(brief(build, &solved.points, &solved.collapsed))
}

/// A solved build and what is wrong in brief, from which it is mended; `None` where work was stopped.
pub fn solved_for_mending(build: &Build, similar: &[Solution]) -> Option<(SolvedBuild, Vec<Finding>)> {
    let solved = solved(build, similar).ok()?;
    let found = brief(build, &solved.points, &solved.collapsed);
    Some((solved, found))
}
