//! Diodes and transistors as they stand in the equations. A resistor in series with a diode is its own resistance: the nodes
//! between them need no equation, and are told afterwards.

use super::elements::{Bipolar, Diode, THERMAL_V, limited};
use super::matrix::Stamp;
use super::{Circuit, Element, Node};

/// This far below its knee a junction carries a few milliamperes at most, V.
const BELOW_KNEE_V: f64 = 0.1;
/// A junction counts as held back beyond this, V.
const HELD_BACK_V: f64 = 1e-9;

/// A part whose current is not in proportion to its voltage.
#[derive(Clone, Debug)]
pub(super) struct Bend {
    law: Law,
    /// From here on Newton's steps are limited, V.
    knee_v: f64,
    /// Voltages of its junctions: of the last iteration, and of the last moment.
    junctions: [f64; 2],
    settled: [f64; 2],
}

#[derive(Clone, Debug)]
enum Law {
    /// From node to node; at either end the node that a resistor took along, and that resistor, ohm.
    Diode { diode: Diode, nodes: [Node; 2], inner: [Option<(Node, f64)>; 2] },
    /// Collector, base, emitter; −1 where all voltages are the other way round.
    Bipolar { transistor: Bipolar, nodes: [Node; 3], sign: f64 },
}

/// What bends in a circuit.
pub(super) struct Bends {
    pub(super) all: Vec<Bend>,
    /// Of each part: whether it is a resistor within a diode.
    pub(super) within: Vec<bool>,
}

impl Bends {
    pub(super) fn of(circuit: &Circuit) -> Self {
        let mut ends = vec![0; circuit.nodes.len()];
        circuit.parts.iter().flat_map(|part| &part.nodes).for_each(|node| ends[*node] += 1);
        let mut found = Bends { all: Vec::new(), within: vec![false; circuit.parts.len()] };
        for part in &circuit.parts {
            let (law, knee_v) = match &part.element {
                Element::Diode(diode) => {
                    let (mut diode, mut nodes, mut inner) = (*diode, [part.nodes[0], part.nodes[1]], [None; 2]);
                    for (node, inner) in nodes.iter_mut().zip(&mut inner) {
                        // Nothing else hangs there.
                        if *node == 0 || ends[*node] != 2 {
                            continue;
                        }
                        let beside = circuit.parts.iter().enumerate().find_map(|(index, other)| match other.element {
                            Element::Resistor(ohm) if !found.within[index] && other.nodes.contains(node) => Some((index, ohm)),
                            _ => None,
                        });
                        if let Some((index, ohm)) = beside {
                            let ties = &circuit.parts[index].nodes;
                            let beyond = if ties[0] == *node { ties[1] } else { ties[0] };
                            *inner = Some((*node, ohm));
                            *node = beyond;
                            diode.rs_ohm += ohm;
                            found.within[index] = true;
                        }
                    }
                    let knee_v = diode.knee();
                    (Law::Diode { diode, nodes, inner }, knee_v)
                }
                Element::Bipolar(transistor) => {
                    let nodes = [part.nodes[0], part.nodes[1], part.nodes[2]];
                    (Law::Bipolar { transistor: *transistor, nodes, sign: if transistor.npn { 1.0 } else { -1.0 } }, transistor.knee())
                }
                _ => continue,
            };
            found.all.push(Bend { law, knee_v, junctions: [0.0; 2], settled: [0.0; 2] });
        }
        found
    }
}

impl Bend {
    /// The nodes in whose equations it stands.
    pub(super) fn nodes(&self) -> &[Node] {
        match &self.law {
            Law::Diode { nodes, .. } => nodes,
            Law::Bipolar { nodes, .. } => nodes,
        }
    }

    /// The nodes that it took along.
    pub(super) fn inner(&self) -> impl Iterator<Item = Node> {
        let inner = if let Law::Diode { inner, .. } = &self.law { *inner } else { [None; 2] };
        inner.into_iter().flatten().map(|(node, _)| node)
    }

    /// Writes it around `x`; whether a junction had to be held back.
    #[inline(never)]
    pub(super) fn stamp(&mut self, m: &mut Stamp<'_>, x: &[f64]) -> bool {
        match &self.law {
            Law::Diode { diode, nodes: [from, to], .. } => {
                let wanted = x[*from] - x[*to];
                let mut volts = wanted;
                // A resistance in series keeps the current within reach; without one the step is held back.
                if diode.rs_ohm <= 0.0 {
                    volts = limited(wanted, self.junctions[0], diode.n * THERMAL_V, self.knee_v);
                    if let Some(at) = diode.breakdown_v {
                        // The same the other way round, from the breakdown on.
                        volts = -at - limited(-volts - at, -self.junctions[0] - at, THERMAL_V, self.knee_v / diode.n);
                    }
                }
                let (amps, siemens, own) = diode.current_from(volts, self.junctions[1]);
                self.junctions = [volts, own];
                m.conductance(*from, *to, siemens);
                m.current(*from, *to, amps - siemens * volts);
                (volts - wanted).abs() > HELD_BACK_V
            }
            Law::Bipolar { transistor, nodes: [c, b, e], sign } => {
                let (c, b, e, sign) = (*c, *b, *e, *sign);
                let wanted = [sign * (x[b] - x[e]), sign * (x[b] - x[c])];
                let mut volts = [0, 1].map(|one| limited(wanted[one], self.junctions[one], THERMAL_V, self.knee_v));
                let at = transistor.base_breakdown_v;
                volts[0] = -at - limited(-volts[0] - at, -self.junctions[0] - at, THERMAL_V, self.knee_v);
                self.junctions = volts;
                let (amps, slopes) = transistor.currents(volts[0], volts[1]);
                for (node, (amps, [over_e, over_c])) in [c, b].into_iter().zip(amps.into_iter().zip(slopes)) {
                    // What enters at this node leaves at the emitter.
                    let rest = sign * (amps - over_e * volts[0] - over_c * volts[1]);
                    for (row, way) in [(node, 1.0), (e, -1.0)] {
                        m.add(row, b, way * (over_e + over_c));
                        m.add(row, e, -way * over_e);
                        m.add(row, c, -way * over_c);
                    }
                    m.current(node, e, rest);
                }
                (volts[0] - wanted[0]).abs() > HELD_BACK_V || (volts[1] - wanted[1]).abs() > HELD_BACK_V
            }
        }
    }

    /// Junctions where `x` has them, as far as that is not beyond their knee: what is expected need not be crept up to, and
    /// where an attempt that failed left them does not matter.
    pub(super) fn start(&mut self, x: &[f64]) {
        let wanted = match &self.law {
            Law::Bipolar { nodes: [c, b, e], sign, .. } => [sign * (x[*b] - x[*e]), sign * (x[*b] - x[*c])],
            Law::Diode { diode, nodes: [from, to], .. } if diode.rs_ohm <= 0.0 => [x[*from] - x[*to]; 2],
            Law::Diode { .. } => return,
        };
        self.junctions = [0, 1].map(|one| wanted[one].min(self.settled[one].max(self.knee_v - BELOW_KNEE_V)));
    }

    /// Everything at zero.
    pub(super) fn reset(&mut self) {
        self.junctions = [0.0; 2];
    }

    /// This moment is the last one from now on.
    pub(super) fn settle(&mut self) {
        self.settled = self.junctions;
    }

    /// Voltages of the nodes that it took along, from those at its ends.
    #[inline(never)]
    pub(super) fn fill(&self, x: &mut [f64]) {
        let Law::Diode { diode, nodes: [from, to], inner } = &self.law else { return };
        if *inner == [None; 2] {
            return;
        }
        let (amps, ..) = diode.current_from(x[*from] - x[*to], self.junctions[1]);
        if let Some((node, ohm)) = inner[0] {
            x[node] = x[*from] - amps * ohm;
        }
        if let Some((node, ohm)) = inner[1] {
            x[node] = x[*to] + amps * ohm;
        }
    }
}
