//! A timer that flashes what hangs on its output.

use super::fed::Site;
use super::figures::{CircuitError, CircuitFigures, Formula, Spread};
use super::flashing::{flash_formulas, off, period_spread, starts};
use super::following::{Following, Measures};
use super::kind::{Edges, Kind};
use super::schematic::{Schematic, gate, silicon};
use super::steady::SATURATED_V;
use super::wanted::{Candidate, ChooseError, Choosing, TIMING_OHM, Wanted, around, awkward, capacitors, farads, ohms, share, within};
use crate::transient::{Bipolar, Element, Run, Timer};
use orthavis_model::document::{Through, TimerFlasher, TimerKind};
use orthavis_model::laws::resistor::Series;
use orthavis_model::practice::RESISTOR_OFF;
use std::f64::consts::LN_2;

fn data(kind: TimerKind) -> Timer {
    match kind {
        TimerKind::Bipolar => Timer::BIPOLAR,
        TimerKind::Cmos => Timer::CMOS,
    }
}

impl Kind for TimerFlasher {
    fn schematic(&self, site: &Site<'_>) -> Schematic {
        let (ra, rb, c, volts) = (self.ra_ohm, self.rb_ohm, self.c_f, site.fed.emf_v);
        let timer = data(self.timer);
        let mut s = Schematic::supplied(&site.fed, LN_2 * c * (ra + 2.0 * rb));
        s.circuit.add("ra", &["p", "dis"], Element::Resistor(ra));
        s.circuit.add("rb", &["dis", "thr"], Element::Resistor(rb));
        if self.diode {
            s.circuit.add("diode", &["dis", "thr"], silicon(1.0));
        }
        s.circuit.add("c", &["thr", "0"], Element::Capacitor(c, Some(0.0)));
        s.circuit.add("timer", &["p", "0", "thr", "dis", "out"], Element::Timer(timer));
        match self.through {
            Through::None => s.drive(site.build, &site.driven, "out", "0"),
            Through::Npn => {
                s.circuit.add("base", &["out", "b"], Element::Resistor(self.base_ohm.unwrap_or(1.0)));
                s.circuit.add("q", &["c", "b", "0"], Element::Bipolar(Bipolar::SMALL_NPN));
                s.collector = Some("c".into());
                s.drive(site.build, &site.driven, "p", "c");
            }
            Through::Mosfet => {
                s.circuit.add("gate", &["c", "0", "out", "0"], gate());
                s.drive(site.build, &site.driven, "p", "c");
            }
        }
        // Its output hangs in the air where it drives nothing.
        s.circuit.add("idle", &["out", "0"], Element::Resistor(1e6));
        (s.watched, s.level_v) = ("out".into(), 0.4 * volts);
        if volts < timer.supply_v[0] {
            s.cannot_start = Some(format!("its timer wants {} V and gets {volts:.1} V; take the CMOS kind or more cells", timer.supply_v[0]));
        }
        s
    }

    fn figures(&self, following: &Following<'_>) -> Result<CircuitFigures, CircuitError> {
        self.of_run(following, &starts(following)?)
    }

    fn of_run(&self, following: &Following<'_>, run: &Run<'_>) -> Result<CircuitFigures, CircuitError> {
        following.flashes(run, |flashes, found| found.output_peak_a = Some(flashes.current("timer").peak()))
    }

    fn draws(&self, _: &Site<'_>, volts: f64) -> (f64, f64) {
        let timer = data(self.timer);
        // Of the time off the upper resistor feeds the discharge pin.
        let own_a = timer.idle_a + volts / self.ra_ohm * self.rb_ohm / (self.ra_ohm + 2.0 * self.rb_ohm);
        let kept_v = match self.through {
            Through::None => timer.high_drop_v,
            Through::Npn => SATURATED_V,
            Through::Mosfet => 0.0,
        };
        (own_a, kept_v)
    }

    fn limit_a(&self) -> f64 {
        match self.through {
            Through::None => data(self.timer).most_a,
            Through::Npn => Bipolar::MOST_A,
            Through::Mosfet => f64::INFINITY,
        }
    }

    fn measures(&self, following: &Following<'_>) -> Result<Measures, CircuitError> {
        following.flash_measures()
    }

    fn formulas(&self, _: f64, found: &CircuitFigures) -> Vec<Formula> {
        let (ra, rb, c) = (self.ra_ohm, self.rb_ohm, self.c_f);
        if self.diode {
            let why = "The diode keeps some 0.6 V, so that filling takes longer than the formula says; less so on more volts.";
            flash_formulas(found, ("T = 0.693 · C · (Ra + Rb)", LN_2 * c * (ra + rb)), ("t_on = 0.693 · C · Ra", LN_2 * c * ra), why)
        } else {
            let why = "The discharge pin has some 10 Ω of its own.";
            let (period, on) = (LN_2 * c * (ra + 2.0 * rb), LN_2 * c * (ra + rb));
            flash_formulas(found, ("T = 0.693 · C · (Ra + 2 Rb)", period), ("t_on = 0.693 · C · (Ra + Rb)", on), why)
        }
    }

    fn edges(&self) -> Option<Edges> {
        let edge = |ra: f64, rb: f64, c: f64| TimerFlasher { ra_ohm: ra * self.ra_ohm, rb_ohm: rb * self.rb_ohm, c_f: c * self.c_f, ..self.clone() }.into();
        let (least, most) = (1.0 - RESISTOR_OFF, 1.0 + RESISTOR_OFF);
        let all = [edge(least, least, off(self.c_f, false)), edge(most, most, off(self.c_f, true))];
        Some(Edges { all, one_sided: Some([edge(least, most, 1.0), edge(most, least, 1.0)]) })
    }

    fn spreads(&self, low: &CircuitFigures, high: &CircuitFigures) -> Vec<Spread> {
        period_spread(low, high)
    }

    fn candidates(&self, case: &Choosing<'_>, wanted: &Wanted) -> Result<Vec<Candidate>, ChooseError> {
        let period = within("period_s", wanted.period_s, 1e-3, 600.0, "s")?;
        let duty = within("duty", wanted.duty.or(Some(0.5)), 0.02, 0.98, "1")?;
        // Without a diode it fills through more than it empties through.
        let diode = duty < 0.56;
        let (on, off) = (duty * period, (1.0 - duty) * period);
        // What the formula forgets depends on the voltage alone, nearly.
        let (ohm, farad) = (47e3, 1e-6);
        let known = case.simulated(TimerFlasher { ra_ohm: ohm, rb_ohm: ohm, c_f: farad, diode, ..self.clone() }.into())?;
        let (got, got_on) = (known.period_s.unwrap_or(1.0), known.on_s.unwrap_or(0.5));
        let (k_on, k_off) = (got_on / (LN_2 * farad * if diode { ohm } else { 2.0 * ohm }), (got - got_on) / (LN_2 * farad * ohm));
        let mut found = Vec::new();
        for c in capacitors(1e-9, 2.2e-3) {
            let rb_wanted = off / (LN_2 * c * k_off);
            let ra_wanted = on / (LN_2 * c * k_on) - if diode { 0.0 } else { rb_wanted };
            if rb_wanted < TIMING_OHM.0 || ra_wanted < TIMING_OHM.0 || rb_wanted > TIMING_OHM.1 || ra_wanted > TIMING_OHM.1 {
                continue;
            }
            for rb in around(Series::E24, rb_wanted) {
                for ra in around(Series::E24, ra_wanted) {
                    let got_on = LN_2 * c * k_on * if diode { ra } else { ra + rb };
                    let got = got_on + LN_2 * c * k_off * rb;
                    let parts = TimerFlasher { ra_ohm: ra, rb_ohm: rb, c_f: c, diode, ..self.clone() }.into();
                    let title = format!("Ra {}, Rb {}, C {}{}", ohms(ra), ohms(rb), farads(c), if diode { ", a diode across Rb" } else { "" });
                    found.push(Candidate { off: share(got, period) + (got_on / got - duty).abs() + awkward(ra.max(rb), c), parts, title });
                }
            }
        }
        Ok(found)
    }

    fn off_by(&self, figures: &CircuitFigures, wanted: &Wanted, _: f64) -> Option<(f64, f64)> {
        let off = share(figures.period_s?, wanted.period_s?) + wanted.duty.map_or(0.0, |wanted| (figures.duty.unwrap_or(0.0) - wanted).abs());
        Some((off, awkward(self.ra_ohm.max(self.rb_ohm), self.c_f)))
    }
}
