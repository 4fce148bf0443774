//! Each kind of circuit, node by node.

use crate::transient::{Bipolar, Circuit, Diode, Element, THERMAL_V, Timer, Wave};
use orthavis_model::document::{Build, CircuitKind, Feed, Light, Load, SmallCircuit, Source, Through, TimerKind, TrackWave};
use orthavis_model::laws::led::DiodeString;
use orthavis_model::states::State;
use orthavis_model::topology::{Node, Topology};

/// The least resistance of a light's wires, ohm.
const LEAST_OHM: f64 = 1e-3;
/// Of the closed breakdown switch, of a gate that is on, and of what is off, ohm.
const BREAKS_OHM: f64 = 20.0;
const GATE_OHM: f64 = 0.05;
const OFF_OHM: f64 = 1e12;
/// A gate is on from here, V.
const GATE_V: f64 = 2.0;
/// What a side that drives nothing has, ohm.
const NOTHING_OHM: f64 = 1000.0;
/// An LED that begins to shine takes this much, A.
const BEGINS_A: f64 = 1e-4;
/// A base that carries something, V.
const KNEE_V: f64 = 0.7;
/// Fires and lets go where nobody says, V.
const FIRES_V: (f64, f64) = (9.0, 7.0);
/// Capacitance of a small transistor's base to emitter and to collector, F: representative.
const JUNCTION_F: (f64, f64) = (2e-11, 5e-12);
/// Of a pin where nobody says, V.
pub(super) const LOGIC_V: f64 = 5.0;

/// What a circuit is fed with.
#[derive(Clone, Debug)]
pub(super) struct Fed {
    /// Without load, V; of an alternating supply its peak.
    pub(super) emf_v: f64,
    /// Supply and wires, ohm.
    pub(super) ohm: f64,
    /// Of an alternating supply, Hz.
    pub(super) hz: Option<f64>,
}

impl Fed {
    pub(super) fn of(build: &Build, own: &SmallCircuit, state: State) -> Fed {
        let both = |feed: &Feed| feed.out_ohm() + feed.back_ohm(build.vehicle.frame_return_ohm);
        let topology = Topology::of(build);
        let above = topology.node(&own.feed.from).unwrap_or(Node::Source);
        let ohm = both(&own.feed) + topology.leading_to(above).map(|wire| both(topology.laid(wire))).sum::<f64>();
        if let Node::Converter(at) = topology.supply(above)
            && let Some(set) = build.converters[at].set_v
        {
            return Fed { emf_v: set, ohm, hz: None };
        }
        let (emf_v, source_ohm) = build.thevenin(state);
        let hz = match &build.source {
            Source::Track(track) if track.wave == TrackWave::Ac => Some(track.frequency_hz),
            _ => None,
        };
        let peak = if hz.is_some() { emf_v * std::f64::consts::SQRT_2 } else { emf_v };
        Fed { emf_v: peak, ohm: ohm + source_ohm, hz }
    }

    /// The highest that it is ever fed with, and a tenth more, V.
    pub(super) fn highest(build: &Build, index: usize) -> f64 {
        build.states().into_iter().map(|state| 1.1 * Fed::of(build, &build.circuits[index], state).emf_v).fold(0.0, f64::max)
    }
}

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
    sense: Vec<(usize, usize, f64)>,
    /// The collector of its transistor.
    pub(super) collector: Option<String>,
    pub(super) cannot_start: Option<String>,
    pub(super) logic_v: f64,
    /// Of a hold-up: current at plug-in, of its lights, and the voltage it holds.
    pub(super) inrush_a: f64,
    pub(super) begins_a: f64,
    pub(super) held_v: f64,
    /// Of a hold-up: the same while there is contact.
    pub(super) contact: Option<Circuit>,
}

fn silicon(count: f64) -> Element {
    Element::Diode(Diode::SILICON.in_series(count))
}

fn led(led: &orthavis_model::document::Led) -> Element {
    let (saturation_a, slope_v, rs_ohm, _) = DiodeString::new(led, 1, 0.0).shockley();
    Element::Diode(Diode { saturation_a, n: slope_v / THERMAL_V, rs_ohm, breakdown_v: None })
}

impl Schematic {
    fn with(circuit: Circuit, period_s: f64) -> Self {
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
            logic_v: LOGIC_V,
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

    /// The schematic of a circuit, with so many of a hold-up's resistors.
    pub(super) fn of(build: &Build, own: &SmallCircuit, fed: &Fed, tap: usize) -> Schematic {
        let parts = &own.parts;
        let volts = fed.emf_v;
        let driven: Vec<&Light> = own.drives.iter().filter_map(|id| build.lights.iter().find(|light| light.id == *id)).collect();
        let mut circuit = Circuit::new();
        let number = |value: Option<f64>| value.unwrap_or(1.0);
        if own.kind != CircuitKind::HoldUp {
            circuit.add("supply", &["emf", "0"], Element::Voltage(Wave::Constant(volts)));
            circuit.add("wires", &["emf", "p"], Element::Resistor(fed.ohm.max(1e-6)));
        }
        match own.kind {
            CircuitKind::TimerFlasher => {
                let (ra, rb, c) = (number(parts.ra_ohm), number(parts.rb_ohm), number(parts.c_f));
                let timer = if parts.timer == Some(TimerKind::Cmos) { Timer::CMOS } else { Timer::BIPOLAR };
                let mut s = Schematic::with(circuit, std::f64::consts::LN_2 * c * (ra + 2.0 * rb));
                s.circuit.add("ra", &["p", "dis"], Element::Resistor(ra));
                s.circuit.add("rb", &["dis", "thr"], Element::Resistor(rb));
                if parts.diode == Some(true) {
                    s.circuit.add("diode", &["dis", "thr"], silicon(1.0));
                }
                s.circuit.add("c", &["thr", "0"], Element::Capacitor(c, Some(0.0)));
                s.circuit.add("timer", &["p", "0", "thr", "dis", "out"], Element::Timer(timer));
                match parts.through {
                    None | Some(Through::None) => s.drive(build, &driven, "out", "0"),
                    Some(Through::Npn) => {
                        s.circuit.add("base", &["out", "b"], Element::Resistor(number(parts.base_ohm)));
                        s.circuit.add("q", &["c", "b", "0"], Element::Bipolar(Bipolar::SMALL_NPN));
                        s.collector = Some("c".into());
                        s.drive(build, &driven, "p", "c");
                    }
                    Some(Through::Mosfet) => {
                        s.circuit.add("gate", &["c", "0", "out", "0"], gate());
                        s.drive(build, &driven, "p", "c");
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
            CircuitKind::TransistorFlasher => {
                let (r1, r2, c1, c2) = (number(parts.r1_ohm), number(parts.r2_ohm), number(parts.c1_f), number(parts.c2_f));
                let mut s = Schematic::with(circuit, std::f64::consts::LN_2 * (r1 * c1 + r2 * c2));
                s.circuit.add("r1", &["p", "b1"], Element::Resistor(r1));
                s.circuit.add("r2", &["p", "b2"], Element::Resistor(r2));
                // What a light keeps when it hardly shines.
                let kept = driven.first().map_or(0.0, |light| match &light.load {
                    Load::LedArray(array) => DiodeString::of_array(array).voltage(BEGINS_A),
                    Load::Strip(strip) => DiodeString::of_segment(strip).voltage(BEGINS_A),
                    Load::Pixels(_) | Load::Module(_) => 0.0,
                });
                // The first transistor has just come on, and the other side's capacitor is as full as it gets.
                s.circuit.add("c1", &["c2", "b1"], Element::Capacitor(c1, Some(0.0)));
                s.circuit.add("c2", &["c1", "b2"], Element::Capacitor(c2, Some((volts - kept - KNEE_V).min(6.0).max(0.1 * volts))));
                for (q, c, b) in [("q1", "c1", "b1"), ("q2", "c2", "b2")] {
                    s.circuit.add(q, &[c, b, "0"], Element::Bipolar(Bipolar::SMALL_NPN));
                    // Without them each would switch the other in no time at all, which nothing can follow.
                    s.circuit.add(&format!("{q}_be"), &[b, "0"], Element::Capacitor(JUNCTION_F.0, None));
                    s.circuit.add(&format!("{q}_bc"), &[c, b], Element::Capacitor(JUNCTION_F.1, None));
                }
                for (side, node) in ["c1", "c2"].into_iter().enumerate() {
                    match driven.get(side) {
                        Some(light) => s.drive(build, &[*light], "p", node),
                        None => s.circuit.add(&format!("nothing{}", side + 1), &["p", node], Element::Resistor(NOTHING_OHM)),
                    }
                }
                // On is what carries half of its current: while the capacitor fills again through a light, that dies away.
                let level_v = 0.5 * (volts - kept).max(0.2 * volts);
                (s.watched, s.level_v, s.on_when_low, s.collector) = ("c1".into(), level_v, true, Some("c1".into()));
                s
            }
            CircuitKind::BreakdownFlasher => {
                let (r, c) = (number(parts.r_ohm), number(parts.c_f));
                let (fires, lets_go) = (parts.fire_v.unwrap_or(FIRES_V.0), parts.let_go_v.unwrap_or(FIRES_V.1));
                let share = ((volts - lets_go) / (volts - fires)).max(1.0001);
                let mut s = Schematic::with(circuit, r * c * share.ln().clamp(1e-3, 20.0));
                s.circuit.add("r", &["p", "n"], Element::Resistor(r));
                s.circuit.add("c", &["n", "0"], Element::Capacitor(c, Some(lets_go.min(volts))));
                s.circuit.add("breaks", &["n", "l", "n", "0"], Element::Switch { on_v: fires, off_v: lets_go, on_ohm: BREAKS_OHM, off_ohm: OFF_OHM });
                s.drive(build, &driven, "l", "0");
                if driven.is_empty() {
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
            CircuitKind::HoldUp => holding(build, own, fed, tap, &driven),
            CircuitKind::BatteryGauge => {
                let mut s = Schematic::with(circuit, 1e-3);
                s.circuit.add("rs", &["p", "g"], Element::Resistor(number(parts.rs_ohm)));
                let count = parts.diodes.unwrap_or(0);
                let end = if count > 0 { "d" } else { "b" };
                if let Some(good) = &parts.led_good {
                    s.circuit.add("led_good", &["g", end], led(good));
                }
                if count > 0 {
                    s.circuit.add("diodes", &["d", "b"], silicon(f64::from(count)));
                }
                s.circuit.add("rb", &["b", "0"], Element::Resistor(number(parts.rb_ohm)));
                s.circuit.add("q", &["c", "b", "0"], Element::Bipolar(Bipolar::SMALL_NPN));
                s.circuit.add("rc", &["p", "c"], Element::Resistor(number(parts.rc_ohm)));
                if let Some(low) = &parts.led_low {
                    s.circuit.add("led_low", &["c", "0"], led(low));
                }
                s.lights = vec!["led_good".into(), "led_low".into()];
                s
            }
            CircuitKind::Switch => {
                let mut s = Schematic::with(circuit, 1e-3);
                s.logic_v = parts.logic_v.unwrap_or(LOGIC_V);
                s.circuit.add("pin", &["logic", "0"], Element::Voltage(Wave::Constant(s.logic_v)));
                s.circuit.add("base", &["logic", "b"], Element::Resistor(number(parts.base_ohm)));
                if parts.through == Some(Through::Mosfet) {
                    s.circuit.add("gate", &["c", "0", "b", "0"], gate());
                    s.circuit.add("held", &["b", "0"], Element::Resistor(1e6));
                } else {
                    s.circuit.add("q", &["c", "b", "0"], Element::Bipolar(Bipolar::SMALL_NPN));
                    s.collector = Some("c".into());
                }
                s.drive(build, &driven, "p", "c");
                if driven.is_empty() {
                    s.circuit.add("nothing", &["p", "c"], Element::Resistor(NOTHING_OHM));
                }
                s
            }
        }
    }

    /// Lights between two nodes, each behind its wires.
    fn drive(&mut self, build: &Build, driven: &[&Light], from: &str, to: &str) {
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

fn gate() -> Element {
    Element::Switch { on_v: GATE_V, off_v: 0.95 * GATE_V, on_ohm: GATE_OHM, off_ohm: OFF_OHM }
}

/// What insulation and a hand's damp let through between a track and the rest, ohm.
const LEAK_OHM: f64 = 1e6;

fn rated_ohm(load: &Load) -> f64 {
    match load {
        Load::Module(module) => module.voltage_v * module.voltage_v / module.power_w.max(1e-6),
        Load::Pixels(pixels) => pixels.voltage_v / (f64::from(pixels.count) * (pixels.channel_a.iter().sum::<f64>() + pixels.idle_a)).max(1e-9),
        Load::LedArray(_) | Load::Strip(_) => f64::INFINITY,
    }
}

/// The lights of a hold-up on its capacitor alone, which holds what it had while there was contact.
fn holding(build: &Build, own: &SmallCircuit, fed: &Fed, tap: usize, driven: &[&Light]) -> Schematic {
    let parts = &own.parts;
    let (charge, c, esr) = (parts.charge_ohm.unwrap_or(0.0).max(1e-3), parts.c_f.unwrap_or(1.0), parts.esr_ohm.unwrap_or(0.05).max(1e-3));
    let taps = parts.taps_ohm.as_deref().unwrap_or(&[]);
    let row: f64 = taps.iter().take(tap.max(1)).sum();
    let lights = |circuit: Circuit| {
        let mut s = Schematic::with(circuit, c * (row + esr).max(1.0));
        s.circuit.add("taps", &["held", "sense_p"], Element::Resistor(row.max(1e-3)));
        s.drive(build, driven, "sense_p", "sense");
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
    let bridge = parts.bridge.unwrap_or(false);
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
