//! A transistor that a controller's pin switches.

use super::fed::Site;
use super::figures::{CircuitError, CircuitFigures, Formula};
use super::flashing::SATURATED_BELOW_V;
use super::following::{Following, Measures};
use super::kind::Kind;
use super::schematic::{NOTHING_OHM, Schematic, gate};
use super::steady;
use super::wanted::{Candidate, ChooseError, Choosing, Wanted, ohms};
use crate::transient::{Bipolar, Element, Wave};
use orthavis_model::document::{PinSwitch, Transistor};
use orthavis_model::laws::resistor::{self, Series};

/// Time that a saturated transistor takes to let go (representative), s, and charge of a small gate, C.
const LETS_GO_S: f64 = 2e-6;
const GATE_C: f64 = 1e-8;
/// Share of a period that may be lost to switching.
const LOST: f64 = 0.01;
/// Into a saturated small transistor a tenth of what it carries.
const BASE_SHARE: [f64; 3] = [10.0, 20.0, 30.0];
/// A pin gives this much (representative), A.
const PIN_A: f64 = 0.02;

impl Kind for PinSwitch {
    fn schematic(&self, site: &Site<'_>) -> Schematic {
        let mut s = Schematic::supplied(&site.fed, 1e-3);
        s.circuit.add("pin", &["logic", "0"], Element::Voltage(Wave::Constant(self.logic_v)));
        s.circuit.add("base", &["logic", "b"], Element::Resistor(self.base_ohm));
        if self.through == Transistor::Mosfet {
            s.circuit.add("gate", &["c", "0", "b", "0"], gate());
            s.circuit.add("held", &["b", "0"], Element::Resistor(1e6));
        } else {
            s.circuit.add("q", &["c", "b", "0"], Element::Bipolar(Bipolar::SMALL_NPN));
            s.collector = Some("c".into());
        }
        s.drive(site.build, &site.driven, "p", "c");
        if site.driven.is_empty() {
            s.circuit.add("nothing", &["p", "c"], Element::Resistor(NOTHING_OHM));
        }
        s
    }

    fn figures(&self, following: &Following<'_>) -> Result<CircuitFigures, CircuitError> {
        let run = following.schematic.circuit.rest().map_err(|error| following.failed(error))?;
        let drop_v = run.node("c").value[0];
        let amps: f64 = following.schematic.lights.iter().map(|name| run.current(name).value[0]).sum();
        let (edge_s, part, saturated) = match self.through {
            Transistor::Npn => (LETS_GO_S, "q", drop_v < SATURATED_BELOW_V),
            Transistor::Mosfet => (GATE_C * self.base_ohm / self.logic_v, "gate", true),
        };
        Ok(CircuitFigures {
            supply_mean_a: Some(run.current("supply").value[0]),
            supply_peak_a: Some(run.current("supply").value[0]),
            light_peak_a: Some(amps),
            drop_v: Some(drop_v),
            saturated: Some(saturated),
            pin_a: Some(run.current("base").value[0]),
            heat_w: Some(run.power(part).value[0]),
            pwm_hz: Some(LOST / edge_s),
            ..CircuitFigures::default()
        })
    }

    fn draws(&self, _: &Site<'_>, _: f64) -> (f64, f64) {
        match self.through {
            Transistor::Npn => (0.0, steady::SATURATED_V),
            Transistor::Mosfet => (0.0, 0.0),
        }
    }

    fn limit_a(&self) -> f64 {
        match self.through {
            Transistor::Npn => Bipolar::MOST_A,
            Transistor::Mosfet => f64::INFINITY,
        }
    }

    fn measures(&self, following: &Following<'_>) -> Result<Measures, CircuitError> {
        Ok(Measures::at_rest(following, &[("drop_v", "v(c)")]))
    }

    fn formulas(&self, _: f64, found: &CircuitFigures) -> Vec<Formula> {
        let Some(simulated) = found.pin_a else { return Vec::new() };
        let (value, formula) = match self.through {
            Transistor::Npn => ((self.logic_v - 0.7) / self.base_ohm, "I = (V_pin − 0.7 V) / R"),
            Transistor::Mosfet => (0.0, "I = 0: a gate takes none"),
        };
        let why = "A base takes a little less or more than 0.7 V, by its current.";
        vec![Formula { called: "From the pin", formula, value, simulated, unit: "A", why }]
    }

    fn candidates(&self, case: &Choosing<'_>, _: &Wanted) -> Result<Vec<Candidate>, ChooseError> {
        let logic_v = self.logic_v;
        if self.through == Transistor::Mosfet {
            // Enough to spare the pin the gate's charge, little enough to switch fast.
            let values = [100.0, 220.0, 470.0].into_iter().enumerate();
            return Ok(values
                .map(|(rank, ohm)| {
                    let parts = PinSwitch { base_ohm: ohm, ..self.clone() }.into();
                    Candidate { off: rank as f64, parts, title: format!("{} at the gate", ohms(ohm)) }
                })
                .collect());
        }
        let known = case.simulated(PinSwitch { base_ohm: 100.0, ..self.clone() }.into())?;
        let amps = known.light_peak_a.unwrap_or(0.0);
        let mut found = Vec::new();
        for (rank, gain) in BASE_SHARE.into_iter().enumerate() {
            let base_a = (amps / gain).min(PIN_A);
            let ohm = resistor::above(Series::E24, ((logic_v - 0.7).max(0.1) / base_a.max(1e-4)).min(100e3));
            let parts = PinSwitch { base_ohm: ohm, ..self.clone() }.into();
            found.push(Candidate { off: rank as f64, parts, title: format!("{} at the base", ohms(ohm)) });
        }
        Ok(found)
    }

    /// Found exactly already.
    fn off_by(&self, _: &CircuitFigures, _: &Wanted, formula: f64) -> Option<(f64, f64)> {
        Some((formula, 0.0))
    }
}
