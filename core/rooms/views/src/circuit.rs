//! A small circuit as its own drawn workshop: schematic, waveforms, figures over the whole battery, and the closed formula
//! beside the simulation.
//!
//! Symbols are named after what they are in IEC 60617; whoever draws them knows their shapes. Coordinates are in squares
//! of the drawing, x to the right and y down; plus is at the top.

use orthavis_model::data;
use orthavis_model::document::{
    BatteryGauge, BreakdownFlasher, Build, CircuitKind, CircuitParts, HoldUp, Light, Load, PinSwitch, SmallCircuit, Through, TimerFlasher, TimerKind,
    Transistor, TransistorFlasher,
};
use orthavis_model::practice::ELECTROLYTIC_F;
use orthavis_model::practice::MOST_FLASHES;
use orthavis_model::states::State;
use orthavis_physics::circuits::{AtState, CircuitError, Formula, Simulation, Spread, Trace, at_states, formulas, told as told_of, tolerances};
use orthavis_physics::transient::{Accuracy, Run};

/// Stretches of a waveform that is drawn.
const STRETCHES: usize = 240;

data! {
    /// One symbol of a schematic.
    #[cfg_attr(feature = "schema", schema(as = CircuitSymbol))]
    pub struct Symbol {
        /// Its name, as in `ra`.
        pub name: String,
        /// Which symbol: `resistor`, `capacitor`, `polarised`, `diode`, `led`, `light`, `npn`, `npn_reversed`, `mosfet`, `timer`,
        /// `terminal`.
        pub kind: &'static str,
        /// Where it begins.
        pub from: [f64; 2],
        /// Where it ends; of a transistor from collector to emitter, its base to the left, or to the right where `flipped`; of
        /// a timer the corner opposite.
        pub to: [f64; 2],
        /// Drawn the other way round.
        pub flipped: bool,
        /// What it is called.
        pub called: String,
        /// Its value.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub value: Option<f64>,
        /// Unit of the value.
        pub unit: &'static str,
        /// The field of the circuit's parts that holds it.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub field: Option<&'static str>,
        /// It is there and not used.
        pub unused: bool,
    }

    /// A conductor of a schematic.
    #[cfg_attr(feature = "schema", schema(as = CircuitWire))]
    pub struct Wire {
        /// The node that it belongs to.
        pub node: &'static str,
        /// From corner to corner.
        pub points: Vec<[f64; 2]>,
    }

    /// Where three or more conductors meet.
    #[cfg_attr(feature = "schema", schema(as = CircuitDot))]
    pub struct Dot {
        /// The node.
        pub node: &'static str,
        /// Where.
        pub at: [f64; 2],
    }

    /// A schematic.
    #[cfg_attr(feature = "schema", schema(as = Schematic))]
    pub struct Drawing {
        /// Squares across.
        pub width: f64,
        /// Squares down.
        pub height: f64,
        /// Its symbols.
        pub symbols: Vec<Symbol>,
        /// Its conductors.
        pub wires: Vec<Wire>,
        /// Its joints.
        pub dots: Vec<Dot>,
    }

    /// A figure over time, thinned: of each stretch the least and the most.
    pub struct Waveform {
        /// Name, as in `thr_v`.
        pub name: String,
        /// In words.
        pub called: String,
        /// Unit.
        pub unit: &'static str,
        /// Least of each stretch.
        pub least: Vec<f64>,
        /// Most of each stretch.
        pub most: Vec<f64>,
    }

    /// Volts of a node at rest.
    pub struct NodeVolts {
        /// The node.
        pub node: String,
        /// Its voltage over minus, V.
        pub volts: f64,
    }

    /// How its light blinks where somebody wants to see it.
    pub struct Blink {
        /// From one flash to the next, s; slower than it is where that would be more than three a second.
        pub period_s: f64,
        /// Of that on, s.
        pub on_s: f64,
        /// Whether it is shown slower than it is.
        pub slowed: bool,
    }

    /// A small circuit as it is drawn.
    pub struct CircuitView {
        /// Its schematic.
        pub drawing: Drawing,
        /// Middle of each stretch of the waveforms, s.
        pub time_s: Vec<f64>,
        /// Its waveforms; none of what stands still.
        pub waveforms: Vec<Waveform>,
        /// Volts at rest, of what stands still.
        pub volts: Vec<NodeVolts>,
        /// How it blinks.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub blink: Option<Blink>,
        /// What it does at every state of the source, the fullest first.
        pub states: Vec<AtState>,
        /// What tolerances make of it.
        pub tolerances: Vec<Spread>,
        /// Formulas beside the simulation.
        pub formulas: Vec<Formula>,
        /// Why it does not run at the state that is looked at.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub problem: Option<String>,
    }
}

/// What is drawn of a circuit at a state; `quick` leaves the other states and the tolerances out.
///
/// # Errors
/// When it cannot be followed at all; one that does not run is drawn and says why.
pub fn circuit_view(build: &Build, index: usize, state: State, quick: bool) -> Result<CircuitView, CircuitError> {
    let own = &build.circuits[index];
    let simulation = Simulation::of(build, index, state).to(if quick { Accuracy::Sketch } else { Accuracy::Full });
    // While it is dragged, one run shows what it does and how.
    let (states, run) = if quick {
        let (figures, run) = match simulation.followed() {
            Ok((figures, run)) => (Ok(figures), Some(run)),
            Err(error) => (Err(error), None),
        };
        (vec![told_of(build, index, state, figures)], run)
    } else {
        let states = at_states(build, index);
        let runs = states.iter().any(|at| at.state == state.word() && at.problem.is_none());
        (states, if runs { Some(simulation.run()?) } else { None })
    };
    let here = states.iter().find(|at| at.state == state.word());
    let figures = here.and_then(|at| at.figures.as_ref());
    let mut view = CircuitView {
        drawing: drawing(build, own),
        time_s: Vec::new(),
        waveforms: Vec::new(),
        volts: Vec::new(),
        blink: figures.and_then(|figures| figures.period_s.zip(figures.on_s)).map(|(period, on)| blink(period, on)),
        tolerances: if quick { Vec::new() } else { tolerances(build, index, state) },
        formulas: figures.map(|figures| formulas(build, index, state, figures)).unwrap_or_default(),
        problem: here.and_then(|at| at.problem.clone()),
        states: Vec::new(),
    };
    if let Some(run) = &run {
        draw_run(&mut view, build, own, &simulation.shown(run), run);
    }
    view.states = states;
    Ok(view)
}

fn blink(period_s: f64, on_s: f64) -> Blink {
    let shown = period_s.max(1.0 / MOST_FLASHES);
    Blink { period_s: shown, on_s: on_s * shown / period_s, slowed: shown > period_s }
}

/// Waveforms of what moves, and the volts of what stands still.
fn draw_run(view: &mut CircuitView, build: &Build, own: &SmallCircuit, shown: &[(String, Trace)], run: &Run<'_>) {
    if matches!(own.kind(), CircuitKind::BatteryGauge | CircuitKind::Switch) {
        let first = |trace: &Trace| trace.value.first().copied().unwrap_or(0.0);
        let nodes = shown.iter().filter_map(|(name, trace)| Some(NodeVolts { node: name.strip_suffix("_v")?.to_owned(), volts: first(trace) }));
        view.volts = nodes.collect();
        return;
    }
    // Where no probe reaches, nobody looks.
    let inner = |name: &str| matches!(name, "emf_v" | "plate_v" | "sense_v") || (name.starts_with("light") && name.ends_with("_v"));
    let shown: Vec<_> = shown.iter().filter(|(name, _)| !inner(name)).collect();
    let traces: Vec<&Trace> = shown.iter().map(|(_, trace)| trace).collect();
    let thin = run.thinned(&traces, STRETCHES);
    view.time_s = thin.time_s.into_iter().map(told).collect();
    let waves = shown.iter().zip(thin.span).map(|((name, _), span)| {
        let (called, unit) = called(build, own, name);
        Waveform { name: name.clone(), called, unit, least: span.iter().map(|one| told(one[0])).collect(), most: span.iter().map(|one| told(one[1])).collect() }
    });
    view.waveforms = waves.collect();
}

/// To five digits: a picture has no more, and what is dragged is sent dozens of times a second.
fn told(value: f64) -> f64 {
    if value == 0.0 || !value.is_finite() {
        return value;
    }
    let unit = 10f64.powi(4 - value.abs().log10().floor() as i32);
    (value * unit).round() / unit
}

/// A waveform's name for a person, and its unit.
fn called(build: &Build, own: &SmallCircuit, name: &str) -> (String, &'static str) {
    if let Some(node) = name.strip_suffix("_v") {
        let words = match (own.kind(), node) {
            (_, "p") => "supply",
            (_, "emf") => "supply without load",
            (_, "thr") => "capacitor",
            (_, "dis") => "discharge pin",
            (_, "out") => "output",
            (_, "b") => "base",
            (CircuitKind::TransistorFlasher, "c1") => "first collector",
            (CircuitKind::TransistorFlasher, "c2") => "second collector",
            (_, "b1") => "first base",
            (_, "b2") => "second base",
            (_, "c") => "collector",
            (CircuitKind::BreakdownFlasher, "n") | (CircuitKind::HoldUp, "held") => "capacitor",
            (CircuitKind::BreakdownFlasher, "l") => "behind the transistor",
            (CircuitKind::HoldUp, "plate") => "capacitor without its own resistance",
            (CircuitKind::HoldUp, "sense_p") => "before the lights",
            _ => "",
        };
        return (if words.is_empty() { node.replace('_', " ") } else { words.to_owned() }, "V");
    }
    let light = name.strip_prefix("light").and_then(|rest| rest.strip_suffix("_a")).and_then(|number| number.parse::<usize>().ok());
    let driven: Vec<&Light> = own.drives.iter().filter_map(|id| build.lights.iter().find(|light| light.id == *id)).collect();
    let words = match (name, light) {
        ("supply_a", _) => "from the supply".to_owned(),
        ("taps_a", _) => "through the lights".to_owned(),
        (_, Some(number)) => driven.get(number - 1).map_or_else(|| name.to_owned(), |light| format!("through {}", light.id)),
        _ => name.trim_end_matches("_a").replace('_', " "),
    };
    (words, "A")
}

/// A schematic while it is drawn.
struct Sheet {
    out: Drawing,
}

impl Sheet {
    fn part(&mut self, name: &str, kind: &'static str, ends: [[f64; 2]; 2]) -> &mut Symbol {
        let symbol = Symbol {
            name: name.to_owned(),
            kind,
            from: ends[0],
            to: ends[1],
            flipped: false,
            called: String::new(),
            value: None,
            unit: "",
            field: None,
            unused: false,
        };
        self.out.symbols.push(symbol);
        let last = self.out.symbols.len() - 1;
        &mut self.out.symbols[last]
    }

    fn resistor(&mut self, called: &str, field: &'static str, value: f64, ends: [[f64; 2]; 2]) {
        let one = self.part(field.trim_end_matches("_ohm"), "resistor", ends);
        (one.called, one.value, one.unit, one.field) = (called.to_owned(), Some(value), "ohm", Some(field));
    }

    fn capacitor(&mut self, called: &str, field: &'static str, value: f64, ends: [[f64; 2]; 2]) {
        let kind = if value >= ELECTROLYTIC_F { "polarised" } else { "capacitor" };
        let one = self.part(field.trim_end_matches("_f"), kind, ends);
        (one.called, one.value, one.unit, one.field) = (called.to_owned(), Some(value), "F", Some(field));
    }

    fn named(&mut self, name: &str, kind: &'static str, called: &str, ends: [[f64; 2]; 2]) -> &mut Symbol {
        let one = self.part(name, kind, ends);
        called.clone_into(&mut one.called);
        one
    }

    fn wire(&mut self, node: &'static str, points: &[[f64; 2]]) {
        self.out.wires.push(Wire { node, points: points.to_vec() });
    }

    fn dot(&mut self, node: &'static str, at: [f64; 2]) {
        self.out.dots.push(Dot { node, at });
    }

    /// Plus at the top and minus at the bottom, each up to where its last part stands.
    fn rails(&mut self, from: f64, [plus, minus]: [f64; 2], height: f64) {
        self.wire("p", &[[from, 0.0], [plus, 0.0]]);
        self.wire("0", &[[from, height], [minus, height]]);
        self.named("plus", "terminal", "+", [[from, 0.0], [from, 0.0]]);
        self.named("minus", "terminal", "−", [[from, height], [from, height]]);
    }

    /// Lights side by side between two heights, joined at both ends; where the last one stands.
    fn lights(&mut self, driven: &[&Light], x: f64, top: (&'static str, f64), bottom: (&'static str, f64)) -> f64 {
        let last = x + 3.0 * driven.len().saturating_sub(1) as f64;
        if driven.len() > 1 {
            for (node, y) in [top, bottom] {
                self.wire(node, &[[x, y], [last, y]]);
            }
        }
        for (number, light) in driven.iter().enumerate() {
            let x = x + 3.0 * number as f64;
            let kind = if matches!(light.load, Load::LedArray(_) | Load::Strip(_)) { "led" } else { "light" };
            self.named(&format!("light{}", number + 1), kind, &light.id, [[x, top.1], [x, bottom.1]]);
            if number > 0 {
                self.dot(top.0, [x, top.1]);
                self.dot(bottom.0, [x, bottom.1]);
            }
        }
        last
    }
}

/// The schematic of a circuit.
pub fn drawing(build: &Build, circuit: &SmallCircuit) -> Drawing {
    let driven: Vec<&Light> = circuit.drives.iter().filter_map(|id| build.lights.iter().find(|light| light.id == *id)).collect();
    let empty = Drawing { width: 0.0, height: 0.0, symbols: Vec::new(), wires: Vec::new(), dots: Vec::new() };
    let mut sheet = Sheet { out: empty };
    match &circuit.parts {
        CircuitParts::TimerFlasher(own) => timer(&mut sheet, own, &driven),
        CircuitParts::TransistorFlasher(own) => two(&mut sheet, own, &driven),
        CircuitParts::BreakdownFlasher(own) => breakdown(&mut sheet, own, &driven),
        CircuitParts::HoldUp(own) => hold_up(&mut sheet, own, &driven),
        CircuitParts::BatteryGauge(own) => gauge(&mut sheet, own),
        CircuitParts::Switch(own) => switch(&mut sheet, own, &driven),
    }
    let all = sheet.out.symbols.iter().flat_map(|one| [one.from, one.to]).chain(sheet.out.wires.iter().flat_map(|wire| wire.points.clone()));
    let (width, height) = all.fold((0.0_f64, 0.0_f64), |(x, y), at| (x.max(at[0]), y.max(at[1])));
    (sheet.out.width, sheet.out.height) = (width, height);
    sheet.out
}

fn timer(s: &mut Sheet, parts: &TimerFlasher, driven: &[&Light]) {
    s.resistor("Ra", "ra_ohm", parts.ra_ohm, [[2.0, 0.0], [2.0, 3.0]]);
    s.resistor("Rb", "rb_ohm", parts.rb_ohm, [[2.0, 3.0], [2.0, 6.0]]);
    s.capacitor("C", "c_f", parts.c_f, [[2.0, 6.0], [2.0, 10.0]]);
    if parts.diode {
        s.named("diode", "diode", "D", [[5.5, 3.0], [5.5, 6.0]]);
        s.dot("dis", [5.5, 3.0]);
        s.dot("thr", [5.5, 6.0]);
    }
    s.wire("dis", &[[2.0, 3.0], [8.0, 3.0]]);
    s.wire("thr", &[[2.0, 6.0], [8.0, 6.0]]);
    let kind = if parts.timer == TimerKind::Cmos { "CMOS timer" } else { "bipolar timer" };
    s.named("timer", "timer", kind, [[8.0, 2.0], [12.0, 8.0]]);
    s.wire("p", &[[10.0, 0.0], [10.0, 2.0]]);
    s.wire("0", &[[10.0, 8.0], [10.0, 10.0]]);
    let ends = match parts.through {
        Through::None => {
            s.wire("out", &[[12.0, 5.0], [15.0, 5.0]]);
            let last = s.lights(driven, 15.0, ("out", 5.0), ("0", 10.0));
            [10.0, if driven.is_empty() { 10.0 } else { last }]
        }
        through => {
            s.resistor("R", "base_ohm", parts.base_ohm.unwrap_or(0.0), [[12.0, 5.0], [15.0, 5.0]]);
            let kind = if through == Through::Npn { "npn" } else { "mosfet" };
            s.named("q", kind, "Q", [[16.0, 4.0], [16.0, 6.0]]);
            s.wire("0", &[[16.0, 6.0], [16.0, 10.0]]);
            let last = s.lights(driven, 16.0, ("p", 0.0), ("c", 4.0));
            [if driven.is_empty() { 10.0 } else { last }, 16.0]
        }
    };
    s.rails(0.0, ends, 10.0);
    for (node, at) in [("p", [2.0, 0.0]), ("p", [10.0, 0.0]), ("dis", [2.0, 3.0]), ("thr", [2.0, 6.0]), ("0", [2.0, 10.0]), ("0", [10.0, 10.0])] {
        s.dot(node, at);
    }
}

fn two(s: &mut Sheet, parts: &TransistorFlasher, driven: &[&Light]) {
    for (side, x, node) in [(0, 2.0, "c1"), (1, 14.0, "c2")] {
        match driven.get(side) {
            Some(light) => {
                s.lights(&[*light], x, ("p", 0.0), (node, 4.0));
            }
            None => {
                let one = s.named(&format!("nothing{}", side + 1), "resistor", "R", [[x, 0.0], [x, 4.0]]);
                (one.value, one.unit) = (Some(1000.0), "ohm");
            }
        }
    }
    s.resistor("R2", "r2_ohm", parts.r2_ohm, [[6.0, 0.0], [6.0, 4.0]]);
    s.resistor("R1", "r1_ohm", parts.r1_ohm, [[10.0, 0.0], [10.0, 4.0]]);
    s.capacitor("C2", "c2_f", parts.c2_f, [[2.0, 4.0], [6.0, 4.0]]);
    s.capacitor("C1", "c1_f", parts.c1_f, [[14.0, 4.0], [10.0, 4.0]]);
    s.named("q1", "npn", "Q1", [[2.0, 7.0], [2.0, 9.0]]).flipped = true;
    s.named("q2", "npn", "Q2", [[14.0, 7.0], [14.0, 9.0]]);
    s.wire("c1", &[[2.0, 4.0], [2.0, 7.0]]);
    s.wire("c2", &[[14.0, 4.0], [14.0, 7.0]]);
    s.wire("b2", &[[6.0, 4.0], [6.0, 5.0], [12.0, 8.0], [13.0, 8.0]]);
    s.wire("b1", &[[10.0, 4.0], [10.0, 5.0], [4.0, 8.0], [3.0, 8.0]]);
    s.wire("0", &[[2.0, 9.0], [2.0, 11.0]]);
    s.wire("0", &[[14.0, 9.0], [14.0, 11.0]]);
    s.rails(0.0, [14.0, 14.0], 11.0);
    for (node, at) in [("c1", [2.0, 4.0]), ("b2", [6.0, 4.0]), ("b1", [10.0, 4.0]), ("c2", [14.0, 4.0])] {
        s.dot(node, at);
    }
    for x in [2.0, 6.0, 10.0] {
        s.dot("p", [x, 0.0]);
    }
    s.dot("0", [2.0, 11.0]);
}

fn breakdown(s: &mut Sheet, parts: &BreakdownFlasher, driven: &[&Light]) {
    s.resistor("R", "r_ohm", parts.r_ohm, [[2.0, 0.0], [2.0, 4.0]]);
    s.capacitor("C", "c_f", parts.c_f, [[2.0, 4.0], [2.0, 9.0]]);
    s.wire("n", &[[2.0, 4.0], [6.0, 4.0]]);
    s.named("breaks", "npn_reversed", "Q, base open", [[6.0, 4.0], [6.0, 6.0]]);
    let end = if driven.is_empty() {
        let one = s.named("nothing", "resistor", "R", [[6.0, 6.0], [6.0, 9.0]]);
        (one.value, one.unit) = (Some(1000.0), "ohm");
        6.0
    } else {
        s.lights(driven, 6.0, ("l", 6.0), ("0", 9.0))
    };
    s.wire("p", &[[0.0, 0.0], [2.0, 0.0]]);
    s.wire("0", &[[0.0, 9.0], [end, 9.0]]);
    s.named("plus", "terminal", "+", [[0.0, 0.0]; 2]);
    s.named("minus", "terminal", "−", [[0.0, 9.0]; 2]);
    s.dot("n", [2.0, 4.0]);
    s.dot("0", [2.0, 9.0]);
}

fn hold_up(s: &mut Sheet, parts: &HoldUp, driven: &[&Light]) {
    let height = 10.0;
    let begins = if parts.bridge {
        for (name, ends) in
            [("d3", [[3.0, height], [3.0, 6.0]]), ("d1", [[3.0, 4.0], [3.0, 0.0]]), ("d4", [[6.0, height], [6.0, 6.0]]), ("d2", [[6.0, 4.0], [6.0, 0.0]])]
        {
            s.named(name, "diode", &name.to_uppercase(), ends);
        }
        s.wire("in", &[[3.0, 4.0], [3.0, 6.0]]);
        s.wire("back", &[[6.0, 4.0], [6.0, 6.0]]);
        s.wire("in", &[[0.0, 4.5], [3.0, 4.5]]);
        s.wire("back", &[[0.0, 6.5], [4.5, 6.5], [4.5, 5.0], [6.0, 5.0]]);
        s.named("rail1", "terminal", "rail", [[0.0, 4.5]; 2]);
        s.named("rail2", "terminal", "rail", [[0.0, 6.5]; 2]);
        s.wire("top", &[[3.0, 0.0], [7.0, 0.0]]);
        s.dot("top", [6.0, 0.0]);
        s.dot("in", [3.0, 4.5]);
        s.dot("back", [6.0, 5.0]);
        s.dot("0", [6.0, height]);
        7.0
    } else {
        s.wire("in", &[[0.0, 0.0], [2.0, 0.0]]);
        s.named("plus", "terminal", "+", [[0.0, 0.0]; 2]);
        s.named("minus", "terminal", "−", [[0.0, height]; 2]);
        2.0
    };
    s.resistor("R", "charge_ohm", parts.charge_ohm, [[begins, 0.0], [begins + 3.0, 0.0]]);
    let held = begins + 4.0;
    s.wire("held", &[[begins + 3.0, 0.0], [held + 1.0, 0.0]]);
    s.capacitor("C", "c_f", parts.c_f, [[held, 0.0], [held, height]]);
    s.dot("held", [held, 0.0]);
    s.dot("0", [held, height]);
    let taps = &parts.taps_ohm;
    let used = (parts.tap as usize).min(taps.len());
    let mut x = held + 1.0;
    let mut light = x;
    for (number, ohm) in taps.iter().enumerate() {
        let one = s.named(&format!("tap{}", number + 1), "resistor", &format!("R{}", number + 1), [[x, 0.0], [x + 3.0, 0.0]]);
        (one.value, one.unit, one.unused) = (Some(*ohm), "ohm", number >= used);
        x += 3.0;
        if number + 1 == used {
            light = x;
        }
    }
    // Several lights hang below one another's joint, clear of the resistors that are not used.
    let end = if driven.len() > 1 && used < taps.len() {
        s.wire("sense_p", &[[light, 0.0], [light, 3.0]]);
        s.lights(driven, light, ("sense_p", 3.0), ("0", height))
    } else if driven.is_empty() {
        let one = s.named("nothing", "resistor", "R", [[light, 0.0], [light, height]]);
        (one.value, one.unit) = (Some(1000.0), "ohm");
        light
    } else {
        s.lights(driven, light, ("sense_p", 0.0), ("0", height))
    };
    s.dot("sense_p", [light, 0.0]);
    s.wire("0", &[[if parts.bridge { 3.0 } else { 0.0 }, height], [end, height]]);
}

fn gauge(s: &mut Sheet, parts: &BatteryGauge) {
    s.resistor("Rs", "rs_ohm", parts.rs_ohm, [[2.0, 0.0], [2.0, 3.0]]);
    s.named("led_good", "led", "good", [[2.0, 3.0], [2.0, 6.0]]);
    let count = parts.diodes;
    let end = if count > 0 {
        let one = s.named("diodes", "diode", &format!("{count} diode{}", if count == 1 { "" } else { "s" }), [[2.0, 6.0], [2.0, 9.0]]);
        one.field = Some("diodes");
        9.0
    } else {
        6.0
    };
    let height = end + 4.0;
    s.resistor("Rb", "rb_ohm", parts.rb_ohm, [[2.0, end], [2.0, height]]);
    s.wire("b", &[[2.0, end], [6.0, end]]);
    s.named("q", "npn", "Q", [[7.0, end - 1.0], [7.0, end + 1.0]]);
    s.wire("0", &[[7.0, end + 1.0], [7.0, height]]);
    s.resistor("Rc", "rc_ohm", parts.rc_ohm, [[7.0, 0.0], [7.0, 3.0]]);
    s.wire("c", &[[7.0, 3.0], [7.0, end - 1.0]]);
    s.wire("c", &[[7.0, 4.0], [11.0, 4.0]]);
    s.named("led_low", "led", "low", [[11.0, 4.0], [11.0, height]]);
    s.rails(0.0, [7.0, 7.0], height);
    s.wire("0", &[[7.0, height], [11.0, height]]);
    for (node, at) in [("p", [2.0, 0.0]), ("b", [2.0, end]), ("c", [7.0, 4.0]), ("0", [2.0, height]), ("0", [7.0, height])] {
        s.dot(node, at);
    }
}

fn switch(s: &mut Sheet, parts: &PinSwitch, driven: &[&Light]) {
    s.named("pin", "terminal", "pin", [[0.0, 5.0]; 2]);
    s.wire("logic", &[[0.0, 5.0], [1.0, 5.0]]);
    s.resistor("R", "base_ohm", parts.base_ohm, [[1.0, 5.0], [4.0, 5.0]]);
    let kind = if parts.through == Transistor::Mosfet { "mosfet" } else { "npn" };
    s.named("q", kind, "Q", [[5.0, 4.0], [5.0, 6.0]]);
    s.wire("0", &[[5.0, 6.0], [5.0, 9.0]]);
    let end = if driven.is_empty() {
        let one = s.named("nothing", "resistor", "R", [[5.0, 0.0], [5.0, 4.0]]);
        (one.value, one.unit) = (Some(1000.0), "ohm");
        5.0
    } else {
        s.lights(driven, 5.0, ("p", 0.0), ("c", 4.0))
    };
    s.rails(0.0, [end, 5.0], 9.0);
}
