//! Builds of one small circuit on a rail.

use orthavis_model::document::{Build, parse_value};
use serde_json::{Map, Value, json};

/// One circuit `c` of a kind on a rail of so many volts, before red LEDs with 470 ohm of these names.
///
/// # Panics
/// When its parts are none of that kind.
pub fn one_circuit(kind: &str, volts: f64, parts: &Value, lights: &[&str]) -> Build {
    let feed = |from: &str| json!({ "from": from, "length_m": 0.1, "gauge": { "mm2": 0.5 } });
    let light = |id: &&str| {
        json!({ "id": id, "feeds": [feed("c")], "load": { "kind": "led_array", "series": 1, "parallel": 1, "resistor_ohm": 470.0,
            "resistor_w": 0.25, "led": { "colour": "red", "vf_v": 2.0, "if_a": 0.02, "if_max_a": 0.03 } } })
    };
    let scene: Map<String, Value> = lights.iter().map(|id| ((*id).to_owned(), json!({}))).collect();
    let document = json!({
        "format": "orthavis.build/1", "name": "one circuit", "vehicle": { "kind": "other", "mass_kg": 1.0 },
        "source": { "kind": "rail", "voltage_v": volts, "resistance_ohm": 0.001, "max_current_a": 2.0 },
        "circuits": [{ "id": "c", "kind": kind, "feed": feed("source"), "drives": lights, "parts": parts }],
        "lights": lights.iter().map(light).collect::<Vec<_>>(), "scenes": [{ "id": "on", "lights": scene }]
    });
    parse_value(&document).unwrap_or_else(|error| panic!("{kind}: {error}"))
}

/// Every kind of circuit, in the forms in which it is drawn and soldered.
pub fn every_circuit() -> Vec<(&'static str, Build)> {
    let led = json!({ "vf_v": 2.0, "if_a": 0.02, "if_max_a": 0.03 });
    let build = |kind: &str, parts: &Value, lights: &[&str]| one_circuit(kind, 12.0, parts, lights);
    let timer = |through: &str, diode: bool| json!({ "ra_ohm": 1e4, "rb_ohm": 1e4, "c_f": 1e-5, "timer": "cmos", "through": through, "base_ohm": 1000, "diode": diode });
    let pair = json!({ "r1_ohm": 1e4, "r2_ohm": 1e4, "c1_f": 1e-5, "c2_f": 1e-5 });
    let hold = |bridge: bool, tap: u32| json!({ "bridge": bridge, "c_f": 1e-3, "charge_ohm": 22, "taps_ohm": [470, 470, 470], "tap": tap });
    let gauge = |diodes: u32| json!({ "rs_ohm": 220, "rb_ohm": 1000, "rc_ohm": 470, "diodes": diodes, "led_good": led, "led_low": led });
    vec![
        ("timer", build("timer_flasher", &timer("none", false), &["a"])),
        ("timer with two lights", build("timer_flasher", &timer("none", false), &["a", "b"])),
        ("timer with a transistor", build("timer_flasher", &timer("npn", true), &["a"])),
        ("timer with a MOSFET", build("timer_flasher", &timer("mosfet", true), &["a"])),
        ("two transistors", build("transistor_flasher", &pair, &["a", "b"])),
        ("two transistors, one light", build("transistor_flasher", &pair, &["a"])),
        ("one transistor", build("breakdown_flasher", &json!({ "r_ohm": 4700, "c_f": 1e-4 }), &["a"])),
        ("hold-up", build("hold_up", &hold(false, 3), &["a"])),
        ("hold-up with two lights", build("hold_up", &hold(false, 2), &["a", "b"])),
        ("hold-up with a bridge", build("hold_up", &hold(true, 1), &["a"])),
        ("gauge", build("battery_gauge", &gauge(0), &[])),
        ("gauge with diodes", build("battery_gauge", &gauge(3), &[])),
        ("switch", build("switch", &json!({ "base_ohm": 1000, "through": "npn" }), &["a"])),
    ]
}
