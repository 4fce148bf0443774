//! What a circuit does over the whole battery and with parts at the edge of what is printed on them, and what the closed
//! formula says beside the simulation.

use super::schematic::Fed;
use super::{CircuitError, CircuitFigures, Workshop, figures};
use orthavis_model::data;
use orthavis_model::document::{Build, CircuitKind, CircuitParts};
use orthavis_model::practice::{ELECTROLYTIC_F, ELECTROLYTIC_OFF, FILM_OFF, RESISTOR_OFF};
use orthavis_model::states::State;
use std::f64::consts::{LN_2, LN_10};

/// Of two transistors: what flashes faster than this share of its formula does not fill its capacitors.
const HURRIED: f64 = 0.8;
/// What a silicon junction keeps while it conducts a little, V.
const JUNCTION_V: f64 = 0.6;

data! {
    /// What a circuit does at one state of the source.
    pub struct AtState {
        /// The state's word.
        pub state: &'static str,
        /// The same for a person, as in `full battery`.
        pub called: &'static str,
        /// What the circuit is fed with then, without load, V; of an alternating supply its peak.
        pub supply_v: f64,
        /// Its figures.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub figures: Option<CircuitFigures>,
        /// Why it has none.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub problem: Option<String>,
    }

    /// A figure with parts that have least and most of what is printed on them.
    pub struct Spread {
        /// The figure's name.
        pub figure: &'static str,
        /// What it is, in words.
        pub called: &'static str,
        /// Least.
        pub least: f64,
        /// Most.
        pub most: f64,
        /// Unit of both.
        pub unit: &'static str,
    }

    /// A closed formula beside the simulation.
    pub struct Formula {
        /// What it gives, in words.
        pub called: &'static str,
        /// The formula.
        pub formula: &'static str,
        /// What it gives.
        pub value: f64,
        /// What the simulation gives.
        pub simulated: f64,
        /// Unit of both.
        pub unit: &'static str,
        /// Why they differ.
        pub why: &'static str,
    }
}

/// What it does at a state.
pub fn at_state(build: &Build, index: usize, state: State) -> AtState {
    told(build, index, state, figures(build, index, state))
}

/// What was found of it at a state, or why it does nothing then.
pub fn told(build: &Build, index: usize, state: State, found: Result<CircuitFigures, CircuitError>) -> AtState {
    let (figures, problem) = match found {
        Ok(figures) => (Some(figures), None),
        Err(CircuitError::DoesNotRun { why, .. }) => (None, Some(why)),
        Err(error) => (None, Some(error.to_string())),
    };
    AtState { state: state.word(), called: state.phrase(), supply_v: Fed::of(build, &build.circuits[index], state).emf_v, figures, problem }
}

/// What it does at every state of the source.
pub fn at_states(build: &Build, index: usize) -> Vec<AtState> {
    build.states().into_iter().map(|state| at_state(build, index, state)).collect()
}

/// The same build with the parts of a circuit changed.
pub(super) fn with(build: &Build, index: usize, change: impl FnOnce(&mut CircuitParts)) -> Build {
    let mut copy = build.clone();
    change(&mut copy.circuits[index].parts);
    copy
}

fn off(farad: f64, up: bool) -> f64 {
    match (farad >= ELECTROLYTIC_F, up) {
        (true, true) => 1.0 + ELECTROLYTIC_OFF.1,
        (true, false) => 1.0 - ELECTROLYTIC_OFF.0,
        (false, true) => 1.0 + FILM_OFF,
        (false, false) => 1.0 - FILM_OFF,
    }
}

/// All resistors and capacitors with least or most of what is printed on them.
fn at_the_edge(parts: &mut CircuitParts, up: bool) {
    let share = if up { 1.0 + RESISTOR_OFF } else { 1.0 - RESISTOR_OFF };
    for ohm in [&mut parts.ra_ohm, &mut parts.rb_ohm, &mut parts.r1_ohm, &mut parts.r2_ohm, &mut parts.r_ohm].into_iter().flatten() {
        *ohm *= share;
    }
    for ohm in parts.taps_ohm.iter_mut().flatten() {
        *ohm *= share;
    }
    for farad in [&mut parts.c_f, &mut parts.c1_f, &mut parts.c2_f].into_iter().flatten() {
        *farad *= off(*farad, up);
    }
}

/// What tolerances make of it at a state; nothing where tolerances decide nothing.
pub fn tolerances(build: &Build, index: usize, state: State) -> Vec<Spread> {
    let own = &build.circuits[index];
    let at = |change: &dyn Fn(&mut CircuitParts)| {
        let copy = with(build, index, change);
        Workshop::of(&copy, index, state).figures(&copy).ok()
    };
    let (Some(low), Some(high)) = (at(&|parts| at_the_edge(parts, false)), at(&|parts| at_the_edge(parts, true))) else { return Vec::new() };
    match own.kind {
        CircuitKind::TimerFlasher | CircuitKind::TransistorFlasher | CircuitKind::BreakdownFlasher => {
            let (Some(least), Some(most)) = (low.period_s, high.period_s) else { return Vec::new() };
            let mut found = vec![Spread { figure: "period_s", called: "from one flash to the next", least, most, unit: "s" }];
            // One resistor at its least while the other is at its most.
            let one_sided = |up: bool| {
                at(&|parts: &mut CircuitParts| {
                    let (more, less) = if up { (1.0 + RESISTOR_OFF, 1.0 - RESISTOR_OFF) } else { (1.0 - RESISTOR_OFF, 1.0 + RESISTOR_OFF) };
                    for ohm in [&mut parts.ra_ohm, &mut parts.r2_ohm].into_iter().flatten() {
                        *ohm *= more;
                    }
                    for ohm in [&mut parts.rb_ohm, &mut parts.r1_ohm].into_iter().flatten() {
                        *ohm *= less;
                    }
                    if let Some(farad) = &mut parts.c2_f {
                        *farad *= off(*farad, up);
                    }
                    if let Some(farad) = &mut parts.c1_f {
                        *farad *= off(*farad, !up);
                    }
                })
                .and_then(|figures| figures.duty)
            };
            if let (Some(least), Some(most)) = (one_sided(false), one_sided(true)) {
                found.push(Spread { figure: "duty", called: "share of the time on", least: least.min(most), most: most.max(least), unit: "1" });
            }
            found
        }
        CircuitKind::HoldUp => {
            let used = format!("tap{}", own.parts.tap.unwrap_or(1));
            let (Some(low), Some(high)) = (low.taps.get(&used), high.taps.get(&used)) else { return Vec::new() };
            vec![
                Spread { figure: "half_s", called: "until half of the light", least: low.half_s, most: high.half_s, unit: "s" },
                Spread { figure: "tenth_s", called: "until a tenth of it", least: low.tenth_s, most: high.tenth_s, unit: "s" },
            ]
        }
        CircuitKind::BatteryGauge | CircuitKind::Switch => Vec::new(),
    }
}

/// The closed formulas of its kind, beside what was simulated.
pub fn formulas(build: &Build, index: usize, state: State, found: &CircuitFigures) -> Vec<Formula> {
    let own = &build.circuits[index];
    let parts = &own.parts;
    let number = |value: Option<f64>| value.unwrap_or(0.0);
    let supply_v = Fed::of(build, own, state).emf_v;
    let flash = |period: (&'static str, f64), on: (&'static str, f64), why: &'static str| {
        let line = |called, formula, value, simulated: Option<f64>| simulated.map(|simulated| Formula { called, formula, value, simulated, unit: "s", why });
        [line("From one flash to the next", period.0, period.1, found.period_s), line("Of that on", on.0, on.1, found.on_s)].into_iter().flatten().collect()
    };
    match own.kind {
        CircuitKind::TimerFlasher => {
            let (ra, rb, c) = (number(parts.ra_ohm), number(parts.rb_ohm), number(parts.c_f));
            if parts.diode == Some(true) {
                let why = "The diode keeps some 0.6 V, so that filling takes longer than the formula says; less so on more volts.";
                flash(("T = 0.693 · C · (Ra + Rb)", LN_2 * c * (ra + rb)), ("t_on = 0.693 · C · Ra", LN_2 * c * ra), why)
            } else {
                let why = "The discharge pin has some 10 Ω of its own.";
                flash(("T = 0.693 · C · (Ra + 2 Rb)", LN_2 * c * (ra + 2.0 * rb)), ("t_on = 0.693 · C · (Ra + Rb)", LN_2 * c * (ra + rb)), why)
            }
        }
        CircuitKind::TransistorFlasher => {
            let (a, b) = (number(parts.r1_ohm) * number(parts.c1_f), number(parts.r2_ohm) * number(parts.c2_f));
            let why = if found.base_least_v.is_some_and(|volts| volts < -6.9) {
                "A base breaks down backwards at some 7 V and eats into its capacitor's charge, so that it flashes faster. A diode in each base lead cures it."
            } else if found.period_s.is_some_and(|period| period < HURRIED * LN_2 * (a + b)) {
                "A capacitor does not fill again in the time of the other half, so that it flashes faster. Make the halves more alike."
            } else {
                "The formula forgets the 0.6 V of a base and what a light keeps for itself."
            };
            flash(("T = 0.693 · (R1 · C1 + R2 · C2)", LN_2 * (a + b)), ("t_on = 0.693 · R2 · C2", LN_2 * b), why)
        }
        CircuitKind::BreakdownFlasher => {
            let (fires, lets_go) = (parts.fire_v.unwrap_or(9.0), parts.let_go_v.unwrap_or(7.0));
            let value = number(parts.r_ohm) * number(parts.c_f) * ((supply_v - lets_go) / (supply_v - fires)).max(1.0).ln();
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
        CircuitKind::HoldUp => {
            let tap = parts.tap.unwrap_or(1);
            let row: f64 = parts.taps_ohm.iter().flatten().take(tap as usize).sum();
            let Some(held) = found.taps.get(&format!("tap{tap}")) else { return Vec::new() };
            let why = "The formula counts the resistors before the lights alone and takes the LEDs' voltage for constant; with less current it falls.";
            let line = |called, formula, value, simulated| Formula { called, formula, value, simulated, unit: "s", why };
            vec![
                line("Until half of the light", "t = 0.693 · C · R", LN_2 * number(parts.c_f) * row, held.half_s),
                line("Until a tenth of it", "t = 2.3 · C · R", LN_10 * number(parts.c_f) * row, held.tenth_s),
            ]
        }
        CircuitKind::BatteryGauge => {
            let Some(good) = &parts.led_good else { return Vec::new() };
            let begins = found.bands.iter().find(|band| band.lit.contains("good")).map(|band| band.from_v);
            let value = good.vf_v + JUNCTION_V * f64::from(parts.diodes.unwrap_or(0)) + JUNCTION_V;
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
        CircuitKind::Switch => {
            let (Some(simulated), Some(base)) = (found.pin_a, parts.base_ohm) else { return Vec::new() };
            let gate = parts.through == Some(orthavis_model::document::Through::Mosfet);
            let value = if gate { 0.0 } else { (parts.logic_v.unwrap_or(super::schematic::LOGIC_V) - 0.7) / base };
            let formula = if gate { "I = 0: a gate takes none" } else { "I = (V_pin − 0.7 V) / R" };
            let why = "A base takes a little less or more than 0.7 V, by its current.";
            vec![Formula { called: "From the pin", formula, value, simulated, unit: "A", why }]
        }
    }
}
