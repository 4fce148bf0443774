//! A small circuit as its own drawn workshop: schematic, waveforms, figures over the whole battery, and the closed formula
//! beside the simulation.
//!
//! Symbols are named after what they are in IEC 60617; whoever draws them knows their shapes. Coordinates are in squares
//! of the drawing, x to the right and y down; plus is at the top.

mod drawing;

pub use drawing::drawing;
use orthavis_model::data;
use orthavis_model::document::{Build, CircuitKind, Light, SmallCircuit};
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
