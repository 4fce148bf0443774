//! Elements that are no longer what the document says: a fault, a worn part, a measured figure.

use super::*;
use orthavis_model::document::LedArray;

/// One of the two conductors of a feed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Side {
    /// From the supply's plus to the consumer.
    Plus,
    /// From the consumer back.
    Minus,
}

impl Side {
    fn index(self) -> usize {
        match self {
            Side::Plus => 0,
            Side::Minus => 1,
        }
    }
}

/// Resistance in one rail of a strip or of pixels between two of its taps. It changes how the network hangs together, so
/// it is said when that is made.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct RailCut {
    /// The light, by its place in the document.
    pub light: usize,
    /// The tap before the cut, counted from its start.
    pub tap: usize,
    /// Which rail.
    pub side: Side,
    /// What is in the way, ohm: 1e9 for a cut.
    pub ohm: f64,
}

/// What becomes of one element. Feeds go by their place in [`Build::feeds`], parts by theirs in the document.
#[derive(Clone, Debug)]
pub enum Change {
    /// Resistance that comes in addition in one conductor, ohm: a weak joint, or 1e9 for one that is open.
    InSeries {
        /// Which feed.
        feed: usize,
        /// Which of its conductors.
        side: Side,
        /// How much.
        ohm: f64,
    },
    /// A resistance between the terminals of what a feed feeds, ohm: a short, or what keeps them from floating.
    Across {
        /// Which feed.
        feed: usize,
        /// How much.
        ohm: f64,
    },
    /// A converter with other figures. One that needs infinite input never runs.
    Converter {
        /// Which.
        index: usize,
        /// What it is now.
        part: Box<Converter>,
    },
    /// A light whose load blocks but for a leak, ohm at its terminals.
    Dead {
        /// Which light.
        light: usize,
        /// What still leaks.
        ohm: f64,
    },
    /// A current that an instrument drives out of one place into another, A.
    Inject {
        /// Where it comes in.
        into: Terminal,
        /// Where it goes out.
        out_of: Terminal,
        /// How much.
        amps: f64,
    },
    /// An LED array whose strings are no longer alike; those that are open are left out.
    Strings {
        /// Which light.
        light: usize,
        /// Each string that conducts, as an array of one.
        strings: Vec<LedArray>,
    },
}

impl Network {
    /// Overrides one element. The order of elimination stays.
    pub fn change(&mut self, change: &Change) {
        if let Change::Inject { into, out_of, amps } = change {
            let ends = [(self.node_at(*into), *amps), (self.node_at(*out_of), -amps)];
            self.values.injected.extend(ends.map(|(node, amps)| (node.flatten(), amps)));
            return;
        }
        let values = &mut self.values;
        match change {
            Change::InSeries { feed, side, ohm } => values.ohms[2 * feed + side.index()] += ohm,
            Change::Across { feed, ohm } => values.across.push((*feed, 1.0 / ohm)),
            Change::Converter { index, part } => values.converters[*index].clone_from(part),
            Change::Inject { .. } => {}
            Change::Dead { light, ohm } => values.laws[*light] = Law::Dead(1.0 / ohm),
            Change::Strings { light, strings } => {
                if let Law::Strings { rows, .. } = &mut values.laws[*light] {
                    *rows = strings.iter().map(|one| Row { string: DiodeString::of_array(one), count: 1.0 }).collect();
                }
            }
        }
    }

    /// Takes over every element of another network of the same wiring.
    pub fn clone_values(&mut self, other: &Network) {
        self.values.clone_from(&other.values);
    }

    /// Puts every element back as the document has it.
    pub fn restore(&mut self) {
        self.values.clone_from(&self.given);
    }

    /// Resistance of one conductor as it is now, ohm.
    pub fn conductor_ohm(&self, feed: usize, side: Side) -> f64 {
        self.values.ohms[2 * feed + side.index()]
    }
}
