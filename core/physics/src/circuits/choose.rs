//! The other way round: which standard parts give what is wanted.
//!
//! Closed formulas, corrected by one simulation of the same kind, find a short list among E24 and E12 resistors and E6
//! capacitors; what is on it is simulated and ranked by what it really gives.

use super::fed::{Fed, Site};
use super::kind;
use super::simulation::Simulation;
use super::spread::{AtState, at_states, with};
use super::wanted::{ChooseError, Choosing, Wanted};
use orthavis_model::document::{Build, CircuitParts};
use serde::Serialize;

/// Told at most.
const TOLD: usize = 4;
/// Standard parts that give it, with what they really give.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CircuitChoice {
    /// The parts in words.
    pub title: String,
    /// The parts, with the kind of circuit that they make.
    #[serde(flatten)]
    pub parts: CircuitParts,
    /// How far off it is at the fullest state, as a share.
    pub off: f64,
    /// What it gives at every state.
    pub states: Vec<AtState>,
}

/// Standard parts for what is wanted of a circuit, the best first.
///
/// # Errors
/// When something that its kind needs is not given or out of reach, or the circuit does not run at all.
pub fn choose(build: &Build, index: usize, wanted: &Wanted) -> Result<Vec<CircuitChoice>, ChooseError> {
    let own = &build.circuits[index];
    let state = build.states()[0];
    let kind = kind::of(&own.parts);
    let simulated = |parts| Simulation::of(&with(build, index, parts), index, state).figures();
    let mut candidates = kind.candidates(&Choosing { site: Site::of(build, own, Fed::of(build, own, state)), simulated: &simulated }, wanted)?;
    candidates.sort_by(|a, b| a.off.total_cmp(&b.off));
    candidates.dedup_by(|a, b| a.title == b.title);
    let mut found: Vec<(f64, CircuitChoice)> = Vec::new();
    for candidate in candidates.into_iter().take(kind.short_list()) {
        let copy = with(build, index, candidate.parts.clone());
        let states = at_states(&copy, index);
        let Some(first) = states.first().and_then(|at| at.figures.as_ref()) else { continue };
        let Some((off, awkward)) = kind::of(&candidate.parts).off_by(first, wanted, candidate.off) else { continue };
        found.push((off + awkward, CircuitChoice { title: candidate.title, parts: candidate.parts, off, states }));
    }
    found.sort_by(|a, b| a.0.total_cmp(&b.0));
    Ok(found.into_iter().map(|(_, choice)| choice).take(TOLD).collect())
}
