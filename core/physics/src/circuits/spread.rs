//! What a circuit does over the whole battery and with parts at the edge of what is printed on them, and what the closed
//! formula says beside the simulation.

use super::fed::Fed;
use super::figures::{CircuitError, CircuitFigures, Formula, Spread};
use super::kind;
use super::simulation::Simulation;
use orthavis_model::data;
use orthavis_model::document::{Build, CircuitParts};
use orthavis_model::states::State;

data! {
    /// What a circuit does at one state of the source.
    pub struct AtState {
        /// The state's word.
        pub state: &'static str,
        /// The same for a person, as in `full battery`.
        pub called: &'static str,
        /// What the circuit is fed with then, without load, V; of an alternating supply its peak.
        pub supply_v: f64,
        /// Its figures.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub figures: Option<CircuitFigures>,
        /// Why it has none.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub problem: Option<String>,
    }
}

/// What it does at a state.
pub fn at_state(build: &Build, index: usize, state: State) -> AtState {
    told(build, index, state, super::figures(build, index, state))
}

/// What was found of it at a state, or why it does nothing then.
pub fn told(build: &Build, index: usize, state: State, found: Result<CircuitFigures, CircuitError>) -> AtState {
    let (figures, problem) = match found {
        Ok(figures) => (Some(figures), None),
        Err(CircuitError::DoesNotRun { why, .. }) => (None, Some(why)),
        Err(error) => (None, Some(error.to_string())),
    };
    AtState { state: state.word(), called: state.phrase(), supply_v: Fed::of(build, &build.circuits[index], state).emf_v, figures, problem }
}

/// What it does at every state of the source.
pub fn at_states(build: &Build, index: usize) -> Vec<AtState> {
    build.states().into_iter().map(|state| at_state(build, index, state)).collect()
}

/// The same build with other parts in a circuit.
pub(super) fn with(build: &Build, index: usize, parts: CircuitParts) -> Build {
    let mut copy = build.clone();
    copy.circuits[index].parts = parts;
    copy
}

/// What tolerances make of it at a state; nothing where tolerances decide nothing.
pub fn tolerances(build: &Build, index: usize, state: State) -> Vec<Spread> {
    let kind = kind::of(&build.circuits[index].parts);
    let Some(edges) = kind.edges() else { return Vec::new() };
    let both = |parts: [CircuitParts; 2]| {
        let [low, high] = parts.map(|parts| {
            let copy = with(build, index, parts);
            Simulation::of(&copy, index, state).figures().ok()
        });
        low.zip(high)
    };
    let Some((low, high)) = both(edges.all) else { return Vec::new() };
    let mut found = kind.spreads(&low, &high);
    let shares = edges.one_sided.and_then(both).and_then(|(one, other)| one.duty.zip(other.duty));
    if let Some((one, other)) = shares.filter(|_| !found.is_empty()) {
        found.push(Spread { figure: "duty", called: "share of the time on", least: one.min(other), most: one.max(other), unit: "1" });
    }
    found
}

/// The closed formulas of its kind, beside what was simulated.
pub fn formulas(build: &Build, index: usize, state: State, found: &CircuitFigures) -> Vec<Formula> {
    let own = &build.circuits[index];
    kind::of(&own.parts).formulas(Fed::of(build, own, state).emf_v, found)
}
