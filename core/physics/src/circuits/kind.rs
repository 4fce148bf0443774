//! What one kind of circuit is to the rest: each kind answers in a file of its own.

use super::fed::Site;
use super::figures::{CircuitError, CircuitFigures, Formula, Spread};
use super::following::{Following, Measures, Pace};
use super::schematic::Schematic;
use super::wanted::{Candidate, ChooseError, Choosing, Wanted};
use crate::transient::{Bipolar, Circuit, Run};
use orthavis_model::document::CircuitParts;

/// Parts at the edge of what is printed on them: all alike for the time, one against the other for the share.
pub(super) struct Edges {
    pub(super) all: [CircuitParts; 2],
    pub(super) one_sided: Option<[CircuitParts; 2]>,
}

pub(super) trait Kind {
    /// It, node by node.
    fn schematic(&self, site: &Site<'_>) -> Schematic;

    /// Everything that is told of it.
    fn figures(&self, following: &Following<'_>) -> Result<CircuitFigures, CircuitError>;

    /// The same from a run that was made already; of flashers.
    fn of_run(&self, following: &Following<'_>, _: &Run<'_>) -> Result<CircuitFigures, CircuitError> {
        self.figures(following)
    }

    /// What it takes itself, A, and what its lights lack of the supply while they are on, V.
    fn draws(&self, site: &Site<'_>, volts: f64) -> (f64, f64);

    /// What its output carries, A.
    fn limit_a(&self) -> f64 {
        Bipolar::MOST_A
    }

    fn pace(&self) -> Pace {
        Pace::USUAL
    }

    /// Makes it quicker to follow where only a sketch is wanted.
    fn sketched(&self, _: &mut Circuit) {}

    /// Measurements of its SPICE text, and how long that runs.
    fn measures(&self, following: &Following<'_>) -> Result<Measures, CircuitError>;

    /// Its closed formulas, beside what was simulated.
    fn formulas(&self, supply_v: f64, found: &CircuitFigures) -> Vec<Formula>;

    /// The edges of its parts, where they decide something.
    fn edges(&self) -> Option<Edges> {
        None
    }

    /// What those make of it.
    fn spreads(&self, _low: &CircuitFigures, _high: &CircuitFigures) -> Vec<Spread> {
        Vec::new()
    }

    /// Standard parts that may give what is wanted.
    fn candidates(&self, case: &Choosing<'_>, wanted: &Wanted) -> Result<Vec<Candidate>, ChooseError>;

    /// How far what was simulated is from what is wanted, with what speaks against these parts.
    fn off_by(&self, figures: &CircuitFigures, wanted: &Wanted, formula: f64) -> Option<(f64, f64)>;

    /// How many candidates are simulated.
    fn short_list(&self) -> usize {
        6
    }
}

/// What these parts are.
pub(super) fn of(parts: &CircuitParts) -> &dyn Kind {
    match parts {
        CircuitParts::TimerFlasher(own) => own,
        CircuitParts::TransistorFlasher(own) => own,
        CircuitParts::BreakdownFlasher(own) => own,
        CircuitParts::HoldUp(own) => own,
        CircuitParts::BatteryGauge(own) => own,
        CircuitParts::Switch(own) => own,
    }
}
