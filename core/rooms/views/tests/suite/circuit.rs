//! Schematics: what is drawn is what is simulated, and nothing hangs in the air.

use orthavis_model::states::State;
use orthavis_physics::circuits::Simulation;
use orthavis_testing::circuits::{every_circuit, one_circuit};
use orthavis_views::circuit::{CircuitView, Drawing, Symbol, circuit_view, drawing};
use serde_json::json;

type Spot = [f64; 2];

fn lies_on(at: Spot, [a, b]: [Spot; 2]) -> bool {
    let (along, across) = ([b[0] - a[0], b[1] - a[1]], [at[0] - a[0], at[1] - a[1]]);
    let cross = along[0] * across[1] - along[1] * across[0];
    let dot = along[0] * across[0] + along[1] * across[1];
    cross.abs() < 1e-9 && dot >= -1e-9 && dot <= along[0] * along[0] + along[1] * along[1] + 1e-9
}

/// Nodes whose conductors pass through a spot with an end, a corner or a joint, or end there.
fn nodes_at(drawing: &Drawing, at: Spot) -> Vec<&'static str> {
    let lies = |points: &[Spot]| points.windows(2).any(|pair| lies_on(at, [pair[0], pair[1]]));
    let mut found: Vec<&'static str> = drawing.wires.iter().filter(|wire| lies(&wire.points)).map(|wire| wire.node).collect();
    found.dedup();
    found
}

/// Where a symbol is joined to others.
fn pins(symbol: &Symbol) -> Vec<Spot> {
    let [from, to] = [symbol.from, symbol.to];
    let middle = [from[0], 0.5 * (from[1] + to[1])];
    let side = if symbol.flipped { 1.0 } else { -1.0 };
    match symbol.kind {
        "npn" | "mosfet" => vec![from, [from[0] + side, middle[1]], to],
        "timer" => vec![[from[0] + 2.0, from[1]], [from[0] + 2.0, to[1]], [from[0], from[1] + 4.0], [from[0], from[1] + 1.0], [to[0], from[1] + 3.0]],
        "terminal" => vec![from],
        _ => vec![from, to],
    }
}

#[test]
fn every_leg_of_every_symbol_is_joined_to_something() {
    for (name, build) in every_circuit() {
        let drawn = drawing(&build, &build.circuits[0]);
        for symbol in drawn.symbols.iter().filter(|symbol| !symbol.unused) {
            for pin in pins(symbol) {
                let beside = drawn.symbols.iter().filter(|other| other.name != symbol.name).any(|other| pins(other).contains(&pin));
                assert!(beside || !nodes_at(&drawn, pin).is_empty(), "{name}: `{}` hangs in the air at {pin:?}", symbol.name);
            }
        }
        for wire in &drawn.wires {
            for end in [wire.points[0], wire.points[wire.points.len() - 1]] {
                let part = drawn.symbols.iter().any(|symbol| pins(symbol).contains(&end));
                let other = drawn.wires.iter().filter(|other| *other != wire).any(|other| other.points.windows(2).any(|pair| lies_on(end, [pair[0], pair[1]])));
                assert!(part || other, "{name}: `{}` ends nowhere at {end:?}", wire.node);
            }
        }
        for dot in &drawn.dots {
            let pins = drawn.symbols.iter().flat_map(pins).filter(|pin| *pin == dot.at).count();
            assert!(nodes_at(&drawn, dot.at).contains(&dot.node) || pins > 0, "{name}: a joint of `{}` lies beside its conductor", dot.node);
        }
    }
}

#[test]
fn parts_stand_between_the_nodes_that_they_are_simulated_between() {
    // A part's name in the drawing and in the simulation, where they are the same.
    const SAME: [&str; 14] = ["ra", "rb", "c", "diode", "r1", "r2", "c1", "c2", "r", "base", "rs", "rc", "led_good", "led_low"];
    for (name, build) in every_circuit() {
        let drawn = drawing(&build, &build.circuits[0]);
        let workshop = Simulation::of(&build, 0, State::Rail);
        let circuit = workshop.circuit();
        for symbol in drawn.symbols.iter().filter(|symbol| SAME.contains(&symbol.name.as_str())) {
            let Some(part) = circuit.parts.iter().find(|part| part.name == symbol.name) else { continue };
            for (pin, node) in pins(symbol).into_iter().zip(&part.nodes) {
                let here = nodes_at(&drawn, pin);
                let simulated = circuit.nodes[*node].as_str();
                // Where no conductor is drawn, two legs share the spot; and behind its own resistance a capacitor is the same to a reader.
                let same = here.is_empty() || here.contains(&simulated) || simulated == "plate";
                assert!(same, "{name}: `{}` is drawn at {here:?} and simulated at `{simulated}`", symbol.name);
            }
        }
    }
}

#[test]
fn a_blink_is_never_shown_faster_than_three_a_second() {
    let fast = one_circuit("timer_flasher", 12.0, &json!({ "ra_ohm": 1e3, "rb_ohm": 1e3, "c_f": 1e-5, "timer": "cmos", "through": "mosfet" }), &["a"]);
    let view = circuit_view(&fast, 0, State::Rail, false).expect("a view");
    let (blink, real) = (view.blink.expect("it flashes"), view.states[0].figures.as_ref().and_then(|figures| figures.period_s).expect("a period"));
    assert!(real < 0.1 && blink.slowed && (blink.period_s - 1.0 / 3.0).abs() < 1e-12);
    assert!((blink.on_s / blink.period_s - view.states[0].figures.as_ref().and_then(|figures| figures.duty).expect("a duty")).abs() < 1e-9);
    for (name, build) in every_circuit() {
        let (whole, quick) = (circuit_view(&build, 0, State::Rail, false).expect("a view"), circuit_view(&build, 0, State::Rail, true).expect("a view"));
        assert_eq!(whole.waveforms.len(), quick.waveforms.len(), "{name}");
        let period = |view: &CircuitView| view.states[0].figures.as_ref().and_then(|figures| figures.period_s).unwrap_or(1.0);
        assert!((period(&quick) / period(&whole) - 1.0).abs() < 0.01, "{name}: {} sketched, {} followed", period(&quick), period(&whole));
        assert!(
            quick.tolerances.is_empty() && whole.waveforms.iter().all(|wave| wave.least.iter().zip(&wave.most).all(|(least, most)| least <= most)),
            "{name}"
        );
    }
}
