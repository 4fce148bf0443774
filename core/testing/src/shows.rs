//! Builds of pixels on a few chains, and effects that nobody chose.

use orthavis_model::document::tables::field;
use orthavis_model::document::{Build, PixelEffect, parse_value};
use proptest::prelude::*;
use serde_json::{Map, Value, json};

const LIGHT: &str = r#"{"id":"ID","place":"arms","mass_g":5.0,"feeds":[{"from":"source","length_m":0.3,"gauge":{"mm2":0.5},"return":"wire"}],
  "load":{"kind":"pixels","voltage_v":5.0,"channel_a":[0.012,0.012,0.012],"idle_a":0.0008,"pitch_m":0.0167,"rail_ohm_per_m":0.06,
  "regulation_v":[2.6,3.6,3.6],"off_v":[1.7,2.6,2.6],"count":COUNT}}"#;

/// Lights of pixels on a rail, `p0`, `p1` and so on; a controller with these outputs, and what a scene shows on each.
///
/// # Panics
/// When that is not a build.
pub fn build(counts: &[usize], outputs: Value, limit_a: Option<f64>, shown: Value) -> Build {
    let lights: Vec<Value> = counts
        .iter()
        .enumerate()
        .map(|(at, count)| serde_json::from_str(&LIGHT.replace("ID", &format!("p{at}")).replace("COUNT", &count.to_string())).expect("a light"))
        .collect();
    let controller = json!({"id": "brain", "feed": lights[0]["feeds"][0], "kind": "microcontroller", "logic_v": 5.0, "idle_a": 0.05,
        "limit_a": limit_a, "outputs": outputs});
    let document = json!({"format": "orthavis.build/1", "name": "show", "vehicle": {"kind": "drone", "mass_kg": 2.0},
        "source": {"kind": "rail", "voltage_v": 5.0, "resistance_ohm": 0.02, "max_current_a": 30.0},
        "lights": lights, "controllers": [controller], "scenes": [{"id": "s", "lights": shown}]});
    parse_value(&document).unwrap_or_else(|error| panic!("{error}\n{document}"))
}

/// Links of a chain through lights by their numbers, each along its path.
pub fn chain(lights: &[usize]) -> Value {
    json!(lights.iter().map(|at| json!({"light": format!("p{at}"), "mounted": "along", "wire_m": 0.1})).collect::<Vec<_>>())
}

/// Any effect.
pub fn effect() -> impl Strategy<Value = Value> {
    const KINDS: &[&str] = &["steady", "blink", "breathe", "chase", "to_and_fro", "rainbow", "gradient", "ember", "level", "mix"];
    let colour = prop::array::uniform3(0.0..=1.0);
    (prop::sample::select(KINDS), 1u32..40, prop::collection::vec(colour, 1..4), 0.5..6.0, prop::bool::ANY).prop_map(|(kind, tenths, colours, spread, back)| {
        let all = json!({"period_s": f64::from(tenths) / 10.0, "colours": colours, "spread": spread, "direction": if back { -1 } else { 1 }, "input": "speed"});
        let record = PixelEffect::CHOICE.record(kind).unwrap_or_default();
        let mut own: Map<String, Value> = all.as_object().cloned().unwrap_or_default();
        own.retain(|name, _| field(record, name).is_some());
        own.insert("kind".into(), kind.into());
        Value::Object(own)
    })
}
