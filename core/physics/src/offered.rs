//! What suppliers offer before anything is drawn.

use orthavis_model::document::Build;
use orthavis_model::states::State;

/// Voltage that a supplier offers with nothing drawn, in every state of the source, V; `None`: no such supplier.
pub fn offered_v(build: &Build, from: &str) -> Option<Vec<(State, f64)>> {
    if from == "source" {
        return Some(build.states().into_iter().map(|state| (state, build.thevenin(state).0)).collect());
    }
    if let Some(junction) = build.junctions.iter().find(|j| j.id == from) {
        return offered_v(build, &junction.feed.from);
    }
    let converter = build.converters.iter().find(|c| c.id == from)?;
    let inputs = offered_v(build, &converter.feed.from)?;
    Some(inputs.into_iter().map(|(state, v)| (state, if converter.runs_at(v) { converter.output_v(v).value } else { 0.0 })).collect())
}
