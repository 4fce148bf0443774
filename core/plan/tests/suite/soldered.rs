//! Circuits added and taken out again: what is added works at once, and nothing is lost on the way back.

use orthavis_judge::findings::{Severity, judged};
use orthavis_model::document::{Build, CircuitKind, parse};
use orthavis_plan::propose::{Wish, WishError, add};
use orthavis_plan::remove::{Removal, remove};

const KINDS: [CircuitKind; 6] = [
    CircuitKind::TimerFlasher,
    CircuitKind::TransistorFlasher,
    CircuitKind::BreakdownFlasher,
    CircuitKind::HoldUp,
    CircuitKind::BatteryGauge,
    CircuitKind::Switch,
];

fn bench() -> Build {
    let text = r#"{ "format": "orthavis.build/1", "name": "bench", "vehicle": { "kind": "other", "mass_kg": 2.0 },
        "source": { "kind": "battery", "chemistry": "li_ion", "series": 3, "capacity_ah": 2.5, "max_current_a": 5.0 },
        "lights": [
            { "id": "one", "place": "rear", "feeds": [{ "from": "source", "length_m": 0.4, "gauge": { "awg": 24 }, "fuse": { "style": "blade", "rating_a": 1.0 } }],
              "load": { "kind": "led_array", "series": 1, "parallel": 1, "resistor_ohm": 680, "resistor_w": 0.5, "led": { "vf_v": 2.0, "if_a": 0.02, "if_max_a": 0.03 } } }
        ],
        "scenes": [{ "id": "on", "lights": { "one": { "duty": 0.5 } } }] }"#;
    parse(text).expect("a build")
}

#[test]
fn every_kind_is_added_with_parts_that_work_and_taken_out_again() {
    let plain = bench();
    for kind in KINDS {
        let light = (kind != CircuitKind::BatteryGauge).then(|| "one".to_owned());
        let built = add(&plain, &Wish::Circuit { circuit: kind, light: light.clone() }).unwrap_or_else(|error| panic!("{kind:?}: {error}"));
        // Read as if it came from a file: every rule of the document holds.
        let read = parse(&built.to_value().to_string()).unwrap_or_else(|error| panic!("{kind:?}: {error}"));
        assert_eq!(read, built, "{kind:?}");
        let own = &built.circuits[0];
        assert_eq!(own.drives, light.iter().cloned().collect::<Vec<_>>(), "{kind:?}");
        let bad: Vec<String> = judged(&built)
            .expect("solved")
            .into_iter()
            .filter(|found| found.severity == Severity::Stop && (found.code.starts_with("circuit.") || found.code.starts_with("flash.")))
            .map(|found| format!("{} {}", found.code, found.message))
            .collect();
        assert!(bad.is_empty(), "{kind:?}: {bad:?}");
        if let Some(light) = light {
            assert_eq!(built.lights[0].feeds[0].from, own.id);
            assert_eq!(own.feed.length_m, 0.4, "{kind:?}: the wire that was there goes to the circuit");
            let twice = add(&built, &Wish::Circuit { circuit: kind, light: Some(light.clone()) });
            assert_eq!(twice.err(), Some(WishError::DrivenAlready(light)), "{kind:?}");
        }
        let gone = remove(&built, &Removal::Circuit(own.id.clone())).expect("gone");
        let feed = &gone.lights[0].feeds[0];
        assert!(gone.circuits.is_empty() && feed.from == "source", "{kind:?}");
        let back = plain.lights[0].feeds[0].length_m + if kind == CircuitKind::BatteryGauge { 0.0 } else { 0.1 };
        assert!((feed.length_m - back).abs() < 1e-9 && feed.fuse == plain.lights[0].feeds[0].fuse, "{kind:?}: {feed:?}");
    }
    assert!(matches!(add(&plain, &Wish::Circuit { circuit: CircuitKind::Switch, light: Some("none".into()) }), Err(WishError::UnknownLight(_))));
}

#[test]
fn a_strip_is_cut_again_for_a_lower_rail_with_light_that_is_there() {
    use orthavis_model::document::Load;
    use orthavis_plan::choose::{Pick, recut};
    let text = r#"{ "format": "orthavis.build/1", "name": "coach", "vehicle": { "kind": "other", "mass_kg": 1.0 },
        "source": { "kind": "rail", "voltage_v": 5.0, "max_current_a": 2.0 },
        "lights": [{ "id": "strip", "feeds": [{ "from": "source", "length_m": 0.2, "gauge": { "awg": 24 } }],
          "load": { "kind": "strip", "voltage_v": 12.0, "power_w_per_m": 4.8, "segment_m": 0.05, "leds_per_segment": 3, "led_vf_v": 3.0, "rail_ohm_per_m": 0.1, "length_m": 0.2 } }],
        "scenes": [{ "id": "on", "lights": { "strip": {} } }] }"#;
    let build = parse(text).expect("a build");
    let found = recut::for_light(&build, "strip").expect("ways");
    let Pick::Recut { recut: Some(best), soldering: Some(soldering) } = &found[0].pick else { panic!("{:?}", found[0].pick) };
    // On 5 V only single LEDs shine, all three of them side by side.
    assert_eq!((best.groups, best.used, best.series()), (3, 3, 1));
    assert!((best.resistor_ohm - 120.0).abs() < 15.0, "{}", best.resistor_ohm);
    assert!(
        soldering.steps.iter().filter(|step| step.starts_with("Cut")).count() == 3
            && soldering.steps.iter().filter(|step| step.starts_with("Solder")).count() == 3
    );
    for choice in &found {
        let Pick::Recut { recut: Some(own), .. } = &choice.pick else { continue };
        assert!(own.used.is_multiple_of(own.groups) && own.used <= 3);
        let led_a = choice.figure("led_a").expect("a figure");
        assert!(led_a <= 0.02 * 1.0001, "{}: {led_a}", choice.title);
    }
    // Taken over, it solves and nothing is too much for its LEDs.
    let changed = orthavis_model::document::patched(&build.to_value(), found[0].changes.as_ref().expect("a change")).expect("patched");
    let changed = orthavis_model::document::parse_value(&changed).expect("a build");
    assert!(matches!(&changed.lights[0].load, Load::Strip(strip) if strip.recut.as_ref() == Some(best)));
    assert!(judged(&changed).expect("solved").iter().all(|found| found.code != "recut.over"));
}

#[test]
fn cross_wired_leds_have_pins_of_their_own_each() {
    use orthavis_plan::choose::pins::{PinsRequest, cross_wired};
    use std::collections::BTreeSet;
    for pins in 2..=8 {
        let ask = PinsRequest { pins, logic_v: 3.3, vf_v: 2.0, pin_max_a: 0.02, ohm: 47.0, leds: None };
        let found = cross_wired(&ask).expect("a table");
        assert_eq!(found.most, pins * (pins - 1));
        let pairs: BTreeSet<(u32, u32)> = found.table.iter().map(|one| (one.high, one.low)).collect();
        assert_eq!(pairs.len(), found.table.len(), "two LEDs on the same pins");
        for one in &found.table {
            let all: BTreeSet<u32> = one.floating.iter().copied().chain([one.high, one.low]).collect();
            assert_eq!(all, (1..=pins).collect(), "every pin has something to do");
        }
        assert!((found.mean_a * f64::from(found.most) - found.peak_a).abs() < 1e-12);
        assert!(found.stays_dark && found.step_hz >= 100.0 * f64::from(found.most));
    }
    let glows = PinsRequest { pins: 3, logic_v: 5.0, vf_v: 1.8, pin_max_a: 0.02, ohm: 47.0, leds: Some(6) };
    let found = cross_wired(&glows).expect("a table");
    assert!(!found.stays_dark && found.cautions.iter().any(|words| words.contains("glow")) && found.cautions.iter().any(|words| words.contains("larger")));
}
