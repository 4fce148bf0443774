//! Small circuits over time: a netlist in, waveforms and measurements out.
//!
//! Modified nodal analysis. Capacitors and inductors are followed by the trapezoidal rule (a junction's picofarads by
//! Gear's, under which they cannot ring), by backward Euler for the first step after anything jumps; the step is chosen by local truncation error. Diodes and transistors are solved by
//! Newton's method with their junctions limited, and where that fails with the sources raised step by step. What switches
//! (timers, switches with hysteresis) does so at an instant that is searched for.

mod bends;
mod elements;
mod engine;
mod error;
mod matrix;
mod measure;
mod run;
mod spice;
mod wave;

pub use elements::{Bipolar, Diode, THERMAL_V, Timer};
pub use error::TransientError;
pub use measure::{Trace, Traces};
pub use run::{Accuracy, Run};
pub use wave::Wave;

/// A node, by its place in [`Circuit::nodes`]; 0 is ground.
pub type Node = usize;

/// What a part does.
#[derive(Clone, Debug, PartialEq)]
pub enum Element {
    /// A resistor, ohm.
    Resistor(f64),
    /// A capacitor, F, and the voltage it starts with; `None`: that of the operating point.
    Capacitor(f64, Option<f64>),
    /// An inductor, H, and the current it starts with, A.
    Inductor(f64, Option<f64>),
    /// A voltage of the first node over the second, V.
    Voltage(Wave),
    /// A current that leaves the second node and enters the first, A.
    Current(Wave),
    /// A diode from the first node to the second.
    Diode(Diode),
    /// A transistor: collector, base, emitter.
    Bipolar(Bipolar),
    /// A switch between the first two nodes, closed once the third is more than the first figure above the fourth, open once
    /// it is less than the second, V; its resistance closed and open, ohm.
    Switch {
        /// Closes above, V.
        on_v: f64,
        /// Opens below, V.
        off_v: f64,
        /// Closed, ohm.
        on_ohm: f64,
        /// Open, ohm.
        off_ohm: f64,
    },
    /// A timer: supply, minus, trigger and threshold in one, discharge, output.
    Timer(Timer),
}

/// A part with its nodes.
#[derive(Clone, Debug, PartialEq)]
pub struct Part {
    /// As it is told of.
    pub name: String,
    /// Its nodes, in the order that its element wants.
    pub nodes: Vec<Node>,
    /// What it does.
    pub element: Element,
}

/// A circuit.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Circuit {
    /// Names of the nodes; the first is ground.
    pub nodes: Vec<String>,
    /// Its parts.
    pub parts: Vec<Part>,
}

impl Circuit {
    /// Nothing but ground.
    pub fn new() -> Self {
        Circuit { nodes: vec!["0".into()], parts: Vec::new() }
    }

    /// The node of a name, made where it is new.
    pub fn node(&mut self, name: &str) -> Node {
        self.nodes.iter().position(|known| known == name).unwrap_or_else(|| {
            self.nodes.push(name.to_owned());
            self.nodes.len() - 1
        })
    }

    /// Adds a part between nodes of these names.
    pub fn add(&mut self, name: &str, nodes: &[&str], element: Element) {
        let nodes = nodes.iter().map(|node| self.node(node)).collect();
        self.parts.push(Part { name: name.to_owned(), nodes, element });
    }
}
