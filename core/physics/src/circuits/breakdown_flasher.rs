//! A transistor used backwards, which breaks down and lets go.

use super::fed::Site;
use super::figures::{CircuitError, CircuitFigures, Formula, Spread};
use super::flashing::{off, period_spread, starts};
use super::following::{Following, Measures};
use super::kind::{Edges, Kind};
use super::schematic::{NOTHING_OHM, OFF_OHM, Schematic};
use super::wanted::{Candidate, ChooseError, Choosing, Wanted, around, awkward, capacitors, farads, ohms, share, within};
use crate::transient::{Element, Run};
use orthavis_model::document::BreakdownFlasher;
use orthavis_model::laws::resistor::Series;
use orthavis_model::practice::RESISTOR_OFF;

/// Of the closed switch, ohm.
const BREAKS_OHM: f64 = 20.0;

impl Kind for BreakdownFlasher {
    fn schematic(&self, site: &Site<'_>) -> Schematic {
        let (r, c, volts) = (self.r_ohm, self.c_f, site.fed.emf_v);
        let (fires, lets_go) = (self.fire_v, self.let_go_v);
        let share = ((volts - lets_go) / (volts - fires)).max(1.0001);
        let mut s = Schematic::supplied(&site.fed, r * c * share.ln().clamp(1e-3, 20.0));
        s.circuit.add("r", &["p", "n"], Element::Resistor(r));
        s.circuit.add("c", &["n", "0"], Element::Capacitor(c, Some(lets_go.min(volts))));
        s.circuit.add("breaks", &["n", "l", "n", "0"], Element::Switch { on_v: fires, off_v: lets_go, on_ohm: BREAKS_OHM, off_ohm: OFF_OHM });
        s.drive(site.build, &site.driven, "l", "0");
        if site.driven.is_empty() {
            s.circuit.add("nothing", &["l", "0"], Element::Resistor(NOTHING_OHM));
        }
        s.circuit.add("idle", &["l", "0"], Element::Resistor(1e9));
        // The light follows the switch: its own node jumps up as it fires.
        (s.watched, s.level_v) = ("l".into(), 0.25 * lets_go);
        if volts <= fires {
            s.cannot_start = Some(format!("it fires at {fires} V and never gets above {volts:.1} V; use a timer instead"));
        }
        s
    }

    fn figures(&self, following: &Following<'_>) -> Result<CircuitFigures, CircuitError> {
        self.of_run(following, &starts(following)?)
    }

    fn of_run(&self, following: &Following<'_>, run: &Run<'_>) -> Result<CircuitFigures, CircuitError> {
        following.flashes(run, |_, _| ())
    }

    /// Its lights get what its capacitor holds between firing and letting go.
    fn draws(&self, _: &Site<'_>, volts: f64) -> (f64, f64) {
        (0.0, (volts - 0.5 * (self.fire_v + self.let_go_v)).max(0.0))
    }

    fn measures(&self, following: &Following<'_>) -> Result<Measures, CircuitError> {
        following.flash_measures()
    }

    fn formulas(&self, supply_v: f64, found: &CircuitFigures) -> Vec<Formula> {
        let value = self.r_ohm * self.c_f * ((supply_v - self.let_go_v) / (supply_v - self.fire_v)).max(1.0).ln();
        let line = found.period_s.map(|simulated| Formula {
            called: "From one flash to the next",
            formula: "T = R · C · ln((V − V_letgo) / (V − V_fire))",
            value,
            simulated,
            unit: "s",
            why: "The formula forgets the flash itself. Real transistors differ by a volt from one to the next; a timer does not.",
        });
        line.into_iter().collect()
    }

    fn edges(&self) -> Option<Edges> {
        let edge = |up: bool| {
            let share = if up { 1.0 + RESISTOR_OFF } else { 1.0 - RESISTOR_OFF };
            BreakdownFlasher { r_ohm: share * self.r_ohm, c_f: off(self.c_f, up) * self.c_f, ..self.clone() }.into()
        };
        Some(Edges { all: [false, true].map(edge), one_sided: None })
    }

    fn spreads(&self, low: &CircuitFigures, high: &CircuitFigures) -> Vec<Spread> {
        period_spread(low, high)
    }

    fn candidates(&self, case: &Choosing<'_>, wanted: &Wanted) -> Result<Vec<Candidate>, ChooseError> {
        let period = within("period_s", wanted.period_s, 0.01, 60.0, "s")?;
        let (ohm, farad) = (4.7e3, 1e-4);
        let known = case.simulated(BreakdownFlasher { r_ohm: ohm, c_f: farad, ..self.clone() }.into())?;
        let k = known.period_s.unwrap_or(1.0) / (ohm * farad);
        let mut found = Vec::new();
        for c in capacitors(1e-5, 2.2e-3) {
            for r in around(Series::E24, period / (k * c)).into_iter().filter(|r| (470.0..=100e3).contains(r)) {
                let parts = BreakdownFlasher { r_ohm: r, c_f: c, ..self.clone() }.into();
                found.push(Candidate { off: share(k * r * c, period) + awkward(r, c), parts, title: format!("R {}, C {}", ohms(r), farads(c)) });
            }
        }
        Ok(found)
    }

    fn off_by(&self, figures: &CircuitFigures, wanted: &Wanted, _: f64) -> Option<(f64, f64)> {
        Some((share(figures.period_s?, wanted.period_s?), awkward(self.r_ohm, self.c_f)))
    }
}
