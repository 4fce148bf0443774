//! LEDs behind a current driver: as many in a row as the lowest supply carries, and a step-up where one is too many.

use orthavis_judge::driven::Driven;
use orthavis_judge::findings::findings;
use orthavis_model::document::{Build, ConverterKind, Led, LedArray, Load, parse_value};
use orthavis_physics::points::points;
use proptest::prelude::*;
use serde_json::json;

fn array(vf_v: f64, if_a: f64, count: u32) -> LedArray {
    let led = Led { colour: "white".into(), vf_v, if_a, if_max_a: 1.5 * if_a, n: None, rs_ohm: None };
    LedArray::row(led, count)
}

/// One light of these LEDs straight on a supply of so many volts.
fn build(volts: f64, array: &LedArray) -> Build {
    let led = json!({ "colour": "white", "vf_v": array.led.vf_v, "if_a": array.led.if_a, "if_max_a": array.led.if_max_a });
    let feed = json!({ "from": "source", "length_m": 0.5, "gauge": { "awg": 18 } });
    let load = json!({ "kind": "led_array", "series": array.series, "parallel": array.parallel, "resistor_ohm": 0.0, "resistor_w": 0.25, "led": led });
    parse_value(&json!({
        "format": "orthavis.build/1", "name": "one lamp", "vehicle": { "kind": "other", "mass_kg": 1.0 },
        "source": { "kind": "rail", "voltage_v": volts, "resistance_ohm": 0.01, "max_current_a": 30.0 },
        "lights": [{ "id": "lamp", "feeds": [feed], "load": load }], "scenes": [{ "id": "on", "lights": { "lamp": {} } }]
    }))
    .unwrap_or_else(|error| panic!("{error}"))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]
    /// None is lost or added, rows are equal, and a row is lifted only where the lowest supply does not carry one LED.
    #[test]
    fn rows_are_what_the_supply_carries(vf_v in 1.8f64..36.0, if_a in 0.3f64..2.0, count in 1u32..20, low_v in 3.0f64..40.0, swing in 1.0f64..1.4) {
        let array = array(vf_v, if_a, count);
        let Some(driven) = Driven::of(&array, low_v, swing * low_v) else {
            // No small step-up reaches it, or it would stand above the lowest and below the highest supply.
            let wants = (1.05 * vf_v + 2.2).ceil();
            prop_assert!(low_v < 1.05 * vf_v + 1.2 && (wants <= swing * low_v || wants > 60.0), "{wants} V of {low_v} V");
            return Ok(());
        };
        prop_assert_eq!(driven.series * driven.parallel, count);
        match driven.lifted_to_v {
            Some(before_v) => {
                prop_assert_eq!(driven.series, 1);
                prop_assert!(before_v > swing * low_v && before_v > vf_v);
                // What a step-up adds in volts it takes in amps.
                prop_assert!(driven.in_a * low_v >= before_v * driven.set_a);
            }
            None => prop_assert!(f64::from(driven.series) * vf_v < low_v),
        }
    }

    /// Put before its light it shines, and nothing of its own is at fault.
    #[test]
    fn what_is_put_before_a_light_lights_it(vf_v in 2.8f64..34.0, count in 1u32..4, volts in 11.0f64..30.0) {
        let array = array(vf_v, 0.35, count);
        let mut build = build(volts, &array);
        let Some(driven) = Driven::of(&array, volts, volts) else { return Ok(()) };
        driven.put_before(&mut build, "lamp").expect("a light of LEDs");
        prop_assert_eq!(&parse_value(&build.to_value()).expect("sound"), &build);
        let kinds: Vec<ConverterKind> = build.converters.iter().map(|module| module.kind()).collect();
        prop_assert_eq!(kinds.contains(&ConverterKind::Boost), driven.lifted_to_v.is_some());
        let solved = points(&build).expect("it can be solved");
        prop_assert!(solved.iter().all(|point| point.lights["lamp"].output > 0.5), "{:?}", driven);
        let own = |subject: &str| build.converters.iter().any(|module| module.id == subject);
        let stops: Vec<String> = findings(&build, &solved, &[]).into_iter().filter(|f| own(&f.subject) && f.code.starts_with("converter.")).map(|f| f.title).collect();
        prop_assert!(stops.is_empty(), "{stops:?}");
    }
}

#[test]
fn what_is_no_light_of_leds_is_left_alone() {
    let array = array(3.0, 0.35, 3);
    let mut build = build(12.0, &array);
    let driven = Driven::of(&array, 12.0, 12.0).expect("three in a row");
    assert_eq!((driven.series, driven.parallel, driven.lifted_to_v), (3, 1, None));
    assert_eq!(driven.put_before(&mut build, "nowhere"), None);
    let before = build.clone();
    build.lights[0].load = Load::Module(orthavis_model::document::Module {
        draw: orthavis_model::document::Draw::Resistive,
        voltage_v: 12.0,
        power_w: 5.0,
        min_v: 0.0,
        max_v: 15.0,
        inrush_a: None,
    });
    let lamp = build.clone();
    assert_eq!(driven.put_before(&mut build, "lamp"), None);
    assert_eq!(build, lamp);
    assert_ne!(build, before);
}
