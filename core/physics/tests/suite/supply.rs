//! What a light is fed with where a small circuit or a junction lies between it and a converter.

use orthavis_model::demo::BUILDS;
use orthavis_model::document::{Build, parse, parse_value};
use orthavis_model::topology::Topology;
use orthavis_physics::circuits::stand_in;
use orthavis_physics::offered::offered_v;
use orthavis_physics::points::points;
use serde_json::{Value, json};

fn feed(from: &str) -> Value {
    json!({ "from": from, "length_m": 0.5, "gauge": { "awg": 22 } })
}

/// 12 V, a 5 V module, a junction behind it, a switch of one transistor on that, and an LED on the switch.
fn behind_a_switch() -> Build {
    let led = json!({ "colour": "red", "vf_v": 2.0, "if_a": 0.02, "if_max_a": 0.03 });
    parse_value(&json!({
        "format": "orthavis.build/1", "name": "behind", "vehicle": { "kind": "other", "mass_kg": 10.0 },
        "source": { "kind": "rail", "voltage_v": 12.0, "max_current_a": 5.0 },
        "converters": [{ "id": "module", "feed": feed("source"), "kind": "buck", "set_v": 5.0, "min_in_v": 7.0, "max_in_v": 30.0,
            "max_out_a": 3.0, "dropout_v": 1.0, "efficiency": 0.9 }],
        "junctions": [{ "id": "block", "feed": feed("module") }],
        "circuits": [{ "id": "switch", "kind": "switch", "feed": feed("block"), "drives": ["tail"],
            "parts": { "through": "npn", "base_ohm": 1000.0 } }],
        "lights": [{ "id": "tail", "feeds": [feed("switch")],
            "load": { "kind": "led_array", "led": led, "series": 1, "parallel": 1, "resistor_ohm": 150.0, "resistor_w": 0.25 } }],
        "scenes": [{ "id": "on", "lights": { "tail": {} } }],
    }))
    .unwrap_or_else(|error| panic!("{error}"))
}

#[test]
fn a_circuit_behind_a_converter_offers_what_the_converter_sets_less_what_it_keeps() {
    let build = behind_a_switch();
    let of = |id: &str| offered_v(&build, id).expect("a supplier").into_iter().map(|(_, volts)| volts).collect::<Vec<_>>();
    for (id, volts) in
        [("source", 12.0), ("module", 5.0), ("block", 5.0), ("switch", 5.0 - stand_in(&build, &build.circuits[0]).dropout_v().expect("it drops"))]
    {
        assert!(of(id).iter().all(|offered| (offered - volts).abs() < 1e-9), "{id}: {:?}, expected {volts}", of(id));
    }
    // What ends a way offers nothing.
    assert!(offered_v(&build, "tail").is_none() && offered_v(&build, "nowhere").is_none());
}

#[test]
fn the_voltage_that_a_feed_starts_with_is_its_converters_less_what_is_lost_on_the_way() {
    let firefly = BUILDS.iter().map(|text| parse(text).expect("a sample build")).find(|build| build.name == "Firefly bicycle").expect("it is there");
    for build in [behind_a_switch(), firefly] {
        let topology = Topology::of(&build);
        for point in points(&build).expect("it is solved") {
            for feed in build.feeds() {
                // By hand: every name on the way, until a converter or the source.
                let (mut at, mut lost) = (feed.feed.from.clone(), 0.0);
                while let Some(passing) = build.feed(&at).filter(|_| !build.converters.iter().any(|one| one.id == at)) {
                    lost += point.feeds.get(&passing.id).map_or(0.0, |here| here.drop_v);
                    at = passing.feed.from.clone();
                }
                let set_v = point.converters.get(&at).map_or(point.source.terminal_v, |converter| converter.out_v);
                let volts = point.supply_v(&build, &topology, &feed.feed.from);
                assert!((volts - (set_v - lost)).abs() < 1e-12, "{} in {}: {volts}, expected {}", feed.id, build.name, set_v - lost);
            }
        }
    }
}

/// A switch takes what is behind it; of a strip with two feeds the one behind it goes, and the strip stays.
#[test]
fn open_switches_leave_what_has_another_way() {
    let mut build = orthavis_testing::case("van-strips");
    let light = build.lights.iter().position(|light| light.feeds.len() > 1).expect("a strip with two feeds");
    let (id, feeds) = (build.lights[light].id.clone(), build.lights[light].feeds.len());
    for feed in build.lights.iter_mut().flat_map(|light| &mut light.feeds) {
        feed.switch = None;
    }
    build.lights[light].feeds[1].switch = Some(orthavis_model::document::Switch::of(10.0));
    let rest = orthavis_physics::parked::switches_open(&build);
    let left = rest.lights.iter().find(|light| light.id == id).expect("it has another way");
    assert_eq!(left.feeds, [&build.lights[light].feeds[..1], &build.lights[light].feeds[2..]].concat());
    build.lights[light].feeds.iter_mut().for_each(|feed| feed.switch = Some(orthavis_model::document::Switch::of(10.0)));
    let rest = orthavis_physics::parked::switches_open(&build);
    assert!(rest.lights.iter().all(|light| light.id != id), "all {feeds} ways are open");
}
