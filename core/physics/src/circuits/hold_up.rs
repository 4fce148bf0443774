//! A capacitor that carries lights over a broken contact.

use super::fed::Site;
use super::figures::{CircuitError, CircuitFigures, Formula, Held, Spread};
use super::flashing::off;
use super::following::{Following, Measures};
use super::kind::{Edges, Kind};
use super::schematic::{NOTHING_OHM, Schematic, silicon};
use super::wanted::{Candidate, ChooseError, Choosing, Wanted, capacitors_above, farads, share, within};
use crate::transient::{Circuit, Element, Run, Trace, Wave};
use orthavis_model::document::{HoldUp, Source};
use orthavis_model::practice::{RESISTOR_OFF, capacitor_for};
use orthavis_model::working::plain;
use std::f64::consts::{LN_2, LN_10};

/// Gaps of a track that are followed one after the other, and waves of an alternating one between them at most.
const GAPS: usize = 4;
const WAVES: f64 = 100.0;
/// What insulation and a hand's damp let through between a track and the rest, ohm.
const LEAK_OHM: f64 = 1e6;
/// It is followed until so little of the light is left.
const DARK: f64 = 0.09;

/// Current through several lights together, A.
fn total(run: &Run<'_>, lights: &[String]) -> Trace {
    let mut sum = Trace { time_s: run.time_s.clone(), value: vec![0.0; run.time_s.len()] };
    for light in lights {
        sum.value.iter_mut().zip(run.current(light).value).for_each(|(sum, amps)| *sum += amps);
    }
    sum
}

/// The name that its figures have with so many of its resistors.
pub fn tap_name(tap: u32) -> String {
    format!("tap{tap}")
}

impl Kind for HoldUp {
    /// Its lights on its capacitor alone, which holds what it had while there was contact.
    fn schematic(&self, site: &Site<'_>) -> Schematic {
        let (fed, driven) = (&site.fed, &site.driven);
        let (charge, c, esr) = (self.charge_ohm.max(1e-3), self.c_f, self.esr_ohm.max(1e-3));
        let row = self.row_ohm(self.tap);
        let lights = |circuit: Circuit| {
            let mut s = Schematic::with(circuit, c * (row + esr).max(1.0));
            s.circuit.add("taps", &["held", "sense_p"], Element::Resistor(row.max(1e-3)));
            s.drive(site.build, driven, "sense_p", "sense");
            if driven.is_empty() {
                s.circuit.add("nothing", &["sense_p", "sense"], Element::Resistor(NOTHING_OHM));
            }
            s.circuit.add("sense", &["sense", "0"], Element::Voltage(Wave::Constant(0.0)));
            // All of their current goes through the taps.
            let (held, after) = (s.circuit.node("held"), s.circuit.node("sense_p"));
            (s.lights, s.sense) = (vec!["taps".into()], vec![(held, after, row.max(1e-3))]);
            s
        };
        // In contact: at rest on a constant supply, over some periods of an alternating one.
        let mut circuit = Circuit::new();
        let wave = fed.hz.map_or(Wave::Constant(fed.emf_v), |hz| Wave::Sine { mean: 0.0, peak: fed.emf_v, hz });
        let bridge = self.bridge;
        circuit.add("supply", &["emf", if bridge { "back" } else { "0" }], Element::Voltage(wave));
        circuit.add("wires", &["emf", "in"], Element::Resistor(fed.ohm.max(1e-6)));
        if bridge {
            for (name, from, to) in [("d1", "in", "top"), ("d2", "back", "top"), ("d3", "0", "in"), ("d4", "0", "back")] {
                circuit.add(name, &[from, to], silicon(1.0));
            }
            circuit.add("charge", &["top", "held"], Element::Resistor(charge));
            // While all four block nothing else would hold the supply in its place.
            for (name, node) in [("leak1", "in"), ("leak2", "back")] {
                circuit.add(name, &[node, "0"], Element::Resistor(LEAK_OHM));
            }
        } else {
            circuit.add("charge", &["in", "held"], Element::Resistor(charge));
        }
        circuit.add("c", &["held", "plate"], Element::Capacitor(c, None));
        circuit.add("esr", &["plate", "0"], Element::Resistor(esr));
        let contact = lights(circuit);
        let held_v = match fed.hz {
            None => contact.circuit.at_rest().ok().map_or(0.0, |found| found[contact.circuit.nodes.iter().position(|name| name == "held").unwrap_or(0)]),
            Some(hz) => {
                let mut filled = contact.circuit.clone();
                for part in &mut filled.parts {
                    if let Element::Capacitor(_, start) = &mut part.element {
                        *start = Some((fed.emf_v - 1.4).max(0.0));
                    }
                }
                filled.run(20.0 / hz, 1.0 / hz, &|_, _| false).map_or(0.0, |run| run.node("held").from(19.0 / hz).mean())
            }
        };
        let mut circuit = Circuit::new();
        circuit.add("c", &["held", "plate"], Element::Capacitor(c, Some(held_v)));
        circuit.add("esr", &["plate", "0"], Element::Resistor(esr));
        let mut s = lights(circuit);
        // Plugged in at the peak, with the capacitor empty.
        let drops = if bridge { 2.0 * 0.7 } else { 0.0 };
        s.inrush_a = ((fed.emf_v - drops) / (charge + esr + fed.ohm + if bridge { 0.1 } else { 0.0 })).max(0.0);
        s.held_v = held_v;
        s.contact = Some(contact.circuit);
        s.begins_a = s.circuit.at_rest().map_or(0.0, |found| s.light_a(&found));
        s
    }

    fn figures(&self, following: &Following<'_>) -> Result<CircuitFigures, CircuitError> {
        let mut found = CircuitFigures::default();
        for tap in 1..=self.taps_ohm.len().max(1) as u32 {
            let schematic = HoldUp { tap, ..self.clone() }.schematic(&following.site);
            // Without contact only the capacitor carries them.
            let own = &schematic.circuit;
            let begins = total(&own.rest().map_err(|error| following.failed(error))?, &schematic.lights).value[0];
            if begins <= 1e-6 {
                return Err(following.dead("its lights stay dark even while there is contact; give it more voltage or fewer resistors".into()));
            }
            let run = own
                .run(4000.0 * schematic.period_s, schematic.period_s, &|_, x| schematic.light_a(x) < DARK * begins)
                .map_err(|error| following.failed(error))?;
            let trace = total(&run, &schematic.lights);
            let until = |share: f64| trace.crossings(share * begins, false).first().copied().unwrap_or(f64::INFINITY);
            let held = Held {
                half_s: until(0.5),
                tenth_s: until(0.1),
                inrush_a: schematic.inrush_a,
                light_a: begins,
                capacitor_v: schematic.held_v,
                gap_share: flicker(following, &schematic, begins)?,
            };
            if tap == self.tap {
                (found.supply_mean_a, found.supply_peak_a) = (Some(begins), Some(schematic.inrush_a));
            }
            found.taps.insert(tap_name(tap), held);
        }
        Ok(found)
    }

    fn draws(&self, site: &Site<'_>, volts: f64) -> (f64, f64) {
        let steady = self.schematic(site);
        let passed = steady.circuit.rest().ok().and_then(|run| run.node("sense_p").value.first().copied());
        (0.0, passed.map_or(0.0, |passed| (volts - passed).max(0.0)))
    }

    fn limit_a(&self) -> f64 {
        f64::INFINITY
    }

    fn measures(&self, following: &Following<'_>) -> Result<Measures, CircuitError> {
        let s = &following.schematic;
        let scale = s.period_s;
        let run = s.circuit.run(4000.0 * scale, scale, &|_, x| s.light_a(x) < DARK * s.begins_a).map_err(|error| following.failed(error))?;
        let lines = [("half_s", 0.5), ("tenth_s", 0.1)].map(|(name, share)| format!(".meas tran {name} WHEN i(Vsense)={:e} FALL=1", share * s.begins_a));
        let stop_s = run.time_s.last().copied().unwrap_or(self.pace().periods * scale);
        Ok(Measures { lines: lines.into(), stop_s, longest_s: f64::INFINITY })
    }

    fn formulas(&self, _: f64, found: &CircuitFigures) -> Vec<Formula> {
        let row = self.row_ohm(self.tap);
        let Some(held) = found.taps.get(&tap_name(self.tap)) else { return Vec::new() };
        let why = "The formula counts the resistors before the lights alone and takes the LEDs' voltage for constant; with less current it falls.";
        let line = |called, formula, value, simulated| Formula { called, formula, value, simulated, unit: "s", why };
        vec![
            line("Until half of the light", "t = 0.693 · C · R", LN_2 * self.c_f * row, held.half_s),
            line("Until a tenth of it", "t = 2.3 · C · R", LN_10 * self.c_f * row, held.tenth_s),
        ]
    }

    fn edges(&self) -> Option<Edges> {
        let edge = |up: bool| {
            let share = if up { 1.0 + RESISTOR_OFF } else { 1.0 - RESISTOR_OFF };
            let taps_ohm = self.taps_ohm.iter().map(|ohm| share * ohm).collect();
            HoldUp { taps_ohm, c_f: off(self.c_f, up) * self.c_f, ..self.clone() }.into()
        };
        Some(Edges { all: [false, true].map(edge), one_sided: None })
    }

    fn spreads(&self, low: &CircuitFigures, high: &CircuitFigures) -> Vec<Spread> {
        let used = tap_name(self.tap);
        let (Some(low), Some(high)) = (low.taps.get(&used), high.taps.get(&used)) else { return Vec::new() };
        vec![
            Spread { figure: "half_s", called: "until half of the light", least: low.half_s, most: high.half_s, unit: "s" },
            Spread { figure: "tenth_s", called: "until a tenth of it", least: low.tenth_s, most: high.tenth_s, unit: "s" },
        ]
    }

    fn candidates(&self, case: &Choosing<'_>, wanted: &Wanted) -> Result<Vec<Candidate>, ChooseError> {
        let half = within("half_s", wanted.half_s, 1e-3, 600.0, "s")?;
        let known = case.simulated(self.clone().into())?;
        let farad = self.c_f;
        let mut found = Vec::new();
        for tap in 1..=self.taps_ohm.len().max(1) as u32 {
            let Some(held) = known.taps.get(&tap_name(tap)) else { continue };

            // As long as the capacitor is large; a hair more, for what its own resistance takes.
            let need = 1.005 * farad * half / held.half_s.max(1e-9);
            let c = capacitors_above(need);
            if c > 1.0 {
                continue;
            }
            let rated = capacitor_for(held.capacitor_v);
            let parts = HoldUp { c_f: c, c_rated_v: rated.or(self.c_rated_v), tap, ..self.clone() };
            let behind = match (self.taps_ohm.len(), tap) {
                (0, _) => String::new(),
                (_, 1) => ", the first resistor".into(),
                (_, tap) => format!(", {tap} resistors"),
            };
            let title = format!("C {} for {}{behind}", farads(c), plain(parts.c_rated_v.unwrap_or(held.capacitor_v), "V"));
            found.push(Candidate { off: share(half * c / need, half), parts: parts.into(), title });
        }
        Ok(found)
    }

    fn off_by(&self, figures: &CircuitFigures, wanted: &Wanted, _: f64) -> Option<(f64, f64)> {
        let held = figures.taps.get(&tap_name(self.tap))?;
        Some((share(held.half_s, wanted.half_s?) + if held.half_s < wanted.half_s? { 10.0 } else { 0.0 }, 0.0))
    }
}

/// Least share of the light while contact is lost again and again: emptied for a gap, filled until the next, a few times.
fn flicker(following: &Following<'_>, schematic: &Schematic, begins_a: f64) -> Result<Option<f64>, CircuitError> {
    let Source::Track(track) = &following.site.build.source else { return Ok(None) };
    let (Some(gaps), Some(contact)) = (&track.gaps, &schematic.contact) else { return Ok(None) };
    let light = |run: &Run<'_>| total(run, &schematic.lights).value.last().copied().unwrap_or(0.0);
    let follow = |circuit: &Circuit, from_v: f64, time_s: f64, scale_s: f64| -> Result<(f64, f64), CircuitError> {
        let mut filled = circuit.clone();
        for part in &mut filled.parts {
            if let Element::Capacitor(_, start) = &mut part.element {
                *start = Some(from_v);
            }
        }
        let run = filled.run(time_s.max(1e-9), scale_s, &|_, _| false).map_err(|error| following.failed(error))?;
        Ok((run.between("held", "plate").value.last().copied().unwrap_or(0.0), light(&run)))
    };
    let mut held_v = schematic.held_v;
    let mut least = 1.0_f64;
    for _ in 0..GAPS {
        let (emptied_v, left_a) = follow(&schematic.circuit, held_v, gaps.length_s, schematic.period_s)?;
        least = least.min(left_a / begins_a.max(1e-12));
        // An alternating track is followed for as many of its waves as fill it again, not for hours.
        let (scale_s, most_s) = following.site.fed.hz.map_or((schematic.period_s, f64::INFINITY), |hz| (1.0 / hz, WAVES / hz));
        held_v = follow(contact, emptied_v, (gaps.every_s - gaps.length_s).min(most_s), scale_s)?.0;
    }
    Ok(Some(least))
}
