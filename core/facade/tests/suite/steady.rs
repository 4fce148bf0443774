//! Steady states at their edges: nothing lit, nothing asked, parts that barely run, supplies that meet.

use orthavis_core::document::{Build, Draw, Load, Module, Source, parse_value};
use orthavis_core::drain::discharge::{Event, discharge};
use orthavis_core::drain::drain;
use orthavis_core::endurance::Ends;
use orthavis_core::report::{Report, report};
use orthavis_core::tables::tables;
use orthavis_testing::{case, changed};
use proptest::prelude::*;
use serde_json::{Value, json};

fn solved(build: &Build) -> Report {
    report(build).expect("a solution")
}

#[test]
fn a_build_without_scenes_is_judged_all_the_same() {
    let bare = changed(
        &case("trike-arrays"),
        &json!([{ "op": "replace", "path": "/scenes", "value": [] }, { "op": "replace", "path": "/usage", "value": {} }, { "op": "replace", "path": "/converters/0/feed/fuse", "value": null }]),
    );
    let report = solved(&bare);
    assert!(report.points.is_empty() && report.endurance.is_empty());
    let missing = report.findings.iter().find(|f| f.code == "fuse.missing").expect("no scene is needed to see that");
    assert!(!missing.remedies.is_empty());
    assert!(drain(&bare).is_ok() && tables(&bare).is_ok() && orthavis_core::mend::everything(&bare, orthavis_core::mend::Until::Safe).is_ok());
}

/// Report, discharge and findings share one notion of darkness: at a level of a tenth pixels that get their voltage
/// are as bright as asked, and last until the reserve.
#[test]
fn one_share_for_endurance_discharge_and_findings() {
    for level in [0.05, 0.1, 0.5, 1.0] {
        let dimmed = changed(&case("bare-lipo-linear"), &json!([{ "op": "add", "path": "/scenes/0/lights/cabin/level", "value": level }]));
        let report = solved(&dimmed);
        assert!(!report.findings.iter().any(|f| f.code.starts_with("light.")), "{level}");
        let hours = report.endurance[0].hours.expect("drawn");
        assert_eq!(report.endurance[0].ends, Ends::Reserve, "{level}");
        let curve = discharge(&dimmed, "all").expect("solved").expect("a battery");
        let reserve = curve.marks.iter().find(|mark| mark.event == Event::Reserve).expect("reached").at_h;
        assert!((reserve - hours).abs() < 0.02 * hours, "{level}: {hours} h in the report, {reserve} h over time");
        assert!(!curve.marks.iter().any(|mark| mark.event == Event::Dark && mark.at_h < hours), "{level}");
    }
}

#[test]
fn two_blinking_lights_on_a_weak_supply_draw_no_less_than_nothing() {
    let lamp = |id: &str, watts: f64| {
        json!({ "id": id, "feeds": [{ "from": "source", "length_m": 0.5, "gauge": { "awg": 20 }, "fuse": { "style": "blade", "rating_a": 5.0 } }],
            "load": { "kind": "module", "draw": "constant_power", "voltage_v": 12.0, "power_w": watts, "min_v": 11.0, "max_v": 15.0 } })
    };
    // Whichever is taken away lifts the other over its lower limit, so each seems to count for more than there is.
    let document = json!({ "format": "orthavis.build/1", "name": "blink", "vehicle": { "kind": "bicycle", "mass_kg": 20.0 },
        "source": { "kind": "battery", "chemistry": "lead_agm", "series": 6, "capacity_ah": 2.0, "resistance_ohm": 0.9, "max_current_a": 10.0 },
        "lights": [lamp("left", 12.0), lamp("right", 9.0)], "standing": [{ "id": "alarm", "current_a": 0.01 }],
        "scenes": [{ "id": "both", "lights": { "left": { "duty": 0.05 }, "right": { "duty": 0.05 } } }] });
    let build = parse_value(&document).expect("sound");
    let network = &mut orthavis_core::network::Network::new(&build).expect("a network");
    let found = orthavis_core::endurance::endurance(&build, network, &[]);
    let hours = found[0].hours.expect("the alarm alone draws");
    let Source::Battery(battery) = &build.source else { panic!("a battery") };
    assert!(hours.is_finite() && hours <= battery.capacity_ah / 0.01, "{hours} h");
}

/// A lamp far below its rated voltage still draws where its label gives no lower end.
#[test]
fn a_module_at_a_twentieth_of_its_voltage_counts_as_on() {
    let mut build = case("rail-thin-wire");
    let Source::Rail(rail) = &mut build.source else { panic!("a rail") };
    rail.voltage_v = 0.5;
    build.lights.truncate(1);
    build.scenes[0].lights.retain(|id, _| id == "step");
    build.lights[0].load = Load::Module(Module { draw: Draw::ConstantCurrent, voltage_v: 12.0, power_w: 1.2, min_v: 0.0, max_v: 14.0, inrush_a: None });
    let point = &solved(&build).points[0];
    assert!((point.lights["step"].current_a - 0.1).abs() < 1e-6, "{:?}", point.lights["step"]);
}

/// A converter whose data give no lower end runs from a voltage far below the highest that it stands.
#[test]
fn a_converter_far_below_its_highest_input_runs() {
    let wide = changed(
        &case("bare-lipo-linear"),
        &json!([{ "op": "replace", "path": "/converters/0/min_in_v", "value": 0 }, { "op": "replace", "path": "/converters/0/max_in_v", "value": 1000 }]),
    );
    assert!(solved(&wide).points.iter().all(|point| point.converters["five"].on));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// No converter takes current back, however two on one strip are set; nor is any heat negative.
    #[test]
    fn no_converter_takes_current_back(first in 4.0f64..14.0, second in 4.0f64..14.0, kinds in (0usize..3, 0usize..3), length in 0.05f64..3.0) {
        let kind = ["buck", "linear", "buck_boost"];
        let build = changed(&case("two-supplies-one-strip"), &json!([
            { "op": "replace", "path": "/converters/0/set_v", "value": first }, { "op": "replace", "path": "/converters/1/set_v", "value": second },
            { "op": "replace", "path": "/converters/0/kind", "value": kind[kinds.0] }, { "op": "replace", "path": "/converters/1/kind", "value": kind[kinds.1] },
            { "op": "replace", "path": "/lights/0/feeds/1/length_m", "value": length }]));
        let report = solved(&build);
        for point in &report.points {
            for converter in point.converters.values() {
                prop_assert!(converter.out_a >= 0.0 && converter.loss_w >= -1e-9, "{converter:?}");
            }
            let drawn: f64 = point.lights.values().map(|light| light.current_a).sum();
            let given: f64 = point.converters.values().map(|converter| converter.out_a).sum();
            prop_assert!((drawn - given).abs() < 1e-6, "{given} A into {drawn} A");
        }
        // The one that is set clearly lower is idle, and that is said.
        if (first / second - 1.0).abs() > 0.2 {
            let lower = if first < second { "a" } else { "b" };
            prop_assert!(report.findings.iter().any(|f| f.code == "converter.back_fed" && f.subject == lower));
        }
    }
}

/// No figure that leaves the core is without a number.
#[test]
fn every_figure_that_leaves_is_a_number() {
    fn walk(path: &str, value: &Value, bad: &mut Vec<String>) {
        match value {
            // What a change sets to nothing is the document's own.
            Value::Object(map) => map.iter().filter(|(key, _)| *key != "changes").for_each(|(key, value)| walk(&format!("{path}/{key}"), value, bad)),
            Value::Array(items) => items.iter().enumerate().for_each(|(index, value)| walk(&format!("{path}/{index}"), value, bad)),
            Value::Null if ["value", "limit"].iter().any(|end| path.ends_with(end)) || ["_v", "_a", "_w", "_h"].iter().any(|end| path.ends_with(end)) => {
                bad.push(path.to_owned())
            }
            _ => {}
        }
    }
    let mut bad = Vec::new();
    for (name, build, _) in orthavis_testing::table() {
        walk(&name, &json!(solved(&build)), &mut bad);
        walk(&name, &json!(drain(&build).expect("solved")), &mut bad);
        for table in tables(&build).expect("solved") {
            assert!(!table.csv().contains("inf") && !table.csv().contains("NaN"), "{name} {}", table.name);
        }
    }
    assert!(bad.is_empty(), "{bad:?}");
}
