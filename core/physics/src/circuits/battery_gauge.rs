//! Two LEDs that tell how full the battery is.

use super::fed::{Fed, Site};
use super::figures::{Band, CircuitError, CircuitFigures, Formula, LIT_A};
use super::following::{Following, Measures};
use super::kind::Kind;
use super::schematic::{Schematic, led, silicon};
use super::wanted::{Candidate, ChooseError, Choosing, Wanted, ohms, share, within};
use crate::transient::{Bipolar, Element, TransientError};
use orthavis_model::document::BatteryGauge;
use orthavis_model::laws::led::DiodeString;
use orthavis_model::laws::resistor::{self, Series};
use orthavis_model::working::counted;
use std::cell::RefCell;
use std::collections::BTreeMap;

/// It is swept from here on, in steps, V.
const SWEEP: (f64, f64) = (1.8, 0.01);
/// So many of these steps at once.
const STRIDE: usize = 32;
/// What the LED of an empty battery is given, A.
const LOW_A: f64 = 0.004;
/// A base that takes all the current of the other LED, V.
const BASE_V: f64 = 0.62;
/// What a silicon junction keeps while it conducts a little, V.
const JUNCTION_V: f64 = 0.6;

impl Kind for BatteryGauge {
    fn schematic(&self, site: &Site<'_>) -> Schematic {
        let mut s = Schematic::supplied(&site.fed, 1e-3);
        s.circuit.add("rs", &["p", "g"], Element::Resistor(self.rs_ohm));
        let count = self.diodes;
        let end = if count > 0 { "d" } else { "b" };
        s.circuit.add("led_good", &["g", end], led(&self.led_good));
        if count > 0 {
            s.circuit.add("diodes", &["d", "b"], silicon(f64::from(count)));
        }
        s.circuit.add("rb", &["b", "0"], Element::Resistor(self.rb_ohm));
        s.circuit.add("q", &["c", "b", "0"], Element::Bipolar(Bipolar::SMALL_NPN));
        s.circuit.add("rc", &["p", "c"], Element::Resistor(self.rc_ohm));
        s.circuit.add("led_low", &["c", "0"], led(&self.led_low));
        s.lights = vec!["led_good".into(), "led_low".into()];
        s
    }

    fn figures(&self, following: &Following<'_>) -> Result<CircuitFigures, CircuitError> {
        let top = Fed::highest(following.site.build, following.site.own);
        let mut bands: Vec<Band> = Vec::new();
        let steps = ((top - SWEEP.0) / SWEEP.1).round().max(0.0) as usize;
        let volts = |step: usize| (100.0 * (SWEEP.0 + SWEEP.1 * step as f64)).round() / 100.0;
        let known: RefCell<BTreeMap<usize, [f64; 2]>> = RefCell::new(BTreeMap::new());
        let currents = |step: usize| -> Result<[f64; 2], CircuitError> {
            if let Some(amps) = known.borrow().get(&step) {
                return Ok(*amps);
            }
            let (good, low) = self.currents(&following.site, volts(step)).map_err(|error| following.failed(error))?;
            known.borrow_mut().insert(step, [good, low]);
            Ok([good, low])
        };
        let lit = |step: usize| {
            Ok(match currents(step)?.map(|amps| amps >= LIT_A) {
                [false, false] => "none",
                [false, true] => "low",
                [true, true] => "good+low",
                [true, false] => "good",
            })
        };
        // Where both ends of a stride are alike so is all between, unless a current has its most or its least in there.
        let mut stops: Vec<usize> = (0..steps).step_by(STRIDE).chain([steps]).collect();
        let amps: Vec<[f64; 2]> = stops.iter().map(|stop| currents(*stop)).collect::<Result<_, _>>()?;
        for at in 1..stops.len() - 1 {
            for (led, here) in amps[at].into_iter().enumerate() {
                let [before, after] = [amps[at - 1][led], amps[at + 1][led]];
                let sign = if here >= before && here >= after { 1.0 } else { -1.0 };
                if here == before || here == after || (sign < 0.0 && (here > before || here > after)) {
                    continue;
                }
                let (mut from, mut to) = (stops[at - 1], stops[at + 1]);
                while to - from > 2 {
                    let (one, two) = (from + (to - from) / 3, to - (to - from) / 3);
                    if sign * currents(one)?[led] < sign * currents(two)?[led] { from = one } else { to = two }
                }
                stops.push((from + to) / 2);
            }
        }
        stops.sort_unstable();
        stops.dedup();
        let mut from = (0, lit(0)?);
        bands.push(Band { from_v: volts(0), to_v: volts(0), lit: from.1 });
        for to in stops.into_iter().skip(1) {
            loop {
                let mut next = (to, lit(to)?);
                // The last step that is still like the beginning; beyond it the first that is not.
                let mut alike = if next.1 == from.1 { to } else { from.0 };
                while next.1 != from.1 && next.0 - alike > 1 {
                    let middle = alike + (next.0 - alike) / 2;
                    let words = lit(middle)?;
                    if words == from.1 { alike = middle } else { next = (middle, words) }
                }
                if let Some(last) = bands.last_mut() {
                    last.to_v = volts(alike);
                }
                if next.1 != from.1 {
                    bands.push(Band { from_v: volts(next.0), to_v: volts(next.0), lit: next.1 });
                }
                from = next;
                if from.0 == to {
                    break;
                }
            }
        }
        let run = following.schematic.circuit.rest().map_err(|error| following.failed(error))?;
        let amps = run.current("supply").value[0];
        Ok(CircuitFigures { bands, supply_mean_a: Some(amps), supply_peak_a: Some(amps), ..CircuitFigures::default() })
    }

    fn draws(&self, site: &Site<'_>, _: f64) -> (f64, f64) {
        let run = self.schematic(site);
        let drawn = run.circuit.rest().ok().and_then(|run| run.current("supply").value.first().copied());
        (drawn.unwrap_or(0.0), 0.0)
    }

    fn measures(&self, following: &Following<'_>) -> Result<Measures, CircuitError> {
        Ok(Measures::at_rest(following, &[]))
    }

    fn formulas(&self, _: f64, found: &CircuitFigures) -> Vec<Formula> {
        let begins = found.bands.iter().find(|band| band.lit.contains("good")).map(|band| band.from_v);
        let value = self.led_good.vf_v + JUNCTION_V * f64::from(self.diodes) + JUNCTION_V;
        let line = begins.map(|simulated| Formula {
            called: "The good LED begins",
            formula: "V = V_f + 0.6 V · (diodes + 1)",
            value,
            simulated,
            unit: "V",
            why: "An LED that only begins to shine takes less than its printed voltage.",
        });
        line.into_iter().collect()
    }

    fn candidates(&self, case: &Choosing<'_>, wanted: &Wanted) -> Result<Vec<Candidate>, ChooseError> {
        let supply_v = case.site.fed.emf_v;
        let low = within("low_below_v", wanted.low_below_v, 1.0, 60.0, "V")?;
        let good = within("good_above_v", wanted.good_above_v, low + 0.1, 61.0, "V")?;
        let (led_good, led_low) = (&self.led_good, &self.led_low);
        let row = |count: u32| DiodeString::new(led_good, count, 0.0);
        let silicon = |amps: f64| 1.8 * 0.02585 * (amps / 5e-9_f64).ln();
        let mut rough = Vec::new();
        for diodes in 0..=12_u32 {
            let rest_v = |amps: f64| row(1).voltage(amps) + f64::from(diodes) * silicon(amps);
            for rb in Series::E12.between(100.0, 2.2e3) {
                let full_a = BASE_V / rb;
                for rs in Series::E12.between(47.0, 10e3) {
                    let begins = LIT_A * (rs + rb) + rest_v(LIT_A);
                    let ends = full_a * rs + rest_v(full_a) + BASE_V;
                    let most_a = (supply_v - rest_v(led_good.if_a) - BASE_V) / rs;
                    if most_a > led_good.if_a {
                        continue;
                    }
                    rough.push(((begins - low).abs() + (ends - good).abs(), diodes, rs, rb));
                }
            }
        }
        rough.sort_by(|a, b| a.0.total_cmp(&b.0));
        let rc = resistor::above(Series::E12, ((low - led_low.vf_v).max(0.3) / LOW_A).max((supply_v - led_low.vf_v) / led_low.if_a));
        let mut found = Vec::new();
        for (_, diodes, rs, rb) in rough.into_iter().take(self.short_list()) {
            let parts = BatteryGauge { rs_ohm: rs, rb_ohm: rb, rc_ohm: rc, diodes, ..self.clone() };
            let Some((begins, ends)) = parts.thresholds(&case.site, (low, good)) else { continue };
            let behind = counted(diodes, "diode");
            let title = format!("Rs {}, Rb {}, Rc {}, {behind}", ohms(rs), ohms(rb), ohms(rc));
            found.push(Candidate { off: share(begins, low) + share(ends, good), parts: parts.into(), title });
        }
        Ok(found)
    }

    /// Found exactly already.
    fn off_by(&self, _: &CircuitFigures, _: &Wanted, formula: f64) -> Option<(f64, f64)> {
        Some((formula, 0.0))
    }
}

/// What it has of its own.
trait Gauge {
    fn currents(&self, site: &Site<'_>, volts: f64) -> Result<(f64, f64), TransientError>;
    fn thresholds(&self, site: &Site<'_>, around_v: (f64, f64)) -> Option<(f64, f64)>;
}

impl Gauge for BatteryGauge {
    /// Currents through the good and the low LED at a voltage, A.
    fn currents(&self, site: &Site<'_>, volts: f64) -> Result<(f64, f64), TransientError> {
        let schematic = self.schematic(&site.fed_with(volts));
        let run = schematic.circuit.rest()?;
        Ok((run.current("led_good").value[0], run.current("led_low").value[0]))
    }

    /// Where the good LED begins and where the low one ends, V, by halving.
    fn thresholds(&self, site: &Site<'_>, around_v: (f64, f64)) -> Option<(f64, f64)> {
        let lit = |volts: f64| self.currents(site, volts).ok();
        let search = |holds: &dyn Fn((f64, f64)) -> bool, (mut low, mut high): (f64, f64)| {
            if holds(lit(low)?) || !holds(lit(high)?) {
                return None;
            }
            for _ in 0..8 {
                let middle = 0.5 * (low + high);
                if holds(lit(middle)?) { high = middle } else { low = middle }
            }
            Some(0.5 * (low + high))
        };
        let span = (around_v.0 - 3.0).max(0.5);
        let begins = search(&|(good, _)| good >= LIT_A, (span, around_v.1 + 3.0))?;
        let ends = search(&|(_, low)| low < LIT_A, (begins, around_v.1 + 6.0))?;
        Some((begins, ends))
    }
}
