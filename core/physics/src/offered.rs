//! What suppliers offer before anything is drawn.

use crate::circuits::stand_in;
use orthavis_model::document::Build;
use orthavis_model::states::State;
use orthavis_model::topology::{Node, Topology};

/// Voltage that a supplier offers with nothing drawn, in every state of the source, V; `None`: no such supplier.
pub fn offered_v(build: &Build, from: &str) -> Option<Vec<(State, f64)>> {
    let topology = Topology::of(build);
    offered_at(build, &topology, topology.node(from)?)
}

fn offered_at(build: &Build, topology: &Topology<'_>, node: Node) -> Option<Vec<(State, f64)>> {
    let fed = || offered_at(build, topology, topology.from(topology.inlet(node)?));
    let each = |of: &dyn Fn(f64) -> f64| Some(fed()?.into_iter().map(|(state, volts)| (state, of(volts))).collect());
    match node {
        Node::Source => Some(build.states().into_iter().map(|state| (state, build.thevenin(state).0)).collect()),
        Node::Junction(_) => fed(),
        Node::Converter(at) => each(&|volts| {
            let converter = &build.converters[at];
            // A driver offers no voltage of its own.
            if converter.runs_at(volts) && converter.set_v().is_some() { converter.output_v(volts).value } else { 0.0 }
        }),
        // While its lights are on.
        Node::Circuit(at) => {
            let kept_v = stand_in(build, &build.circuits[at]).dropout_v().unwrap_or(0.0);
            each(&|volts| (volts - kept_v).max(0.0))
        }
        Node::Controller(_) | Node::Light(_) => None,
    }
}
