//! Two transistors that switch each other.

use super::fed::Site;
use super::figures::{CircuitError, CircuitFigures, Formula, Spread};
use super::flashing::{flash_formulas, off, period_spread, starts};
use super::following::{Following, Measures, Pace};
use super::kind::{Edges, Kind};
use super::schematic::{NOTHING_OHM, Schematic};
use super::steady::SATURATED_V;
use super::wanted::{Candidate, ChooseError, Choosing, TIMING_OHM, Wanted, around, awkward, capacitors, farads, ohms, share, within};
use crate::transient::{Bipolar, Circuit, Element, Run};
use orthavis_model::document::{Light, Load, TransistorFlasher};
use orthavis_model::laws::led::DiodeString;
use orthavis_model::laws::resistor::Series;
use orthavis_model::practice::RESISTOR_OFF;
use std::f64::consts::LN_2;

/// An LED that begins to shine takes this much, A.
const BEGINS_A: f64 = 1e-4;
/// A base that carries something, V.
const KNEE_V: f64 = 0.7;
/// Capacitance of a small transistor's base to emitter and to collector, F: representative.
const JUNCTION_F: (f64, f64) = (2e-11, 5e-12);
/// Its transistors, each with the capacitors of its junctions.
const TRANSISTORS: [(&str, [&str; 2]); 2] = [("q1", ["q1_be", "q1_bc"]), ("q2", ["q2_be", "q2_bc"])];
/// A junction of a sketch holds this share of what its flasher's capacitors do.
const SKETCHED_JUNCTION: f64 = 3e-4;
/// A tenth of the gain is counted on.
const FORCED_GAIN: f64 = 25.0;
/// What flashes faster than this share of its formula does not fill its capacitors.
const HURRIED: f64 = 0.8;

impl Kind for TransistorFlasher {
    fn schematic(&self, site: &Site<'_>) -> Schematic {
        let (r1, r2, c1, c2, volts) = (self.r1_ohm, self.r2_ohm, self.c1_f, self.c2_f, site.fed.emf_v);
        let mut s = Schematic::supplied(&site.fed, LN_2 * (r1 * c1 + r2 * c2));
        s.circuit.add("r1", &["p", "b1"], Element::Resistor(r1));
        s.circuit.add("r2", &["p", "b2"], Element::Resistor(r2));
        // What a light keeps when it hardly shines.
        let kept = site.driven.first().map_or(0.0, |light| match &light.load {
            Load::LedArray(array) => DiodeString::of_array(array).voltage(BEGINS_A),
            Load::Strip(strip) => DiodeString::of_segment(strip).voltage(BEGINS_A),
            Load::Pixels(_) | Load::Module(_) => 0.0,
        });
        // The first transistor has just come on, and the other side's capacitor is as full as it gets.
        s.circuit.add("c1", &["c2", "b1"], Element::Capacitor(c1, Some(0.0)));
        s.circuit.add("c2", &["c1", "b2"], Element::Capacitor(c2, Some((volts - kept - KNEE_V).min(6.0).max(0.1 * volts))));
        for ((q, [be, bc]), [c, b]) in TRANSISTORS.into_iter().zip([["c1", "b1"], ["c2", "b2"]]) {
            s.circuit.add(q, &[c, b, "0"], Element::Bipolar(Bipolar::SMALL_NPN));
            // Without them each would switch the other in no time at all, which nothing can follow.
            s.circuit.add(be, &[b, "0"], Element::Capacitor(JUNCTION_F.0, None));
            s.circuit.add(bc, &[c, b], Element::Capacitor(JUNCTION_F.1, None));
        }
        for (side, node) in ["c1", "c2"].into_iter().enumerate() {
            match site.driven.get(side) {
                Some(light) => s.drive(site.build, &[*light], "p", node),
                None => s.circuit.add(&format!("nothing{}", side + 1), &["p", node], Element::Resistor(NOTHING_OHM)),
            }
        }
        // On is what carries half of its current: while the capacitor fills again through a light, that dies away.
        let level_v = 0.5 * (volts - kept).max(0.2 * volts);
        (s.watched, s.level_v, s.on_when_low, s.collector) = ("c1".into(), level_v, true, Some("c1".into()));
        s
    }

    fn figures(&self, following: &Following<'_>) -> Result<CircuitFigures, CircuitError> {
        self.of_run(following, &starts(following)?)
    }

    fn of_run(&self, following: &Following<'_>, run: &Run<'_>) -> Result<CircuitFigures, CircuitError> {
        following.flashes(run, |flashes, found| found.base_least_v = Some(flashes.node("b1").least().min(flashes.node("b2").least())))
    }

    fn draws(&self, site: &Site<'_>, volts: f64) -> (f64, f64) {
        let nothing = site.own.drives.len().saturating_sub(2) as f64;
        (volts / self.r1_ohm + volts / self.r2_ohm + 0.5 * nothing * volts / 1000.0, SATURATED_V)
    }

    /// It is back where it was after one period, and takes ten times as long to follow as a timer. Where one half is far
    /// longer than the other it takes some until they repeat, and each is told less exactly.
    fn pace(&self) -> Pace {
        let (one, two) = (self.r1_ohm * self.c1_f, self.r2_ohm * self.c2_f);
        let settling = (one.max(two) > 2.0 * one.min(two)).then_some((10, 8.0, 6));
        Pace { periods: 2.2, measured: 1, flashes: Some(3), settling }
    }

    /// What junctions hold decides how sharply it flips, which nobody sees in a sketch, and most of the work is there.
    fn sketched(&self, circuit: &mut Circuit) {
        let least = SKETCHED_JUNCTION * self.c1_f.min(self.c2_f);
        for part in circuit.parts.iter_mut().filter(|part| TRANSISTORS.iter().any(|(_, junctions)| junctions.contains(&part.name.as_str()))) {
            if let Element::Capacitor(farad, _) = &mut part.element {
                *farad = farad.max(least);
            }
        }
    }

    fn measures(&self, following: &Following<'_>) -> Result<Measures, CircuitError> {
        following.flash_measures()
    }

    fn formulas(&self, _: f64, found: &CircuitFigures) -> Vec<Formula> {
        let (a, b) = (self.r1_ohm * self.c1_f, self.r2_ohm * self.c2_f);
        let why = if found.base_least_v.is_some_and(|volts| volts < -6.9) {
            "A base breaks down backwards at some 7 V and eats into its capacitor's charge, so that it flashes faster. A diode in each base lead cures it."
        } else if found.period_s.is_some_and(|period| period < HURRIED * LN_2 * (a + b)) {
            "A capacitor does not fill again in the time of the other half, so that it flashes faster. Make the halves more alike."
        } else {
            "The formula forgets the 0.6 V of a base and what a light keeps for itself."
        };
        flash_formulas(found, ("T = 0.693 · (R1 · C1 + R2 · C2)", LN_2 * (a + b)), ("t_on = 0.693 · R2 · C2", LN_2 * b), why)
    }

    fn edges(&self) -> Option<Edges> {
        let edge = |one: (f64, f64), two: (f64, f64)| {
            let (r1_ohm, r2_ohm) = (one.0 * self.r1_ohm, two.0 * self.r2_ohm);
            TransistorFlasher { r1_ohm, r2_ohm, c1_f: one.1 * self.c1_f, c2_f: two.1 * self.c2_f }.into()
        };
        let side = |farad: f64, up: bool| (if up { 1.0 + RESISTOR_OFF } else { 1.0 - RESISTOR_OFF }, off(farad, up));
        let all = [false, true].map(|up| edge(side(self.c1_f, up), side(self.c2_f, up)));
        Some(Edges { all, one_sided: Some([false, true].map(|up| edge(side(self.c1_f, !up), side(self.c2_f, up)))) })
    }

    fn spreads(&self, low: &CircuitFigures, high: &CircuitFigures) -> Vec<Spread> {
        period_spread(low, high)
    }

    fn candidates(&self, case: &Choosing<'_>, wanted: &Wanted) -> Result<Vec<Candidate>, ChooseError> {
        let period = within("period_s", wanted.period_s, 1e-3, 600.0, "s")?;
        let duty = within("duty", wanted.duty.or(Some(0.5)), 0.05, 0.95, "1")?;
        let supply_v = case.site.fed.emf_v;
        let carried = case.site.driven.iter().map(|light| light_a(light, supply_v)).fold(supply_v / 1000.0, f64::max);
        // More than this and the base no longer holds the transistor down.
        let most = FORCED_GAIN * (supply_v - 0.7).max(0.1) / carried;
        // One like those that are looked for tells what the formula forgets.
        let (longest, shortest) = (duty.max(1.0 - duty) * period / LN_2, duty.min(1.0 - duty) * period / LN_2);
        let fits: Vec<f64> = capacitors(1e-8, 4.7e-3).into_iter().filter(|c| longest / c <= most && shortest / c >= TIMING_OHM.0).collect();
        let Some(farad) = fits.get(fits.len() / 4).copied() else { return Ok(Vec::new()) };
        let (r1, r2) = ((1.0 - duty) * period / (LN_2 * farad), duty * period / (LN_2 * farad));
        let known = case.simulated(TransistorFlasher { r1_ohm: r1, r2_ohm: r2, c1_f: farad, c2_f: farad }.into())?;
        let (got, got_on) = (known.period_s.unwrap_or(1.0), known.on_s.unwrap_or(0.5));
        let (k_on, k_off) = (got_on / (LN_2 * farad * r2), (got - got_on) / (LN_2 * farad * r1));
        let mut found = Vec::new();
        for c in capacitors(1e-8, 4.7e-3) {
            let (r1, r2) = ((1.0 - duty) * period / (LN_2 * c * k_off), duty * period / (LN_2 * c * k_on));
            if r1.min(r2) < TIMING_OHM.0 || r1.max(r2) > most {
                continue;
            }
            for r1 in around(Series::E24, r1) {
                for r2 in around(Series::E24, r2) {
                    let (off, on) = (LN_2 * c * k_off * r1, LN_2 * c * k_on * r2);
                    let parts = TransistorFlasher { r1_ohm: r1, r2_ohm: r2, c1_f: c, c2_f: c }.into();
                    let title = format!("R1 {}, R2 {}, C1 and C2 {}", ohms(r1), ohms(r2), farads(c));
                    found.push(Candidate { off: share(on + off, period) + (on / (on + off) - duty).abs() + awkward(0.0, c), parts, title });
                }
            }
        }
        Ok(found)
    }

    fn off_by(&self, figures: &CircuitFigures, wanted: &Wanted, _: f64) -> Option<(f64, f64)> {
        let off = share(figures.period_s?, wanted.period_s?) + wanted.duty.map_or(0.0, |wanted| (figures.duty.unwrap_or(0.0) - wanted).abs());
        Some((off, awkward(self.r1_ohm.max(self.r2_ohm), self.c1_f.max(self.c2_f))))
    }

    fn short_list(&self) -> usize {
        2
    }
}

/// What a light takes at a voltage, A.
fn light_a(light: &Light, volts: f64) -> f64 {
    match &light.load {
        Load::LedArray(array) => DiodeString::of_array(array).current(volts).0 * f64::from(array.parallel),
        Load::Strip(strip) => DiodeString::of_segment(strip).current(volts).0 * f64::from(strip.segments()),
        Load::Module(module) => module.power_w / module.voltage_v,
        Load::Pixels(pixels) => f64::from(pixels.count) * (pixels.channel_a.iter().sum::<f64>() + pixels.idle_a),
    }
}
