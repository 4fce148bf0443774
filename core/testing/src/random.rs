//! Builds that nobody planned, sound as documents.

use orthavis_model::document::{Build, parse_value};
use proptest::prelude::*;
use proptest::strategy::ValueTree;
use proptest::test_runner::TestRunner;
use serde_json::{Value, json};

fn feed(from: &str, length_m: f64, awg: i32, at_m: f64) -> Value {
    json!({ "from": from, "at_m": at_m, "length_m": length_m, "gauge": { "awg": awg }, "fuse": { "style": "blade", "rating_a": 5.0 }, "contacts": 1 })
}

/// Any light, sized so that it works somewhere near 12 V.
fn load() -> impl Strategy<Value = (Value, f64)> {
    let array = (1u32..4, 1u32..6, 47.0..680.0).prop_map(|(series, parallel, ohm)| {
        let led = json!({ "colour": "white", "vf_v": 3.1, "if_a": 0.02, "if_max_a": 0.03 });
        (json!({ "kind": "led_array", "led": led, "series": series, "parallel": parallel, "resistor_ohm": ohm, "resistor_w": 0.5 }), 0.0)
    });
    let strip = (0.2..2.0).prop_map(|length: f64| {
        let strip = json!({ "kind": "strip", "voltage_v": 12.0, "power_w_per_m": 9.6, "segment_m": 0.05, "leds_per_segment": 3, "led_vf_v": 3.1, "rail_ohm_per_m": 0.08, "length_m": length });
        (strip, length)
    });
    let pixels = (1u32..60).prop_map(|count| {
        let pixels = json!({ "kind": "pixels", "voltage_v": 12.0, "channel_a": [0.012, 0.012, 0.012], "idle_a": 0.0008, "pitch_m": 0.03, "rail_ohm_per_m": 0.1,
            "regulation_v": [4.0, 4.5, 4.5], "off_v": [2.0, 2.6, 2.6], "count": count });
        (pixels, f64::from(count) * 0.03)
    });
    let draws = ["constant_power", "constant_current", "resistive", "filament"];
    let module = (proptest::sample::select(draws.to_vec()), 0.5..8.0).prop_map(|(draw, power): (&str, f64)| {
        (json!({ "kind": "module", "draw": draw, "voltage_v": 12.0, "power_w": power, "min_v": 6.0, "max_v": 40.0 }), 0.0)
    });
    prop_oneof![array, strip, pixels, module]
}

/// A battery, a junction, converters that hang on each other, and lights on any of them.
pub fn build() -> impl Strategy<Value = Build> {
    let lights = proptest::collection::vec((load(), 0usize..4, 0.1..3.0f64, 18i32..26, 0.05..=1.0f64, any::<bool>()), 1..6);
    let kinds = proptest::sample::select(vec!["buck", "buck_boost", "linear"]);
    (lights, kinds, 4u32..12, 2.0..50.0f64).prop_map(|(lights, kind, series, capacity)| {
        let converter = |id: &str, from: &str, kind: &str, set_v: f64| {
            json!({ "id": id, "feed": feed(from, 0.4, 18, 0.0), "kind": kind, "set_v": set_v, "min_in_v": 5.0, "max_in_v": 60.0, "max_out_a": 10.0, "dropout_v": 1.0,
                "efficiency": [{ "vin_v": 8.0, "efficiency": 0.8 }, { "vin_v": 40.0, "efficiency": 0.92 }], "idle_a": 0.004 })
        };
        let suppliers = ["source", "block", "main", "lift"];
        let mut scene = serde_json::Map::new();
        let lights: Vec<Value> = lights
            .into_iter()
            .enumerate()
            .map(|(index, ((load, length), from, run, awg, level, both))| {
                let id = format!("light-{index}");
                scene.insert(id.clone(), json!({ "level": level }));
                let mut feeds = vec![feed(suppliers[from], run, awg, 0.0)];
                if both && length > 0.0 {
                    feeds.push(feed(suppliers[from], run + length, awg, length));
                }
                json!({ "id": id, "feeds": feeds, "load": load })
            })
            .collect();
        let document = json!({
            "format": "orthavis.build/1", "name": "any", "vehicle": { "kind": "other", "mass_kg": 1.0 },
            "source": { "kind": "battery", "chemistry": "li_ion", "series": series, "capacity_ah": capacity, "max_current_a": 100.0 },
            "junctions": [{ "id": "block", "feed": feed("source", 0.5, 16, 0.0) }],
            "converters": [converter("main", "block", kind, 12.0), converter("lift", "main", "boost", 15.0)],
            "lights": lights, "standing": [{ "id": "alarm", "current_a": 0.02 }],
            "scenes": [{ "id": "on", "lights": scene }],
        });
        parse_value(&document).expect("a sound document")
    })
}

/// The first so many of them: the same every time.
pub fn builds(count: usize) -> Vec<Build> {
    let mut runner = TestRunner::deterministic();
    (0..count).map(|_| build().new_tree(&mut runner).expect("a build").current()).collect()
}
