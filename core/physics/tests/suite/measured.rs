//! Small circuits: held against figures made by an independent program, and against a general circuit simulator.

use orthavis_model::document::{Build, parse_value};
use orthavis_model::states::State;
use orthavis_physics::circuits::{self, CircuitFigures, Simulation};
use orthavis_testing::{file, spice};
use serde_json::{Value, json};
use std::collections::BTreeMap;

/// How many choices of parts are tried of each circuit; more of them in the long run.
fn choices() -> u32 {
    std::env::var("ORTHAVIS_CIRCUITS").ok().and_then(|count| count.parse().ok()).unwrap_or(6)
}

fn feed(from: &str) -> Value {
    json!({ "from": from, "at_m": 0.0, "length_m": 0.1, "gauge": { "mm2": 0.5 }, "return": "wire", "fuse": null, "switch": null,
        "contacts": 0, "contact_rating_a": null, "bundled": 1 })
}

fn array(id: &str, parallel: u32, ohm: f64) -> Value {
    json!({ "id": id, "place": "rear", "feeds": [feed("c")], "mass_g": 1.0, "load": { "kind": "led_array", "series": 1, "parallel": parallel,
        "resistor_ohm": ohm, "resistor_w": 0.25, "led": { "colour": "red", "vf_v": 2.0, "if_a": 0.02, "if_max_a": 0.03, "n": null, "rs_ohm": null } } })
}

/// A build of one circuit with the lights that it drives.
fn build(kind: &str, volts: f64, parts: &Value, lights: &[Value]) -> Build {
    let drives: Vec<&Value> = lights.iter().map(|light| &light["id"]).collect();
    let scene: BTreeMap<&str, Value> = drives.iter().map(|id| (id.as_str().expect("an id"), json!({}))).collect();
    let document = json!({
        "format": "orthavis.build/1", "name": "one circuit", "notes": "",
        "vehicle": { "kind": "other", "mass_kg": 2.0, "frame_return_ohm": null, "propulsion": null },
        "source": { "kind": "rail", "voltage_v": volts, "resistance_ohm": 0.001, "max_current_a": 2.0, "other_load_a": 0.0 },
        "junctions": [], "converters": [], "standing": [], "lights": lights,
        "circuits": [{ "id": "c", "kind": kind, "feed": feed("source"), "drives": drives, "parts": parts, "mass_g": 3.0, "place": "rear" }],
        "scenes": [{ "id": "on", "name": "On", "lights": scene }],
        "usage": { "outings_per_week": 1.0, "minutes": { "on": 10.0 } }
    });
    parse_value(&document).unwrap_or_else(|error| panic!("{kind}: {error}"))
}

fn figures(build: &Build, state: State) -> CircuitFigures {
    circuits::figures(build, 0, state).unwrap_or_else(|error| panic!("{error}"))
}

#[test]
fn circuits_do_what_an_independent_program_found() {
    for name in ["timer-9v", "holdup-small", "gauge-no-diode"] {
        let case: Value = serde_json::from_str(&file(&format!("circuits/{name}.json"))).expect("json");
        let build = parse_value(&case["document"]).unwrap_or_else(|error| panic!("{name}: {error}"));
        let word = case["state"].as_str().expect("a state");
        let state = State::WORDS.iter().find(|(known, _)| *known == word).expect("known").1;
        let found = serde_json::to_value(figures(&build, state)).expect("json");
        let close = |path: &str, ours: &Value, theirs: &Value, within: f64| {
            let (ours, theirs) = (ours.as_f64().unwrap_or(f64::NAN), theirs.as_f64().expect("a figure"));
            assert!((ours - theirs).abs() <= within, "{name} {path}: {ours}, expected {theirs}");
        };
        for (key, expected) in case["expect"].as_object().expect("figures") {
            let within = case["within"][key].as_f64().unwrap_or(0.01);
            match key.as_str() {
                "duty" => close(key, &found[key], expected, within),
                "bands" => {
                    let (ours, theirs) = (found[key].as_array().expect("bands"), expected.as_array().expect("bands"));
                    assert_eq!(ours.len(), theirs.len(), "{name}: {ours:?}");
                    for (one, other) in ours.iter().zip(theirs) {
                        assert_eq!(one["lit"], other["lit"]);
                        close("from_v", &one["from_v"], &other["from_v"], within);
                        close("to_v", &one["to_v"], &other["to_v"], within);
                    }
                }
                "taps" => {
                    for (tap, figures) in expected.as_object().expect("taps") {
                        for (figure, theirs) in figures.as_object().expect("figures") {
                            let within = case["within"][figure].as_f64().unwrap_or(0.02) * theirs.as_f64().expect("a figure");
                            close(&format!("{tap} {figure}"), &found["taps"][tap][figure], theirs, within);
                        }
                    }
                }
                _ => close(key, &found[key], expected, within * expected.as_f64().expect("a figure")),
            }
        }
    }
}

/// Figures between two ends, one after the other and always the same.
struct Dice(u64);

impl Dice {
    fn between(&mut self, low: f64, high: f64) -> f64 {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        let share = (self.0 >> 11) as f64 / (1u64 << 53) as f64;
        low * (high / low).powf(share)
    }
}

/// Ours and theirs, by the names of the figures.
fn compared(build: &Build, names: &[(&str, f64, f64)], worst: &mut BTreeMap<String, f64>, kind: &str) {
    let workshop = Simulation::of(build, 0, State::Rail);
    let ours = serde_json::to_value(circuits::figures(build, 0, State::Rail).unwrap_or_else(|error| panic!("{error}"))).expect("json");
    let theirs = spice::run(&workshop.spice("ours").expect("a netlist"), "run");
    for (name, relative, absolute) in names {
        let mine = match *name {
            "half_s" | "tenth_s" => ours["taps"]["tap2"][*name].as_f64(),
            _ => ours[*name].as_f64(),
        };
        let mine = mine.unwrap_or_else(|| panic!("{kind}: {name} in {ours}"));
        let other = theirs.get(*name).unwrap_or_else(|| panic!("{kind}: {name} in {theirs:?}"));
        let off = (mine - other).abs();
        assert!(off <= relative * other.abs() + absolute, "{kind} {name}: {mine} here, {other} there: {:?}", build.circuits[0].parts);
        let entry = worst.entry(format!("{kind} {name}")).or_default();
        *entry = entry.max(off / other.abs().max(1e-12));
    }
}

#[test]
fn a_general_simulator_agrees_on_parts_chosen_at_random() {
    let mut dice = Dice(7);
    let mut worst = BTreeMap::new();
    let swings = [("period_s", 0.01, 0.0), ("duty", 0.0, 0.01), ("supply_mean_a", 0.02, 1e-5)];
    for round in 0..choices() {
        let volts = dice.between(5.5, 14.0);
        let through = ["none", "npn", "mosfet"][round as usize % 3];
        let timer = if round % 2 == 0 { "bipolar" } else { "cmos" };
        let parts = json!({ "ra_ohm": dice.between(2e3, 1e5), "rb_ohm": dice.between(2e3, 1e5), "c_f": dice.between(1e-6, 1e-4), "timer": timer,
            "diode": round % 4 == 3, "through": through, "base_ohm": 1000.0 });
        let ohm = dice.between(220.0, 1000.0);
        compared(&build("timer_flasher", volts, &parts, &[array("a", 2, ohm)]), &swings, &mut worst, "timer_flasher");

        let parts =
            json!({ "r1_ohm": dice.between(1e4, 6e4), "r2_ohm": dice.between(1e4, 6e4), "c1_f": dice.between(4e-6, 4e-5), "c2_f": dice.between(4e-6, 4e-5) });
        let low = dice.between(4.0, 6.5);
        compared(&build("transistor_flasher", low, &parts, &[array("a", 1, 330.0), array("b", 1, 330.0)]), &swings, &mut worst, "transistor_flasher");
        // From some eight volts on their bases break down backwards.
        let broken = &build("transistor_flasher", dice.between(8.5, 14.0), &parts, &[array("a", 1, 470.0), array("b", 1, 470.0)]);
        compared(broken, &swings, &mut worst, "transistor_flasher, broken down");

        let parts = json!({ "r_ohm": dice.between(1e3, 1e4), "c_f": dice.between(4.7e-5, 1e-3), "fire_v": 9.0, "let_go_v": 7.0 });
        let high = dice.between(11.0, 15.0);
        compared(&build("breakdown_flasher", high, &parts, &[array("a", 1, 100.0)]), &swings[..1], &mut worst, "breakdown_flasher");

        let parts = json!({ "bridge": round % 2 == 0, "charge_ohm": dice.between(10.0, 100.0), "c_f": dice.between(1e-4, 2e-3), "c_rated_v": 25.0, "esr_ohm": 0.05,
            "taps_ohm": [1000.0, dice.between(300.0, 2000.0)], "tap": 2 });
        let held = [("half_s", 0.02, 0.0), ("tenth_s", 0.02, 0.0)];
        compared(&build("hold_up", dice.between(9.0, 16.0), &parts, &[array("a", 2, 470.0)]), &held, &mut worst, "hold_up");

        let parts = json!({ "through": if round % 2 == 0 { "npn" } else { "mosfet" }, "base_ohm": dice.between(470.0, 1e4), "logic_v": 5.0 });
        let figures = [("supply_mean_a", 0.01, 1e-5), ("drop_v", 0.01, 0.01)];
        compared(&build("switch", volts, &parts, &[array("a", 3, ohm)]), &figures, &mut worst, "switch");

        let led = json!({ "colour": "red", "vf_v": 2.0, "if_a": 0.02, "if_max_a": 0.03, "n": null, "rs_ohm": null });
        let parts = json!({ "rs_ohm": dice.between(150.0, 1000.0), "rb_ohm": 1000.0, "rc_ohm": dice.between(220.0, 1000.0), "diodes": round % 3, "led_good": led, "led_low": led });
        compared(&build("battery_gauge", dice.between(3.0, 9.0), &parts, &[]), &[("supply_mean_a", 0.01, 1e-5)], &mut worst, "battery_gauge");
    }
    for (name, off) in worst {
        println!("{name}: {:.3} %", 100.0 * off);
    }
}

#[test]
fn what_does_not_run_is_said_with_what_to_do() {
    let low = json!({ "ra_ohm": 1e4, "rb_ohm": 1e4, "c_f": 1e-5, "timer": "bipolar" });
    let breaks = json!({ "r_ohm": 1e4, "c_f": 1e-5 });
    for (build, words) in [
        (build("timer_flasher", 3.7, &low, &[array("a", 1, 330.0)]), "wants 4.5 V and gets 3.7 V"),
        (build("breakdown_flasher", 8.0, &breaks, &[array("a", 1, 330.0)]), "fires at 9 V and never gets above 8.0 V"),
    ] {
        let error = circuits::figures(&build, 0, State::Rail).expect_err(words).to_string();
        assert!(error.starts_with("`c` does not run on the supply") && error.contains(words), "{error}");
    }
}
