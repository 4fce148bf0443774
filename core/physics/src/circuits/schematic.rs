//! A circuit ready to be followed, and what several kinds of it are made of.

use super::fed::Fed;
use crate::transient::{Circuit, Diode, Element, THERMAL_V, Wave};
use orthavis_model::document::{Build, Led, Light, Load};
use orthavis_model::laws::led::DiodeString;

/// The least resistance of a light's wires, ohm.
const LEAST_OHM: f64 = 1e-3;
/// Of a gate that is on, and of what is off, ohm.
const GATE_OHM: f64 = 0.05;
pub(super) const OFF_OHM: f64 = 1e12;
/// A gate is on from here, V.
const GATE_V: f64 = 2.0;
/// What a side that drives nothing has, ohm.
pub(super) const NOTHING_OHM: f64 = 1000.0;

/// A circuit ready to be followed.
pub(super) struct Schematic {
    pub(super) circuit: Circuit,
    /// About the time in which something happens, s.
    pub(super) period_s: f64,
    /// The node that swings, the level that it swings through, and whether lights are on while it is low.
    pub(super) watched: String,
    pub(super) level_v: f64,
    pub(super) on_when_low: bool,
    /// Parts through which the lights' current goes.
    pub(super) lights: Vec<String>,
    /// Nodes before and after each of them, and its resistance: for a quick look.
    pub(super) sense: Vec<(usize, usize, f64)>,
    /// The collector of its transistor.
    pub(super) collector: Option<String>,
    pub(super) cannot_start: Option<String>,
    /// Of a hold-up: current at plug-in, of its lights, and the voltage it holds.
    pub(super) inrush_a: f64,
    pub(super) begins_a: f64,
    pub(super) held_v: f64,
    /// Of a hold-up: the same while there is contact.
    pub(super) contact: Option<Circuit>,
}

pub(super) fn silicon(count: f64) -> Element {
    Element::Diode(Diode::SILICON.in_series(count))
}

pub(super) fn led(led: &Led) -> Element {
    let (saturation_a, slope_v, rs_ohm, _) = DiodeString::new(led, 1, 0.0).shockley();
    Element::Diode(Diode { saturation_a, n: slope_v / THERMAL_V, rs_ohm, breakdown_v: None })
}

impl Schematic {
    /// A supply behind its wires, and nothing else yet.
    pub(super) fn supplied(fed: &Fed, period_s: f64) -> Self {
        let mut circuit = Circuit::new();
        circuit.add("supply", &["emf", "0"], Element::Voltage(Wave::Constant(fed.emf_v)));
        circuit.add("wires", &["emf", "p"], Element::Resistor(fed.ohm.max(1e-6)));
        Schematic::with(circuit, period_s)
    }

    pub(super) fn with(circuit: Circuit, period_s: f64) -> Self {
        Schematic {
            circuit,
            period_s,
            watched: String::new(),
            level_v: 0.0,
            on_when_low: false,
            lights: Vec::new(),
            sense: Vec::new(),
            collector: None,
            cannot_start: None,
            inrush_a: 0.0,
            begins_a: 0.0,
            held_v: 0.0,
            contact: None,
        }
    }

    /// Current of the lights from the voltages of the nodes, A.
    pub(super) fn light_a(&self, x: &[f64]) -> f64 {
        self.sense.iter().map(|(from, to, ohm)| (x[*from] - x[*to]) / ohm).sum()
    }

    /// Lights between two nodes, each behind its wires.
    pub(super) fn drive(&mut self, build: &Build, driven: &[&Light], from: &str, to: &str) {
        for light in driven {
            let number = self.lights.len() + 1;
            let wires: f64 = light.feeds.iter().map(|feed| 1.0 / (feed.out_ohm() + feed.back_ohm(build.vehicle.frame_return_ohm)).max(LEAST_OHM)).sum();
            let (a, k) = (format!("light{number}_a"), format!("light{number}_k"));
            let name = format!("light{number}");
            let ohm = if wires > 0.0 { 1.0 / wires } else { LEAST_OHM };
            self.circuit.add(&name, &[from, &a], Element::Resistor(ohm));
            let (from, to_node) = (self.circuit.node(from), self.circuit.node(&a));
            self.sense.push((from, to_node, ohm));
            self.lights.push(name);
            let string = match &light.load {
                Load::LedArray(array) => Some((DiodeString::of_array(array), f64::from(array.parallel))),
                Load::Strip(strip) => Some((DiodeString::of_segment(strip), f64::from(strip.segments()))),
                Load::Pixels(_) | Load::Module(_) => None,
            };
            match string {
                Some((string, count)) => {
                    let (saturation_a, slope_v, rs_ohm, resistor_ohm) = string.shockley();
                    let diode = Diode { saturation_a: count * saturation_a, n: slope_v / THERMAL_V, rs_ohm: rs_ohm / count, breakdown_v: None };
                    self.circuit.add(&format!("leds{number}"), &[&a, &k], Element::Diode(diode));
                    self.circuit.add(&format!("resistor{number}"), &[&k, to], Element::Resistor((resistor_ohm / count).max(1e-6)));
                }
                // By what it takes at its rated voltage.
                None => self.circuit.add(&format!("load{number}"), &[&a, to], Element::Resistor(rated_ohm(&light.load))),
            }
        }
    }
}

pub(super) fn gate() -> Element {
    Element::Switch { on_v: GATE_V, off_v: 0.95 * GATE_V, on_ohm: GATE_OHM, off_ohm: OFF_OHM }
}

fn rated_ohm(load: &Load) -> f64 {
    match load {
        Load::Module(module) => module.voltage_v * module.voltage_v / module.power_w.max(1e-6),
        Load::Pixels(pixels) => pixels.voltage_v / (f64::from(pixels.count) * (pixels.channel_a.iter().sum::<f64>() + pixels.idle_a)).max(1e-9),
        Load::LedArray(_) | Load::Strip(_) => f64::INFINITY,
    }
}
